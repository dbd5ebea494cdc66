"""The compiled rows: Jacobians and second-order parts against finite differences, for every kind of term."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from anakinema.kinematics.assembly import assemble
from anakinema.kinematics.equations import Equations
from anakinema.kinematics.primitives import TERMS
from anakinema.kinematics.rows import RowSpec, Term, TermLaw
from anakinema.laws import polynomial

STEP = 1e-6


def random_equations(seed: int, kinds: list[str]) -> tuple[Equations, np.ndarray, np.ndarray, np.ndarray]:
    """Two rows of two terms each between four bodies, the last one known; a position, velocity and acceleration."""
    random = np.random.default_rng(seed)
    q, v, a = (random.uniform(-2, 2, (4, 3)) for _ in range(3))

    def term(kind: str) -> Term:
        one, two = random.permutation(4)[:2]
        points = random.uniform(-1, 1, (2, 2))
        constant = random.uniform(0.5, 2.0)
        law = None
        if random.random() < 0.5:  # seen through a law: a wave that comes round, or a polynomial and a wave
            wave = replace(polynomial(0.0, np.pi, 0.3), amplitude=0.7, frequency=2.0, phase=0.4)
            bent = replace(polynomial(-20.0, 20.0, 0.1, 0.02, 0.003, 1e-4), amplitude=0.3, frequency=1.5)
            law = TermLaw((wave,), 0.2, np.pi) if random.random() < 0.5 else TermLaw((bent,), 0.1)
        ends = tuple(points[0]), tuple(points[1])
        return Term(kind, int(one), int(two), *ends, constant, random.uniform(0.5, 2.0), law)

    specs = [RowSpec((term(kind), term(kind)), f"row{i}", random.uniform(-1, 1)) for i, kind in enumerate(kinds)]
    v[3] = a[3] = 0.0
    return Equations(specs, [0, 1, 2], 4), q, v, a


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(sorted(TERMS)))
def test_jacobians_agree_with_finite_differences(seed, kind):
    equations, q, _, _ = random_equations(seed, [kind, kind])
    _, jac = equations.linear(q[None], np.zeros((1, 1)))
    _, matrix = equations.sparse(q, np.zeros(1))
    assert matrix.toarray() == pytest.approx(jac[0], abs=1e-14)
    for column in range(9):
        ends = []
        for way in (STEP, -STEP):
            change = np.zeros(9)
            change[column] = way
            moved = q.copy()
            equations.spread(moved, change)
            ends.append(equations.values(moved[None])[0])
        away = ends[0] - ends[1]
        if TERMS[kind].periodic and np.abs(away).max() > 0.01:
            continue  # the step crossed the cut of the angle
        if column % 3 not in TERMS[kind].depends:
            assert not jac[0, :, column].any()
        assert away / (2 * STEP) == pytest.approx(jac[0, :, column], rel=2e-6, abs=2e-5)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(sorted(TERMS)))
def test_rates_agree_with_finite_differences_in_time(seed, kind):
    equations, q, v, a = random_equations(seed, [kind, kind])
    h = 1e-4
    times = np.array([-2, -1, 0, 1, 2]) * h
    along = np.array([q + t * v + t * t / 2 * a for t in times])
    value = np.unwrap(equations.values(along), axis=0) if TERMS[kind].periodic else equations.values(along)
    assume(not TERMS[kind].periodic or np.abs(np.diff(value, axis=0)).max() < 0.1)  # cut, and seen through a law
    first, second = equations.rates(q[None], v[None], a[None])
    assume(np.abs(second).max() < 200)  # a polar angle about points that nearly meet turns too fast to difference
    assert (value[3] - value[1]) / (2 * h) == pytest.approx(first[0], rel=1e-3, abs=1e-3)
    assert (value[3] - 2 * value[2] + value[1]) / h**2 == pytest.approx(second[0], rel=1e-2, abs=1e-1)


def test_blocks_are_solved_as_the_whole_would_be():
    """Bodies in a chain, each hung on the last: as many blocks as bodies; the plan gives the full Newton step."""
    random = np.random.default_rng(3)
    specs, bodies = [], 7
    for body in range(1, bodies):
        points = (tuple(random.uniform(-1, 1, 2)), tuple(random.uniform(-1, 1, 2)))
        specs += [RowSpec((Term(kind, body - 1, body, *points),), "pin") for kind in ("x", "y")]
        specs.append(RowSpec((Term("angle", body - 1, body),), "drive", target=body - 1))
    shuffled = [specs[i] for i in random.permutation(len(specs))]
    equations = Equations(shuffled, range(1, bodies), bodies)
    assert len(equations.plan.first) == bodies
    q, targets = random.uniform(-0.05, 0.05, (bodies, 3)), random.uniform(-0.05, 0.05, bodies)
    settled = assemble(equations, q, targets).q + 1e-3
    settled[0] = q[0]
    spread, v, a, _ = equations.settle(settled, targets, np.ones(bodies), np.full(bodies, 0.3))
    assert spread > 1e-3
    assert np.abs(equations.residual(settled, targets)).max() < 1e-12
    first, second = equations.rates(settled[None], v[None], a[None])
    assert first[0] == pytest.approx(equations.targets_rate(np.ones(bodies)), abs=1e-12)
    assert second[0] == pytest.approx(equations.targets_rate(np.full(bodies, 0.3)), abs=1e-10)


def test_a_plan_is_kept_while_numbers_change_and_no_longer():
    pins = [[RowSpec((Term(kind, 0, 1, point),), "pin") for kind in ("x", "y")] for point in ((0.5, 0.0), (0.7, 0.1))]
    turned = RowSpec((Term("angle", 0, 1),), "drive", target=0)
    one, other = (Equations([*rows, turned], (1,), 2).plan for rows in pins)
    assert one is other
    free = Equations([*pins[0], RowSpec((Term("distance", 0, 1),), "drive", target=0)], (1,), 2).plan
    assert free is not one
    backward = Equations([*pins[0], turned], (0,), 2).plan
    assert backward is not one and backward.bodies.tolist() == [0]


def test_a_long_closed_block_keeps_a_narrow_envelope():
    """Links from one fixed pin to another: one block, whose factorisation must stay linear in its length."""
    links = 60
    specs = []
    for body in range(links + 1):
        points = ((0.5, 0.0), (-0.5, 0.0))
        specs += [RowSpec((Term(kind, body, body + 1, *points),), "pin") for kind in ("x", "y")]
    specs += [RowSpec((Term("angle", body, body + 1),), "hold", target=0) for body in range(1, links - 1)]
    equations = Equations(specs, range(1, links + 1), links + 2)
    plan = equations.plan
    assert equations.rows == equations.columns and len(plan.first) == 2
    width = plan.reach - np.arange(equations.columns)[:, None]
    assert width.max() <= 24
