"""Stretches of a motion: what drivers command, the nodes of what was followed, where it ended."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Mask
from ..laws import LawPiece
from .equations import Equations

if TYPE_CHECKING:
    from .led import Led
    from .minimum_norm import MinimumNorm

RESTS = 1e-7
"""Share of a law's greatest pace below which its drivers count as resting."""


@dataclass(frozen=True, eq=False)
class Law:
    """What is commanded from time t0 to t1: a row (D, 11) of `table` for each target (see `kernels.laws`)."""

    t0: float
    t1: float
    table: Array = field(repr=False)

    @classmethod
    def of(cls, t0: float, t1: float, pieces: Sequence[LawPiece]) -> "Law":
        """That of a piece for each target, which hold from t0 to t1."""
        rows = [(*piece.terms, piece.amplitude, piece.frequency, piece.phase)
                for piece in (piece.part(t0, t1) for piece in pieces)]  # fmt: skip
        return cls(t0, t1, np.array(rows, dtype=float).reshape(-1, 11))

    def part(self, t0: float, t1: float | None = None) -> "Law":
        """The same from a time on, up to another."""
        table, by = self.table.copy(), t0 - self.t0
        for row in table:
            row[:8] = _shifted(row[:8], by)
            row[10] += row[9] * by
        return Law(t0, self.t1 if t1 is None else t1, table)

    def targets(self, t: Array) -> Array:
        """(S, D) at times t (S,)."""
        return self.sampled(t)[0]

    def sampled(self, t: Array) -> tuple[Array, Array, Array]:
        """Targets, their rates and accelerations, each (S, D), at times t (S,)."""
        from .kernels import laws

        s = np.asarray(t, dtype=float) - self.t0
        found = tuple(np.empty((s.size, len(self.table))) for _ in range(3))
        laws.sample(self.table, s, *found)
        return found[0], found[1], found[2]

    def rates(self, t: float) -> Array:
        """(D,) at a time."""
        found: Array = self.sampled(np.array([t]))[1][0]
        return found

    @cached_property
    def _paces(self) -> Array:
        paces: Array = np.abs(self.sampled(np.linspace(self.t0, self.t1, 65))[1])
        return paces

    @property
    def moving(self) -> Mask:
        """(D,) which targets are commanded to move at any time."""
        moving: Mask = (self.table[:, 1:9] != 0.0).any(axis=1)
        return moving

    @property
    def fastest(self) -> float:
        """The greatest rate of any target; zero where all rest."""
        return float(self._paces.max(initial=0.0))

    @property
    def moves(self) -> bool:
        """Whether anything is commanded to move."""
        return self.fastest > 0.0

    def fastest_of(self, chosen: Sequence[bool]) -> float:
        """The greatest rate of some of the first targets."""
        return float(self._paces[:, : len(chosen)][:, np.array(chosen, dtype=bool)].max(initial=0.0))


def _shifted(terms: Array, by: float) -> Array:
    """The coefficients of a polynomial, counted from a place further on."""
    found = terms.copy()
    for k in range(len(found) - 1):  # Horner's scheme, again and again
        for i in range(len(found) - 2, k - 1, -1):
            found[i] += by * found[i + 1]
    return found


class Course:
    """A law from a time on, by the way that its targets go rather than by time: where drivers start, rest or end, time
    tells nothing of the way. The way p is counted along the direction (D,) in which they set out; before and behind the
    law it goes straight on."""

    def __init__(self, law: Law, t: float):
        self.law, self.t = law, t
        (self.start, self.stop), rates, _ = law.sampled(np.array([t, law.t1]))
        pace = float(np.linalg.norm(rates[0]))
        self.slow = RESTS * law.fastest
        heading = rates[0] if pace > self.slow else self.stop - self.start
        size = float(np.linalg.norm(heading))
        self.heading: Array = heading / size if size else heading
        self.end = float(self.heading @ (self.stop - self.start))

    def way(self, t: Array) -> Array:
        """(S,) how far they have gone at times t (S,)."""
        gone: Array = (self.law.targets(t) - self.start) @ self.heading
        return gone

    def paces(self, t: Array) -> tuple[Array, Array]:
        """(S,) twice: how fast the way grows at times t (S,), and how fast that changes."""
        _, rates, seconds = self.law.sampled(t)
        return rates @ self.heading, seconds @ self.heading

    def time(self, way: float) -> float:
        """The time at which they have gone so far; before t and behind t1, at the mean pace of the law from t on."""
        if self.end == 0.0 or not 0.0 < way < self.end:
            return self.t + way * (self.law.t1 - self.t) / (self.end or 1.0)
        if np.count_nonzero(self.law.table[:, 2:9]) == 0:  # they all run evenly
            return self.t + (self.law.t1 - self.t) * way / self.end
        low, high = self.t, self.law.t1
        t = low + (high - low) * way / self.end
        for _ in range(200):  # Newton's method, kept between; halved where it would leave, as at a rest
            targets, rates, _ = self.law.sampled(np.array([t]))
            off = float(self.heading @ (targets[0] - self.start)) - way
            pace = float(self.heading @ rates[0])
            low, high = (t, high) if off < 0.0 else (low, t)
            step = t - off / pace if pace > 0.0 else low
            ahead = step if low < step < high else (low + high) / 2
            if off == 0.0 or abs(ahead - t) <= 2e-16 * max(abs(t), 1e-300) or not low < ahead < high:
                break
            t = ahead
        return t

    def at(self, way: float) -> tuple[Array, Array]:
        """Targets (D,) and what they change by a unit of the way, after a way."""
        if way <= 0.0:
            return self.start + way * self.heading, self.heading
        if way >= self.end:
            return self.stop + (way - self.end) * self.heading, self.heading
        targets, rates, _ = self.law.sampled(np.array([self.time(way)]))
        pace = float(self.heading @ rates[0])
        return targets[0], rates[0] / pace if pace > self.slow else self.heading


@dataclass(frozen=True)
class Nodes:
    """Positions and their time derivatives (K, P, 3) at times t (K,), ascending."""

    t: Array
    q: Array
    v: Array
    a: Array


@dataclass(frozen=True)
class Stretch:
    """A law that was followed, with the equations of what it moved; all else stays where the nodes have it."""

    law: Law
    nodes: Nodes
    equations: Equations
    solver: "MinimumNorm | Led | None" = None
    """Moves what the drivers leave free, the limits that hold among its rows."""
    among_contacts: bool = False
    """Whether it was followed among contacts: then its equations decide all that moves, but for a solver of its own."""
    folds: bool = False
    """Whether its last node is a dead point, from which something then fell."""
    still: bool = False
    """Whether nothing moves at all, whatever the law says."""
    turned_least: tuple[int, ...] = ()
    """Bodies whose least turn decided which way was taken from a place with several."""

    @property
    def is_led(self) -> bool:
        """Whether what the drivers alone decide was followed by itself, the undriven parts beside it."""
        return self.solver is not None and self.solver.is_led


@dataclass(frozen=True)
class Overlap:
    """Two parts of a contact that overlap where they are placed, and about how deep (document lengths)."""

    owner: str
    parts: tuple[str, str]
    depth: float


@dataclass(frozen=True)
class DeadPoint:
    """Where a branch ends: the time, and the positions."""

    t: float
    q: Array
    limits: tuple[str, ...] = ()
    """Joints that stand at a limit that holds them, so that nothing is left to follow."""
    contacts: tuple[str, ...] = ()
    """Contacts that leave no way on."""
    overlap: Overlap | None = None
    """What does not let the motion begin."""
