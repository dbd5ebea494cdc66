"""Tolerances: how a design comes out when its parameters are not quite what they should be.

Worst case: every parameter at one of its ends, by the sign with which it moves a check; these builds are really moved,
so what is told is no linear estimate. Monte-Carlo: many builds of random numbers, uniform within the tolerance or
normal with the tolerance as three standard deviations (common practice, no source). The share that passes has the
interval of E. B. Wilson (1927) at 95 %.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..document.model import Document, Tolerance
from ..errors import located
from ..findings.checks import Outcome
from ..kinds import Dimension
from ..work import Work
from .asked import Build, finding, is_whole
from .many import many_built
from .numbers import Dial, dial

NINETY_FIVE = 1.959963984540054
"""Standard deviations of a normal distribution that hold 95 %."""
MOST = 200_000


@dataclass(frozen=True)
class Spread:
    """A check over all builds: the `share` that passes with its interval, mean, standard deviation, least and greatest
    of its value (core units), the value in the worst case both ways, and the share of the variance that each parameter
    brings (of a linear fit; what they don't explain is left)."""

    check: str
    of: str
    dimension: Dimension
    share: float
    low_share: float
    high_share: float
    mean: float
    deviation: float
    least: float
    greatest: float
    worst: tuple[float, float]
    worst_passes: bool
    matters: Mapping[str, float]


@dataclass(frozen=True)
class Tolerances:
    """All checks over `count` builds made from a seed, `broken` of which could not be put together or moved."""

    document: Document
    count: int
    seed: int
    broken: int
    passing: float
    """The share of builds in which every check passes."""
    spreads: tuple[Spread, ...]
    deviations: Mapping[str, Array]
    """What each parameter is off by in each build (its own unit)."""
    values: Mapping[str, Array]
    """The value of each check in each build (core units; NaN where there is none)."""


def toleranced(document: Document) -> dict[str, Tolerance]:
    """The parameters that have a tolerance."""
    return {name: one.tolerance for name, one in document.parameters.items() if one.tolerance is not None}


def tolerances(
    document: Document,
    count: int = 1000,
    seed: int = 1,
    clearance: bool = True,
    jobs: int | None = None,
    work: Work | None = None,
) -> Tolerances:
    """How every check comes out over `count` random builds and in the worst case. Raises `DocumentError` where no
    parameter has a tolerance, or there are no checks."""
    given = toleranced(document)
    if not given:
        raise located("parameters", "none has a tolerance; give one to those that vary")
    if not document.checks:
        raise located("checks", "there are none; write down what the design must do")
    if not 1 <= count <= MOST:
        raise located("parameters", f"from 1 to {MOST:,} builds are made, not {count:,}")
    dials = {name: dial(document, name) for name in given}
    size = {name: one.by for name, one in given.items()}
    random = np.random.default_rng(seed)
    off = {name: _drawn(random, one, count) for name, one in given.items()}
    nominal: list[dict[str, float]] = [{}]
    ends = [{name: sign * size[name]} for name in given for sign in (-1.0, 1.0)]
    drawn = [{name: float(off[name][k]) for name in given} for k in range(count)]
    work = work or Work()
    first = many_built(
        document, [_numbers(document, dials, each) for each in (*nominal, *ends, *drawn)], (), clearance, jobs,
        work.part(0.0, 0.9),
    )  # fmt: skip
    checks = [name for name in document.checks if name in first[0].outcomes]
    corners = _corners(document, checks, list(given), size, first[1 : 1 + len(ends)])
    keyed = {tuple(sorted(corner.items())): corner for corner in corners.values()}
    moved = many_built(document, [_numbers(document, dials, each) for each in keyed.values()], (), clearance, 1,
                       work.part(0.9, 1.0))  # fmt: skip
    at_corner = dict(zip(keyed, moved, strict=True))
    builds = first[1 + len(ends) :]
    spreads = []
    values = {}
    for name in checks:
        values[name] = np.array([_told(document, name, build) for build in builds])
        worst = [at_corner[tuple(sorted(corners[name, sign].items()))] for sign in (-1.0, 1.0)]
        spreads.append(_spread(document, name, builds, values[name], off, worst))
    passing = sum(build.passes and not build.stopped for build in builds) / count
    broken = sum(bool(build.broken or build.stopped) for build in builds)
    return Tolerances(document, count, seed, broken, passing, tuple(spreads), off, values)


def _drawn(random: np.random.Generator, one: Tolerance, count: int) -> Array:
    if one.spread == "normal":
        return random.normal(0.0, one.by / 3.0, count)
    if one.spread == "uniform":
        return random.uniform(-one.by, one.by, count)
    return one.by * random.choice((-1.0, 1.0), count)


def _numbers(document: Document, dials: Mapping[str, Dial], off: Mapping[str, float]) -> dict[str, float | str]:
    """The parameters off by so much (own units): behind their own expressions, so that what depends on others still
    does."""
    found: dict[str, float | str] = {}
    for name, by in off.items():
        unit = f" {dials[name].unit}" if dials[name].unit else ""
        found[name] = f"({document.parameters[name].expression}) + ({by!r}{unit})"
    return found


def _told(document: Document, check: str, build: Build) -> float:
    """A check's value, or its margin where the value jumps between two bounds; NaN where there is none."""
    if build.broken or build.stopped:
        return math.nan
    found = build.found.get(check) if is_whole(document, check) else build.margins.get(check)
    return math.nan if found is None else found


def _corners(
    document: Document, checks: list[str], names: list[str], size: Mapping[str, float], ends: list[Build]
) -> dict[tuple[str, float], dict[str, float]]:
    """The ends at which every parameter stands in the worst case of each check, either way."""
    found = {}
    for check in checks:
        signs = {}
        for i, name in enumerate(names):
            low, high = (_told(document, check, ends[2 * i + k]) for k in range(2))
            signs[name] = -1.0 if high < low else 1.0
        for way in (-1.0, 1.0):
            found[check, way] = {name: way * signs[name] * size[name] for name in names}
    return found


def _spread(
    document: Document, check: str, builds: list[Build], values: Array, off: Mapping[str, Array], worst: list[Build]
) -> Spread:
    passed = sum(build.outcomes.get(check) is Outcome.PASS and not build.stopped for build in builds)
    share, low, high = wilson(passed, len(builds))
    sound = values[np.isfinite(values)]
    none = np.array([math.nan])
    told = sound if sound.size else none
    ends = sorted(_told(document, check, build) for build in worst)
    return Spread(
        check, "value" if is_whole(document, check) else "margin", finding(document, f"checks.{check}").dimension,
        share, low, high, float(told.mean()), float(told.std(ddof=1)) if told.size > 1 else 0.0,
        float(told.min()), float(told.max()), (ends[0], ends[1]),
        all(build.outcomes.get(check) is Outcome.PASS and not build.stopped for build in worst),
        _matters(values, off),
    )  # fmt: skip


def wilson(passed: int, count: int) -> tuple[float, float, float]:
    """A share with its interval at 95 % (E. B. Wilson, Probable inference, 1927)."""
    z2, share = NINETY_FIVE**2, passed / count
    middle = (share + z2 / (2 * count)) / (1 + z2 / count)
    half = NINETY_FIVE / (1 + z2 / count) * math.sqrt(share * (1 - share) / count + z2 / (4 * count**2))
    return share, max(0.0, middle - half), min(1.0, middle + half)


def _matters(values: Array, off: Mapping[str, Array]) -> dict[str, float]:
    """The share of the variance that each parameter brings, by least squares."""
    sound = np.isfinite(values)
    if np.count_nonzero(sound) <= len(off) + 1:
        return dict.fromkeys(off, 0.0)
    columns = np.stack([each[sound] - each[sound].mean() for each in off.values()], axis=1)
    told = values[sound] - values[sound].mean()
    total = float(told @ told)
    scale = np.abs(columns).max(axis=0)
    slopes = np.linalg.lstsq(columns / np.where(scale > 0, scale, 1.0), told, rcond=None)[0]
    brought = slopes**2 * ((columns / np.where(scale > 0, scale, 1.0)) ** 2).sum(axis=0)
    return {name: float(each / total) if total > 1e-24 * told.size else 0.0
            for name, each in zip(off, brought, strict=True)}  # fmt: skip
