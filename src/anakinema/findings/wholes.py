"""Measures of the whole motion: one number each, with the moment that shows it."""

import cmath
from collections.abc import Callable

import numpy as np

from ..arrays import Array
from ..document.model import Document, Measure
from ..errors import located
from ..kinematics.motion import Motion
from ..kinematics.traces import trace
from .behaviour import STILL, dense, longest_still, time_ratio


def refuse_suspended(measure: Measure, document: Document) -> None:
    """Raises `DocumentError` where a joint that is measured is suspended."""
    for name in (measure.joint, measure.values.get("against", "")):
        if name and document.joints[name].suspended:
            raise located(f"joints.{name}", f"joint '{name}' is suspended")


def whole_of(measure: Measure, motion: Motion) -> tuple[float, float]:
    """The value (core units) of a measure of the whole motion, and the time that shows it. Raises `DocumentError` with
    the reason where it can't be taken."""
    refuse_suspended(measure, motion.document)
    return WHOLES[measure.kind](measure, motion)


def _travel(measure: Measure, motion: Motion) -> tuple[float, float]:
    column, found = motion.system.coordinates.index(measure.joint), motion.extremes
    return float(found.high[column] - found.low[column]), float(found.high_t[column])


def _dwell(measure: Measure, motion: Motion) -> tuple[float, float]:
    """The longest time within a band as wide as what still counts as still."""
    column = motion.system.coordinates.index(measure.joint)
    t = dense(motion)
    values = motion.coordinates(t)[:, column]
    within = measure.values.get("within", STILL * float(np.ptp(values)))
    start, stop = longest_still(t, values, within)
    return stop - start, start


def _reversals(measure: Measure, motion: Motion) -> tuple[float, float]:
    """Turning points of the coordinate; how it rests between does not count."""
    column = motion.system.coordinates.index(measure.joint)
    state = motion.sampled
    rates = state.rates[:, column]
    moving = np.flatnonzero(np.abs(rates) > 1e-9 * np.abs(rates).max(initial=0.0))
    turned = np.flatnonzero(np.diff(np.sign(rates[moving])))
    return float(turned.size), float(state.t[moving[turned[0] + 1]]) if turned.size else 0.0


def _time_ratio(measure: Measure, motion: Motion) -> tuple[float, float]:
    found = time_ratio(motion, measure.joint)
    if found is None:
        text = f"joint '{measure.joint}' does not go out and come back once in this motion"
        raise located(f"joints.{measure.joint}", text)
    return found, float(motion.extremes.high_t[motion.system.coordinates.index(measure.joint)])


def _straightness(measure: Measure, motion: Motion) -> tuple[float, float]:
    """The least width of a band between two parallel lines that holds the path (the minimum zone of ISO 1101 in a
    plane), along a direction where one is given. It lies along an edge of the path's convex hull."""
    t = dense(motion)
    path = trace(motion, motion.at(t), motion.document.traces[measure.trace]).place @ np.array([1, 1j])
    if "direction" in measure.values:
        across = (path * cmath.exp(-1j * measure.values["direction"])).imag
    else:
        across = _narrowest(path)
    return float(np.ptp(across)), float(t[int(np.argmax(np.abs(across - np.median(across))))])


def _narrowest(path: Array) -> Array:
    """How far the points of a path (S,) lie across the narrowest band that holds them."""
    from scipy.spatial import ConvexHull, QhullError

    points = np.stack((path.real, path.imag), axis=1)
    size = float(np.ptp(points, axis=0).max())
    try:
        corners = path[ConvexHull(points).vertices]
    except QhullError:  # all on one line, or at one point
        far = path[int(np.argmax(np.abs(path - path[0])))] - path[0]
        return np.zeros(path.size) if size == 0.0 else ((path - path[0]) * np.conj(far)).imag / abs(far)
    edges = np.roll(corners, -1) - corners
    edges = edges[np.abs(edges) > 1e-12 * size]
    widths = [float(np.ptp((corners * np.conj(edge)).imag)) / abs(edge) for edge in edges]
    best = edges[int(np.argmin(widths))]
    across: Array = (path * np.conj(best)).imag / abs(best)
    return across


WHOLES: dict[str, Callable[[Measure, Motion], tuple[float, float]]] = {
    "travel": _travel, "dwell": _dwell, "reversals": _reversals, "time_ratio": _time_ratio,
    "straightness": _straightness,
}  # fmt: skip
