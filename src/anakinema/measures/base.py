"""What a measure is: its keys in a document, what it counts, how it is taken of a motion, and how its least and
greatest values are found."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Literal, TypeVar

import numpy as np

from ..arrays import Array
from ..errors import located
from ..kinds import Dimension, Field, FieldForm
from .extremes import BOTH, Ends, Fold, located_ends, sample_times, smooth_spans

if TYPE_CHECKING:
    from ..document.model import Document, Joint, Measure
    from ..kinematics.motion import Motion, Sampled

JOINT = Field("joint", form=FieldForm.JOINT, required=True, description="the joint")
POINT = Field("point", form=FieldForm.POINT, required=True, description="part.point")
ON = Field("on", form=FieldForm.PART, description="the part from which it is seen, else the frame")

T = TypeVar("T")
Bound = Literal["at_least", "at_most", "both"]


@dataclass(frozen=True)
class Infinite:
    """Where a measure is infinite: the time, the sign, and the reason in words."""

    t: float
    sign: float
    why: str


class MeasureType:
    """A measure. `dimension` is None where it is that of the joint's coordinate, or of its rate of an `order`. One that
    is `named` may stand by itself among the document's measures, and is drawn on the bench. `first_bound` is what a
    check is given at first; `of_joint` says that it is offered for a joint alone."""

    name: ClassVar[str]
    title: ClassVar[str]
    description: ClassVar[str]
    fields: ClassVar[tuple[Field, ...]]
    dimension: ClassVar[Dimension | None] = Dimension.LENGTH
    named: ClassVar[bool] = False
    whole: ClassVar[bool] = False
    """Whether it is one number for the whole motion; all others are tracks of the strip."""
    slow: ClassVar[bool] = False
    """Whether taking it may last longer than one waits for a list to open."""
    in_part: ClassVar[bool] = False
    """Whether it can be taken over a part of the motion."""
    order: ClassVar[int] = 0
    first_bound: ClassVar[Bound] = "at_most"
    of_joint: ClassVar[bool] = False
    of_driver: ClassVar[bool] = False
    """Whether it counts what the first driver does."""

    def suits(self, joint: "Joint") -> bool:
        """Whether it can be taken at such a joint."""
        return True

    def ends(self, measure: "Measure", motion: "Motion", ways: tuple[float, ...] = BOTH) -> Ends:
        """Least and greatest value over a motion, with their times; of `ways` one may be left out. Raises
        `DocumentError` with the reason where it can't be taken."""
        raise NotImplementedError

    def ends_over(self, measure: "Measure", motion: "Motion", spans: Array) -> Ends:
        """The same over smooth stretches of a motion (I, 2) alone."""
        raise NotImplementedError

    def remark(self, measure: "Measure", motion: "Motion") -> tuple[str, float] | None:
        """What to know of how it is taken: words, and a value of the joint's dimension (core units) that completes
        them; None where there is nothing to know."""
        return None

    def first_value(self, ends: Ends) -> float:
        """What a check's first bound is taken from."""
        if self.first_bound == "both":  # either way counts
            return max(abs(ends.low), abs(ends.high))
        return ends.low if self.first_bound == "at_least" else ends.high


class OverTime(MeasureType):
    """A measure that has a value at every time."""

    in_part = True
    fold: ClassVar[Fold | None] = None
    """What leads from `unfolded` to the measure, which is smooth but for that."""

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        """(S,) what it is at times t (S,), in core units."""
        raise NotImplementedError

    def unfolded(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        """(S,) the same before it is folded, if it is."""
        return self.at(measure, motion, t)

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        """Where it is infinite for a moment that no sample meets."""
        return []

    def ends(self, measure: "Measure", motion: "Motion", ways: tuple[float, ...] = BOTH) -> Ends:
        refuse_suspended(measure, motion.document)
        known = motion.kept
        found: Ends | None = known.get(ends_key(measure, ways)) or known.get(ends_key(measure, BOTH))
        if found is None:
            wanted = BOTH if is_shown(measure, motion.document) else ways
            found = known[ends_key(measure, wanted)] = self._ends(measure, motion, wanted)
        for beyond in self.infinite(measure, motion):
            found = found.beyond(beyond.sign * np.inf, beyond.t, beyond.why)
        return found

    def ends_over(self, measure: "Measure", motion: "Motion", spans: Array) -> Ends:
        refuse_suspended(measure, motion.document)
        found = located_ends(
            lambda t, _: self.unfolded(measure, motion, t), spans, sample_times(spans).ravel(), fold=self.fold
        ).of(0)
        for beyond in self.infinite(measure, motion):
            if any(start <= beyond.t <= stop and start < stop for start, stop in spans.tolist()):
                found = found.beyond(beyond.sign * np.inf, beyond.t, beyond.why)
        return found

    def _ends(self, measure: "Measure", motion: "Motion", ways: tuple[float, ...]) -> Ends:
        spans = smooth_spans(motion)
        return located_ends(
            lambda t, _: self.unfolded(measure, motion, t), spans, motion.chebyshev, ways, fold=self.fold
        ).of(0)


class OfNumbers(OverTime):
    """One that may be taken of motions side by side: its formula is of numbers that `Sampled` gives."""

    def at(self, measure: "Measure", motion: "Sampled", t: Array) -> Array:
        raise NotImplementedError

    def unfolded(self, measure: "Measure", motion: "Sampled", t: Array) -> Array:
        return self.at(measure, motion, t)


class OverWhole(MeasureType):
    """A measure of the whole motion: one number, with the moment that shows it."""

    whole = True
    grows: ClassVar[bool] = False
    """Whether a longer motion can only make it larger."""

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        """The value (core units), and the time that shows it."""
        raise NotImplementedError

    def ends(self, measure: "Measure", motion: "Motion", ways: tuple[float, ...] = BOTH) -> Ends:
        refuse_suspended(measure, motion.document)
        value, t = self.value(measure, motion)
        return Ends(value, t, value, t)


def refuse_suspended(measure: "Measure", document: "Document") -> None:
    """Raises `DocumentError` where a joint that is measured is suspended."""
    for name in (measure.joint, measure.values.get("against", "")):
        if name and document.joints[name].suspended:
            raise located(f"joints.{name}", f"joint '{name}' is suspended")


def is_shown(measure: "Measure", document: "Document") -> bool:
    """Whether both ends of a measure are wanted, for a track or a measure of the document shows it."""
    shown = [*document.measures.values(), *(track.measured for track in document.tracks.values())]
    return any(ends_key(one, BOTH) == ends_key(measure, BOTH) for one in shown)


def ends_key(measure: "Measure", ways: tuple[float, ...]) -> tuple[object, ...]:
    """Under what the ends of a measure are kept with a motion."""
    return measure.kind, measure.joint, measure.a, measure.b, tuple(measure.values.items()), ways


def column(motion: "Sampled", joint: str) -> int:
    """The column of a joint's coordinate."""
    return motion.system.coordinates.index(joint)


def kept(motion: "Sampled", key: tuple[object, ...], make: Callable[[], T]) -> T:
    """What is made once for a motion."""
    known = motion.kept
    if key not in known:
        known[key] = make()
    found: T = known[key]
    return found
