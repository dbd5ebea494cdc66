"""Mechanisms that the tests build, as document trees."""

import cmath
import math
from typing import Any

Tree = dict[str, Any]


def document(parts: Tree, joints: Tree, **sections: Any) -> Tree:
    """A document tree with a fixed part named frame."""
    parts["frame"]["fixed"] = True
    return {"anakinema": 1, "parts": parts, "joints": joints, **sections}


def four_bar(a: float, b: float, c: float, d: float, start: float = 40.0, mode: str = "open", **sections: Any) -> Tree:
    """Crank a, coupler b, rocker c, ground d; the crank placed at `start` degrees, the rest in the wanted circuit.

    Rough poses come from the triangle over the diagonal; the open circuit has the coupler's end above the diagonal.
    """
    bx, by = a * math.cos(math.radians(start)), a * math.sin(math.radians(start))
    far, base = math.hypot(d - bx, -by), math.atan2(-by, d - bx)
    lift = math.acos(max(-1.0, min(1.0, (far**2 + b**2 - c**2) / (2 * far * b))))
    coupler = base + (lift if mode == "open" else -lift)
    rocker = math.atan2(by + b * math.sin(coupler), bx + b * math.cos(coupler) - d)
    parts = {
        "frame": {"points": {"O": [0, 0], "D": [d, 0]}},
        "crank": {"points": {"O": [0, 0], "A": [a, 0]}, "pose": [0, 0, start]},
        "coupler": {"points": {"A": [0, 0], "B": [b, 0]}, "pose": [bx, by, math.degrees(coupler)]},
        "rocker": {"points": {"D": [0, 0], "B": [c, 0]}, "pose": [d, 0, math.degrees(rocker)]},
    }
    joints = {
        "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
        "crankpin": {"type": "revolute", "a": "crank.A", "b": "coupler.A"},
        "elbow": {"type": "revolute", "a": "coupler.B", "b": "rocker.B"},
        "pivot": {"type": "revolute", "a": "frame.D", "b": "rocker.D"},
    }
    return document(parts, joints, **sections)


def slider_crank(a: float, b: float, offset: float, start: float = 60.0, **sections: Any) -> Tree:
    """Crank a, rod b, slider along x at height `offset`."""
    ax, ay = a * math.cos(math.radians(start)), a * math.sin(math.radians(start))
    rod = math.asin((offset - ay) / b)
    parts = {
        "frame": {"points": {"O": [0, 0], "way": [0, offset]}},
        "crank": {"points": {"O": [0, 0], "A": [a, 0]}, "pose": [0, 0, start]},
        "rod": {"points": {"A": [0, 0], "B": [b, 0]}, "pose": [ax, ay, math.degrees(rod)]},
        "slider": {"points": {"B": [0, 0]}, "pose": [ax + b * math.cos(rod), offset, 0]},
    }
    joints = {
        "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
        "big-end": {"type": "revolute", "a": "crank.A", "b": "rod.A"},
        "small-end": {"type": "revolute", "a": "rod.B", "b": "slider.B"},
        "ram": {"type": "prismatic", "a": "frame.way", "b": "slider.B", "direction": 0},
    }
    return document(parts, joints, **sections)


def watt_six_bar(**sections: Any) -> Tree:
    """A crank-rocker whose coupler drives a second dyad: two times two configurations."""
    tree = four_bar(40, 120, 80, 100, **sections)
    tree["parts"]["coupler"]["points"]["E"] = [60, 50]
    tree["parts"]["frame"]["points"]["F"] = [150, 90]
    tree["parts"]["link"] = {"points": {"E": [0, 0], "G": [70, 0]}, "pose": [70, 90, 0]}
    tree["parts"]["flap"] = {"points": {"F": [0, 0], "G": [50, 0]}, "pose": [150, 90, 160]}
    tree["joints"] |= {
        "e": {"type": "revolute", "a": "coupler.E", "b": "link.E"},
        "g": {"type": "revolute", "a": "link.G", "b": "flap.G"},
        "f": {"type": "revolute", "a": "frame.F", "b": "flap.F"},
    }
    return tree


def turn(start: float, stop: float, steps: int = 360, joint: str = "main", **more: Any) -> Tree:
    """A driver section of one driver, in degrees."""
    return {"turn": {"joint": joint, "from": start, "to": stop, "steps": steps, **more}}


def strand(count: int, length: float = 12.0, sag: float = 0.5, pull: float = 2.0) -> Tree:
    """A strand of links pinned to the frame; a block on a slide pulls its end to `pull` times as far as it reaches."""
    parts = {"frame": {"points": {"O": [0, 0], "way": [0, 0]}}}
    joints = {}
    end = complex(0)
    for i in range(count):
        angle = sag * (-1) ** i
        parts[f"link{i}"] = {
            "points": {"A": [0, 0], "B": [length, 0]}, "pose": [end.real, end.imag, math.degrees(angle)],
        }  # fmt: skip
        joints[f"pin{i}"] = {"type": "revolute", "a": f"link{i - 1}.B" if i else "frame.O", "b": f"link{i}.A"}
        end += length * cmath.exp(1j * angle)
    parts["block"] = {"points": {"P": [0, 0]}, "pose": [end.real, 0, 0]}
    joints["tail"] = {"type": "revolute", "a": f"link{count - 1}.B", "b": "block.P"}
    joints["way"] = {"type": "prismatic", "a": "frame.way", "b": "block.P", "direction": 0}
    drivers = {"pull": {"joint": "way", "to": pull * count * length, "steps": 8}}
    return document(parts, joints, drivers=drivers)
