"""The least value of a function without derivatives: found within its tolerance, kinks included, in few looks."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.kinematics.extremes import narrowed

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
    looks = []

    def evaluate(t, _):
        looks.append(t.size)
        return SHAPES[shape](t - at, a, b) + 5.0

    best, where = narrowed(evaluate, np.array([0.0]), np.array([1.0]), 1e-10)
    truly = SHAPES[shape](np.array([0.0 if shape == "rising" else at]) - at, a, b) + 5.0
    assert best[0] == pytest.approx(truly[0], abs=1e-9)
    assert SHAPES[shape](where - at, a, b)[0] + 5.0 == best[0]
    assert sum(looks) <= 200


def test_several_brackets_are_narrowed_side_by_side():
    best, where = narrowed(lambda t, _: np.cos(t), np.array([2.0, 8.0]), np.array([4.0, 11.0]), 1e-12)
    assert best == pytest.approx([-1.0, -1.0], abs=1e-11)
    assert where == pytest.approx([np.pi, 3 * np.pi], abs=1e-5)
