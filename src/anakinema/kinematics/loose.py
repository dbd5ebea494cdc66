"""Following drivers that leave freedom: what they don't move follows with the least movement, as under the hand.

The way is cut into short stretches of the drivers' law; each node is the place on the rows that lies nearest to the
last one, by the sum over the moving parts of displacement² of the middle and (turn × reach)². Between them runs the
curve through the nodes, closed onto the rows. Where the joints can follow no further (a strand is taut) forces can
hold the rows in balance, which gives that place exactly; the nodes crowd toward it, for rates grow without bound there.
"""

import math

import numpy as np

from ..arrays import Array
from ..errors import located
from ..work import Work
from .drive import Drive
from .stretches import DeadPoint, Law, Nodes

STEPS = 240
"""Nodes of a law, where none need be closer."""
NEAR_TAUT = 0.05
"""Share of the way within which it is looked for the place where the joints can follow no further."""
CROWD = 0.45
"""Share of the way left to that place that the next node keeps."""
LAST = 1e-7
"""Share of the way that the last node leaves to it."""
LARGEST = 0.12
"""Longest step, as turn of a driver (rad)."""
MOST = 20_000
TURN = 1.0
"""Largest turn of a part in one step (rad): less than would lead to a mirror configuration."""
PUSH = 1e-3
"""How far a mechanism is pushed out of a place in which it could give way to either side (typical lengths)."""


def follow_loosely(drive: Drive, law: Law, q: Array, work: Work) -> tuple[Nodes, DeadPoint | None]:
    """The nodes from assembled positions q (P, 3) along a law, up to its end or where the joints can't follow."""
    walk = _Walk(drive, law, q, work)
    dead = walk.to_the_end()
    return walk.nodes(dead), dead


class _Walk:
    def __init__(self, drive: Drive, law: Law, q: Array, work: Work):
        assert drive.follower is not None
        self.follower, self.law, self.work = drive.follower, law, work
        self.span = law.t1 - law.t0
        self.fastest = law.fastest
        coordinates = drive.system.coordinates
        turning = [not coordinates.is_length[coordinates.index(driver.joint)] for driver in drive.drivers]
        self.turning = law.fastest_of(turning)
        self.t, self.q = [law.t0], [q.copy()]
        self.before = math.inf
        """What 1/rate² was at the last node but one, by the way of the drivers."""
        self.tried = math.inf
        """The time left, as foretold, when the end was last looked for."""

    def nodes(self, dead: DeadPoint | None) -> Nodes:
        """The nodes so far, with rates of the parabola through each and its neighbours."""
        t, q = np.array(self.t), np.array(self.q)
        if len(t) == 1:
            return Nodes(t, q, np.zeros_like(q), np.zeros_like(q))
        if len(t) == 2:
            v = np.broadcast_to((q[1] - q[0]) / (t[1] - t[0]), q.shape).copy()
            return Nodes(t, q, v, np.zeros_like(q))
        gap = np.diff(t)[:, None, None]
        rise = np.diff(q, axis=0) / gap
        a = 2.0 * np.diff(rise, axis=0) / (gap[1:] + gap[:-1])
        v = rise[:-1] + a / 2.0 * gap[:-1]
        first, last = v[0] - a[0] * gap[0], v[-1] + a[-1] * gap[-1]
        return Nodes(t, q, np.concatenate((first[None], v, last[None])), np.concatenate((a[:1], a, a[-1:])))

    def to_the_end(self) -> DeadPoint | None:
        """Follows the law to its end, or to where the joints can follow no further."""
        law = self.law
        whole = min(self.span / STEPS, LARGEST / max(self.turning, 1e-300))
        if self.span / whole > MOST:
            raise located("drivers", "the motion is too long to be followed while parts are undriven; drive them")
        if self.fastest == 0.0:
            self.t.append(law.t1)
            self.q.append(self.q[0].copy())
            return None
        step = longest = whole
        end: tuple[float, Array] | None = None
        while self.t[-1] < law.t1:
            self.work.done((self.t[-1] - law.t0) / self.span)
            if len(self.t) > MOST:
                raise located("drivers", "the undriven parts can't be followed to the end; drive some of them")
            if end is not None and end[0] < law.t1:
                if self._crowd(*end):
                    return DeadPoint(*end)
                step, end = 0.1 * whole, None
            elif self._step(step):
                longest = min(whole, 1.02 * longest)
                step = min(longest, 1.7 * step)
                end = self._end()
            else:
                longest = max(0.8 * step, whole / 8)
                step /= 2.0
                end = self._end(math.inf) if step < whole / 16 else None
                if end is None and (step < 1e-9 * self.span or self.t[-1] + step == self.t[-1]):
                    if not self._push(self.t[-1], self.q[-1]):
                        return DeadPoint(self.t[-1], self.q[-1].copy())
                    step = 0.1 * whole
        return None

    def _crowd(self, taut: float, there: Array) -> bool:
        """Nodes that crowd toward a place where the joints can follow no further, on the way to which positions run
        like the root of the time left. False where the parts can be pushed out of it, and the motion goes on."""
        law, from_q = self.law, self.q[-1]
        whole = left = taut - self.t[-1]
        while left > LAST * self.span:
            self.work.check()
            left *= CROWD
            found = there + (from_q - there) * math.sqrt(left / whole)
            if self.follower.close(found, law.targets(np.array([taut - left]))[0]) < 0.0:
                break
            self.t.append(taut - left)
            self.q.append(found)
        return not self._push(taut, there)

    def _step(self, h: float) -> bool:
        """One step of at most h; False, and nothing has changed, where that is too far."""
        t, q, law = self.t[-1], self.q[-1], self.law
        ahead = t + h if t + 1.001 * h < law.t1 else law.t1
        guess = q
        if len(self.t) > 1 and self.t[-2] < t:
            guess = q + (q - self.q[-2]) * ((ahead - t) / (t - self.t[-2]))
        targets = law.targets(np.array([ahead]))[0]
        for start in (guess, q):
            found = self.follower.nearest(q, start, targets)
            if found is not None and float(np.abs(found - q)[:, 2].max()) < TURN:
                self.t.append(ahead)
                self.q.append(found)
                return True
        return False

    def _end(self, within: float = NEAR_TAUT) -> tuple[float, Array] | None:
        """Time and positions at which the joints can follow no further, when that is near: 1/rate² falls toward
        zero."""
        t, q = self.t[-1], self.q[-1]
        rates = self.law.rates(t)
        _, size = self.follower.rate(q, rates)
        # By the way of the drivers, not by time: they may run slower for reasons of their own.
        now = float(rates @ rates) / size if size > 0.0 else math.inf
        falls = (self.before - now) / (t - self.t[-2]) if len(self.t) > 1 and math.isfinite(self.before) else 0.0
        self.before = now
        left = now / falls if falls > 0.0 else math.inf
        if math.isfinite(within) and not left < min(within * self.span, 0.6 * self.tried):
            return None
        self.tried = min(left, self.tried)
        found = self.follower.taut(self.law, t, t + 2.0 * NEAR_TAUT * self.span, q)
        if found is None or not t <= found[0]:
            return None
        # It must be where this motion leads, not another such place.
        return found if float(np.abs(found[1] - q)[:, 2].max()) < 1.5 * TURN else None

    def _push(self, at: float, there: Array) -> bool:
        """Leaves a place in which the parts could give way to either side (a strand that lies folded): whether there
        is a way on at all. The sideways push is always the same one."""
        law, follower = self.law, self.follower
        on = at + 0.01 * PUSH**2 / self.fastest
        if on >= law.t1:
            return False
        random = np.random.default_rng(5)  # fixed: the same file always moves the same way
        targets = law.targets(np.array([on]))[0]
        for size in (PUSH, 5 * PUSH, 20 * PUSH):
            self.work.check()
            trial = there.copy()
            trial[follower.gear.unknown] += random.uniform(-size, size, (len(follower.gear.unknown), 3))
            moved = follower.close(trial, targets)
            if 0.0 <= moved < 40 * size * math.sqrt(len(trial)):
                self.t.append(on)
                self.q.append(trial)
                self.before = self.tried = math.inf
                return True
        return False
