"""Has everything compiled once, so that neither the first file nor the first pull of the hand waits for it."""

from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.formats.project import demo
from anakinema.kinematics.dragging import prepare

LINK = {"points": {"A": [0, 0], "B": [10, 0]}}
FIVE_BAR = {
    "anakinema": 1,
    "parts": {
        "frame": {"fixed": True, "points": {"O": [0, 0], "D": [20, 0]}},
        "one": {**LINK, "pose": [0, 0, 90], "shapes": [{"kind": "bar", "through": ["A", "B"], "width": 2}]},
        "two": {**LINK, "pose": [0, 10, 0]},
        "three": {**LINK, "pose": [10, 10, 0], "shapes": [{"kind": "disc", "center": "A", "diameter": 24}]},
        "four": {**LINK, "pose": [20, 10, -90]},
    },
    "joints": {
        "foot": {"type": "revolute", "a": "frame.O", "b": "one.A"},
        "knee": {"type": "revolute", "a": "one.B", "b": "two.A"},
        "middle": {"type": "revolute", "a": "two.B", "b": "three.A"},
        "elbow": {"type": "revolute", "a": "three.B", "b": "four.A"},
        "heel": {"type": "revolute", "a": "four.B", "b": "frame.D"},
    },
    "drivers": {"swing": {"joint": "foot", "to": 80, "steps": 2}},
}
"""A driver that leaves a freedom, and two parts that overlap."""

PULLED = {
    "anakinema": 1,
    "parts": {
        "frame": {"fixed": True, "points": {"O": [0, 0]}},
        "crank": {**LINK, "pose": [0, 0, 60]},
        "rod": {"points": {"A": [0, 0], "B": [30, 0]}, "pose": [5, 8, -17]},
        "ram": {"points": {"A": [0, 0]}, "pose": [33, 0, 0]},
        "arm": {**LINK, "pose": [5, 8, 90]},
    },
    "joints": {
        "main": {"type": "revolute", "a": "frame.O", "b": "crank.A"},
        "big": {"type": "revolute", "a": "crank.B", "b": "rod.A"},
        "small": {"type": "revolute", "a": "rod.B", "b": "ram.A"},
        "slide": {"type": "prismatic", "a": "frame.O", "b": "ram.A", "direction": 0},
        "hang": {"type": "revolute", "a": "crank.B", "b": "arm.A"},
    },
    "drivers": {"pull": {"joint": "slide", "to": 41, "steps": 2}},
}
"""A driver that comes to a dead point, and a part that hangs on what it moves."""

for tree in (FIVE_BAR, PULLED):
    analyse(read_document(tree))
prepare(analyse(demo()[0]).motion)
