"""Sub-assemblies: uses of one definition, placed, turned over, with numbers of their own, frozen, one in another."""

import copy
import math

import jsonschema
import pytest

from anakinema.document import Rename, Set, changed, read_document
from anakinema.document.references import references
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats import project
from anakinema.formats.results import results
from anakinema.kinematics.simulation import simulate
from anakinema.operations import leave

CYLINDER = {
    "parameters": {"stroke": "20 mm"},
    "parts": {
        "tube": {"points": {"A": [0, 0]}, "depth": [0, 4],
                 "shapes": [{"kind": "rectangle", "center": [20, 0], "size": [40, 8]}]},
        "rod": {"points": {"A": [0, 0], "B": ["stroke + 20 mm", 0]}, "pose": ["stroke", 0, 0], "depth": [1, 2],
                "shapes": [{"kind": "bar", "through": ["A", "B"], "width": 3}]},
    },
    "joints": {"push": {"type": "prismatic", "a": "tube.A", "b": "rod.A", "direction": 0,
                        "limits": {"min": 0, "max": "2*stroke"}}},
    "traces": {"tip": {"point": "rod.B"}},
}  # fmt: skip
JAW = {
    "parts": {
        "base": {"fixed": True, "points": {"O": [0, 0]}, "depth": [0, 2]},
        "arm": {"points": {"O": [0, 0], "P": [30, 10]}, "pose": [0, 0, 10], "depth": [2, 5],
                "shapes": [{"kind": "bar", "through": ["O", "P"], "width": 4, "depth": [4, 5]}]},
    },
    "joints": {"swing": {"type": "revolute", "a": "base.O", "b": "arm.O", "zero": 5, "limits": {"min": -5, "max": 60}}},
}  # fmt: skip


def tree(parts=None, **more):
    return {"anakinema": 1, "assemblies": {"cylinder": copy.deepcopy(CYLINDER), "jaw": copy.deepcopy(JAW)},
            "parts": parts or {"left": {"assembly": "cylinder", "pose": [10, 0, 90]}}, **more}  # fmt: skip


def test_its_parts_joints_and_traces_are_addressed_behind_its_name():
    document = read_document(tree())
    jsonschema.validate(document.tree, project.schema())
    assert list(document.parts) == ["left/tube", "left/rod"]
    assert str(document.joints["left/push"].b) == "left/rod.A"
    assert str(document.traces["left/tip"].point) == "left/rod.B"
    x, y, angle = document.parts["left/rod"].pose
    assert (x, y, angle) == pytest.approx((10, 20, math.pi / 2))
    assert document.home("parts", "left/rod") == ("assemblies", "cylinder", "parts", "rod")
    assert document.values["assemblies.cylinder.parts.rod.points.B.0"].number == 40


def test_a_use_has_numbers_of_its_own():
    two = {"left": {"assembly": "cylinder"},
           "right": {"assembly": "cylinder", "pose": [0, 50, 0], "parameters": {"stroke": "2*wide"}}}  # fmt: skip
    document = read_document(tree(two, parameters={"wide": "15 mm"}))
    assert document.parts["left/rod"].points["B"] == (40, 0)
    assert document.parts["right/rod"].points["B"] == (50, 0)
    assert document.joints["right/push"].limits.max == 60
    wider = changed(document, Set(["parameters", "wide"], "25 mm"))
    assert wider.parts["right/rod"].points["B"] == (70, 0)
    assert wider.parts["left/rod"].points["B"] == (40, 0)
    longer = changed(wider, Set(["assemblies", "cylinder", "parameters", "stroke"], "30 mm"))
    assert longer.parts["left/rod"].points["B"] == (50, 0)  # an edit reaches every use at once
    assert longer.parts["right/rod"].points["B"] == (70, 0)


def test_the_document_s_parameters_are_seen_in_a_definition_and_its_own_come_first():
    given = tree(parameters={"stroke": "1 mm", "bore": "6 mm"})
    given["assemblies"]["cylinder"]["parts"]["tube"]["shapes"][0]["size"] = [40, "bore"]
    document = read_document(given)
    assert document.parts["left/tube"].shapes[0].size == (40, 6)
    assert changed(document, Set(["parameters", "bore"], 7)).parts["left/tube"].shapes[0].size == (40, 7)
    assert document.parts["left/rod"].points["B"] == (40, 0)


def test_one_that_is_turned_over_moves_as_its_mirror_image():
    parts = {"one": {"assembly": "jaw", "fixed": True}, "two": {"assembly": "jaw", "fixed": True, "mirror": True}}
    given = tree(parts, joints={"tie": {"type": "ratio", "a": "one/swing", "b": "two/swing", "ratio": -1}},
                 drivers={"open": {"joint": "one/swing", "to": 40}})  # fmt: skip
    document = read_document(given)
    assert (document.joints["two/swing"].limits.min, document.joints["two/swing"].limits.max) == pytest.approx(
        (math.radians(-60), math.radians(5))
    )
    motion = simulate(document)
    q = motion.positions(motion.grid)
    one, two = (q[:, motion.system.body(f"{name}/arm")] for name in ("one", "two"))
    assert two[:, 2] == pytest.approx(-one[:, 2], abs=1e-9)
    joints = results(analyse(document))["joints"]
    assert joints["one/swing"]["max"] == pytest.approx(40)
    assert joints["two/swing"]["min"] == pytest.approx(-40)
    # its depths are reflected about the middle of its whole extent, 0 to 5 by the base and the arm
    assert document.parts["two/arm"].shapes[0].depth == (0, 1)
    assert document.parts["one/arm"].shapes[0].depth == (4, 5)
    assert document.parts["two/base"].depth == (3, 5)


def test_fixed_only_where_the_use_says_so_else_what_is_fixed_is_one_body():
    given = tree({"jaw": {"assembly": "jaw"}})
    given["assemblies"]["jaw"]["parts"]["plate"] = {"fixed": True, "points": {"P": [9, 9]}}
    document = read_document(given)
    assert document.fixed_parts == []
    assert set(document.groups["jaw"].parts) == {"jaw/base", "jaw/plate"}
    still = changed(document, Set(["parts", "jaw", "fixed"], True))
    assert still.fixed_parts == ["jaw/base", "jaw/plate"]
    frozen = changed(document, Set(["parts", "jaw", "frozen"], True))
    assert len(frozen.groups["jaw"].parts) == 3
    assert results(analyse(frozen))["mobility"]["dof"] == 3  # nothing is left of it but one free body
    nothing = changed(read_document(tree()), Set(["parts", "left", "fixed"], True))
    assert "nothing in 'cylinder' is fixed" in str(nothing.warnings)


def test_one_stands_in_another_and_poses_are_kept_for_each_use():
    arm = {"parts": {"beam": {"points": {"A": [0, 0]}}, "ram": {"assembly": "cylinder", "pose": [0, 5, 0]}},
           "joints": {"foot": {"type": "revolute", "a": "beam.A", "b": "ram/tube.A"}}}  # fmt: skip
    given = tree({"boom": {"assembly": "arm", "pose": [100, 0, 0], "poses": {"ram/rod": [7, 8, 90]}}})
    given["assemblies"]["arm"] = arm
    document = read_document(given)
    assert "boom/ram/rod" in document.parts
    assert document.parts["boom/ram/rod"].pose == pytest.approx((107, 8, math.pi / 2))
    assert document.uses["boom/ram"].assembly == "cylinder"
    assert document.home("joints", "boom/ram/push") == ("assemblies", "cylinder", "joints", "push")
    assert str(document.joints["boom/foot"].b) == "boom/ram/tube.A"


def test_copies_of_a_use_are_uses():
    document = read_document(tree({"left": {"assembly": "cylinder"}, "right": {"of": "left", "pose": [50, 0, 0]}}))
    assert document.parts["right/rod"].pose == (70, 0, 0)


BAD = [
    (tree({"a": {"assembly": "cylnder"}}), "parts.a.assembly: there is no sub-assembly 'cylnder' (did you mean 'cyl"),
    (tree({"a": {"assembly": 3}}), "parts.a.assembly: there is no sub-assembly '3'"),
    (tree({"a": {"assembly": "jaw", "parameters": {"reach": 1}}}), "'jaw' has no parameter 'reach'"),
    (tree({"a": {"assembly": "cylinder", "parameters": {"stroke": "-20 mm"}}}),
     "parts.a.parameters: with these numbers 'cylinder' makes no sense: joints.push.limits"),
    (tree({"a": {"assembly": "jaw", "poses": {"leg": [0, 0, 0]}}}), "parts.a.poses.leg: 'jaw' has no part 'leg'"),
    (tree({"a": {"assembly": "jaw", "frozen": 1}}), "parts.a.frozen: true or false is wanted"),
    (tree(checks={"c": {"measure": "clearance", "parts": ["left", "left/rod"], "at_least": 1}}),
     "'left' is a sub-assembly; name one of its parts, such as 'left/tube'"),
    ({**tree(), "assemblies": []}, "assemblies: an object is wanted"),
    ({**tree(), "assemblies": {"cylinder": {"parts": {"tube": {"depth": [3, 1]}}}}},
     "assemblies.cylinder.parts.tube.depth: runs from 3 to 1"),
]  # fmt: skip


@pytest.mark.parametrize(("given", "message"), BAD, ids=[message[:40] for _, message in BAD])
def test_what_makes_no_sense_is_refused_with_its_place(given, message):
    with pytest.raises(DocumentError) as caught:
        read_document(given)
    assert message in str(caught.value)


def test_a_definition_with_faults_tells_them_once_and_at_their_own_places():
    """Found by mutants: a coupling that ties nothing, in a definition whose use is turned over."""
    given = tree({"one": {"assembly": "jaw", "mirror": True}, "two": {"assembly": "jaw"}})
    given["assemblies"]["jaw"]["joints"] |= {"tie": {"type": "ratio", "a": "none", "b": "swing", "ratio": 1},
                                             "odd": {"type": "nothing", "a": "base.O", "b": "arm.O"}}  # fmt: skip
    with pytest.raises(DocumentError) as caught:
        read_document(given)
    places = [fault.place for fault in caught.value.faults]
    assert places == ["assemblies.jaw.joints.odd.type", "assemblies.jaw.joints.tie.a"]


def test_a_circle_of_definitions_and_too_many_parts_are_refused():
    given = tree()
    given["assemblies"]["jaw"]["parts"]["more"] = {"assembly": "cylinder"}
    given["assemblies"]["cylinder"]["parts"]["more"] = {"assembly": "jaw"}
    with pytest.raises(DocumentError, match="can't hold itself: cylinder → jaw → cylinder"):
        read_document(given)
    doubled = {f"d{k}": {"parts": {side: {"assembly": f"d{k - 1}"} for side in "ab"}} for k in range(1, 40)}
    with pytest.raises(DocumentError, match="more than 20000 parts"):
        read_document({"anakinema": 1, "assemblies": {"d0": {"parts": {"p": {}}}, **doubled},
                       "parts": {"all": {"assembly": "d39"}}})  # fmt: skip


FULL = tree(
    {"frame": {"fixed": True, "points": {"A": [0, 0]}}, "plate": {},
     "left": {"assembly": "cylinder", "parameters": {"stroke": 25}, "poses": {"rod": [30, 0, 0]}}},
    groups={"foot": {"parts": ["plate", "left/tube"]}},
    joints={"pin": {"type": "revolute", "a": "frame.A", "b": "left/rod.B"}},
    drivers={"push": {"joint": "left/push", "to": 40}},
    measures={"gap": {"measure": "distance", "a": "frame.A", "b": "left/rod.B"},
              "lean": {"measure": "angle", "a": "frame", "b": ["left/rod.A", "left/rod.B"]}},
    checks={"far": {"measure": "measured", "of": "gap", "at_most": 300},
            "way": {"measure": "travel", "joint": "left/push", "at_least": 1}},
    positions={"out": {"joints": {"left/push": 40}}, "driven": {"drivers": {"push": 9}}},
)  # fmt: skip


@pytest.mark.parametrize("place", [
    ("parts", "left"), ("parts", "frame"), ("assemblies", "cylinder"), ("assemblies", "cylinder", "parts", "rod"),
    ("assemblies", "cylinder", "parts", "rod", "points", "B"), ("assemblies", "cylinder", "joints", "push"),
    ("assemblies", "cylinder", "parameters", "stroke"), ("drivers", "push"), ("measures", "gap"),
], ids=".".join)  # fmt: skip
def test_whatever_is_renamed_all_that_speaks_of_it_follows(place):
    document = read_document(FULL)
    after = changed(document, Rename(place, "other"))
    assert sorted(results(analyse(after))["checks"]["way"]) == sorted(results(analyse(document))["checks"]["way"])
    assert not [one for one in references(after) if one.names(place)]
    assert changed(after, Rename((*place[:-1], "other"), place[-1])).tree == document.tree


def test_what_is_taken_out_of_a_definition_goes_from_every_use_with_what_needs_it():
    document = read_document(FULL)
    leaving = leave(document, ("assemblies", "cylinder", "parts", "rod"))
    gone = {".".join(map(str, place)) for place in leaving.also}
    assert {"assemblies.cylinder.joints.push", "joints.pin", "measures.gap", "checks.far", "drivers.push",
            "parts.left.poses.rod"} <= gone  # fmt: skip
    after = changed(document, *leaving.changes)
    assert list(after.parts) == ["frame", "plate", "left/tube"]
    assert "left" not in changed(document, *leave(document, ("assemblies", "cylinder")).changes).tree["parts"]


def test_a_definition_is_read_again_when_a_parameter_of_any_of_its_parts_changes():
    tree = {
        "anakinema": 1,
        "parameters": {"reach": 10},
        "assemblies": {"arm": {"parts": {"one": {"points": {"P": ["reach", 0]}}, "two": {"points": {"Q": [3, 0]}}}}},
        "parts": {"left": {"assembly": "arm"}},
    }
    document = read_document(tree)
    assert changed(document, Set(("parameters", "reach"), 12)).parts["left/one"].points["P"] == (12.0, 0.0)
