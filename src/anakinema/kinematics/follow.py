"""Following a branch: nodes by a predictor, along the drivers' laws.

Steps are as long as the prediction holds, and no position is accepted whose tangent is not the continuation of the last
one, so the mirror configuration is never taken. The loops over rows and steps are compiled, in
`anakinema.kinematics.kernels`.
"""

from collections.abc import Sequence

import numpy as np

from ..arrays import Array
from ..errors import located
from ..work import Work
from .arc import Arc
from .crossing import crosses, node
from .drive import Drive
from .kernels.tables import ARRIVED, CROSSED, DOUBTFUL, STUCK
from .path import Path
from .stretches import RESTS, Course, DeadPoint, Law, Nodes

LARGEST_TURN = np.radians(36.0)
"""Longest step, as motion of a driver (rad, or typical lengths)."""
SMALLEST = 1e-6
"""Step, relative to the longest, below which the way on is looked for along the arc of the motion."""
ROOM = 128
"""Nodes followed in one go, between two looks at whether the work is still wanted."""
LEAVES = 1e-3
"""How far the drivers go to the first node behind a position that can be left in two ways (rad, typical lengths)."""
MAX_NODES = 200_000


def follow(drive: Drive, laws: Sequence[Law], q: Array, work: Work) -> Path:
    """The path from assembled positions q (P, 3) along the laws, up to their end or the first dead point."""
    pieces: list[tuple[Law, Nodes]] = []
    moving = sum(law.t1 - law.t0 for law in laws if law.moves)
    for i, law in enumerate(laws):
        part = work.part(i / len(laws), (i + 1) / len(laws))
        if drive.follower is not None:
            from .loose import follow_loosely

            nodes, dead = follow_loosely(drive, law, q, part, (law.t1 - law.t0) / moving if moving else 1.0)
        else:
            walk = _Walk(drive, law, q)
            dead = walk.to_the_end(part)
            nodes = walk.nodes()
        pieces.append((law, nodes))
        if dead is not None:
            return Path(drive, pieces, dead)
        q = nodes.q[-1]
    return Path(drive, pieces, None)


class _Walk:
    """Following one law: node arrays that grow, the signs of the blocks' determinants, the step."""

    def __init__(self, drive: Drive, law: Law, q: Array):
        self.drive, self.law = drive, law
        self.equations = drive.equations
        self.work = self.equations.work(len(law.table))
        self.t = np.full(ROOM, law.t0)
        self.q, self.v, self.a = (np.zeros((ROOM, *q.shape)) for _ in range(3))
        self.last = self.fresh = 0
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
        if self.last > MAX_NODES:
            raise located("drivers", "the motion is too long to be followed in one go; shorten its range")
        self.t = np.concatenate((self.t, np.zeros(len(self.t))))
        self.q, self.v, self.a = (np.concatenate((each, np.zeros_like(each))) for each in (self.q, self.v, self.a))

    def to_the_end(self, work: Work) -> DeadPoint | None:
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
        if self.regular < DOUBTFUL and not self.leave():
            return DeadPoint(law.t0, self.q[0].copy())
        step = longest / 2 if self.last == 0 else longest / 16
        while True:
            status, self.last, step = following.advance(
                self.equations.table, self.equations.plan, self.work, law.table, law.t0, law.t1, longest,
                SMALLEST * longest, RESTS * fastest, self.t, self.q, self.v, self.a, self.signs, self.last, self.fresh,
                step,
            )
            work.done(float((self.t[self.last] - law.t0) / (law.t1 - law.t0)))
            if status == ARRIVED:
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
        """Leaves a position in which the motion could go on in two ways (a parallelogram placed flat), or none: puts a
        node a little on, on the way in which the bodies that no joint ties to the frame turn least. Whether there is
        a way."""
        law, equations, course = self.law, self.equations, Course(self.law, self.law.t0)
        if course.end <= LEAVES:
            return False
        then = course.time(LEAVES)
        paces = law.sampled(np.array([law.t0, then]))[1] @ course.heading
        for tangent in self._tangents(course.heading):
            ahead = self.q[0].copy()
            equations.spread(ahead, LEAVES * tangent)
            if self.put(1, then, ahead) > 1e-7:
                off = self.v[1, equations.unknown].ravel() / paces[1] - tangent
                if np.abs(off).max() < 0.1 * np.abs(tangent).max():
                    self.v[0, equations.unknown] = paces[0] * tangent.reshape(-1, 3)
                    self.last = self.fresh = 1
                    return True
        return False

    def _tangents(self, heading: Array) -> list[Array]:
        """The changes (columns,), for a unit of the drivers' way in a direction (D,), with which the start can be left,
        the likelier first: J v = s has the solutions v + α n, and α must let the accelerations exist,
        l · γ(v + α n) = 0 with l J = 0, a quadratic equation."""
        equations = self.equations
        _, jac = equations.linear(self.q[:1], self.law.targets(np.array([self.law.t0])))
        left, size, right = np.linalg.svd(jac[0])
        if size[-2:-1] < DOUBTFUL * size[0]:
            return []  # more than one motion opens here
        right_side = equations.targets_rate(heading)
        free, closed = right[-1], left[:, size.size - 1]
        if abs(closed @ right_side) > 1e-6 * np.abs(right_side).max():
            return []  # the driver pushes against a dead point
        base = right[:-1].T @ ((left[:, : size.size - 1].T @ right_side) / size[:-1])

        def curvature(share: float) -> float:
            v = np.zeros_like(self.q[:1])
            v[0, equations.unknown] = (base + share * free).reshape(-1, 3)
            return float(closed @ equations.rates(self.q[:1], v, np.zeros_like(v))[1][0])

        scale = float(np.abs(base).max())
        below, middle, above = (curvature(share * scale) for share in (-1.0, 0.0, 1.0))
        roots = np.roots([(above + below) / 2 - middle, (above - below) / 2, middle])
        shares = roots.real[np.abs(roots.imag) < 1e-6 * np.abs(roots).max(initial=1.0)] * scale
        grounded = {
            body for spec in equations.specs if spec.target < 0 for term in spec.terms for body in (term.a, term.b)
            if equations.place[term.a] < 0 or equations.place[term.b] < 0
        }
        floating = [3 * k + 2 for k, body in enumerate(equations.unknown.tolist()) if body not in grounded]
        return sorted((base + share * free for share in shares), key=lambda v: float(np.abs(v[floating]).sum()))

    def along_arc(self) -> DeadPoint | None:
        """Where time steps fail: follow the arc of the motion itself. The drivers' way turns back there at a dead
        point, which is located; otherwise the motion goes on behind a change point, and a node is put there."""
        from scipy.optimize import brentq

        arc = Arc(self.equations, self.law, float(self.t[self.last]), self.q[self.last], self.v[self.last])
        course, low, high = arc.course, 0.0, 1e-4
        while high < 0.3:
            reached = arc.point(high)
            if reached is None:
                break
            if reached[2] <= 0:
                found = brentq(lambda s: (arc.point(s) or (None, 0.0, 0.0))[2], low, high, xtol=1e-13, rtol=1e-14)
                located = arc.point(found)
                if located is None:
                    break
                return DeadPoint(course.time(max(located[1], 0.0)), located[0])
            if reached[1] >= course.end:  # the motion ends where it could go on in two ways
                there = brentq(lambda s: (arc.point(s) or (None, np.inf))[1] - course.end, low, high, xtol=1e-13)
                end = arc.point(there)
                if end is not None:
                    self.last += 1
                    if self.put(self.last, self.law.t1, end[0]) < DOUBTFUL:
                        self.q[self.last] = end[0]
                        self.v[self.last], self.a[self.last] = self.v[self.last - 1], self.a[self.last - 1]
                    return None
            if reached[1] > 1e-3:
                behind = self.last + 1
                if self.put(behind, course.time(reached[1]), reached[0]) > 1e-7:
                    self.last = self.fresh = behind  # nothing is extrapolated across the change point
                    return None if self.crosses() else DeadPoint(arc.t, self.q[self.last].copy())
            low, high = high, 1.7 * high
        return DeadPoint(arc.t, self.q[self.last].copy())
