"""The form of a part: its outline as the compiled loops read it, with a tree over what is near to each other."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..arrays import Array, Index, Plane
from ..geometry.edges import Edges, joined
from ..geometry.outline import Slab
from .capsules import Capsule, capsule_about
from .kernels.tables import ANGLE_SLACK, LINE, ROUND, OutlineTable

LEAF = 4
"""Features under one leaf of the tree."""
SHARPEST = 0.02
"""How far a sharp corner is drawn in, at most: over 1 + cos of its turning."""


@dataclass(frozen=True, eq=False)
class OutlineShape:
    """A form with what the loops need not know: how far it reaches from the part's origin, and the capsule about it."""

    form: OutlineTable
    reach: float
    capsule: Capsule


@lru_cache(maxsize=4096)
def shape_of(slabs: tuple[Slab, ...], tolerance: float) -> OutlineShape:
    """The form of a part's slabs; `tolerance` is how far the slim outline is drawn in."""
    rows: list[Array] = []
    slim_rows: list[Array] = []
    spots: list[tuple[float, ...]] = []
    slim_spots: list[tuple[float, ...]] = []
    edges, slim_edges, levels = [], [], []
    count = 0
    rings = []
    for slab in slabs:
        ring = slab.region.edges.pick(np.concatenate(slab.region.loops))
        rings.append(ring)
        sizes = np.array([loop.size for loop in slab.region.loops])
        first = np.cumsum(sizes) - sizes
        before, after = np.arange(ring.count) - 1, np.arange(ring.count) + 1
        before[first], after[first + sizes - 1] = first + sizes - 1, first
        found, slim, inset = _features(ring, before, after, tolerance)
        for table, tables in ((found, rows), (slim, slim_rows)):
            table[:, 6], table[:, 7] = slab.within
            table[:, 11] += np.where(table[:, 11] >= 0, count, 0)
            tables.append(table)
        slim_radius = np.where(ring.is_arc, np.maximum(ring.radius - tolerance * np.sign(ring.sweep), 0.0), 0.0)
        edges.append(_table(ring))
        slim_edges.append(_table(_between(ring, inset, inset[after], slim_radius)))
        levels.append((*slab.within, count, count + ring.count))
        for places, points in ((spots, ring.start), (slim_spots, inset)):
            places += [(points[k].real, points[k].imag, *slab.within) for k in first]
        count += ring.count
    features, slim_features = np.concatenate(rows), np.concatenate(slim_rows)
    order, nodes, links = _tree(features)
    form = OutlineTable(
        np.ascontiguousarray(features[order]), np.ascontiguousarray(slim_features[order]), np.concatenate(edges),
        np.concatenate(slim_edges), nodes, links, np.array(levels, dtype=float), np.array(spots), np.array(slim_spots),
    )
    reach = float((np.hypot(features[:, 8], features[:, 9]) + features[:, 10]).max())
    return OutlineShape(form, reach, capsule_about(joined(rings)))


def _between(ring: Edges, start: Plane, end: Plane, radius: Array) -> Edges:
    """The edges with other ends and radii nearby; arcs go just as far as these."""
    arcs = ring.is_arc
    with np.errstate(invalid="ignore", divide="ignore"):
        begins = np.where(arcs, np.angle((start - ring.center) / (ring.start - ring.center)), 0.0)
        stops = np.where(arcs, np.angle((end - ring.center) / (ring.end - ring.center)), 0.0)
    sweep = ring.sweep + stops - begins
    return replace(ring, start=start, end=end, radius=radius, angle=ring.angle + begins, sweep=sweep)


def _table(ring: Edges) -> Array:
    columns = (
        ring.start.real, ring.start.imag, ring.end.real, ring.end.imag, ring.center.real, ring.center.imag, ring.radius,
        ring.angle, ring.sweep,
    )
    return np.ascontiguousarray(np.stack(columns, axis=1))


def _features(ring: Edges, before: Index, after: Index, tolerance: float) -> tuple[Array, Array, Plane]:
    """Lines, arcs and sharp corners of loops; the same drawn in by a hair; and each edge's start drawn in."""
    count, arcs, hollow = ring.count, ring.is_arc, ring.sweep < 0
    out, into = ring.direction(np.zeros(count)), ring.direction(np.ones(count))[before]
    turning = np.angle(out * into.conj())
    n_out, n_in = -1j * out, -1j * into
    inset = ring.start - tolerance * (n_in + n_out) / np.maximum(1 + np.cos(turning), SHARPEST)
    chord = ring.end - ring.start
    length = np.abs(chord)
    along = chord / np.where(length > 0, length, 1.0)
    middle = ring.angle + ring.sweep / 2 + np.where(hollow, np.pi, 0.0)
    curved = arcs & (np.abs(ring.sweep) > np.pi)
    around = np.where(curved, ring.center, (ring.start + ring.end) / 2)
    size = np.where(arcs, np.where(hollow, -ring.radius, ring.radius), length)
    slim_size = np.where(arcs, size - tolerance, np.abs(inset[after] - inset))
    slim_size = np.where(arcs & ~hollow, np.maximum(slim_size, 0.0), slim_size)
    sharp = np.flatnonzero(turning > ANGLE_SLACK / 4)
    none = np.zeros(sharp.size)
    tables = []
    for starts, sizes in ((ring.start, size), (inset, slim_size)):
        base, points = np.where(arcs, ring.center, starts), starts[sharp]
        rows = _rows(
            np.where(arcs, ROUND, LINE), base, sizes, np.where(arcs, middle, along.real),
            np.where(arcs, np.abs(ring.sweep) / 2, along.imag), around,
            np.where(curved, ring.radius, length / 2) + 2 * tolerance, np.arange(count),
        )
        corners = _rows(
            none + ROUND, points, none, np.angle(n_in[sharp]) + turning[sharp] / 2, turning[sharp] / 2, points,
            none + 2 * tolerance / SHARPEST, none - 1,
        )
        tables.append(np.concatenate((rows, corners)))
    return tables[0], tables[1], inset


def _rows(
    kind: Array, base: Plane, size: Array, one: Array, two: Array, around: Plane, radius: Array, edge: Array | Index
) -> Array:
    none = np.zeros(len(kind))
    columns = (kind, base.real, base.imag, size, one, two, none, none, around.real, around.imag, radius, edge)
    return np.stack(columns, axis=1)


def _tree(features: Array) -> tuple[Index, Array, Index]:
    """Order of the features, and the nodes of a tree of circles over them: halves along the longer side."""
    place, size = features[:, 8] + 1j * features[:, 9], features[:, 10]
    nodes: list[tuple[float, ...]] = []
    links: list[list[int]] = []
    order: list[int] = []

    def add(some: Index) -> int:
        z, r = place[some], size[some]
        low = complex((z.real - r).min(), (z.imag - r).min())
        high = complex((z.real + r).max(), (z.imag + r).max())
        middle = (low + high) / 2
        radius = float((np.abs(z - middle) + r).max())
        nodes.append((middle.real, middle.imag, radius, features[some, 6].min(), features[some, 7].max()))
        links.append([0, 0])
        return len(nodes) - 1

    waiting = [(np.arange(len(features)), add(np.arange(len(features))))]
    while waiting:
        some, node = waiting.pop()
        if some.size <= LEAF:
            links[node] = [-1 - len(order), some.size]
            order += some.tolist()
            continue
        z = place[some]
        across = z.real if np.ptp(z.real) >= np.ptp(z.imag) else z.imag
        some = some[np.argsort(across, kind="stable")]
        halves = some[: some.size // 2], some[some.size // 2 :]
        links[node] = [add(half) for half in halves]
        waiting += zip(halves, links[node], strict=True)
    return np.array(order, dtype=np.intp), np.array(nodes), np.array(links, dtype=np.int64)
