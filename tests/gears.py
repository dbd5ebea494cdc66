"""Documents with wheels, and their outlines as polygons, for tests."""

import math

import numpy as np
import shapely


def poly(ring, sides=8):
    """An outline as a polygon, so many sides less one for each of its arcs."""
    points, here = [], ring[0]
    for to, center, ccw in ring[1]:
        if center is None:
            points.append(here)
        else:
            a, b = here - center, to - center
            by = np.angle(b / a)
            by += math.tau if ccw and by < -1e-12 else -math.tau if not ccw and by > 1e-12 else 0.0
            points += (center + a * np.exp(1j * np.linspace(0, by, sides))).tolist()[:-1]
        here = to
    return shapely.Polygon([(z.real, z.imag) for z in points])


def train(one, two, center, turned=(0, 0), **joint):
    """Two wheels on a frame, the first at the origin, driven over a turn."""
    wheels = {name: {"points": {"O": [0, 0]}, "pose": [*at, angle],
                     "shapes": [{"kind": "gear", "center": "O", **shape}]}
              for name, at, angle, shape in (("one", (0, 0), turned[0], one), ("two", center, turned[1], two))}
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "Q": list(center)}}, **wheels},
        "joints": {"a": {"type": "revolute", "a": "frame.O", "b": "one.O"},
                   "b": {"type": "revolute", "a": "frame.Q", "b": "two.O"},
                   "mesh": {"type": "gear", "a": "a", "b": "b", **joint}},
        "drivers": {"d": {"joint": "a", "from": turned[0], "to": turned[0] + 360, "steps": 36}},
    }  # fmt: skip


def planets(sun, planet, ring, count):
    """A planet train: a driven sun, a ring that stands, an arm with so many planets."""
    far, step = sun + planet, math.tau / count
    spots = {f"P{k}": [far * math.cos(step * k), far * math.sin(step * k)] for k in range(count)}
    parts = {
        "frame": {"fixed": True, "points": {"O": [0, 0]}, "shapes": [
            {"kind": "gear", "center": "O", "module": 2, "teeth": ring, "internal": True, "addendum": 0.8}]},
        "sun": {"points": {"O": [0, 0]}, "shapes": [{"kind": "gear", "center": "O", "module": 2, "teeth": sun}]},
        "arm": {"points": {"O": [0, 0], **spots}},
    }  # fmt: skip
    joints = {"sun": {"type": "revolute", "a": "frame.O", "b": "sun.O"},
              "arm": {"type": "revolute", "a": "frame.O", "b": "arm.O"},
              "ring": {"type": "revolute", "a": "arm.O", "b": "frame.O"}}  # fmt: skip
    for k in range(count):
        parts[f"planet{k}"] = {"points": {"O": [0, 0]}, "pose": [*spots[f"P{k}"], 0], "shapes": [
            {"kind": "gear", "center": "O", "module": 2, "teeth": planet}]}  # fmt: skip
        joints[f"p{k}"] = {"type": "revolute", "a": f"arm.P{k}", "b": f"planet{k}.O"}
        joints[f"in{k}"] = {"type": "gear", "a": "sun", "b": f"p{k}", "carrier": "arm"}
    joints["out0"] = {"type": "gear", "a": "p0", "b": "ring", "carrier": "arm"}
    for k in range(1, count):
        joints[f"out{k}"] = {"type": "gear", "a": f"p{k}", "b": "ring", "carrier": "arm", "suspended": False}
    return {"anakinema": 1, "parts": parts, "joints": joints,
            "drivers": {"d": {"joint": "sun", "from": 0, "to": 360, "steps": 36}}}  # fmt: skip
