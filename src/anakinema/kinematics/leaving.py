"""Leaving a place from which a motion could go on in two ways, or nearly could: a parallelogram that lies flat.

What waits is left where it is. Of the rest, block by block: the rates of a regular block follow from its rows, J v = s.
In a singular one v + α n serves as well, with J n = 0, and α must let the block close a little further on the way: with
l J = 0, l · r(q + h (v + α n)) = 0 for the residuals r, which is a quadratic equation but for terms of the size of h.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Mask
from .equations import Equations
from .kernels.tables import DOUBTFUL
from .stretches import Course, Law, Stretch

LEAVES = 1e-3
"""How far the drivers go to the first place behind one that can be left in two ways (rad, typical lengths)."""
REGULAR = 1e-6
"""Least over largest singular value of a block from which its rows tell the way on by themselves. A place that is
singular is known to the root of the rounding only."""
SHORT = 1e-6
"""Way on which it does not matter to which side a block that is singular gives way: rounding."""
SEEN, BARELY = 1e-3, 1e-5
"""Way back (rad, typical lengths) over which it is seen how bodies came; the least that tells anything."""
LOOKED_AT = 50
"""Stretches back to which it is looked for."""
ASTRAY, ROUNDING = 0.1, 1e-7
"""Share of its way by which a block may miss the tangent on which it set out; how far off rounding may put a place that
is singular."""


@dataclass(frozen=True)
class Leaving:
    """A time a little on, the positions there, nearly closed, and the change (P, 3) for a unit of the drivers' way with
    which they set out; `turned_least` are the bodies of which nothing but the least turn told which of several ways."""

    t: float
    q: Array
    tangent: Array
    turned_least: tuple[int, ...]


def leave(equations: Equations, law: Law, q: Array, before: Sequence[Stretch]) -> Leaving | None:
    """How positions q (P, 3) at the beginning of a law are left. Where there are two ways on, that on which
    the bodies came by the stretches `before`; if they rested, that on which those that no joint ties to the frame turn
    least. None where there is no way on, or more motions open than one."""
    course = Course(law, law.t0)
    way = min(LEAVES, course.end)
    if way <= 0.0:
        return None
    then = course.time(way) if way < course.end else law.t1
    here, there = law.targets(np.array([law.t0, then]))
    came = arrival(before, equations)
    to_frame = tied(equations)
    ahead, tangent = q.copy(), np.zeros_like(q)
    least: list[int] = []
    for rows, bodies in equations.blocks():
        block = Equations([equations.specs[k] for k in rows], bodies, len(q))
        right = block.targets_rate((there - here) / way) - block.rates(q[None], tangent[None], 0 * q[None])[0][0]
        jac = block.linear(q[None], here[None])[1][0]
        ways = list(_tangents(block, jac, right, ahead, there, way))
        if came[bodies].any():
            ways.sort(key=lambda v: -abs(v @ came[bodies].ravel()) / (np.linalg.norm(v) or 1.0))
        else:
            floating = np.repeat(~to_frame[bodies], 3) & (np.arange(3 * len(bodies)) % 3 == 2)
            ways.sort(key=lambda v: float(np.abs(v[floating]).sum()))
            if len(ways) > 1 and float(np.abs(ways[0] - ways[1]).max()) > ROUNDING:
                least += [body for body in bodies if not to_frame[body]]
        for v in ways:
            trial = ahead.copy()
            block.spread(trial, way * v)
            gone = _closed(block, trial, there)
            if gone is not None and gone < ASTRAY * way * float(np.abs(v).max()) + ROUNDING:
                ahead, tangent[bodies] = trial, v.reshape(-1, 3)
                break
        else:
            return None
    return Leaving(then, ahead, tangent, tuple(least))


def arrival(before: Sequence[Stretch], equations: Equations) -> Array:
    """(P, 3) in which direction each of the unknown bodies last came to where it is; zero where it has long rested."""
    came, seen = np.zeros((len(equations.place), 3)), equations.place < 0
    for stretch in reversed(before[-LOOKED_AT:]):
        bodies = stretch.equations.unknown[~seen[stretch.equations.unknown]]
        back = stretch.nodes.q[-1, bodies] - stretch.nodes.q[:, bodies]
        gone = np.abs(back).max(axis=(1, 2), initial=0.0)
        if gone.max() > BARELY:
            last = back[np.flatnonzero(gone >= min(SEEN, gone.max()))[-1]]
            stirred = np.abs(last).max(axis=1) > ROUNDING
            came[bodies[stirred]] = last[stirred]
            seen[bodies[stirred]] = True
        if seen.all():
            break
    return came


def tied(equations: Equations) -> Mask:
    """(P,) whether a joint ties each body to the frame."""
    found = np.zeros(len(equations.place), dtype=np.bool_)
    for spec in equations.specs:
        for term in spec.terms if spec.target < 0 else ():
            if equations.place[term.a] < 0 or equations.place[term.b] < 0:
                found[[term.a, term.b]] = True
    return found


def _tangents(
    block: Equations, jac: Array, right: Array, ahead: Array, there: Array, way: float
) -> Iterator[Array]:
    """The changes (columns,) of a block for a unit of the way with which it can set out; `ahead` (P, 3) has the bodies
    of the blocks before it where they are after that way, when the targets are `there`."""
    columns = block.columns
    if block.rows < columns:
        return
    left, size, across = np.linalg.svd(jac)
    if size[-1] > REGULAR * size[0]:
        yield across.T @ ((left[:, :columns].T @ right) / size)
        return
    if size[-2:-1] < DOUBTFUL * size[0]:
        return  # more than one motion opens here
    free, closed = across[-1], left[:, columns - 1 :].T
    if np.abs(closed @ right).max() > max(REGULAR, 100 * size[-1] / size[0]) * np.abs(right).max():
        return  # the driver pushes against a dead point
    base = across[:-1].T @ ((left[:, : columns - 1].T @ right) / size[:-1])
    if way < SHORT:
        yield base
        return
    scale = float(np.abs(base).max()) or 1.0

    def off(share: float) -> Array:
        trial = ahead.copy()
        block.spread(trial, way * (base + share * scale * free))
        return closed @ block.residual(trial, there) / way**2

    below, middle, above = off(-1.0), off(0.0), off(1.0)
    for low, at, high in zip(below, middle, above, strict=True):
        roots = np.roots([(high + low) / 2 - at, (high - low) / 2, at])
        nearly = np.abs(roots.imag) < ASTRAY * np.abs(roots).max(initial=1.0)  # two are one, but for what is left out
        yield from (base + share * scale * free for share in roots.real[nearly])


def _closed(block: Equations, q: Array, targets: Array) -> float | None:
    """Brings the bodies of a block onto its rows, in place: how far they went, or None where they don't come there."""
    gone = np.zeros(block.columns)
    for _ in range(20):
        off, jac = (each[0] for each in block.linear(q[None], targets[None]))
        if np.abs(off).max(initial=0.0) < 1e-13:
            break
        step = np.linalg.lstsq(jac, off, rcond=1e-9)[0]
        gone += step
        block.spread(q, -step)
    else:
        if not np.abs(block.residual(q, targets)).max() < 1e-10:
            return None
    return float(np.abs(gone).max(initial=0.0))
