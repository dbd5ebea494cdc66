"""Tolerances: how a design comes out when its parameters are not quite what they should be.

Worst case: every parameter at one of its ends, by the sign with which it moves a check; these builds are really moved,
so what is told is no linear estimate. Where a check bends so much within the tolerances that its worst may lie between
the ends, or a random build is worse than the ends, it is looked for there, one parameter after the other. Monte-Carlo:
many builds of random numbers, uniform within the tolerance or normal with the tolerance as three standard deviations
(common practice, no source). The share that passes has the interval of E. B. Wilson (1927) at 95 %.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document.model import Document, Tolerance
from ..errors import located
from ..findings.checks import Outcome
from ..kinds import Dimension
from .asked import Build, built, finding, is_whole, left_out
from .builds import Builds
from .many import many_built
from .numbers import Dial, Numbers, dial, toleranced

NINETY_FIVE = 1.959963984540054
"""Standard deviations of a normal distribution that hold 95 %."""
MOST = 200_000
EVEN = 1e-12
"""Difference of a check's value that is rounding (core units)."""
BENDS = 4.0
"""How many times as much a check must change from one end of a tolerance to the other as it bends between, for its
worst to be looked for at the ends only; from 2 on it is there as far as one parameter goes."""
LITTLE = 1e-4
"""Share of what all parameters do to a check, below which it does not matter how it bends."""
PLACES = (-1.0, -0.5, 0.0, 0.5, 1.0)
ROUNDS = 4


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
    worst_build: Numbers = field(default_factory=dict)
    """The numbers of the build that leaves least to a bound."""


    @property
    def why_apart(self) -> str:
        """Why chance and the worst case disagree; empty where they don't."""
        if self.share == 1.0 and not self.worst_passes:
            why = "it has all parameters at the ends of their tolerances at once, which chance hardly ever builds"
            return f"{self.check}: no build fails, but the worst case does: {why}"
        if self.share < 1.0 and self.worst_passes:
            why = "'normal' takes a tolerance for three standard deviations, and one build in 370 lies beyond it"
            return f"{self.check}: some builds fail though the worst case passes: {why}"
        return ""


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
    left_out: tuple[str, ...] = ()
    """The checks that were not judged, for they are of clearances."""

    def numbers(self, build: int) -> Numbers:
        """The numbers of one of the random builds."""
        dials = {name: dial(self.document, name) for name in self.deviations}
        return _numbers(dials, {name: float(off[build]) for name, off in self.deviations.items()})


def tolerances(
    document: Document,
    count: int = 1000,
    seed: int = 1,
    clearance: bool = True,
    jobs: int | None = None,
    work: CancellationToken | None = None,
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
    work = work or CancellationToken()
    first = many_built(
        document, [_numbers(dials, each) for each in (*nominal, *ends, *drawn)], (), clearance, jobs,
        work.part(0.0, 0.95),
    )  # fmt: skip
    checks = [name for name in document.checks if name in first[0].outcomes]
    corners = _corners(document, checks, list(given), size, first[1 : 1 + len(ends)])
    builds = first[1 + len(ends) :]
    inside = np.all([np.abs(off[each]) <= size[each] for each in given], axis=0)
    near = Builds(document, work, clearance=clearance)
    spreads = []
    values = {}
    for name in checks:
        values[name] = np.array([_told(document, name, build) for build in builds])
        asked = _Asked(document, name, near, dials, clearance, work)
        worst = []
        for way in (-1.0, 1.0):
            corner = corners[name, way]
            found, out = asked.build(corner), _furthest(np.where(inside, values[name], math.nan), way)
            beyond = out is not None and way * (values[name][out] - asked.value_of(found)) > EVEN
            if beyond or _bends(document, name, first[0], first[1 : 1 + len(ends)]):
                starts = [corner, {}] + ([drawn[out]] if out is not None else [])
                found = asked.searched(starts, size, way)
            worst.append(found)
        spreads.append(_spread(document, name, builds, values[name], off, worst))
    passing = sum(build.passes for build in builds) / count
    broken = sum(bool(build.broken or build.stopped) for build in builds)
    without = left_out(document, clearance)
    return Tolerances(document, count, seed, broken, passing, tuple(spreads), off, values, without)


def _drawn(random: np.random.Generator, one: Tolerance, count: int) -> Array:
    if one.spread == "normal":
        return random.normal(0.0, one.by / 3.0, count)
    if one.spread == "uniform":
        return random.uniform(-one.by, one.by, count)
    return one.by * random.choice((-1.0, 1.0), count)


def _numbers(dials: Mapping[str, Dial], off: Mapping[str, float]) -> dict[str, float | str]:
    """The parameters off by so much (own units): behind their own expressions, so that what depends on others still
    does."""
    found: dict[str, float | str] = {}
    for name, by in off.items():
        unit = f" {dials[name].unit}" if dials[name].unit else ""
        found[name] = f"({dials[name].expression}) + ({by!r}{unit})"
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


def _bends(document: Document, check: str, middle: Build, ends: list[Build]) -> bool:
    """Whether a check bends so much from one end of a parameter to the other that its worst may lie between them."""
    found = np.array([_told(document, check, build) for build in ends]).reshape(-1, 2)
    across = np.abs(found[:, 1] - found[:, 0])
    bent = np.abs(found.sum(axis=1) - 2 * _told(document, check, middle))
    counts = ~(bent <= LITTLE * (across.sum() + bent.sum()) + EVEN)  # what breaks at an end is looked into as well
    return bool((counts & ~(across > BENDS * bent)).any())


def _furthest(values: Array, way: float) -> int | None:
    """The random build that goes furthest one way; None where none is told."""
    return int(np.nanargmax(way * values)) if np.isfinite(values).any() else None


class _Asked:
    """One check of builds whose parameters are off by so much."""

    def __init__(
        self,
        document: Document,
        check: str,
        near: Builds,
        dials: Mapping[str, Dial],
        clearance: bool,
        work: CancellationToken,
    ):
        self.document, self.check, self.near, self.dials = document, check, near, dials
        self.clearance, self.work = clearance, work

    def build(self, off: Mapping[str, float]) -> Build:
        """The build."""
        numbers = _numbers(self.dials, off)
        return built(self.near, numbers, (), self.clearance, self.work, only=self.check)

    def value_of(self, build: Build) -> float:
        """What the check says of it."""
        return _told(self.document, self.check, build)

    def searched(self, starts: list[dict[str, float]], size: Mapping[str, float], way: float) -> Build:
        """The build that goes furthest one way: from each start along one parameter after the other, at five places
        within its tolerance and where the parabola through the best of them has its top, until nothing is gained."""
        most = -math.inf
        best = self.build(starts[0])
        for start in starts:
            at = {name: min(max(start.get(name, 0.0), -by), by) for name, by in size.items()}
            found = self.build(at)
            reached = way * self.value_of(found)
            for _ in range(ROUNDS):
                before = reached
                for name in size:
                    at, found, reached = self._along(at, found, reached, name, size[name], way)
                if not reached > before + EVEN:
                    break
            if reached > most:
                best, most = found, reached
        return best

    def _along(
        self, at: dict[str, float], found: Build, reached: float, name: str, by: float, way: float
    ) -> tuple[dict[str, float], Build, float]:
        places = [by * share for share in PLACES]
        values = []
        for place in places:
            found, at, reached, value = self._better(at, found, reached, name, place, way)
            values.append(value)
        k = int(np.argmax(np.nan_to_num(values, nan=-math.inf)))
        if 0 < k < len(places) - 1 and np.isfinite(values[k - 1 : k + 2]).all():
            low, top, high = values[k - 1 : k + 2]
            bend = low + high - 2 * top
            if bend < 0:
                place = places[k] + (places[1] - places[0]) / 2 * (low - high) / bend
                found, at, reached, _ = self._better(at, found, reached, name, place, way)
        return at, found, reached

    def _better(
        self, at: dict[str, float], found: Build, reached: float, name: str, place: float, way: float
    ) -> tuple[Build, dict[str, float], float, float]:
        there = {**at, name: place}
        build = self.build(there)
        value = way * self.value_of(build)
        if value > reached or not math.isfinite(reached):
            return build, there, value, value
        return found, at, reached, value


def _spread(
    document: Document, check: str, builds: list[Build], values: Array, off: Mapping[str, Array], worst: list[Build]
) -> Spread:
    passed = sum(build.outcomes.get(check) is Outcome.PASS and not build.stopped for build in builds)
    share, low, high = wilson(passed, len(builds))
    sound = values[np.isfinite(values)]
    none = np.array([math.nan])
    judged = sound if sound.size else none
    ends = sorted(_told(document, check, build) for build in worst)
    return Spread(
        check, "value" if is_whole(document, check) else "margin", finding(document, f"checks.{check}").dimension,
        share, low, high, float(judged.mean()), float(judged.std(ddof=1)) if judged.size > 1 else 0.0,
        float(judged.min()), float(judged.max()), (ends[0], ends[1]),
        all(build.outcomes.get(check) is Outcome.PASS and not build.stopped for build in worst),
        _matters(values, off), dict(min(worst, key=lambda build: _left(build, check)).numbers),
    )  # fmt: skip


def _left(build: Build, check: str) -> float:
    """What a build leaves to the nearer bound of a check: nothing where it breaks."""
    margin = build.margins.get(check)
    return -math.inf if build.broken or build.stopped or margin is None else margin


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
    spread = values[sound] - values[sound].mean()
    total = float(spread @ spread)
    scale = np.abs(columns).max(axis=0)
    slopes = np.linalg.lstsq(columns / np.where(scale > 0, scale, 1.0), spread, rcond=None)[0]
    brought = slopes**2 * ((columns / np.where(scale > 0, scale, 1.0)) ** 2).sum(axis=0)
    return {name: float(each / total) if total > 1e-24 * spread.size else 0.0
            for name, each in zip(off, brought, strict=True)}  # fmt: skip
