"""Every measure's ends against a far denser, shifted sampling, on random mechanisms; and jolts, which are infinite."""

import json
import math
from typing import Any

import numpy as np
import pytest
from scipy.optimize import brentq

from anakinema.document import read_document
from anakinema.findings import Outcome, analyse
from anakinema.findings.behaviour import dwells
from anakinema.findings.measuring import ends_of, values_of
from anakinema.formats.results import check_table, results, results_json
from anakinema.measures import MEASURE_TYPES, TRACKED

BAR = {"kind": "bar", "through": ["A", "B"], "width": 4}


def mechanism(seed: int, steps: int = 9, **driver: Any) -> dict[str, Any]:
    """A random crank that drives a rocker and, from its coupler, a slide; a pin of it runs in a slot."""
    chance = np.random.default_rng(seed)
    ground, crank, coupler, rocker = 100.0, chance.uniform(15, 30), chance.uniform(85, 110), chance.uniform(60, 85)
    start = chance.uniform(0, 360)
    driver = {"to": start + chance.uniform(60, 500), "duration": "1 s", "steps": steps} | driver
    revolute = {"type": "revolute"}
    return {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "D": [ground, 0], "W": [0, 160]}},
            "crank": {"points": {"A": [0, 0], "B": [crank, 0]}, "pose": [0, 0, start], "shapes": [BAR],
                      "item": {"material": "steel"}},
            "coupler": {"points": {"A": [0, 0], "B": [coupler, 0], "E": [coupler / 2, chance.uniform(20, 60)]},
                        "pose": [crank, 0, 40], "shapes": [BAR], "depth": [2, 3], "item": {"density": 700}},
            "rocker": {"points": {"A": [0, 0], "B": [rocker, 0]}, "pose": [ground, 0, 110], "shapes": [BAR],
                       "item": {"material": "brass"}},
            "rod": {"points": {"A": [0, 0], "B": [200, 0]}, "pose": [coupler / 2, 50, 60]},
            "ram": {"points": {"A": [0, 0]}, "pose": [200, 160, 0]},
            "yoke": {"points": {"A": [0, 0]}, "pose": [crank, -200, 0]},
            "foot": {"points": {"A": [0, 0]}, "pose": [-45, 0, 0]},
            "shoe": {"points": {"A": [0, 0]}, "pose": [0, -50, 0]},
        },
        "programs": {"rise": {"segments": [{"over": "100 deg", "to": -9, "law": "parabolic"}, {"over": "60 deg"},
                                           {"over": "120 deg", "to": 0, "law": "modified-sine"}]}},
        "joints": {
            "main": {**revolute, "a": "frame.O", "b": "crank.A"}, "one": {**revolute, "a": "crank.B", "b": "coupler.A"},
            "two": {**revolute, "a": "coupler.B", "b": "rocker.B"},
            "out": {**revolute, "a": "frame.D", "b": "rocker.A"},
            "eye": {**revolute, "a": "coupler.E", "b": "rod.A"}, "end": {**revolute, "a": "rod.B", "b": "ram.A"},
            "ram": {"type": "prismatic", "a": "frame.W", "b": "ram.A", "direction": 0,
                    "limits": {"min": -900, "max": 900}},
            "way": {"type": "prismatic", "a": "frame.O", "b": "yoke.A", "direction": 0, "angle": 0},
            "slot": {"type": "pin-slot", "a": "yoke.A", "b": "crank.B", "direction": 75},
            "lift": {"type": "prismatic", "a": "frame.O", "b": "foot.A", "direction": 0},
            "press": {"type": "prismatic", "a": "frame.O", "b": "shoe.A", "direction": 90},
            "ride": {"type": "cam", "a": "main", "b": "lift", "program": "rise",
                     "follower": {"kind": "arc", "at": "foot.A", "radius": 12}},
            "slip": {"type": "cam", "a": "main", "b": "press", "program": "rise",
                     "follower": {"kind": "flat", "at": "shoe.A", "direction": 0}},
            "meet": {"type": "contact", "a": "yoke", "b": "ram", "suspended": True},
        },
        "traces": {"path": {"point": "coupler.E"}},
        "measures": {"over": {"measure": "place", "point": "coupler.E"},
                     "stroke": {"measure": "travel", "joint": "ram"}},
        "drivers": {"turn": {"joint": "main", "from": start, **driver}},
    }  # fmt: skip


SUBJECTS: dict[str, dict[str, Any]] = {
    **{name: {"joint": "ram"} for name in ("travel", "coordinate", "velocity", "acceleration", "jerk", "end_gap",
                                           "dwell", "reversals", "time_ratio", "mechanical_advantage")},
    "out_of_ratio": {"joint": "ram", "against": "out"}, "transmission_angle": {"joint": "two"},
    "pressure_angle": {"joint": "slot"}, "clearance": {"parts": ["crank", "rocker"]},
    "distance": {"a": "crank.B", "b": ["rocker.A", "rocker.B"]}, "angle": {"a": "crank", "b": ["rocker.A", "rocker.B"]},
    "place": {"point": "coupler.E", "axis": "y"}, "speed": {"point": "coupler.E", "on": "crank"},
    "point_acceleration": {"point": "coupler.E"}, "point_jerk": {"point": "coupler.E"},
    "jerk_along": {"point": "coupler.E", "axis": "x"}, "expression": {"expression": "abs(over - 9 mm) / stroke"},
    "straightness": {"trace": "path"}, "path_length": {"trace": "path"},
    "velocity_along": {"point": "coupler.E", "axis": "y"}, "part_rate": {"part": "coupler"},
    "mass_center": {"axis": "y"},
    "swept_inside": {"part": "crank", "outline": "rocker"},
    "swept_clear": {"part": "crank", "of": "rocker"},
    "acceleration_along": {"point": "coupler.E", "axis": "x", "on": "crank"},
    **{name: {"contact": "meet"} for name in ("contact_lost", "in_contact", "lands_at")},
    **{name: {"cam": "ride"} for name in ("cam_pressure_angle", "cam_sliding", "cam_curvature", "cam_undercut")},
    "cam_face": {"cam": "slip"}, "leaves_cam_at": {"cam": "ride", "preload": 20, "spring": 0.5, "mass": 1},
    "cam_timing": {"cam": "ride", "segment": 1, "next": "slip", "next_segment": 3},
}  # fmt: skip


def test_every_measure_has_a_subject_here():
    """So that the next one can't come without."""
    assert SUBJECTS.keys() == MEASURE_TYPES.keys() - {"measured"}


def measured(tree: dict[str, Any], kind: str) -> Any:
    tree["checks"] = {"one": {"measure": kind, **SUBJECTS[kind], "at_least": 0}}
    found = analyse(read_document(tree))
    return found.motion, found.document.checks["one"].measured


@pytest.mark.parametrize("kind", sorted(set(TRACKED) - {"clearance", "measured"}))
@pytest.mark.parametrize("seed", range(6))
def test_ends_are_those_of_a_dense_shifted_sampling(kind: str, seed: int):
    motion, measure = measured(mechanism(seed, law=["uniform", "cycloidal", "345"][seed % 3], back=seed % 2 > 0), kind)
    if motion.path.t1 == 0.0:
        pytest.skip("starts at a dead point")
    ends = ends_of(measure, motion)
    t = (np.arange(8000) + 0.2718) / 8000 * motion.path.t1
    values = values_of(measure, motion, t[t < motion.path.last_regular])
    size = float(np.abs(values[np.isfinite(values)]).max())
    for value, extreme, way in ((ends.low, np.nanmin(values), 1), (ends.high, np.nanmax(values), -1)):
        if math.isinf(value) or (kind == "mechanical_advantage" and size > 1e4):
            assert way * value <= way * extreme
            continue
        assert way * value <= way * extreme + 1e-6 * size + 1e-9  # nothing lies outside
        between = float(np.abs(np.diff(values)).max())  # also to the first and the last moment
        assert abs(value - extreme) <= 1e-6 * size + between + 1e-9 + ends.missed  # nor is it made up


@pytest.mark.parametrize("kind", sorted(SUBJECTS.keys() - {"clearance", "lands_at"}))  # it never touches here
def test_ends_do_not_depend_on_the_steps(kind: str):
    found = []
    for steps in (1, 997):
        tree = mechanism(3, steps)
        tree["drivers"]["turn"]["to"] = tree["drivers"]["turn"]["from"] + 360
        motion, measure = measured(tree, kind)
        found.append(ends_of(measure, motion))
    one, two = found
    assert (one.low, one.high) == (two.low, two.high)


@pytest.mark.parametrize(("r", "rod", "low", "high"), [(10, 30, 20, 160), (12, 50, 5, 150), (20, 45, 30, 170)])
def test_the_advantage_of_a_slider_crank_is_that_of_its_closed_form(r, rod, low, high):
    """dx/dθ = −r sin θ (1 + r cos θ / √(l² − r² sin² θ)) (closed geometry of the slider-crank)."""
    revolute = {"type": "revolute"}
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "crank": {"points": {"O": [0, 0], "P": [r, 0]}},
                  "rod": {"points": {"P": [0, 0], "Q": [rod, 0]}, "pose": [r, 0, -10]},
                  "ram": {"points": {"Q": [0, 0]}, "pose": [r + rod, 0, 0]}},
        "joints": {"main": {**revolute, "a": "frame.O", "b": "crank.O"},
                   "big": {**revolute, "a": "crank.P", "b": "rod.P"},
                   "small": {**revolute, "a": "rod.Q", "b": "ram.Q"},
                   "ram": {"type": "prismatic", "a": "frame.O", "b": "ram.Q", "direction": 0}},
        "drivers": {"turn": {"joint": "main", "from": low, "to": high, "steps": 7, "law": "cycloidal"}},
        "checks": {"least": {"measure": "mechanical_advantage", "joint": "ram", "at_least": 0},
                   "most": {"measure": "mechanical_advantage", "joint": "ram", "at_most": 9},
                   "here": {"measure": "mechanical_advantage", "joint": "ram", "at_most": 9, "at": low}},
    }  # fmt: skip

    def gain(theta: np.ndarray) -> np.ndarray:
        root = np.sqrt(rod**2 - (r * np.sin(theta)) ** 2)
        return 1 / np.abs(r * np.sin(theta) * (1 + r * np.cos(theta) / root))

    dense = gain(np.radians(np.linspace(low, high, 400_001)))
    found = analyse(read_document(tree))
    assert found.verdicts["least"].value == pytest.approx(dense.min(), rel=1e-9)
    assert found.verdicts["most"].value == pytest.approx(dense.max(), rel=1e-6)
    assert found.verdicts["here"].value == pytest.approx(float(gain(np.radians(low))), rel=1e-6)
    worst = found.verdicts["least"].driver
    assert worst is not None and gain(np.array(worst)) == pytest.approx(dense.min(), rel=1e-9)
    assert "per mm" in check_table(found)


def crank(checks: dict[str, Any], *, law: str = "uniform", to: float = 90, **driver: Any) -> Any:
    return analyse(read_document({
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "arm": {"points": {"O": [0, 0], "P": [50, 0]}}},
        "joints": {"lift": {"type": "revolute", "a": "frame.O", "b": "arm.O"}},
        "drivers": {"lift": {"joint": "lift", "from": 0, "to": to, "duration": 0.1, "law": law, **driver}},
        "checks": checks,
    }))  # fmt: skip


PULL = {"soft": {"measure": "acceleration", "joint": "lift", "at_least": -10, "at_most": 10},
        "tip": {"measure": "point_acceleration", "point": "arm.P", "at_most": 10}}  # fmt: skip


def test_a_jolt_is_an_infinite_acceleration_and_says_where():
    found = crank(PULL)
    for name in PULL:
        verdict = found.verdicts[name]
        assert verdict.outcome is Outcome.FAIL and abs(verdict.value or 0) == math.inf and verdict.margin == -math.inf
        assert verdict.reason in [f"infinite: driver 'lift' {does} with a jolt" for does in ("starts", "ends")]
        told = json.loads(results_json(found))["checks"][name]
        assert told["value"] is None and told["infinite"] is True and told["pass"] is False
        assert told["at"] in (0.0, 90.0)
    assert "infinite" in check_table(found)
    assert [(jolt.t, jolt.place) for jolt in found.motion.jolts] == [(0.0, "start"), (pytest.approx(0.1), "end")]


@pytest.mark.parametrize(("driver", "jolts"), [
    ({"law": "345"}, []), ({"law": "cycloidal"}, []), ({"running": True}, []), ({"to": 360}, []), ({"to": -720}, []),
    ({"to": 361}, ["start", "end"]), ({"back": True, "running": True}, ["between"]), ({"at": 1}, ["start", "end"]),
    ({"law": "345", "back": True}, []), ({"law": "345", "times": 3}, []), ({"law": "harmonic"}, []),
])  # fmt: skip
def test_only_what_no_machine_can_do_is_a_jolt(driver: dict[str, Any], jolts: list[str]):
    found = crank(PULL, **driver)
    assert [jolt.place for jolt in found.motion.jolts] == jolts
    assert math.isinf(found.verdicts["soft"].value or 0.0) is bool(jolts)


@pytest.mark.parametrize(
    "expression", ["abs(lead - 40)", "max(lead, 30)", "min(lead, 2*lead - 25)", "lead + abs(sin(3*lead))"]
)
def test_a_kink_of_what_is_followed_is_a_jolt_and_a_jump_is_refused(expression: str):
    parts = {"frame": {"fixed": True, "points": {"O": [0, 0], "D": [90, 0]}}, "arm": {"points": {"O": [0, 0]}},
             "other": {"points": {"O": [0, 0]}, "pose": [90, 0, 0]}}  # fmt: skip
    tree = {
        "anakinema": 1, "parts": parts,
        "joints": {"one": {"type": "revolute", "a": "frame.O", "b": "arm.O"},
                   "two": {"type": "revolute", "a": "frame.D", "b": "other.O"}},
        "drivers": {"lead": {"joint": "one", "from": 0, "to": 97, "duration": 1, "law": "345"},
                    "led": {"joint": "two", "follows": expression}},
        "checks": {"pull": {"measure": "acceleration", "joint": "two", "at_least": -1e9, "at_most": 1e9}},
    }  # fmt: skip
    found = analyse(read_document(tree))
    assert any(0 < jolt.t < 1 and jolt.drivers == ("led",) for jolt in found.motion.jolts)
    assert found.verdicts["pull"].outcome is Outcome.FAIL
    t = np.linspace(0.0, 1.0, 997)
    lead, led = found.motion.coordinates(t).T
    degrees = np.degrees(lead)
    truly = {"abs(lead - 40)": np.abs(degrees - 40), "max(lead, 30)": np.maximum(degrees, 30),
             "min(lead, 2*lead - 25)": np.minimum(degrees, 2 * degrees - 25)}.get(
                 expression, degrees + np.abs(np.sin(3 * lead)))  # fmt: skip
    np.testing.assert_allclose(np.degrees(led), truly, atol=1e-7)


def test_a_dwell_is_as_long_as_its_law_rests():
    """A program that rests exactly, whatever the steps; and the closed form of a sine's top: cos θ ≥ 1 − w."""
    program = {"segments": [{"over": "0.7 s", "to": "50 deg", "law": "345"}, {"over": "1.5 s"},
                            {"over": "0.8 s", "to": 0, "law": "cycloidal"}]}  # fmt: skip
    rest = {"rest": {"measure": "dwell", "joint": "lift", "within": 1e-9, "at_most": 1.499}}
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "arm": {"points": {"O": [0, 0], "P": [50, 0]}}},
        "joints": {"lift": {"type": "revolute", "a": "frame.O", "b": "arm.O"}},
        "programs": {"work": program}, "drivers": {"lift": {"joint": "lift", "from": 0, "program": "work", "steps": 3}},
        "checks": rest,
    }  # fmt: skip
    verdict = analyse(read_document(tree)).verdicts["rest"]
    assert verdict.outcome is Outcome.FAIL and verdict.value == pytest.approx(1.5, abs=2e-3)
    yoke = mechanism(1)
    yoke["drivers"]["turn"] |= {"from": 0, "to": 360, "duration": "1 s"}
    radius = yoke["parts"]["crank"]["points"]["B"][0]
    yoke["joints"]["slot"]["direction"] = 90
    yoke["checks"] = {"top": {"measure": "dwell", "joint": "way", "within": f"{radius * 0.01} mm", "at_most": 9}}
    wide = math.acos(1 - 0.01) / math.pi  # of θ from −acos(0.99) to acos(0.99), as a share of a turn
    value = analyse(read_document(yoke)).verdicts["top"].value
    assert value == pytest.approx(wide, abs=1e-9)


@pytest.mark.parametrize(("pause", "within"), [(0.9, 0.3), (0.99, 0.02), (0.5, 1.0), (1.0, 0.001)])
def test_a_dwell_that_is_passed_through_lies_about_its_slowest_moment(pause: float, within: float):
    """A follower at θ − p sin θ is slowest at θ = 0, and takes 2 t to pass a band of b with 2 (t − p sin t) = b; so it
    is in the listed behaviour as well as in the measure."""
    band = within  # rad
    half = brentq(lambda t: 2 * (t - pause * math.sin(t)) - band, 0.0, math.pi)
    frame = {"fixed": True, "points": {"O": [0, 0], "D": [9, 0]}}
    arms = {name: {"points": {"O": [0, 0]}, "pose": [x, 0, 0]} for name, x in (("one", 0), ("two", 9))}
    tree = {
        "anakinema": 1, "units": {"length": "mm", "angle": "rad"}, "parts": {"frame": frame, **arms},
        "joints": {"lead": {"type": "revolute", "a": "frame.O", "b": "one.O"},
                   "led": {"type": "revolute", "a": "frame.D", "b": "two.O"}},
        "drivers": {"lead": {"joint": "lead", "from": -2.9, "to": 3.1, "duration": 6, "steps": 7},
                    "led": {"joint": "led", "follows": f"lead - {pause}*sin(lead)*1 rad"}},
        "checks": {"slow": {"measure": "dwell", "joint": "led", "within": band, "at_most": 9}},
    }  # fmt: skip
    found = analyse(read_document(tree))
    assert found.verdicts["slow"].value == pytest.approx(2 * half, abs=1e-8)
    travel = 6 - pause * (math.sin(3.1) + math.sin(2.9))
    (listed,) = dwells(found.motion, "led", band / travel, 0.95 * half / 3)
    assert (listed.start, listed.stop) == pytest.approx((2.9 - half, 2.9 + half), abs=1e-7)


@pytest.mark.parametrize(("r", "rod", "offset"), [(20, 60, 8), (14, 50, 0), (30, 95, -21), (10, 40, 12)])
def test_the_transmission_angle_of_a_slider_crank_folds_at_a_right_angle(r: float, rod: float, offset: float):
    """The rod leans by asin((r sin θ − e) / l) from the slide: least cos⁻¹((r + |e|) / l); 90° where it lies along the
    slide, a kink, or as near as it comes there (closed geometry of the slider-crank)."""
    revolute = {"type": "revolute"}
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "W": [0, offset]}},
                  "crank": {"points": {"O": [0, 0], "P": [r, 0]}},
                  "rod": {"points": {"P": [0, 0], "Q": [rod, 0]}, "pose": [r, 0, 0]},
                  "ram": {"points": {"Q": [0, 0]}, "pose": [r + rod, offset, 0]}},
        "joints": {"main": {**revolute, "a": "frame.O", "b": "crank.O"},
                   "big": {**revolute, "a": "crank.P", "b": "rod.P"},
                   "small": {**revolute, "a": "rod.Q", "b": "ram.Q"},
                   "ram": {"type": "prismatic", "a": "frame.W", "b": "ram.Q", "direction": 0}},
        "drivers": {"turn": {"joint": "main", "from": 0, "to": 360, "steps": 7, "running": True}},
        "checks": {"push": {"measure": "transmission_angle", "joint": "small", "at_least": 0, "at_most": 91},
                   "lean": {"measure": "pressure_angle", "joint": "small", "at_least": 0, "at_most": 91}},
    }  # fmt: skip
    motion = analyse(read_document(tree)).motion
    push, lean = (ends_of(check.measured, motion) for check in motion.document.checks.values())
    least = math.acos((r + abs(offset)) / rod)
    most = math.pi / 2 if abs(offset) <= r else math.acos((abs(offset) - r) / rod)
    assert (push.low, push.high) == pytest.approx((least, most), abs=1e-10) and push.missed == lean.missed == 0.0
    assert (lean.low, lean.high) == pytest.approx((math.pi / 2 - most, math.pi / 2 - least), abs=1e-10)
    assert values_of(motion.document.checks["push"].measured, motion, np.array([push.high_t]))[0] == push.high


@pytest.mark.parametrize("angle", [0.0, 33.0])
def test_the_straightness_of_half_a_circle_is_its_sagitta(angle: float):
    """An arc of 140° of radius 50: the narrowest band lies along its chord, 50 (1 − cos 70°) wide."""
    trace = {"traces": {"tip": {"point": "arm.P"}}}
    tree = crank({}).document.tree | trace
    tree["drivers"]["lift"] |= {"from": angle, "to": angle + 140, "steps": 1}
    tree["checks"] = {"wide": {"measure": "straightness", "trace": "tip", "at_most": 10}}
    value = analyse(read_document(tree)).verdicts["wide"].value
    assert value == pytest.approx(50 * (1 - math.cos(math.radians(70))), rel=1e-9)


def test_a_stop_names_the_driver_that_can_not_go_on_and_tells_all():
    """The first driver is at its end already; the second runs a slider into the dead point of its crank."""
    revolute = {"type": "revolute"}
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "D": [0, 200]}},
                  "idle": {"points": {"D": [0, 0]}, "pose": [0, 200, 0]},
                  "crank": {"points": {"O": [0, 0], "P": [20, 0]}, "pose": [0, 0, 60]},
                  "rod": {"points": {"P": [0, 0], "Q": [60, 0]}, "pose": [10, 17, -20]},
                  "ram": {"points": {"Q": [0, 0]}, "pose": [67, 0, 0]}},
        "joints": {"axle": {**revolute, "a": "frame.D", "b": "idle.D"},
                   "main": {**revolute, "a": "frame.O", "b": "crank.O"},
                   "big": {**revolute, "a": "crank.P", "b": "rod.P"}, "small": {**revolute, "a": "rod.Q", "b": "ram.Q"},
                   "ram": {"type": "prismatic", "a": "frame.O", "b": "ram.Q", "direction": 0}},
        "drivers": {"first": {"joint": "axle", "from": 0, "to": 30, "duration": 0.2, "steps": 10},
                    "second": {"joint": "ram", "from": 65, "to": 90, "duration": 1, "steps": 10}},
    }  # fmt: skip
    found = analyse(read_document(tree))
    stopped = results(found)["stopped"]
    assert "'second' stops at 80 mm" in stopped["text"] and stopped["reason"] == "dead point"
    assert stopped["drivers"] == {"first": pytest.approx(30), "second": pytest.approx(80)}
    assert stopped["driver"] == pytest.approx(30)
    from anakinema.formats.results import motion_csv

    rows = [line.split(",") for line in motion_csv(found.motion).splitlines()]
    ram = rows[0].index("ram")
    assert float(rows[-1][ram]) == pytest.approx(80, abs=1e-9) and float(rows[-1][0]) == pytest.approx(6.0, abs=1e-6)
