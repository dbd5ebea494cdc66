"""Taking parts together: groups, sub-assemblies, the clipboard, another document put in."""

import cmath
import json
import math

import numpy as np
import pytest

from anakinema.document import Set, changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats import project
from anakinema.formats.results import results
from anakinema.geometry.rings import area
from anakinema.kinematics.positions import fixing, stands_at, way_to
from anakinema.kinematics.simulation import simulate
from anakinema.measures.between import taken
from anakinema.operations import (
    Grab,
    add_angled,
    add_arc_slot,
    add_boss,
    add_hole,
    add_outline,
    add_slot,
    clip,
    couple,
    couplings_for,
    features,
    gather,
    group,
    group_still,
    insert,
    leave,
    measure,
    paste,
    use_again,
)


def numbers(document):
    """All that is found, whatever things are called."""
    found = results(analyse(document))
    joints = sorted((name.rpartition("/")[2], *one.values()) for name, one in found["joints"].items())
    every = [value for _, *values in joints for value in values]
    every += [one["value"] for one in found["checks"].values()]
    every += sorted(one["min"] for one in found["clearance"])
    return pytest.approx([*every, found["mobility"]["dof"]], abs=1e-6)


@pytest.mark.parametrize("name", ["sewing-head", "folder-drive", "paper-lift"])
def test_what_is_made_a_sub_assembly_moves_as_before(name):
    document, _ = project.example(name)
    moving = [part.id for part in document.parts.values() if not part.fixed]
    for chosen in (moving, moving[:2], list(document.parts)):
        made = gather(document, chosen)
        after = changed(document, *made.changes)
        assert set(after.uses) == {made.place[1]}
        assert numbers(after).expected == numbers(document)


def test_the_use_can_be_placed_again_and_follows_the_definition():
    document, _ = project.example("sewing-head")
    made = gather(document, ["crank", "rod"], "drive")
    after = changed(document, *made.changes)
    again = use_again(after, "drive", 100 + 50j, mirror=True)
    two = changed(after, *again.changes)
    assert again.place == ("uses", "drive2")
    assert two.parts["drive2/crank"].points.keys() == two.parts["drive/crank"].points.keys()
    hole = add_hole(two, "drive2/rod", 5 + 1j, 2)
    more = changed(two, *hole.changes)
    (new,) = more.parts["drive/rod"].points.keys() - two.parts["drive/rod"].points.keys()
    assert more.parts["drive2/rod"].points[new] == pytest.approx((5, 1))  # where it was made
    assert more.parts["drive/rod"].points[new] == pytest.approx((5, -1))  # and its mirror image


def test_what_is_copied_stands_by_itself_and_is_pasted_under_free_names():
    document, _ = project.example("sewing-head")
    piece = clip(document, ["crank", "rod"])
    alone = read_document(piece)
    assert set(alone.parts) == {"crank", "rod"}
    assert all({joint.a.part, joint.b.part} <= set(alone.parts) for joint in alone.joints.values())
    made = paste(document, piece, 30 + 0j)
    after = changed(document, *made.changes)
    assert {"crank2", "rod2"} <= set(after.parts)
    assert after.parts["crank2"].pose[0] == pytest.approx(document.parts["crank"].pose[0] + 30)
    assert after.parameters.keys() == document.parameters.keys()
    other = changed(document, Set(("units", "length"), "cm"), Set(("checks",), {}), Set(("pairs",), {}))
    with pytest.raises(DocumentError, match="is in mm and deg, this document in cm"):
        paste(other, piece, 0j)


def test_another_document_is_put_in_with_all_that_it_needs():
    document, _ = project.example("folder-drive")
    other, _ = project.example("sewing-head")
    once = changed(document, *insert(document, other, "head", 200j).changes)
    twice = changed(once, *insert(once, other, "head").changes)
    assert {"head/crank", "head2/crank"} <= set(twice.parts)
    assert list(twice.assemblies) == ["head", "head2"]
    assert twice.drivers.keys() == document.drivers.keys()
    empty = read_document({"anakinema": 1})
    first = changed(empty, *insert(empty, other, "head").changes)
    assert [part for part in first.fixed_parts if part.startswith("head/")]


def test_groups_are_made_of_what_is_selected_and_of_what_stands_still():
    tree = {"anakinema": 1, "parts": {name: {"points": {"A": [0, 0]}} for name in "abcd"}}
    document = read_document(tree)
    one = changed(document, *group(document, ["a", "b", "c"]).changes)
    two = changed(one, *group(one, ["c", "d"]).changes)
    assert [set(found.parts) for found in two.groups.values()] == [{"a", "b"}, {"c", "d"}]
    three = changed(two, *group(two, ["b", "d"]).changes)
    assert [set(found.parts) for found in three.groups.values()] == [{"b", "d"}]
    still = changed(document, Set(("parts", "a", "fixed"), True))
    assert set(changed(still, *group_still(still, ["b"]).changes).fixed_parts) == {"a", "b"}
    with pytest.raises(DocumentError, match="two parts or more"):
        group(document, ["a"])


def test_a_copy_that_would_stay_behind_is_told():
    document = read_document({"anakinema": 1, "parts": {"a": {}, "b": {"of": "a"}, "c": {"of": "a", "mirror": True}}})
    with pytest.raises(DocumentError, match="is a copy of 'a'; select it too"):
        gather(document, ["a"])
    alone = changed(document, *gather(document, ["b"]).changes)
    assert "unit/b" in alone.parts
    with pytest.raises(DocumentError, match="turned over or lifted; take that along"):
        gather(document, ["c"])


# -- shapes ----------------------------------------------------------------------------------------------------

EMPTY = read_document({"anakinema": 1})
PLATE = read_document({"anakinema": 1, "parts": {"p": {"shapes": [
    {"kind": "rectangle", "center": [0, 0], "size": [100, 60]}]},
    "q": {"of": "p", "mirror": True, "pose": [0, 90, 0]}}})  # fmt: skip


def covered(document, part):
    """The area of a part's outline, its holes taken off."""
    (slab,) = document.parts[part].slabs
    return sum(area(slab.region.edges.pick(loop)) for loop in slab.region.loops)


def test_slots_take_away_what_they_should():
    whole = covered(PLATE, "p")
    straight = changed(PLATE, *add_slot(PLATE, "p", -20 + 0j, 20 + 0j, 6).changes)
    assert whole - covered(straight, "p") == pytest.approx(40 * 6 + math.pi * 9)
    arc = changed(PLATE, *add_arc_slot(PLATE, "p", 0j, 20 + 0j, 20j, 4).changes)
    assert whole - covered(arc, "p") == pytest.approx(math.pi / 2 * 20 * 4 + math.pi * 4)
    over = changed(PLATE, *add_arc_slot(PLATE, "q", 0j, 20 + 0j, 20j, 4).changes)  # on a copy that is turned over
    shape = over.parts["q"].shapes[-1]
    ends = sorted(math.degrees(angle) for angle in (shape.start, shape.stop))
    assert ends == pytest.approx([0, 90])
    with pytest.raises(DocumentError, match="two ends that are apart"):
        add_slot(PLATE, "p", 0j, 0j, 3)


def test_outlines_of_lines_and_arcs():
    square = changed(EMPTY, *add_outline(EMPTY, 5 + 5j, [15 + 5j, 15 + 15j, 5 + 15j, 5 + 5j], {}).changes)
    assert covered(square, "frame") == pytest.approx(100)
    assert square.parts["frame"].shapes[0].kind == "polygon"
    half = changed(EMPTY, *add_outline(EMPTY, 0j, [20 + 0j, 0j], {1: 10 + 10j}).changes)
    assert covered(half, "frame") == pytest.approx(math.pi * 50)
    with pytest.raises(DocumentError, match="lie on a line"):
        add_outline(EMPTY, 0j, [20 + 0j, 0j], {1: 10 + 0j})
    with pytest.raises(DocumentError, match="crosses"):  # refused where it is made
        changed(EMPTY, *add_outline(EMPTY, 0j, [10 + 0j, 10j, 10 + 10j], {}).changes)


def test_l_and_t_shapes_and_bosses():
    for tee in (False, True):
        made = changed(EMPTY, *add_angled(EMPTY, 0j, 50, 40, 10, tee).changes)
        assert covered(made, "frame") == pytest.approx(50 * 10 + 30 * 10)
        sized = changed(made, Set(("parameters", "leg"), "10 mm"))
        assert covered(sized, "frame") == pytest.approx(800)
    named = changed(EMPTY, Set(("parameters", "leg"), "10 mm"))
    assert covered(changed(named, *add_angled(named, 0j, 50, 40, "leg", False).changes), "frame") == pytest.approx(800)
    pin = changed(PLATE, *add_boss(PLATE, "p", 10 + 0j, 8, 5).changes)
    assert pin.parts["p"].shapes[-1].depth == (1, 6)
    assert len(pin.parts["p"].slabs) == 2


# -- couplings and positions -----------------------------------------------------------------------------------


def test_two_joints_are_tied_by_what_suits_them():
    document, _ = project.example("sewing-head")
    assert couplings_for(document, "main", "ram") == ["rack", "ratio", "cam"]
    tied = couple(document, "rack", "ram", "main")  # picked the other way round
    assert tied.changes[0].value["a"] == "main"
    with pytest.raises(DocumentError, match="a joint that turns and a joint that turns are wanted"):
        couple(document, "gear", "main", "ram")


def test_distances_and_angles_of_points_and_sides():
    document = changed(PLATE, Set(("parts", "q", "mirror"), False), Set(("parts", "q", "pose"), [0, 90, 10]))
    p, q = (features(document.parts[name]) for name in "pq")
    top = next(one for one in p if one.edge is not None and abs(one.at - 30j) < 1e-9)
    middle = next(one for one in q if one.kind.value == "centre")
    side = next(one for one in q if one.edge is not None and abs(one.at + 30j) < 1e-9)
    for kind, one, two, wanted in (
        ("distance", Grab("p", top), Grab("q", middle), 60.0),  # to the line of the side
        ("distance", Grab("p", p[0]), Grab("q", middle), 90.0),
        ("angle", Grab("p", top), Grab("q", side), math.radians(10) - math.pi),  # their rings run opposite ways
        ("angle", Grab("p", p[0]), Grab("q", middle), math.radians(10)),
    ):
        made = changed(document, *measure(document, kind, one, two).changes)
        (found,) = made.measures.values()
        pose = {name: np.array([part.pose]) for name, part in made.parts.items()}
        value = float(taken(found, made, lambda part, pose=pose: pose[part])[0])
        turns = 2 * math.pi * round((value - wanted) / (2 * math.pi)) if kind == "angle" else 0.0
        assert value - turns == pytest.approx(wanted)
    with pytest.raises(DocumentError, match="both features are one"):
        measure(document, "distance", Grab("p", p[0]), Grab("p", p[0]))


@pytest.mark.parametrize("limits", [{"max": 1 / 3}, {"min": -2 / 3}, {"min": "-0.01 rad"}, {"max": "0.02 rad"}])
@pytest.mark.parametrize("over", [0.0, 1e-9, 1e-5])
def test_a_position_kept_at_a_limit_lies_within_it(limits, over):
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "arm": {"points": {"O": [0, 0]}}},
        "joints": {"pin": {"type": "revolute", "a": "frame.O", "b": "arm.O", "limits": limits}},
    }
    document = project.loads(json.dumps(tree).encode())[0]
    motion, kept = simulate(document), document.joints["pin"].limits
    end = kept.max + over if kept.max is not None else kept.min - over
    value = math.radians(stands_at(document, motion, np.array([end]), by_hand=True)["joints"]["pin"])
    assert abs(value - end) < 1e-10 + over
    assert (kept.max is None or value <= kept.max) and (kept.min is None or value >= kept.min)


def test_a_position_is_reached_on_the_mechanism_s_own_way():
    document, _ = project.example("sewing-head")
    motion = simulate(document)
    column = motion.system.coordinates.index(document.drivers["turn"].joint)
    where = stands_at(document, motion, motion.at(motion.grid[:1] + 0.2).coordinates[0], by_hand=False)
    kept = changed(document, Set(("positions", "open"), where))
    way = way_to(simulate(kept), motion.positions(motion.grid[:1])[0], kept.positions["open"])
    end = way.at(way.grid[-1:]).coordinates[0]
    assert cmath.isclose(end[column], math.radians(where["drivers"]["turn"]), abs_tol=1e-9)
    assert fixing(motion) == (document.drivers["turn"].joint,)
    after = changed(kept, *leave(kept, ("drivers", "turn")).changes)
    assert not after.positions  # nothing is left of where it stood
