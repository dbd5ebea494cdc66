"""Where contacts touch while a mechanism stands somewhere, for drawing."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from .motion import Motion
from .surroundings import Surroundings
from .unilateral import Unilaterals

NEAR = 1e-6
"""How far apart features may be that touch (typical lengths): positions that are drawn are no better."""


@dataclass(frozen=True)
class Touch:
    """A place (x + i y, document lengths) where a contact touches, and the unit normal there, out of the first part."""

    contact: str
    at: complex
    normal: complex


def touches(motion: Motion, q: Array) -> list[Touch]:
    """All places where contacts touch at positions q (P, 3: document lengths, rad); faces that lie on each other touch
    at both ends."""
    if not motion.document.contacts:
        return []
    key = ("surroundings",)
    if key not in motion.kept:
        start = motion.path.pieces[0].q[0]
        motion.kept[key] = Surroundings(motion.document, motion.system, Unilaterals((), len(start)), start)
    around: Surroundings = motion.kept[key]
    if not around.pairs:
        return []
    q = np.ascontiguousarray(q / motion.system.size)
    places, turns = (each[0] for each in around.relative(q[None]))
    found: list[Touch] = []
    for number in np.flatnonzero(around.apart(places, turns) <= NEAR).tolist():
        pair = around.pairs[number]
        for i, j, _, _ in pair.near(q, NEAR, NEAR):
            at, normal = pair.spot(i, j, q)
            if all(abs(at * motion.system.scale - one.at) > NEAR * motion.system.scale for one in found):
                found.append(Touch(pair.owner, at * motion.system.scale, normal))
    return found


def heading(motion: Motion, part: str, t: float) -> complex:
    """The direction (x + i y, of size 1) in which the middle of a part goes at a time; to the right where it rests."""
    state = motion.at(np.array([t]))
    body = motion.system.body(part)
    angle = float(state.q[0, body, 2])
    vx, vy, w = state.v[0, body].tolist()
    slabs = motion.document.parts[part].slabs
    edges = slabs[-1].region.edges.start if slabs else np.zeros(1, dtype=complex)
    arm = complex(edges.mean()) * np.exp(1j * angle)
    way = complex(vx, vy) + 1j * w * arm
    size = abs(way)
    return way / size if np.isfinite(size) and size > 1e-9 else 1.0 + 0j
