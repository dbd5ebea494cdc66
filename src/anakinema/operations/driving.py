"""Driving a joint."""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..document.changes import Remove, Set
from ..document.expressions import names
from ..document.model import Document
from ..document.written import tidy
from ..errors import DocumentError, Fault
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from ..laws import MOST_PIECES
from .building import Made, free_name


def drive(document: Document, joint: str, at: float, reach: float) -> Made:
    """A driver for a joint, from where it stands (`at`, core units): a turn for an angle, a way of `reach` for a
    length; within its limits where it has any, and to the further one where it has both. Raises `DocumentError` where
    it has no coordinate or is driven."""
    place = f"joints.{joint}"
    if any(driver.joint == joint for driver in document.drivers.values()):
        raise DocumentError([Fault(place, "is driven already")])
    one = document.joints[joint]
    dimension = JOINT_TYPES[one.type].coordinate_dimension(one.values)
    if dimension is None:
        raise DocumentError([Fault(place, f"a {one.type} joint has no coordinate to drive")])
    turns = dimension == Dimension.ANGLE
    stop = _way_to(at, math.tau if turns else reach, one.limits.min, one.limits.max)
    shown = stop * dimension.per_core(document.units)
    entry = {"joint": joint, "to": tidy(shown), "rate": "60 deg/s" if turns else f"20 {document.units.length}/s"}
    name = free_name(document.drivers, "drive")
    return Made((Set(("drivers", name), entry),), ("drivers", name))


def _way_to(at: float, reach: float, low: float | None, high: float | None) -> float:
    """Where a joint is driven to from where it stands: to the further of its limits, or so far, away from the only
    one where that is near."""
    if low is not None and high is not None:
        return high if high - at >= at - low else low
    if high is not None:
        return min(at + reach, high) if high - at > 0.05 * reach else at - reach
    return at + reach


def new_program(document: Document, points: Sequence[Sequence[float]] | None = None, name: str = "program") -> Made:
    """A program: through a table of values, else a rise, a dwell and a return to be changed on its card."""
    name = free_name(document.programs, name)
    entry: dict[str, Any] = {"segments": [
        {"over": "1 s", "to": 30, "law": "345"}, {"over": "0.5 s"}, {"over": "1 s", "to": 0, "law": "345"},
    ]}  # fmt: skip
    if points is not None:
        entry = {"points": [list(row) for row in points]}
    return Made((Set(("programs", name), entry),), ("programs", name))


def read_table(text: str) -> list[list[float]]:
    """The rows of a table of times and values in CSV or columns: separated by commas, semicolons, tabs or spaces; a
    head and empty lines are passed over. Raises `DocumentError` with the line that can't be read."""
    rows: list[list[float]] = []
    for number, line in enumerate(text.splitlines(), 1):
        words = [word for word in re.split(r"[;\t]|,(?!\d{3}\b)|\s+", line.strip().strip('"')) if word]
        if not words or line.lstrip().startswith("#"):
            continue
        try:
            row = [float(word) for word in words[:2]]
        except ValueError:
            if not rows and number <= 2:
                continue  # its head
            raise DocumentError([Fault(f"line {number}", f"two numbers are wanted, this is '{line[:60]}'")]) from None
        if len(row) < 2 or not all(map(math.isfinite, row)):
            raise DocumentError([Fault(f"line {number}", f"a time and a value are wanted, this is '{line[:60]}'")])
        rows.append(row)
        if len(rows) > MOST_PIECES:
            raise DocumentError([Fault(f"line {number}", f"more than {MOST_PIECES:,} rows; take every tenth")])
    if len(rows) < 2:
        raise DocumentError([Fault("", "no table of times and values is in it; two rows are needed at least")])
    return rows


def shifted_start(document: Document, driver: str, begin: float) -> Set:
    """The driver begins at another time (s), counted as it counts: from the start, or from the end of another."""
    value = round(begin, 6)
    return Set(("drivers", driver, "at"), f"{value:g} s")


def stretched(document: Document, driver: str, length: float) -> list[Set | Remove]:
    """The driver takes another time for one go (s): its duration. Raises `DocumentError` for one that has a program."""
    one = document.drivers[driver]
    if one.program is not None or one.follows:
        raise DocumentError([Fault(f"drivers.{driver}", "its time is that of what it follows; change that")])
    changes: list[Set | Remove] = [Remove(("drivers", driver, "rate"))] if one.rate is not None else []
    goes = one.times * (2 if one.back else 1)
    return [*changes, Set(("drivers", driver, "duration"), f"{round(max(length / goes, 1e-3), 6):g} s")]


@dataclass(frozen=True)
class Arranged:
    """Drivers in another order of time: the changes, and the expressions that these drop, by driver."""

    changes: tuple[Set | Remove, ...]
    dropped: Mapping[str, str]


def arranged(document: Document, in_a_row: bool) -> Arranged:
    """All drivers at once, or each after the one before it. One that comes after that one already keeps its wait."""
    changes: list[Set | Remove] = []
    dropped = {}
    before = ""
    for name, one in document.drivers.items():
        if one.follows:
            continue
        entry, keeps = document.tree["drivers"][name], in_a_row and bool(before) and one.after == before
        at = entry.get("at")
        if not keeps:
            if isinstance(at, str) and names(at):
                dropped[name] = at
            changes += [Remove(("drivers", name, "at")), Remove(("drivers", name, "after"))]
            if in_a_row and before:
                changes.append(Set(("drivers", name, "after"), before))
        before = name
    return Arranged(tuple(changes), dropped)
