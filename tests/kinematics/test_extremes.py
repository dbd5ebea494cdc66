"""Turning points of waves, and least values of functions without derivatives: within their tolerance, in few looks."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.kinematics.extremes import extremes, narrowed

SHAPES = {
    "smooth": lambda t, a, b: a * t**2 + 0.002 * b * t**3,
    "kink": lambda t, a, b: a * np.abs(t) * (1 + 0.01 * b * t),
    "kink on one side": lambda t, a, b: np.where(t < 0, -a * t, b * t**2 + 0.3 * b * t),
    "flat": lambda t, a, b: a * t**4,
    "rising": lambda t, a, b: a * (t + 2) + b * (t + 2) ** 2,
}


@pytest.mark.parametrize("shape", SHAPES)
@settings(max_examples=300, deadline=None)
@given(at=st.floats(0.02, 0.98), a=st.floats(0.1, 30), b=st.floats(0.1, 30))
def test_least_values_are_found(shape, at, a, b):
    display_state = []

    def evaluate(t, _):
        display_state.append(t.size)
        return SHAPES[shape](t - at, a, b) + 5.0

    best, where = narrowed(evaluate, np.array([0.0]), np.array([1.0]), 1e-10)
    truly = SHAPES[shape](np.array([0.0 if shape == "rising" else at]) - at, a, b) + 5.0
    assert best[0] == pytest.approx(truly[0], abs=1e-9)
    assert SHAPES[shape](where - at, a, b)[0] + 5.0 == best[0]
    assert sum(display_state) <= 200


def test_several_brackets_are_narrowed_side_by_side():
    best, where = narrowed(lambda t, _: np.cos(t), np.array([2.0, 8.0]), np.array([4.0, 11.0]), 1e-12)
    assert best == pytest.approx([-1.0, -1.0], abs=1e-11)
    assert where == pytest.approx([np.pi, 3 * np.pi], abs=1e-5)


@pytest.mark.parametrize("seed", range(8))
def test_extremes_of_waves_are_those_at_the_roots_of_their_rates(seed):
    """Sums of five sines, sampled as coarsely as motions are; the roots of their rates by NumPy."""
    chance = np.random.default_rng(seed)
    size, phase, order = chance.normal(size=(3, 5)), chance.uniform(0, 7, (3, 5)), np.arange(1, 6)
    display_state = []

    def waves(t, _=None):
        at = t[:, None, None] * order + phase
        return tuple((size * part).sum(axis=2) for part in (
            np.sin(at), order * np.cos(at), -(order**2) * np.sin(at)))  # fmt: skip

    def sample(t, motion):
        display_state.append(t.size)
        return waves(t)

    t = np.linspace(0.0, 2 * np.pi, 60)
    found = extremes(sample, t[:, None], tuple(each[:, None] for each in waves(t))).of(0)
    for k in range(3):
        half = order * size[k] * np.exp(1j * phase[k]) / 2  # of zⁿ; its conjugate of z⁻ⁿ
        roots = np.roots(np.concatenate((half[::-1], [0.0], half.conj())))
        turns = np.angle(roots[np.abs(np.abs(roots) - 1) < 1e-6]) % (2 * np.pi)
        truly = np.append(waves(turns)[0][:, k], waves(t[:1])[0][:, k])
        assert found.low[k] == pytest.approx(truly.min(), abs=1e-10)
        assert found.high[k] == pytest.approx(truly.max(), abs=1e-10)
        assert waves(found.low_t[k : k + 1])[0][0, k] == pytest.approx(truly.min(), abs=1e-10)
    assert sum(display_state) <= 18
