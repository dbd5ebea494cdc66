"""Gears, racks, ratios, belts and arc slides, against Willis and other exact relations of the trade."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats.results import results
from anakinema.joints.belt import belt_length, links
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from mechanisms import document, turn

PIN = {"type": "revolute"}


def moved(tree) -> Motion:
    return simulate(read_document(tree))


def column(motion: Motion, joint: str) -> np.ndarray:
    return motion.state.coordinates[:, motion.system.coordinates.index(joint)]


def wheel(x=0.0, y=0.0, **more):
    return {"points": {"O": [0, 0], **more}, "pose": [x, y, 0]}


def pair(kind: str, b_parts=None, b_joint=None, **keys):
    """Two wheels on the frame, or a wheel and what `b_joint` holds, tied by a coupling."""
    parts = {"frame": {"points": {"A": [0, 0], "B": [60, 0]}}, "one": wheel(), "two": b_parts or wheel(60)}
    joints = {
        "main": {**PIN, "a": "frame.A", "b": "one.O"},
        "out": b_joint or {**PIN, "a": "frame.B", "b": "two.O"},
        "tie": {"type": kind, "a": "main", "b": "out", **keys},
    }
    return document(parts, joints, drivers=turn(0, 720, 90))


@pytest.mark.parametrize(
    ("keys", "ratio"),
    [
        ({"kind": "gear", "teeth": [20, 40]}, -0.5),
        ({"kind": "gear", "teeth": [20, 50], "mesh": "internal"}, 0.4),
        ({"kind": "belt", "diameters": [30, 20]}, 1.5),
        ({"kind": "belt", "teeth": [18, 36], "run": "crossed"}, -0.5),
        ({"kind": "ratio", "ratio": -3}, -3.0),
    ],
)
def test_wheels_turn_by_their_ratio(keys, ratio):
    motion = moved(pair(**keys))
    assert motion.stop is None and motion.mobility.dof == 1
    assert np.degrees(column(motion, "out")) == pytest.approx(ratio * np.linspace(0, 720, 91), abs=1e-9)
    assert motion.state.rates[3, motion.system.coordinates.index("out")] == pytest.approx(ratio * 4 * math.pi)


def test_a_rack_runs_the_pitch_circumference_for_each_turn():
    slide = {"type": "prismatic", "a": "frame.B", "b": "two.O", "direction": 0}
    motion = moved(pair("rack", wheel(60), slide, radius=-12))
    assert column(motion, "out")[45] == pytest.approx(-2 * math.pi * 12)
    # The same as a ratio in document units: millimetres for each degree.
    motion = moved(pair("ratio", wheel(60), slide, ratio=-12 * math.pi / 180))
    assert column(motion, "out")[45] == pytest.approx(-2 * math.pi * 12)


@pytest.mark.parametrize(("held", "driven"), [("ring", "sun"), ("sun", "ring"), ("arm", "sun")])
def test_planet_trains_by_willis(held, driven):
    """R. Willis, Principles of Mechanism (1841), from memory: (ω_ring − ω_arm) / (ω_sun − ω_arm) = −z_sun / z_ring,
    whichever member is held."""
    sun, planet, ring = 24, 18, 60
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "sun": wheel(),
        "ring": wheel(),
        "arm": wheel(P=[42, 0]),
        "planet": wheel(42),
    }
    joints = {name: {**PIN, "a": "frame.O", "b": f"{name}.O"} for name in ("sun", "ring", "arm")}
    joints["pin"] = {**PIN, "a": "arm.P", "b": "planet.O"}
    joints["inner"] = {"type": "gear", "a": "sun", "b": "pin", "teeth": [sun, planet], "carrier": "arm"}
    joints["outer"] = {
        "type": "gear",
        "a": "pin",
        "b": "ring",
        "teeth": [planet, ring],
        "mesh": "internal",
        "carrier": "arm",
    }
    joints["brake"] = {"type": "fixed", "a": "frame.O", "b": f"{held}.O"}
    motion = moved(document(parts, joints, drivers=turn(0, 360, 36, joint=driven)))
    assert motion.mobility.dof == 1
    rate = {name: motion.state.v[5, motion.system.body(name), 2] for name in parts}
    willis = (rate["ring"] - rate["arm"]) / (rate["sun"] - rate["arm"])
    assert willis == pytest.approx(-sun / ring, rel=1e-9)
    assert rate[held] == pytest.approx(0, abs=1e-12)
    assert (rate["planet"] - rate["arm"]) / (rate["sun"] - rate["arm"]) == pytest.approx(-sun / planet, rel=1e-9)


def test_a_block_on_an_arc_keeps_its_face_to_the_track():
    parts = {"frame": {"points": {"C": [0, 0]}}, "block": {"points": {"P": [0, 0]}, "pose": [48, 1, 80]}}
    joints = {"track": {"type": "slide-arc", "a": "frame.C", "b": "block.P", "radius": 50}}
    motion = moved(document(parts, joints, drivers=turn(0, 500, 50, joint="track")))
    at = motion.state.q[:, motion.system.body("block")]
    assert np.hypot(at[:, 0], at[:, 1]) == pytest.approx(50 * np.ones(51))
    lean = math.radians(80) - math.atan2(1, 48)
    assert at[:, 2] - column(motion, "track") == pytest.approx(lean * np.ones(51), abs=1e-9)
    assert np.degrees(column(motion, "track")) == pytest.approx(10.0 * np.arange(51), abs=1e-8)
    assert motion.mobility.dof == 1


def test_belt_lengths():
    """Open and crossed belts, exact limits: equal pulleys 2C + πd; crossed equal pulleys by their tangents."""
    assert belt_length(300, 80, 80) == pytest.approx(600 + 80 * math.pi)
    run, lean = math.sqrt(300**2 - 80**2), math.asin(80 / 300)
    assert belt_length(300, 80, 80, crossed=True) == pytest.approx(2 * run + 2 * 80 * (math.pi / 2 + lean))
    with pytest.raises(ValueError, match="overlap"):
        belt_length(70, 80, 80)


@pytest.mark.parametrize(
    ("keys", "message"),
    [
        ({"kind": "gear"}, "joints.tie: 'teeth' is missing"),
        ({"kind": "gear", "teeth": [20, -40]}, "must both be greater than zero"),
        ({"kind": "gear", "teeth": [20, 40.5]}, "must be whole numbers"),
        ({"kind": "gear", "teeth": [20, 40], "mesh": "inner"}, "joints.tie.mesh: one of external, internal is wanted"),
        ({"kind": "gear", "teeth": [20, 40], "carrier": "arm"}, "joints.tie.carrier: there is no part 'arm'"),
        ({"kind": "rack", "radius": 3}, "joints.tie.b: a prismatic joint is wanted, 'out' is a revolute joint"),
        ({"kind": "ratio", "ratio": 0}, "'ratio' must not be zero"),
        ({"kind": "belt"}, "give either 'diameters' or 'teeth'"),
    ],
)
def test_faults_of_couplings(keys, message):
    with pytest.raises(DocumentError) as caught:
        read_document(pair(**keys))
    assert message in str(caught.value)


def test_a_coupling_can_not_be_driven_or_limited_by_itself():
    tree = pair("gear", teeth=[20, 40])
    tree["drivers"]["turn"]["joint"] = "tie"
    with pytest.raises(DocumentError, match="'tie' is a gear and has no coordinate"):
        read_document(tree)


def test_two_trains_that_contradict_each_other_lock():
    tree = pair("gear", teeth=[20, 40])
    tree["joints"]["other"] = {"type": "belt", "a": "main", "b": "out", "teeth": [20, 40]}
    with pytest.raises(DocumentError, match="joint 'main' is locked by the other joints"):
        moved(tree)
    tree["joints"]["other"]["suspended"] = True
    assert moved(tree).stop is None


def test_links_of_a_chain_and_the_distance_for_a_whole_number():
    """L / p = 2 C / p + (z₁ + z₂) / 2 + ((z₂ − z₁) / 2π)² p / C, as chain catalogues approximate it (memory)."""
    pitch, one, two, far = 12.7, 17, 38, 500.0
    found = links(far, pitch, (one, two))
    usual = 2 * far / pitch + (one + two) / 2 + ((two - one) / (2 * math.pi)) ** 2 * pitch / far
    assert found.count == pytest.approx(usual, abs=5e-3)
    assert found.whole == round(usual)
    assert links(found.distance, pitch, (one, two)).count == pytest.approx(found.whole, abs=1e-9)
    assert abs(found.distance - far) < pitch
    tree = {
        "anakinema": 1, "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "Q": [500, 0]}},
                                  "one": {"points": {"O": [0, 0]}},
                                  "two": {"pose": [500, 0, 0], "points": {"O": [0, 0]}}},
        "joints": {"a": {"type": "revolute", "a": "frame.O", "b": "one.O"},
                   "b": {"type": "revolute", "a": "frame.Q", "b": "two.O"},
                   "run": {"type": "belt", "a": "a", "b": "b", "teeth": [17, 38], "pitch": 12.7, "of": "chain"}},
    }  # fmt: skip
    read = read_document(tree)
    assert read.couplings["run"].ratio == pytest.approx(17 / 38)
    one_wide, _ = read.couplings["run"].kind.pulleys(read.couplings["run"].given)
    assert one_wide == pytest.approx(12.7 / math.sin(math.pi / 17))
    assert results(analyse(read))["belts"]["run"]["links"] == pytest.approx(found.count)
