"""What is measured through the motion: each track of a measure as values at any times, with its true extremes."""

import cmath
import math
from collections.abc import Callable
from dataclasses import replace
from typing import TypeVar

import numpy as np

from ..arrays import Array, Index, Plane
from ..document.model import Document, Measure, PointRef, Trace, Track
from ..errors import DocumentError, located
from ..formatting import describe_measure
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from ..kinematics.extremes import narrowed
from ..kinematics.motion import Motion
from ..kinematics.traces import TracePath, trace
from ..measures import MEASURE_KINDS
from .series import Series, with_extremes
from .wholes import refuse_suspended, whole_of

CLOSE = 3e-8
"""How closely the least and the greatest value are looked for (core units); what is found is closer by far."""
T = TypeVar("T")
Sides = tuple[PointRef, ...]
Positions = Callable[[str], Array]
"""Where a part stands, (S, 3): document lengths, rad."""


BOTH = (1.0, -1.0)
"""Least and greatest: the signs with which a function is looked at for its least value."""


def least_and_greatest(
    motion: Motion, measure: Callable[[Array], Array], ways: tuple[float, ...] = BOTH
) -> tuple[float, float, float, float]:
    """Least value and its time, greatest value and its time, of a function that gives values (S,) at times (S,). Of
    `ways` one may be left out; what is told of it is then that of the samples."""
    t = motion.grid[:, None]
    ends = ends_beside(t, measure(motion.grid)[:, None], lambda times, _: measure(times), ways)
    low, low_t, high, high_t = (float(each[0]) for each in ends)
    return low, low_t, high, high_t


def ends_beside(
    t: Array, values: Array, measure: Callable[[Array, Index], Array], ways: tuple[float, ...] = BOTH
) -> tuple[Array, Array, Array, Array]:
    """The same, each (B,), of functions side by side, with their values (G, B) on their grids of times (G, B):
    `measure` gives them at times (S,) of functions (S,)."""
    count, functions = t.shape
    found = []
    for sign in BOTH:
        k = np.argmin(sign * values, axis=0)
        every = np.arange(functions)
        found.append([sign * values[k, every], t[k, every]])
    if count == 1:
        return found[0][0], found[0][1], -found[1][0], found[1][1]
    turned = [_lowest(way * values) for way in ways]
    center, of = (np.concatenate([each[k] for each in turned]) for k in range(2))
    if not center.size:  # no number among the values
        return found[0][0], found[0][1], -found[1][0], found[1][1]
    way = np.repeat(ways, [each[0].size for each in turned])

    def evaluate(times: Array, some: Index) -> Array:
        wide = np.repeat(of[some], times.shape[1])
        return way[some, None] * measure(times.ravel(), wide).reshape(times.shape)

    around = np.clip(center + np.arange(-2, 3)[:, None], 0, count - 1)
    known = t[around, of], way * values[around, of]
    best, at = narrowed(evaluate, known[0][1], known[0][3], CLOSE, known)
    for sign, (least, when) in zip(BOTH, found, strict=True):
        some = np.flatnonzero(way == sign)
        some = some[np.argsort(-best[some], kind="stable")]  # the lowest of a function is written last
        if some.size:
            least[of[some]], when[of[some]] = best[some], at[some]
    (low, low_t), (high, high_t) = found
    return low, low_t, -high, high_t


def _lowest(values: Array, most: int = 2) -> tuple[Index, Index]:
    """The samples (G, B) no higher than their neighbours, the lowest of each column: their rows and columns."""
    above = np.full((1, values.shape[1]), np.inf)
    padded = np.concatenate((above, values, above))
    hollow = np.where((values <= padded[:-2]) & (values <= padded[2:]), values, np.inf)
    rows = np.argsort(hollow, axis=0, kind="stable")[:most]
    some, column = np.nonzero(np.isfinite(np.take_along_axis(hollow, rows, axis=0)))
    return rows[some, column], column


def values_of(measure: Measure, motion: Motion, t: Array) -> Array:
    """(S,) what a measure that is a track is at times t (S,), in core units. Raises `DocumentError` with the reason
    where it can't be taken: a joint is suspended, a joint without limits has no gap to them."""
    refuse_suspended(measure, motion.document)
    return TAKERS[measure.kind](measure, motion, t)


def _column(motion: Motion, joint: str) -> int:
    return motion.system.coordinates.index(joint)


def _coordinate(measure: Measure, motion: Motion, t: Array) -> Array:
    return motion.coordinates(t)[:, _column(motion, measure.joint)]


def _velocity(measure: Measure, motion: Motion, t: Array) -> Array:
    return motion.at(t).rates[:, _column(motion, measure.joint)]


def _acceleration(measure: Measure, motion: Motion, t: Array) -> Array:
    return motion.at(t).accelerations[:, _column(motion, measure.joint)]


def _end_gap(measure: Measure, motion: Motion, t: Array) -> Array:
    limits = motion.document.joints[measure.joint].limits
    ends = [each for each in (limits.min, limits.max) if each is not None]
    if not ends:
        raise located(f"joints.{measure.joint}", f"joint '{measure.joint}' has no limits")
    values = _coordinate(measure, motion, t)
    gaps = [values - limits.min] if limits.min is not None else []
    gaps += [limits.max - values] if limits.max is not None else []
    least: Array = np.minimum.reduce(gaps)
    return least


def _out_of_ratio(measure: Measure, motion: Motion, t: Array) -> Array:
    both = [_column(motion, measure.joint), _column(motion, measure.values["against"])]
    gone = motion.coordinates(np.append(0.0, t))[:, both]
    gone = gone[1:] - gone[0]
    coordinates, units = motion.system.coordinates, motion.document.units
    own, other = (coordinates.dimension(column).per_core(units) for column in both)
    off: Array = gone[:, 0] - measure.values.get("ratio", 1.0) * gone[:, 1] * other / own
    return np.abs(off)


def _transmission(measure: Measure, motion: Motion, t: Array) -> Array:
    from .transmission import Transmission

    return _kept(measure, motion, Transmission)(motion, t)


def _pressure(measure: Measure, motion: Motion, t: Array) -> Array:
    from .transmission import Pressure

    return _kept(measure, motion, Pressure)(motion, t)


def _kept(measure: Measure, motion: Motion, kind: Callable[[Document, str], T]) -> T:
    """What measures at a joint, made once for a motion."""
    name = (measure.kind, measure.joint)
    if name not in motion.kept:
        motion.kept[name] = kind(motion.document, measure.joint)
    made: T = motion.kept[name]
    return made


def _advantage(measure: Measure, motion: Motion, t: Array) -> Array:
    with np.errstate(divide="ignore"):
        gain: Array = 1.0 / _gear_ratio(measure, motion, t)
    return gain


def _gear_ratio(measure: Measure, motion: Motion, t: Array) -> Array:
    """How fast the joint moves for each unit of the first driver's rate. Where the driver rests no rate tells it."""
    if not motion.drive.drivers:
        raise located("drivers", "nothing is driven")
    rates = motion.at(t).rates
    driver = np.abs(rates[:, _column(motion, motion.drive.drivers[0].joint)])
    moving = driver > 1e-9 * driver.max(initial=0.0)
    if not moving.any():
        raise located(f"joints.{measure.joint}", "the first driver does not move")
    own = np.abs(rates[:, _column(motion, measure.joint)])
    gain: Array = np.interp(t, t[moving], own[moving] / driver[moving])
    return gain


def _point(measure: Measure, motion: Motion, t: Array) -> TracePath:
    return trace(motion, motion.at(t), Trace("", measure.a[0], measure.values.get("on")))


def _place(measure: Measure, motion: Motion, t: Array) -> Array:
    return _point(measure, motion, t).place[:, ("x", "y").index(measure.values["axis"])]


def _speed(measure: Measure, motion: Motion, t: Array) -> Array:
    size: Array = np.hypot(*_point(measure, motion, t).velocity.T)
    return size


def _gain(measure: Measure, motion: Motion, t: Array) -> Array:
    size: Array = np.hypot(*_point(measure, motion, t).acceleration.T)
    return size


def _between(measure: Measure, motion: Motion, t: Array) -> Array:
    """A distance, or an angle, which counts on over full turns from where it starts, within half a turn."""
    q = motion.positions(t)
    found = taken(measure, motion.document, lambda part: q[:, motion.system.body(part)])
    if measure.kind != "angle":
        return found
    start = motion.positions(np.zeros(1))
    first = float(taken(measure, motion.document, lambda part: start[:, motion.system.body(part)])[0])
    counted: Array = found - 2 * np.pi * np.round(first / (2 * np.pi))
    return counted


TAKERS: dict[str, Callable[[Measure, Motion, Array], Array]] = {
    "coordinate": _coordinate, "velocity": _velocity, "acceleration": _acceleration, "end_gap": _end_gap,
    "out_of_ratio": _out_of_ratio, "transmission_angle": _transmission, "pressure_angle": _pressure,
    "mechanical_advantage": _advantage,
    "distance": _between, "angle": _between, "place": _place, "speed": _speed, "point_acceleration": _gain,
}  # fmt: skip
"""How each measure that is a track is taken, but for clearance, which has a search of its own."""


def taken(measure: Measure, document: Document, stands: Positions) -> Array:
    """A distance or an angle (S,) where parts stand so; an angle with the turns of its parts."""
    if measure.kind == "angle":
        turned: Array = _angle(document, measure.b, stands) - _angle(document, measure.a, stands)
        return turned
    a, b = (np.array([_world(document, ref, stands) for ref in side]) for side in (measure.a, measure.b))
    if len(a) == len(b) == 1:
        gap: Array = np.abs(b[0] - a[0])
        return gap
    line, point = (a, b[0]) if len(a) == 2 else (b, a[0])  # of two lines: of the second's first point from the first
    along = line[1] - line[0]
    apart: Array = np.abs((along.conj() * (point - line[0])).imag) / np.abs(along)
    return apart


def _angle(document: Document, side: Sides, stands: Positions) -> Array:
    """The direction of a line (S,), counted on with its part."""
    turned: Array = stands(side[0].part)[:, 2]
    if not side[0].point:
        return turned
    points = document.parts[side[0].part].points
    one, two = (complex(*points[ref.point]) for ref in side)
    return turned + cmath.phase(two - one)


def _world(document: Document, ref: PointRef, stands: Positions) -> Plane:
    at = stands(ref.part)
    x, y = document.parts[ref.part].points[ref.point]  # arrays too, of motions side by side
    place: Plane = at[:, 0] + 1j * at[:, 1] + (x + 1j * y) * np.exp(1j * at[:, 2])
    return place


def dimension_of(measure: Measure, document: Document) -> Dimension:
    """What a measure counts."""
    kind = MEASURE_KINDS[measure.kind]
    if kind.dimension is not None:
        return kind.dimension
    joint = document.joints[measure.joint]
    found = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) or Dimension.LENGTH
    for _ in range(kind.order):
        found = found.rate
    return found


def ends_of(
    measure: Measure, motion: Motion, ways: tuple[float, ...] = BOTH
) -> tuple[float, float, float, float]:
    """Least value and its time, greatest value and its time, of a measure that is a track; of `ways` one may be left
    out (see `least_and_greatest`). Raises like `values_of`."""
    refuse_suspended(measure, motion.document)
    if measure.kind == "coordinate":
        column, found = _column(motion, measure.joint), motion.extremes
        ends = (found.low, found.low_t, found.high, found.high_t)
        low, low_t, high, high_t = (float(each[column]) for each in ends)
        return low, low_t, high, high_t
    if measure.kind == "mechanical_advantage":  # grows without bound where the joint stands still: by its inverse
        gain = least_and_greatest(motion, lambda times: _gear_ratio(measure, motion, times))
        low, high = ((1.0 / each if each > 0.0 else math.inf) for each in (gain[2], gain[0]))
        return low, gain[3], high, gain[1]
    known: tuple[float, float, float, float] | None = motion.kept.get(ends_key(measure, ways))
    return known or least_and_greatest(motion, lambda times: values_of(measure, motion, times), ways)


def ends_key(measure: Measure, ways: tuple[float, ...]) -> tuple[object, ...]:
    """Under what the ends of a measure are kept with a motion."""
    return measure.kind, measure.joint, measure.a, measure.b, ways


def series_of(motion: Motion, measure: Measure, place: str, name: str) -> Series | None:
    """A measure along the motion, for a track; None where it can't be taken. Values that are infinite (a mechanical
    advantage at a dead point) are cut off where curves would run off any paper."""
    try:
        low, low_t, high, high_t = ends_of(measure, motion)
        t = motion.drawn
        values = values_of(measure, motion, t)
    except DocumentError:
        return None
    if not math.isfinite(high) or not np.isfinite(values).all():
        finite = values[np.isfinite(values)]
        if not finite.size:
            return None
        values = np.where(np.isfinite(values), values, finite.max())
        high, high_t = float(values.max()), float(t[int(np.argmax(values))])
    document = motion.document
    bounds = [bound for check in document.checks.values() if same(check.measured, measure) and check.at is None
              for bound in (check.at_least, check.at_most) if bound is not None]  # fmt: skip
    if measure.kind == "coordinate":
        limits = document.joints[measure.joint].limits
        bounds = [bound for bound in (limits.min, limits.max) if bound is not None] + bounds
    t, values = with_extremes(t, values, (low, high), (low_t, high_t))
    short = _spans(t, values, measure, document)
    return Series(place, name, dimension_of(measure, document), t, values, low, high, low_t, high_t,
                  tuple(dict.fromkeys(bounds)), short=short)  # fmt: skip


def _spans(t: Array, values: Array, measure: Measure, document: Document) -> tuple[tuple[float, float], ...]:
    """The spans of time in which a measure is outside what its checks want, to the fineness of the samples."""
    outside = np.zeros(t.size, dtype=np.bool_)
    for check in document.checks.values():
        if same(check.measured, measure) and check.at is None:
            outside |= values < (-math.inf if check.at_least is None else check.at_least - 1e-9)
            outside |= values > (math.inf if check.at_most is None else check.at_most + 1e-9)
    if not outside.any():
        return ()
    padded = np.diff(np.concatenate(([0], outside.astype(np.int8), [0])))
    return tuple((float(t[a]), float(t[b - 1])) for a, b in zip(np.flatnonzero(padded > 0), np.flatnonzero(padded < 0),
                                                                strict=True))  # fmt: skip


def same(one: Measure, two: Measure) -> bool:
    """Whether two measures measure the same, whatever they are called."""
    if {one.kind, two.kind} == {"clearance"}:
        return set(one.parts or ()) == set(two.parts or ())
    return replace(one, id="", note="") == replace(two, id="", note="")


def measure_series(motion: Motion, measure: Measure) -> Series | None:
    """A measure of the document along the motion."""
    return series_of(motion, measure, f"measures.{measure.id}", measure.id)


def track_series(motion: Motion, track: Track) -> Series | None:
    """What a track of the strip shows, but for a clearance."""
    return series_of(motion, track.measured, f"tracks.{track.id}", title_of(track.measured))


def title_of(measure: Measure) -> str:
    """What to call a measure in a few words: that of a joint's coordinate by the joint alone."""
    message = describe_measure(measure)
    if measure.kind == "coordinate":
        return message
    axis = f" {measure.values['axis']}" if "axis" in measure.values else ""
    return f"{message} {MEASURE_KINDS[measure.kind].title.lower()}{axis}"


def found_now(motion: Motion, measure: Measure, kind: str) -> float | None:
    """What a measure comes to over a motion: the whole one, the least or the greatest of a track by what a check of it
    would be given first; None where it can't be taken so."""
    if kind == "clearance":
        return 0.0
    try:
        if MEASURE_KINDS[measure.kind].whole:
            return whole_of(measure, motion)[0]
        low, _, high, _ = ends_of(measure, motion)
    except DocumentError:
        return None
    if kind in ("velocity", "acceleration"):  # either way counts
        return max(abs(low), abs(high))
    return low if kind in ("end_gap", "transmission_angle", "mechanical_advantage") else high
