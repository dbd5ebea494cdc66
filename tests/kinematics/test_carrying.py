"""Limits of joints that nothing drives: they stop the joint, carry it along, and let go of it."""

import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.kinematics.motion import Motion

REVOLUTE = {"type": "revolute"}


def arm(limits: dict[str, float], **driver: Any) -> dict[str, Any]:
    """A driven arm with a hand at its end that turns freely, but for its limits. Of a single place it does not turn by
    itself: it stays level until a limit takes it along."""
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "arm": {"points": {"O": [0, 0], "P": [50, 0]}},
                  "hand": {"points": {"P": [0, 0]}, "pose": [50, 0, 0]}},
        "joints": {"shoulder": {**REVOLUTE, "a": "frame.O", "b": "arm.O"},
                   "wrist": {**REVOLUTE, "a": "arm.P", "b": "hand.P", "limits": limits}},
        "drivers": {"turn": {"joint": "shoulder", "from": 0, "duration": "1 s", "steps": 40, **driver}},
    }  # fmt: skip


def of(motion: Motion, joint: str, t: np.ndarray) -> np.ndarray:
    found: np.ndarray = np.degrees(motion.coordinates(t)[:, motion.system.coordinates.index(joint)])
    return found


@pytest.mark.parametrize("law", ["uniform", "345", "harmonic"])
@pytest.mark.parametrize("steps", [1, 40, 397])
def test_a_limit_carries_and_lets_go(law: str, steps: int):
    motion = analyse(read_document(arm({"min": -30, "max": 20}, to=80, back=True, law=law, steps=steps))).motion
    assert motion.stop is None
    assert bool(motion.jolts) is (law == "uniform")  # limits that take hold or let go are none of the drivers'
    t = np.linspace(0.0, motion.path.t1, 1501)
    shoulder, wrist = of(motion, "shoulder", t), of(motion, "wrist", t)
    out = t <= motion.path.t1 / 2
    # Level until the limit, then carried; on the way back it leaves the limit at once, and reaches the other.
    expected = np.where(out, np.maximum(-shoulder, -30.0), np.minimum(80.0 - shoulder - 30.0, 20.0))
    np.testing.assert_allclose(wrist, expected, atol=2e-6)
    extremes = [math.degrees(end[motion.system.coordinates.index("wrist")]) for end in
                (motion.extremes.low, motion.extremes.high)]  # fmt: skip
    assert extremes == pytest.approx([-30, 20], abs=1e-6)
    events = motion.path.events
    assert [event.kind for event in events] == ["touch", "part", "touch"]
    assert {event.owner for event in events} == {"wrist"}
    assert of(motion, "shoulder", np.array([event.t for event in events])) == pytest.approx([30, 80, 30], abs=1e-6)
    assert motion.path.cut(events[1].t).events == events[:2]


def test_the_end_of_a_slot_takes_along_what_lies_in_it():
    """A block lies in a groove of a driven slide: it stays where it is until the groove's end takes it along."""
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "slide": {"points": {"A": [0, 0]}},
                  "block": {"points": {"B": [0, 0]}, "pose": [5, 0, 0]}},
        "joints": {"way": {"type": "prismatic", "a": "frame.O", "b": "slide.A", "direction": 0},
                   "groove": {"type": "prismatic", "a": "slide.A", "b": "block.B", "direction": 0,
                              "limits": {"min": -10, "max": 15}}},
        "drivers": {"push": {"joint": "way", "from": 0, "to": 50, "back": True, "duration": 1, "law": "345"}},
        "traces": {"block": {"point": "block.B"}},
    }  # fmt: skip
    motion = analyse(read_document(tree)).motion
    assert motion.stop is None
    x = motion.traced["block"][:, 0]
    way = motion.state.coordinates[:, motion.system.coordinates.index("way")]
    half = len(x) // 2
    np.testing.assert_allclose(x[: half + 1], np.maximum(5.0, way[: half + 1] - 10), atol=1e-6)
    np.testing.assert_allclose(x[half:], np.minimum(40.0, way[half:] + 15), atol=1e-6)


def test_a_motion_stops_only_where_nothing_can_follow():
    """Two links between the slide and a foot: their free knee has a limit, and the slide pulls them straight against
    it."""
    bars = {"points": {"A": [0, 0], "B": [50, 0]}}
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "F": [0, 0]}},
                  "one": {**bars, "pose": [0, 0, 60]}, "two": {**bars, "pose": [25, 43.3, -60]},
                  "ram": {"points": {"Q": [0, 0]}, "pose": [50, 0, 0]}, "idle": {"points": {"Q": [0, 0]},
                                                                                "pose": [50, 0, 0]}},
        "joints": {"foot": {**REVOLUTE, "a": "frame.O", "b": "one.A"},
                   "knee": {**REVOLUTE, "a": "one.B", "b": "two.A", "limits": {"min": -150, "max": -40}},
                   "end": {**REVOLUTE, "a": "two.B", "b": "ram.Q"}, "spin": {**REVOLUTE, "a": "ram.Q", "b": "idle.Q"},
                   "way": {"type": "prismatic", "a": "frame.F", "b": "ram.Q", "direction": 0}},
        "drivers": {"pull": {"joint": "way", "from": 50, "to": 99, "duration": 1}},
    }  # fmt: skip
    stop = analyse(read_document(tree)).motion.stop
    assert stop is not None and stop.reason == "limit" and stop.joint == "knee"
    assert stop.driver == pytest.approx(100 * math.cos(math.radians(20)), abs=1e-4)


@pytest.mark.parametrize("seed", range(4))
def test_no_limit_is_passed_whatever_hangs_on_what(seed: int):
    """A strand that is pulled to and fro, every joint with limits: none is passed, and each that holds does so for a
    reason: without it its joint would be beyond."""
    chance = np.random.default_rng(seed)
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "ram": {"points": {"A": [0, 0]}}}
    joints: dict[str, Any] = {"way": {"type": "prismatic", "a": "frame.O", "b": "ram.A", "direction": 90}}
    at, angle, before = 0j, 0.0, "ram.A"
    for k in range(4):
        angle += chance.uniform(-20, 20)
        parts[f"link{k}"] = {"points": {"A": [0, 0], "B": [30, 0]}, "pose": [at.real, at.imag, angle]}
        joints[f"pin{k}"] = {**REVOLUTE, "a": before, "b": f"link{k}.A",
                             "limits": {"min": -chance.uniform(25, 50), "max": chance.uniform(25, 50)}}  # fmt: skip
        at, before = at + 30 * np.exp(1j * math.radians(angle)), f"link{k}.B"
    joints["pin0"].pop("limits")
    drivers = {"pull": {"joint": "way", "from": 0, "to": 150, "back": True, "duration": 1, "law": "345"}}
    tree = {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}
    motion = analyse(read_document(tree)).motion
    assert motion.stop is None
    t = np.linspace(0.0, motion.path.t1, 2003)
    held = 0
    for k in range(1, 4):
        values, limits = of(motion, f"pin{k}", t), joints[f"pin{k}"]["limits"]
        assert values.min() >= limits["min"] - 1e-6 and values.max() <= limits["max"] + 1e-6
        held += int((np.abs(values - limits["min"]) < 1e-6).any() or (np.abs(values - limits["max"]) < 1e-6).any())
    assert held and np.abs(np.diff(motion.positions(t), axis=0)).max() < 2.0  # nothing jumps
