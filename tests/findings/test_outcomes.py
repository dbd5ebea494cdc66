"""Only what passes passes; what can't be judged says why; every line of a transmission angle is the right one."""

import math

import numpy as np
import pytest

from anakinema.clearance import approach
from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.findings.checks import Outcome
from anakinema.formatting import format_quantity
from anakinema.kinematics.modes import modes
from anakinema.kinematics.simulation import simulate
from anakinema.measures import MEASURE_TYPES, TRACKED
from anakinema.measures.base import JOINT
from anakinema.measures.extremes import Ends
from mechanisms import document, four_bar, slider_crank, turn, watt_six_bar


def judged(tree):
    return analyse(read_document(tree))


def crank_rocker(**checks):
    return four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36), checks=checks)


CHECKS = {
    "coordinate": {"measure": "coordinate", "joint": "pivot", "at_most": 500},
    "travel": {"measure": "travel", "joint": "pivot", "at_least": 500},
    "transmission": {"measure": "transmission_angle", "joint": "elbow", "at_least": 1},
}


@pytest.mark.parametrize("joint", ["pivot", "elbow"])
def test_nothing_suspended_ever_passes(joint):
    tree = crank_rocker(**CHECKS)
    tree["joints"][joint]["suspended"] = True
    for verdict in judged(tree).verdicts.values():
        about = {verdict.check.joint} if verdict.check.measure != "transmission_angle" else {"elbow", "pivot"}
        if joint in about:
            assert verdict.outcome is Outcome.NOT_JUDGED and not verdict.passed and verdict.value is None
            assert verdict.reason


OF_JOINTS = [kind for kind in MEASURE_TYPES.values() if JOINT in kind.fields]


@pytest.mark.parametrize("kind", OF_JOINTS, ids=lambda kind: kind.name)
def test_no_measure_of_a_suspended_joint_is_taken(kind):
    """Whichever it is, as a check and as a track; the other joint of a ratio too."""
    joint = "elbow" if kind.name in ("transmission_angle", "pressure_angle") else "pivot"
    more = {"against": "main"} if kind.name == "out_of_ratio" else {}
    measured = {"measure": kind.name, "joint": joint, **more}
    tree = crank_rocker(one={**measured, "at_least": 0, "at_most": 9})
    if kind.name in TRACKED:
        tree["tracks"] = {"one": measured}
    if more:
        tree["checks"]["other"] = {**measured, "joint": "main", "against": joint, "at_most": 1}
    tree["joints"][joint]["suspended"] = True
    found = judged(tree)
    for verdict in found.verdicts.values():
        assert verdict.outcome is Outcome.NOT_JUDGED and "suspended" in verdict.reason
    assert not any(found.tracks.values())


def test_what_must_hold_to_the_end_is_unproven_where_the_motion_stops():
    tree = four_bar(
        70, 40, 60, 80, drivers=turn(40, 180, 140),
        checks={
            "low": {"measure": "coordinate", "joint": "main", "at_least": 0},
            "high": {"measure": "coordinate", "joint": "main", "at_most": 41},
            "far": {"measure": "travel", "joint": "main", "at_least": 5},
            "near": {"measure": "travel", "joint": "main", "at_most": 175},
        },
    )  # fmt: skip
    found = judged(tree)
    outcomes = {name: verdict.outcome for name, verdict in found.verdicts.items()}
    assert found.motion.stop is not None
    assert outcomes == {
        "low": Outcome.UNPROVEN, "high": Outcome.FAIL, "far": Outcome.PASS, "near": Outcome.UNPROVEN
    }  # fmt: skip
    assert {verdict.check.id for verdict in found.open} == {"low", "high", "near"}
    assert found.tally() == "1 pass, 1 fail, 2 unproven"


def test_a_clearance_that_could_not_be_settled_does_not_pass(monkeypatch):
    """With few looks allowed, bounds are all that is known."""
    monkeypatch.setattr(approach, "LOOKS", 1)
    monkeypatch.setattr(approach, "AT_ONCE", 1)
    tree = crank_rocker(gap={"measure": "clearance", "parts": ["crank", "rocker"], "at_least": 1})
    tree["parts"]["crank"]["shapes"] = [{"kind": "bar", "through": ["O", "A"], "width": 8}]
    tree["parts"]["rocker"]["shapes"] = [{"kind": "bar", "through": ["D", "B"], "width": 8}]
    found = judged(tree)
    least, verdict = found.approaches[0], found.verdicts["gap"]
    assert not least.proven and least.low < least.distance
    assert verdict.outcome is Outcome.UNPROVEN and "certainly not below" in verdict.reason


def guided(joint: dict) -> dict:
    """A crank pushes, through a rod, a block that something holds on the frame."""
    tree = slider_crank(30, 100, 0, drivers=turn(60, 80, 8))
    tree["checks"] = {"push": {"measure": "transmission_angle", "joint": "small-end", "at_least": 1}}
    tree["joints"]["ram"] = joint
    return tree


def test_a_block_on_an_arc_yields_nothing_along_its_radius():
    """The angle between the rod and the radius through the pin, by elementary geometry at every step."""
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 80, 40))
    tree["checks"] = {"push": {"measure": "transmission_angle", "joint": "elbow", "at_least": 1}}
    rocker = judged(tree).verdicts["push"]
    tree["parts"]["block"] = {**tree["parts"].pop("rocker")}
    block = tree["parts"]["block"]
    x, y, angle = block["pose"]
    end = complex(x, y) + 80 * np.exp(1j * math.radians(angle))
    block |= {"points": {"B": [0, 0]}, "pose": [end.real, end.imag, angle - 90]}
    del tree["joints"]["pivot"]
    tree["joints"]["elbow"] |= {"b": "block.B"}
    tree["joints"]["track"] = {"type": "slide-arc", "a": "frame.D", "b": "block.B", "radius": 80}
    on_arc = judged(tree).verdicts["push"]
    assert on_arc.outcome is Outcome.PASS
    assert on_arc.value == pytest.approx(rocker.value, abs=1e-7)  # a block on a track is a rocker without an arm


@pytest.mark.parametrize(
    "joint",
    [
        {"type": "pin-slot", "a": "frame.way", "b": "slider.B", "direction": 0},
        {"type": "distance", "a": "frame.O", "b": "slider.B", "length": 110},
    ],
)
def test_an_output_without_one_direction_is_refused(joint):
    verdict = judged(guided(joint)).verdicts["push"]
    assert verdict.outcome is Outcome.NOT_JUDGED and "gives it no one direction" in verdict.reason


def test_a_coupler_without_pins_has_no_line_of_force():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 60, 4))
    tree["joints"]["crankpin"] = {"type": "pin-slot", "a": "coupler.A", "b": "crank.A", "direction": 0}
    tree["checks"] = {"push": {"measure": "transmission_angle", "joint": "elbow", "at_least": 1}}
    verdict = judged(tree).verdicts["push"]
    assert verdict.outcome is Outcome.NOT_JUDGED and "no line through pins" in verdict.reason


def test_all_ways_are_found_and_limits_are_told():
    """Two dyads on a crank: 2 × 2 ways; those outside limits stay in the list and say so."""
    tree = watt_six_bar(drivers=turn(40, 80, 4))
    motion = simulate(read_document(tree))
    found = modes(motion)
    assert len(found.ways) == 4 and found.doubt == ""
    base = [math.degrees(mode.q[motion.system.body("flap"), 2]) for mode in found.ways]
    tree["joints"]["f"]["limits"] = {"min": base[0] - 1, "max": base[0] + 1}
    limited = modes(simulate(read_document(tree)))
    assert len(limited.ways) == 4 and sum("f" in mode.outside for mode in limited.ways) >= 2
    assert limited.ways[0].outside == ()


def test_ways_that_algebra_can_not_list_are_doubted():
    """A platform on three rods has no dyad: every way found closes; they are even in number, or doubted."""
    parts = {
        "frame": {"points": {"A": [0, 0], "B": [100, 0], "C": [50, 90]}},
        "plate": {"points": {"P": [0, 0], "Q": [40, 0], "R": [20, 30]}, "pose": [30, 30, 0]},
    }
    joints = {
        "one": {"type": "distance", "a": "frame.A", "b": "plate.P", "length": 45},
        "two": {"type": "distance", "a": "frame.B", "b": "plate.Q", "length": 45},
        "three": {"type": "distance", "a": "frame.C", "b": "plate.R", "length": 35},
    }
    motion = simulate(read_document(document(parts, joints)))
    found = modes(motion)
    size = np.array([motion.system.scale, motion.system.scale, 1.0])
    assert found.ways
    for mode in found.ways:
        residual = motion.system.constraints.residual(np.ascontiguousarray(mode.q / size), np.zeros(1))
        assert np.abs(residual).max() < 1e-9
    assert found.doubt or len(found.ways) % 2 == 0  # a platform on three rods has an even number of ways, at most six


@pytest.mark.parametrize(
    ("value", "message"),
    [("60 rpm", "360 °/s"), ("2 m/s", "2000 mm/s"), ("3 mm/s^2", "3 mm/s²"), ("3 s", "3 s"), ("2 deg/s^2", "2 °/s²")],
)
def test_quantities_say_their_unit(value, message):
    read = read_document({"anakinema": 1, "parts": {"f": {"fixed": True}}, "parameters": {"p": value}})
    assert format_quantity(read.parameters["p"].quantity, read.units) == message


@pytest.mark.parametrize("tail", [False, True])
@pytest.mark.parametrize(("start", "stop"), [(40, 40), (41, 41), (0, 5e-324), (-1e-160, 0)])
def test_a_driver_that_goes_nowhere_is_judged_where_it_stands(tail, start, stop):
    """From a value to the same at a rate, or so near to it that rounding is more, takes no time; with a part left
    undriven, too."""
    checks = {**CHECKS, "pace": {"measure": "velocity", "joint": "pivot", "at_most": 0}}
    tree = crank_rocker(**checks)
    tree["drivers"]["turn"] |= {"from": start, "to": stop, "rate": "60 rpm", "law": "4567"}
    if tail:
        tree["parts"]["tail"] = {"points": {"P": [0, 0]}, "pose": tree["parts"]["coupler"]["pose"]}
        tree["joints"]["tail"] = {"type": "revolute", "a": "coupler.A", "b": "tail.P"}
    found = judged(tree)
    assert found.motion.planned == 0.0 and found.motion.stop is None
    for values in (found.motion.state.coordinates, found.motion.state.rates, found.motion.extremes.high):
        assert np.isfinite(values).all()
    outcomes = {name: verdict.outcome for name, verdict in found.verdicts.items()}
    assert outcomes == {
        "coordinate": Outcome.PASS, "travel": Outcome.FAIL, "transmission": Outcome.PASS, "pace": Outcome.PASS,
    }  # fmt: skip


def test_what_is_no_number_is_not_judged(monkeypatch):
    monkeypatch.setattr("anakinema.findings.checks.ends_of", lambda *_: Ends(math.nan, 0.0, 1.0, 0.0))
    tree = crank_rocker(one={"measure": "velocity", "joint": "pivot", "at_least": 0, "at_most": 2})
    assert judged(tree).verdicts["one"].outcome is Outcome.NOT_JUDGED
