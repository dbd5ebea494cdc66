"""A study counts the same turns as a run: a coordinate starts within half a turn, or where its limits put it."""

from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.kinematics.simulation import simulate
from anakinema.studies.builds import Builds, with_numbers


def crank_rocker(start: float, zeros: np.ndarray, placed: bool, up: bool) -> dict[str, Any]:
    revolute = {"type": "revolute"}
    driver = {"joint": "main", "to": "start + 200 deg", "duration": 1, "steps": 20}
    return {
        "anakinema": 1,
        "parameters": {"rod": "60 mm", "start": f"{start} deg"},
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "D": [80, 0]}},
            "crank": {"points": {"O": [0, 0], "A": [20, 0]}, "pose": [0, 0, "start"]},
            "coupler": {"points": {"A": [0, 0], "B": ["rod", 0]}, "pose": [-20, 0, 40]},
            "rocker": {"points": {"D": [0, 0], "B": [60, 0]}, "pose": [80, 0, 120 if up else -120]},
        },
        "joints": {
            "main": {**revolute, "a": "frame.O", "b": "crank.O"},
            **{name: {**revolute, "a": a, "b": b, "zero": float(zero)} for (name, a, b), zero in zip(
                (("one", "crank.A", "coupler.A"), ("two", "coupler.B", "rocker.B"), ("out", "frame.D", "rocker.D")),
                zeros, strict=True)},
        },
        "drivers": {"turn": driver if placed else {**driver, "from": "start"}},
    }  # fmt: skip


@pytest.mark.parametrize("seed", range(8))
def test_builds_start_where_a_run_does(seed: int):
    chance = np.random.default_rng(seed)
    start = float(chance.choice([178, 179.5, -179.5, 180, -178]))
    tree = crank_rocker(start, chance.uniform(-180, 180, 3), bool(seed % 2), bool(seed % 3))
    builds = Builds(read_document(tree))
    for rod in (64, 70, 78):
        for off in (-1, 0, 1):
            numbers = {"rod": f"{rod} mm", "start": f"{start + off} deg"}
            shared, alone = builds.motion_with(numbers), simulate(with_numbers(builds.document, numbers))
            for end in ("low", "high"):
                one, two = getattr(shared.extremes, end), getattr(alone.extremes, end)
                np.testing.assert_allclose(one, two, atol=1e-6)
    assert builds.shared > 4
