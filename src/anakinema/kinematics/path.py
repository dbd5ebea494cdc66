"""One branch of the motion, followed continuously: nodes by a tangent predictor, any time between them in one batch.

`follow` walks along the drivers' law with steps as long as the second-order prediction holds, and never accepts a
position whose tangent is not the continuation of the last one, so the mirror configuration is never taken. `Path`
then gives positions and rates at any times at once: quintic Hermite guess between the nodes, Newton, block by block.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import brentq

from .drive import Drive, Law
from .equations import Equations, Factors
from .rows import Array, Mask

LARGEST_TURN = np.radians(36.0)
"""Longest step, as motion of a driver (rad, or typical lengths)."""
PREDICTED = 6e-3
"""Largest error of a prediction that is accepted (typical lengths or rad)."""
TANGENT = 0.35
"""Largest change of the tangent that the prediction did not foresee, relative to it."""
SMALLEST = 1e-6
"""Step, relative to the longest, below which the way on is looked for along the arc of the motion."""
SETTLED = 1e-12
MAX_NODES = 200_000


@dataclass(frozen=True)
class Node:
    """Positions and their time derivatives (P, 3) at a time; `factors` of the Jacobian there or very near."""

    t: float
    q: Array
    v: Array
    a: Array
    factors: Factors


@dataclass(frozen=True)
class DeadPoint:
    """Where a branch ends: the time, and the positions."""

    t: float
    q: Array


class Path:
    """A followed branch: nodes at times `t` (K,) with positions `q`, velocities `v`, accelerations `a` (K, P, 3)."""

    def __init__(self, drive: Drive, pieces: Sequence[tuple[Law, list[Node]]], dead: DeadPoint | None):
        self.drive = drive
        self.laws = [law for law, _ in pieces]
        self.piece_nodes = [_stack(nodes) for _, nodes in pieces]
        self.dead = dead
        self.t0 = self.laws[0].t0
        last = pieces[-1][1][-1].t
        self.last_regular = last
        self.t1 = dead.t if dead else last
        self.iterations = 0

    @property
    def node_times(self) -> Array:
        """All node times, ascending."""
        return np.unique(np.concatenate([t for t, *_ in self.piece_nodes]))

    @property
    def node_positions(self) -> Array:
        """(K, P, 3) positions at the nodes of all pieces, in order of time."""
        return np.concatenate([q for _, q, _, _ in self.piece_nodes])

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
        ends = np.array([law.t1 for law in self.laws[: len(self.piece_nodes) - 1]])
        return np.searchsorted(ends, t, side="left")

    def at(self, t: Array) -> tuple[Array, Array, Array]:
        """Positions, velocities, accelerations, each (S, P, 3), at times t (S,) within the path.

        At a dead point itself rates have no finite value: those of the last regular position are given.
        """
        q, v, a = self._evaluated(t, True)
        return q, v, a

    def positions(self, t: Array) -> Array:
        """Positions (S, P, 3) alone, in about half the time."""
        return self._evaluated(t, False)[0]

    def _evaluated(self, t: Array, with_rates: bool) -> tuple[Array, Array, Array]:
        t = np.atleast_1d(np.asarray(t, dtype=float))
        within = np.minimum(t, self.last_regular)
        if len(self.piece_nodes) == 1:
            q, v, a = self._at_piece(0, within, with_rates)
        else:
            piece = self._piece(within)
            shape = (t.size, *self.piece_nodes[0][1].shape[1:])
            q, v, a = np.empty(shape), np.empty(shape), np.empty(shape)
            for i in np.unique(piece):
                chosen = piece == i
                q[chosen], v[chosen], a[chosen] = self._at_piece(int(i), within[chosen], with_rates)
        if self.dead is not None and (at_end := t >= self.dead.t).any():
            q[at_end] = self.dead.q
        return q, v, a

    def _at_piece(self, piece: int, t: Array, with_rates: bool) -> tuple[Array, Array, Array]:
        law, nodes = self.laws[piece], self.piece_nodes[piece]
        q = hermite(t, *nodes)
        targets = law.targets(t)
        v, a = np.zeros_like(q), np.zeros_like(q)
        singular = np.zeros(t.size, dtype=bool)
        for block in self.drive.blocks:
            if block.columns:
                jac, wild = _settle(block, q, targets)
                singular |= wild
                if with_rates:
                    singular |= _rates(block, jac, q, v, a, law.slope)
        if singular.any():
            self._across(piece, t, q, v, a, singular)
        return q, v, a

    def _across(self, piece: int, t: Array, q: Array, v: Array, a: Array, singular: Mask) -> None:
        """Rates at a change point, where the Jacobian gives none: the limit from both sides (Richardson)."""
        nodes = self.piece_nodes[piece]
        low, high = nodes[0][0], nodes[0][-1]
        for i in np.flatnonzero(singular):
            reach = min(1e-3 * (high - low), (t[i] - low) / 2, (high - t[i]) / 2)
            if reach <= 1e-9 * (high - low):
                reach = 1e-3 * (high - low)
                around = t[i] + (reach if t[i] - low < high - t[i] else -reach) * np.array([1.0, 2.0, 3.0])
                weights = np.array([3.0, -3.0, 1.0])
            else:
                around = t[i] + reach * np.array([-2.0, -1.0, 1.0, 2.0])
                weights = np.array([-1.0, 4.0, 4.0, -1.0]) / 6
            beside, beside_v, beside_a = self._at_piece(piece, around, True)
            v[i], a[i] = np.tensordot(weights, beside_v, 1), np.tensordot(weights, beside_a, 1)
            q[i] = np.tensordot(weights, beside, 1) if not np.isfinite(q[i]).all() else q[i]


def _stack(nodes: list[Node]) -> tuple[Array, Array, Array, Array]:
    t = np.array([node.t for node in nodes])
    q, v, a = (np.array([getattr(node, name) for node in nodes]) for name in ("q", "v", "a"))
    return t, q, v, a


def hermite(t: Array, nodes_t: Array, q: Array, v: Array, a: Array) -> Array:
    """Quintic Hermite interpolation of nodes (K, …) at times t (S,)."""
    if nodes_t.size == 1:
        return np.repeat(q, t.size, axis=0)
    i = np.clip(np.searchsorted(nodes_t, t, side="right") - 1, 0, nodes_t.size - 2)
    h = nodes_t[i + 1] - nodes_t[i]
    s = np.where(h > 0, (t - nodes_t[i]) / np.where(h > 0, h, 1.0), 0.0)
    wide = (slice(None), *(None,) * (q.ndim - 1))
    s2, s3 = s * s, s * s * s
    s4, s5 = s2 * s2, s2 * s3
    weights = (
        (1 - 10 * s3 + 15 * s4 - 6 * s5, q[i]),
        (h * (s - 6 * s3 + 8 * s4 - 3 * s5), v[i]),
        (h * h * (s2 - 3 * s3 + 3 * s4 - s5) / 2, a[i]),
        (10 * s3 - 15 * s4 + 6 * s5, q[i + 1]),
        (h * (-4 * s3 + 7 * s4 - 3 * s5), v[i + 1]),
        (h * h * (s3 - 2 * s4 + s5) / 2, a[i + 1]),
    )
    found: Array = sum(weight[wide] * value for weight, value in weights)
    return found


def _settle(block: Equations, q: Array, targets: Array) -> tuple[Array, Mask]:
    """Newton for a block at all positions; q is changed in place. Returns the last Jacobians, and (S,) positions too
    near a change point for the Jacobian to tell the branches apart: there the guess is better than a wild step."""
    singular = np.zeros(len(q), dtype=bool)
    residual, jac = block.linear(q, targets)
    for _ in range(12):
        if np.abs(residual).max() <= SETTLED:
            break
        step = _batch_solve(jac, residual[..., None])[..., 0]
        wild = ~(np.abs(step).max(axis=1) < 0.1)
        if wild.any():
            step[wild] = 0.0
            singular |= wild
        block.spread(q, -step)
        residual, jac = block.linear(q, targets)
    return jac, singular


def _rates(block: Equations, jac: Array, q: Array, v: Array, a: Array, slope: Array) -> Mask:
    """Velocities and accelerations of a block's bodies, set in v and a. Returns (S,) which positions are singular."""
    inverse, singular = _batch_inverse(jac)
    unknown = block.unknown
    rhs = block.targets_rate(slope) - _known_rate(block, q, v)
    v[:, unknown] = np.einsum("sij,sj->si", inverse, rhs).reshape(len(q), -1, 3)
    rhs = -block.quadratic(q, v) - _known_rate(block, q, a)
    a[:, unknown] = np.einsum("sij,sj->si", inverse, rhs).reshape(len(q), -1, 3)
    return singular


def _known_rate(block: Equations, q: Array, rates: Array) -> Array:
    """What the motion of the bodies known to a block adds to the rate of its rows; the unknown ones count as still."""
    if not block.has_moving_neighbours:
        return np.zeros((len(q), block.rows))
    still = rates.copy()
    still[:, block.unknown] = 0.0
    return block.rate(q, still)


def _batch_solve(jac: Array, rhs: Array) -> Array:
    rows, columns = jac.shape[1:]
    solved: Array
    try:
        if rows == columns:
            solved = np.linalg.solve(jac, rhs)
        else:
            orthogonal, upper = np.linalg.qr(jac)
            solved = np.linalg.solve(upper, np.swapaxes(orthogonal, 1, 2) @ rhs)
    except np.linalg.LinAlgError:
        solved = np.linalg.pinv(jac, rcond=1e-9) @ rhs
    return solved


def _batch_inverse(jac: Array) -> tuple[Array, Mask]:
    """(S, columns, rows) inverses and (S,) which are singular. A joint pattern's size is the measure of singular."""
    rows, columns = jac.shape[1:]
    inverse: Array
    try:
        if rows == columns:
            inverse = np.linalg.inv(jac)
        else:
            orthogonal, upper = np.linalg.qr(jac)
            inverse = np.linalg.solve(upper, np.swapaxes(orthogonal, 1, 2))
    except np.linalg.LinAlgError:
        inverse = np.linalg.pinv(jac, rcond=1e-9)
        least = np.linalg.svd(jac, compute_uv=False)[:, -1]
        return inverse, least < 1e-8
    return inverse, ~(np.abs(inverse).max(axis=(1, 2)) < 1e8)


# -- following -------------------------------------------------------------------------------------------------------


def follow(drive: Drive, laws: Sequence[Law], q: Array, progress: Callable[[float], None] | None = None) -> Path:
    """The path from assembled positions q (P, 3) along the laws, up to their end or the first dead point.

    `progress` is told the share done, and may raise to cancel.
    """
    pieces: list[tuple[Law, list[Node]]] = []
    for law in laws:
        nodes, dead = _follow_piece(drive, law, q, progress)
        pieces.append((law, nodes))
        if dead is not None:
            return Path(drive, pieces, dead)
        q = nodes[-1].q
    return Path(drive, pieces, None)


def _follow_piece(
    drive: Drive, law: Law, q: Array, progress: Callable[[float], None] | None
) -> tuple[list[Node], DeadPoint | None]:
    node = _start(drive, law, q)
    nodes = [node]
    if drive.equations.columns == 0 or not law.slope.any():
        return [node, replace(node, t=law.t1)], None
    longest = min(LARGEST_TURN / float(np.abs(law.slope).max()), law.t1 - law.t0)
    step, fresh = longest / 2, 0
    while node.t < law.t1:
        if len(nodes) > MAX_NODES:
            raise RuntimeError("the motion needs more positions than can be followed")
        left = law.t1 - node.t
        h = left if left < 1.01 * step else min(step, left / 2 if left < 2 * step else step)
        before = nodes[-2] if len(nodes) - 1 > fresh else None
        following, stretch = _try_step(drive, law, before, node, h)
        if following is not None:
            node = following
            nodes.append(node)
            step = min(longest, h * stretch)
            if progress is not None:
                progress((node.t - law.t0) / (law.t1 - law.t0))
            continue
        step = h * stretch
        if step < SMALLEST * longest:
            turned = _along_arc(drive, law, node)
            if isinstance(turned, DeadPoint):
                return nodes, turned
            node = turned
            fresh = len(nodes)  # nothing is extrapolated across the change point
            nodes.append(node)
            step = longest / 16
    return nodes, None


def _start(drive: Drive, law: Law, q: Array) -> Node:
    equations = drive.equations
    q = q.copy()
    targets = law.targets(np.array([law.t0]))[0]
    if equations.columns == 0:
        still = np.zeros_like(q)
        return Node(law.t0, q, still, still, Factors(lambda rhs: rhs, np.ones(1), None))
    for _ in range(4):
        residual, factors = equations.factored(q, targets)
        if np.abs(residual).max() <= SETTLED:
            break
        equations.spread(q[None], -factors.solve(residual)[None])
    return _with_rates(drive, law, law.t0, q, factors)


def _with_rates(drive: Drive, law: Law, t: float, q: Array, factors: Factors) -> Node:
    equations = drive.equations
    v, a = np.zeros_like(q), np.zeros_like(q)
    v[equations.unknown] = factors.solve(equations.targets_rate(law.slope)).reshape(-1, 3)
    a[equations.unknown] = factors.solve(-equations.quadratic(q[None], v[None])[0]).reshape(-1, 3)
    return Node(t, q, v, a, factors)


def _predicted(before: Node | None, node: Node, h: float) -> Array:
    """Positions a step ahead: the quintic through the last two nodes carried on, or the second-order Taylor step."""
    if before is None:
        return node.q + h * (node.v + (h / 2) * node.a)
    span = node.t - before.t
    s = 1 + h / span
    s2, s3 = s * s, s * s * s
    s4, s5 = s2 * s2, s2 * s3
    ahead = 10 * s3 - 15 * s4 + 6 * s5
    found: Array = (
        (1 - ahead) * before.q
        + ahead * node.q
        + span * ((s - 6 * s3 + 8 * s4 - 3 * s5) * before.v + (-4 * s3 + 7 * s4 - 3 * s5) * node.v)
        + span * span / 2 * ((s2 - 3 * s3 + 3 * s4 - s5) * before.a + (s3 - 2 * s4 + s5) * node.a)
    )
    return found


def _try_step(drive: Drive, law: Law, before: Node | None, node: Node, h: float) -> tuple[Node | None, float]:
    """One step of length h, or None; and by how much to stretch the next one."""
    equations, t = drive.equations, node.t + h
    if abs(t - law.t1) < 1e-12 * (law.t1 - law.t0):
        t = law.t1
    q = _predicted(before, node, h)
    targets = law.targets(np.array([t]))[0]
    error, size = 0.0, np.inf
    for _ in range(5):
        residual, factors = equations.factored(q, targets)
        change = factors.solve(residual)
        now = float(np.abs(change).max())
        if not (now < 0.5 * size or now < 1e-9):
            return None, 0.5
        error, size = error + now, now
        if error > PREDICTED:
            return None, max(0.3, 0.9 * (PREDICTED / error) ** 0.25)
        equations.spread(q[None], -change[None])
        if size < 1e-4:  # convergence is quadratic: what is left is about 1e-8
            break
    else:
        return None, 0.5
    if equations.rows > equations.columns and np.abs(residual).max() > max(10 * size, 1e-8):
        return None, 0.5  # least squares came to rest without closing the joints
    if factors.spread < 1e-7:
        return None, 0.77  # too near to a singular position to go on from it
    following = _with_rates(drive, law, t, q, factors)
    speed = float(np.abs(following.v).max()) + float(np.abs(node.v).max())
    foreseen = float(np.abs(following.v - node.v - (h / 2) * (node.a + following.a)).max())
    if foreseen > TANGENT * speed / 2:
        return None, 0.5
    if factors.sign * node.factors.sign < 0 and (foreseen > 0.05 * speed or error > 1e-3):
        return None, 0.5  # crossing a change point must be smooth, or it is a jump to the mirror branch
    return following, min(2.0, 0.9 * (PREDICTED / max(error, 1e-9)) ** 0.2)


def _along_arc(drive: Drive, law: Law, node: Node) -> DeadPoint | Node:
    """Where time steps fail: follow the arc of the motion itself. Time turns back there at a dead point, which is
    located; otherwise the motion goes on behind a change point, and a node there is given."""
    equations = drive.equations
    weight = float(np.abs(law.slope).max())  # one unit of arc in time moves the driver by one
    tangent = np.append(node.v[equations.unknown].ravel(), weight)
    tangent /= np.linalg.norm(tangent)
    rate = equations.targets_rate(law.slope) / weight

    def point(arc: float) -> tuple[Array, float, float] | None:
        """Position, time and rate of (weighted) time at an arc length from the node, or None."""
        q, t = node.q.copy(), node.t + arc * tangent[-1] / weight
        equations.spread(q[None], (arc * tangent[:-1])[None])
        bordered = np.zeros((equations.rows + 1, equations.columns + 1))
        gone = np.zeros(equations.columns + 1)
        for _ in range(25):
            residual, jac = equations.linear(q[None], law.targets(np.array([t])))
            bordered[:-1, :-1], bordered[:-1, -1], bordered[-1] = jac[0], -rate, tangent
            step = np.linalg.lstsq(bordered, np.append(residual[0], tangent @ gone), rcond=1e-12)[0]
            gone -= step
            equations.spread(q[None], -step[None, :-1])
            t -= step[-1] / weight
            if np.abs(step).max() < 1e-13:
                break
        if not np.abs(gone).max() < max(10 * arc, 1e-6) or np.abs(residual).max() > 1e-9:
            return None
        ahead = np.linalg.lstsq(bordered, np.append(np.zeros(equations.rows), 1.0), rcond=1e-12)[0]
        return q, t, float(ahead[-1] / np.linalg.norm(ahead))

    low, high = 0.0, 1e-4
    while high < 0.3:
        reached = point(high)
        if reached is None:
            break
        if reached[2] <= 0:
            arc = brentq(lambda s: (point(s) or (None, 0.0, 0.0))[2], low, high, xtol=1e-13, rtol=1e-14)
            located = point(arc)
            if located is None:
                break
            return DeadPoint(max(float(located[1]), node.t), located[0])
        if (reached[1] - node.t) * weight > 1e-3:
            _, factors = equations.factored(reached[0], law.targets(np.array([reached[1]]))[0])
            if factors.spread > 1e-7 and reached[1] < law.t1:
                return _with_rates(drive, law, reached[1], reached[0], factors)
        low, high = high, 1.7 * high
    return DeadPoint(node.t, node.q)
