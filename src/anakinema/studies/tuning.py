"""Tuning: which values of one parameter give a finding what is wanted of it."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document.model import Document
from ..errors import located
from ..kinematics.motion import Motion
from .asked import Build, Finding, built, finding
from .builds import Builds
from .numbers import Dial, dial

LOOKS = 25
"""Values of the parameter that are looked at first."""
CLOSE = 1e-9
"""Share of the range to which a solution is located."""


@dataclass(frozen=True)
class Break:
    """A part of the range in which the mechanism does not serve, and why."""

    low: float
    high: float
    reason: str


SURE = 1e-6
"""Share of the last decimal by which a solution may miss a round number for rounding."""
MATTERS = 1e-4
"""Share of what is wanted by which a solution that is written down may miss it."""


@dataclass(frozen=True)
class Tuning:
    """All values of a parameter (its own unit) at which a finding is what is wanted (core units): `solutions`; what it
    is over the range: `curve` (N, 2), NaN where the mechanism breaks; and the `nearest` that can be had, where nothing
    gives what is wanted."""

    dial: Dial
    finding: Finding
    wanted: float
    solutions: tuple[float, ...]
    curve: Array
    breaks: tuple[Break, ...]
    nearest: tuple[float, float] | None
    keeps: float = 0.0
    """1 where what is wanted is the lower bound of the check that is found, −1 where it is the upper one."""

    def rounded(self, value: float) -> float:
        """A solution as a hand would write it: with as many decimals as keep the finding within `MATTERS` of what is
        wanted, as the curve has it there, and two at least; rounded so that it keeps the bound that is wanted."""
        x, y = self.curve[np.isfinite(self.curve[:, 1])].T
        if x.size < 2 or not math.isfinite(value):
            return value
        k = int(np.clip(np.searchsorted(x, value), 1, x.size - 1))
        slope = float((y[k] - y[k - 1]) / (x[k] - x[k - 1]))
        allowed = MATTERS * abs(self.wanted) / abs(slope) if slope != 0.0 and self.wanted != 0.0 else 1e-4
        step = 10.0 ** -min(max(2, math.ceil(-math.log10(2.0 * allowed))), 12)
        near = round(value / step)
        if abs(value / step - near) > SURE:  # but for rounding it is that
            upward = self.keeps * slope
            near = math.ceil(value / step) if upward > 0 else math.floor(value / step) if upward < 0 else near
        return float(f"{near * step:.12g}")

    @property
    def flat(self) -> bool:
        """Whether the parameter does not change the finding."""
        found = self.curve[np.isfinite(self.curve[:, 1]), 1]
        return found.size > 1 and float(np.ptp(found)) <= 1e-7 * max(float(np.abs(found).max()), 1.0)


def tune(
    document: Document,
    parameter: str,
    name: str,
    wanted: float,
    low: float | None = None,
    high: float | None = None,
    work: CancellationToken | None = None,
    motion: Motion | None = None,
) -> Tuning:
    """All values of a parameter between `low` and `high` (its own unit; by default from half to one and a half of what
    it is) at which a finding is `wanted` (core units).

    The range is looked through evenly; between two values on either side of what is wanted the solution is found by
    Brent's method, a place where it is only touched by golden section. A jump across what is wanted is no solution.
    Raises `DocumentError` where there is no such parameter or finding, or the range is empty.
    """
    turned, asked = dial(document, parameter), finding(document, name)
    spread = abs(turned.value) / 2 or 1.0
    low = turned.value - spread if low is None else low
    high = turned.value + spread if high is None else high
    if not low < high:
        raise located(f"parameters.{parameter}", f"the range from {low:g} to {high:g} is empty")
    clearance = bool(asked.check) and document.checks[asked.check].measure == "clearance"
    builds = Builds(document, work, motion, clearance)
    looked: dict[float, Build] = {}

    def at(value: float) -> float:
        value = float(value)  # SciPy hands on numbers of its own
        if work is not None:
            work.check()
        if value not in looked:
            numbers = {parameter: turned.written(value)}
            looked[value] = built(builds, numbers, [asked], clearance, work, only=asked.check)
        return _value(looked[value], asked)

    values = sorted({*np.linspace(low, high, LOOKS).tolist(), *([turned.value] if low <= turned.value <= high else [])})
    for i, value in enumerate(values):
        at(value)
        if work is not None:
            work.done(0.7 * (i + 1) / len(values))
    breaks = _edges(values, at, looked, asked, (high - low) * 1e-6)
    values = sorted(looked)
    solutions = _solved(values, at, wanted, (high - low) * CLOSE)
    curve = np.array([(value, at(value)) for value in sorted(looked)])
    valid = curve[np.isfinite(curve[:, 1])]
    nearest = None
    if not solutions and valid.size:
        best = valid[int(np.argmin(np.abs(valid[:, 1] - wanted)))]
        nearest = (float(best[0]), float(best[1]))
    keeps = _keeps(document, asked, wanted)
    return Tuning(turned, asked, wanted, tuple(solutions), curve, tuple(breaks), nearest, keeps)


def _keeps(document: Document, asked: Finding, wanted: float) -> float:
    check = document.checks.get(asked.check)
    if check is None:
        return 0.0
    near = [sign for sign, bound in ((1.0, check.at_least), (-1.0, check.at_most))
            if bound is not None and math.isclose(bound, wanted, rel_tol=1e-9, abs_tol=1e-12)]  # fmt: skip
    return near[0] if len(near) == 1 else 0.0


def _value(build: Build, asked: Finding) -> float:
    """What a build shows; NaN where it breaks. A motion that stops on its way shows nothing that counts."""
    value = build.values.get(asked.name)
    return math.nan if build.broken or build.stopped or value is None else value


def _edges(
    values: list[float], at: Callable[[float], float], looked: dict[float, Build], asked: Finding, close: float
) -> list[Break]:
    """Where the mechanism breaks: each run of values that show nothing, its ends narrowed down."""
    found: list[Break] = []
    run: list[float] = []
    for value in [*values, math.nan]:
        if not math.isnan(value) and math.isnan(at(value)):
            run.append(value)
            continue
        if run:
            before = values[values.index(run[0]) - 1] if values.index(run[0]) else None
            low = _edge(at, run[0], before, close)
            high = _edge(at, run[-1], None if math.isnan(value) else value, close)
            build = looked[run[len(run) // 2]]
            found.append(Break(low, high, build.broken or build.stopped or "it can't be taken"))
            run = []
    return found


def _edge(at: Callable[[float], float], broken: float, sound: float | None, close: float) -> float:
    """The edge between a value at which the mechanism breaks and one at which it does not."""
    if sound is None:
        return broken
    while abs(sound - broken) > close:
        middle = (sound + broken) / 2
        broken, sound = (middle, sound) if math.isnan(at(middle)) else (broken, middle)
    return sound


def _solved(values: list[float], at: Callable[[float], float], wanted: float, close: float) -> list[float]:
    """The places at which a finding is what is wanted, from evenly spaced values."""
    off = [at(value) - wanted for value in values]
    size = max((abs(each) for each in off if math.isfinite(each)), default=0.0)
    met = 1e-9 * max(size, abs(wanted), 1.0)
    found = [value for value, each in zip(values, off, strict=True) if abs(each) <= met]

    def root(a: float, b: float) -> None:
        """Between two places on either side of what is wanted; a jump across it is none."""
        from scipy.optimize import brentq

        instead = at(a) - wanted
        x = float(brentq(lambda x: _sound(at(x) - wanted, instead), a, b, xtol=close, rtol=1e-14))
        if abs(at(x) - wanted) <= max(met, 1e-6 * size):
            found.append(x)

    def touch(a: float, b: float, c: float) -> None:
        """About a place that is nearer to what is wanted than its neighbours: only touched there, or passed twice."""
        from scipy.optimize import minimize_scalar

        instead = at(b) - wanted
        best = minimize_scalar(
            lambda x: abs(_sound(at(x) - wanted, instead)), bounds=(a, c), method="bounded",
            options={"xatol": (c - a) * 1e-6, "maxiter": 40},
        )  # fmt: skip
        x = float(best.x)
        if abs(at(x) - wanted) <= met:
            found.append(x)
        for end in (a, c):
            if (at(x) - wanted) * (at(end) - wanted) < 0:
                root(*sorted((x, end)))

    for (x, a), (y, b) in pairwise(zip(values, off, strict=True)):
        if a * b < 0 and min(abs(a), abs(b)) > met:
            root(x, y)
    for i in range(1, len(values) - 1):
        a, b, c = off[i - 1 : i + 2]
        if a * b > 0 and b * c > 0 and met < abs(b) < abs(a) and abs(b) <= abs(c):
            touch(*values[i - 1 : i + 2])
    merged: list[float] = []
    for value in sorted(found):
        if not merged or value - merged[-1] > 100 * close:
            merged.append(value)
    return merged


def _sound(value: float, otherwise: float) -> float:
    """A value, or another where the mechanism breaks at it."""
    return value if math.isfinite(value) else otherwise
