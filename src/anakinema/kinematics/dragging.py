"""Dragging: a point of a part is pulled toward the hand; joints and limits hold, and the rest moves least.

Each pull is a walk of small steps from where the mechanism stands, so that nothing ever jumps, whatever the hand does.
A step is the least change of all positions that keeps the rows, meets the limits and brings the point nearer, with a
little give for the point only; afterwards the rows are closed again. No driver holds: any joint may be dragged.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Index, Mask, Plane
from ..document.model import Document
from ..formatting import shown
from .equations import Equations
from .mobility import mobility
from .motion import Motion
from .plan import ordered_rows
from .primitives import IN_PLANE
from .reaches import reaches
from .rows import RowSpec, Term
from .settling import Settling
from .surroundings import Hold, Key, Surroundings
from .system import System, limits
from .unilateral import Unilaterals

STRIDE = 3.0
"""Longest way of the point in one step (typical lengths)."""
TURN = 0.3
"""Largest turn of any part in one step (rad): far less than would lead to a mirror configuration."""
GIVE = 1e-10
"""Give of a row that must hold: enough to let rows repeat each other."""
HAND = (1e-3, 0.03, 1.0, 30.0)
"""Gives of the hand: the softer ones are tried where the firmer lead nowhere, as with links that are stretched."""
CLOSED = 1e-9
NEAR = 1e-6
"""Distance to the hand at which the point has arrived (typical lengths)."""
GAIN = 1e-5
"""Least way toward the hand that counts as getting on (typical lengths)."""
STEPS = 40
BLOCKED = 1e-5
"""Gap up to which what the hand can't move is held by what is beside it (typical lengths)."""
CLOSE = 0.06
"""How far anything may move between two looks at what it may touch (rad, typical lengths)."""


@dataclass(frozen=True)
class Pull:
    """Where a pull led: positions (P, 3: x, y in document lengths, θ in rad), how far the point stayed from the hand
    (document lengths), whether it has come to rest, and why it can't follow (empty when it does)."""

    q: Array
    away: float
    settled: bool
    reason: str


class Grip:
    """A point of a part in the hand. `q` (P, 3: document lengths, rad) is where the mechanism stands, `coordinates`
    (C,) the joint coordinates there in core units, full turns counted, for limits may lie beyond one."""

    def __init__(
        self, document: Document, system: System, q: Array, coordinates: Array, part: str, local: tuple[float, float]
    ):
        self.document, self.system, self.part = document, system, part
        self.q = np.ascontiguousarray(q / system.size)
        body, plane = system.body(part), len(system.body_ids) - 1
        point = (local[0] / system.scale, local[1] / system.scale)
        self.fixed = document.parts[part].fixed
        low, high = limits(document, system.coordinates)
        self.limited = np.flatnonzero(np.isfinite(low) | np.isfinite(high))
        self._is_length = system.coordinates.is_length[self.limited]
        lengths = np.where(self._is_length, system.scale, 1.0)
        self._low, self._high = low[self.limited] / lengths, high[self.limited] / lengths
        self._turns = coordinates[self.limited] / lengths
        limited = [system.coordinates.specs[i] for i in self.limited]
        self._hand_rows = [RowSpec((Term(kind, plane, body, pb=point),), "hand") for kind in IN_PLANE]
        self._limit_rows = limited
        self.joints = system.constraints.rows
        self._near_singular = 0
        self.touching: list[Hold] = []
        """The contacts that count as limits just now, behind those of the joints."""
        self.around: Surroundings | None = None
        self.settling: Settling | None = None
        self._body = body
        if document.active_contacts:
            self.around = Surroundings(document, system, Unilaterals((), len(system.body_ids)), self.q)
            if any(joint.limits.rest is not None for joint in document.active_joints.values()):
                self.settling = Settling(document, system, self.around, self.q, coordinates)
        # Ways weigh less than turns, the more so the more parts there are: with equal weights only the links next to
        # the hand would turn, and the rest of a strand stay behind.
        self._weight = np.array([*2 * [1.0 / (1.0 + len(system.moving) / 3.0)], 1.0])
        about = reaches(document, system, self.q)[list(system.moving)]
        self._middle: Plane = about[:, 0] + 1j * about[:, 1]
        self._share = np.sqrt(about[:, 3])
        self._own = self._low, self._high, self._turns, self._is_length
        self._kept: dict[tuple[Key, ...], tuple[Equations, Index]] = {}
        self._passed: list[Hold] = []
        """What is to let by, of corners that stand on corners."""
        self._run_into: list[Hold] = []
        """That of it which did not."""
        self._ran_off = False
        """Whether the last step ended where a feature ends that was touched."""
        self._count(())

    def _count(self, touching: Sequence[Hold]) -> None:
        """Makes contacts count as limits, besides those of the joints."""
        self.touching = list(touching)
        count, keys = len(self.limited), tuple(hold.key for hold in touching)
        if keys not in self._kept:
            specs = [*self.system.constraints.specs, *self._limit_rows, *(hold.row.spec for hold in touching),
                     *self._hand_rows]  # fmt: skip
            made = Equations(specs, self.system.moving, len(self.system.body_ids))
            self._kept[keys] = made, ordered_rows(made.specs, made.unknown.tolist(), made.place)
        self.equations, self.order = self._kept[keys]
        low, high, _, is_length = self._own
        bounds = [(hold.row.bound, np.inf) if hold.row.sense > 0 else (-np.inf, hold.row.bound) for hold in touching]
        more = np.array(bounds, dtype=float).reshape(-1, 2)
        self._low, self._high = np.append(low, more[:, 0]), np.append(high, more[:, 1])
        self._is_length = np.append(is_length, np.ones(len(more), dtype=bool))
        self._turns = np.append(self._turns[:count], np.zeros(len(more)))
        self._turns = self._coordinates(self.q)
        self._room(self.equations.rows)

    def _room(self, rows: int) -> None:
        table, moving = self.equations.table, len(self.equations.unknown)
        per_row = int(np.diff(table.first).max(initial=1)) * 2
        self._six = np.empty((len(table.bodies), 6))
        self._bodies = np.empty((rows, per_row), dtype=np.int64)
        self._slopes = np.empty((rows, per_row, 3))
        self._give = np.full(rows, GIVE)
        self._seen = np.empty(moving, dtype=np.int64)
        self._matrix = np.empty(16 * rows)
        self._change, self._force = np.empty((moving, 3)), np.empty(rows)

    def _coordinates(self, q: Array) -> Array:
        """The limited joints' coordinates, counted on from where they were; dimensionless."""
        now = self.equations.values(q[None])[0, self.joints : -2]
        whole = np.round((self._turns - now) / (2 * np.pi)) * 2 * np.pi
        counted: Array = np.where(self._is_length, now, now + whole)
        return counted

    def pull(self, x: float, y: float, steps: int = STEPS) -> Pull:
        """Pulls the point toward (x, y) in document lengths, in at most so many steps."""
        hand = np.array([x, y]) / self.system.scale
        if self.fixed:
            return self._pull(hand, True, f"part '{self.part}' is fixed")
        away, still = self._away(hand), 0
        for _ in range(steps):
            if away <= NEAR or still >= 2:
                break
            if not self._step(hand):
                still += 1
                continue
            if self.settling is not None and (way := self.settling.settled(self.q, self._body)):
                self.q = way[-1]
                self._turns = self._coordinates(self.q)
            now = self._away(hand)
            still = still + 1 if now > away - GAIN and not self._ran_off else 0
            away = now
        settled = away <= NEAR or still >= 2
        return self._pull(hand, settled, "" if away <= 1e-3 or not settled else self._why())

    def let_go(self) -> list[Array]:
        """Where joints with a rest go when the hand lets go: places (P, 3: document lengths, rad), the last being where
        all stays; none where nothing moves."""
        if self.settling is None:
            return []
        return [place * self.system.size for place in self.settling.settled(self.q)]

    def _pull(self, hand: Array, settled: bool, reason: str) -> Pull:
        return Pull(self.q * self.system.size, self._away(hand) * self.system.scale, settled, reason)

    def _away(self, hand: Array, q: Array | None = None) -> float:
        at = self.equations.values((self.q if q is None else q)[None])[0, -2:]
        return float(np.hypot(*(hand - at)))

    def _step(self, hand: Array) -> bool:
        """One small step; False, and nothing has moved, where it leads nowhere."""
        if self.around is None:
            return self._stepped(hand, lambda trial: True)
        standing, groups = self.around.stand(self.q)
        chosen = self._chosen(standing, groups, hand)
        grouped = {number for group in groups for number in group}
        self._passed = [standing[number] for number in grouped if standing[number] not in chosen]
        self._excused = frozenset(standing[number].key for number in grouped)
        self._stood = frozenset(hold.key for hold in standing)
        for _ in range(len(self._passed) + 1):
            self._run_into.clear()
            if self._stepped(hand, self._kept_apart):
                return True
            if not self._run_into:
                return False
            chosen.append(self._run_into[0])  # what was to let by does not
            self._passed.remove(self._run_into[0])
            self._count(chosen)
        return False

    def _chosen(self, standing: Sequence[Hold], groups: Sequence[Sequence[int]], hand: Array) -> list[Hold]:
        """What of all that touches counts: where a corner stands on a corner, the side that yields most lets them by,
        but not one off which they slide at once."""
        grouped = {number for group in groups for number in group}
        chosen, slid = {number for number in range(len(standing)) if number not in grouped}, set[int]()
        for _ in range(3 * len(grouped) + 1):
            self._count([standing[number] for number in sorted(chosen)])
            if not groups:
                break
            wanted = np.zeros(self.equations.rows)
            wanted[-2:] = self._way(hand)
            change = self._least(self.q, wanted)
            off = next((number for group in groups for number in self._sliding(standing, group, chosen, change)), None)
            if off is not None:
                chosen.discard(off)
                slid.add(off)
                continue
            left = [set(group) - slid for group in groups if not chosen & set(group)]
            sides = [sorted(group) for group in left if group]
            opens = [self._opens([standing[number] for number in side], change) for side in sides]
            broken = {side[int(np.argmax(ways))] for side, ways in zip(sides, opens, strict=True)
                      if ways.max() < -GAIN * GAIN}  # fmt: skip
            if not broken:
                break
            chosen |= broken
        return [standing[number] for number in sorted(chosen)]

    def _sliding(
        self, standing: Sequence[Hold], group: Sequence[int], chosen: set[int], change: Array
    ) -> Iterator[int]:
        """Those of a group that count, but are beside their features at once where the unknowns change (N, 3)."""
        assert self.around is not None
        size = float(np.abs(change).max(initial=0.0))
        if not size or not chosen & set(group):
            return
        ahead = self.q.copy()
        ahead[self.equations.unknown] += change * (1e-4 / size)
        keys = {number: standing[number].key for number in group}
        slacks = {number: float(self.around.pairs[pair].measure(i, j, ahead[None])[1][0])
                  for number, (pair, i, j) in keys.items()}  # fmt: skip
        most = max(slacks.values())
        yield from (number for number in group if number in chosen and slacks[number] < 0.0
                    and (most < -1e-9 or slacks[number] < most - 1e-9))  # fmt: skip

    def _opens(self, holds: Sequence[Hold], change: Array) -> Array:
        """(U,) how the gaps of features change with the unknowns (N, 3)."""
        rows = Equations([hold.row.spec for hold in holds], self.system.moving, len(self.system.body_ids))
        along = rows.linear(self.q[None], np.zeros((1, 1)))[1][0] @ change.ravel()
        found: Array = along * np.array([hold.row.sense for hold in holds], dtype=float)
        return found

    def _way(self, hand: Array) -> Array:
        way = hand - self.equations.values(self.q[None])[0, -2:]
        pulled: Array = way * min(1.0, STRIDE / max(float(np.hypot(*way)), 1e-300))
        return pulled

    def _kept_apart(self, trial: Array) -> bool:
        """Takes of a step from here to a trial (P, 3) as much as lets nothing pass, in place; False where that is
        none."""
        assert self.around is not None
        start, whole = self.q, trial.copy()
        self._ran_off = False
        for _ in range(6):
            way = whole - start
            looks = max(3, math.ceil(float(np.abs(way).max()) / CLOSE) + 1)
            shares = np.linspace(0.0, 1.0, looks)

            def at(share: Array, way: Array = way) -> Array:
                return start + share[:, None, None] * way

            places = at(shares)
            if not self._passes(places):
                return False
            held = [hold.key for hold in self.touching]
            stirs = self.around.stirs(places)
            first = self.around.first_touch(shares, places, at, held, self._stood, self._excused, stirs)
            off = self.around.first_off(shares, places, at, self.touching, stirs)
            if off is not None and (first is None or off < first):
                first, self._ran_off = off, True
            if first is None:
                trial[:] = whole
                return self._clear(trial)
            if first <= 1e-9:
                return False
            trial[:] = cut = at(np.array([first]))[0]
            if not self._close(trial):
                return False
            if float(np.abs(trial - cut).max()) < 1e-7 and self._clear(trial):
                return True
            whole = trial.copy()  # what joints have brought back may touch again
        return False

    def _clear(self, trial: Array) -> bool:
        """Whether nothing that counts, or is passed on the way, lies deeper than nothing at a trial (P, 3)."""
        gaps = [hold.row.sense * gap for hold, gap in zip(self.touching, self._touch_gaps(trial), strict=True)]
        if min(gaps, default=0.0) < -1e-8:
            return False
        return self._passes(trial[None])

    def _passes(self, places: Array) -> bool:
        """Whether what is to let by does, at positions (S, P, 3) on the way."""
        assert self.around is not None
        for hold in self._passed:
            number, i, j = hold.key
            gap, slack = self.around.pairs[number].measure(i, j, places)
            if ((gap < -1e-7) & (slack >= 0.0)).any():
                self._run_into.append(hold)
                return False
        return True

    def _touch_gaps(self, q: Array) -> Array:
        first = self.joints + len(self.limited)
        bounds = np.array([hold.row.bound for hold in self.touching], dtype=float)
        found: Array = self.equations.values(q[None])[0, first:-2] - bounds
        return found

    def _stepped(self, hand: Array, kept: Callable[[Array], bool]) -> bool:
        at = self.equations.values(self.q[None])[0, -2:]
        way = hand - at
        far = float(np.hypot(*way))
        for near_singular in range(self._near_singular, len(HAND)):  # begin with what served last, or a little firmer
            self._give[-2:] = HAND[near_singular]
            wanted = np.zeros(self.equations.rows)
            wanted[-2:] = way * min(1.0, STRIDE / far)
            change = self._least(self.q, wanted)
            trial = self.q.copy()
            largest = float(np.abs(change[:, 2]).max(initial=0.0))
            trial[self.equations.unknown] += change * min(1.0, TURN / max(largest, 1e-300))
            if self._close(trial) and kept(trial) and self._away(hand, trial) < far:
                self._turns = self._coordinates(trial)
                self.q, self._near_singular = trial, max(near_singular - 1, 0)
                return True
        self._near_singular = 0
        return False

    def _close(self, q: Array) -> bool:
        """Brings q back onto the rows and inside the limits; False where that takes more than a small correction."""
        moved = 0.0
        for _ in range(8):
            residual = self.equations.residual(q, np.zeros(1))[: self.joints]
            coordinates = self._coordinates(q)
            beyond = np.maximum(self._low - coordinates, 0.0) + np.minimum(self._high - coordinates, 0.0)
            if np.abs(residual).max(initial=0.0) <= CLOSED and np.abs(beyond).max(initial=0.0) <= CLOSED:
                return True
            wanted = np.zeros(self.equations.rows)
            wanted[: self.joints] = -residual
            wanted[self.joints : -2] = beyond
            active = np.zeros(self.equations.rows, dtype=bool)
            active[: self.joints] = True
            active[self.joints : -2] = (coordinates <= self._low + CLOSED) | (coordinates >= self._high - CLOSED)
            change = self._solve(q, wanted, active)
            moved += float(np.abs(change).max(initial=0.0))
            if not moved < TURN:
                return False
            q[self.equations.unknown] += change
        return False

    def _least(self, q: Array, wanted: Array) -> Array:
        """The least change toward the hand, with those limits held that it would otherwise cross."""
        active = np.zeros(self.equations.rows, dtype=bool)
        active[: self.joints] = True
        active[-2:] = True
        limits = slice(self.joints, self.equations.rows - 2)
        coordinates = self._turns
        change = self._solve(q, wanted, active)
        for _ in range(6):
            along = self._along()[limits]
            after = coordinates + along
            low, high = after < self._low - CLOSED, after > self._high + CLOSED
            held = active[limits]
            force = self._force[limits]
            push = np.where(wanted[limits] + coordinates <= self._low + CLOSED, force, -force)
            loosen = held & (push < -1e-12)  # a stop only pushes
            fresh = (low | high) & ~held
            if not fresh.any() and not loosen.any():
                break
            active[limits] = (held | fresh) & ~loosen
            bound = np.where(low, self._low, self._high)
            wanted[limits] = np.where(low | high, bound - coordinates, wanted[limits])
            change = self._solve(q, wanted, active)
        self._active = active
        return change

    def _along(self) -> Array:
        """(rows,) what the change last found does to the rows, by the derivatives last taken."""
        along: Array = np.einsum("rkc,rkc->r", self._slopes, self._change[np.where(self._bodies >= 0, self._bodies, 0)])
        return along

    def _solve(self, q: Array, wanted: Array, active: Mask) -> Array:
        from .kernels import least
        from .kernels import rows as row_kernels

        equations = self.equations
        row_kernels.slopes(equations.table, q, np.empty((len(q), 2)), self._six)
        least.by_body(
            equations.table.bodies, equations.table.first, equations.place, self._six, self._bodies, self._slopes
        )
        arm = self._middle * np.exp(1j * q[equations.unknown, 2])  # ways are those of the bodies' middles
        members = np.where(self._bodies >= 0, self._bodies, 0)
        self._slopes[..., 2] += self._slopes[..., 0] * arm.imag[members] - self._slopes[..., 1] * arm.real[members]
        self._slopes *= self._share[members][..., None] / self._weight
        rows = self.order[active[self.order]]
        first, start = np.empty(len(rows), dtype=np.int64), np.empty(len(rows) + 1, dtype=np.int64)
        for _ in range(2):
            if least.least_change(
                rows, self._bodies, self._slopes, self._give, wanted,
                self._seen, first, start, self._matrix, self._change, self._force,
            ):
                break
            self._matrix = np.empty(int(start[-1]))
        change: Array = self._change * self._share[:, None] / self._weight
        change[:, 0] += change[:, 2] * arm.imag
        change[:, 1] -= change[:, 2] * arm.real
        return change

    def _held_by(self) -> str:
        """What touches the part in the hand, in words."""
        assert self.around is not None
        places, turns = (each[0] for each in self.around.relative(self.q[None]))
        near = np.flatnonzero(self.around.apart(places, turns) <= BLOCKED).tolist()
        owners = dict.fromkeys(self.around.pairs[number].owner for number in near
                               if self.around.pairs[number].near(self.q, BLOCKED, BLOCKED))  # fmt: skip
        contacts = [self.document.contacts[owner] for owner in owners]
        beside = [contact.b if self.part in contact.sides[0] else contact.a for contact in contacts
                  if any(self.part in side for side in contact.sides)]  # fmt: skip
        return " and ".join(f"'{name}'" for name in dict.fromkeys(beside))

    def _why(self) -> str:
        """What keeps the point from the hand."""
        stops = np.flatnonzero(self._active[self.joints : -2])
        if stops.size:
            held = []
            for i in stops:
                if i >= len(self.limited):
                    contact = self.document.contacts[self.touching[i - len(self.limited)].row.owner]
                    other = contact.b if self.part in contact.sides[0] else contact.a
                    one = contact.a if other == contact.b else contact.b
                    held.append(f"'{one}' is held by '{other}'")
                    continue
                column = self.limited[i]
                joint = self.system.coordinates.ids[column]
                dimension = self.system.coordinates.dimension(column)
                upper = abs(self._turns[i] - self._high[i]) < abs(self._turns[i] - self._low[i])
                bound = (self._high if upper else self._low)[i]
                bound *= self.system.scale if dimension == "length" else 1.0
                held.append(
                    f"'{joint}' is at its limit ({'max' if upper else 'min'} "
                    f"{shown(float(bound), dimension, self.document.units)})"
                )
            return ", ".join(dict.fromkeys(held))
        if self.around is not None and (names := self._held_by()):
            return f"'{self.part}' is held by {names}"
        constraints = self.system.constraints
        if constraints.columns <= constraints.rows and mobility(constraints, self.q[None]).dof == 0:
            return f"nothing is left free: the joints hold '{self.part}' where it is"
        return f"'{self.part}' reaches no further this way"


def prepare(motion: Motion) -> None:
    """Loads what dragging needs, so that the first pull of the hand is as quick as the others."""
    part = next((part for part in motion.document.parts.values() if not part.fixed), None)
    if part is not None:
        start = motion.at(np.zeros(1))
        hand = Grip(motion.document, motion.system, start.q[0], start.coordinates[0], part.id, (0.0, 0.0))
        hand.pull(1.0, 1.0, steps=1)
