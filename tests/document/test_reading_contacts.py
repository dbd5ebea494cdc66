"""Contacts as they are read: what they may name, and what is told of those that can't touch."""

from typing import Any

import pytest

from anakinema.document import Rename, changed, read_document
from anakinema.document.model import Document
from anakinema.errors import DocumentError
from anakinema.formats.project import dumps, loads
from anakinema.kinematics.simulation import simulate
from contacts import blocks, box


def faults(**contact: Any) -> list[str]:
    tree = blocks(3, to=10)
    tree["joints"]["c1"] = {"type": "contact", **contact}
    with pytest.raises(DocumentError) as told:
        read_document(tree)
    return [str(fault) for fault in told.value.faults]


def warnings(document: Document) -> list[str]:
    return [str(fault) for fault in document.warnings]


def test_what_makes_no_sense_is_refused_at_its_place():
    assert faults(a="b0", b="b0") == ["joints.c1: lets 'b0' touch itself; 'a' and 'b' must be two"]
    assert faults(a="b0", b="b7")[0].startswith("joints.c1.b: there is no part, group or sub-assembly 'b7'")
    assert faults(a="b0") == ["joints.c1: 'b' is missing"]
    assert faults(a="b0", b=["b1"])[0].startswith("joints.c1.b: there is no part")
    tree = blocks(2, to=10)
    tree["joints"]["s0"]["limits"] = {"pushes": True}
    tree["checks"] = {"c": {"measure": "travel", "joint": "c1", "at_most": 1},
                      "d": {"measure": "in_contact", "contact": "s0", "at_least": 1}}  # fmt: skip
    with pytest.raises(DocumentError) as told:
        read_document(tree)
    texts = " ".join(str(fault) for fault in told.value.faults)
    assert "limits.pushes: is for a joint with a 'rest'" in texts
    assert "'c1' is a contact and has no coordinate" in texts and "there is no contact 's0'" in texts


def test_contacts_that_can_not_touch_are_told():
    tree = blocks(3, to=10)
    tree["parts"]["b1"]["depth"] = [20, 30]
    tree["groups"] = {"g": {"parts": ["b1", "b2"]}}
    del tree["joints"]["s2"]
    tree["joints"]["none"] = {"type": "contact", "a": "b0", "b": "frame"}
    document = read_document(tree)
    texts = warnings(document)
    assert "joints.c1: 'b0' and 'b1' share no depth, so that they pass each other; move one along z" in texts
    assert "joints.c2: 'b1' and 'b2' move as one body and never touch anew; the contact holds nothing" in texts
    assert "joints.none: 'frame' has no outline to touch with; draw one" in texts
    assert simulate(document).stop is None


def test_groups_and_sub_assemblies_are_sides_and_names_follow():
    jaw = {"parts": {"arm": {"shapes": box(20, 20)}, "tip": {"pose": [14, 0, 0], "shapes": box(8, 8)}},
           "groups": {"one": {"parts": ["arm", "tip"]}}}  # fmt: skip
    tree = blocks(1, to=80)
    tree["assemblies"] = {"jaw": jaw}
    tree["parts"]["left"] = {"assembly": "jaw", "pose": [60, 0, 0]}
    tree["joints"]["c"] = {"type": "contact", "a": "b0", "b": "left"}
    document = read_document(tree)
    assert document.contacts["c"].sides == (("b0",), ("left/arm", "left/tip"))
    motion = simulate(document)
    assert motion.stop is None and [event.kind for event in motion.path.events] == ["touch"]
    renamed = changed(document, Rename(("parts", "left"), "right"), Rename(("parts", "b0"), "ram"))
    assert (renamed.contacts["c"].a, renamed.contacts["c"].b) == ("ram", "right")
    assert loads(dumps(renamed))[0].contacts == renamed.contacts


def test_a_contact_inside_a_sub_assembly_and_its_mirror_image():
    lever = {
        "parts": {"post": {"fixed": True, "points": {"O": [0, 0]}, "shapes": box(4, 4, x=30, y=-12)},
                  "arm": {"points": {"O": [0, 0]}, "shapes": box(60, 6, x=20)}},
        "joints": {"swing": {"type": "revolute", "a": "post.O", "b": "arm.O", "limits": {"rest": -90}},
                   "on": {"type": "contact", "a": "arm", "b": "post"}},
    }  # fmt: skip
    tree = {"anakinema": 1, "assemblies": {"lever": lever},
            "parts": {"one": {"assembly": "lever", "fixed": True},
                      "two": {"assembly": "lever", "fixed": True, "mirror": True, "pose": [0, 200, 0]}}}  # fmt: skip
    motion = simulate(read_document(tree))
    start = motion.state.coordinates[0]
    one, two = (start[motion.system.coordinates.index(f"{use}/swing")] for use in ("one", "two"))
    assert one < -0.1 and two == pytest.approx(-one, abs=1e-9)
