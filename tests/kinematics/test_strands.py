"""Undriven freedoms under a driver: least movement, exact at the taut end, in linear time."""

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.kinematics.loose import STEPS
from anakinema.kinematics.simulation import simulate
from mechanisms import document


def strand(count: int, length: float = 12.0, sag: float = 0.5, pull: float = 2.0) -> dict:
    """A strand of links pinned to the frame; a block on a slide pulls its end to `pull` times as far as it reaches."""
    parts = {"frame": {"points": {"O": [0, 0], "way": [0, 0]}}}
    joints = {}
    end = complex(0)
    for i in range(count):
        angle = sag * (-1) ** i
        parts[f"link{i}"] = {
            "points": {"A": [0, 0], "B": [length, 0]}, "pose": [end.real, end.imag, float(np.degrees(angle))],
        }  # fmt: skip
        joints[f"pin{i}"] = {"type": "revolute", "a": f"link{i - 1}.B" if i else "frame.O", "b": f"link{i}.A"}
        end += length * np.exp(1j * angle)
    parts["block"] = {"points": {"P": [0, 0]}, "pose": [end.real, 0, 0]}
    joints["tail"] = {"type": "revolute", "a": f"link{count - 1}.B", "b": "block.P"}
    joints["way"] = {"type": "prismatic", "a": "frame.way", "b": "block.P", "direction": 0}
    drivers = {"pull": {"joint": "way", "to": pull * count * length, "steps": 8}}
    return document(parts, joints, drivers=drivers)


@pytest.mark.parametrize("count", [4, 30, 100])
def test_a_strand_stops_exactly_when_taut(count):
    motion = simulate(read_document(strand(count)))
    assert motion.stop is not None and motion.stop.reason == "dead point"
    assert motion.stop.driver == pytest.approx(12 * count, abs=1e-7 * count)
    q = motion.positions(np.array([motion.path.t1]))[0]
    links = [q[motion.system.body(f"link{i}"), 2] for i in range(count)]
    assert np.abs(links).max() < 1e-3  # and it is straight there


def test_links_move_no_more_than_they_must():
    """Pulled a little, a strand moves less than by any other way to follow: along the constraint's gradient only."""
    tree = strand(6)
    start = simulate(read_document(tree)).at(0.0).coordinates[0]
    column = list(tree["joints"]).index("way")
    tree["drivers"]["pull"]["to"] = float(start[column]) + 1e-3
    motion = simulate(read_document(tree))
    q0, q1 = motion.positions(np.array([0.0, motion.path.t1]))
    moved = (q1 - q0)[list(motion.system.moving)]
    follower = motion.drive.follower
    v, size = follower.rate(q0 / motion.system.size, motion.path.laws[0].rates(0.0))
    taken = moved.ravel() / np.linalg.norm(moved)
    least = (v * motion.system.size)[list(motion.system.moving)].ravel()
    assert taken == pytest.approx(least / np.linalg.norm(least), abs=1e-3)
    # Any other rates that the joints allow, and that pull as fast, move more.
    table, random = follower.equations, np.random.default_rng(3)
    _, jac = table.linear((q0 / motion.system.size)[None], table_targets(motion)[None])
    null = np.linalg.svd(jac[0])[2][np.linalg.matrix_rank(jac[0]) :]
    weights = follower.weigh(q0 / motion.system.size)
    for _ in range(20):
        other = v.copy()
        other[table.unknown] += (random.normal(size=len(null)) @ null).reshape(-1, 3)
        assert np.einsum("ni,nij,nj", other[table.unknown], weights, other[table.unknown]) > size


def table_targets(motion) -> np.ndarray:
    return motion.path.targets(np.zeros(1))[0]


def test_undriven_parts_are_told():
    found = analyse(read_document(strand(12)))
    assert any("undriven" in advice.text for advice in found.advice)


def test_the_steps_of_a_strand_do_not_grow_with_its_length():
    """What is linear about it: the work of a step is (sparse), and their number stays."""
    for count in (15, 120):
        motion = simulate(read_document(strand(count, pull=1.05)))
        assert motion.stop is not None
        assert sum(len(piece.t) for piece in motion.path.pieces) < 2 * STEPS
