"""Parts mirrored with their joints: the copy moves as the mirror image of what it copies."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.operations import driven_among, mirror

HOLE = {"kind": "disc", "diameter": 4, "cut": True}


def half(axis=0.0):
    """A crank, a rod and a ram that slides along the axis x = `axis` of the frame; the frame has a hole on either
    side."""
    holes = [{**HOLE, "center": name} for name in "LR"]
    return read_document({
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"L": [axis - 30, 0], "R": [axis + 30, 0], "O": [axis, 0]}, "shapes": [
                {"kind": "rectangle", "center": "O", "size": [120, 20]}, *holes]},
            "crank": {"points": {"A": [0, 0], "B": [12, 0]}, "pose": [axis - 30, 0, 60], "depth": [1, 2],
                      "shapes": [{"kind": "bar", "through": ["A", "B"], "width": 5},
                                 {"kind": "disc", "center": "B", "diameter": 4, "depth": [2, 4]}]},
            "rod": {"points": {"A": [0, 0], "B": [50, 0]}, "pose": [axis - 24, 10, 50], "depth": [2, 3]},
            "ram": {"points": {"A": [0, 0]}, "pose": [axis, 55, 0], "depth": [3, 4]},
        },
        "joints": {
            "pin": {"type": "revolute", "a": "frame.L", "b": "crank.A", "limits": {"max": 100}},
            "elbow": {"type": "revolute", "a": "crank.B", "b": "rod.A"},
            "wrist": {"type": "revolute", "a": "rod.B", "b": "ram.A"},
            "guide": {"type": "prismatic", "a": "frame.O", "b": "ram.A", "direction": 90},
        },
        "drivers": {"turn": {"joint": "pin", "from": 60, "to": 95, "rate": "90 deg/s", "steps": 20}},
    })  # fmt: skip


def poses(document):
    return {name: part.pose for name, part in document.parts.items()}


@given(axis=st.floats(-20, 20))
@settings(max_examples=5, deadline=None)
def test_both_sides_move_alike_about_the_axis(axis):
    """The ram lies on the axis: both rods end on it, and the drivers of both sides are tied."""
    document = half(axis)
    assert driven_among(document, ["crank", "rod"]) == ["turn"]
    made = mirror(document, ["crank", "rod"], complex(axis), axis + 1j, poses(document), couple=True)
    assert not made.left
    both = changed(document, *made.changes)
    assert both.joints["pin2"].a.point == "R" and both.joints["pin2"].limits.min == pytest.approx(np.radians(-100))
    assert both.joints["wrist2"].b.part == "ram"
    findings = analyse(both)
    assert findings.motion.stop is None and findings.motion.mobility.dof == 1
    q = findings.motion.positions(findings.motion.grid)
    body = findings.motion.system.body
    for one, two in (("crank", "crank2"), ("rod", "rod2")):
        a, b = q[:, body(one)], q[:, body(two)]
        assert b[:, 0] - axis == pytest.approx(axis - a[:, 0], abs=1e-8) and b[:, 1] == pytest.approx(a[:, 1], abs=1e-8)
        assert np.exp(1j * (a[:, 2] + b[:, 2] - np.pi)) == pytest.approx(np.ones(len(a)), abs=1e-8)


def test_copies_keep_their_depths_unless_turned_over():
    document = half()
    level = changed(document, *mirror(document, ["crank"], 0j, 1j, poses(document)).changes)
    over = changed(document, *mirror(document, ["crank"], 0j, 1j, poses(document), over=True).changes)
    spans = [shape.depth or level.parts["crank2"].depth for shape in level.parts["crank2"].shapes]
    assert spans == [(1, 2), (2, 4)]
    assert [shape.depth or over.parts["crank2"].depth for shape in over.parts["crank2"].shapes] == [(3, 4), (1, 3)]


def test_what_finds_no_feature_stays_loose_and_is_named():
    document = half()
    made = mirror(document, ["crank", "rod"], 5 + 0j, 5 + 1j, poses(document))  # the hole is not there
    assert set(made.left) == {"pin", "wrist"}
    assert set(changed(document, *made.changes).joints) == {"pin", "elbow", "wrist", "guide", "elbow2"}


@pytest.mark.parametrize(("parts", "one", "two", "word"), [
    (["crank"], 0j, 0j, "two places"), (["frame"], 0j, 1j, "fixed"),
])  # fmt: skip
def test_what_can_t_be_mirrored_says_so(parts, one, two, word):
    document = half()
    with pytest.raises(DocumentError, match=word):
        mirror(document, parts, one, two, poses(document))
