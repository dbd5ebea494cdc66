"""Groups: parts that keep their placement against each other and move as one body."""

import math

import numpy as np
import pytest

from anakinema.clearance.pairs import rigid_bodies
from anakinema.document import Rename, changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.findings.advice import unjoined_parts
from anakinema.findings.chain import chain
from anakinema.kinematics.simulation import simulate
from anakinema.operations import leave

BLOCK = {"shapes": [{"kind": "rectangle", "center": [0, 0], "size": [4, 4]}], "points": {"O": [0, 0]}}
TREE = {
    "anakinema": 1,
    "parts": {
        "frame": {"fixed": True, "points": {"O": [0, 0], "Q": [40, 0]}},
        "crank": {"points": {"O": [0, 0], "P": [10, 0]}, "pose": [0, 0, 90]},
        "rod": {"points": {"P": [0, 0], "S": [35, 5]}, "pose": [0, 10, -10]},
        "rocker": {"points": {"Q": [0, 0], "S": [0, 20]}, "pose": [40, 0, 5]},
        "horn": {**BLOCK, "pose": [20, 30, 37]},
        "bell": {**BLOCK, "pose": [25, 36, -120]},
    },
    "groups": {"tail": {"parts": ["rod", "horn", "bell"]}},
    "joints": {
        "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
        "big": {"type": "revolute", "a": "crank.P", "b": "rod.P"},
        "end": {"type": "revolute", "a": "rod.S", "b": "rocker.S"},
        "foot": {"type": "revolute", "a": "frame.Q", "b": "rocker.Q"},
    },
    "drivers": {"turn": {"joint": "main", "to": 450, "steps": 24}},
}


def test_a_group_moves_as_one_body_through_the_whole_turn():
    motion = simulate(read_document(TREE))
    assert motion.mobility.dof == 1 and motion.mobility.redundant == () and motion.stop is None
    q = motion.state.q
    rod, horn, bell = (q[:, motion.system.body(name)] for name in ("rod", "horn", "bell"))
    for other, pose in ((horn, (20, 30, 37)), (bell, (25, 36, -120))):
        off = complex(pose[0], pose[1] - 10) * np.exp(1j * math.radians(10))
        seen = (other[:, 0] - rod[:, 0] + 1j * (other[:, 1] - rod[:, 1])) * np.exp(-1j * rod[:, 2])
        assert np.abs(seen - off).max() < 1e-9
        assert np.abs(np.exp(1j * (other[:, 2] - rod[:, 2] - math.radians(pose[2] + 10))) - 1).max() < 1e-9
    assert np.ptp(rod[:, 2]) > 0.1


def test_it_is_one_body_for_clearance_advice_and_make_up():
    document = read_document(TREE)
    body = rigid_bodies(document)
    assert body["rod"] == body["horn"] == body["bell"] != body["crank"]
    assert not analyse(document).approaches and not unjoined_parts(document)
    assert len(chain(document)) == 1
    apart = read_document({**TREE, "groups": {}})
    assert len(analyse(apart).approaches) == 1 and unjoined_parts(apart) == ["horn", "bell"]


def test_a_joint_within_a_group_is_what_is_redundant():
    joints = {**TREE["joints"], "bolt": {"type": "fixed", "a": "horn.O", "b": "bell.B"}}
    parts = {**TREE["parts"], "bell": {**BLOCK, "pose": [25, 36, -120], "points": {"O": [0, 0], "B": [0, 0]}}}
    with pytest.raises(DocumentError, match=r"groups\.tail: its parts can't keep their places"):
        simulate(read_document({**TREE, "parts": parts, "joints": joints}))
    off = (complex(-5, -6) * np.exp(1j * math.radians(120))).item()
    parts["bell"]["points"]["B"] = [off.real, off.imag]  # where the horn's point is, seen from the bell
    for kind in ("fixed", "revolute"):
        joints["bolt"]["type"] = kind
        motion = simulate(read_document({**TREE, "parts": parts, "joints": joints}))
        assert motion.mobility.redundant == ("bolt",) and motion.mobility.dof == 1


def test_one_fixed_part_fixes_its_group():
    tree = {**TREE, "groups": {"stand": {"parts": ["horn", "frame"]}}}
    document = read_document(tree)
    assert document.parts["horn"].fixed and document.tree["parts"]["horn"] == TREE["parts"]["horn"]
    motion = simulate(document)
    assert motion.mobility.redundant == ()
    horn = motion.state.q[:, motion.system.body("horn")]
    assert np.abs(horn - horn[0]).max() == 0 and horn[0, 0] == pytest.approx(20)


def test_names_and_leaving_are_followed():
    document = changed(read_document(TREE), Rename(["parts", "horn"], "siren"), Rename(["groups", "tail"], "end"))
    assert document.groups["end"].parts == ("rod", "siren", "bell")
    left = changed(document, *leave(document, ("parts", "siren")).changes)
    assert left.groups["end"].parts == ("rod", "bell")
    left = changed(document, *leave(document, ("parts", "siren"), ("parts", "bell"), ("parts", "rod")).changes)
    assert not left.groups and set(left.parts) == {"frame", "crank", "rocker"}


@pytest.mark.parametrize(
    ("groups", "message"),
    [
        ({"g": {"parts": ["rod", "hron"]}}, "there is no part 'hron' (did you mean 'horn'?)"),
        ({"g": {"parts": ["rod"]}, "h": {"parts": ["rod", "bell"]}}, "part 'rod' is in group 'g' already"),
        ({"g": {"parts": ["rod", "rod"]}}, "names the same part twice"),
        ({"g": {"parts": []}}, "at least 1 entries are wanted"),
        ({"g": {}}, "'parts' is missing"),
        ({"g": {"parts": [3]}}, "there is no part '3'"),
        ({"g": 3}, "an object is wanted"),
        ([], "an object is wanted, this is a list"),
    ],
)
def test_groups_that_make_no_sense_are_told(groups, message):
    with pytest.raises(DocumentError) as raised:
        read_document({**TREE, "groups": groups})
    assert message in str(raised.value)
