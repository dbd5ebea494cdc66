"""Following a branch: steps as long as the prediction holds, and never onto the mirror branch."""

import numpy as np

from ...arrays import Array, Index
from ...compiling import compiled, inner
from .blocks import block_rates, factor, fill, solve, take_off
from .branch import hermite
from .laws import commanded, pace, target_at
from .rows import worse
from .tables import ARRIVED, CROSSED, RUNNING, SETTLED, STUCK, Plan, Table, Workspace
from .terms import turned

PREDICTED = 6e-3
"""Largest error of a prediction that is accepted (typical lengths or rad)."""
TANGENT = 0.35
"""Largest change of the tangent that the prediction did not foresee, relative to it."""
SINGULAR = 1e-9
"""Least over largest diagonal of the triangular factor at which a position counts as singular."""
ROUNDING = 1e-9
"""Way of the bodies below which it does not matter how well it is interpolated (typical lengths or rad)."""
CREEP = 1e-3
"""How far the drivers move at most in a step from or to a rest."""


@inner
def _settled(
    table: Table, plan: Plan, work: Workspace, targets: Array, rates: Array, seconds: Array, q: Array, v: Array,
    a: Array, signs: Array, far: float, attempts: int,
) -> float:
    matrix, scale, rhs, turn = work.matrix, work.scale, work.rhs, work.turn
    turned(q, turn)
    regular = 1.0
    for n in range(len(plan.first) - 1):
        spread = 0.0
        for attempt in range(attempts):
            worst = fill(table, plan, n, q, turn, targets, matrix, rhs)
            spread, signs[n] = factor(plan, n, matrix, scale)
            if worst <= SETTLED or attempt == attempts - 1 or not spread > SINGULAR:
                break
            if not solve(plan, n, matrix, scale, rhs) < far:
                spread = 0.0
                break
            take_off(plan, n, q, turn, rhs)
        if plan.first[n + 1, 1] > plan.first[n, 1]:
            regular = min(regular, spread)
        if spread > SINGULAR:
            block_rates(table, plan, n, q, turn, v, a, rates, seconds, matrix, scale, rhs)
    return regular


@compiled
def settle(
    table: Table, plan: Plan, work: Workspace, targets: Array, rates: Array, seconds: Array, q: Array, v: Array,
    a: Array, signs: Array,
) -> float:
    """Brings positions q (P, 3) that are nearly there onto the rows, with their rates and the sign of each block's
    determinant. Gives the least spread of a block: near zero, q is singular and nothing but q is to be trusted."""
    return _settled(table, plan, work, targets, rates, seconds, q, v, a, signs, 0.1, 5)


@inner
def _ahead(
    bodies: Index, h: float, last: int, fresh: int, nodes_t: Array, q: Array, v: Array, a: Array, found: Array
) -> None:
    """Positions a step h ahead of node `last`: the quintic through the last two nodes carried on, or the second-order
    Taylor step where the node before belongs to another stretch (before `fresh`)."""
    if last <= fresh:
        for p in range(q.shape[1]):
            for c in range(3):
                found[p, c] = q[last, p, c] + h * (v[last, p, c] + h / 2 * a[last, p, c])
        return
    hermite(bodies, nodes_t[last] + h, last - 1, nodes_t, q, v, a, found)


@compiled
def advance(
    table: Table, plan: Plan, work: Workspace, law: Array, t0: float, t1: float,
    longest: float, smallest: float, rest: float,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array, signs: Array,
    last: int, fresh: int, step: float,
) -> tuple[int, int, float]:
    """Follows a branch from node `last`, as far as the node arrays have room: (status, last node, next step). A step is
    taken as long as its prediction holds; a position is accepted only when its tangent carries on the last one, so that
    the mirror configuration is never taken. STUCK: the step fell below `smallest`. CROSSED: a block changed its sign on
    the last step, as at a change point; but it may have gone over a place where the way ends, too narrow to be seen.

    Where the drivers together run slower than `rest` there is no tangent to compare; steps are short there instead."""
    matrix, scale, rhs, turn = work.matrix, work.scale, work.rhs, work.turn
    targets, rates, seconds = work.targets, work.rates, work.seconds
    q, v, a, now = work.q, work.v, work.a, work.signs
    while nodes_t[last] < t1:
        if last + 1 == len(nodes_t):
            return RUNNING, last, step
        left = t1 - nodes_t[last]
        h = left
        if left >= 1.01 * step:
            h = min(step, left / 2) if left < 2 * step else step
        t = t1 if h == left else nodes_t[last] + h
        _ahead(plan.bodies, h, last, fresh, nodes_t, nodes_q, nodes_v, nodes_a, q)
        turned(q, turn)
        commanded(law, t - t0, targets, rates, seconds)
        stretch, error = 1.0, 0.0
        for n in range(len(plan.first) - 1):
            stretch, gone, now[n] = _corrected(
                table, plan, n, q, turn, v, a, targets, rates, seconds, matrix, scale, rhs
            )
            error = max(error, gone)
            if stretch < 1.0:
                break
        if stretch == 1.0:
            before, after = pace(law, nodes_t[last] - t0), pace(law, t - t0)
            if before[0] <= rest or after[0] <= rest:
                smooth = _moved(law, nodes_t[last] - t0, targets) <= CREEP
            else:
                smooth = _carries_on(
                    plan, h, error, v, a, after, nodes_v[last], nodes_a[last], before, now, signs
                )
            if not smooth:
                stretch = 0.5
        if stretch < 1.0:
            step = h * stretch
            if step < smallest:
                return STUCK, last, step
            continue
        last += 1
        nodes_t[last] = t
        for p in range(len(q)):
            for c in range(3):
                nodes_q[last, p, c], nodes_v[last, p, c], nodes_a[last, p, c] = q[p, c], v[p, c], a[p, c]
        crossed = _differ(now, signs)
        for n in range(len(signs)):
            signs[n] = now[n]
        step = min(longest, h * min(2.0, 0.9 * (PREDICTED / max(error, 1e-9)) ** 0.2))
        if crossed:
            return CROSSED, last, step
    return ARRIVED, last, step


@inner
def _differ(now: Array, signs: Array) -> bool:
    """Whether a block's sign is another than it was."""
    least = 0.0
    for n in range(len(signs)):
        least = min(least, now[n] * signs[n])
    return least < 0.0


@inner
def _corrected(
    table: Table, plan: Plan, n: int, q: Array, turn: Array, v: Array, a: Array, targets: Array, rates: Array,
    seconds: Array, matrix: Array, scale: Array, rhs: Array,
) -> tuple[float, float, float]:
    """Corrects a block's prediction: (1, or by how much to shorten the step; error of the prediction; sign)."""
    rows = plan.first[n + 1, 0] - plan.first[n, 0]
    columns = 3 * (plan.first[n + 1, 1] - plan.first[n, 1])
    error, size, settled = 0.0, np.inf, False
    for _ in range(6):
        worst = fill(table, plan, n, q, turn, targets, matrix, rhs)
        spread, sign = factor(plan, n, matrix, scale)
        if settled or worst <= SETTLED:
            if rows > columns and worst > max(10 * size, 1e-8):
                return 0.5, error, sign  # least squares came to rest without closing the joints
            if columns and not spread > 1e-7:
                return 0.77, error, sign  # too near to a singular position to go on from it
            block_rates(table, plan, n, q, turn, v, a, rates, seconds, matrix, scale, rhs)
            return 1.0, error, sign
        change = solve(plan, n, matrix, scale, rhs)
        if not (change < 0.5 * size or change < 1e-9):
            return 0.5, error, sign
        error, size = error + change, change
        if error > PREDICTED:
            return max(0.3, 0.9 * (PREDICTED / error) ** 0.25), error, sign
        take_off(plan, n, q, turn, rhs)
        settled = size < 1e-4  # convergence is quadratic: what is left is about 1e-8
    return 0.5, error, 1.0


@inner
def _moved(law: Array, s: float, targets: Array) -> float:
    """How far the drivers have moved to their targets (D,) since a time."""
    most = 0.0
    for d in range(len(law)):
        before, _, _ = target_at(law, d, s)
        most = max(most, abs(targets[d] - before))
    return most


@inner
def _carries_on(
    plan: Plan, h: float, error: float, v: Array, a: Array, paced: tuple[float, float],
    last_v: Array, last_a: Array, last_paced: tuple[float, float], now: Array, signs: Array,
) -> bool:
    """Whether a position's tangent is the continuation of the last one's: not by time but by the way of the drivers,
    so that it does not matter how fast they run. With their pace p, the tangent is v / p and bends by
    (a − v p'/p) / p² a unit of that way."""
    (speed_now, gain_now), (speed_before, gain_before) = paced, last_paced
    way = h / 2 * (speed_before + speed_now)
    speed, fast, unforeseen = 0.0, 0.0, 0.0
    for body in plan.bodies:
        for c in range(3):
            here, there = v[body, c] / speed_now, last_v[body, c] / speed_before
            bend = (a[body, c] - here * gain_now) / (speed_now * speed_now)
            bend += (last_a[body, c] - there * gain_before) / (speed_before * speed_before)
            fast, speed = max(fast, abs(there)), max(speed, abs(here))
            unforeseen = worse(unforeseen, here - there - way / 2 * bend)
    speed += fast
    if not unforeseen <= TANGENT * speed / 2:
        return False
    for n in range(len(signs)):
        # Crossing a change point must be smooth, or it is a jump to the mirror branch.
        if now[n] * signs[n] < 0.0 and (unforeseen > 0.05 * speed or error > 1e-3):
            return False
    return True


@compiled
def between(
    table: Table, plan: Plan, work: Workspace, law: Array, t0: float, shares: Array,
    nodes_t: Array, nodes_q: Array, nodes_v: Array, nodes_a: Array, signs: Array, near: Array, found: Array,
) -> None:
    """How well the nodes (K, P, 3) of a stretch tell what lies between them: fills `signs` (K, B) with those of the
    nodes, and `found` (K − 1,), for each interval, with how far off their interpolation is at `shares` of it, as a
    share of the way that bodies go in it; infinite where it leads onto another branch. `near` (P, 3) is room to work
    in."""
    q, now = work.q, work.signs
    for k in range(len(nodes_t)):
        for p in range(len(q)):
            for c in range(3):
                q[p, c] = nodes_q[k, p, c]
        commanded(law, nodes_t[k] - t0, work.targets, work.rates, work.seconds)
        _settled(
            table, plan, work, work.targets, work.rates, work.seconds, q, work.v, work.a, signs[k], 0.1, 2
        )
    for k in range(len(nodes_t) - 1):
        found[k] = 0.0
        gone = 0.0
        for body in plan.bodies:
            for c in range(3):
                gone = worse(gone, nodes_q[k + 1, body, c] - nodes_q[k, body, c])
        for share in shares:
            t = nodes_t[k] + share * (nodes_t[k + 1] - nodes_t[k])
            for p in range(len(q)):
                for c in range(3):
                    q[p, c] = nodes_q[k, p, c]
            hermite(plan.bodies, t, k, nodes_t, nodes_q, nodes_v, nodes_a, q)
            for body in plan.bodies:
                for c in range(3):
                    near[body, c] = q[body, c]
            commanded(law, t - t0, work.targets, work.rates, work.seconds)
            spread = _settled(
                table, plan, work, work.targets, work.rates, work.seconds, q, work.v, work.a, now, 0.5, 12
            )
            off = 0.0
            for body in plan.bodies:
                for c in range(3):
                    off = worse(off, q[body, c] - near[body, c])
            found[k] = max(found[k], off / (gone + ROUNDING))
            if _differ(now, signs[k]) and _differ(now, signs[k + 1]):
                found[k] = np.inf
            if not spread > 0.0 and not _differ(signs[k], signs[k + 1]):
                found[k] = np.inf


@compiled
def settle_nodes(
    table: Table,
    plan: Plan,
    work: Workspace,
    law: Array,
    t0: float,
    rest: float,
    t: Array,
    q: Array,
    v: Array,
    a: Array,
    signs: Array,
) -> float:
    """The same of all nodes (K, P, 3) of a stretch at times t (K,), which may lie further off, with the signs (K, B);
    the least spread of all. Zero where the tangent of one is not the continuation of the one before, by the same
    measure as where a branch is followed, or where a sign changes: between them the way may end. Where the drivers run
    slower than `rest` there is no tangent."""
    regular = 1.0
    for k in range(len(t)):
        commanded(law, t[k] - t0, work.targets, work.rates, work.seconds)
        spread = _settled(
            table, plan, work, work.targets, work.rates, work.seconds, q[k], v[k], a[k], signs[k], 0.6, 12
        )
        regular = min(regular, spread)
        if k > 0:
            if _differ(signs[k], signs[k - 1]):
                return 0.0
            before, after = pace(law, t[k - 1] - t0), pace(law, t[k] - t0)
            moving = before[0] > rest and after[0] > rest
            if moving and not _carries_on(
                plan, t[k] - t[k - 1], 0.0, v[k], a[k], after, v[k - 1], a[k - 1], before, signs[k], signs[k - 1]
            ):
                return 0.0
    return regular
