"""Measures against closed forms: a crank that turns evenly, programs that dwell, the quick return of the textbooks,
paths that are straight, round, or nearly so."""

import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.findings.checks import Outcome, Verdict
from anakinema.findings.measuring import values_of
from anakinema.formats.project import example
from anakinema.measures.extremes import located_ends, sample_times
from mechanisms import slider_crank, turn

R, W = 30.0, 2 * math.pi


def crank(checks: dict[str, Any], **more: Any) -> dict[str, Verdict]:
    """A crank of 30 mm that turns once in a second, evenly; a wheel geared to it; a slide that is driven beside."""
    tree = {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "D": [100, 0], "S": [0, -50]}},
            "crank": {"points": {"O": [0, 0], "P": [R, 0], "N": [0, "0.1 + 0.2 - 0.3"]}},
            "wheel": {"points": {"D": [0, 0]}, "pose": [100, 0, 0]},
            "block": {"points": {"Q": [0, 0]}, "pose": [0, -50, 0]},
        },
        "joints": {
            "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
            "axle": {"type": "revolute", "a": "frame.D", "b": "wheel.D"},
            "mesh": {"type": "gear", "a": "main", "b": "axle", "teeth": [20, 40]},
            "slide": {"type": "prismatic", "a": "frame.S", "b": "block.Q", "direction": 0,
                      "limits": {"min": -2, "max": 25}},
        },
        "programs": {"work": {"segments": [{"over": "0.3 s", "to": "20 mm", "law": "cycloidal"}, {"over": "0.4 s"},
                                           {"over": "0.3 s", "to": 0, "law": "345"}]}},
        "drivers": {"turn": {"joint": "main", "from": 0, "to": 360, "duration": "1 s", "steps": 90},
                    "feed": {"joint": "slide", "from": 0, "program": "work"}},
        "traces": {"pin": {"point": "crank.P"}, "feed": {"point": "block.Q"}},
        "checks": checks,
    }  # fmt: skip
    return dict(analyse(read_document(tree | more)).verdicts)


CLOSED = {
    "turning": ({"measure": "velocity", "joint": "main", "at_most": 400}, W),
    "evenly": ({"measure": "acceleration", "joint": "main", "at_most": 1}, 0.0),
    "round": ({"measure": "speed", "point": "crank.P", "at_most": 200}, R * W),
    "pull": ({"measure": "point_acceleration", "point": "crank.P", "at_most": 2000}, R * W**2),
    "right": ({"measure": "place", "point": "crank.P", "at_most": 31}, R),
    "down": ({"measure": "place", "axis": "y", "point": "crank.P", "at_least": -31}, -R),
    "seen": ({"measure": "speed", "point": "crank.P", "on": "wheel", "at_least": 0},
             abs(1.5 * R - 50) * W),  # |i W (1.5 R e^iθ − 50)|: the wheel turns the other way, half as fast
    "peak": ({"measure": "velocity", "joint": "slide", "at_most": 140}, 2.0 * 20 / 0.3),  # C_v of the cycloidal law
    "start": ({"measure": "acceleration", "joint": "slide", "at_most": 1500}, 2 * math.pi * 20 / 0.3**2),
    "room": ({"measure": "end_gap", "joint": "slide", "at_least": 1}, 2.0),
    "geared": ({"measure": "out_of_ratio", "joint": "axle", "against": "main", "ratio": -0.5, "at_most": 0.001}, 0.0),
    "gain": ({"measure": "mechanical_advantage", "joint": "axle", "at_least": 1}, 2.0),
    "once": ({"measure": "reversals", "joint": "slide", "at_most": 1}, 1.0),
    "never": ({"measure": "reversals", "joint": "axle", "at_most": 0}, 0.0),
    "circle": ({"measure": "straightness", "trace": "pin", "at_most": 61}, 2 * R),
    "line": ({"measure": "straightness", "trace": "feed", "at_most": 0.001}, 0.0),
    "across": ({"measure": "straightness", "trace": "pin", "direction": 30, "at_most": 61}, 2 * R),
    "half-way": ({"measure": "coordinate", "joint": "axle", "at": 180, "at_least": -90, "at_most": -90}, -math.pi / 2),
}


def test_measures_are_those_of_closed_forms() -> None:
    found = crank({name: entry for name, (entry, _) in CLOSED.items()})
    for name, (_, wanted) in CLOSED.items():
        verdict = found[name]
        assert verdict.outcome is Outcome.PASS, (name, verdict)
        assert verdict.value == pytest.approx(wanted, rel=1e-5, abs=1e-6), name


def test_a_line_runs_through_two_points_that_rounding_tells_apart() -> None:
    check = {"measure": "distance", "a": ["crank.N", "crank.O"], "b": "frame.D", "at_least": 1}
    with pytest.raises(DocumentError, match="both points lie at the same place"):
        crank({"off": check})


def test_ends_of_what_is_a_number_nowhere_are_none() -> None:
    spans = np.array([[0.0, 1.0]])
    found = located_ends(lambda times, _: np.full(times.size, np.nan), spans, sample_times(spans).ravel())
    assert np.isnan(found.low).all() and np.isnan(found.high).all()


def test_a_dwell_is_as_long_as_its_program_and_its_band_say() -> None:
    rest = {"measure": "dwell", "joint": "slide", "at_least": "0.4 s"}
    (verdict,) = crank({"rest": rest | {"within": "1e-9 mm"}}).values()
    assert verdict.value == pytest.approx(0.4, abs=0.01) and verdict.outcome is Outcome.PASS
    wide = crank({"rest": rest | {"within": "2 mm"}})["rest"].value
    # Leaving by a cycloid, (t/T) − sin(2π t/T)/2π = 0.1, and returning by 10u³ − 15u⁴ + 6u⁵ = 0.1.
    u = np.linspace(0, 1, 200_001)
    out = float(np.interp(0.1, u - np.sin(2 * np.pi * u) / (2 * np.pi), u))
    back = float(np.interp(0.1, 10 * u**3 - 15 * u**4 + 6 * u**5, u))
    assert wide == pytest.approx(0.4 + 0.3 * (out + back), abs=0.01)


def test_the_time_ratio_of_the_quick_return_is_the_textbooks() -> None:
    """Crank-shaper: (180° + 2 asin(r/d)) / (180° − 2 asin(r/d)); R. L. Norton, Design of Machinery, from memory."""
    document, _ = example("quick-return")
    lean = 2 * math.asin(26 / 52)
    found = analyse(document).verdicts["return"]
    assert found.value == pytest.approx((math.pi + lean) / (math.pi - lean), abs=1e-6)


def test_what_can_not_be_judged_says_why_and_does_not_pass() -> None:
    found = crank({
        "gap": {"measure": "end_gap", "joint": "main", "at_least": 0},
        "ratio": {"measure": "time_ratio", "joint": "axle", "at_least": 1},
        "far": {"measure": "coordinate", "joint": "axle", "at": 500, "at_least": 0},
    })  # fmt: skip
    assert {name: verdict.outcome for name, verdict in found.items()} == dict.fromkeys(found, Outcome.NOT_JUDGED)
    assert "no limits" in found["gap"].reason and "come back once" in found["ratio"].reason
    assert "never stands at 500°" in found["far"].reason


@pytest.mark.parametrize(("check", "message"), [
    ({"measure": "speed", "point": "crank.Z"}, "checks.c.point: "), ({"measure": "speed"}, "'point' is missing"),
    ({"measure": "straightness", "trace": "pn"}, "there is no trace 'pn' (did you mean 'pin'?)"),
    ({"measure": "dwell", "joint": "slide", "within": "3 deg"}, "checks.c.within: a length is wanted"),
    ({"measure": "travel", "joint": "slide", "at": 20}, "a travel is judged all along"),
    ({"measure": "place", "point": "crank.P", "axis": "z"}, "one of x, y is wanted"),
])  # fmt: skip
def test_a_measure_that_makes_no_sense_is_told_with_its_place(check: dict[str, Any], message: str) -> None:
    with pytest.raises(DocumentError) as caught:
        crank({"c": check | {"at_most": 1}})
    assert any(message in str(fault) for fault in caught.value.faults), [str(fault) for fault in caught.value.faults]


def test_tracks_hold_their_extremes_and_hatch_what_is_outside() -> None:
    document, _ = example("quick-return")
    found = analyse(document)
    for series in found.tracks.values():
        assert series is not None
        assert series.values.min() == series.low and series.values.max() == series.high
    tree = dict(document.tree)
    tree["checks"] = {"gentle": {"measure": "velocity", "joint": "slide", "at_most": 600}}
    speed = analyse(read_document(tree)).tracks["speed"]
    assert speed is not None and len(speed.short) == 1
    start, stop = speed.short[0]
    assert start < speed.high_t < stop and speed.near(start) == pytest.approx(600, abs=40)


E, DISC, ROLLER = 8.0, 30.0, 10.0


def eccentric(**checks: Any) -> dict[str, Any]:
    """A disc on an axle beside its middle lifts a roller that is guided in line with the axle."""
    return {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0]}},
            "disc": {"points": {"O": [0, 0]}, "pose": [0, 0, 0],
                     "edges": {"rim": {"center": [E, 0], "radius": DISC, "from": 0, "to": 360}}},
            "follower": {"points": {"C": [0, 0]}, "pose": [0, 39, 0],
                         "edges": {"roller": {"center": "C", "radius": ROLLER, "from": 0, "to": 360}}},
        },
        "joints": {
            "main": {"type": "revolute", "a": "frame.O", "b": "disc.O"},
            "guide": {"type": "prismatic", "a": "frame.O", "b": "follower.C", "direction": 90, "angle": 0},
            "touch": {"type": "tangent", "a": "disc.rim", "b": "follower.roller"},
        },
        "drivers": {"turn": {"joint": "main", "from": 0, "to": 360, "steps": 72}},
        "checks": checks,
    }  # fmt: skip


def test_the_pressure_angle_of_an_eccentric_disc_is_that_of_its_triangle():
    """sin α = e cos θ / (R + r) for a roller in line with the axle: greatest e / (R + r) (closed geometry of the
    triangle axle, middle of the disc, middle of the roller)."""
    found = analyse(read_document(eccentric(push={"measure": "pressure_angle", "joint": "touch", "at_most": 12})))
    verdict = found.verdicts["push"]
    assert verdict.value == pytest.approx(math.asin(E / (DISC + ROLLER)), abs=1e-9) and verdict.passed
    measure = verdict.check.measured
    t = np.linspace(0.0, found.motion.path.t1, 50)
    theta = found.motion.coordinates(t)[:, found.motion.system.coordinates.index("main")]
    expected = np.arcsin(np.abs(E * np.cos(theta)) / (DISC + ROLLER))
    np.testing.assert_allclose(values_of(measure, found.motion, t), expected, atol=1e-9)


@pytest.mark.parametrize("slant", [0.0, 15.0, -30.0])
def test_the_pressure_angle_of_a_scotch_yoke_is_the_slant_of_its_slot(slant: float):
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "crank": {"points": {"O": [0, 0], "P": [R, 0]}},
                  "yoke": {"points": {"S": [0, 0]}, "pose": [R, 0, 0]}},
        "joints": {
            "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
            "ram": {"type": "prismatic", "a": "frame.O", "b": "yoke.S", "direction": 0, "angle": 0},
            "slot": {"type": "pin-slot", "a": "yoke.S", "b": "crank.P", "direction": 90 + slant},
        },
        "drivers": {"turn": {"joint": "main", "from": 0, "to": 90, "steps": 9}},
        "checks": {"push": {"measure": "pressure_angle", "joint": "slot", "at_most": 31},
                   "square": {"measure": "pressure_angle", "joint": "ram", "at_most": 31}},
    }  # fmt: skip
    found = analyse(read_document(tree)).verdicts
    assert found["push"].value == pytest.approx(math.radians(abs(slant)), abs=1e-9)
    assert found["square"].outcome is Outcome.NOT_JUDGED and "presses on" in found["square"].reason


def test_the_pressure_angle_is_what_the_transmission_angle_leaves_of_a_right_angle():
    document, _ = example("sewing-head")
    tree = dict(document.tree)
    tree["checks"] = {name: {"measure": name, "joint": "small-end", "at_least": 0, "at_most": 90}
                      for name in ("pressure_angle", "transmission_angle")}  # fmt: skip
    motion = analyse(read_document(tree)).motion
    t = np.linspace(0.0, motion.path.t1, 20)
    both = [values_of(check.measured, motion, t) for check in motion.document.checks.values()]
    np.testing.assert_allclose(both[0] + both[1], math.pi / 2, atol=1e-12)


def test_components_rates_and_the_length_of_a_path_are_those_of_a_circle():
    """A crank of 20 at 60 rpm: its pin runs 2 pi 20 a turn, at 2 pi 20 a second, along x as minus its sine."""
    tree = slider_crank(20, 60, 5, 60, drivers=turn(60, 420, 36, rate="60 rpm"))
    tree["traces"] = {"pin": {"point": "crank.A"}}
    tree["checks"] = {
        "long": {"measure": "path_length", "trace": "pin", "at_most": 200},
        "vx": {"measure": "velocity_along", "point": "crank.A", "axis": "x", "at_most": 200},
        "ay": {"measure": "acceleration_along", "point": "crank.A", "axis": "y", "at_least": -2000},
        "turns": {"measure": "part_rate", "part": "crank", "at_most": 400},
    }
    found = analyse(read_document(tree))
    omega = 2 * math.pi
    assert found.verdicts["long"].value == pytest.approx(omega * 20, rel=1e-12)
    assert found.verdicts["vx"].value == pytest.approx(20 * omega, rel=1e-9)
    assert found.verdicts["ay"].value == pytest.approx(-20 * omega**2, rel=1e-9)
    assert found.verdicts["turns"].value == pytest.approx(omega, rel=1e-12)
    t = np.array([0.1, 0.37])
    values = values_of(found.document.checks["vx"].measured, found.motion, t)
    assert values == pytest.approx(-20 * omega * np.sin(np.radians(60) + omega * t), rel=1e-9)
