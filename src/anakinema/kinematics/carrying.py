"""What holds one way only, where no driver moves it: it stops, carries along, and lets go again.

Where the least movement would take a row beyond its bound, it is held there from then on, and the rest follows with the
least movement that this allows; when it would go back inside by itself, it is let go. Which rows hold is so decided by
the movement alone, one after the other, at times that are located. Only where nothing is left that could follow does
the motion stop.
"""

from collections.abc import Callable
from dataclasses import replace
from functools import cached_property

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..errors import located
from .drive import Drive
from .equations import Equations
from .led import Led, decided_by_drivers, follow_led
from .minimum_norm import MinimumNorm
from .stretches import DeadPoint, Law, Nodes, Stretch
from .underconstrained import follow_underconstrained
from .unilateral import Event, Unilaterals

BEYOND = 1e-10
"""How far beyond its bound a row is beyond it (typical lengths, rad)."""
INSIDE = 1e-8
"""Rate with which a row goes inside by itself, as a share of the drivers', from which it is let go."""
MOST = 200
"""Times that rows may take hold and let go within one law."""
Ended = Callable[[MinimumNorm, Law, Nodes], Nodes]
Solver = MinimumNorm | Led
Crossing = tuple[int, Callable[[float, Array], bool], int]
"""The first node behind an event, what tells of a time and positions (P, 3) whether they are, and the row's number."""


class Carrier:
    """Follows laws with undriven parts, and knows which rows hold."""

    def __init__(self, drive: Drive, onesided: Unilaterals, work: CancellationToken, ended: Ended):
        assert drive.minimum_norm is not None
        self.drive, self.onesided, self.work, self.ended = drive, onesided, work, ended
        self.base = drive.minimum_norm
        self.held: list[int] = []
        """The numbers of the rows that hold, as they took hold."""
        self.events: list[Event] = []
        self._solvers: dict[tuple[int, ...], MinimumNorm] = {(): drive.minimum_norm}

    def follow(
        self, law: Law, q: Array, share: float, ahead: tuple[float, Array] | None
    ) -> tuple[list[Stretch], DeadPoint | None]:
        """The stretches from positions q (P, 3) along a law, and where it ended if that is before its end."""
        found: list[Stretch] = []
        t = law.t0
        for _ in range(MOST):
            self.work.check()
            rest = law if t == law.t0 else law.part(t)
            self._take_hold(rest, q)
            whole, holding = self._solver(tuple(self.held)), self._holding(rest)
            limits = len(self.base.equations.specs)
            led = follow_led(self._decided, whole, limits, holding, q, self.work) if ahead is None else None
            solver: Solver = whole
            if led is not None:
                nodes, dead, solver = led
            else:
                drive = replace(self.drive, minimum_norm=whole)
                nodes, dead = follow_underconstrained(drive, holding, q, self.work, share, ahead)
            ahead = None
            event = self._event(solver, holding, nodes)
            if event is None:
                if dead is None and law.moves and led is None:
                    nodes = self.ended(whole, holding, nodes)
                found.append(Stretch(holding, nodes, self.drive.equations, solver))
                if dead is not None and self.held:
                    dead = replace(dead, limits=tuple(self.onesided.rows[number].owner for number in self.held))
                return found, dead
            t, q, number = event
            found.append(Stretch(holding.part(holding.t0, t), _cut(solver, holding, nodes, t, q), self.drive.equations,
                                 solver))  # fmt: skip
            if number in self.held:
                self.held.remove(number)
                self.events.append(Event(t, "part", self.onesided.rows[number].owner))
            else:
                self._hold(number, t)
        raise located("drivers", "limits take hold and let go too often to be followed; drive what they limit")

    @cached_property
    def _decided(self) -> Equations | None:
        """What the drivers alone decide; of all laws."""
        return decided_by_drivers(self.drive)

    def _hold(self, number: int, t: float) -> None:
        self.held.append(number)
        self.events.append(Event(t, "touch", self.onesided.rows[number].owner))

    def _solver(self, numbers: tuple[int, ...]) -> MinimumNorm:
        """The least movement with some rows held."""
        if numbers not in self._solvers:
            base, first = self.base.equations, self._first_target
            held = [self.onesided.rows[number] for number in numbers]
            rows = [replace(row.spec, owner=f"limits.{row.owner}", target=first + k) for k, row in enumerate(held)]
            equations = Equations([*base.specs, *rows], base.unknown.tolist(), len(base.place))
            self._solvers[numbers] = MinimumNorm(equations, self.base.reaches)
        return self._solvers[numbers]

    @property
    def _first_target(self) -> int:
        return len(self.drive.commanded) + len(self.drive.hold)

    def _holding(self, law: Law) -> Law:
        """A law with the bounds of the rows that hold commanded as well."""
        more = np.zeros((len(self.held), law.table.shape[1]))
        more[:, 0] = [self.onesided.rows[number].bound for number in self.held]
        return Law(law.t0, law.t1, np.concatenate((law.table[: self._first_target], more)))

    def _opening(self, solver: MinimumNorm, law: Law, t: float, q: Array) -> tuple[Array, float]:
        """(U,) how fast the gaps grow, and how fast the drivers go; where these begin, as they will."""
        rates = law.rates(t)
        pace = float(np.linalg.norm(rates))
        if pace <= 1e-6 * law.fastest:
            rates = law.rates(t + 1e-3 * (law.t1 - t))
            pace = float(np.linalg.norm(rates))
        v, size = solver.rate(q, rates)
        if not np.isfinite(size):
            return np.zeros(len(self.onesided)), pace
        return self.onesided.opening(q, v), pace

    def _take_hold(self, law: Law, q: Array) -> None:
        """Holds what stands at its bound and would go beyond it at once."""
        if not law.moves or not len(self.onesided):
            return
        gaps = self.onesided.gaps(q[None])[0]
        for _ in range(len(self.onesided)):
            opening, pace = self._opening(self._solver(tuple(self.held)), self._holding(law), law.t0, q)
            closing = (gaps <= BEYOND) & (opening < -INSIDE * pace) & (gaps >= -1e-6)  # else it is told at once
            fresh = [number for number in np.flatnonzero(closing).tolist() if number not in self.held]
            if not fresh:
                return
            self._hold(fresh[0], law.t0)

    def _event(self, solver: Solver, law: Law, nodes: Nodes) -> tuple[float, Array, int] | None:
        """The first time at which a row takes hold or lets go, with the positions there and its number."""
        if not len(self.onesided):
            return None
        events = [event for event in (self._crossed(nodes), self._let_go(law, nodes)) if event is not None]
        if not events:
            return None
        k, off, number = min(events, key=lambda event: event[0])
        low, high = float(nodes.t[k - 1]), float(nodes.t[k])
        q = nodes.q[k - 1]
        for _ in range(60):
            middle = (low + high) / 2
            if not low < middle < high:
                break
            at = self._at(solver, law, nodes, middle)
            low, high, q = (low, middle, q) if off(middle, at) else (middle, high, at)
        t = low if low > law.t0 else high
        return t, (q if low > law.t0 else self._at(solver, law, nodes, high)), number

    def _at(self, solver: Solver, law: Law, nodes: Nodes, t: float) -> Array:
        q, v, a = (np.zeros((1, *nodes.q.shape[1:])) for _ in range(3))
        solver.evaluate(law, nodes, np.array([t]), q, v, a, False)
        found: Array = q[0]
        return found

    def _crossed(self, nodes: Nodes) -> "Crossing | None":
        """The first node at which a row is beyond its bound, what tells whether it is, and its number."""
        gaps = self.onesided.gaps(nodes.q)
        beyond = gaps < -BEYOND
        beyond[:, self.held] = False
        beyond &= ~beyond[0]  # what starts beyond is told at once
        rows = np.flatnonzero(beyond.any(axis=1))
        if not rows.size:
            return None
        k = int(rows[0])
        number = int(np.argmin(np.where(beyond[k], gaps[k], np.inf)))
        return k, lambda _, q: bool(self.onesided.gaps(q[None])[0, number] < 0.0), number

    def _let_go(self, law: Law, nodes: Nodes) -> "Crossing | None":
        """The first node at which a row that is held would go inside by itself."""
        best: Crossing | None = None
        for number in self.held:
            others = self._solver(tuple(other for other in self.held if other != number))
            kept = [k for k, other in enumerate(self.held) if other != number]
            table = np.concatenate((law.table[: self._first_target], law.table[self._first_target :][kept]))
            without = Law(law.t0, law.t1, table)

            def off(
                t: float, q: Array, others: MinimumNorm = others, without: Law = without, number: int = number
            ) -> bool:
                opening, pace = self._opening(others, without, t, q)
                return bool(opening[number] > INSIDE * pace)

            for k in range(1, len(nodes.t) if best is None else best[0]):
                if off(float(nodes.t[k]), nodes.q[k]):
                    best = k, off, number
                    break
        return best


def _cut(solver: Solver, law: Law, nodes: Nodes, t: float, q: Array) -> Nodes:
    """The nodes up to a time, with one at it."""
    kept = int(np.searchsorted(nodes.t, t, side="left"))
    at, v, a = q[None].copy(), np.zeros((1, *q.shape)), np.zeros((1, *q.shape))
    solver.evaluate(law, nodes, np.array([t]), at, v, a, True)
    return Nodes(
        np.append(nodes.t[:kept], t), np.concatenate((nodes.q[:kept], q[None])),
        np.concatenate((nodes.v[:kept], v)), np.concatenate((nodes.a[:kept], a)),
    )
