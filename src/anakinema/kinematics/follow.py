"""Following a branch: nodes by a predictor, along the drivers' laws.

Steps are as long as the prediction holds, and no position is accepted whose tangent is not the continuation of the last
one, so the mirror configuration is never taken. The loops over rows and steps are compiled, in
`anakinema.kinematics.kernels`.
"""

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..errors import located
from .arc import Arc
from .crossing import Node, crosses, node
from .drive import Drive
from .equations import Equations
from .kernels.tables import ARRIVED, CROSSED, DOUBTFUL, STUCK
from .leaving import arrival, leave
from .path import Path, ended, filled, filled_underconstrained, near_singularity
from .refining import FOLDED, by_a_dead_point, refined, toward
from .stretches import RESTS, Course, DeadPoint, Law, Nodes, Stretch

if TYPE_CHECKING:
    from .carrying import Carrier
    from .minimum_norm import MinimumNorm
    from .pushing import Pusher
    from .unilateral import Unilaterals

LARGEST_TURN = np.radians(36.0)
"""Longest step, as motion of a driver (rad, or typical lengths)."""
SMALLEST = 1e-6
"""Step, relative to the longest, below which the way on is looked for along the arc of the motion."""
ROOM = 128
"""Nodes followed in one go, between two looks at whether the work is still wanted."""
SINGULAR = 1e-7
"""Least spread of a node whose rates are to be trusted."""
SHORT_OF = 2e-13
"""Way by which a motion must end short of a dead point not to come to it."""
MAX_NODES = 40_000
"""Nodes of one law: ten seconds with all that is found of them."""


def follow(
    drive: Drive, laws: Sequence[Law], q: Array, work: CancellationToken, onesided: "Unilaterals",
    before: Path | None = None, pusher: "Pusher | None" = None,
) -> Path:  # fmt: skip
    """The path from assembled positions q (P, 3), to which another led or where they were placed, along the laws, up to
    their end or the first dead point. What holds one way only carries undriven parts
    along."""
    stretches: list[Stretch] = []
    earlier = before.stretches if before is not None else ()
    moved: dict[bytes, Equations] = {}
    dead: DeadPoint | None = None
    moving = sum(law.t1 - law.t0 for law in laws if law.moves)
    carrier: Carrier | None = None
    if pusher is None and drive.minimum_norm is not None:
        from . import carrying

        carrier = carrying.Carrier(drive, onesided, work, _ended_underconstrained)
    for i, law in enumerate(laws):
        part = work.part(i / len(laws), (i + 1) / len(laws))
        if pusher is not None:
            pusher.work = part
            made, dead = pusher.follow(law, q)
            stretches += made
            nodes = made[-1].nodes
        elif carrier is not None:
            share = (law.t1 - law.t0) / moving if moving else 1.0
            carrier.work = part
            made, dead = carrier.follow(law, q, share, _set_out(drive, law, q, [*earlier, *stretches]))
            stretches += made
            nodes = made[-1].nodes
        else:
            key = law.moving.tobytes()
            equations = moved[key] = moved.get(key) or drive.equations.moved_by(law.moving)
            walk = Walk(equations, law, q, [*earlier, *stretches])
            dead = walk.to_the_end(part)
            nodes = refined(walk.equations, law, walk.nodes())
            stretches.append(Stretch(law, nodes, walk.equations, turned_least=walk.turned_least))
        if not np.isfinite(nodes.q).all():
            raise located("drivers", f"the motion is lost in the stretch from {law.t0:g} s: positions are no numbers")
        for rates in (nodes.v, nodes.a):  # they only foretell
            rates[~np.isfinite(rates)] = 0.0
        if dead is not None:
            break
        q = nodes.q[-1]
    known = pusher or carrier
    return Path(drive, stretches, dead, events=known.events if known is not None else (),
                drops=pusher.drops if pusher is not None else ())  # fmt: skip


def _ended_underconstrained(minimum_norm: "MinimumNorm", law: Law, nodes: Nodes) -> Nodes:
    """The nodes, with the last one where the way there leads if that is a place with two ways on."""
    near_singular = near_singularity(minimum_norm, law, nodes)
    q, v, a = (np.zeros((1, *nodes.q.shape[1:])) for _ in range(3))
    if minimum_norm.evaluate(law, nodes, nodes.t[-1:], q, v, a, True)[0] <= near_singular:
        return nodes
    return ended(law, nodes, lambda some: partial(filled_underconstrained, minimum_norm, law, some, near_singular))


def _set_out(drive: Drive, law: Law, q: Array, before: Sequence[Stretch]) -> tuple[float, Array] | None:
    """Where parts are left undriven, and the rest came to a place with two ways on: a time a little on, and the
    positions (P, 3) there on the way that carries on, with the undriven freedoms as they were."""
    if not arrival(before, drive.equations).any():
        return None
    equations, table = drive.equations, law.table.copy()
    holds = equations.table.target >= len(drive.commanded)
    table[equations.table.target[holds]] = 0.0
    table[equations.table.target[holds], 0] = equations.values(q[None])[0][holds]
    held = Law(law.t0, law.t1, table)
    here, rates, seconds = (each[0] for each in held.sampled(np.array([law.t0])))
    if equations.settle(q.copy(), here, rates, seconds)[0] > DOUBTFUL:
        return None
    found = leave(equations, held, q, before)
    return (found.t, found.q) if found is not None else None


class Walk:
    """Following one law: node arrays that grow, the signs of the blocks' determinants, the step."""

    def __init__(self, equations: Equations, law: Law, q: Array, before: Sequence[Stretch]):
        self.equations, self.law, self.before = equations, law, before
        self.work = self.equations.work(len(law.table))
        self.t = np.full(ROOM, law.t0)
        self.q, self.v, self.a = (np.zeros((ROOM, *q.shape)) for _ in range(3))
        self.last = self.fresh = 0
        self.turned_least: tuple[int, ...] = ()
        """Bodies that decided which way was taken from a start with several."""
        self.regular = self.put(0, law.t0, q)

    def put(self, at: int, t: float, q: Array) -> float:
        """Sets a node at positions that are nearly on the rows; gives how regular the position is."""
        self.t[at], self.q[at] = t, q
        targets, rates, seconds = (each[0] for each in self.law.sampled(np.array([t])))
        spread, self.v[at], self.a[at], self.signs = self.equations.settle(self.q[at], targets, rates, seconds)
        return spread

    def nodes(self) -> Nodes:
        """The nodes so far."""
        end = self.last + 1
        return Nodes(self.t[:end], self.q[:end], self.v[:end], self.a[:end])

    def grow(self) -> None:
        """Makes room for more nodes."""
        self.t = np.concatenate((self.t, np.zeros(len(self.t))))
        self.q, self.v, self.a = (np.concatenate((each, np.zeros_like(each))) for each in (self.q, self.v, self.a))

    def to_the_end(self, work: CancellationToken) -> DeadPoint | None:
        """Follows the law to its end, or to a dead point."""
        from .kernels import following

        law = self.law
        fastest = law.fastest
        if self.equations.columns == 0 or fastest == 0.0:
            self.last = 1
            self.t[1], self.q[1] = law.t1, self.q[0]
            return None
        if (law.t1 - law.t0) * fastest > MAX_NODES * LARGEST_TURN:
            raise located("drivers", f"the motion is longer than {MAX_NODES // 10:,} turns; shorten its range")
        longest = min(LARGEST_TURN / fastest, law.t1 - law.t0)
        if self.regular < DOUBTFUL and not by_a_dead_point(self.equations, law, law.t0, self.q[0]) and not self.leave():
            return DeadPoint(law.t0, self.q[0].copy())
        if self.t[self.last] == law.t1:
            return None
        step = longest / 2 if self.last == 0 else longest / 16
        while True:
            status, self.last, step = following.advance(
                self.equations.table, self.equations.plan, self.work, law.table, law.t0, law.t1, longest,
                SMALLEST * longest, RESTS * fastest, self.t, self.q, self.v, self.a, self.signs, self.last, self.fresh,
                step,
            )
            work.done(float((self.t[self.last] - law.t0) / (law.t1 - law.t0)))
            if self.last > MAX_NODES:
                raise located("drivers", "the motion is too long to be followed in one go; shorten its range")
            if status == ARRIVED:
                targets, rates, seconds = (each[0] for each in law.sampled(self.t[self.last : self.last + 1]))
                if self.equations.settle(self.q[self.last].copy(), targets, rates, seconds)[0] < DOUBTFUL:
                    self.end_between_ways()
                return None
            if status == CROSSED and not self.crosses():
                step = (self.t[self.last + 1] - self.t[self.last]) / 2
                if step < SMALLEST * longest:
                    status = STUCK
            elif self.t[self.last] == law.t1:
                return None
            if self.last + 2 >= len(self.t):
                self.grow()
            if status == STUCK:
                dead = self.along_arc()
                if dead is not None:
                    return dead
                step = longest / 16

    def crosses(self) -> bool:
        """Whether the branch runs on to the last node, which has other signs than the one before; takes it back where
        not."""
        last_two = (self.last - 1, self.last)
        before, behind = (node(self.equations, self.law, float(self.t[k]), self.q[k]) for k in last_two)
        if before is None:  # a start that was left: singular itself
            return True
        if behind is not None and crosses(self.equations, self.law, before, behind):
            return True
        self.last -= 1
        self.signs = before.signs
        return False

    def leave(self) -> bool:
        """Leaves a position in which the motion could go on in two ways, or nearly could: puts a node a little on.
        Whether there is a way."""
        law, moving = self.law, self.equations.unknown
        found = leave(self.equations, law, self.q[0], self.before)
        if found is None:
            return False
        then, ahead, tangent = found.t, found.q, found.tangent
        self.turned_least = found.turned_least
        regular = self.put(1, then, ahead)
        start, there = (float(pace) for pace in Course(law, law.t0).paces(np.array([law.t0, then]))[0])
        if not regular > SINGULAR:
            if then < law.t1:
                return False
            self.q[1], self.v[1], self.a[1] = ahead, there * tangent, 0.0  # it ends where there are two ways on
        elif np.abs(self.q[1] - ahead)[moving].max() > 1e-7:
            return False
        self.v[0], self.a[0] = 0.0, 0.0  # what the singular place itself told is nothing
        self.v[0, moving] = start * tangent[moving]
        self.last = self.fresh = 1
        return True

    def along_arc(self) -> DeadPoint | None:
        """Where time steps fail: follow the arc of the motion itself. The drivers' way turns back there at a dead
        point, which is located; otherwise the motion goes on behind a change point, and a node is put there."""
        from scipy.optimize import brentq

        arc = Arc(self.equations, self.law, float(self.t[self.last]), self.q[self.last], self.v[self.last])
        course, low, high = arc.course, 0.0, 1e-4

        def short_of_end(s: float) -> tuple[float, float]:
            """How far the drivers are short of the end of the law, and the rate of their way; 0 where that is lost."""
            if s == 0.0:  # the node itself, before anything turns back
                return course.end, 1.0
            found = arc.point(s)
            return (course.end - found[1], found[2]) if found is not None else (0.0, 0.0)

        def arrived_by(far: float) -> tuple[Array, float, float] | None:
            """The place on the arc at which the law ends; None where rounding hides it."""
            if not short_of_end(low)[0] > 0.0 >= short_of_end(far)[0]:
                return None
            return arc.point(brentq(lambda s: short_of_end(s)[0], low, far, xtol=1e-15))

        while high < 0.3:
            reached = arc.point(high)
            if reached is None:
                break
            if reached[2] <= 0:
                turns = brentq(lambda s: short_of_end(s)[1], low, high, xtol=1e-13, rtol=1e-14)
                located = arc.point(turns)
                if located is None:
                    break
                if located[1] < course.end + SHORT_OF or course.end <= 0.0:
                    for each in toward(self.equations, self.law, arc, turns):
                        self.append(each)
                    return DeadPoint(min(course.time(max(located[1], 0.0)), self.law.t1), located[0])
                arrived = arrived_by(turns)
                if arrived is None:
                    break
                self.put_last(arrived[0])
                return None
            if reached[1] >= course.end:
                arrived = arrived_by(high)
                self.put_last(self.q[self.last] if arrived is None else arrived[0])
                self.end_between_ways()
                return None
            if reached[1] > 1e-3:
                behind = self.last + 1
                if self.put(behind, course.time(reached[1]), reached[0]) > SINGULAR:
                    self.last = self.fresh = behind  # nothing is extrapolated across the change point
                    return None if self.crosses() else DeadPoint(arc.t, self.q[self.last].copy())
            low, high = high, 1.7 * high
        return DeadPoint(arc.t, self.q[self.last].copy())

    def append(self, found: Node) -> None:
        """Another node, where it is later than the last."""
        if found.t <= self.t[self.last]:
            return
        if self.last + 2 >= len(self.t):
            self.grow()
        self.last += 1
        self.t[self.last] = found.t
        self.q[self.last], self.v[self.last], self.a[self.last] = found.q, found.v, found.a

    def put_last(self, q: Array) -> None:
        """Sets a node at the end of the law; where that is singular, with the rates of the one before."""
        self.last += 1
        if not self.put(self.last, self.law.t1, q) > FOLDED:
            self.v[self.last], self.a[self.last] = self.v[self.last - 1], self.a[self.last - 1]

    def end_between_ways(self) -> None:
        """Puts the last node where the way there leads, if the motion could go on in two ways from it."""
        if by_a_dead_point(self.equations, self.law, self.law.t1, self.q[self.last]):
            return
        fill = partial(filled, self.equations, self.law)
        last, nodes = self.last, ended(self.law, self.nodes(), lambda some: partial(fill, some))
        self.q[last], self.v[last], self.a[last] = nodes.q[-1], nodes.v[-1], nodes.a[-1]
