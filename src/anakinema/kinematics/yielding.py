"""Who gives way: which of the rows that may hold do hold, and what moves, decided by the movement alone.

The order is: joints, limits and contacts hold; drivers go; what is free moves least; a rest moves its own joint, and is
weaker than a free part, unless it pushes. So three problems of least squares with rows that hold one way are solved one
after the other, each leaving to the next only what it does not care for: what pushing rests do, what free parts do, and
what the other rests do. A row holds where one of them needs it: where its multiplier is positive.

Each is brought to a problem of least distance and that to one of least squares without negative unknowns (C. L. Lawson,
R. J. Hanson, "Solving Least Squares Problems", 1974, chapter 23), which also tells by what rows nothing is left.
"""

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..disjoint_set import DisjointSet
from ..document.model import Document
from .drive import Drive
from .equations import Equations
from .leaving import tied
from .reaches import weighed
from .unilateral import Unilateral

HURRY = 1e4
"""How much faster than the drivers a rest would go that nothing holds."""
SPRUNG = 1e-9
"""What the movement of a part weighs that hangs on a rest, beside that of a free one."""
PUSHES = 1e9
"""What a rest that pushes presses beside one that does not."""
FIRM = 1e6
"""What it weighs to move a joint from a rest that pushes."""
HOLDS, STILL = 1e-7, 1e-6
"""Multiplier from which a row holds; rate up to which a joint stays at its rest (the drivers' being 1)."""


TOO_FAST = 3e4
"""Rate from which nothing follows what pushes it (the drivers' being 1)."""
DECIDED = 1e-6
"""How far a row may be off that nothing is left to change."""


@dataclass(frozen=True)
class Decision:
    """What moves and what holds: velocities `v` (P, 3) for drivers of pace 1, the numbers of the rows that hold, the
    rests at which joints stay, the rest to which a joint falls at once, and the rows that leave nothing a way on."""

    v: Array
    held: tuple[int, ...] = ()
    at_rest: frozenset[int] = frozenset()
    falls: int | None = None
    jam: tuple[int, ...] = ()
    loaded: tuple[int, ...] = ()
    """Those of the rows that hold because of what free parts weigh; on all others only rests press."""


class Yielding:
    """Decides for one drive."""

    def __init__(self, document: Document, drive: Drive, reaches: Array, rows: int | None = None):
        """The first `rows` of the drive are those of joints and drivers."""
        system = drive.system
        self.drive, self.moving, self.bodies = drive, list(system.moving), len(system.body_ids)
        count = system.constraints.rows + len(drive.drivers) if rows is None else rows
        self.base = list(drive.equations.specs[:count])
        """The rows of joints and drivers."""
        self.equations = Equations(self.base, self.moving, self.bodies)
        coordinates = system.coordinates
        self.rests = [coordinates.specs[coordinates.index(joint)] for joint in drive.rests]
        self.pushes = [document.joints[joint].limits.pushes for joint in drive.rests]
        self.rest_rows = Equations(self.rests, self.moving, self.bodies)
        self._about = np.ascontiguousarray(reaches[self.moving])
        free = set(self.moving)
        ties = DisjointSet()
        for spec in self.base:
            there = [str(side) for term in spec.terms for side in (term.a, term.b) if side in free]
            for other in there[1:]:
                ties.tie(there[0], other)
        heads: dict[str, list[int]] = {}
        for body in self.moving:
            heads.setdefault(ties.head(str(body)), []).append(body)
        self.clusters = list(heads.values())
        """Bodies that hang together by joints and drivers."""
        self._cluster = {body: number for number, cluster in enumerate(self.clusters) for body in cluster}
        self._rows: list[list[int]] = [[] for _ in self.clusters]
        self.driven: set[int] = set()
        """Clusters that drivers move."""
        for number, spec in enumerate(self.base):
            body = next(side for term in spec.terms for side in (term.a, term.b) if side in free)
            self._rows[self._cluster[body]].append(number)
            if spec.target >= 0:
                self.driven.add(self._cluster[body])
        self._place = {body: 3 * number for number, body in enumerate(self.moving)}
        alike: dict[tuple[int, int], list[int]] = {}
        for number, cluster in enumerate(self.clusters):
            alike.setdefault((len(self._rows[number]), len(cluster)), []).append(number)
        self._alike = [
            (np.array([self._rows[number] for number in numbers], dtype=np.intp).reshape(len(numbers), rows),
             np.array([[self._place[body] + c for body in self.clusters[k] for c in range(3)] for k in numbers]))
            for (rows, _), numbers in alike.items()
        ]  # fmt: skip
        """The rows and columns of clusters of one size, side by side."""
        self.sprung: frozenset[int] = frozenset()
        """Bodies that hang on a rest."""
        self._kept: dict[tuple[int, ...], tuple[Equations, tuple[Unilateral, ...]]] = {}

    def place_rests(self, q: Array) -> None:
        """Finds what hangs on the rests, at positions q (P, 3)."""
        if not self.rests:
            return
        space = self._space(q, np.zeros(max(len(self.drive.drivers), 1)))[0]
        rests = self._jacobian(self.rest_rows, q)
        moved = np.abs(space @ np.linalg.pinv(rests @ space)).max(axis=1) > 1e-9
        found = {body for body in self.moving if moved[self._place[body] : self._place[body] + 3].any()}
        for number, cluster in enumerate(self.clusters):
            columns = [c for body in cluster for c in range(self._place[body], self._place[body] + 3)]
            own = np.linalg.matrix_rank(space[columns], tol=1e-9) if space.shape[1] else 0
            if own and own == np.linalg.matrix_rank(rests[:, columns] @ space[columns], tol=1e-9):
                found |= set(cluster)  # nothing in it is free but by its rests
            elif number in self.driven and not own:
                found -= set(cluster)
        self.sprung = frozenset(found)

    def hanging(self, number: int) -> set[int]:
        """The bodies that hang together with the joint of a rest."""
        sides = {side for term in self.rests[number].terms for side in (term.a, term.b)}
        return {body for cluster in self.clusters if sides & set(cluster) for body in cluster} & self.sprung

    def at_rests(self, q: Array) -> Array:
        """What the rows of the rests have at positions q (P, 3)."""
        found: Array = self.rest_rows.values(q[None])[0]
        return found

    def speeds(self, q: Array, v: Array, rows: Sequence[Unilateral]) -> Array:
        """How fast gaps open at positions and velocities (P, 3)."""
        along = self._jacobian(self._of(rows), q)
        found: Array = along @ self._flat(v) * np.array([row.sense for row in rows], dtype=float)
        return found

    def decides(self, equations: Equations, q: Array) -> bool:
        """Whether rows leave nothing free at positions q (P, 3)."""
        if equations.rows < equations.columns:
            return False
        if equations.rows == equations.columns:
            targets = np.zeros(equations.targets)
            driven = equations.table.target >= 0
            targets[equations.table.target[driven]] = equations.values(q[None])[0][driven]
            return bool(equations.settle(q.copy(), targets, 0 * targets, 0 * targets)[0] > 1e-9)
        return bool(np.linalg.matrix_rank(self._jacobian(equations, q), tol=1e-9) == equations.columns)

    def undecided(self, equations: Equations, q: Array, later: Array) -> tuple[int, ...]:
        """The bodies that no joint ties to the frame of which rows leave it open how they set out from positions
        q (P, 3), though they decide where they are `later`: only the least movement tells."""
        if equations.rows < equations.columns:
            return ()
        _, size, right = np.linalg.svd(self._jacobian(equations, q))
        rank = int((size > 1e-9 * size.max(initial=0.0)).sum())
        if rank == equations.columns or not self.decides(equations, later):
            return ()
        ways = np.abs(right[rank:]).reshape(-1, len(equations.unknown), 3).max(axis=(0, 2))
        open_ones = equations.unknown[ways > 1e-6]
        return tuple(int(body) for body in open_ones if not tied(equations)[body])

    def _of(self, rows: Sequence[Unilateral]) -> Equations:
        """The rows as equations; those of the last few that were asked for are kept."""
        key = tuple(map(id, rows))
        if key not in self._kept:
            if len(self._kept) > 8:
                self._kept.clear()
            self._kept[key] = Equations([row.spec for row in rows], self.moving, self.bodies), tuple(rows)
        return self._kept[key][0]

    def _jacobian(self, equations: Equations, q: Array) -> Array:
        if not equations.rows:
            return np.zeros((0, equations.columns))
        return np.asarray(equations.linear(q[None], np.zeros((1, equations.targets)))[1][0], dtype=float)

    def _space(self, q: Array, rates: Array) -> tuple[Array, Array]:
        """What joints and drivers leave free at q: directions (N, K) in which all may move, and what moves (N,) when
        only drivers do, at their rates."""
        jac = self._jacobian(self.equations, q)
        wanted = self.equations.targets_rate(rates) if self.equations.rows else np.zeros(0)
        columns = 3 * len(self.moving)
        moved, ways = np.zeros(columns), []
        for rows, at in self._alike:
            left, size, right = np.linalg.svd(jac[rows[:, :, None], at[:, None, :]])
            free = np.zeros((len(at), at.shape[1]), dtype=np.bool_)
            free[:, : size.shape[1]] = size <= 1e-9 * size[:, :1] if size.size else True
            free[:, size.shape[1] :] = True
            kept = ~free[:, : size.shape[1]]
            by = np.where(kept, 1.0 / np.where(kept, size, 1.0), 0.0)
            solved = np.einsum("nrk,nr->nk", left[:, :, : size.shape[1]], wanted[rows]) * by
            moved[at] = np.einsum("nkc,nk->nc", right[:, : size.shape[1]], solved)
            which, way = np.nonzero(free)
            own = np.zeros((columns, which.size))
            own[at[which].T, np.arange(which.size)] = right[which, way].T
            ways.append(own)
        return (np.concatenate(ways, axis=1) if ways else np.zeros((columns, 0))), moved

    def _weights(self, q: Array) -> Array:
        """(N, N) what movement weighs; of what hangs on a rest nothing."""
        blocks = weighed(self._about, q[self.moving, 2])
        found = np.zeros((3 * len(self.moving),) * 2)
        for number, body in enumerate(self.moving):
            if body not in self.sprung:
                found[3 * number : 3 * number + 3, 3 * number : 3 * number + 3] = blocks[number]
        return found

    def decide(
        self, q: Array, rates: Array, rows: Sequence[Unilateral], either: Sequence[Sequence[int]],
        toward: Sequence[int], first: Sequence[int] = (),
    ) -> Decision:  # fmt: skip
        """What gives way at positions q (P, 3) when the drivers go at rates (D,) of pace 1. `rows` stand at their
        bounds; of those in a group of `either` one is enough. `toward` says of each rest which way it lies (±1), or 0
        where its joint stands at it; `first` are those rows of groups that are tried first."""
        space, moved = self._space(q, rates)
        along = self._jacobian(self._of(rows), q)
        along = along * np.array([row.sense for row in rows], dtype=float)[:, None]
        weights = self._weights(q)
        grouped = {number for group in either for number in group}
        chosen = [number for number in range(len(rows)) if number not in grouped or number in first]
        for _ in range(len(either) + 1):
            found = self._solved(q, space, moved, along, weights, chosen, toward)
            if found.jam:
                return found
            speeds = along @ self._flat(found.v)
            best = [(max(group, key=lambda number: speeds[number]), group) for group in either]
            broken = [one for one, group in best if speeds[one] < -1e-9 and not set(group) & set(chosen)]
            if not broken:
                return found
            chosen += broken
        return found

    def _flat(self, v: Array) -> Array:
        found: Array = v[self.moving].ravel()
        return found

    def _solved(
        self, q: Array, space: Array, moved: Array, along: Array, weights: Array, chosen: list[int],
        toward: Sequence[int],
    ) -> Decision:  # fmt: skip
        v = np.zeros_like(q)

        def spread(change: Array) -> Array:
            v[self.moving] = change.reshape(-1, 3)
            return v

        rows = along[chosen]
        ways, count = rows @ space, space.shape[1]
        if not count:
            jam = [chosen[k] for k in np.flatnonzero(rows @ moved < -1e-9).tolist()]
            return Decision(spread(moved), jam=tuple(jam), held=())
        rests = self._jacobian(self.rest_rows, q)
        rest_ways, rest_moved = rests @ space, rests @ moved
        sprung = np.ones(len(self.moving) * 3)
        for body in self.moving:
            if body not in self.sprung:
                sprung[self._place[body] : self._place[body] + 3] = 0.0
        cost = space.T @ weights @ space + SPRUNG * (space.T @ (sprung[:, None] * space))
        cost += SPRUNG * 1e-3 * np.eye(count)
        pull = -space.T @ (weights @ moved)
        held: set[int] = set()
        hard = np.zeros((0, count)), np.zeros(0)
        pushing = [k for k, pushes in enumerate(self.pushes) if pushes]
        if pushing:
            aim = np.array([HURRY * toward[k] for k in pushing])
            own, before = rest_ways[pushing], rest_moved[pushing]
            weight = np.where(aim == 0.0, FIRM, 1.0)
            x, force = least(
                own.T @ (weight[:, None] * own) + 1e-9 * cost + 1e-12 * np.eye(count),
                own.T @ (weight * (aim - before)), ways, -(rows @ moved), *hard,
            )  # fmt: skip
            if x is None:
                return Decision(v, jam=tuple(chosen[k] for k in np.flatnonzero(force > 1e-9).tolist()))
            if np.abs(space @ x).max() > HURRY * TOO_FAST:
                return Decision(v, jam=tuple(chosen[k] for k in np.flatnonzero(force > 0.0).tolist()))
            speeds = own @ x + before
            for k, speed in zip(pushing, speeds.tolist(), strict=True):
                if toward[k] and speed * toward[k] > HURRY / 2:
                    return Decision(spread(moved + space @ x), falls=k)
            firm = np.flatnonzero(force > HOLDS).tolist()
            held |= set(firm)
            stays = np.flatnonzero((aim == 0.0) & (np.abs(speeds) < STILL))
            hard = np.concatenate((ways[firm], own[stays])), np.concatenate((-(rows @ moved)[firm], -before[stays]))
        x, force = least(cost, pull, ways, -(rows @ moved), *hard)
        if x is None:
            return Decision(v, jam=tuple(chosen[k] for k in np.flatnonzero(force > 1e-9).tolist()))
        loaded = np.flatnonzero(force > HOLDS).tolist()
        if np.abs(space @ x).max() > TOO_FAST:  # a row that pushes toward a pivot, say: nothing goes on but by rounding
            return Decision(v, jam=tuple(chosen[k] for k in np.flatnonzero(force > 0.0).tolist()))
        held |= set(loaded)
        softly = [k for k, pushes in enumerate(self.pushes) if not pushes]
        if softly:
            _, size, right = np.linalg.svd(np.linalg.cholesky(weights + 1e-30 * np.eye(len(weights))).T @ space)
            size = np.concatenate((size, np.zeros(count - size.size)))
            give = right[size < 1e-7 * max(size.max(), 1e-300) if size.max() > 1e-12 else size < np.inf].T
            if give.shape[1]:
                own = rest_ways[softly] @ give
                aim = np.array([HURRY * toward[k] for k in softly])
                now = rest_moved[softly] + rest_ways[softly] @ x
                y, force = least(
                    own.T @ own + 1e-8 * np.eye(give.shape[1]), own.T @ (aim - now), ways @ give,
                    -(rows @ (moved + space @ x)), ways[loaded] @ give, np.zeros(len(loaded)),
                )  # fmt: skip
                if y is not None:
                    x = x + give @ y
                    held |= set(np.flatnonzero(force > 1e-6).tolist())
        v = spread(moved + space @ x)
        speeds = (rest_ways @ x + rest_moved).tolist()
        falls = [k for k in softly if toward[k] and speeds[k] * toward[k] > HURRY / 2]
        at_rest = frozenset(k for k, speed in enumerate(speeds) if not toward[k] and abs(speed) < STILL)
        return Decision(v, tuple(chosen[k] for k in sorted(held)), at_rest, falls[0] if falls else None,
                        loaded=tuple(chosen[k] for k in loaded))  # fmt: skip

    def stirred(self, q: Array, rows: Sequence[Unilateral], at_rest: Sequence[int]) -> list[int]:
        """The bodies that rows which hold, and drivers, may move at all, whatever their pace just now; all others stay
        where they are."""
        space, _ = self._space(q, np.zeros(max(len(self.drive.drivers), 1)))
        along = self._jacobian(self._of(rows), q) @ space
        rests = self._jacobian(self.rest_rows, q)[list(at_rest)] @ space
        weights = self._weights(q)
        count = space.shape[1]
        cost = space.T @ weights @ space + SPRUNG * np.eye(count)
        held = np.concatenate((along, rests))
        pace = np.concatenate((np.random.default_rng(3).uniform(1.0, 2.0, len(along)), np.zeros(len(rests))))
        matrix = np.block([[cost, held.T], [held, np.zeros((len(held),) * 2)]])
        wanted = np.concatenate((np.zeros(count), pace))
        try:
            x = np.linalg.solve(matrix, wanted)[:count]
        except np.linalg.LinAlgError:
            x = np.linalg.lstsq(matrix, wanted, rcond=1e-14)[0][:count]
        moves = np.abs(space @ x).reshape(-1, 3).max(axis=1, initial=0.0)
        found = []
        for number, cluster in enumerate(self.clusters):
            most = max(moves[self._place[body] // 3] for body in cluster)
            if number in self.driven or most > 1e-5 * moves.max(initial=0.0):
                found += cluster
        return sorted(found)

    def forces(
        self, q: Array, v: Array, equations: Equations, first: int, toward: Sequence[int]
    ) -> tuple[Array, Array]:
        """(H,) twice: how firmly the rows of equations from `first` on hold at positions and velocities (P, 3) of
        drivers of pace 1, for what free parts weigh, and for what rests press; below zero: they would have to pull."""
        jac = self._jacobian(equations, q)
        bodies = equations.unknown.tolist()
        blocks = weighed(self._about, q[self.moving, 2])
        push = np.zeros(3 * len(self.moving))
        for number, (way, row) in enumerate(zip(toward, self._jacobian(self.rest_rows, q), strict=True)):
            push += way * (PUSHES if self.pushes[number] else 1.0) * row
        wanted = np.zeros((2, len(bodies), 3))
        for number, body in enumerate(bodies):
            at = self._place[body]
            wanted[1, number] = -push[at : at + 3]
            if body not in self.sprung:
                wanted[0, number] = blocks[at // 3] @ v[body]
        sides = wanted.reshape(2, -1).T
        if jac.shape[0] == jac.shape[1]:
            with contextlib.suppress(np.linalg.LinAlgError):
                found: Array = np.asarray(np.linalg.solve(jac.T, sides)[first:], dtype=float)
                return found[:, 0], found[:, 1]
        found = np.asarray(np.linalg.lstsq(jac.T, sides, rcond=1e-11)[0][first:], dtype=float)
        return found[:, 0], found[:, 1]


def least(
    cost: Array, pull: Array, rows: Array, bounds: Array, hard: Array, values: Array
) -> tuple[Array | None, Array]:
    """The x of least ½ xᵀ cost x − pullᵀ x with rows x ≥ bounds and hard x = values, and the rows' multipliers; None,
    and how much each row has to do with it, where there is no such x."""
    from scipy.optimize import nnls

    inner, origin = np.eye(len(pull)), np.zeros(len(pull))
    if len(hard):
        left, size, right = np.linalg.svd(hard)
        rank = int((size > 1e-9 * max(size.max(initial=0.0), 1e-300)).sum())
        origin = right[:rank].T @ ((left[:, :rank].T @ values) / size[:rank])
        inner = right[rank:].T
    factor = np.linalg.cholesky(inner.T @ cost @ inner) if inner.size else np.zeros((0, 0))
    start = np.linalg.solve(factor, inner.T @ (pull - cost @ origin)) if inner.size else np.zeros(0)
    reduced = rows @ inner
    idle = np.linalg.norm(reduced, axis=1) <= 1e-9 * np.linalg.norm(rows, axis=1)  # what is hard decides them
    reduced[idle] = 0.0
    turned = np.linalg.solve(factor, reduced.T) if inner.size else np.zeros((0, len(rows)))
    short = bounds - rows @ origin - turned.T @ start
    short[idle & (short <= DECIDED)] = 0.0
    size = np.linalg.norm(turned, axis=0)
    shown = np.maximum(size, max(1e-7 * size.max(initial=0.0), 1e-12))
    if (short <= 1e-9 * np.maximum(shown, 1.0)).all():
        return origin + inner @ np.linalg.solve(factor.T, start), np.zeros(len(rows))
    scale = float(np.abs(short / shown).max())
    tall = np.concatenate((turned / shown, (short / shown / scale)[None]))
    aim = np.zeros(len(tall))
    aim[-1] = 1.0
    force, _ = nnls(tall, aim, maxiter=60 * len(shown) + 200)
    rest = tall @ force - aim
    apart = float(rest @ rest)
    if apart < 1e-14:
        return None, force / force.max(initial=1e-300)
    move = -rest[:-1] / rest[-1] * scale
    return origin + inner @ np.linalg.solve(factor.T, move + start), force / apart * scale / shown
