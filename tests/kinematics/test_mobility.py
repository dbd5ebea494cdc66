"""Mobility of mechanisms started in, or close to, a place in which links lie in line: as it is a little further on."""

import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.findings import analyse


def parallel_cranks(pivots: list[complex], throw: float, angle: float, turned: float, driven: bool) -> dict[str, Any]:
    """Cranks on pivots (complex) that carry one coupler in parallel, started at an angle (deg), turned by another."""
    spin = complex(math.cos(math.radians(turned)), math.sin(math.radians(turned)))
    tip = throw * complex(math.cos(math.radians(angle)), math.sin(math.radians(angle)))
    points = {f"P{i}": [p.real, p.imag] for i, p in enumerate(pivots)}
    placed = tip * spin
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": points, "pose": [0, 0, turned]},
                             "coupler": {"points": points, "pose": [placed.real, placed.imag, turned]}}  # fmt: skip
    joints: dict[str, Any] = {}
    for i, p in enumerate(pivots):
        at = p * spin
        parts[f"crank{i}"] = {"points": {"O": [0, 0], "T": [throw, 0]}, "pose": [at.real, at.imag, angle + turned]}
        joints[f"foot{i}"] = {"type": "revolute", "a": f"frame.P{i}", "b": f"crank{i}.O"}
        joints[f"tip{i}"] = {"type": "revolute", "a": f"crank{i}.T", "b": f"coupler.P{i}"}
    drivers = {"turn": {"joint": "foot0", "from": angle, "to": angle + 300, "duration": "1 s", "steps": 12}}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers if driven else {}}


@pytest.mark.parametrize("seed", range(60))
def test_parallel_cranks_have_one_freedom_wherever_they_start(seed: int):
    chance = np.random.default_rng(seed)
    count = 3 + seed % 3
    off = 10.0 ** chance.uniform(-3, 1)
    pivots = [complex(45 * i + 9 * chance.random(), off * (i % 2) * chance.uniform(0.5, 1.0)) for i in range(count)]
    angle = chance.choice([0.0, 180.0]) + chance.choice([0.0, 1e-3, -0.2, 1.0, -3.0, 5.0])
    tree = parallel_cranks(pivots, chance.uniform(10, 80), float(angle), chance.uniform(0, 360), bool(seed % 4))
    motion = analyse(read_document(tree)).motion
    assert motion.stop is None
    assert motion.mobility.dof == 1
    # Each crank after the second says nothing new; which of its joints is told follows from their order.
    assert {name[-1] for name in motion.mobility.redundant} == {str(i) for i in range(2, count)}


@pytest.mark.parametrize("seed", range(12))
def test_a_crank_rocker_in_line_has_one_freedom_and_nothing_redundant(seed: int):
    chance = np.random.default_rng(100 + seed)
    ground, crank, coupler = 100.0, chance.uniform(15, 30), chance.uniform(70, 100)
    reach = coupler + crank * (1 if seed % 2 else -1)  # crank and coupler in line, or folded
    rocker = chance.uniform(abs(ground - reach) + 8, 75)
    angle = math.acos((ground**2 + reach**2 - rocker**2) / (2 * ground * reach))
    spin = complex(math.cos(angle), math.sin(angle))
    tip, end = (crank if seed % 2 else -crank) * spin, reach * spin
    degrees = [math.degrees(math.atan2(z.imag, z.real)) for z in (tip, end - tip, end - ground)]
    revolute = {"type": "revolute"}
    tree = {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "D": [ground, 0]}},
            "crank": {"points": {"O": [0, 0], "A": [crank, 0]}, "pose": [0, 0, degrees[0]]},
            "coupler": {"points": {"A": [0, 0], "B": [coupler, 0]}, "pose": [tip.real, tip.imag, degrees[1]]},
            "rocker": {"points": {"D": [0, 0], "B": [rocker, 0]}, "pose": [ground, 0, degrees[2]]},
        },
        "joints": {
            "main": {**revolute, "a": "frame.O", "b": "crank.O"}, "one": {**revolute, "a": "crank.A", "b": "coupler.A"},
            "two": {**revolute, "a": "coupler.B", "b": "rocker.B"},
            "out": {**revolute, "a": "frame.D", "b": "rocker.D"},
        },
        "drivers": {"turn": {"joint": "main", "from": degrees[0], "to": degrees[0] + 360}} if seed % 3 else {},
    }  # fmt: skip
    found = analyse(read_document(tree)).motion.mobility
    assert (found.dof, found.redundant) == (1, ())
