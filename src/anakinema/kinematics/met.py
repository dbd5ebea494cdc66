"""Where a motion meets the joints of cams' laws: there rates or accelerations jump, so that it is to be cut."""

from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Index

if TYPE_CHECKING:
    from ..cams import CamLaw
    from ..document.model import Document
    from .drive import Drive
    from .path import Path
    from .stretches import Law

APART = 1e-9
"""Share of a motion's time within which two cuts are one."""
LOOKED = 24
"""Times between two nodes at which it is looked whether a joint is passed."""
SMOOTH = 1e-6
"""Jumps of a derivative below this (of its greatest) are rounding."""
MOST = 4000
"""Cuts at most: a shaft may turn for long."""


def cut(runs: "Sequence[Law]", times: Array) -> "list[Law]":
    """The laws of the drivers, cut at times."""
    whole = runs[-1].t1 - runs[0].t0
    found = []
    for law in runs:
        inside = times[(law.t0 + APART * whole < times) & (times < law.t1 - APART * whole)].tolist()
        kept = [law.t0]
        kept += [t for t in inside if t > kept[-1] + APART * whole]
        found += [law.part(t0, t1) for t0, t1 in pairwise([*kept, law.t1])] if len(kept) > 1 else [law]
    return found


def met_as_driven(document: "Document", drive: "Drive", runs: "Sequence[Law]") -> Array:
    """(K,) times at which joints of laws are met by shafts that are driven themselves."""
    found = [np.zeros(0)]
    for name, kinks, period in _laws(document, drive):
        if name in drive.commanded:
            column = drive.commanded.index(name)
            for run in runs:

                def value(t: Array, run: "Law" = run, column: int = column) -> Array:
                    return run.targets(t)[:, column]

                found.append(_passed(kinks, period, value, np.linspace(run.t0, run.t1, LOOKED + 1)))
    return _few(found)


def met_on_the_way(document: "Document", drive: "Drive", path: "Path") -> Array:
    """(K,) times at which joints of laws are met by all other shafts along a path."""
    found = [np.zeros(0)]
    others = [one for one in _laws(document, drive) if one[0] not in drive.commanded]
    if others and path.t1 > 0:
        nodes = path.node_times
        nodes = np.unique(np.append(nodes[nodes < path.t1], path.t1))
        t = np.unique(np.linspace(nodes[:-1], nodes[1:], LOOKED // 3 + 1).ravel())
        values = drive.system.coordinates.values(path.positions(t))
        for name, kinks, period in others:
            column = drive.system.coordinates.index(name)

            def value(t: Array, column: int = column) -> Array:
                return drive.system.coordinates.values(path.positions(t))[:, column]

            found.append(_passed(kinks, period, value, t, values[:, column]))
    return _few(found)


def _laws(document: "Document", drive: "Drive") -> list[tuple[str, list[float], float]]:
    """The shafts, the coordinates at which their laws have kinks, and their periods, dimensionless."""
    coordinates, found = drive.system.coordinates, []
    for coupling in document.active_couplings.values():
        if coupling.law is not None and coupling.a in coordinates:
            size = drive.system.scale if coordinates.is_length[coordinates.index(coupling.a)] else 1.0
            law = coupling.law.scaled(1.0 / size, 1.0)
            found.append((coupling.a, _kinks(law), law.period))
    return found


def _kinks(law: "CamLaw") -> list[float]:
    """The joints of a law at which a derivative up to the third jumps: pieces of a smooth curve meet without."""
    places = np.array(law.joints())
    inside = np.abs(law.lift(law.start + np.linspace(0.0, law.stop, 257))).max(axis=1)
    hair = 1e-12 * max(1.0, law.period, float(np.abs(places).max()))
    jump = np.abs(law.lift(places + hair) - law.lift(places - hair))
    size = np.maximum(inside, 1e-300)[:, None]
    sharp = (jump > SMOOTH * size).any(axis=0)
    return list(dict.fromkeys(places[sharp].tolist()))


def _few(found: list[Array]) -> Array:
    times = np.unique(np.concatenate(found))
    return times if times.size <= MOST else np.zeros(0)


def _passed(
    kinks: Sequence[float], period: float, value: Callable[[Array], Array], t: Array, values: Array | None = None
) -> Array:
    """(K,) the times at which a coordinate passes a kink of a law, from times t (S,) so close that none is passed twice
    between them."""
    from scipy.optimize.elementwise import find_root

    values = value(t) if values is None else values
    low, high = np.minimum(values[:-1], values[1:]), np.maximum(values[:-1], values[1:])
    places: list[tuple[Index, Array]] = []
    for joint in kinks:
        if not period:
            number = np.flatnonzero((low < joint) & (joint < high))
            places.append((number, np.full(number.size, joint)))
            continue
        first, last = np.ceil((low - joint) / period), np.floor((high - joint) / period)
        if np.maximum(last - first + 1, 0.0).sum() > MOST:
            return np.zeros(0)
        for step in range(int(max(0.0, (last - first).max(initial=-1.0) + 1))):
            number = np.flatnonzero(first + step <= last)
            places.append((number, joint + period * (first[number] + step)))
    number = np.concatenate([np.zeros(0, dtype=np.int64), *(one for one, _ in places)])
    goal = np.concatenate([np.zeros(0), *(one for _, one in places)])
    inside = (goal > low[number]) & (goal < high[number])
    exact: Array = t[1:][number[goal == values[1:][number]]]
    number, goal = number[inside], goal[inside]
    if number.size == 0 or number.size > MOST:
        return exact
    found = find_root(lambda t, goal: value(t) - goal, (t[number], t[number + 1]), args=(goal,)).x
    times: Array = np.concatenate((exact, np.atleast_1d(found)))
    return times
