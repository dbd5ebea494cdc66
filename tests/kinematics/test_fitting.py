"""Of several ways to put a mechanism together, the nearest that keeps all limits is taken."""

import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.findings import analyse

REVOLUTE = {"type": "revolute"}


def arm(limits: dict[str, float], placed: float = 0.0, **drivers: Any) -> dict[str, Any]:
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}},
                  "arm": {"points": {"O": [0, 0], "P": [50, 0]}, "pose": [0, 0, placed]},
                  "hand": {"points": {"P": [0, 0]}, "pose": [50, 0, placed]}},
        "joints": {"shoulder": {**REVOLUTE, "a": "frame.O", "b": "arm.O"},
                   "wrist": {**REVOLUTE, "a": "arm.P", "b": "hand.P", "limits": limits}},
        "drivers": drivers,
    }  # fmt: skip


def start(tree: dict[str, Any], joint: str) -> tuple[float, Any]:
    found = analyse(read_document(tree))
    column = found.motion.system.coordinates.index(joint)
    return math.degrees(found.motion.at(np.zeros(1)).coordinates[0, column]), found


@pytest.mark.parametrize(("limits", "stands"), [
    ({"min": 20, "max": 90}, 20), ({"min": -90, "max": -15}, -15), ({"min": -30, "max": 30}, 0),
    ({"min": 170, "max": 175}, 170), ({"min": 300, "max": 340}, 340), ({"min": 300, "max": 400}, 360),
])  # fmt: skip
def test_a_free_joint_is_turned_into_its_limits(limits: dict[str, float], stands: float):
    value, found = start(arm(limits), "wrist")
    assert value == pytest.approx(stands, abs=1e-6) and found.motion.stop is None


def test_also_where_it_is_driven_to_its_start():
    tree = arm({"min": 20, "max": 90}, turn={"joint": "shoulder", "from": 10, "to": 40})
    value, found = start(tree, "wrist")
    assert 20 - 1e-6 <= value <= 90 and found.motion.stop is None


def dyad(limits: dict[str, float]) -> dict[str, Any]:
    """Two bars from fixed feet to one pin: above or below; placed above."""
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "D": [60, 0]}},
                  "one": {"points": {"A": [0, 0], "B": [50, 0]}, "pose": [0, 0, 50]},
                  "two": {"points": {"A": [0, 0], "B": [50, 0]}, "pose": [60, 0, 130]}},
        "joints": {"left": {**REVOLUTE, "a": "frame.O", "b": "one.A", "limits": limits},
                   "right": {**REVOLUTE, "a": "frame.D", "b": "two.A"},
                   "top": {**REVOLUTE, "a": "one.B", "b": "two.B"}},
    }  # fmt: skip


def test_the_other_way_to_close_is_taken_where_only_that_keeps_the_limits():
    angle = math.degrees(math.acos(30 / 50))
    assert start(dyad({"min": 0, "max": 90}), "left")[0] == pytest.approx(angle, abs=1e-6)
    assert start(dyad({"min": -90, "max": 0}), "left")[0] == pytest.approx(-angle, abs=1e-6)


def test_where_there_is_no_other_way_that_is_said_first():
    value, found = start(dyad({"min": 80, "max": 90}), "left")
    assert value == pytest.approx(math.degrees(math.acos(30 / 50)), abs=1e-6)
    assert "outside its limit" in found.advice[0].text and found.motion.stop.t == 0.0
