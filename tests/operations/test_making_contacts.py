"""Contacts as they are made: of two parts, of all that one meets, from a held edge; what stops; ready shapes."""

import numpy as np
import pytest

from anakinema.document import changed, read_document
from anakinema.document.changes import Set
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats.project import example
from anakinema.kinematics.simulation import simulate
from anakinema.operations import lifted_off, move_apart, stop_here, touch, touch_all
from anakinema.operations.ready import READY, make_ready
from contacts import blocks, box, cam_and_follower, disc


def test_two_parts_are_let_touch_once():
    tree = blocks(3, to=10)
    del tree["joints"]["c1"]
    document = read_document(tree)
    made = touch(document, "b0", "b1")
    assert changed(document, *made.changes).contacts["b0-and-b1"].sides == (("b0",), ("b1",))
    for one, two, text in (("b1", "b2", "a contact already"), ("b0", "b0", "can't touch itself"),
                           ("b0", "frame", "no outline")):  # fmt: skip
        with pytest.raises(DocumentError, match=text):
            touch(document, one, two)


def test_a_part_is_let_touch_all_that_it_meets():
    tree = blocks(4, to=10)
    for k in (1, 2, 3):
        del tree["joints"][f"c{k}"]
    tree["parts"]["b3"]["depth"] = [50, 60]
    document = changed(read_document(tree), *touch_all(read_document(tree), "b0").changes)
    assert [contact.b for contact in document.contacts.values()] == ["b1", "b2"]


def test_what_overlaps_is_moved_apart_least():
    tree = blocks(3, to=60)
    tree["parts"]["b1"]["pose"] = [18, 0, 0]
    document = read_document(tree)
    poses = {part.id: part.pose for part in document.parts.values()}
    apart = changed(document, *move_apart(document, poses).changes)
    assert apart.parts["b1"].pose[0] - apart.parts["b0"].pose[0] == pytest.approx(20, abs=0.01)
    assert apart.parts["b2"].pose == document.parts["b2"].pose
    assert simulate(apart).stop is None
    assert analyse(document).advice[0].mend == move_apart(document, poses).changes
    with pytest.raises(DocumentError, match="nothing that a contact keeps apart overlaps"):
        move_apart(apart, {part.id: part.pose for part in apart.parts.values()})


def test_a_held_edge_may_be_let_lift_off():
    document = example("paper-lift")[0]
    name = next(joint.id for joint in document.joints.values() if joint.kind.of_edges)
    lifted = changed(document, *lifted_off(document, name).changes)
    assert name in lifted.contacts and name not in lifted.joints


def test_a_stop_is_made_where_a_part_stands():
    tree = cam_and_follower(disc(10), box(40, 8, y=4))
    del tree["joints"]["touch"]
    tree["parts"]["foot"]["pose"] = [0, 20, 0]
    tree["drivers"]["d"] = {"joint": "lift", "from": 20, "to": 60, "steps": 4}
    document = read_document(tree)
    motion = simulate(document)
    q = motion.positions(np.array([motion.path.t1 / 2]))[0]
    poses = {part: tuple(q[motion.system.body(part)].tolist()) for part in document.parts}
    stopped = changed(document, *stop_here(document, "foot", poses, 1j).changes)
    stop = simulate(stopped).stop
    assert stop is not None and stop.reason == "contact" and stop.driver == pytest.approx(40, abs=1e-4)


@pytest.mark.parametrize("kind", READY)
def test_ready_shapes_are_ordinary_and_follow_their_parameters(kind: str):
    nothing = read_document({"anakinema": 1})
    document = changed(nothing, *make_ready(nothing, kind, 10 + 5j, 40.0).changes)
    assert simulate(document).stop is None
    again = changed(document, *make_ready(document, kind, 200 + 0j, 40.0).changes)  # another beside it
    assert len(again.parts) == 2 * len(document.parts) and simulate(again).stop is None
    size = next(name for name, one in document.parameters.items() if one.expression.endswith(" mm"))
    larger = changed(document, Set(("parameters", size), "60 mm"))
    assert simulate(larger).stop is None
    if READY[kind].count:
        with pytest.raises(DocumentError, match="a whole number"):
            make_ready(document, kind, 0j, 40.0, 2)
