"""Mechanisms built by operations alone, from an empty document, against closed forms."""

import cmath
import math

import pytest

from anakinema.document import changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.geometry.features import Feature, FeatureKind
from anakinema.kinematics.simulation import simulate
from anakinema.operations import (
    Grab,
    Proposal,
    add_bar,
    add_disc,
    add_hole,
    add_plate,
    drive,
    duplicate,
    features,
    join,
    kinds_for,
    leave,
    make_parameter,
    named_value,
    pinned,
    proposed,
)

EMPTY = {"anakinema": 1, "title": "New", "parts": {}}


def poses(document):
    """Where the rough placements put the parts."""
    return {name: part.pose for name, part in document.parts.items()}


def grab(document, part, word, number=0):
    """A feature of a part by what it is."""
    found = [feature for feature in features(document.parts[part]) if word in (feature.kind.value, feature.name)]
    return Grab(part, found[number])


def done(document, made):
    return changed(document, *made.changes), str(made.place[-1])


def slider_crank(throw=20.0, rod=70.0, offset=10.0):
    """An offset slider-crank drawn on a frame plate: a crank and a rod, each drawn from a feature, and a block."""
    document, frame = done(read_document(EMPTY), add_plate(read_document(EMPTY), 0j, 160, 60))
    document, _ = done(document, add_hole(document, frame, -50 + 0j, 6))
    pivot = grab(document, frame, "hole")
    crank = add_bar(document, [-50 + 0j, -50 + throw], 8)
    document, crank = done(document, pinned(document, crank, poses(document), {"A": pivot}))
    start = complex(-50 + throw, 0)
    end = start + complex(math.sqrt(rod**2 - offset**2), offset)
    made = add_bar(document, [start, end], 6)
    document, rod_name = done(document, pinned(document, made, poses(document), {"A": grab(document, crank, "B")}))
    made = add_plate(document, end, 16, 10)
    document, block = done(document, made)
    wanted = Proposal("revolute", grab(document, rod_name, "B"), grab(document, block, "centre"), bring=False)
    document, _ = done(document, join(document, wanted, poses(document)))
    side = grab(document, frame, "middle of a side", 2)  # the upper one; its direction is that of the slide
    wanted = Proposal("prismatic", side, grab(document, block, "centre"), bring=False)
    document, slide = done(document, join(document, wanted, poses(document)))
    document, _ = done(document, drive(document, "pin", 0.0, 100.0))
    return document, slide


def test_an_offset_slider_crank_has_the_stroke_of_the_textbook():
    """Stroke √((l + r)² − e²) − √((l − r)² − e²); R. L. Norton, Design of Machinery (from memory)."""
    document, slide = slider_crank()
    assert document.parts["frame"].fixed and not document.parts["bar"].fixed
    found = analyse(document)
    assert found.motion.stop is None and found.motion.mobility.dof == 1
    column = found.motion.system.coordinates.index(slide)
    travel = found.motion.extremes.high[column] - found.motion.extremes.low[column]
    assert travel == pytest.approx(math.sqrt(90**2 - 10**2) - math.sqrt(50**2 - 10**2), abs=1e-9)


def test_bars_drawn_on_features_of_others_are_pinned_there():
    """A parallelogram of four bars: the coupler keeps its direction through the whole turn."""
    document, frame = done(read_document(EMPTY), add_bar(read_document(EMPTY), [0j, 80 + 0j]))
    for start, hole in ((0j, "A"), (80 + 0j, "B")):
        made = add_bar(document, [start, start + 30j], length="30 mm")
        document, _ = done(document, pinned(document, made, poses(document), {"A": grab(document, frame, hole)}))
    made = add_bar(document, [30j, 80 + 30j])
    holes = {"A": grab(document, "bar", "B"), "B": grab(document, "bar2", "B")}
    document, coupler = done(document, pinned(document, made, poses(document), holes))
    assert document.tree["parts"]["bar"]["points"]["B"] == ["30 mm", 0] and len(document.joints) == 4
    document, _ = done(document, drive(document, "pin", math.pi / 2, 0.0))
    motion = simulate(document)
    body = motion.system.body(coupler)
    assert motion.stop is None and abs(motion.state.q[:, body, 2]).max() < 1e-9


def test_the_middle_between_two_sides_that_face_each_other_is_a_feature():
    corners = [[0, 0], [40, 0], [40, 10], [20, 10], [20, 30], [0, 30]]
    document = read_document({"anakinema": 1, "parts": {"p": {"shapes": [{"kind": "polygon", "vertices": corners}]}}})
    found = [one for one in features(document.parts["p"]) if one.kind.value == "middle between two sides"]
    assert any(abs(one.at - (10 + 17.5j)) < 1e-9 for one in found)  # of the two sides of the upright
    assert {round(abs(math.sin(one.direction)), 6) for one in found} == {0.0, 1.0}


def test_features_are_named_once_and_say_what_they_are():
    document, frame = done(read_document(EMPTY), add_plate(read_document(EMPTY), 0j, 40, 20))
    document, _ = done(document, add_hole(document, frame, 5 + 2j, 3))
    words = [feature.kind.value for feature in features(document.parts[frame])]
    assert sorted(set(words)) == ["centre", "corner", "hole", "middle of a side", "rim"] and words.count("corner") == 4
    assert next(feature.description(frame) for feature in features(document.parts[frame])) == "B, hole of frame"


def test_the_joint_type_is_proposed_by_the_features():
    document = read_document(
        {"anakinema": 1, "parts": {
            "plate": {"fixed": True, "shapes": [
                {"kind": "rectangle", "center": [0, 0], "size": [60, 30]},
                {"kind": "slot", "through": [[-10, 0], [10, 0]], "width": 6, "cut": True}]},
            "arm": {"points": {"P": [0, 0], "Q": [30, 0]}, "pose": [0, 40, 0],
                    "shapes": [{"kind": "bar", "through": ["P", "Q"], "width": 6}]},
            "block": {"pose": [0, 80, 10], "shapes": [{"kind": "rectangle", "center": [0, 0], "size": [10, 10]}]},
        }}
    )
    slot, end = grab(document, "plate", "slot"), grab(document, "arm", "P")
    sides = grab(document, "plate", "middle of a side", 2), grab(document, "block", "middle of a side", 0)
    assert kinds_for(end, slot)[0] == "pin-slot" and kinds_for(end, grab(document, "block", "centre"))[0] == "revolute"
    assert kinds_for(*sides)[0] == "prismatic"
    after, name = done(document, join(document, proposed(end, slot), poses(document)))
    assert after.joints[name].a.part == "plate" and after.tree["joints"][name]["direction"] == 0
    assert after.parts["arm"].pose[:2] == pytest.approx((0, 0))  # brought to the slot, though it was picked first
    after, name = done(document, join(document, proposed(*sides), poses(document)))
    assert after.parts["block"].pose == pytest.approx((0, 20, 0), abs=1e-9)
    assert simulate(after).mobility.dof >= 1


def test_what_needs_others_goes_with_them_and_values_take_the_place_of_parameters():
    document, slide = slider_crank()
    leaving = leave(document, ("parts", "bar"))
    gone = {".".join(map(str, place)) for place in leaving.also}
    assert gone == {"joints.pin", "joints.pin2", "drivers.drive"}
    after = changed(document, *leaving.changes)
    assert set(after.joints) == {"pin3", slide} and not after.drivers
    tree = {**EMPTY, "parameters": {"a": "b + 1", "b": 2}, "parts": {"f": {"points": {"P": ["2*b", "a"]}}}}
    after = changed(read_document(tree), *leave(read_document(tree), ("parameters", "b")).changes)
    assert after.parts["f"].points["P"] == (4.0, 3.0) and after.tree["parts"]["f"]["points"]["P"][0] == "2*(2)"
    document, frame = done(read_document(EMPTY), add_plate(read_document(EMPTY), 0j, 40, 20))
    document, _ = done(document, add_hole(document, frame, 5 + 2j, 3))
    document, _ = done(document, add_hole(document, frame, 8 + 2j, 3))
    after = changed(document, *leave(document, ("parts", frame, "points", "B")).changes)
    assert [shape["kind"] for shape in after.tree["parts"][frame]["shapes"]] == ["rectangle", "disc"]
    assert list(after.parts[frame].points) == ["A", "C"]


def test_what_can_not_be_joined_or_driven_is_refused_with_a_reason():
    document, _slide = slider_crank()
    hole = grab(document, "frame", "hole")
    with pytest.raises(DocumentError, match="both features are of one part"):
        join(document, proposed(hole, grab(document, "frame", "corner")), poses(document))
    with pytest.raises(DocumentError, match="driven already"):
        drive(document, "pin", 0.0, 1.0)
    with pytest.raises(DocumentError, match="two places that are apart"):
        add_bar(document, [1j, 1j])
    again, twin = done(document, duplicate(document, "bar", 5 + 5j))
    assert twin == "bar3" and again.parts[twin].points == document.parts["bar"].points
    both, other = done(again, add_disc(again, 50j, "2*10 mm"))
    assert both.tree["parts"][other]["shapes"][0]["diameter"] == "2*10 mm"


def test_a_value_becomes_a_parameter_where_it_stands():
    document, _ = slider_crank()
    after, _ = done(document, make_parameter(document, ("parts", "bar", "points", "B", 0), "throw", "20"))
    assert after.tree["parameters"] == {"throw": "20 mm"} and after.tree["parts"]["bar"]["points"]["B"][0] == "throw"
    after, _ = done(after, make_parameter(after, ("parts", "bar2", "shapes", 0, "width"), "wide", "throw/4"))
    assert after.parts["bar2"].shapes[0].width == 5.0
    with pytest.raises(DocumentError, match="a parameter already"):
        make_parameter(after, ("parts", "bar2", "shapes", 0, "width"), "throw", "3")
    with pytest.raises(DocumentError, match="a unit or a function already"):
        make_parameter(after, ("parts", "bar2", "shapes", 0, "width"), "mm", "3")
    assert named_value("a=2") == ("a", "2") and named_value(" rod_2 = 3*b ") == ("rod_2", "3*b")
    assert [named_value(text) for text in ("a == 2", "2 = a", "a =", "= 2", "3*b")] == [None] * 5


@pytest.mark.parametrize(("first", "kind", "flush"), [
    ("base", "revolute", False), ("arm", "revolute", False), ("arm", "fixed", False), ("base", "fixed", True),
    ("arm", "prismatic", True),
])  # fmt: skip
def test_what_is_joined_lies_before_the_other_whichever_is_picked_first(first: str, kind: str, flush: bool):
    """Nothing is said of the depth of what has just been drawn or brought in; only plates that are welded side to side
    stay in one plane. Where something is said of one part, the other gives way."""
    plate = {"kind": "rectangle", "center": [0, 0], "size": [60, 40]}
    parts = {"base": {"fixed": True, "points": {"A": [0, 0]}, "shapes": [plate], "depth": [0, 6]},
             "arm": {"points": {"A": [0, 0]}, "pose": [5, 3, 20], "shapes": [plate]}}  # fmt: skip
    document = read_document({"anakinema": 1, "parts": parts})
    second = "arm" if first == "base" else "base"
    word = "middle of a side" if flush else "A"
    made = join(document, Proposal(kind, grab(document, first, word), grab(document, second, word)), poses(document))
    after, _ = done(document, made)
    in_one_plane = flush and kind == "fixed"
    assert after.parts["arm"].depth == ((0.0, 1.0) if in_one_plane else (6.0, 7.0))
    assert after.parts["base"].depth == (0.0, 6.0)
    if not in_one_plane:
        assert not analyse(after).same_depth


def test_a_bar_drawn_from_a_feature_and_a_join_to_it_propose_the_same():
    tree = {
        "anakinema": 1,
        "parts": {
            "plate": {"fixed": True, "points": {"A": [0, 0], "B": [40, 0], "S": [0, 20], "T": [40, 20], "C": [20, 40]},
                      "shapes": [{"kind": "rectangle", "center": [20, 20], "size": [80, 80]},
                                 {"kind": "disc", "center": "A", "diameter": 6, "cut": True},
                                 {"kind": "slot", "through": ["S", "T"], "width": 6, "cut": True},
                                 {"kind": "slot", "center": "C", "radius": 10, "from": 0, "to": 90, "width": 4,
                                  "cut": True},
                                 {"kind": "disc", "center": [90, 0], "diameter": 30}]},
            "link": {"points": {"A": [0, 0], "B": [50, 0]}, "pose": [0, 100, 0],
                     "shapes": [{"kind": "bar", "through": ["A", "B"], "width": 8}]},
        },
    }  # fmt: skip
    document = read_document(tree)
    for part in ("plate", "link"):
        for feature in features(document.parts[part]):
            if abs(feature.at) < 1e-9 and part == "link":
                continue
            taken = Grab(part, feature)
            x, y, angle = document.parts[part].pose
            there = complex(x, y) + feature.at * cmath.rect(1.0, angle)
            made = pinned(document, add_bar(document, [there, there + 30j]), poses(document), {"A": taken})
            (joint,) = changed(document, *made.changes).joints.values()
            wanted = proposed(taken, Grab("bar", Feature(0j, FeatureKind.END, "A")))
            assert joint.type == wanted.kind, feature.kind
