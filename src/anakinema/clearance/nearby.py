"""Which pairs with a piece of hardware are worth watching: those that come near each other at all."""

import numpy as np

from ..arrays import Array, Plane
from ..document.model import Document, Part
from ..kinematics.motion import Motion
from .pairs import Pair, named_pairs

LOOKS = 97
"""Moments of the motion at which it is looked how near circles about parts come."""
SLACK = 1.2
"""How much further than half the way between two moments parts may have come in between."""
NEAR = 0.5
"""How near the circles about two must come, as a share of the piece's own radius."""


def without_far_pieces(motion: Motion, pairs: list[Pair]) -> list[Pair]:
    """The pairs but those of a piece of hardware that is certainly nowhere near the other part, by the circles about
    both: hardware is all over, and nearly all of its pairs are of what stands far apart."""
    document = motion.document
    if not document.carried or motion.path.t1 <= 0:
        return pairs
    named = {frozenset(pair) for pair in named_pairs(document)}
    order = {name: k for k, name in enumerate(dict.fromkeys(name for pair in pairs for name in pair))}
    centers, reach, steps = _circles(motion, document, list(order))
    kept = []
    ones, twos = (np.array([order[pair[side]] for pair in pairs], dtype=int) for side in (0, 1))
    gap = np.full(len(pairs), np.inf)
    for row, moved in zip(centers, steps, strict=True):
        apart = np.abs(row[ones] - row[twos]) - reach[ones] - reach[twos] - moved[ones] - moved[twos]
        gap = np.minimum(gap, apart)
    for k, pair in enumerate(pairs):
        pieces = [reach[order[name]] for name in pair if name in document.carried]
        if not pieces or gap[k] <= NEAR * max(pieces) or frozenset(pair) in named:
            kept.append(pair)
    return kept


def _circles(motion: Motion, document: Document, names: list[str]) -> tuple[Plane, Array, Array]:
    """(S, N) where the middles of parts are, (N,) their reach about these, (S, N) how far they may be off between."""
    t = np.linspace(0.0, motion.path.t1, LOOKS)
    q = motion.positions(t)
    middles, reach = zip(*(_circle(document.parts[name]) for name in names), strict=True) if names else ((), ())
    bodies = [motion.system.body(name) for name in names]
    at = q[:, bodies, 0] + 1j * q[:, bodies, 1] + np.array(middles) * np.exp(1j * q[:, bodies, 2])
    moved = np.abs(np.diff(at, axis=0)) / 2 * SLACK
    steps = np.maximum(np.pad(moved, ((0, 1), (0, 0))), np.pad(moved, ((1, 0), (0, 0))))
    return at, np.array(reach), steps


def _circle(part: Part) -> tuple[complex, float]:
    """A circle about all outlines of a part, in its own axes."""
    if part.hardware is not None:
        return complex(*part.points["axis"]), max((one.outer for one in part.hardware.solids), default=0.0) / 3**0.5
    z = np.concatenate([slab.region.edges.point(np.full(slab.region.edges.count, share))
                        for slab in part.slabs for share in (0.0, 0.5)])  # fmt: skip
    bow = max(float((np.where(edges.is_arc, edges.radius * (1 - np.cos(np.abs(edges.sweep) / 4)), 0.0)).max())
              for edges in (slab.region.edges for slab in part.slabs))  # fmt: skip
    middle = complex((z.real.min() + z.real.max()) / 2, (z.imag.min() + z.imag.max()) / 2)
    return middle, float(np.abs(z - middle).max()) + bow
