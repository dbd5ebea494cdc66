"""What is measured through the motion, as the findings show it: values, ends, series for the strip."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..document.model import Document, Measure, Track
from ..errors import DocumentError
from ..formatting import describe_measure, shown
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from ..kinematics.motion import Motion
from ..measures import MEASURE_TYPES, Ends, OverTime
from ..measures.base import refuse_suspended
from ..measures.between import taken
from ..measures.extremes import BOTH
from .series import Series, TracedPath, with_extremes
from .windows import inside, windows_of

if TYPE_CHECKING:
    from ..clearance.approach import Approach


def values_of(measure: Measure, motion: Motion, t: Array) -> Array:
    """(S,) what a measure that is a track is at times t (S,), in core units. Raises `DocumentError` with the reason
    where it can't be taken: a joint is suspended, a joint without limits has no gap to them."""
    kind = MEASURE_TYPES[measure.kind]
    assert isinstance(kind, OverTime)
    refuse_suspended(measure, motion.document)
    return kind.at(measure, motion, t)


def value_now(
    measure: Measure, document: Document, motion: Motion | None, t: float,
    poses: Mapping[str, tuple[float, float, float]],
) -> float | None:  # fmt: skip
    """The value of a measure (core units) at a time of a motion, or over the whole of it where it is one number for
    that; without a motion where the parts stand. None where it can't be told."""
    if motion is not None:
        try:
            return value_at(measure, motion, t) if measure.kind != "clearance" else None
        except DocumentError:
            return None
    if not MEASURE_TYPES[measure.kind].named:
        return None
    found = float(taken(measure, document, lambda part: np.array([poses[part]]))[0])
    return math.remainder(found, math.tau) if measure.kind == "angle" else found


def value_at(measure: Measure, motion: Motion, t: float) -> float | None:
    """The value of any measure (core units): of one that is a track at a time, of one that is a number for the whole
    motion that; None where it has none. Raises `DocumentError` where it can't be taken."""
    kind = MEASURE_TYPES[measure.kind]
    found = ends_of(measure, motion).high if kind.whole else float(values_of(measure, motion, np.array([t]))[0])
    return found if math.isfinite(found) else None


def ends_of(measure: Measure, motion: Motion, ways: tuple[float, ...] = BOTH) -> Ends:
    """Least and greatest value of a measure, with their times; of `ways` one may be left out. Raises like
    `values_of`."""
    return MEASURE_TYPES[measure.kind].ends(measure, motion, ways)


def dimension_of(measure: Measure, document: Document) -> Dimension:
    """What a measure counts."""
    kind = MEASURE_TYPES[measure.kind]
    if "counts" in measure.values:
        return Dimension(measure.values["counts"])
    if kind.name == "mechanical_advantage":
        return _advantage(measure, document)
    if kind.dimension is not None:
        return kind.dimension
    if kind.of_driver:
        first = next(iter(document.drivers.values()), None)
        return Dimension.NUMBER if first is None else _counted(document, first.joint)
    found = _counted(document, measure.joint)
    for _ in range(kind.order):
        found = found.rate
    return found


def _counted(document: Document, joint: str) -> Dimension:
    one = document.joints[joint]
    return JOINT_TYPES[one.type].coordinate_dimension(one.values) or Dimension.LENGTH


def _advantage(measure: Measure, document: Document) -> Dimension:
    """That of output per input: a number, a lever arm, or one over it."""
    first = document.drivers.get(measure.values.get("driver", next(iter(document.drivers), "")))
    if first is None:
        return Dimension.NUMBER
    turns = [_counted(document, name) is Dimension.ANGLE for name in (first.joint, measure.joint)]
    if turns[0] == turns[1]:
        return Dimension.NUMBER
    return Dimension.PER_LENGTH if turns[0] else Dimension.LENGTH


def series_of(motion: Motion, measure: Measure, place: str, name: str) -> Series | None:
    """A measure along the motion, for a track; None where it can't be taken. Values that are infinite (a mechanical
    advantage at a dead point, an acceleration at a jolt) are cut off where curves would run off any paper."""
    try:
        ends = ends_of(measure, motion)
        t = motion.drawn
        values = values_of(measure, motion, t)
    except DocumentError:
        return None
    low, low_t, high, high_t = ends.low, ends.low_t, ends.high, ends.high_t
    if not (math.isfinite(high) and math.isfinite(low) and np.isfinite(values).all()):
        finite = values[np.isfinite(values)]
        if not finite.size:
            return None
        values = np.where(np.isfinite(values), values, np.where(values > 0, finite.max(), finite.min()))
        k, m = int(np.argmin(values)), int(np.argmax(values))
        low, low_t, high, high_t = float(values[k]), float(t[k]), float(values[m]), float(t[m])
    document = motion.document
    bounds = [bound for check in document.checks.values() if same(check.measured, measure) and check.all_along
              for bound in (check.at_least, check.at_most) if bound is not None]  # fmt: skip
    if measure.kind == "coordinate":
        limits = document.joints[measure.joint].limits
        bounds = [bound for bound in (limits.min, limits.max) if bound is not None] + bounds
    t, values = with_extremes(t, values, (low, high), (low_t, high_t))
    short = _spans(t, values, measure, motion)
    return Series(place, name, dimension_of(measure, document), t, values, low, high, low_t, high_t,
                  tuple(dict.fromkeys(bounds)), short=short)  # fmt: skip


def _spans(t: Array, values: Array, measure: Measure, motion: Motion) -> tuple[tuple[float, float], ...]:
    """The spans of time in which a measure is outside what its checks want, to the fineness of the samples."""
    outside = np.zeros(t.size, dtype=np.bool_)
    for check in motion.document.checks.values():
        if same(check.measured, measure) and check.at is None:
            beyond = values < (-math.inf if check.at_least is None else check.at_least - 1e-9)
            beyond |= values > (math.inf if check.at_most is None else check.at_most + 1e-9)
            outside |= beyond & (inside(t, windows_of(motion, check)) if check.span is not None else True)
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
    """A measure of the document along the motion; None of one that is a single number, or a clearance."""
    if MEASURE_TYPES[measure.kind].whole or measure.kind == "clearance":
        return None
    return series_of(motion, measure, f"measures.{measure.id}", measure.id)


def remark_on(measure: Measure, motion: Motion) -> str:
    """What to know of how a measure is taken, in words; empty where there is nothing to know."""
    found = MEASURE_TYPES[measure.kind].remark(measure, motion)
    if found is None:
        return ""
    words, value = found
    return f"{words} {shown(value, _counted(motion.document, measure.joint), motion.document.units)}"


def numbers_of(motion: Motion, approaches: "Sequence[Approach]") -> dict[str, Ends]:
    """The measures of the document that are one number for the whole motion, and the clearances among them, where they
    can be taken."""
    found = {}
    for name, one in motion.document.measures.items():
        if one.kind == "clearance":
            near = next((each for each in approaches if set(each.parts) == set(one.parts or ())), None)
            if near is not None and near.distance is not None:
                found[name] = Ends(near.distance, near.t, near.distance, near.t)
        elif MEASURE_TYPES[one.kind].whole:
            try:
                found[name] = ends_of(one, motion)
            except DocumentError:
                continue  # told where the measure is shown
    return found


def traced_paths(motion: Motion) -> dict[str, TracedPath]:
    """What there is to say of each trace."""
    found = {}
    for name, one in motion.document.traces.items():
        seen = {} if one.on is None else {"on": one.on}
        try:
            length = ends_of(Measure("", "path_length", (), (), trace=name), motion).high
            x, y = (ends_of(Measure("", "place", (one.point,), (), values={"axis": axis, **seen}), motion)
                    for axis in "xy")  # fmt: skip
            found[name] = TracedPath(length, (x.low, x.high), (y.low, y.high))
        except DocumentError as error:
            found[name] = TracedPath(why=error.faults[0].text)
    return found


def track_series(motion: Motion, track: Track) -> Series | None:
    """What a track of the strip shows, but for a clearance."""
    return series_of(motion, track.measured, f"tracks.{track.id}", title_of(track.measured))


def title_of(measure: Measure) -> str:
    """What to call a measure in a few words: that of a joint's coordinate by the joint alone."""
    subject = describe_measure(measure)
    if measure.kind == "coordinate":
        return subject
    axis = f" {measure.values['axis']}" if "axis" in measure.values else ""
    return f"{subject} {MEASURE_TYPES[measure.kind].title.lower()}{axis}"


def found_now(motion: Motion, measure: Measure, kind: str) -> float | None:
    """What a measure comes to over a motion: by what a check of it would be given first; None where it can't be taken
    so, or is infinite."""
    if kind == "clearance":
        return 0.0
    try:
        found = MEASURE_TYPES[kind if kind != "measured" else measure.kind].first_value(ends_of(measure, motion))
    except DocumentError:
        return None
    return found if math.isfinite(found) else None
