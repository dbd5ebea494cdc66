"""Following drivers that leave freedom: what they don't move follows with the least movement, as under the hand.

The rate at every moment is the least that joints and drivers allow, by the sum over the moving parts of displacement²
of the middle and (turn × reach)², and the way is its integral: an implicit fourth-order step with the accelerations
(Hermite), closed onto the rows after each. Where the joints can follow no further (a strand is taut) the rate grows
without bound, like that of a rod at its dead point: 1/rate² falls to zero along a line, which gives the place exactly.
"""

import math

import numpy as np

from ..arrays import Array
from ..errors import located
from ..work import Work
from .drive import Drive
from .stretches import DeadPoint, Law, Nodes

LONGEST = 0.35
"""Longest step: movement of all parts together, in typical lengths times the root of their number."""
ACCURATE = 1e-7
"""Difference of prediction and correction that is accepted in one step (typical lengths or rad)."""
TAUT = 1e-13
"""Share of the way that may be left to the place where the joints can follow no further."""
PUSH = 1e-3
"""How far a mechanism is pushed out of a place in which it could give way to either side (typical lengths)."""
MOST = 20_000


def follow_loosely(drive: Drive, law: Law, q: Array, work: Work) -> tuple[Nodes, DeadPoint | None]:
    """The nodes from assembled positions q (P, 3) along a law, up to its end or where the joints can't follow."""
    walk = _Walk(drive, law, q, work)
    dead = walk.to_the_end()
    return walk.nodes(), dead


class _Walk:
    def __init__(self, drive: Drive, law: Law, q: Array, work: Work):
        assert drive.follower is not None
        self.follower, self.law, self.work = drive.follower, law, work
        self.fastest = float(np.abs(law.slope).max(initial=0.0))
        self.h = 1e-5 / max(self.fastest, 1e-300)
        self.longest = LONGEST * math.sqrt(len(self.follower.gear.unknown))
        self.t, self.q = [law.t0], [q.copy()]
        self.v: list[Array] = []
        self.a: list[Array] = []
        self.size: list[float] = []

    def nodes(self) -> Nodes:
        """The nodes so far."""
        return Nodes(np.array(self.t), np.array(self.q), np.array(self.v), np.array(self.a))

    def _arrive(self, v: Array, a: Array, size: float) -> None:
        self.v.append(v)
        self.a.append(a)
        self.size.append(size)

    def to_the_end(self) -> DeadPoint | None:
        law = self.law
        if self.fastest == 0.0:
            still = np.zeros_like(self.q[0])
            self._arrive(still, still, 0.0)
            self.t.append(law.t1)
            self.q.append(self.q[0].copy())
            self._arrive(still, still, 0.0)
            return None
        v, size = self.follower.rate(self.q[0], law.slope)
        self._arrive(v, self.follower.bend(law, law.t0, self.h, self.q[0], v), size)
        if not self._sane(size) and not self._push():
            return DeadPoint(law.t0, self.q[0].copy())
        step = 0.02 * (law.t1 - law.t0)
        while self.t[-1] < law.t1:
            self.work.done(float((self.t[-1] - law.t0) / (law.t1 - law.t0)))
            if len(self.t) > MOST:
                raise located("drivers", "the undriven parts move on and on; drive them, or shorten the motion")
            left = law.t1 - self.t[-1]
            near = self._left_to_taut()
            step = min(step, self.longest / math.sqrt(self.size[-1]), 0.5 * near)
            if near < TAUT * (law.t1 - law.t0) + 4 * np.spacing(self.t[-1]):
                taut = self.t[-1] + near
                if taut >= law.t1 or not self._push():
                    end = self.q[-1] + 2.0 * near * self.v[-1]
                    return DeadPoint(min(taut, law.t1), end)
                step = 0.02 * (law.t1 - law.t0)
                continue
            step = self._step(left if step >= left else step)
        return None

    def _sane(self, size: float) -> bool:
        return math.isfinite(size) and math.sqrt(size) < 1e7 * self.fastest

    def _left_to_taut(self) -> float:
        """The time left to where 1/rate², carried on along its line, comes to zero; infinite where it rises."""
        if len(self.t) < 2 or self.t[-1] == self.t[-2]:
            return math.inf
        now, before = 1.0 / self.size[-1], 1.0 / self.size[-2]
        falls = (before - now) / (self.t[-1] - self.t[-2])
        return now / falls if falls > 0.0 else math.inf

    def _step(self, h: float) -> float:
        """One step of at most h; gives the length of the next one."""
        law, follower = self.law, self.follower
        t, q, v, a = self.t[-1], self.q[-1], self.v[-1], self.a[-1]
        while True:
            self.work.check()
            if h < 1e-16 * (law.t1 - law.t0) or t + h == t:
                raise located("drivers", "the undriven parts can't be followed further; drive them")
            ahead = t + h if t + h < law.t1 else law.t1
            targets = law.targets(np.array([ahead]))[0]
            guess = q + h * v + h * h / 2 * a
            if follower.close(guess, targets) < 0.0:
                h /= 2
                continue
            new_v, size = follower.rate(guess, law.slope)
            if not self._sane(size):
                h /= 2
                continue
            near = min(self.h, 0.05 * h)
            new_a = follower.bend(law, ahead, near, guess, new_v)
            error = math.inf
            for _ in range(3):
                better = q + h / 2 * (v + new_v) + h * h / 12 * (a - new_a)
                if follower.close(better, targets) < 0.0:
                    break
                error = float(np.abs(better - guess).max())
                guess = better
                new_v, size = follower.rate(guess, law.slope)
                if error < 1e-10:
                    break
                new_a = follower.bend(law, ahead, near, guess, new_v)
            if error > ACCURATE or not self._sane(size):
                h /= 2
                continue
            self.t.append(ahead)
            self.q.append(guess)
            self._arrive(new_v, new_a, size)
            return h * min(2.0, 0.9 * (ACCURATE / max(error, 1e-14)) ** 0.25)

    def _push(self) -> bool:
        """Leaves a place in which the parts could give way to either side (a strand that lies folded): whether there
        is a way on at all. The sideways push is always the same one."""
        law, follower = self.law, self.follower
        on = min(self.t[-1] + 0.01 * PUSH**2 / self.fastest, law.t1)
        if on <= self.t[-1]:
            return False
        random = np.random.default_rng(5)  # fixed: the same file always moves the same way
        targets = law.targets(np.array([on]))[0]
        for size in (PUSH, 5 * PUSH, 20 * PUSH):
            trial = self.q[-1].copy()
            trial[follower.gear.unknown] += random.uniform(-size, size, (len(follower.gear.unknown), 3))
            moved = follower.close(trial, targets)
            if 0.0 <= moved < 40 * size * math.sqrt(len(trial)):
                v, speed = follower.rate(trial, law.slope)
                if self._sane(speed):
                    self.v[-1], self.a[-1] = v, np.zeros_like(v)
                    self.t.append(on)
                    self.q.append(trial)
                    self._arrive(v, follower.bend(law, on, 0.05 * (on - self.t[-2]), trial, v), speed)
                    return True
        return False
