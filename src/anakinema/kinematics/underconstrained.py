"""Following drivers that leave freedom: what they don't move follows with the least movement, as under the hand.

At every moment the parts move at those of all rates that the rows allow for which the sum over the moving parts of
rate² of the middle and (turn rate × reach)² is least. That is a differential equation; it is followed by the method of
Dormand and Prince (J. R. Dormand, P. J. Prince, "A family of embedded Runge-Kutta formulae", J. Comput. Appl. Math. 6,
1980), whose two orders tell how long a step may be, and each step is closed onto the rows. Long strands would need very
many such steps, for the equation is stiff: there each node is the place on the rows that lies nearest to the last one
by the same sum, which is the same to first order of the step. Between the nodes runs the curve through them,
closed onto the rows too. Where the joints can follow no further (a strand is taut) forces can hold
the rows in balance, which gives that place exactly; the nodes crowd toward it, for rates grow without bound there.
"""

import math

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..errors import located
from .drive import Drive
from .stretches import DeadPoint, Law, Nodes

STEPS, FEWEST = 96, 32
"""Nodes of the whole motion, where none need be closer, and of each law of it at least."""
NEARLY, NEAREST, SHORT, LONG = 240, 8, 8.0, 40
"""Nodes of a law where each is the nearest to the last, and of the shortest; how much shorter than they need be for
other reasons steps may become before that is done; how many moving parts make a strand that is long."""
EXACT = 1e-8
"""How far a step may be off (typical lengths, rad)."""
STAGES = np.array([
    (0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0),
    (1 / 5, 1 / 5, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0),
    (3 / 10, 3 / 40, 9 / 40, 0.0, 0.0, 0.0, 0.0, 0.0),
    (4 / 5, 44 / 45, -56 / 15, 32 / 9, 0.0, 0.0, 0.0, 0.0),
    (8 / 9, 19372 / 6561, -25360 / 2187, 64448 / 6561, -212 / 729, 0.0, 0.0, 0.0),
    (1.0, 9017 / 3168, -355 / 33, 46732 / 5247, 49 / 176, -5103 / 18656, 0.0, 0.0),
    (1.0, 35 / 384, 0.0, 500 / 1113, 125 / 192, -2187 / 6784, 11 / 84, 0.0),
    (0.0, 71 / 57600, 0.0, -71 / 16695, 71 / 1920, -17253 / 339200, 22 / 525, -1 / 40),
])  # fmt: skip
"""Where in a step the rates are taken, and how much of each earlier one goes into it; the last but one is the step, the
last how far it is off, its fifth order less the fourth."""
NEAR_TAUT = 0.05
"""Share of the way within which it is looked for the place where the joints can follow no further."""
CROWD = 0.45
"""Share of the way left to that place that the next node keeps."""
LAST = 1e-7
"""Share of the way that the last node leaves to it."""
LARGEST = 0.12
"""Longest step, as turn of a driver (rad)."""
MOST, MOST_PLACES, MOST_SLACK = 20_000, 250_000, 45_000
"""Nodes, nodes times moving parts, and freedoms times parts that hang together (a strand of 210 links), that are
followed: with all that is asked of them some ten seconds. In a strand of twice as many links there are twice as many
joints that turn back, each more often, and `NEARLY` nodes know its motion too coarsely to prove anything."""
TURN = 1.0
"""Largest turn of a part in one step (rad): less than would lead to a mirror configuration."""
PUSH = 1e-3
"""How far a mechanism is pushed out of a place in which it could give way to either side (typical lengths)."""


def follow_underconstrained(
    drive: Drive,
    law: Law,
    q: Array,
    work: CancellationToken,
    share: float = 1.0,
    ahead: tuple[float, Array] | None = None,
) -> tuple[Nodes, DeadPoint | None]:
    """The nodes from assembled positions q (P, 3) along a law, which takes a share of the time in which the drivers
    move, up to its end or where the joints can't follow; by positions a little ahead where there are two ways on."""
    walk = _Walk(drive, law, q, work, max(FEWEST, math.ceil(STEPS * share)))
    if ahead is not None:
        walk.begin(*ahead)
    dead = walk.to_the_end()
    return walk.nodes(dead), dead


class _Walk:
    def __init__(self, drive: Drive, law: Law, q: Array, work: CancellationToken, steps: int):
        assert drive.minimum_norm is not None
        self.minimum_norm, self.law, self.work = drive.minimum_norm, law, work
        self.span, self.steps = law.t1 - law.t0, steps
        self.fastest = law.fastest
        coordinates = drive.system.coordinates
        turning = [not coordinates.is_length[coordinates.index(driver.joint)] for driver in drive.drivers]
        self.turning = law.fastest_of(turning)
        self.t, self.q = [law.t0], [q.copy()]
        self.v: list[Array | None] = [self._speed(law.t0, q)]
        """The least rates at each node; None where they are not known, or without bound."""
        self.stiff = len(q) > LONG
        """Whether each node is the nearest to the last from here on."""
        self.count = len(self.minimum_norm.gear.unknown)
        self.most = min(MOST, MOST_PLACES / self.count)
        self.longest, self.room = math.inf, 1.0
        """How long steps to the nearest may be by now; how much longer than the last step the next may be."""
        self.size: float | None = None
        """That of the least rate at the last node, squared; None where it was not found on the way there."""
        self.before = math.inf
        """What 1/rate² was at the last node but one, by the way of the drivers."""
        self.tried = math.inf
        """The time left, as foretold, when the end was last looked for."""

    def begin(self, t: float, near: Array) -> None:
        """The first node at a time, near positions (P, 3) that tell the way."""
        found = self.minimum_norm.nearest(self.q[0], near, self.law.targets(np.array([t]))[0])
        if found is not None:
            self._put(t, found, None)

    def nodes(self, dead: DeadPoint | None) -> Nodes:
        """The nodes so far, with their rates, where these are not known those of the parabola through each and its
        neighbours."""
        t, q = np.array(self.t), np.array(self.q)
        if t[-1] == t[0]:
            return Nodes(t, q, np.zeros_like(q), np.zeros_like(q))
        if len(t) == 2:
            v = np.broadcast_to((q[1] - q[0]) / (t[1] - t[0]), q.shape).copy()
            return Nodes(t, q, v, np.zeros_like(q))
        gap = np.diff(t)[:, None, None]
        rise = np.diff(q, axis=0) / gap
        a = 2.0 * np.diff(rise, axis=0) / (gap[1:] + gap[:-1])
        v = rise[:-1] + a / 2.0 * gap[:-1]
        first, last = v[0] - a[0] * gap[0], v[-1] + a[-1] * gap[-1]
        v, a = np.concatenate((first[None], v, last[None])), np.concatenate((a[:1], a, a[-1:]))
        known = np.array([each is not None for each in self.v])
        v[known] = np.array([each for each in self.v if each is not None]).reshape(-1, *q.shape[1:])
        near = known[:-2] & known[1:-1] & known[2:]
        rise = np.diff(v, axis=0) / gap
        middle = (rise[:-1] * gap[1:] + rise[1:] * gap[:-1]) / (gap[1:] + gap[:-1])
        a[1:-1][near] = middle[near]
        for end, beside in ((0, 1), (-1, -2)):
            if near[end]:
                a[end] = 2.0 * rise[end] - a[beside]
        return Nodes(t, q, v, a)

    def to_the_end(self) -> DeadPoint | None:
        """Follows the law to its end, or to where the joints can follow no further."""
        law, whole = self.law, self._whole()
        if self.minimum_norm.slack > MOST_SLACK:
            text = f"{self.count:,} parts move, and too many that hang together are undriven for them to be followed; "
            text += "drive more of them, or build the strand of fewer and longer links"
            raise located("drivers", text)
        if not self.span <= self.most * whole:  # nor where a rate is without bound
            text = f"the motion is too long to be followed while parts are undriven ({self.count:,} move); "
            text += "drive them, or let the drivers go less far"
            raise located("drivers", text)
        if self.fastest == 0.0:
            self._put(law.t1, self.q[0].copy(), None)
            return None
        step = whole
        end: tuple[float, Array] | None = None
        while self.t[-1] < law.t1:
            self.work.done((self.t[-1] - law.t0) / self.span)
            if len(self.t) > 2 * self.most:
                raise located("drivers", "the undriven parts can't be followed to the end; drive some of them")
            if end is not None and end[0] < law.t1:
                if self._crowd(*end):
                    return DeadPoint(*end)
                step, end = 0.1 * whole, None
            elif self._step(step):
                step = min(whole, self.room * step)
                end = self._end()
            else:
                step *= self.room
                if not self.stiff and step < whole / SHORT:
                    self.stiff = True
                    step = self.longest = whole = self._whole()
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
            if self.minimum_norm.close(found, law.targets(np.array([taut - left]))[0]) < 0.0:
                break
            self._put(taut - left, found, None)
        return not self._push(taut, there)

    def _put(self, t: float, q: Array, v: Array | None, size: float | None = None) -> None:
        """Another node, with its least rate and the size of that where they are known."""
        self.t.append(t)
        self.q.append(q)
        self.v.append(v)
        self.size = size

    def _speed(self, t: float, q: Array) -> Array | None:
        """The least rates (P, 3) at a time and a place; None where they are without bound."""
        v, size = self.minimum_norm.rate(q, self.law.rates(t))
        return v if math.isfinite(size) and bool(np.isfinite(v).all()) else None

    def _whole(self) -> float:
        """The longest step."""
        # On the little way to a start that is nearly there already, a few will do.
        nearly = min(max(NEARLY * self.fastest * self.span / LARGEST, NEAREST), NEARLY)
        return min(self.span / (nearly if self.stiff else self.steps), LARGEST / max(self.turning, 1e-300))

    def _step(self, h: float) -> bool:
        """One step of at most h; False, and nothing has changed, where that is too far. `room` then tells by how much
        the next may be longer, or must be shorter."""
        t, law = self.t[-1], self.law
        ahead = t + h if t + 1.001 * h < law.t1 else law.t1
        return self._to_nearest(ahead) if self.stiff else self._by_rates(ahead)

    def _to_nearest(self, ahead: float) -> bool:
        t, q, law = self.t[-1], self.q[-1], self.law
        h, guess = ahead - t, q
        if len(self.t) > 1 and self.t[-2] < t:
            guess = q + (q - self.q[-2]) * (h / (t - self.t[-2]))
        targets = law.targets(np.array([ahead]))[0]
        for start in (guess, q):
            found = self.minimum_norm.nearest(q, start, targets)
            if found is not None and float(np.abs(found - q)[:, 2].max()) < TURN:
                self._put(ahead, found, None)
                self.longest = min(self._whole(), 1.02 * self.longest)
                self.room = min(1.7, self.longest / h)
                return True
        self.longest, self.room = max(0.8 * h, self._whole() / 8), 0.5
        return False

    def _by_rates(self, ahead: float) -> bool:
        t, q = self.t[-1], self.q[-1]
        first = self.v[-1] if self.v[-1] is not None else self._speed(t, q)
        self.room = 0.5
        if first is None:
            return False
        off, at, v, size = self.minimum_norm.step(self.law, t, ahead, q, first, STAGES, TURN, EXACT)
        if off < 0.0:
            return False
        self.room = min(max(0.9 * (EXACT / max(off, 1e-300)) ** 0.2, 0.2), 2.0)
        if off > EXACT:
            self.room = min(self.room, 0.5)
            return False
        self._put(ahead, at, v if math.isfinite(size) else None, size)
        return True

    def _end(self, within: float = NEAR_TAUT) -> tuple[float, Array] | None:
        """Time and positions at which the joints can follow no further, when that is near: 1/rate² falls toward
        zero."""
        t, q = self.t[-1], self.q[-1]
        rates = self.law.rates(t)
        size = self.minimum_norm.rate(q, rates)[1] if self.size is None else self.size
        # By the way of the drivers, not by time: they may run slower for reasons of their own.
        now = float(rates @ rates) / size if size > 0.0 else math.inf
        falls = (self.before - now) / (t - self.t[-2]) if len(self.t) > 1 and math.isfinite(self.before) else 0.0
        self.before = now
        left = now / falls if falls > 0.0 else math.inf
        if math.isfinite(within) and not left < min(within * self.span, 0.6 * self.tried):
            return None
        self.tried = min(left, self.tried)
        found = self.minimum_norm.taut(self.law, t, t + 2.0 * NEAR_TAUT * self.span, q)
        if found is None or not t <= found[0]:
            return None
        # It must be where this motion leads, not another such place.
        return found if float(np.abs(found[1] - q)[:, 2].max()) < 1.5 * TURN else None

    def _push(self, at: float, there: Array) -> bool:
        """Leaves a place in which the parts could give way to either side (a strand that lies folded): whether there
        is a way on at all. The sideways push is always the same one."""
        law, minimum_norm = self.law, self.minimum_norm
        on = at + 0.01 * PUSH**2 / self.fastest
        if on >= law.t1:
            return False
        random = np.random.default_rng(5)  # fixed: the same file always moves the same way
        targets = law.targets(np.array([on]))[0]
        for size in (PUSH, 5 * PUSH, 20 * PUSH):
            self.work.check()
            trial = there.copy()
            trial[minimum_norm.gear.unknown] += random.uniform(-size, size, (len(minimum_norm.gear.unknown), 3))
            moved = minimum_norm.close(trial, targets)
            if 0.0 <= moved < 40 * size * math.sqrt(len(trial)):
                self._put(on, trial, None)
                self.before = self.tried = math.inf
                return True
        return False
