"""Parts mirrored with their joints: the copy moves as the mirror image of what it copies."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.operations import driven_among, mirror
from cams import RISE, cam

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


@given(way=st.floats(0, np.pi), turned=st.floats(-180, 180), arc=st.booleans())
@settings(max_examples=12, deadline=None)
def test_limits_of_copies_mean_the_same_about_any_line(way, turned, arc):
    """Of what hangs on a part that stays, which may stand turned."""
    line = np.exp(1j * way)
    spot, goal = 20 + 5j, (20 - 5j) * line**2
    own = [z * np.exp(-1j * np.radians(turned)) for z in (spot, goal)]
    joint = {"type": "pin-slot", "radius": 15} if arc else {"type": "revolute"}
    document = read_document({
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "pose": [0, 0, turned],
                      "points": {name: [z.real, z.imag] for name, z in zip("LR", own, strict=True)}},
            "arm": {"points": {"A": [0, 0], "B": [15, 0]}, "pose": [spot.real + 15 * arc, spot.imag, 0]},
            "bolt": {"points": {"A": [0, 0]}, "pose": [spot.real, spot.imag, 20]},
        },
        "joints": {"swing": {**joint, "a": "frame.L", "b": "arm.A",
                             "limits": {"min": -turned - 1, "max": -turned + 40}},
                   "held": {"type": "fixed", "a": "frame.L", "b": "bolt.A", "angle": 20 - turned}},
    })  # fmt: skip
    made = mirror(document, ["arm", "bolt"], 0j, line, poses(document))
    assert not made.left
    motion = analyse(changed(document, *made.changes)).motion
    assert motion.stop is None  # both stand within their limits
    coordinates, limits = motion.system.coordinates, motion.document.joints["swing2"].limits
    values = motion.coordinates(np.zeros(1))[0]
    one, two = (values[coordinates.index(name)] for name in ("swing", "swing2"))
    low, high = (np.radians(end - turned) for end in (-1, 40))
    off = np.array([two - limits.min, limits.max - two])
    assert np.exp(1j * off) == pytest.approx(np.exp(1j * np.array([high - one, one - low])), abs=1e-8)
    q = motion.positions(np.zeros(1))[0]
    body = motion.system.body
    for name in ("arm", "bolt"):
        x, y, angle = q[body(name)]
        there = complex(x, -y) * line**2
        assert q[body(f"{name}2")][:2] == pytest.approx([there.real, there.imag], abs=1e-8)
        assert np.exp(1j * (q[body(f"{name}2")][2] + angle - 2 * way)) == pytest.approx(1.0, abs=1e-8)


@pytest.mark.parametrize("swings", [False, True])
@pytest.mark.parametrize("kind", ["roller", "flat"])
def test_a_cam_is_mirrored_with_its_shaft_and_follower(swings, kind):
    follower = {"kind": "roller", "radius": 6} if kind == "roller" else {"kind": "flat", "direction": 3, "width": 90}
    segments = [{**RISE[0], "to": "9 deg"}, *RISE[1:]] if swings else RISE
    tree = cam(follower, segments, offset=4.0, at=45.0, swings=swings)
    frame = tree["parts"]["frame"]["points"]
    frame |= {f"{name}2": [300 - x, y] for name, (x, y) in frame.items()}
    document = read_document(tree)
    made = mirror(document, ["cam", "foot"], 150 + 0j, 150 + 1j, poses(document), couple=True)
    assert not made.left
    both = changed(document, *made.changes)
    motion = analyse(both).motion
    assert motion.stop is None and motion.mobility.dof == 1
    q, body = motion.positions(motion.grid), motion.system.body
    for name in ("cam", "foot"):
        a, b = q[:, body(name)], q[:, body(f"{name}2")]
        assert b[:, 0] == pytest.approx(300 - a[:, 0], abs=1e-7) and b[:, 1] == pytest.approx(a[:, 1], abs=1e-7)
    assert np.ptp(q[:, body("foot")], axis=0).max() > 0.1  # it does move
    alone = mirror(document, ["foot"], 150 + 0j, 150 + 1j, poses(document))
    assert alone.left == ("ride",)
