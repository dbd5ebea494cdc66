"""What the tracks of the strip show: one curve for each joint and each watched pair of parts."""

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from anakinema.document.model import Document

if TYPE_CHECKING:
    from anakinema.clearance.approach import Approach
    from anakinema.findings import Findings

LABELS = 186
TRACK = 50
EDGE = 70
"""Room at the right of the plots for the least and greatest value."""


@dataclass(frozen=True)
class Curve:
    """What a track shows: place in the document, name, dimension, samples, bounds drawn as edges."""

    place: str
    name: str
    dimension: str
    t: np.ndarray
    values: np.ndarray
    low: float
    high: float
    bounds: tuple[float, ...]
    approach: "Approach | None" = None
    failed: bool = False


def curves(document: Document, findings: "Findings") -> list[Curve]:
    """The tracks of a document: joints that a check or a limit speaks of, then clearances, the closest first, then the
    other joints."""
    motion = findings.motion
    wanted = {verdict.check.joint for verdict in findings.verdicts.values() if verdict.check.joint}
    driven = {driver.joint for driver in document.drivers.values()}
    state, found = motion.state, motion.extremes
    joints = []
    for i, joint in enumerate(motion.system.coordinates.ids):
        limits = document.joints[joint].limits
        bounds = tuple(bound for bound in (limits.min, limits.max) if bound is not None)
        failed = any(verdict.check.joint == joint for verdict in findings.failed)
        dimension = "length" if motion.system.coordinates.is_length[i] else "angle"
        low, high = float(found.low[i]), float(found.high[i])
        curve = Curve(f"joints.{joint}", joint, dimension, state.t, state.coordinates[:, i], low, high, bounds)
        rank = 0 if bounds or joint in wanted else 2
        joints.append((3 if joint in driven else rank, replace(curve, failed=failed)))
    for approach in findings.approaches:
        pair = set(approach.parts)
        about = (entry for entry in findings.verdicts.values() if set(entry.check.parts or ()) == pair)
        verdict = next(about, None)
        bounds = tuple(b for b in (verdict.check.at_least, verdict.check.at_most) if b is not None) if verdict else ()
        place = f"checks.{verdict.check.id}" if verdict else ""
        t, values = approach.samples
        high = float(values.max())
        name = f"{approach.parts[0]} – {approach.parts[1]}"
        failed = verdict is not None and not verdict.passed
        curve = Curve(place, name, "length", t, values, approach.distance, high, bounds, approach, failed)
        joints.append((-1 if failed else 1, curve))
    def first(entry: tuple[int, Curve]) -> tuple[int, float]:
        return entry[0], entry[1].low if entry[1].approach is not None else 0.0

    return [curve for _, curve in sorted(joints, key=first)]
