"""Turning points of waves, and the ends of functions without derivatives: within their tolerance, in few looks."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.kinematics.extremes import extremes
from anakinema.measures.extremes import located_ends, sample_times

SHAPES = {
    "smooth": lambda t, a, b: a * t**2 + 0.002 * b * t**3,
    "kink": lambda t, a, b: a * np.abs(t) * (1 + 0.01 * b * t),
    "kink on one side": lambda t, a, b: np.where(t < 0, -a * t, b * t**2 + 0.3 * b * t),
    "flat": lambda t, a, b: a * t**4,
    "rising": lambda t, a, b: a * (t + 2) + b * (t + 2) ** 2,
}


def ends(function, *spans, of=None):
    spans = np.array(spans, dtype=float)
    return located_ends(function, spans, sample_times(spans).ravel(), of=of)


@pytest.mark.parametrize("shape", SHAPES)
@settings(max_examples=200, deadline=None)
@given(at=st.floats(0.02, 0.98), a=st.floats(0.1, 30), b=st.floats(0.1, 30))
def test_least_values_are_found(shape, at, a, b):
    evaluations = []

    def evaluate(t, _):
        evaluations.append(t.size)
        return SHAPES[shape](t - at, a, b) + 5.0

    found = ends(evaluate, (0.0, 1.0)).of(0)
    truly = SHAPES[shape](np.array([0.0 if shape == "rising" else at]) - at, a, b) + 5.0
    assert found.low == pytest.approx(truly[0], abs=3e-7 * found.high) and found.missed <= 1e-6 * found.high
    assert SHAPES[shape](np.array([found.low_t]) - at, a, b)[0] + 5.0 == found.low
    assert sum(evaluations) <= 800


def test_several_functions_are_looked_at_side_by_side():
    found = ends(lambda t, which: np.cos(t) + which, (2.0, 4.0), (8.0, 11.0), of=np.array([0, 1]))
    assert found.low == pytest.approx([-1.0, 0.0], abs=1e-11)
    assert found.low_t == pytest.approx([np.pi, 3 * np.pi], abs=1e-5)


def test_a_value_that_grows_without_bound_is_not_known():
    found = ends(lambda t, _: 1.0 / np.sqrt(np.maximum(1.0 - t, 1e-300)), (0.0, 1.0)).of(0)
    assert found.missed > 1.0 and found.low == pytest.approx(1.0, abs=1e-9)


def test_what_jumps_at_the_end_of_a_stretch_has_both_values():
    found = ends(lambda t, _: np.where(t <= 0.3, 2.0, -1.0), (0.0, 0.3), (0.3, 1.0)).of(0)
    assert (found.low, found.high, found.missed) == (-1.0, 2.0, 0.0)


@pytest.mark.parametrize("seed", range(8))
def test_extremes_of_waves_are_those_at_the_roots_of_their_rates(seed):
    """Sums of five sines, sampled as coarsely as motions are; the roots of their rates by NumPy."""
    chance = np.random.default_rng(seed)
    size, phase, order = chance.normal(size=(3, 5)), chance.uniform(0, 7, (3, 5)), np.arange(1, 6)
    evaluations = []

    def waves(t, _=None):
        at = t[:, None, None] * order + phase
        return tuple((size * part).sum(axis=2) for part in (
            np.sin(at), order * np.cos(at), -(order**2) * np.sin(at)))  # fmt: skip

    def sample(t, motion):
        evaluations.append(t.size)
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
    assert sum(evaluations) <= 18
