"""Mechanisms with contacts that the tests build, and how deep outlines lie in each other by another library."""

from typing import Any

import numpy as np
from shapely.geometry import Polygon
from shapely.ops import unary_union

from anakinema.kinematics.motion import Motion

Tree = dict[str, Any]


def polygon(*vertices: tuple[float, float], **more: Any) -> list[Tree]:
    """The shapes of a part that is one polygon."""
    return [{"kind": "polygon", "vertices": [list(vertex) for vertex in vertices], **more}]


def disc(radius: float, x: float = 0.0, y: float = 0.0) -> list[Tree]:
    """The shapes of a part that is one disc."""
    return [{"kind": "disc", "center": [x, y], "diameter": 2 * radius}]


def box(width: float, height: float, x: float = 0.0, y: float = 0.0) -> list[Tree]:
    """The shapes of a part that is a rectangle about a place."""
    w, h = width / 2, height / 2
    return polygon((x - w, y - h), (x + w, y - h), (x + w, y + h), (x - w, y + h))


SQUARE = box(60, 60)
ECCENTRIC = disc(30, x=10)
FLAT, ROLLER, KNIFE = polygon((-60, 0), (60, 0), (60, 8), (-60, 8)), disc(8), polygon((0, 0), (10, 30), (-10, 30))


def cam_and_follower(cam: list[Tree], foot: list[Tree], to: float = 360.0, steps: int = 24) -> Tree:
    """A cam that turns about its origin, and a follower straight above it that a rest brings down."""
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}},
                  "cam": {"points": {"C": [0, 0]}, "shapes": cam},
                  "foot": {"pose": [0, 90, 0], "points": {"F": [0, 0]}, "shapes": foot}},
        "joints": {"turn": {"type": "revolute", "a": "frame.O", "b": "cam.C"},
                   "lift": {"type": "prismatic", "a": "frame.O", "b": "foot.F", "direction": 90, "limits": {"rest": 0}},
                   "touch": {"type": "contact", "a": "cam", "b": "foot"}},
        "drivers": {"d": {"joint": "turn", "from": 0, "to": to, "steps": steps}},
    }  # fmt: skip


def blocks(count: int, to: float, wall: float | None = None, pitch: float = 30.0) -> Tree:
    """Blocks of 20 in a row on one slideway, the first driven; before them a fixed wall, where there is one."""
    parts: Tree = {"frame": {"fixed": True, "points": {"O": [0, 0]}}}
    joints: Tree = {}
    for k in range(count):
        parts[f"b{k}"] = {"pose": [k * pitch, 0, 0], "points": {"A": [0, 0]}, "shapes": box(20, 20)}
        joints[f"s{k}"] = {"type": "prismatic", "a": "frame.O", "b": f"b{k}.A", "direction": 0}
        if k:
            joints[f"c{k}"] = {"type": "contact", "a": f"b{k - 1}", "b": f"b{k}"}
    if wall is not None:
        parts["wall"] = {"fixed": True, "points": {"W": [wall, 0]}, "shapes": box(5, 40, x=wall + 2.5)}
        joints["cw"] = {"type": "contact", "a": f"b{count - 1}", "b": "wall"}
    return {"anakinema": 1, "parts": parts, "joints": joints,
            "drivers": {"d": {"joint": "s0", "from": 0, "to": to, "steps": 20}}}  # fmt: skip


def overlap(motion: Motion, samples: int = 90) -> float:
    """How deep the outlines of any contact lie in each other along a motion, by area over length of what they share;
    for parts of straight edges, which the other library knows exactly."""
    deepest, bodies = 0.0, motion.system.body
    q = motion.positions(np.linspace(0.0, motion.path.t1, samples))
    for contact in motion.document.active_contacts.values():
        for one in contact.sides[0]:
            for two in contact.sides[1]:
                outlines = [_outline(motion, part) for part in (one, two)]
                for place in q:
                    shapes = [_placed(z, place[bodies(part)]) for z, part in zip(outlines, (one, two), strict=True)]
                    shared = shapes[0].intersection(shapes[1])
                    if shared.area > 0:
                        deepest = max(deepest, 2 * shared.area / shared.length)
    return deepest


def _outline(motion: Motion, part: str) -> list[np.ndarray]:
    rings = []
    for slab in motion.document.parts[part].slabs:
        for loop in slab.region.loops:
            edges = slab.region.edges.pick(loop)
            shares = np.linspace(0.0, 1.0, 1 if not edges.is_arc.any() else 200, endpoint=False)
            rings.append(np.array([edges.point(np.full(edges.count, s)) for s in shares]).T.ravel())
    return rings


def _placed(rings: list[np.ndarray], pose: np.ndarray) -> Any:
    places = [ring * np.exp(1j * pose[2]) + complex(pose[0], pose[1]) for ring in rings]
    return unary_union([Polygon(np.column_stack((z.real, z.imag))) for z in places])
