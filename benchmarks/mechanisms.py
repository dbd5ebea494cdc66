"""Mechanisms that the benchmarks step, as document trees."""

import math
from typing import Any

CRANK, COUPLER, ROCKER, GROUND, START = 40.0, 120.0, 80.0, 100.0, 40.0


def four_bar(turn: float = 360.0, steps: int = 360) -> dict[str, Any]:
    """One crank-rocker (a = 40, b = 120, c = 80, d = 100), driven from 40°."""
    return four_bars(1, turn, steps)


def four_bars(count: int, turn: float = 20.0, steps: int = 360) -> dict[str, Any]:
    """Crank-rockers in a row: each crank is tied to the rocker before by a rod as long as it happens to be."""
    crank_end = _polar(CRANK, START)
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {}}}
    joints: dict[str, Any] = {}
    rod = math.dist(_rocker_end(), (150 + crank_end[0], crank_end[1]))
    for k in range(count):
        x = 150.0 * k
        parts["frame"]["points"] |= {f"O{k}": [x, 0], f"D{k}": [x + GROUND, 0]}
        parts[f"crank{k}"] = {"points": {"A": [0, 0], "B": [CRANK, 0]}, "pose": [x, 0, START]}
        parts[f"coupler{k}"] = {
            "points": {"B": [0, 0], "C": [COUPLER, 0]},
            "pose": [x + crank_end[0], crank_end[1], 20.3],
        }
        parts[f"rocker{k}"] = {"points": {"D": [0, 0], "C": [ROCKER, 0]}, "pose": [x + GROUND, 0, 57.3]}
        joints[f"a{k}"] = {"type": "revolute", "a": f"frame.O{k}", "b": f"crank{k}.A"}
        joints[f"b{k}"] = {"type": "revolute", "a": f"crank{k}.B", "b": f"coupler{k}.B"}
        joints[f"c{k}"] = {"type": "revolute", "a": f"coupler{k}.C", "b": f"rocker{k}.C"}
        joints[f"d{k}"] = {"type": "revolute", "a": f"frame.D{k}", "b": f"rocker{k}.D"}
        if k:
            joints[f"rod{k}"] = {"type": "distance", "a": f"rocker{k - 1}.C", "b": f"crank{k}.B", "length": rod}
    drivers = {"turn": {"joint": "a0", "from": START, "to": START + turn, "steps": steps}}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}


def strand(links: int, length: float = 12.7, lean: float = 60.0) -> tuple[dict[str, Any], tuple[float, float]]:
    """A zigzag strand of links from a fixed pin, and where its free end is."""
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0]}}}
    joints: dict[str, Any] = {}
    x, y = 0.0, 0.0
    for k in range(links):
        angle = lean if k % 2 else -lean
        parts[f"link{k}"] = {"points": {"A": [0, 0], "B": [length, 0]}, "pose": [x, y, angle]}
        joints[f"pin{k}"] = {"type": "revolute", "a": f"link{k - 1}.B" if k else "frame.O", "b": f"link{k}.A"}
        dx, dy = _polar(length, angle)
        x, y = x + dx, y + dy
    return {"anakinema": 1, "parts": parts, "joints": joints}, (x, y)


def _polar(length: float, degrees: float) -> tuple[float, float]:
    return length * math.cos(math.radians(degrees)), length * math.sin(math.radians(degrees))


def _rocker_end() -> tuple[float, float]:
    x, y = _polar(ROCKER, 57.325)
    return GROUND + x, y
