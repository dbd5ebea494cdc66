"""Which outlines may touch: of every contact the pairs of rigid pieces that share depth, their features, and the rows
that hold where two features touch."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

import numpy as np

from ..arrays import Array, Index, Mask, Plane
from ..document.model import Document
from ..geometry.outline import Region
from .features import Features, features_of
from .kernels import touching
from .kernels.touching import CONCAVE, LINE, ROUND
from .reaches import rigid_ties
from .rows import RowSpec, Term
from .system import System
from .unilateral import Unilateral

ON = 1e-9
"""Gap up to which features touch (typical lengths)."""
MOST = 400
"""Features that may touch at one place."""


@dataclass(frozen=True, eq=False)
class Pairing:
    """Two outlines of a contact: the bodies with their features."""

    owner: str
    a: int
    b: int
    one: Features
    two: Features
    tables: tuple[Array, Array]
    regions: tuple[Region, Region]

    def relative(self, q: Array) -> tuple[Plane, Plane]:
        """(S,) twice: where b's origin lies and its axes point as a has it, at positions q (S, P, 3)."""
        a, b = q[:, self.a], q[:, self.b]
        back = np.exp(-1j * a[:, 2])
        return ((b[:, 0] - a[:, 0]) + 1j * (b[:, 1] - a[:, 1])) * back, np.exp(1j * (b[:, 2] - a[:, 2]))

    def apart(self, q: Array) -> Array:
        """(S,) what the outlines are certainly apart, by the circles about them; below zero: perhaps not."""
        place, turn = self.relative(q)
        gap: Array = np.abs(place + turn * self.two.middle - self.one.middle) - self.one.reach - self.two.reach
        return gap

    def measure(self, i: int, j: int, q: Array) -> tuple[Array, Array]:
        """(S,) gap and slack of two features at positions q (S, P, 3)."""
        place, turn = self.relative(q)
        gaps, slacks = np.empty(len(q)), np.empty(len(q))
        touching.one_apart(*self.tables, i, j, place, turn, gaps, slacks)
        return gaps, slacks

    def near(self, q: Array, near: float, beside: float) -> list[tuple[int, int, float, float]]:
        """The features that touch, but for so much, at positions q (P, 3), with their gap and slack."""
        place, turn = self.relative(q[None])
        found, measured = np.empty((MOST, 2), dtype=np.int64), np.empty((MOST, 2))
        count = touching.touching(*self.tables, place[0], turn[0], near, beside, found, measured)
        return [(*found[k].tolist(), *measured[k].tolist()) for k in range(min(count, MOST))]

    def row(self, i: int, j: int) -> Unilateral:
        """The row that keeps two features from passing; its value is their gap, or less that."""
        ends = [(self.a, self.one, i), (self.b, self.two, j)]
        if self.two.kind[j] != ROUND:
            ends.reverse()
        (body, line, k), (other, round_, m) = ends
        middle = (float(round_.at[m].real), float(round_.at[m].imag))
        at = (float(line.at[k].real), float(line.at[k].imag))
        size, radius = float(line.size[k]), float(round_.size[m])
        if line.kind[k] == LINE:
            term = Term("projection", body, other, at, middle, float(np.angle(-1j * line.along[k])))
            return Unilateral(self.owner, RowSpec((term,), f"joints.{self.owner}", radius), 1, 0.0)
        nested = line.kind[k] == CONCAVE
        term = Term("distance", body, other, at, middle, size - radius if nested else size + radius)
        return Unilateral(self.owner, RowSpec((term,), f"joints.{self.owner}"), -1 if nested else 1, 0.0)

    def spot(self, i: int, j: int, q: Array) -> tuple[complex, complex]:
        """Where two features touch at positions q (P, 3), and the normal there, out of a into b; in the plane."""
        turns = np.exp(1j * q[[self.a, self.b], 2])
        places = q[[self.a, self.b], 0] + 1j * q[[self.a, self.b], 1]
        at = [complex(places[k] + turns[k] * each) for k, each in ((0, self.one.at[i]), (1, self.two.at[j]))]
        if self.one.kind[i] == LINE:
            normal = complex(-1j * self.one.along[i] * turns[0])
            return at[1] - self.two.size[j] * normal, normal
        if self.two.kind[j] == LINE:
            normal = complex(1j * self.two.along[j] * turns[1])
            return at[0] + self.one.size[i] * normal, normal
        way = at[1] - at[0]
        way /= abs(way)
        if self.one.kind[i] == CONCAVE:
            return at[0] + self.one.size[i] * way, -way
        if self.two.kind[j] == CONCAVE:
            return at[1] - self.two.size[j] * way, -way
        return at[0] + self.one.size[i] * way, way

    def corners(self, i: int, j: int, q: Array, beside: float) -> tuple[int, int] | None:
        """The corners of both outlines that lie together where two features touch; None where there are not two."""
        found = []
        spot, _ = self.spot(i, j, q)
        for features, k, body in ((self.one, i, self.a), (self.two, j, self.b)):
            if features.kind[k] == ROUND and features.size[k] == 0.0:
                found.append(k)
                continue
            turn, place = np.exp(1j * q[body, 2]), complex(q[body, 0], q[body, 1])
            found += [int(corner) for corner in features.corner[k]
                      if corner >= 0 and abs(place + turn * features.at[corner] - spot) <= beside][:1]  # fmt: skip
        return (found[0], found[1]) if len(found) == 2 else None

    def scan(self, t: Array, q: Array, skip: Mask, beyond: float) -> Index:
        """(N, 3) the intervals between samples at times t (S,) and positions q (S, P, 3) in which features may come to
        touch, with the features."""
        place, turn = self.relative(q)
        found, steps = np.empty((MOST, 3), dtype=np.int64), np.zeros(t.size)
        reach = self.one.reach + self.two.reach + abs(self.one.middle) + abs(self.two.middle)
        steps[1:] = np.abs(np.diff(place)) + np.abs(np.diff(turn)) * reach
        count = touching.scan(*self.tables, place, turn, t, steps, beyond, skip, found, np.empty((2, t.size)))
        return found[: min(count, MOST)]


def pairings(document: Document, system: System) -> tuple[Pairing, ...]:
    """Those of all contacts of a document that are not suspended."""
    if not document.active_contacts:
        return ()
    ties = rigid_ties(document)
    known: dict[tuple[str, int], Features] = {}

    def features(part: str, number: int) -> Features:
        key = part, number
        if key not in known:
            known[key] = features_of(document.parts[part].slabs[number].region, system.scale)
        return known[key]

    def of_parts(owner: str, one: str, two: str) -> Iterator[Pairing]:
        slabs = document.parts[one].slabs, document.parts[two].slabs
        for (i, slab), (j, other) in product(enumerate(slabs[0]), enumerate(slabs[1])):
            if slab.meets(other):
                pair = features(one, i), features(two, j)
                tables, regions = (pair[0].table, pair[1].table), (slab.region, other.region)
                yield Pairing(owner, system.body(one), system.body(two), *pair, tables, regions)

    found: list[Pairing] = []
    seen: set[frozenset[str]] = set()
    for contact in document.active_contacts.values():
        for one, two in product(*contact.sides):
            pair = frozenset((one, two))
            if ties.head(one) != ties.head(two) and pair not in seen:
                seen.add(pair)
                found += of_parts(contact.id, one, two)
    return tuple(found)
