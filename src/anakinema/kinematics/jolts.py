"""Jolts: where a driver's velocity jumps, which no machine can follow."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from .drive import Drive
from .path import Path
from .stretches import Law

SMALL = 1e-6
"""Share of its greatest rate by which a driver's may jump without a jolt: rounding, and pieces that were fitted."""
WHOLE = 1e-6
"""Share of a turn by which a driver may miss whole turns and still come round."""


@dataclass(frozen=True)
class Jolt:
    """Where drivers (by name) jolt: the time, and whether they start from rest, come to rest, or change velocity."""

    t: float
    place: Literal["start", "end", "between"]
    drivers: tuple[str, ...]


def jolts(drive: Drive, path: Path, planned: float) -> tuple[Jolt, ...]:
    """The jolts of a path, in order. Before and after the motion everything stands still, unless it is steady running:
    all drivers come round by whole turns at the rate with which they set out, or a driver says that it is `running`.
    Where a motion stops early, its end is none."""
    laws = path.laws
    if not drive.drivers or not any(law.moves for law in laws):
        return ()
    steady = _comes_round(drive, laws)
    found: dict[tuple[float, str], list[str]] = {}
    for number, driver in enumerate(drive.drivers):
        fastest = _fastest(laws, number)
        runs_on = steady or driver.running
        rates = [(float(law.rates(law.t0)[number]), float(law.rates(law.t1)[number])) for law in laws]
        moments = [(laws[0].t0, rates[0][0] if runs_on else 0.0, rates[0][0])]
        moments += [(law.t1, one[1], two[0]) for law, one, two in zip(laws[:-1], rates[:-1], rates[1:], strict=True)]
        if path.dead is None and path.t1 >= planned * (1.0 - 1e-12):
            moments.append((path.t1, rates[-1][1], rates[-1][1] if runs_on else 0.0))
        still = SMALL * fastest
        for t, before, after in moments:
            if abs(after - before) > still and t <= path.t1:
                place = "start" if abs(before) <= still else "end" if abs(after) <= still else "between"
                found.setdefault((t, place), []).append(driver.id)
    return tuple(Jolt(t, place, tuple(names)) for (t, place), names in sorted(found.items()))  # type: ignore[arg-type]


def runs_on(drive: Drive, path: Path) -> bool:
    """Whether a motion is a piece of steady running: its drivers come round, or each says so."""
    if not drive.drivers or not any(law.moves for law in path.laws):
        return False
    return all(driver.running for driver in drive.drivers) or _comes_round(drive, path.laws)


def _fastest(laws: Sequence[Law], number: int) -> float:
    """The greatest rate of a driver in all laws."""
    return max(law.fastest_of([k == number for k in range(number + 1)]) for law in laws)


def _comes_round(drive: Drive, laws: Sequence[Law]) -> bool:
    """Whether all drivers end as they began: at the same rates, whole turns further on."""
    first, last = laws[0], laws[-1]
    start, stop = first.rates(first.t0), last.rates(last.t1)
    ends = [law.targets(np.array([t]))[0, : len(drive.drivers)] for law, t in ((first, first.t0), (last, last.t1))]
    gone = ends[1] - ends[0]
    coordinates = drive.system.coordinates
    for number, driver in enumerate(drive.drivers):
        fastest = _fastest(laws, number)
        if abs(stop[number] - start[number]) > SMALL * fastest:
            return False
        turns = gone[number] / math.tau
        whole = 0.0 if coordinates.is_length[coordinates.index(driver.joint)] else round(turns)
        if abs(turns - whole) > WHOLE:
            return False
    return True
