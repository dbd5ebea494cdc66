"""Quantities along the motion: what strip, card, report and JSON show of them."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..kinds import Dimension
from ..kinematics.motion import Motion
from ..measures.touching import spans

if TYPE_CHECKING:
    from ..clearance.approach import Approach


@dataclass(frozen=True, eq=False)
class Series:
    """A quantity over the motion: its `place` in the document (empty where it has none), name and dimension, values at
    times t (S,) in core units, its true least and greatest value with their times, and the `bounds` drawn with it. The
    samples hold both extremes, and none lies outside them."""

    place: str
    name: str
    dimension: Dimension
    t: Array
    values: Array
    low: float
    high: float
    low_t: float
    high_t: float
    bounds: tuple[float, ...] = ()
    parts: tuple[str, str] | None = None
    """The pair whose clearance it is; None for a joint's coordinate."""
    short: tuple[tuple[float, float], ...] = ()
    """Spans of time in which it is below what is wanted."""
    bars: tuple[tuple[float, float], ...] | None = None
    """Of a contact: the spans of time in which it touches. Its values are 1 there, else 0."""
    drops: tuple[float, ...] = ()
    """Times at which it drops."""

    def at(self, t: Array) -> Array:
        """The values at times t (S,), to the fineness of the samples; of a contact 1 where it touches, else 0."""
        if self.bars is not None:
            return np.array([float(any(start <= each <= stop for start, stop in self.bars)) for each in t.tolist()])
        return np.interp(t, self.t, self.values)

    def near(self, t: float) -> float:
        """The value at a time, to the fineness of the samples; for drawing."""
        return float(np.interp(t, self.t, self.values))


def joint_series(motion: Motion) -> list[Series]:
    """The coordinates of all joints."""
    state, found, coordinates = motion.state, motion.extremes, motion.system.coordinates
    series = []
    for i, joint in enumerate(coordinates.ids):
        limits = motion.document.joints[joint].limits
        bounds = tuple(bound for bound in (limits.min, limits.max) if bound is not None)
        low, high = float(found.low[i]), float(found.high[i])
        ends = (float(found.low_t[i]), float(found.high_t[i]))
        t, values = with_extremes(state.t, state.coordinates[:, i], (low, high), ends)
        series.append(
            Series(f"joints.{joint}", joint, coordinates.dimension(i), t, values, low, high, *ends, bounds=bounds)
        )
    return series


def contact_series(motion: Motion) -> list[Series]:
    """When each contact touches."""
    found = []
    for contact in motion.document.active_contacts.values():
        bars = tuple(spans(motion, contact.id))
        t = np.unique([0.0, motion.path.t1, *(end for bar in bars for end in bar)])
        values = np.array([float(any(start <= each <= stop for start, stop in bars)) for each in t.tolist()])
        drops = tuple(event.t for event in motion.path.events if event.owner == contact.id and event.kind == "drop")
        found.append(Series(f"joints.{contact.id}", contact.words, Dimension.NUMBER, t, values, 0.0, 1.0, 0.0, 0.0,
                            bars=bars, drops=drops))  # fmt: skip
    return found


def clearance_series(motion: Motion, approach: "Approach") -> Series | None:
    """The signed distance of two parts; None where it was not found, or not followed."""
    if approach.distance is None or not approach.samples[0].size:
        return None
    checks = [check for check in motion.document.checks.values() if set(check.parts or ()) == set(approach.parts)]
    bounds = tuple(b for check in checks[:1] for b in (check.at_least, check.at_most) if b is not None)
    t, values = approach.samples
    top = int(np.argmax(values))
    return Series(
        f"checks.{checks[0].id}" if checks else "", f"{approach.parts[0]} – {approach.parts[1]}", Dimension.LENGTH,
        t, values, approach.distance, float(values[top]), approach.t, float(t[top]), bounds, approach.parts,
        approach.short,
    )


def with_extremes(
    t: Array, values: Array, extremes: tuple[float, float], at: tuple[float, float]
) -> tuple[Array, Array]:
    """Samples at times (S,) with the extremes among them."""
    times, heights = np.append(t, at), np.append(values, extremes)
    order = np.argsort(times, kind="stable")
    return times[order], np.clip(heights[order], *extremes)


@dataclass(frozen=True)
class TracedPath:
    """What there is to say of a trace: how long its path is, and from where to where it goes along x and y (document
    lengths). `why` says why nothing can be."""

    length: float = 0.0
    x: tuple[float, float] = (0.0, 0.0)
    y: tuple[float, float] = (0.0, 0.0)
    why: str = ""
