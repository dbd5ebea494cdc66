"""What is to be said of a cam: its least radius, pressure angle, curvature, undercut, face and sliding, and what would
mend them."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..arrays import Array
from .coupling import FollowerKind
from .geometry import CamGeometry, Course
from .profile import profile, spans, spread

PLACES = 1440
"""Places of a turn that are looked at first."""
ZOOMS = 6
"""How often it is looked more closely between places."""
SAFE = 1 - 1e-5
"""Share of a limit that is used up: between the places that are looked at it may be worse by less than the rest."""
ROUGH, FINE = 361, 2881
"""The same while the best of many cams is looked for, and while it is found to the last digit."""


@dataclass(frozen=True)
class Extreme:
    """A greatest or least value, and the shaft's coordinate at which it is; infinite where there is none."""

    value: float
    at: float


@dataclass(frozen=True)
class CamJudgement:
    """What is to be said of a cam, in document lengths and rad: `base` is the least radius of the profile, `lift` how
    far the follower goes in all; `pressure` the greatest pressure angle, by size; `convex` and `hollow` the least radii
    of curvature of the profile where it bulges and where it is hollow; `undercut` the spans of a in which no profile
    makes the wanted motion; `face` how wide a flat face must be, from where to where about the follower's point, None
    without one; `sliding` how fast the follower slides over the cam at most for a rate of 1 of the shaft."""

    base: float
    lift: float
    pressure: Extreme
    convex: Extreme
    hollow: Extreme
    undercut: tuple[tuple[float, float], ...]
    face: tuple[float, float] | None
    sliding: Extreme

    @property
    def face_width(self) -> float | None:
        """How wide a flat face must be, with its middle in the follower's point; None without one."""
        return None if self.face is None else 2 * max(abs(self.face[0]), abs(self.face[1]))


@lru_cache(maxsize=256)
def judged(geometry: CamGeometry) -> CamJudgement:
    """What is to be said of a cam."""
    low, high = geometry.law.extent()
    found = _said(geometry, PLACES, ZOOMS)
    return replace(found, lift=high - low, undercut=found.undercut or profile(geometry).lost)


def glanced(geometry: CamGeometry, places: int = 720) -> CamJudgement:
    """The same from so many places alone, for a hand that is at it: each value to about the square of their step."""
    return _said(geometry, places, 0)


def _said(geometry: CamGeometry, places: int, zooms: int) -> CamJudgement:
    """The same from so many places, looked at more closely so often about each extreme."""
    a = _both_sides(geometry, spread(geometry, places))
    course = geometry.course(a)

    def extreme(value: Callable[[Course], Array]) -> Extreme:
        return _greatest(geometry, a, course, value, zooms)

    face = None
    if geometry.follower.kind.is_face:
        up, down = extreme(lambda some: some.along), extreme(lambda some: -some.along)
        face = (-down.value, up.value)
    return CamJudgement(
        base=-extreme(lambda some: -np.abs(some.profile - geometry.middle)).value,
        lift=float(np.ptp(course.lift[0])), pressure=extreme(lambda some: np.abs(some.pressure)),
        convex=_inverse(extreme(lambda some: some.curvature)), hollow=_inverse(extreme(lambda some: -some.curvature)),
        undercut=spans(a, course.undercut), face=face, sliding=extreme(lambda some: np.abs(some.sliding)),
    )  # fmt: skip


def _inverse(curvature: Extreme) -> Extreme:
    return Extreme(1.0 / curvature.value if curvature.value > 0 else math.inf, curvature.at)


def _both_sides(geometry: CamGeometry, a: Array) -> Array:
    """(N,) the places, and just before each at which pieces of the law meet: derivatives may jump there."""
    low, high = geometry.range
    joints = np.array([one for one in geometry.law.joints() if low < one <= high] + [high])
    return np.unique(np.concatenate((a[a < high], joints - 1e-12 * np.maximum(1.0, np.abs(joints)))))


def _greatest(
    geometry: CamGeometry, a: Array, course: Course, value: Callable[[Course], Array], zooms: int = ZOOMS
) -> Extreme:
    """The greatest value over places a, then so often more closely between those beside it."""
    values = value(course)
    values = np.where(np.isfinite(values), values, -np.inf)
    k = int(np.argmax(values))
    best = Extreme(float(values[k]), float(a[k]))
    if not zooms:
        return best
    joints = geometry.law.joints()
    for one, two in ((max(k - 1, 0), k), (k, min(k + 1, a.size - 1))):
        low, high = float(a[one]), float(a[two])
        if high - low < 1e-9 or any(low < joint < high for joint in joints):
            continue
        for _ in range(zooms):
            around = np.linspace(low, high, 9)
            found = value(geometry.course(around))
            k = int(np.argmax(np.where(np.isfinite(found), found, -np.inf)))
            if found[k] > best.value:
                best = Extreme(float(found[k]), float(around[k]))
            low, high = float(around[max(k - 1, 0)]), float(around[min(k + 1, 8)])
    return best


# -- what would mend it ------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Rough:
    """What is roughly to be said of a cam, for comparing many."""

    base: float
    pressure: float
    curvature: float
    sound: bool
    """Whether nothing is undercut and the follower stays on its own side of the cam's middle."""


def roughly(geometry: CamGeometry, places: int = ROUGH) -> Rough:
    """The same from few places."""
    low, high = geometry.range
    course = geometry.course(np.linspace(low, high, places, endpoint=False))
    own = course.profile - geometry.middle
    finite = np.isfinite(course.curvature)
    steepest = float(np.abs(course.pressure).max())
    sound = not course.undercut.any() and bool(((own * course.normal.conj()).real > 0).all()) and steepest < np.pi / 2
    return Rough(float(np.nanmin(np.abs(own))), steepest, float(course.curvature[finite].max(initial=0.0)), sound)


def least_base(geometry: CamGeometry, pressure: float = math.inf, radius: float = 0.0) -> CamGeometry:
    """The smallest cam, by its least radius, whose pressure angle (rad) and least convex radius of curvature keep
    limits. Raises ValueError where none does, however large."""
    rises, reach = geometry.rises, _reach(geometry)

    def fits(low: float, places: int = ROUGH) -> bool:
        other = replace(geometry, low=low)
        if other.rises != rises:  # it lies beyond the shaft
            return False
        found = roughly(other, places)
        return found.sound and found.pressure <= pressure * SAFE and found.curvature * radius <= SAFE

    ways = np.linspace(-1.5, 1.5, 181) if geometry.guide.swings else reach * np.linspace(-1.0, 3.0, 129)
    lows = (geometry.low + rises * ways).tolist()  # cams grow along them
    k = next((k for k, low in enumerate(lows) if fits(low)), None)
    if k is None:
        raise ValueError("no cam of this kind keeps these limits, however large")
    good, bad = lows[k], lows[k - 1] if k else lows[k] - rises * reach
    for places, halvings in ((ROUGH, 12), (FINE, 24)):
        step = good - bad
        while not fits(good, places):  # more places tell a little more
            good += step
        for _ in range(halvings):
            middle = (good + bad) / 2
            good, bad = (middle, bad) if fits(middle, places) else (good, middle)
    return replace(geometry, low=good)


def _reach(geometry: CamGeometry) -> float:
    low, high = geometry.law.extent()
    own = abs(geometry.guide.start - geometry.shaft.center) + geometry.follower.radius
    return max(5 * (high - low), own, roughly(geometry).base, 1e-9)


def best_offset(geometry: CamGeometry) -> CamGeometry:
    """The same with that offset of a translating follower with which the greatest pressure angle is least; the distance
    of its lowest place from the middle stays."""
    from scipy.optimize import minimize_scalar

    guide, middle = geometry.guide, geometry.shaft.center
    off = (guide.start - middle) / guide.way
    far = abs(complex(off.real + geometry.low, off.imag))

    def moved(offset: float) -> CamGeometry:
        along = math.sqrt(max(far * far - offset * offset, 0.0)) * geometry.rises
        start = middle + guide.way * complex(off.real, offset)
        return replace(geometry, guide=replace(guide, start=start), low=along - off.real)

    found = minimize_scalar(lambda offset: roughly(moved(offset)).pressure, bounds=(-0.9 * far, 0.9 * far),
                            method="bounded", options={"xatol": 1e-6 * far})  # fmt: skip
    return moved(float(found.x))


def largest_roller(geometry: CamGeometry) -> float:
    """The radius up to which a roller on the same path of its centre undercuts nothing: the least radius of curvature
    of that path where it bulges."""
    knife = replace(geometry, follower=replace(geometry.follower, kind=FollowerKind.KNIFE, radius=0.0))
    return judged(knife).convex.value


def fastest(geometry: CamGeometry, preload: float, rate: float, mass: float, metre: float) -> Extreme:
    """The speed (rad/s) of the shaft up to which a follower stays on its cam that a spring presses, and where it leaves
    first: where it is to be slowed down by more than the spring can. `preload` is the spring's force where the program
    is zero, `rate` what it gains for each length of the lift, `mass` what is moved: N and kg, with `metre` document
    lengths in a metre; of a follower that swings N·m and kg·m², with 1. Weight and friction are left out."""
    a = _both_sides(geometry, spread(geometry, PLACES))

    def able(some: Course) -> Array:
        push = preload + rate * some.lift[0] * geometry.rises
        slowed = -some.lift[2] * geometry.rises
        with np.errstate(divide="ignore", invalid="ignore"):
            found: Array = -np.where(slowed > 0, metre * push / (mass * slowed), np.inf)
        return found

    found = _greatest(geometry, a, geometry.course(a), able)
    return Extreme(math.sqrt(max(-found.value, 0.0)), found.at)
