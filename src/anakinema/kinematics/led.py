"""Undriven parts beside others that the drivers alone decide, where those come a hair short of a dead point.

There rates grow without bound, and rows and least movement together know the place only to the root of the rounding.
But what the drivers alone decide is a mechanism of as many rows as unknowns: it is followed by itself, as exactly as
anywhere (`follow`), and the undriven parts follow it by the differential equation of their least rates, step by step
between its nodes, which crowd where it hurries. All other motions are followed whole (`underconstrained`).
"""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from ..arrays import Array, Index
from ..cancellation import CancellationToken
from .drive import Drive
from .equations import Equations
from .kernels import branch, underconstrained
from .minimum_norm import MinimumNorm
from .refining import NOT_FAR, by_a_dead_point, refined
from .stretches import DeadPoint, Law, Nodes
from .underconstrained import STAGES, TURN

SHORT = 1e-3
"""Share of the time between two nodes over which rates of the undriven parts are differences."""
LONGEST = 0.05
"""How far what is led may move from node to node (rad, typical lengths): the undriven parts are interpolated."""
EXACT = 1e-10
"""How far a step may be off (typical lengths, rad)."""
SHORTEST = 1e-5
"""Way of what is led, from node to node, that takes so little time by a dead point that rates are rounded."""
MOST = 20_000
"""Steps of a law; shorter ones than that would take are not tried."""


@dataclass(frozen=True, eq=False)
class Led:
    """Moves the undriven parts beside those that the drivers alone decide; it evaluates a motion as `whole` does."""

    whole: MinimumNorm
    lead: Equations
    """Of the parts that the drivers alone decide."""
    is_led: ClassVar[bool] = True

    @cached_property
    def free(self) -> MinimumNorm:
        """The least movement of the undriven parts, the others known."""
        whole, led = self.whole.equations, set(self.lead.unknown.tolist())
        bodies = [body for body in whole.unknown.tolist() if body not in led]
        specs = [spec for spec in whole.specs
                 if any(side in bodies for term in spec.terms for side in (term.a, term.b))]  # fmt: skip
        return MinimumNorm(Equations(specs, bodies, len(whole.place)), self.whole.reaches)

    def led(self, law: Law, nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> None:
        """Fills what the drivers alone decide at times t (S,)."""
        equations, singular = self.lead, np.zeros(t.size, dtype=np.bool_)
        branch.evaluate(
            equations.table, equations.plan, equations.lent(len(law.table)), t, law.table, law.t0,
            nodes.t, nodes.q, nodes.v, nodes.a, q, v, a, wanted, singular,
        )  # fmt: skip

    def evaluate(self, law: Law, nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> Index:
        """As of `MinimumNorm`; no row says nearly nothing here."""
        self._placed(law, nodes, t, q, v, a, wanted)
        if wanted:
            k = np.clip(np.searchsorted(nodes.t, t, side="right") - 1, 0, len(nodes.t) - 2)
            low, high = nodes.t[k], nodes.t[k + 1]
            h = SHORT * (high - low)
            at = np.clip(t, low + h, high - h)
            before, here, after = (self._free_at(law, nodes, each) for each in (at - h, at, at + h))
            free = self.free.equations.unknown
            h, late = h[:, None, None], (t - at)[:, None, None]
            a[:, free] = (after - 2.0 * here + before) / h**2
            v[:, free] = (after - before) / (2.0 * h) + late * a[:, free]
        return np.zeros(t.size, dtype=np.int64)

    def _free_at(self, law: Law, nodes: Nodes, t: Array) -> Array:
        q, none = np.empty((t.size, *nodes.q.shape[1:])), np.zeros((t.size, 0, 0))
        self._placed(law, nodes, t, q, none, none, False)
        found: Array = q[:, self.free.equations.unknown]
        return found

    def _placed(self, law: Law, nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> None:
        """Positions of all at times t (S,), and rates of what is led where they are wanted."""
        q[:] = nodes.q[0]
        if wanted:
            v[:] = a[:] = 0.0
        self.led(law, nodes, t, q, v, a, wanted)
        free, unused = self.free, np.zeros((t.size, 0, 0))
        targets, rates, seconds = np.empty((3, len(law.table)))
        low, high = nodes.q[0].copy(), nodes.q[0].copy()
        underconstrained.evaluate(
            free.equations.table, free.gear, t, law.table, law.t0, nodes.t, nodes.q, nodes.v, nodes.a,
            q, unused, unused, False, targets, rates, seconds, low, high, np.zeros(t.size, dtype=np.int64),
        )  # fmt: skip


def decided_by_drivers(drive: Drive) -> Equations | None:
    """The rows and parts that the drivers alone decide; None where there are none, or no others."""
    first_held = len(drive.commanded)
    rows: list[int] = []
    bodies: list[int] = []
    free: set[int] = set()
    for chosen, own in drive.equations.blocks():
        specs = [drive.equations.specs[k] for k in chosen]
        held = any(spec.target >= first_held for spec in specs)
        if held or any(side in free for spec in specs for term in spec.terms for side in (term.a, term.b)):
            free.update(own)
        else:
            rows += chosen
            bodies += own
    if not bodies or not free:
        return None
    return Equations([drive.equations.specs[k] for k in sorted(rows)], sorted(bodies), len(drive.equations.place))


def follow_led(
    decided: Equations | None, solver: MinimumNorm, limits: int, law: Law, q: Array, work: CancellationToken
) -> tuple[Nodes, DeadPoint | None, Led] | None:
    """The nodes from assembled positions q (P, 3) along a law, where it ends if that is at a dead point, and what moves
    all between; None where what is `decided` by the drivers alone comes near no dead point, and needs no care of its
    own. From `limits` on, the solver's rows are limits that hold."""
    from .follow import Walk

    if decided is None or not law.moves or any(
        not any(solver.equations.place[side] >= 0 and decided.place[side] < 0
                for term in spec.terms for side in (term.a, term.b))
        for spec in solver.equations.specs[limits:]
    ):  # fmt: skip  (a limit that stops what the drivers decide)
        return None
    lead = decided.moved_by(law.moving)
    if not lead.columns or lead.columns == solver.equations.columns:
        return None
    walk = Walk(lead, law, q, [])
    if walk.regular < NOT_FAR and not by_a_dead_point(lead, law, law.t0, q, NOT_FAR):
        return None  # two ways on
    dead = walk.to_the_end(work)
    plain = walk.nodes()
    nodes = refined(lead, law, plain)
    ends = ((float(nodes.t[k]), nodes.q[k]) for k in (0, -1))
    if dead is None and len(nodes.t) == len(plain.t) and not any(
        by_a_dead_point(lead, law, t, at, NOT_FAR) for t, at in ends
    ):
        return None
    led = Led(solver, lead)
    found = _Following(led, law, nodes, q, work).to_the_end(dead)
    return (*found, led) if found is not None else None


class _Following:
    """The undriven parts beside a lead whose nodes are known."""

    def __init__(self, led: Led, law: Law, nodes: Nodes, q: Array, work: CancellationToken):
        self.led, self.law, self.lead, self.work = led, law, nodes, work
        self.free = led.free.equations.unknown
        self.t: list[float] = []
        self.q: list[Array] = []
        self.v: list[Array] = []
        self.a: list[Array] = []
        """Of the lead."""
        self._add(float(nodes.t[0]), q.copy())

    def to_the_end(self, dead: DeadPoint | None) -> tuple[Nodes, DeadPoint | None] | None:
        """All nodes, and the dead point with all parts where the lead ends at one; None where the undriven parts can't
        follow it so."""
        law, stops = self.law, self.lead.t
        moved = np.abs(np.diff(self.lead.q[:, self.led.lead.unknown], axis=0)).max(axis=(1, 2))
        for t0, t1, way in zip(stops[:-1].tolist(), stops[1:].tolist(), moved.tolist(), strict=True):
            t, longest = t0, (t1 - t0) / max(1, math.ceil(way / LONGEST))
            h = longest
            while t < t1:
                self.work.done((t - law.t0) / (law.t1 - law.t0))
                if way < SHORTEST:  # what moves least is the nearest, but for the way's square
                    if not self._put(t1, self.q[-1]):
                        return None
                    break
                ahead = t1 if t + 1.001 * h >= t1 else t + h
                grown = self._step(t, ahead)
                t, h = (ahead, min(grown * h, longest)) if grown > 0.0 else (t, 0.4 * h)
                if h < 1e-6 * (t1 - t0) or t + h == t or len(self.t) > MOST:
                    return None
        found = Nodes(np.array(self.t), np.array(self.q), np.array(self.v), np.array(self.a))
        if len(self.t) > 2:  # of the undriven parts: differences of their rates
            found.a[:, self.free] = np.gradient(found.v[:, self.free], found.t, axis=0)
        if dead is None:
            return found, None
        at = dead.q.copy()
        at[self.free] = self.q[-1][self.free]
        self.led.free.close(at, law.targets(np.array([dead.t]))[0])
        return found, DeadPoint(dead.t, at)

    def _with_lead(self, t: float, q: Array) -> tuple[Array, Array]:
        """Puts the lead into positions q (P, 3) at a time; gives its rates and accelerations (P, 3)."""
        at, v, a = q[None].copy(), np.zeros((1, *q.shape)), np.zeros((1, *q.shape))
        self.led.led(self.law, self.lead, np.array([t]), at, v, a, True)
        q[:] = at[0]
        return v[0], a[0]

    def _add(self, t: float, q: Array) -> None:
        """Another node, at positions that are on the rows."""
        v, a = self._with_lead(t, q)
        self.led.free.rate_beside(q, self.law.rates(t), v)
        for kept, new in ((self.q, q), (self.v, v), (self.a, a)):
            kept.append(new)
        self.t.append(t)

    def _step(self, t: float, ahead: float) -> float:
        """A step of Dormand and Prince's; how much longer the next may be, or nothing where it is not taken."""
        h, start = ahead - t, self.q[-1]
        rates = np.zeros((7, *start.shape))
        rates[0] = self.v[-1]
        for s in range(1, 7):
            at, then = start + h * np.tensordot(STAGES[s, 1 : 1 + s], rates[:s], 1), t + float(STAGES[s, 0]) * h
            if not float(np.abs(at - start)[self.free, 2].max(initial=0.0)) < TURN:
                return 0.0
            rates[s], _ = self._with_lead(then, at)
            self.led.free.rate_beside(at, self.law.rates(then), rates[s])
        off = h * float(np.abs(np.tensordot(STAGES[7, 1:], rates, 1)[self.free]).max(initial=0.0))
        if not off <= EXACT:
            return 0.0
        end = start + h * np.tensordot(STAGES[6, 1:7], rates[:6], 1)
        return min(max(0.9 * (EXACT / max(off, 1e-300)) ** 0.2, 0.2), 3.0) if self._put(ahead, end) else 0.0

    def _put(self, t: float, q: Array) -> bool:
        """Another node, the undriven parts closed onto their rows; whether they close."""
        at = q.copy()
        self._with_lead(t, at)
        if self.led.free.close(at, self.law.targets(np.array([t]))[0]) < 0.0:
            return False
        self._add(t, at)
        return True
