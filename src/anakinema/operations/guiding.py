"""A guide cut from the motion: the path of a pin on a part becomes a slot in it, whose ends are the limits."""

from itertools import pairwise
from typing import Any

import numpy as np

from ..arrays import Array, Plane
from ..cams.outline import Ring, halves
from ..document.changes import Change, Set
from ..document.model import Document, Trace
from ..document.written import tidy
from ..errors import located
from ..formatting import in_document_units
from ..geometry.biarcs import along
from ..geometry.contours import Turn
from ..geometry.shapes import Disc, Path
from ..kinematics.motion import Motion
from ..kinematics.traces import trace
from .building import Made

LOOKED = 2001
"""Times at which it is looked where a path turns back."""
INSIDE = 1e-6
"""Share of the time between two ends that is left out at each: there a pin stands still, and its path has no direction
of its own."""
SLOW = 1e-3
"""Share of its greatest speed below which a point stands still at an end."""
FINE = 2e-7
"""By how much a side of the slot may miss the path's parallel, as a share of the path's size."""
CLOSES = 1e-6
"""How far the end of a path may be from its beginning (of its size) for it to run round."""


def slot_along(motion: Motion, name: str, width: float) -> Made:
    """A slot of a width in the part from which a trace is seen, along the path of its point in this motion: from one
    end at which it turns back to the other, or all round. The ends become limits of the first driver's joint, where it
    gets there. Raises `DocumentError` where there is no such path, or where it bends too sharply."""
    document = motion.document
    wanted = document.traces[name]
    if wanted.on is None and not document.fixed_parts:
        raise located(f"traces.{name}", "is seen from the plane; say on which part the slot is to be")
    seen = wanted if wanted.on is not None else Trace(wanted.id, wanted.point, document.fixed_parts[0])
    part = seen.on or ""
    if width <= 0:
        raise located(f"traces.{name}", "a width above zero is wanted")
    t0, t1, closed = _sweep(motion, seen)
    _refuse_bends(motion, seen, t0, t1, width)
    rings = _slot(motion, seen, t0, t1, width, closed)
    home = document.home("parts", part)
    shapes = [*document.entry("parts", part).get("shapes", []), *(_entry(ring) for ring in rings)]
    changes: list[Change] = [Set((*home, "shapes"), shapes)]
    if not closed:
        changes += _limits(motion, t0, t1)
    return Made(tuple(changes), ("parts", part))


def usual_width(document: Document, name: str) -> float:
    """The diameter of a disc about the traced point; 0 where there is none."""
    ref = document.traces[name].point
    part = document.parts[ref.part]
    at = complex(*part.points[ref.point])
    found = [shape.diameter for shape in part.shapes if isinstance(shape, Disc) and not shape.cut
             and abs(complex(*shape.center) - at) < 1e-9 * max(1.0, abs(at))]  # fmt: skip
    return max(found, default=0.0)


def _of(motion: Motion, seen: Trace, t: Array) -> tuple[Plane, Plane, Plane]:
    """(N,) places, velocities and accelerations of a path."""
    found = trace(motion, motion.at(t), seen)
    pairs = (found.place, found.velocity, found.acceleration)
    place, speed, change = (each[:, 0] + 1j * each[:, 1] for each in pairs)
    return place, speed, change


def _sweep(motion: Motion, seen: Trace) -> tuple[float, float, bool]:
    """From when to when a path is run through once, and whether it runs round."""
    t = np.linspace(0.0, motion.path.t1, LOOKED)
    place, speed, _ = _of(motion, seen, t)
    size = float(np.abs(place - place.mean()).max())
    if size < 1e-9 * max(1.0, float(np.abs(place).max())) or motion.path.t1 <= 0:
        raise located(f"traces.{seen.id}", "stands still on that part in this motion; drive the mechanism first")
    moved = np.diff(place)
    turned = (moved[:-1] * moved[1:].conj()).real < 0
    ends = [0.0, *(_turning(motion, seen, t[k], t[k + 2]) for k in np.flatnonzero(turned).tolist()), float(t[-1])]
    sweeps = [(one, two) for one, two in pairwise(ends) if two - one > 1e-9 * motion.path.t1]
    if len(sweeps) == 1 and abs(place[-1] - place[0]) < CLOSES * size:
        way = speed[[0, -1]] / np.maximum(np.abs(speed[[0, -1]]), 1e-300)
        if abs(way[0] - way[1]) < 1e-3:
            return 0.0, float(t[-1]), True

    def length(span: tuple[float, float]) -> float:
        return float(np.abs(np.diff(_of(motion, seen, np.linspace(*span, 201))[0])).sum())

    best = max(sweeps, key=length)
    return best[0], best[1], False


def _turning(motion: Motion, seen: Trace, low: float, high: float) -> float:
    """When between two times a path turns back: where its point is slowest."""
    for _ in range(6):
        t = np.linspace(low, high, 33)
        k = int(np.argmin(np.abs(_of(motion, seen, t)[1])))
        low, high = float(t[max(k - 1, 0)]), float(t[min(k + 1, 32)])
    return (low + high) / 2


def _refuse_bends(motion: Motion, seen: Trace, t0: float, t1: float, width: float) -> None:
    inside = INSIDE * (t1 - t0)
    _, speed, change = _of(motion, seen, np.linspace(t0 + 1e3 * inside, t1 - 1e3 * inside, LOOKED))
    bend = np.abs((speed.conj() * change).imag) / np.maximum(np.abs(speed), 1e-300) ** 3
    if float(bend.max()) * width / 2 >= 1.0:
        unit, radius = motion.document.units.length, 1.0 / float(bend.max())
        text = f"bends with a radius of {radius:.4g} {unit}; a slot {width:.4g} {unit} wide can't follow it"
        raise located(f"traces.{seen.id}", f"{text}, take one below {2 * radius:.4g} {unit}")


def _slot(motion: Motion, seen: Trace, t0: float, t1: float, width: float, closed: bool) -> tuple[Ring, ...]:
    first, last, half = t0, t1, width / 2
    if not closed:
        pace = np.abs(_of(motion, seen, np.linspace(t0, t1, 201))[1])
        still = pace < SLOW * pace.max()
        first, last = t0 + INSIDE * (t1 - t0) * still[0], t1 - INSIDE * (t1 - t0) * still[-1]
    size = float(np.abs(np.ptp(_of(motion, seen, np.linspace(first, last, 201))[0].view(float))))
    allowed = FINE * max(size, width)

    def side(out: float) -> tuple[complex, list[Turn]]:
        def curve(t: Array) -> tuple[Plane, Plane]:
            place, speed, _ = _of(motion, seen, t)
            ahead = speed / np.maximum(np.abs(speed), 1e-300)
            return place + 1j * out * ahead, ahead

        start = complex(curve(np.array([first]))[0][0])
        return start, along(curve, first, last, allowed)

    (left, ahead), (right, beside) = side(half), side(-half)
    if closed:
        ahead[-1], beside[-1] = (left, *ahead[-1][1:]), (right, *beside[-1][1:])
        return halves((left, tuple(ahead)), (right, tuple(beside)))
    places = [right, *(to for to, _, _ in beside)]
    back: list[Turn] = []
    for k in range(len(beside) - 1, -1, -1):
        _, center, ccw = beside[k]
        back.append((places[k], center, not ccw))
    middles = [complex(z) for z in _of(motion, seen, np.array([first, last]))[0]]
    # Round ends, clockwise about the last place and about the first: the left side runs ahead.
    ring = [*ahead, (places[-1], middles[1], False), *back, (left, middles[0], False)]
    return ((left, tuple(ring)),)


def _entry(ring: Ring) -> dict[str, Any]:
    """A cut as the document writes it."""

    def spot(z: complex) -> list[float]:
        return [tidy(round(z.real, 9)), tidy(round(z.imag, 9))]

    start, turns = ring
    segments = [{"to": spot(to)} if center is None else {"to": spot(to), "center": spot(center), "ccw": ccw}
                for to, center, ccw in turns]  # fmt: skip
    return {"kind": Path.kind, "start": spot(start), "segments": segments, "cut": True}


def _limits(motion: Motion, t0: float, t1: float) -> list[Change]:
    """Both ends as limits of the joint that the first driver moves; none where it turns back between them."""
    if not motion.drive.drivers:
        return []
    document, joint = motion.document, motion.drive.drivers[0].joint
    column = motion.system.coordinates.index(joint)
    values = motion.coordinates(np.linspace(t0, t1, 101))[:, column]
    if document.is_mirrored(joint) or not ((np.diff(values) > 0).all() or (np.diff(values) < 0).all()):
        return []
    if abs(values[-1] - values[0]) >= 2 * np.pi - 1e-6 and not motion.system.coordinates.is_length[column]:
        return []
    low, high = sorted((float(values[0]), float(values[-1])))
    dimension, place = motion.system.coordinates.dimension(column), (*document.home("joints", joint), "limits")
    hair = 1e-9 * max(1.0, abs(high), abs(low))
    return [Set((*place, key), tidy(round(in_document_units(value, dimension, document.units), 9)))
            for key, value in (("min", low - hair), ("max", high + hair))]  # fmt: skip
