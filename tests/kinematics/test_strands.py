"""Undriven freedoms under a driver: least movement, exact at the taut end, in linear time."""

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.kinematics.simulation import simulate
from anakinema.kinematics.underconstrained import NEARLY
from mechanisms import document, strand


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
    minimum_norm = motion.drive.minimum_norm
    v, size = minimum_norm.rate(q0 / motion.system.size, motion.path.laws[0].rates(0.0))
    taken = moved.ravel() / np.linalg.norm(moved)
    least = (v * motion.system.size)[list(motion.system.moving)].ravel()
    assert taken == pytest.approx(least / np.linalg.norm(least), abs=1e-3)
    # Any other rates that the joints allow, and that pull as fast, move more.
    table, random = minimum_norm.equations, np.random.default_rng(3)
    _, jac = table.linear((q0 / motion.system.size)[None], table_targets(motion)[None])
    null = np.linalg.svd(jac[0])[2][np.linalg.matrix_rank(jac[0]) :]
    weights = minimum_norm.weigh(q0 / motion.system.size)
    for _ in range(20):
        other = v.copy()
        other[table.unknown] += (random.normal(size=len(null)) @ null).reshape(-1, 3)
        assert np.einsum("ni,nij,nj", other[table.unknown], weights, other[table.unknown]) > size


@pytest.mark.parametrize("count", [3, 6])
def test_the_way_of_least_movement_is_that_of_an_ordinary_differential_equation(count):
    """Against SciPy's integrator on the angles of the links alone: θ̇ = M⁻¹ Cᵀ (C M⁻¹ Cᵀ)⁻¹ (ẋ, 0), with M the sum of
    the movements of the links' middles and turns, C the slopes of the end. There and back it does not end where it
    began, which is as it must be: what is least at each moment closes no circle."""
    tree = strand(count)
    tree["programs"] = {"work": {"segments": [{"over": "1 s", "to": count / 2}, {"over": "1 s", "to": -count / 3}]}}
    tree["drivers"] = {"pull": {"joint": "way", "program": "work", "steps": 8}}
    motion = simulate(read_document(tree))
    body = [motion.system.body(f"link{i}") for i in range(count)]
    own = motion.drive.minimum_norm.gear.body[[list(motion.system.moving).index(each) for each in body]]
    middle, reach = own[:, 0] * motion.system.scale, own[:, 2] * motion.system.scale
    assert np.abs(own[:, 1]).max() < 1e-12

    def speeds(_, angles, pace):
        slopes = 12j * np.exp(1j * angles)  # of a link's far end
        mass = np.diag(reach**2).astype(float)
        for i in range(count):
            by = np.array([*slopes[:i], middle[i] / 12 * slopes[i], *np.zeros(count - i - 1)])
            mass += np.outer(by.real, by.real) + np.outer(by.imag, by.imag)
        ends = np.linalg.solve(mass, np.stack((slopes.real, slopes.imag)).T)
        return ends @ np.linalg.solve(np.stack((slopes.real, slopes.imag)) @ ends, [pace, 0.0])

    q = motion.positions(np.array([0.0, 1.0, 2.0]))
    angles = q[0, body, 2]
    x = motion.coordinates(np.array([0.0, 1.0, 2.0]))[:, motion.system.coordinates.index("way")]
    for k in range(2):
        found = solve_ivp(speeds, (0.0, 1.0), angles, args=(x[k + 1] - x[k],), rtol=1e-10, atol=1e-12)
        angles = found.y[:, -1]
        assert q[k + 1, body, 2] == pytest.approx(angles, abs=1e-6)
    assert np.abs(q[2, body, 2] - q[0, body, 2]).max() > 1e-3


def table_targets(motion) -> np.ndarray:
    return motion.path.targets(np.zeros(1))[0]


@pytest.mark.parametrize(("soon", "message"), [
    ({"duration": "1 s"}, "too long to be followed"), ({"duration": "1e-305 s"}, "too short to be meant"),
    ({"rate": 1e13, "to": 1}, "too soon to be meant"), ({"rate": 1e-160, "to": 1}, "too long to be meant"),
])  # fmt: skip
def test_a_turn_without_bound_beside_what_is_undriven_is_refused(soon, message):
    parts = {"frame": {"points": {"O": [0, 0], "D": [90, 0]}}, "crank": {"points": {"O": [0, 0]}},
             "flap": {"points": {"D": [0, 0]}, "pose": [90, 0, 0]}}  # fmt: skip
    joints = {"main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
              "hinge": {"type": "revolute", "a": "frame.D", "b": "flap.D"},
              "tie": {"type": "distance", "a": "crank.O", "b": "flap.D", "length": 90}}  # fmt: skip
    drivers = {"turn": {"joint": "main", "to": 1e9, **soon, "law": "345", "steps": 4}}
    with pytest.raises(DocumentError, match=message):
        simulate(read_document(document(parts, joints, drivers=drivers)))


def test_many_turns_beside_many_undriven_parts_are_refused():
    """What they cost is counted by steps and by parts: forty loose links on a crank follow it for some turns, but not
    for three hundred, which would take a minute."""
    tree = strand(40)
    del tree["joints"]["tail"], tree["parts"]["block"], tree["joints"]["way"]
    tree["drivers"] = {"turn": {"joint": "pin0", "to": 3 * 360, "steps": 8}}
    assert simulate(read_document(tree)).stop is None
    tree["drivers"]["turn"]["to"] = 300 * 360
    with pytest.raises(DocumentError, match=r"too long to be followed while parts are undriven \(40 move\)"):
        simulate(read_document(tree))


def test_turning_points_in_what_is_rounding_are_not_looked_for(monkeypatch):
    """A chain that its driver moves by 1e-9 degrees: the rates of what is undriven are rounding, full of changes of
    sign, each of which was halved thirty times."""
    tree = strand(40)
    del tree["joints"]["tail"], tree["parts"]["block"], tree["joints"]["way"]
    motion = simulate(read_document({**tree, "drivers": {"turn": {"joint": "pin0", "to": 0}}}))
    start = float(np.degrees(motion.coordinates(np.zeros(1))[0][0]))
    tree["drivers"] = {"turn": {"joint": "pin0", "from": start, "to": start + 1e-9, "steps": 8}}
    motion = simulate(read_document(tree))
    known = motion.sampled
    evaluations = []
    counted = type(motion).at
    monkeypatch.setattr(type(motion), "at", lambda self, t: evaluations.append(t.size) or counted(self, t))
    found = motion.extremes
    assert len(evaluations) <= 2
    assert found.low == pytest.approx(known.coordinates.min(axis=0), abs=1e-10)


def test_what_is_drawn_is_what_is_at_these_times():
    """The states that are drawn are those of the grid and of the steps, put together."""
    motion = simulate(read_document(strand(6)))
    own, apart = motion.along, motion.at(motion.drawn.copy())
    for name in ("t", "q", "v", "a", "coordinates", "rates", "accelerations"):
        assert getattr(own, name) == pytest.approx(getattr(apart, name), abs=1e-9, rel=1e-9)


def test_undriven_parts_are_told():
    found = analyse(read_document(strand(12)))
    assert any("undriven" in advice.text for advice in found.advice)


def test_the_steps_of_a_strand_do_not_grow_with_its_length():
    """What is linear about it: the work of a step is (sparse), and their number stays."""
    for count in (15, 120):
        motion = simulate(read_document(strand(count, pull=1.05)))
        assert motion.stop is not None
        assert sum(len(piece.t) for piece in motion.path.pieces) < 2 * NEARLY
