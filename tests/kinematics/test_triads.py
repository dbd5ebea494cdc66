"""The ways to close a triad: six where all are real, and never more doubt than there is."""

import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.kinematics.modes import modes
from anakinema.kinematics.simulation import simulate

REVOLUTE = {"type": "revolute"}


def platform(feet: list[complex], own: list[complex], at: complex, turned: float, rods: bool) -> dict[str, Any]:
    """A link that stands at a place, turned, on three legs from its points to feet."""
    spin = complex(math.cos(turned), math.sin(turned))
    parts: dict[str, Any] = {
        "frame": {"fixed": True, "points": {f"F{i}": [z.real, z.imag] for i, z in enumerate(feet)}},
        "link": {"points": {f"P{i}": [z.real, z.imag] for i, z in enumerate(own)},
                 "pose": [at.real, at.imag, math.degrees(turned)]},
    }  # fmt: skip
    joints: dict[str, Any] = {}
    for i, (foot, point) in enumerate(zip(feet, own, strict=True)):
        leg = at + point * spin - foot
        if rods:
            joints[f"rod{i}"] = {"type": "distance", "a": f"frame.F{i}", "b": f"link.P{i}", "length": abs(leg)}
            continue
        angle = math.degrees(math.atan2(leg.imag, leg.real))
        parts[f"leg{i}"] = {"points": {"A": [0, 0], "B": [abs(leg), 0]}, "pose": [foot.real, foot.imag, angle]}
        joints[f"foot{i}"] = {**REVOLUTE, "a": f"frame.F{i}", "b": f"leg{i}.A"}
        joints[f"head{i}"] = {**REVOLUTE, "a": f"leg{i}.B", "b": f"link.P{i}"}
    return {"anakinema": 1, "parts": parts, "joints": joints}


def real_ways(tree: dict[str, Any], feet: list[complex], own: list[complex]) -> int:
    """How many there are, by a fine scan: at each angle of the link two legs give two places; the third must fit."""
    link = tree["parts"]["link"]
    x, y, degrees = link["pose"]
    at, spin = complex(x, y), np.exp(1j * math.radians(degrees))
    lengths = [abs(at + p * spin - f) for f, p in zip(feet, own, strict=True)]
    count = 0
    angle = np.linspace(0.0, 2 * math.pi, 200_001)
    turn = np.exp(1j * angle)
    centers = [f - p * turn for f, p in zip(feet, own, strict=True)]
    across = centers[1] - centers[0]
    apart = np.abs(across)
    along = (lengths[0] ** 2 - lengths[1] ** 2 + apart**2) / (2 * apart)
    with np.errstate(invalid="ignore"):
        high = np.sqrt(lengths[0] ** 2 - along**2)
    for side in (1, -1):
        middle = centers[0] + across / apart * (along + 1j * side * high)
        off = np.abs(middle - centers[2]) - lengths[2]
        count += int((np.sign(off[:-1]) * np.sign(off[1:]) < 0).sum())
    return count


@pytest.mark.parametrize("rods", [False, True])
@pytest.mark.parametrize("seed", range(10))
def test_all_ways_of_a_triad_are_found_without_doubt(seed: int, rods: bool):
    chance = np.random.default_rng(seed)
    feet = [0j, 100 + 0j, complex(*chance.uniform((20, 60), (80, 120)))]
    own = [0j, complex(*chance.uniform((40, -10), (80, 10))), complex(*chance.uniform((10, 20), (50, 70)))]
    tree = platform(feet, own, complex(*chance.uniform((20, 10), (60, 60))), chance.uniform(-1, 1), rods)
    found = modes(simulate(read_document(tree), 1))
    assert not found.doubt
    assert len(found.ways) == real_ways(tree, feet, own)
