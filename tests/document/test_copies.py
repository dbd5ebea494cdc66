"""Copies: they take everything but the pose, follow what they are copies of, and may be lifted and turned over."""

import math

import numpy as np
import pytest

from anakinema.document import Rename, Set, changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.kinematics.simulation import simulate
from anakinema.operations import (
    add_hole,
    copy_around,
    copy_mirrored,
    copy_row,
    drive,
    leave,
    make_unique,
    strand,
)

WHEEL = {
    "points": {"O": [0, 0], "P": ["size", 2]},
    "edges": {"rim": {"center": "O", "radius": 5, "from": 10, "to": 100}},
    "shapes": [
        {"kind": "bar", "through": ["O", "P"], "width": 4},
        {"kind": "slot", "center": [0, 0], "radius": 8, "from": 20, "to": 60, "width": 1, "cut": True},
        {"kind": "path", "start": [0, 0], "segments": [{"to": [4, 0]}, {"to": [0, 4], "center": [0, 0]}],
         "depth": [4, 6]},
    ],
    "depth": [0, 3],
    "note": "turns",
}  # fmt: skip
TREE = {
    "anakinema": 1,
    "parameters": {"size": 12},
    "parts": {
        "over": {"of": "two", "mirror": True, "pose": [0, 50, 0], "lift": "size"},
        "wheel": {**WHEEL, "fixed": True, "pose": [1, 2, 3]},
        "two": {"of": "wheel", "pose": [30, 0, 90], "lift": 10, "note": "its own"},
    },
    "joints": {"pin": {"type": "revolute", "a": "two.P", "b": "over.P"}},
    "traces": {"eye": {"point": "over.P"}},
}


def test_a_copy_takes_all_but_pose_and_fixed_and_what_it_says_itself():
    document = read_document(TREE)
    wheel, two, over = (document.parts[name] for name in ("wheel", "two", "over"))
    assert two.points == wheel.points and two.of == "wheel" and over.of == "two"
    assert not two.fixed and two.pose == pytest.approx((30, 0, math.pi / 2)) and two.note == "its own"
    assert two.depth == (10, 13) and two.shapes[2].depth == (14, 16)
    assert over.points["P"] == (12, -2) and over.note == "its own"
    # Depths lie in 0…6: turned over 0…3 is 3…6 and 4…6 is 0…2; lifted by 10 and by 12.
    assert over.depth == (25, 28) and over.shapes[2].depth == (22, 24)
    rim = over.edges["rim"]
    assert (rim.low, rim.high) == pytest.approx((math.radians(-100), math.radians(-10)))
    areas = [sum(float(abs(_area(slab))) for slab in part.slabs) for part in (wheel, two, over)]
    assert areas == pytest.approx([areas[0]] * 3) and areas[0] > 40
    assert set(document.values) & {"parts.two.points.P.0", "parts.two.pose.0"} == {"parts.two.pose.0"}
    assert document.warnings == ()


def _area(slab):
    """Area between chords of a region's loops."""
    total = 0.0
    for loop in slab.region.loops:
        edges = slab.region.edges.pick(loop)
        for k in range(edges.count):
            z = edges.pick([k] * 65).point([share / 64 for share in range(65)])
            total += sum((z[:-1].conj() * z[1:]).imag) / 2
    return total


def test_what_is_changed_in_one_changes_in_all_and_nothing_else_is_read_again():
    before = read_document(TREE)
    after = changed(before, Set(["parameters", "size"], 20))
    assert [part.points["P"][0] for part in after.parts.values()] == [20, 20, 20]
    moved = changed(after, Set(["parts", "over", "pose"], [1, 1, 1]))
    assert moved.parts["two"] is after.parts["two"] and moved.parts["over"] is not after.parts["over"]
    after = changed(before, *add_hole(before, "two", 6 + 1j, 2).changes)
    assert len(after.parts["wheel"].shapes) == len(after.parts["over"].shapes) == 4
    over = changed(before, *add_hole(before, "over", 6 + 1j, 2).changes)  # turned over: the mirror image is made
    assert over.parts["over"].shapes[-1].center == (6, 1)
    assert over.parts["wheel"].shapes[-1].center == (6, -1)


def test_other_names_are_followed_through_copies():
    document = changed(read_document(TREE), Rename(["parts", "wheel", "points", "P"], "tip"))
    assert document.tree["joints"]["pin"]["a"] == "two.tip" and document.tree["traces"]["eye"]["point"] == "over.tip"
    document = changed(document, Rename(["parts", "two"], "middle"), Rename(["parts", "wheel"], "disc"))
    assert document.tree["parts"]["over"]["of"] == "middle" and document.tree["parts"]["middle"]["of"] == "disc"
    gone = set(leave(document, ("parts", "middle")).also)
    assert gone == {("parts", "over"), ("joints", "pin"), ("traces", "eye")}


@pytest.mark.parametrize(
    ("parts", "message"),
    [
        ({"a": {"of": "b"}, "b": {"of": "c"}, "c": {"of": "b"}}, "parts.b.of: is a copy of itself: b → c → b"),
        ({"a": {"of": "a"}}, "parts.a.of: is a copy of itself: a → a"),
        ({"wheel": {}, "a": {"of": "wheeel"}}, "there is no part 'wheeel' to copy (did you mean 'wheel'?)"),
        ({"a": {"of": 3}}, "parts.a.of: there is no part '3' to copy"),
        ({"a": {"points": {"P": ["x", 0]}}, "b": {"of": "a"}}, "parts.a.points.P: unknown parameter 'x'"),
        ({"a": {}, "b": {"of": "a", "lift": "3 deg"}}, "parts.b.lift: a length is wanted"),
        ({"a": {}, "b": {"of": "a", "mirror": 1}}, "parts.b.mirror: true or false is wanted"),
    ],
)
def test_copies_that_make_no_sense_are_told_once(parts, message):
    with pytest.raises(DocumentError) as raised:
        read_document({"anakinema": 1, "parts": parts})
    assert message in str(raised.value)
    assert len(raised.value.faults) == 1 or "circle" in message or "itself" in message


LINK = {
    "anakinema": 1,
    "parts": {
        "wall": {"fixed": True, "points": {"O": [0, 0]}},
        "link": {"points": {"A": [0, 0], "B": [10, 0]}, "pose": [0, 0, 0],
                 "shapes": [{"kind": "bar", "through": ["A", "B"], "width": 3}]},
    },
    "joints": {"hang": {"type": "revolute", "a": "wall.O", "b": "link.A"}},
}  # fmt: skip


def test_a_strand_of_a_hundred_links_from_one():
    document = changed(read_document(LINK), *strand(read_document(LINK), "link", 100).changes)
    assert len(document.parts) == 101 and len(document.joints) == 100
    motion = simulate(document)
    assert motion.mobility.dof == 100
    last = motion.system.body("link100")
    assert motion.state.q[0, last, 0] == pytest.approx(990)
    assert changed(document, Set(["parts", "link", "points", "B"], [11, 0])).parts["link100"].points["B"] == (11, 0)


def test_rows_and_circles_of_copies():
    document = read_document(LINK)
    row = changed(document, *copy_row(document, "link", 3, 20 + 0j).changes)
    assert [part.pose[0] for part in row.parts.values() if part.of] == pytest.approx([20, 40, 60])
    ring = changed(document, Set(["parts", "link", "pose"], [50, 0, 0]))
    ring = changed(ring, *copy_around(ring, "link", 4, 0j).changes)
    places = [complex(*part.pose[:2]) for part in ring.parts.values() if part.of]
    assert places == pytest.approx([50j, -50, -50j])
    part = changed(document, Set(["parts", "link", "pose"], [50, 0, 0]))
    part = changed(part, *copy_around(part, "link", 3, 0j, math.pi / 2).changes)
    assert [math.degrees(each.pose[2]) for each in part.parts.values() if each.of] == pytest.approx([45, 90])
    with pytest.raises(DocumentError, match="at once"):
        copy_row(document, "link", 0, 1j)
    twin = changed(row, *make_unique(row, "link3").changes)
    assert not twin.parts["link3"].of and twin.parts["link3"].points == row.parts["link3"].points
    with pytest.raises(DocumentError, match="is no copy"):
        make_unique(twin, "link3")


LEGS = {
    "anakinema": 1,
    "parameters": {"pitch": "60 mm"},
    "parts": {
        "frame": {"fixed": True, "points": {"O": [0, 0]}, "pose": [5, 0, 90]},
        "leg": {"points": {"A": [0, 0], "B": [0, 30]}, "pose": [5, 0, -20]},
        "beam": {"points": {"A": [0, 0]}, "pose": [15.261, 28.191, 0]},
    },
    "joints": {
        "foot": {"type": "revolute", "a": "frame.O", "b": "leg.A", "limits": {"min": -150, "max": -60}},
        "head": {"type": "revolute", "a": "leg.B", "b": "beam.A"},
    },
    "drivers": {"swing": {"joint": "foot", "to": -70, "steps": 10}},
}


def stands(document):
    """Where the parts stand at the start."""
    motion = simulate(document)
    return dict(zip(motion.system.body_ids, motion.state.q[0].tolist(), strict=True))


def test_a_row_arrives_joined_and_its_points_follow_the_pitch():
    """Legs of a parallelogram: one beam on three legs keeps its direction, at whatever pitch (Grashof's case of equal
    sides: the coupler translates; common practice, no source)."""
    document = read_document(LEGS)
    made = copy_row(document, "leg", 2, "pitch", stands(document))
    assert not made.left
    document = changed(document, *made.changes)
    for pitch in ("60 mm", "25 mm"):
        document = changed(document, Set(["parameters", "pitch"], pitch))
        motion = simulate(document)
        assert set(document.joints) == {"foot", "foot2", "foot3", "head", "head2", "head3"} and motion.stop is None
        assert motion.mobility.dof == 1
        wide = document.parameters["pitch"].quantity.magnitude
        assert document.parts["frame"].points["O3"] == pytest.approx((0, -2 * wide))  # it is turned by 90 degrees
        assert np.ptp(motion.state.q[:, motion.system.body("beam"), 2]) < 1e-12
        feet = [motion.system.coordinates.index(name) for name in ("foot", "foot2", "foot3")]
        assert np.ptp(motion.state.coordinates[:, feet], axis=1) == pytest.approx(0.0, abs=1e-12)
    apart = changed(read_document(LEGS), *copy_row(read_document(LEGS), "leg", 1, 9j).changes)
    assert len(apart.joints) == 2


def test_a_ring_arrives_joined_and_counts_as_the_first_does():
    document = read_document(LEGS)
    slide = {"type": "prismatic", "a": "frame.O", "b": "beam.A", "direction": 0}
    slid = changed(document, Set(["joints", "slide"], slide))
    made = copy_around(slid, "leg", 3, 5 + 0j, stand=stands(document))
    assert made.left == ()  # the slide is none of its own
    made = copy_around(slid, "beam", 3, 0j, stand=stands(document))
    assert made.left == ("slide",)  # a slide along another line is another mechanism
    document = changed(document, *copy_around(document, "leg", 4, 5 + 0j, stand=stands(document)).changes)
    assert {document.joints[f"foot{k}"].a.point for k in ("2", "3", "4")} == {"O"}  # the center is one place
    motion = simulate(document)
    first = [motion.system.coordinates.index(f"foot{k}") for k in ("", "2", "3", "4")]
    assert motion.state.coordinates[0, first] == pytest.approx([math.radians(-110)] * 4, abs=1e-4)  # as placed, roughly
    assert np.ptp(motion.state.coordinates[:, first], axis=1) == pytest.approx(0.0, abs=1e-8)


def test_a_mirrored_finger_moves_as_in_a_mirror():
    """Two fingers, one turned over, driven by a gear pair of one to one: their tips stay mirror images."""
    document = read_document(LINK)
    document = changed(document, Set(["parts", "link", "pose"], [0, 0, 30]),
                       Set(["parts", "wall", "points", "Q"], [0, -30]),
                       Set(["parts", "link", "points", "B"], [10, 3]))
    document = changed(document, *copy_mirrored(document, "link", -30j).changes)
    other = next(part.id for part in document.parts.values() if part.of)
    document = changed(
        document,
        Set(["parts", other, "pose"], [0, -30, -30]),
        Set(["joints", "hang2"], {"type": "revolute", "a": "wall.Q", "b": f"{other}.A"}),
        Set(["joints", "gear"], {"type": "gear", "a": "hang", "b": "hang2", "teeth": [20, 20], "mesh": "external"}),
    )
    document = changed(document, *drive(document, "hang", math.radians(30), 0.0).changes)
    found = analyse(document, steps=24)
    tips = []
    for name in ("link", other):
        q = found.motion.state.q[:, found.motion.system.body(name)]
        tips.append(q[:, 0] + 1j * q[:, 1] + complex(*document.parts[name].points["B"]) * np.exp(1j * q[:, 2]))
    assert tips[1] == pytest.approx(tips[0].conj() - 30j, abs=1e-9)

