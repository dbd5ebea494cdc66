"""What a cam is told to do: the law that ties its follower to its shaft, and what of the follower touches it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from math import perm, tau

import numpy as np

from ..arrays import Array
from ..laws import DEGREE, LawPiece, polynomial

FACTORS = [[float(perm(power, order)) for power in range(DEGREE + 1)] for order in range(4)]
"""What a power's coefficient is multiplied by when it is differentiated so often."""


class FollowerKind(StrEnum):
    """What touches the cam."""

    KNIFE = "knife"
    ROLLER = "roller"
    FLAT = "flat"
    ARC = "arc"

    @property
    def is_face(self) -> bool:
        """Whether it is a straight face."""
        return self is FollowerKind.FLAT


@dataclass(frozen=True)
class Follower:
    """What of a part touches the cam, in that part's own axes: a knife's edge, a roller or an arc of `radius` about
    `at`, or a flat face through it along `direction` (rad) of a `width` (0: not said)."""

    kind: FollowerKind
    part: str
    point: str
    at: complex
    radius: float = 0.0
    direction: float = 0.0
    width: float = 0.0
    yoke: bool = False
    """Whether there is a second one across the cam, turned round, at a distance that stays."""


@dataclass(frozen=True)
class CamLaw:
    """b = low + f(a − start) in core units, f being the pieces of a program: of a turn, or, where `period` is 0, of a
    length on a slide, beyond whose ends it holds its values."""

    pieces: tuple[LawPiece, ...]
    start: float = 0.0
    period: float = tau

    @classmethod
    def of(cls, pieces: Sequence[LawPiece], start: float = 0.0, period: float = tau) -> "CamLaw":
        """The law of a program; what it leaves of the turn is a dwell."""
        found, last = list(pieces), pieces[-1]
        if not period or last.stop < period - 1e-9:
            found.append(polynomial(last.stop, max(period, last.stop + 1.0), last.at(last.stop)))
        return cls(tuple(found), start, period)

    @property
    def stop(self) -> float:
        """Where its last piece begins to hold, or the turn ends."""
        return self.period or self.pieces[-1].start

    def turned_back(self) -> "CamLaw":
        """The law of the coordinate that counts the other way, of the same program."""
        stop = self.stop
        inside = [piece for piece in self.pieces if piece.start < stop]
        whole = [replace(piece, stop=min(piece.stop, stop)) for piece in inside]
        back = [piece.turned_back(stop) for piece in reversed(whole)]
        return CamLaw.of(back, -self.start - (0.0 if self.period else stop), self.period)

    def scaled(self, along: float, by: float) -> "CamLaw":
        """The same in other units of a and b."""
        return CamLaw(tuple(piece.scaled(along, by) for piece in self.pieces), self.start * along, self.period * along)

    @cached_property
    def table(self) -> Array:
        """(L, 12) the pieces: where each begins, coefficients, amplitude, frequency, phase."""
        return np.array([(one.start, *one.terms, one.amplitude, one.frequency, one.phase) for one in self.pieces])

    def lift(self, a: Array) -> Array:
        """(4, N) f and its first three derivatives at coordinates a (N,)."""
        table = self.table
        x = np.asarray(a, dtype=float) - self.start
        before = np.zeros(x.shape, dtype=np.bool_)
        if self.period:
            x = np.mod(x, self.period)
        else:
            before = x < table[0, 0]
        number = np.clip(np.searchsorted(table[:, 0], x, side="right") - 1, 0, len(table) - 1)
        s = np.maximum(x - table[number, 0], 0.0)
        terms = table[number, 1 : DEGREE + 2].T
        found = np.zeros((4, *x.shape))
        highest = int(np.flatnonzero(table[:, 1 : DEGREE + 2].any(axis=0)).max(initial=0))
        for order in range(4):
            for power in range(highest, order - 1, -1):
                found[order] *= s
                found[order] += FACTORS[order][power] * terms[power]
        waving = table[number, 9] != 0.0
        if waving.any():
            amplitude, frequency, phase = table[number, 9], table[number, 10], table[number, 11]
            for order in range(4):
                found[order] += amplitude * frequency**order * np.sin(frequency * s + phase + order * np.pi / 2)
        found[1:, before] = 0.0
        return found

    def joints(self) -> list[float]:
        """The coordinates a at which pieces meet, over one period or the whole."""
        return [piece.start + self.start for piece in self.pieces]

    def extent(self) -> tuple[float, float]:
        """Least and greatest value of f."""
        from scipy.optimize import brentq

        a = np.concatenate([np.linspace(piece.start, min(piece.stop, self.stop), 65) for piece in self.pieces
                            if piece.start < self.stop])  # fmt: skip
        values, rates, _, _ = self.lift(a + self.start)
        ends = [float(values.min()), float(values.max()), self.pieces[-1].at(min(self.stop, self.pieces[-1].stop))]
        for k in np.flatnonzero((rates[:-1] * rates[1:] < 0) & (np.diff(a) > 0)).tolist():

            def rate(x: float) -> float:
                return float(self.lift(np.array([x + self.start]))[1, 0])

            if rate(a[k]) * rate(a[k + 1]) < 0:
                turning = brentq(rate, a[k], a[k + 1], xtol=1e-13)
                ends.append(float(self.lift(np.array([turning + self.start]))[0, 0]))
        return min(ends), max(ends)
