"""Exact distances between edges: lines and arcs, elementwise over arrays of any one shape.

The nearest points of two edges are ends of one with their feet on the other, or lie on the line through an arc's
center perpendicular to the other edge (through both centers for two arcs), or the edges cross.
"""

import numpy as np

from ..arrays import Array, Mask, Plane
from .edges import FIELDS, Edges, meetings

Nearest = tuple[Array, Plane, Plane]


def point_to_edge(z: Plane, edges: Edges) -> tuple[Array, Plane]:
    """Distance from points to edges, and the foot."""
    share = np.clip(edges.share_of(z), 0.0, 1.0)
    foot = edges.point(share)
    return np.abs(z - foot), foot


def edge_to_edge(one: Edges, two: Edges) -> Nearest:
    """Distance between edges elementwise (0 where they cross), and the nearest point of each."""
    best = np.full(one.start.shape, np.inf)
    on_one, on_two = np.zeros_like(one.start), np.zeros_like(one.start)

    def offer(gap: Array, p: Plane, q: Plane, valid: Mask | bool = True) -> None:
        nonlocal best, on_one, on_two
        nearer = (gap < best) & valid
        best, on_one, on_two = np.where(nearer, gap, best), np.where(nearer, p, on_one), np.where(nearer, q, on_two)

    for z in (one.start, one.end):
        gap, foot = point_to_edge(z, two)
        offer(gap, z, foot)
    for z in (two.start, two.end):
        gap, foot = point_to_edge(z, one)
        offer(gap, foot, z)
    if (one.is_arc | two.is_arc).any():
        p, q, valid = _inner(one, two)
        offer(np.abs(p - q), p, q, valid)
    flat_one, flat_two = (Edges(*(getattr(e, name).ravel() for name in FIELDS)) for e in (one, two))
    crossing = meetings(flat_one, flat_two)[:, :].reshape(*best.shape, 2)
    for column in range(2):
        z = crossing[..., column]
        offer(np.where(np.isnan(z), np.inf, 0.0), z, z)
    return best, on_one, on_two


def _inner(one: Edges, two: Edges) -> tuple[Plane, Plane, Mask]:
    """The nearest points inside both edges, on the perpendicular through a center; and where there are such.

    Apart circles face each other; of circles one inside the other, both points lie on the side of the smaller one's
    center. (Circles that cross have no such pair: there an end or a crossing is nearest.)
    """
    base_one, base_two = _base(one, two.center), _base(two, one.center)
    toward = base_two - base_one
    size = np.abs(toward)
    toward = toward / np.where(size > 0, size, 1.0)
    nested = one.is_arc & two.is_arc & (size < np.abs(one.radius - two.radius))
    larger = one.radius > two.radius
    p = base_one + np.where(nested & ~larger, -1 + 0j, 1 + 0j) * one.radius * toward
    q = base_two + np.where(nested & larger, 1 + 0j, -1 + 0j) * two.radius * toward
    # With a center on the other edge's carrier, or on the other center, no direction is nearer than another.
    apart = size > 1e-9 * (one.radius + two.radius)
    return p, q, (one.is_arc | two.is_arc) & apart & _within(one, p) & _within(two, q)


def _base(edges: Edges, z: Plane) -> Plane:
    """An arc's center; for a straight edge the foot of z on its carrier."""
    chord = edges.end - edges.start
    size = np.abs(chord) ** 2
    share = ((z - edges.start) * chord.conj()).real / np.where(size > 0, size, 1.0)
    return np.where(edges.is_arc, edges.center, edges.start + share * chord)


def _within(edges: Edges, z: Plane) -> Mask:
    share = edges.share_of(z)
    return (share >= 0) & (share <= 1)
