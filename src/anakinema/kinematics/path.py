"""One branch of the motion, followed continuously: nodes by a predictor, any time between them in one batch.

`follow` walks along the drivers' law with steps as long as the prediction holds, and never accepts a position whose
tangent is not the continuation of the last one, so the mirror configuration is never taken. `Path` then gives positions
and rates at any times at once. The loops over rows and steps are compiled, in `anakinema.kinematics.kernels`.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Mask
from .drive import Drive, Law
from .equations import Equations
from .kernels.tables import ARRIVED, DOUBTFUL, STUCK

LARGEST_TURN = np.radians(36.0)
"""Longest step, as motion of a driver (rad, or typical lengths)."""
SMALLEST = 1e-6
"""Step, relative to the longest, below which the way on is looked for along the arc of the motion."""
ROOM = 128
"""Nodes followed in one go, between two looks at whether the work is still wanted."""
MAX_NODES = 200_000
APART = 0.01
"""Distance between the positions from which one at a change point is interpolated, as motion of a driver."""


@dataclass(frozen=True)
class Nodes:
    """Positions and their time derivatives (K, P, 3) at times t (K,), ascending."""

    t: Array
    q: Array
    v: Array
    a: Array


@dataclass(frozen=True)
class DeadPoint:
    """Where a branch ends: the time, and the positions."""

    t: float
    q: Array


class Path:
    """A followed branch: the nodes of each law of the drive, up to `t1`."""

    def __init__(self, drive: Drive, pieces: Sequence[tuple[Law, Nodes]], dead: DeadPoint | None):
        self.drive = drive
        self.laws = [law for law, _ in pieces]
        self.pieces = [nodes for _, nodes in pieces]
        self.dead = dead
        self.last_regular = float(self.pieces[-1].t[-1])
        self.t1 = dead.t if dead else self.last_regular

    @property
    def node_times(self) -> Array:
        """All node times, ascending."""
        return np.unique(np.concatenate([nodes.t for nodes in self.pieces]))

    def until(self, t1: float) -> "Path":
        """The same path, ended earlier."""
        shorter = Path.__new__(Path)
        shorter.__dict__ = dict(self.__dict__)
        shorter.t1 = t1
        shorter.dead = None
        return shorter

    def targets(self, t: Array) -> Array:
        """(S, D) what the drivers command at times t."""
        piece = self._piece(t)
        found = np.empty((t.size, self.laws[0].start.size))
        for i in np.unique(piece):
            found[piece == i] = self.laws[i].targets(t[piece == i])
        return found

    def _piece(self, t: Array) -> np.ndarray[tuple[int], np.dtype[np.intp]]:
        ends = np.array([law.t1 for law in self.laws[:-1]])
        return np.searchsorted(ends, t, side="left")

    def at(self, t: Array) -> tuple[Array, Array, Array]:
        """Positions, velocities and accelerations, each (S, P, 3), at times t (S,)."""
        return self._evaluated(t, True)

    def positions(self, t: Array) -> Array:
        """Positions (S, P, 3) alone, in about half the time."""
        return self._evaluated(t, False)[0]

    def _evaluated(self, t: Array, wanted: bool) -> tuple[Array, Array, Array]:
        t = np.atleast_1d(np.asarray(t, dtype=float))
        within = np.minimum(t, self.last_regular)
        q = np.empty((t.size, *self.pieces[0].q.shape[1:]))
        v, a = (np.zeros(q.shape if wanted else (t.size, 0, 0)) for _ in range(2))
        if len(self.laws) == 1:
            self._at_piece(0, within, q, v, a, wanted)
            return self._ended(t, q), v, a
        piece = self._piece(within)
        for i in sorted(set(piece.tolist())):
            chosen = np.flatnonzero(piece == i)
            parts = q[chosen], v[chosen], a[chosen]
            self._at_piece(i, within[chosen], *parts, wanted)
            q[chosen], v[chosen], a[chosen] = parts
        return self._ended(t, q), v, a

    def _ended(self, t: Array, q: Array) -> Array:
        """Positions, with those of the dead point from its time on."""
        if self.dead is not None:
            q[t >= self.dead.t] = self.dead.q
        return q

    def _at_piece(self, piece: int, t: Array, q: Array, v: Array, a: Array, wanted: bool) -> None:
        law, nodes, equations = self.laws[piece], self.pieces[piece], self.drive.equations
        singular = np.zeros(t.size, dtype=np.bool_)
        _filled(equations, law, nodes, t, q, v, a, wanted, singular)
        if singular.any():
            self._across(piece, t, q, v, a, wanted, singular)

    def _across(self, piece: int, t: Array, q: Array, v: Array, a: Array, wanted: bool, singular: Mask) -> None:
        """Positions and rates at a change point, where the Jacobian gives none: interpolated from both sides, or
        extrapolated where there is but one. At a dead point, where rates grow without bound, nothing is changed."""
        law, nodes, equations = self.laws[piece], self.pieces[piece], self.drive.equations
        low, high = float(nodes.t[0]), float(nodes.t[-1])
        reach = min(APART / max(float(np.abs(law.slope).max()), 1e-300), (high - low) / 12)
        for i in np.flatnonzero(singular):
            if self.dead is not None and t[i] > self.dead.t - 6 * reach:
                continue
            steps = np.array([-3.0, -2.0, -1.0, 1.0, 2.0, 3.0])
            weights = np.array([1.0, -6.0, 15.0, 15.0, -6.0, 1.0]) / 20
            if not low + 3 * reach < t[i] < high - 3 * reach:
                steps, weights = np.arange(1.0, 7.0), np.array([6.0, -15.0, 20.0, -15.0, 6.0, -1.0])
                steps = steps if t[i] < (low + high) / 2 else -steps
            around = t[i] + reach * steps
            near_q, near_v, near_a = (np.zeros((6, *each.shape[1:])) for each in (q, v, a))
            _filled(equations, law, nodes, around, near_q, near_v, near_a, wanted, np.zeros(6, dtype=np.bool_))
            q[i] = np.tensordot(weights, near_q, 1)
            if wanted:
                v[i], a[i] = np.tensordot(weights, near_v, 1), np.tensordot(weights, near_a, 1)


def _filled(
    equations: Equations, law: Law, nodes: Nodes, t: Array, q: Array, v: Array, a: Array, wanted: bool, singular: Mask
) -> None:
    """Fills q, and v and a where wanted (S, P, 3), at times t (S,) between the nodes of a followed law; `singular` (S,)
    is set where the branches lie too near to tell them apart."""
    from .kernels import branch

    q[:] = nodes.q[0]
    branch.evaluate(
        equations.table, equations.plan, equations.work(len(law.start)), t, law.start, law.slope, law.t0,
        nodes.t, nodes.q, nodes.v, nodes.a, q, v, a, wanted, singular,
    )


# -- following -------------------------------------------------------------------------------------------------------


def follow(drive: Drive, laws: Sequence[Law], q: Array, progress: Callable[[float], None] | None = None) -> Path:
    """The path from assembled positions q (P, 3) along the laws, up to their end or the first dead point.

    `progress` is told the share done, and may raise to cancel.
    """
    pieces: list[tuple[Law, Nodes]] = []
    for law in laws:
        walk = _Walk(drive, law, q)
        dead = walk.to_the_end(progress)
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
        self.work = self.equations.work(len(law.start))
        self.t = np.full(ROOM, law.t0)
        self.q, self.v, self.a = (np.zeros((ROOM, *q.shape)) for _ in range(3))
        self.last = self.fresh = 0
        self.regular = self.put(0, law.t0, q)

    def put(self, at: int, t: float, q: Array) -> float:
        """Sets a node at positions that are nearly on the rows; gives how regular the position is."""
        self.t[at], self.q[at] = t, q
        targets = self.law.targets(np.array([t]))[0]
        spread, self.v[at], self.a[at], self.signs = self.equations.settle(self.q[at], targets, self.law.slope)
        return spread

    def nodes(self) -> Nodes:
        """The nodes so far."""
        end = self.last + 1
        return Nodes(self.t[:end], self.q[:end], self.v[:end], self.a[:end])

    def grow(self) -> None:
        """Makes room for more nodes."""
        if self.last > MAX_NODES:
            raise RuntimeError("the motion needs more positions than can be followed")
        self.t = np.concatenate((self.t, np.zeros(len(self.t))))
        self.q, self.v, self.a = (np.concatenate((each, np.zeros_like(each))) for each in (self.q, self.v, self.a))

    def to_the_end(self, progress: Callable[[float], None] | None) -> DeadPoint | None:
        """Follows the law to its end, or to a dead point."""
        from .kernels import following

        law = self.law
        fastest = float(np.abs(law.slope).max(initial=0.0))
        if self.equations.columns == 0 or fastest == 0.0:
            self.last = 1
            self.t[1], self.q[1] = law.t1, self.q[0]
            return None
        longest = min(LARGEST_TURN / fastest, law.t1 - law.t0)
        if self.regular < DOUBTFUL and not self.leave(1e-3 / fastest):
            return DeadPoint(law.t0, self.q[0].copy())
        step = longest / 2 if self.last == 0 else longest / 16
        while True:
            status, self.last, step = following.advance(
                self.equations.table, self.equations.plan, self.work, law.start, law.slope, law.t0, law.t1, longest,
                SMALLEST * longest, self.t, self.q, self.v, self.a, self.signs, self.last, self.fresh, step,
            )
            if progress is not None:
                progress(float((self.t[self.last] - law.t0) / (law.t1 - law.t0)))
            if status == ARRIVED:
                return None
            if self.last + 2 >= len(self.t):
                self.grow()
            if status == STUCK:
                dead = self.along_arc()
                if dead is not None:
                    return dead
                step = longest / 16

    def leave(self, h: float) -> bool:
        """Leaves a position in which the motion could go on in two ways (a parallelogram placed flat), or none: puts a
        node a step h on, on the way in which the bodies that no joint ties to the frame turn least. Whether there is
        a way."""
        law, equations = self.law, self.equations
        if law.t0 + h >= law.t1:
            return False
        for tangent in self._tangents():
            ahead = self.q[0].copy()
            equations.spread(ahead, h * tangent)
            if self.put(1, law.t0 + h, ahead) > 1e-7:
                off = self.v[1, equations.unknown].ravel() - tangent
                if np.abs(off).max() < 0.1 * np.abs(tangent).max():
                    self.v[0, equations.unknown] = tangent.reshape(-1, 3)
                    self.last = self.fresh = 1
                    return True
        return False

    def _tangents(self) -> list[Array]:
        """The velocities (columns,) with which the start can be left, the likelier first: J v = s has the solutions
        v + α n, and α must let the accelerations exist, l · γ(v + α n) = 0 with l J = 0, a quadratic equation."""
        equations = self.equations
        _, jac = equations.linear(self.q[:1], self.law.targets(np.array([self.law.t0])))
        left, size, right = np.linalg.svd(jac[0])
        if size[-2:-1] < DOUBTFUL * size[0]:
            return []  # more than one motion opens here
        right_side = equations.targets_rate(self.law.slope)
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
        """Where time steps fail: follow the arc of the motion itself. Time turns back there at a dead point, which is
        located; otherwise the motion goes on behind a change point, and a node is put there."""
        from scipy.optimize import brentq

        arc = _Arc(self.drive, self.law, float(self.t[self.last]), self.q[self.last], self.v[self.last])
        start, low, high = arc.t, 0.0, 1e-4
        while high < 0.3:
            reached = arc.point(high)
            if reached is None:
                break
            if reached[2] <= 0:
                found = brentq(lambda s: (arc.point(s) or (None, 0.0, 0.0))[2], low, high, xtol=1e-13, rtol=1e-14)
                located = arc.point(found)
                if located is None:
                    break
                return DeadPoint(max(float(located[1]), start), located[0])
            if reached[1] >= self.law.t1:  # the motion ends where it could go on in two ways
                there = brentq(lambda s: (arc.point(s) or (None, np.inf))[1] - self.law.t1, low, high, xtol=1e-13)
                end = arc.point(there)
                if end is not None:
                    self.last += 1
                    if self.put(self.last, self.law.t1, end[0]) < DOUBTFUL:
                        self.q[self.last] = end[0]
                        self.v[self.last], self.a[self.last] = self.v[self.last - 1], self.a[self.last - 1]
                    return None
            if (reached[1] - start) * arc.weight > 1e-3 and reached[1] < self.law.t1:
                behind = self.last + 1
                if self.put(behind, reached[1], reached[0]) > 1e-7:
                    self.last = self.fresh = behind  # nothing is extrapolated across the change point
                    return None
            low, high = high, 1.7 * high
        return DeadPoint(start, self.q[self.last].copy())


class _Arc:
    """The motion from a node as a curve in positions and time together, on which a dead point is a regular point."""

    def __init__(self, drive: Drive, law: Law, t: float, q: Array, v: Array):
        self.equations, self.law, self.t, self.q = drive.equations, law, t, q
        self.weight = float(np.abs(law.slope).max())  # one unit of arc in time moves the driver by one
        tangent = np.append(v[self.equations.unknown].ravel(), self.weight)
        self.tangent = tangent / np.linalg.norm(tangent)
        self.rate = self.equations.targets_rate(law.slope) / self.weight

    def point(self, arc: float) -> tuple[Array, float, float] | None:
        """Position, time and rate of (weighted) time at an arc length from the node, or None."""
        equations, tangent = self.equations, self.tangent
        q, t = self.q.copy(), self.t + arc * tangent[-1] / self.weight
        equations.spread(q, arc * tangent[:-1])
        bordered = np.zeros((equations.rows + 1, equations.columns + 1))
        gone = np.zeros(equations.columns + 1)
        residual = np.zeros((1, equations.rows))
        for _ in range(25):
            residual, jac = equations.linear(q[None], self.law.targets(np.array([t])))
            bordered[:-1, :-1], bordered[:-1, -1], bordered[-1] = jac[0], -self.rate, tangent
            step = np.linalg.lstsq(bordered, np.append(residual[0], tangent @ gone), rcond=1e-12)[0]
            gone -= step
            equations.spread(q, -step[:-1])
            t -= step[-1] / self.weight
            if np.abs(step).max() < 1e-13:
                break
        if not np.abs(gone).max() < max(10 * arc, 1e-6) or np.abs(residual).max() > 1e-9:
            return None
        ahead = np.linalg.lstsq(bordered, np.append(np.zeros(equations.rows), 1.0), rcond=1e-12)[0]
        return q, t, float(ahead[-1] / np.linalg.norm(ahead))
