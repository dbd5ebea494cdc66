"""Large mechanisms, solved by other means than small ones: the same answers, and no more work than they must."""

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.kinematics import equations, linear, mobility
from anakinema.kinematics.simulation import simulate
from mechanisms import document, strand


def loops(count: int, turn: float) -> dict:
    """Crank-rockers (40, 120, 80, 100) in a row, each crank tied to the rocker before; the first is driven."""
    foot, coupled = 100 + 80 * np.exp(1j * np.radians(57.3)), 40 * np.exp(1j * np.radians(40))
    parts = {"frame": {"points": {}}}
    joints = {}
    for k in range(count):
        x = 150.0 * k
        parts["frame"]["points"] |= {f"O{k}": [x, 0], f"D{k}": [x + 100, 0]}
        parts[f"crank{k}"] = {"points": {"A": [0, 0], "B": [40, 0]}, "pose": [x, 0, 40]}
        parts[f"rod{k}"] = {"points": {"B": [0, 0], "C": [120, 0]}, "pose": [x + coupled.real, coupled.imag, 20.3]}
        parts[f"rocker{k}"] = {"points": {"D": [0, 0], "C": [80, 0]}, "pose": [x + 100, 0, 57.3]}
        joints[f"a{k}"] = {"type": "revolute", "a": f"frame.O{k}", "b": f"crank{k}.A"}
        joints[f"b{k}"] = {"type": "revolute", "a": f"crank{k}.B", "b": f"rod{k}.B"}
        joints[f"c{k}"] = {"type": "revolute", "a": f"rod{k}.C", "b": f"rocker{k}.C"}
        joints[f"d{k}"] = {"type": "revolute", "a": f"frame.D{k}", "b": f"rocker{k}.D"}
        if k:
            tie = abs(150 + coupled - foot)
            joints[f"tie{k}"] = {"type": "distance", "a": f"rocker{k - 1}.C", "b": f"crank{k}.B", "length": tie}
    drivers = {"turn": {"joint": "a0", "from": 40, "to": 40 + turn, "steps": 12}}
    return document(parts, joints, drivers=drivers)


@pytest.mark.parametrize("width", [4, 9, 200])
def test_rows_are_found_independent_of_those_before_them(width):
    """By rotations in a band, against the ranks of NumPy: rows that repeat others or add two up among them, the columns
    shuffled, one row empty."""
    chance = np.random.default_rng(width)
    for count in (250, 310, 400):
        matrix = np.zeros((count, 330))
        for row in matrix[1:]:
            at = chance.integers(0, 330 - width)
            row[at : at + width] = chance.normal(size=width) * chance.uniform(0.1, 10)
        for k in chance.integers(100, count, 20):
            matrix[k] = matrix[k - 50] * chance.normal()
            near = np.flatnonzero(np.abs(matrix[:k]).argmax(axis=1) // 20 == np.abs(matrix[k]).argmax() // 20)
            matrix[k] += matrix[near[0]] if near.size else 0.0
        matrix = matrix[:, chance.permutation(330)]
        adds = mobility.independence(matrix) > 0.0
        assert adds.sum() == np.linalg.matrix_rank(matrix) == np.linalg.matrix_rank(matrix[adds])
        for k in np.flatnonzero(~adds).tolist():
            assert np.linalg.matrix_rank(matrix[: k + 1]) == np.linalg.matrix_rank(matrix[:k])


def test_a_doubled_pin_is_redundant_in_a_row_of_loops():
    tree = loops(40, 10)
    tree["joints"]["again"] = {"type": "revolute", "a": "frame.O7", "b": "crank7.A"}
    found = simulate(read_document(tree)).mobility
    assert (found.dof, found.redundant, found.count) == (1, ("again",), -1)


def test_a_row_of_loops_has_the_same_dead_point_by_sparse_systems_as_by_dense_ones(monkeypatch):
    tree, stops = read_document(loops(25, 360)), []
    assert equations.DENSE_UP_TO < 9 * 25
    for most in (equations.DENSE_UP_TO, 10_000):
        monkeypatch.setattr(equations, "DENSE_UP_TO", most)
        motion = simulate(tree)
        assert motion.stop is not None and motion.stop.reason == "dead point"
        stops.append((motion.stop.driver, motion.path.dead.q))
    assert stops[0][0] == pytest.approx(stops[1][0], abs=1e-9)
    assert stops[0][1] == pytest.approx(stops[1][1], abs=1e-6)


def test_what_hardly_moves_is_not_searched_for_turning_points(monkeypatch):
    """Down a row of loops the motion dies away to rounding; with a part left undriven rates are differences, and in
    these rounding turns back and forth."""
    tree = loops(40, 10)
    tree["parts"]["tail"] = {"points": {"P": [0, 0]}, "pose": [*tree["parts"]["rod39"]["pose"][:2], 0]}
    tree["joints"]["tail"] = {"type": "revolute", "a": "rod39.B", "b": "tail.P"}
    motion = simulate(read_document(tree))
    known, evaluations, counted = motion.sampled, [], type(motion).at
    monkeypatch.setattr(type(motion), "at", lambda self, t: evaluations.append(t.size) or counted(self, t))
    found = motion.extremes
    assert sum(evaluations) < 3 * 40
    assert found.low == pytest.approx(known.coordinates.min(axis=0), abs=1e-4)
    assert (found.low <= known.coordinates.min(axis=0)).all() and (found.high >= known.coordinates.max(axis=0)).all()


def test_a_strand_is_followed_the_same_by_a_band_and_in_general(monkeypatch):
    ends = []
    for narrow in (linear.NARROW, 0):
        monkeypatch.setattr(linear, "NARROW", narrow)
        motion = simulate(read_document(strand(45)))
        ends.append((motion.stop.driver, motion.positions(np.array([0.3 * motion.path.t1]))))
    assert ends[0][0] == pytest.approx(ends[1][0], abs=1e-7)
    assert ends[0][1] == pytest.approx(ends[1][1], abs=1e-7)


def test_a_strand_that_is_too_long_is_refused_and_many_pendulums_are_not():
    """What counts is what hangs together."""
    with pytest.raises(DocumentError, match=r"241 parts move, .* drive more of them"):
        simulate(read_document(strand(240)))
    tree = strand(8, pull=1.05)
    for k in range(240):
        tree["parts"]["frame"]["points"][f"F{k}"] = [30 * k, 500]
        tree["parts"][f"arm{k}"] = {"points": {"A": [0, 0]}, "pose": [30 * k, 500, 10]}
        tree["joints"][f"f{k}"] = {"type": "revolute", "a": f"frame.F{k}", "b": f"arm{k}.A"}
    assert simulate(read_document(tree)).stop.driver == pytest.approx(96, abs=1e-6)


def test_steps_times_parts_that_would_take_too_long_are_refused():
    tree = loops(4, 10)
    tree["drivers"]["turn"]["steps"] = 1_000_000
    with pytest.raises(DocumentError, match=r"drivers: 1000000 steps of 13 parts are too many .*; ask for fewer steps"):
        simulate(read_document(tree))
