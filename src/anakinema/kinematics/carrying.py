"""Limits of joints that no driver moves: they stop the joint and carry it along, and let go of it again.

Where the least movement would take a joint beyond its limit, a row holds it there from then on, and the rest follows
with the least movement that this allows; when the joint would go back inside by itself, it is let go. Which limits hold
is so decided by the movement alone, one after the other, at times that are located. Only where nothing is left that
could follow does the motion stop, at the limit.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
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

BEYOND = 1e-10
"""How far beyond its limit a joint is beyond it (typical lengths, rad)."""
INSIDE = 1e-8
"""Rate with which a joint goes inside by itself, as a share of the drivers', from which it is let go."""
MOST = 200
"""Times that limits may take hold and let go within one law."""
Held = dict[int, float]
"""The limits that hold: the value of each coordinate, by its column (dimensionless)."""
Ended = Callable[[MinimumNorm, Law, Nodes], Nodes]
Solver = MinimumNorm | Led


@dataclass(frozen=True)
class Bounds:
    """Least and greatest of each coordinate (C,) as its row counts it, dimensionless; infinite where there is none, or
    a driver moves it."""

    low: Array
    high: Array

    @property
    def any(self) -> bool:
        """Whether there are any."""
        return bool((np.isfinite(self.low) | np.isfinite(self.high)).any())


class Carrier:
    """Follows laws with undriven parts, and knows which limits hold."""

    def __init__(self, drive: Drive, bounds: Bounds, work: CancellationToken, ended: Ended):
        assert drive.minimum_norm is not None
        self.drive, self.bounds, self.work, self.ended = drive, bounds, work, ended
        self.base, self.coordinates = drive.minimum_norm, drive.system.coordinates
        self.held: Held = {}
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
                    ids = self.coordinates.ids
                    dead = replace(dead, limits=tuple(ids[column] for column in self.held))
                return found, dead
            t, q, column, bound = event
            found.append(Stretch(holding.part(holding.t0, t), _cut(solver, holding, nodes, t, q), self.drive.equations,
                                 solver))  # fmt: skip
            if bound is None:
                del self.held[column]
            else:
                self.held[column] = bound
        raise located("drivers", "limits take hold and let go too often to be followed; drive what they limit")

    @cached_property
    def _decided(self) -> Equations | None:
        """What the drivers alone decide; of all laws."""
        return decided_by_drivers(self.drive)

    def _solver(self, columns: tuple[int, ...]) -> MinimumNorm:
        """The least movement with some limits held."""
        if columns not in self._solvers:
            base, first = self.base.equations, self._first_target
            rows = [
                replace(
                    self.coordinates.specs[column], owner=f"limits.{self.coordinates.ids[column]}", target=first + k
                )
                for k, column in enumerate(columns)
            ]
            equations = Equations([*base.specs, *rows], base.unknown.tolist(), len(base.place))
            self._solvers[columns] = MinimumNorm(equations, self.base.reaches)
        return self._solvers[columns]

    @property
    def _first_target(self) -> int:
        return len(self.drive.commanded) + len(self.drive.hold)

    def _holding(self, law: Law) -> Law:
        """A law with the limits that hold commanded as well."""
        more = np.zeros((len(self.held), law.table.shape[1]))
        more[:, 0] = list(self.held.values())
        return Law(law.t0, law.t1, np.concatenate((law.table[: self._first_target], more)))

    def _values(self, q: Array) -> Array:
        """(S, C) the coordinates as their rows count them."""
        return self.coordinates.values(np.ascontiguousarray(q))

    def _rates(self, solver: MinimumNorm, law: Law, t: float, q: Array) -> tuple[Array, float]:
        """(C,) how fast the coordinates go, and how fast the drivers do; where these begin, as they will."""
        rates = law.rates(t)
        pace = float(np.linalg.norm(rates))
        if pace <= 1e-6 * law.fastest:
            rates = law.rates(t + 1e-3 * (law.t1 - t))
            pace = float(np.linalg.norm(rates))
        v, size = solver.rate(q, rates)
        if not np.isfinite(size):
            return np.zeros(len(self.coordinates.ids)), pace
        return self.coordinates.rates(q[None], v[None], 0 * v[None])[0][0], pace

    def _take_hold(self, law: Law, q: Array) -> None:
        """Holds what stands at its limit and would go beyond it at once."""
        if not law.moves:
            return
        for _ in range(len(self.coordinates.ids)):
            solver = self._solver(tuple(self.held))
            values = self._values(q[None])[0]
            rates, pace = self._rates(solver, self._holding(law), law.t0, q)
            low = (values <= self.bounds.low + BEYOND) & (rates < -INSIDE * pace)
            high = (values >= self.bounds.high - BEYOND) & (rates > INSIDE * pace)
            inside = (values >= self.bounds.low - 1e-6) & (values <= self.bounds.high + 1e-6)  # else it is told at once
            fresh = [column for column in np.flatnonzero((low | high) & inside).tolist() if column not in self.held]
            if not fresh:
                return
            column = fresh[0]
            self.held[column] = float(self.bounds.low[column] if low[column] else self.bounds.high[column])

    def _event(
        self, solver: Solver, law: Law, nodes: Nodes
    ) -> tuple[float, Array, int, float | None] | None:
        """The first time at which a limit takes hold (its column and value) or lets go, with the positions there."""
        events = [event for event in (self._crossed(solver, law, nodes), self._let_go(law, nodes)) if event is not None]
        if not events:
            return None
        k, off, column, bound = min(events, key=lambda event: event[0])
        low, high = float(nodes.t[k - 1]), float(nodes.t[k])
        q = nodes.q[k - 1]
        for _ in range(60):
            middle = (low + high) / 2
            if not low < middle < high:
                break
            at = self._at(solver, law, nodes, middle)
            low, high, q = (low, middle, q) if off(middle, at) else (middle, high, at)
        t = low if low > law.t0 else high
        return t, (q if low > law.t0 else self._at(solver, law, nodes, high)), column, bound

    def _at(self, solver: Solver, law: Law, nodes: Nodes, t: float) -> Array:
        q, v, a = (np.zeros((1, *nodes.q.shape[1:])) for _ in range(3))
        solver.evaluate(law, nodes, np.array([t]), q, v, a, False)
        found: Array = q[0]
        return found

    def _crossed(
        self, solver: Solver, law: Law, nodes: Nodes
    ) -> "tuple[int, Callable[[float, Array], bool], int, float | None] | None":
        """The first node at which a joint is beyond its limit, what tells whether it is, its column and the limit."""
        values = self._values(nodes.q)
        beyond = (values < self.bounds.low - BEYOND) | (values > self.bounds.high + BEYOND)
        beyond[:, list(self.held)] = False
        beyond &= ~beyond[0]  # what starts beyond is told at once
        rows = np.flatnonzero(beyond.any(axis=1))
        if not rows.size:
            return None
        k = int(rows[0])
        over = np.maximum(self.bounds.low - values[k], values[k] - self.bounds.high)
        column = int(np.argmax(np.where(beyond[k], over, -np.inf)))
        below = bool(values[k, column] < self.bounds.low[column])
        bound = float(self.bounds.low[column] if below else self.bounds.high[column])

        def off(_: float, q: Array) -> bool:
            value = float(self._values(q[None])[0, column])
            return value < bound if below else value > bound

        return k, off, column, bound

    def _let_go(
        self, law: Law, nodes: Nodes
    ) -> "tuple[int, Callable[[float, Array], bool], int, float | None] | None":
        """The first node at which a joint that is held would go inside by itself."""
        best: tuple[int, Callable[[float, Array], bool], int, float | None] | None = None
        for column in self.held:
            others = self._solver(tuple(other for other in self.held if other != column))
            kept = [k for k, other in enumerate(self.held) if other != column]
            table = np.concatenate((law.table[: self._first_target], law.table[self._first_target :][kept]))
            without, low = Law(law.t0, law.t1, table), self.held[column] == self.bounds.low[column]

            def off(
                t: float, q: Array, others: MinimumNorm = others, without: Law = without, column: int = column,
                low: bool = bool(low),
            ) -> bool:  # fmt: skip
                rates, pace = self._rates(others, without, t, q)
                inward = rates[column] if low else -rates[column]
                return bool(inward > INSIDE * pace)

            for k in range(1, len(nodes.t) if best is None else best[0]):
                if off(float(nodes.t[k]), nodes.q[k]):
                    best = k, off, column, None
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
