"""Putting a mechanism together so that its joints keep their limits, where it can be put together so at all.

The assembly nearest to the rough poses may leave a joint outside its limits though it could be turned to fit. Of the
ways to close, the nearest that keeps all limits is taken then: first by bringing what is outside to its limit, the rest
following; where that does not close, by looking from turned poses.
"""

import math
from dataclasses import replace

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document.model import Document
from .assembly import assemble
from .equations import DENSE_UP_TO, Equations
from .rows import RowSpec
from .system import System, dimensionless_limits

ATTEMPTS, ROUNDS, SLACK = 48, 6, 1e-9
"""Turned placements that are tried; how often another joint may come outside while the others are brought to their
limits; rounding (typical lengths, rad)."""


def fitted(document: Document, system: System, q: Array, starts: dict[str, float], work: CancellationToken) -> Array:
    """The assembly q (P, 3), or one near it in which every joint keeps its limits while those that are driven stand at
    their `starts` (dimensionless; by joint). q itself where all keep them, or where there is no other."""
    low, high = dimensionless_limits(document, system)
    if not (np.isfinite(low) | np.isfinite(high)).any():
        return q
    specs = [*system.constraints.specs, *(_held(system, joint, value) for joint, value in starts.items())]
    at_start = _closed(system, specs, q, work) if starts else q
    if at_start is None or not _outside(system, at_start, low, high).any():
        return q
    found = _brought(system, specs, at_start, low, high, work)
    if found is None and system.constraints.columns <= DENSE_UP_TO:
        found = _turned(system, specs, at_start, low, high, work)
    return q if found is None else found


def _held(system: System, joint: str, value: float) -> RowSpec:
    """A row that holds a joint's coordinate at a value."""
    spec = system.coordinates.specs[system.coordinates.index(joint)]
    return replace(spec, owner=f"joints.{joint}", offset=spec.offset + value, target=-1)


def _closed(system: System, specs: list[RowSpec], q: Array, work: CancellationToken) -> Array | None:
    equations = Equations(specs, system.moving, len(system.body_ids))
    made = assemble(equations, q, np.zeros(1), restarts=False, work=work)
    return None if made.open else made.q


def _nearest_turn(system: System, values: Array, low: Array, high: Array) -> Array:
    """The coordinates (C,) with the whole turns by which they lie nearest to their limits."""
    best, off = values, np.full(values.size, np.inf)
    for turn in (0.0, math.tau, -math.tau):
        trial = values + np.where(system.coordinates.is_length, 0.0, turn)
        far = np.maximum(np.maximum(low - trial, trial - high), 0.0)
        best, off = np.where(far < off, trial, best), np.minimum(far, off)
    return best


def _outside(system: System, q: Array, low: Array, high: Array) -> Array:
    """(C,) by how much each coordinate is outside, below zero where it is too low."""
    values = _nearest_turn(system, system.coordinates.values(q[None])[0], low, high)
    beyond: Array = np.maximum(values - high - SLACK, 0.0) - np.maximum(low - SLACK - values, 0.0)
    return beyond


def _brought(
    system: System, specs: list[RowSpec], q: Array, low: Array, high: Array, work: CancellationToken
) -> Array | None:
    """With what is outside brought to its limit; None where that does not close."""
    held = list(specs)
    for _ in range(ROUNDS):
        beyond = _outside(system, q, low, high)
        wrong = np.flatnonzero(beyond)
        if not wrong.size:
            return q
        values = system.coordinates.values(q[None])[0]
        counted = _nearest_turn(system, values, low, high)
        for k in wrong.tolist():
            bound = high[k] if beyond[k] > 0 else low[k]
            held.append(_held(system, system.coordinates.ids[k], float(bound - (counted[k] - values[k]))))
        closed = _closed(system, held, q, work)
        if closed is None:
            return None
        q = closed
    return None


def _turned(
    system: System, specs: list[RowSpec], q: Array, low: Array, high: Array, work: CancellationToken
) -> Array | None:
    """The nearest of the assemblies that are found from turned poses and keep all limits."""
    random = np.random.default_rng(31)  # fixed: the same file is always put together the same way
    moving = system.constraints.unknown
    best, nearest = None, np.inf
    for attempt in range(ATTEMPTS):
        work.check()
        start = q.copy()
        start[moving, 2] += random.uniform(-1, 1, len(moving)) * np.pi * (attempt + 1) / ATTEMPTS
        found = _closed(system, specs, start, work)
        if found is None or _outside(system, found, low, high).any():
            continue
        turned = np.abs(np.angle(np.exp(1j * (found - q)[moving, 2])))
        away = float(turned.sum() + np.abs((found - q)[moving, :2]).sum())
        if away < nearest:
            best, nearest = found, away
    return best
