"""The motion of all bodies as polynomials in time, exact to a tolerance, for those who must know it between moments."""

from math import comb

import numpy as np

from ..arrays import Array
from ..kinematics.motion import Motion
from .kernels.tables import MotionTrack

PIECES = 3
"""Stretches that a node interval of the path is cut into to begin with."""
HALVINGS = 24
"""How often a stretch is halved at most where the motion bends too much for one polynomial."""
MOST_PLACES = 2_500_000
"""Moments times bodies after which stretches are halved no further: some five seconds. What they miss then is known,
and what it leaves unproven of a clearance is told."""
ROUNDED = 1000 * float(np.finfo(float).eps)
"""Share of a position by which rounding puts it off. A part that is turned by millions of turns is known no better, and
halving on would only fill the memory."""
GAINS, BLURRED = 4.0, 1e-8
"""How much less a stretch must miss than the one that it is half of, where that is less than this (typical lengths)."""
BLINK = 1e-12
"""Share of a time within which the nodes before a fall are joined by straight pieces."""
SAFETY = 2.5
"""How much more than what was measured a pair may be off: each part by once, and a quarter for what was not seen."""
KNOTS = (1 - np.cos((2 * np.arange(6) + 1) * np.pi / 12)) / 2
"""Shares of a stretch at which its polynomial meets the motion (roots of Chebyshev's T₆): none of them an end, where
the motion may have a kink."""
BETWEEN = (1 - np.cos(np.array([1, 3, 5]) * np.pi / 6)) / 2
"""Shares between them, where such a polynomial misses a smooth motion most."""
FITTED = np.linalg.inv(KNOTS[:, None] ** np.arange(6))
"""From values at the knots to coefficients."""


def track(motion: Motion, reach: float, tolerance: float) -> MotionTrack:
    """The motion in stretches of polynomials of the fifth degree.

    How far a polynomial misses the motion is measured between its knots, with angles times `reach`; stretches are
    halved until that is below `tolerance` (document lengths). `Track.error` is what is left, with some `SAFETY`.
    """
    path = motion.path
    far = [np.abs(nodes.q).max(axis=(0, 1), initial=0.0) for nodes in path.pieces]
    x, y, angle = np.max(far, axis=0)
    tolerance = max(tolerance, ROUNDED * (motion.system.scale * float(max(x, y)) + reach * float(angle)))
    found: list[tuple[Array, Array, Array]] = []
    for stretch in path.stretches:
        nodes = stretch.nodes
        knots = np.unique(np.append(nodes.t[nodes.t < path.t1], min(float(nodes.t[-1]), path.t1)))
        straight = 0
        if stretch.folds and knots.size > 1 and knots[-1] == nodes.t[-1]:  # there time hardly tells where all is
            straight = max(int((nodes.t >= nodes.t[-1] - BLINK * max(abs(nodes.t[-1]), 1e-300)).sum()) - 1, 1)
            knots = knots[knots <= nodes.t[-1 - straight]]
        if knots.size > 1 and stretch.law.moves:
            found.append(_law(motion, knots, reach, tolerance, MOST_PLACES // len(path.laws)))
        for k in range(len(nodes.t) - 1 - straight, len(nodes.t) - 1):
            found.append(_jump(motion, *nodes.t[k : k + 2].tolist(), *nodes.q[k : k + 2]))
    if path.dead is not None and path.dead.t > path.last_regular:
        found.append(_jump(motion, path.last_regular, path.dead.t, path.pieces[-1].q[-1], path.dead.q))
    if not found:
        q = motion.positions(np.zeros(1))[0]
        terms = np.zeros((1, len(q), 18))
        terms[0, :, ::6] = q
        return MotionTrack(np.array([[0.0, 1.0, 0.0]]), terms, np.zeros(1))
    times, terms, error = (np.ascontiguousarray(np.concatenate(each)) for each in zip(*found, strict=True))
    return MotionTrack(times, terms, error)


def cut_to(whole: MotionTrack, windows: Array) -> MotionTrack:
    """A motion within windows of time (W, 2) alone."""
    start, length, share = whole.times.T
    times, terms, error = [], [], []
    for low, high in windows.tolist():
        some = np.flatnonzero((start < high) & (start + length * share > low))
        if not some.size:  # a moment, or at an end
            some = np.array([min(int(np.searchsorted(start, low, side="right")), len(start)) - 1])
        first = np.clip(low, start[some], start[some] + length[some] * share[some])
        last = np.clip(high, first, start[some] + length[some] * share[some])
        unit = np.where(last > first, last - first, 1.0)
        times.append(np.stack((first, unit, (last > first).astype(float)), axis=1))
        terms.append(_moved(whole.terms[some], (first - start[some]) / length[some], unit / length[some]))
        error.append(whole.error[some])
    return MotionTrack(*(np.ascontiguousarray(np.concatenate(each)) for each in (times, terms, error)))


def _moved(terms: Array, by: Array, unit: Array) -> Array:
    """Polynomials (S, P, 18) that begin `by` (S,) later and count in other units (S,)."""
    given = terms.reshape(len(terms), -1, 3, 6)
    found = np.zeros_like(given)
    for power in range(6):
        for above in range(power, 6):
            found[..., power] += comb(above, power) * given[..., above] * (by ** (above - power))[:, None, None]
        found[..., power] *= (unit**power)[:, None, None]
    return found.reshape(terms.shape)


def _law(motion: Motion, knots: Array, reach: float, tolerance: float, most: int) -> tuple[Array, Array, Array]:
    """Times, terms and errors of the stretches of one law, for which it is looked at so many moments times bodies."""
    cuts = (knots[:-1, None] + np.diff(knots)[:, None] * np.arange(PIECES) / PIECES).ravel()
    start, length = cuts, np.diff(np.append(cuts, knots[-1]))
    done: list[tuple[Array, Array, Array]] = []
    each, spent = (len(KNOTS) + len(BETWEEN)) * len(motion.system.body_ids), 0
    before = np.full(length.size, np.inf)
    for halving in range(HALVINGS + 1):
        terms, missed = _fitted(motion, start, length, reach)
        fine = missed <= tolerance
        # By a dead point rounding counts by more than it does elsewhere, and halving on gains nothing.
        fine |= (missed > before / GAINS) & (missed <= BLURRED * motion.system.scale)
        spent += length.size * each
        if halving == HALVINGS or spent + 2 * np.count_nonzero(~fine) * each > most:
            fine[:] = True
        times = np.stack((start, length, np.ones(length.size)), axis=1)
        done.append((times[fine], terms[fine], SAFETY * missed[fine]))
        if fine.all():
            break
        start, half, before = start[~fine], length[~fine] / 2, np.tile(missed[~fine], 2)
        start, length = np.concatenate((start, start + half)), np.concatenate((half, half))
    times, terms, error = (np.concatenate(each) for each in zip(*done, strict=True))
    order = np.argsort(times[:, 0], kind="stable")
    return times[order], terms[order], error[order]


def _fitted(motion: Motion, start: Array, length: Array, reach: float) -> tuple[Array, Array]:
    """(S, P, 18) coefficients over 0 to 1 of the polynomials of stretches, and (S,) how far each misses the motion."""
    shares = np.concatenate((KNOTS, BETWEEN))
    q = motion.positions((start[:, None] + length[:, None] * shares).ravel())
    q = q.reshape(len(start), len(shares), -1)
    terms = np.matmul(FITTED, q[:, : len(KNOTS)])
    off = np.abs(np.matmul(BETWEEN[:, None] ** np.arange(6), terms) - q[:, len(KNOTS) :])
    off = off.reshape(len(start), len(BETWEEN), -1, 3)
    missed = (np.hypot(off[..., 0], off[..., 1]) + reach * off[..., 2]).max(axis=(1, 2), initial=0.0)
    bodies = terms.shape[2] // 3
    return terms.reshape(-1, 6, bodies, 3).transpose(0, 2, 3, 1).reshape(-1, bodies, 18), missed


def _jump(motion: Motion, t0: float, t1: float, q0: Array, q1: Array) -> tuple[Array, Array, Array]:
    """The last bit of the way to a dead point, where rates grow without bound: straight."""
    start, end = q0 * motion.system.size, q1 * motion.system.size
    terms = np.zeros((1, len(start), 18))
    terms[0, :, ::6], terms[0, :, 1::6] = start, end - start
    return np.array([[t0, t1 - t0, 1.0]]), terms, np.zeros(1)
