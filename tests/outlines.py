"""Outlines for the tests of clearance: random ones, and the same as polygons of a general geometry library."""

import math
import random
from typing import Any

import numpy as np
import shapely

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.geometry.outline import Region
from mechanisms import Tree, document


def polygon(region: Region, pieces: int = 256) -> shapely.Geometry:
    """A region as a polygon with holes: each arc as so many chords a full turn, its corners on the arc."""
    solid, holes = [], []
    for loop in region.loops:
        points = []
        for i in loop:
            edge = region.edges.pick(np.array([i]))
            count = max(4, math.ceil(abs(edge.sweep[0]) / math.tau * pieces)) if edge.radius[0] > 0 else 1
            points.append(edge.pick(np.zeros(count, dtype=int)).point(np.arange(count) / count))
        z = np.concatenate(points)
        ring = shapely.Polygon(np.stack((z.real, z.imag), axis=1))
        (solid if float((z.conj() * np.roll(z, -1)).imag.sum()) > 0 else holes).append(ring)
    return shapely.difference(shapely.union_all(solid), shapely.union_all(holes))


def placed(shape: shapely.Geometry, pose: np.ndarray) -> np.ndarray:
    """(S,) a polygon at poses (S, 3)."""
    copies = np.repeat(shape, len(pose))
    xy, which = shapely.get_coordinates(copies, return_index=True)
    z = (xy[:, 0] + 1j * xy[:, 1]) * np.exp(1j * pose[which, 2]) + pose[which, 0] + 1j * pose[which, 1]
    return shapely.set_coordinates(copies, np.stack((z.real, z.imag), axis=1))


def shapes(chance: random.Random) -> list[Tree]:
    """A random outline about the origin, some 40 across: with cuts, hollows, many arcs."""
    number = lambda low, high: round(chance.uniform(low, high), 2)  # noqa: E731
    spot = lambda far: [number(-far, far), number(-far, far)]  # noqa: E731

    def one(small: float = 1.0) -> Tree:
        match chance.randrange(6):
            case 0:
                return {"kind": "disc", "center": spot(12), "diameter": number(4, 24 * small)}
            case 1:
                return {"kind": "bar", "through": [spot(20), spot(20)], "width": number(3, 12 * small)}
            case 2:
                size = [number(4, 36 * small), number(4, 24 * small)]
                corner = number(0, 0.45 * min(size)) if chance.random() < 0.6 else 0
                whole = {"kind": "rectangle", "center": spot(8), "size": size, "angle": number(0, 180)}
                return {**whole, "corner_radius": corner}
            case 3:  # a star: sharp and hollow corners in turn, rounded now and then
                corners = chance.randrange(3, 8)
                radii = [number(5, 20 * small) for _ in range(2 * corners)]
                vertices = [
                    [round(r * math.cos(math.pi * k / corners), 3), round(r * math.sin(math.pi * k / corners), 3)]
                    for k, r in enumerate(radii)
                ]
                return {"kind": "polygon", "vertices": vertices, "corner_radius": chance.choice((0, 0, 0.5))}
            case 4:
                begin = number(0, 300)
                return {"kind": "slot", "center": spot(4), "radius": number(9, 18 * small), "from": begin,
                        "to": begin + number(30, 200), "width": number(3, 8)}
            case _:  # a half moon: a hollow arc under a wide one
                r = number(8, 18 * small)
                rise = number(1, 0.7 * r)
                low = math.hypot(r, rise * 2)
                return {"kind": "path", "start": [r, 0], "segments": [
                    {"to": [-r, 0], "center": [0, 0], "ccw": True},
                    {"to": [r, 0], "center": [0, -math.sqrt(low**2 - r**2)], "ccw": False}]}

    found = [one() for _ in range(chance.choice((1, 1, 2, 3)))]
    for _ in range(chance.choice((0, 0, 1, 2))):
        found.append({**one(0.5), "cut": True})
    return found


def two_arms(one: list[Tree], two: list[Tree], apart: float, first: tuple[float, float], second: tuple[float, float],
             **sections: Any) -> Tree:
    """Two parts that turn about pivots so far apart, each driven from an angle to another."""
    parts = {
        "frame": {"points": {"O": [0, 0], "D": [apart, 0]}},
        "one": {"points": {"O": [0, 0]}, "shapes": one},
        "two": {"points": {"O": [0, 0]}, "shapes": two, "pose": [apart, 0, 0]},
    }
    joints = {
        "left": {"type": "revolute", "a": "frame.O", "b": "one.O"},
        "right": {"type": "revolute", "a": "frame.D", "b": "two.O"},
    }
    drivers = {
        name: {"joint": joint, "from": span[0], "to": span[1], "steps": 10, "duration": 1}
        for name, joint, span in (("swing", "left", first), ("turn", "right", second))
    }
    return document(parts, joints, drivers=drivers, **sections)


def random_pair(seed: int) -> Tree:
    """Two arms of random outlines that pass, graze or run into each other."""
    chance = random.Random(seed)
    while True:
        tree = two_arms(
            shapes(chance), shapes(chance), round(chance.uniform(10, 60), 2),
            (round(chance.uniform(-180, 180), 1), round(chance.uniform(-180, 180), 1)),
            (round(chance.uniform(-180, 180), 1), round(chance.uniform(-180, 180), 1)),
        )
        try:
            read = read_document(tree)
        except DocumentError:  # a random outline that crosses itself
            continue
        if all(read.parts[name].slabs for name in ("one", "two")):
            return tree
