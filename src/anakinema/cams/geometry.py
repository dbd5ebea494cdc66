"""Where a follower touches its cam, by the envelope of what touches in the cam's own axes.

All is seen from the cam's *carrier*, the part against which its shaft turns and its follower moves. With a the shaft's
coordinate, φ the cam's angle against the carrier, s = low + f(a − start) the follower's coordinate, X(s) the place of
the follower's point and ψ(s) its angle, the point is in the cam's axes at Z = e^(−iφ) (X − D), D the place of the cam's
origin. A roller's centre goes along Z, the *pitch curve*; the profile lies a radius r inside it along the common normal
n, p = Z − r n. A flat face is a line with the normal m at the distance h = m·Z; with ω the rate at which m turns, it
touches at p = h m + (h′/ω) i m, and the radius of curvature there is h + (h′/ω)′/ω. (Envelopes of a family of circles
or lines: any differential geometry; for cams e.g. F. Y. Chen, "Mechanics and Design of Cam Mechanisms", from memory.)

Lengths in document units, angles in rad. Curvature is positive where the cam is convex. The pressure angle is that
between the common normal, into the follower, and the way on which the follower goes out: tan α = (s′ − e) / (s + d) of
a roller or knife on a line that passes the shaft at the distance e.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ..arrays import Array, Mask, Plane
from .coupling import CamLaw, Follower, FollowerKind

FEW = 90
"""Places of a turn at which it is looked first how large a cam is."""
SHARP = 1e-12
"""Rate of a path (of its reach) below which it has no direction."""
TINY = 1e-80
"""A size of which the third power, taken of a share of it, is a number still."""


@dataclass(frozen=True)
class Guided:
    """How a follower's point moves against the carrier with its coordinate s: along a line from `start` in direction
    `way` (a unit), its part at `angle`; or, where `arm` is not 0, about `pivot` at the end of an arm that lies at
    angle `angle` + `sense` s."""

    start: complex = 0j
    way: complex = 1 + 0j
    angle: float = 0.0
    pivot: complex = 0j
    arm: complex = 0j
    sense: float = 1.0

    @property
    def swings(self) -> bool:
        """Whether it turns about a pivot."""
        return self.arm != 0

    def at(self, s: Array) -> tuple[Plane, Plane, Plane]:
        """(N,) three times: the place of the point, and its first two derivatives by s."""
        if not self.swings:
            way: Plane = np.full(s.shape, self.way, dtype=np.complex128)
            none: Plane = np.zeros(s.shape, dtype=np.complex128)
            place: Plane = self.start + s * way
            return place, way, none
        out: Plane = self.arm * np.exp(1j * self.turned(s))
        step = 1j * self.sense
        first: Plane = step * out
        second: Plane = step * first
        return self.pivot + out, first, second

    def turned(self, s: Array) -> Array:
        """(N,) the angle of the follower's part against the carrier."""
        found: Array = self.angle + (self.sense * s if self.swings else np.zeros(s.shape))
        return found


@dataclass(frozen=True)
class Shaft:
    """How the cam moves against the carrier with its coordinate a: it turns about `center`, by `angle` + `sense` a; or,
    where `way` is not 0, it slides from there along it, at `angle`. `own` is that place in the cam's own axes."""

    center: complex
    own: complex = 0j
    angle: float = 0.0
    sense: float = 1.0
    way: complex = 0j

    @property
    def slides(self) -> bool:
        """Whether it is the cam of a slide, a wedge."""
        return self.way != 0


@dataclass(frozen=True)
class Course:
    """What there is over coordinates a (N,) of the shaft: the lift with three derivatives (4, N); where the follower's
    point is in the cam's axes (`pitch`); where it touches (`profile`) with the normal out of the cam; curvature of the
    profile; pressure angle; how far from the follower's point along its face it touches (0 without one), and how fast
    it slides there for a rate of 1 of the shaft. `undercut` where no profile makes it."""

    a: Array
    lift: Array
    pitch: Plane
    profile: Plane
    normal: Plane
    curvature: Array
    pressure: Array
    along: Array
    sliding: Array
    undercut: Mask

    @property
    def radius(self) -> Array:
        """(N,) of curvature: infinite where it is straight, negative where it is hollow."""
        with np.errstate(divide="ignore"):
            found: Array = 1.0 / self.curvature
        return found


@dataclass(frozen=True)
class CamGeometry:
    """A cam with what touches it. `low` is the follower's coordinate where the program is zero."""

    law: CamLaw
    shaft: Shaft
    guide: Guided
    follower: Follower
    low: float = 0.0

    @property
    def middle(self) -> complex:
        """What a radius of the cam is counted from, in its own axes."""
        return self.shaft.own

    @property
    def range(self) -> tuple[float, float]:
        """From where to where a runs, once."""
        if self.law.period:
            return self.law.start, self.law.start + self.law.period
        return self.law.start, self.law.start + self.law.stop

    def course(self, a: Array, low: Array | None = None) -> Course:
        """All there is at coordinates a (N,); with `low` (N,) that of other cams, each by a place of its follower."""
        lift = self.law.lift(a)
        s = (self.low if low is None else low) + lift[0]
        x, x1, x2 = self.guide.at(s)
        f1, f2 = lift[1:3]
        moved = x1 * f1
        z = self._in_the_cam(a, (x, moved, x2 * f1**2 + x1 * f2))
        angle = self.guide.turned(s)
        follower = self.follower
        if follower.kind.is_face:
            return self._flat(a, lift, z, angle, (x, x1, moved))
        pace = np.abs(z[1])
        goes = pace > SHARP * np.maximum(np.abs(z[0] - self.middle), TINY)
        tangent = np.where(goes, z[1] / np.where(goes, pace, 1.0), 1.0)
        normal = self.side * 1j * tangent
        bend = np.where(goes, (z[1].conj() * z[2]).imag / np.where(goes, pace, 1.0) ** 3, np.inf)
        pitch_curvature = -self.side * bend
        radius = follower.radius
        left = 1.0 - radius * pitch_curvature
        with np.errstate(divide="ignore", invalid="ignore"):
            curvature = np.where(goes, pitch_curvature / left, np.inf)
        profile = z[0] - radius * normal
        undercut = (left <= 0.0) | ~goes
        way = x1
        if follower.kind is FollowerKind.ARC and self.guide.swings:
            touch = x - radius * normal * self._turned(a)
            way = 1j * self.guide.sense * (touch - self.guide.pivot)
        pressure = self._pressure(a, normal, way)
        sliding = np.zeros(a.shape)
        if follower.kind is not FollowerKind.ROLLER:
            sliding = self._sliding(a, profile, normal, x, moved, f1)
        return Course(a, lift, z[0], profile, normal, curvature, pressure, np.zeros(a.shape), sliding, undercut)

    def _flat(
        self, a: Array, lift: Array, z: tuple[Plane, Plane, Plane], angle: Array, moves: tuple[Plane, Plane, Plane]
    ) -> Course:
        """The same of a flat face; `moves` are its point in the carrier, how that goes with s, and with a."""
        x, x1, moved = moves
        f1, f2 = lift[1], lift[2]
        turn = self._turned(a)
        line = np.exp(1j * (angle + self.follower.direction)) / turn  # along the face, in the cam's axes
        m = self._outward(1j * line, z[0])
        swings, sense = self.guide.swings, self.guide.sense
        omega = (sense * f1 if swings else np.zeros(a.shape)) - (0.0 if self.shaft.slides else self.shaft.sense)
        gain = sense * f2 if swings else np.zeros(a.shape)
        own = z[0] - self.middle
        with np.errstate(divide="ignore", invalid="ignore"):
            along = (m.conj() * z[1]).real / omega
            bent = 2 * ((1j * m).conj() * z[1]).real / omega + (m.conj() * z[2]).real / omega**2
            bent -= (m.conj() * z[1]).real * gain / omega**3
            h = (m.conj() * own).real
            profile = self.middle + h * m + (((1j * m).conj() * own).real + along) * 1j * m
            curvature = 1.0 / bent
        undercut = ~(bent > 0.0)
        touch = z[0] + along * 1j * m
        place = turn * (touch - self.middle) + self._origin(a)
        way = 1j * sense * (place - self.guide.pivot) if swings else x1
        offset = ((touch - z[0]) * line.conj()).real
        sliding = self._sliding(a, profile, m, x, moved, f1)
        pressure = self._pressure(a, m, way)
        return Course(a, lift, z[0], profile, m, curvature, pressure, offset, sliding, undercut)

    def _turned(self, a: Array) -> Plane:
        """(N,) e^(iφ)."""
        shaft = self.shaft
        if shaft.slides:
            return np.full(a.shape, np.exp(1j * shaft.angle), dtype=np.complex128)
        found: Plane = np.exp(1j * (shaft.angle + shaft.sense * a))
        return found

    def _origin(self, a: Array) -> Plane:
        """(N,) where the cam's middle is in the carrier."""
        found: Plane = np.asarray(self.shaft.center + a * self.shaft.way, dtype=np.complex128)
        return found

    def _in_the_cam(self, a: Array, moved: tuple[Plane, Plane, Plane]) -> tuple[Plane, Plane, Plane]:
        """(N,) three times: a place that moves in the carrier, in the cam's axes, with its first two derivatives by
        a."""
        x, x1, x2 = moved
        off, off1 = x - self._origin(a), x1 - self.shaft.way
        back: Plane = 1.0 / self._turned(a)
        if self.shaft.slides:
            slid: Plane = self.shaft.own + back * off
            return slid, back * off1, back * x2
        rate = -1j * self.shaft.sense
        place: Plane = self.shaft.own + back * off
        first: Plane = back * (off1 + rate * off)
        second: Plane = back * (x2 + 2 * rate * off1 + rate**2 * off)
        return place, first, second

    @cached_property
    def side(self) -> float:
        """On which side of its way in the cam's axes a follower lies: 1 to the left of it."""
        if not self.shaft.slides:
            return self.shaft.sense  # seen from a cam that turns counter-clockwise, followers go clockwise about it
        a = np.array([sum(self.range) / 2])
        _, x1, _ = self.guide.at(self.low + self.law.lift(a)[0])
        out = x1[0] / self._turned(a)[0] * self.rises
        along = -self.shaft.way / self._turned(a)[0]
        return 1.0 if (along.conjugate() * out).imag > 0 else -1.0

    @cached_property
    def rises(self) -> float:
        """1 where the follower goes away from the cam for a growing coordinate, else −1."""
        if self.shaft.slides:
            return 1.0
        a = np.linspace(*self.range, 17)
        s = self.low + self.law.lift(a)[0]
        x, x1, _ = self.guide.at(s)
        away = ((x - self.shaft.center).conj() * x1).real
        if self.follower.kind.is_face:  # what counts is on which side of the middle the face lies
            line = np.exp(1j * (self.guide.turned(s) + self.follower.direction)) * 1j
            off = ((x - self.shaft.center) * line.conj()).real
            away = np.sign(off) * (x1 * line.conj()).real
        return 1.0 if float(away.sum()) >= 0 else -1.0

    def _outward(self, m: Plane, z: Plane) -> Plane:
        """A face's normal, out of the cam."""
        if not self.shaft.slides:
            off = ((z - self.middle) * m.conj()).real
            return m if float(off.sum()) >= 0 else -m
        a = np.array([sum(self.range) / 2])
        _, x1, _ = self.guide.at(self.low + self.law.lift(a)[0])
        out = x1[0] / self._turned(a)[0]
        return m if float((m * np.conj(out)).real.sum()) >= 0 else -m

    def _pressure(self, a: Array, normal: Plane, way: Plane) -> Array:
        """(N,) the pressure angle, positive where the follower goes out for a growing coordinate of the shaft (of a
        follower in line with its shaft; an offset shifts it)."""
        found: Array = self.side * np.angle(self._turned(a) * normal / (self.rises * way))
        return found

    def _sliding(self, a: Array, profile: Plane, normal: Plane, x: Plane, moved: Plane, f1: Array) -> Array:
        """(N,) how fast the follower slides over the cam along the face, for a rate of 1 of the shaft."""
        turn = self._turned(a)
        place = turn * (profile - self.middle) + self._origin(a)
        of_cam = np.full(a.shape, self.shaft.way) if self.shaft.slides else (
            1j * self.shaft.sense * (place - self._origin(a)))  # fmt: skip
        of_follower = moved + (1j * self.guide.sense * f1 * (place - x) if self.guide.swings else 0.0)
        found: Array = ((of_follower - of_cam) * (1j * turn * normal).conj()).real
        return found

    def across(self, count: int = 720) -> tuple[float, float, float]:
        """How far apart two followers across the cam would be, least and greatest, as they go half a turn one behind
        the other, and where that changes most: it stays for a yoke. NaN where there is none across: the follower
        swings, its way passes the shaft aside, or the cam slides."""
        guide, follower = self.guide, self.follower
        aside = ((guide.start - self.shaft.center) / guide.way).imag if not guide.swings else 0.0
        a = np.linspace(*self.range, count, endpoint=False)
        if guide.swings or self.shaft.slides or (not follower.kind.is_face and abs(aside) > 1e-9 * self.least_radius()):
            return np.nan, np.nan, float(a[0])
        one, two = self.course(a), self.course(a + np.pi)
        far = np.zeros(a.size)
        for side in (one, two):
            off = side.pitch - self.middle
            far += (off * side.normal.conj()).real if follower.kind.is_face else np.abs(off)
        k = int(np.argmax(np.abs(far - far[0])))
        return float(far.min()), float(far.max()), float(a[k])

    def least_radius(self, count: int = 720) -> float:
        """The profile's least radius."""
        a = np.linspace(*self.range, count + 1)
        for _ in range(3):  # so many places, then as many between those beside the least
            radii = self._radii(a)
            k = int(np.nanargmin(radii))
            a = np.linspace(a[max(k - 1, 0)], a[min(k + 1, a.size - 1)], 65)
        return min(float(np.nanmin(radii)), float(np.nanmin(self._radii(a))))

    def _radii(self, a: Array, low: Array | None = None) -> Array:
        found: Array = np.abs(self.course(a, low).profile - self.middle)
        return found

    def with_least_radius(self, radius: float, fine: bool = True) -> "CamGeometry":
        """The same where the profile's least radius is so long; not `fine` to some millionths, for a hand that is at
        it. Raises ValueError where no place makes it so."""
        from scipy.optimize import brentq

        reach = 4 * (radius + abs(self.guide.start - self.shaft.center) + abs(self.low))
        if self.guide.swings:
            reach = np.pi

        few = np.linspace(*self.range, 361)

        def short(low: float) -> float:
            if fine:
                return replace(self, low=low).least_radius() - radius
            return float(np.nanmin(self._radii(few, np.full(few.size, low)))) - radius

        for far in (reach / 64, reach):  # near where it is now, else anywhere
            found = self._around(far, radius)
            if found is None:
                continue
            for wider in (0.0, 1.0):  # few places tell a little less than many
                low, high = found[0] - wider * (found[1] - found[0]), found[1] + wider * (found[1] - found[0])
                try:
                    low = brentq(short, low, high, xtol=1e-13 if fine else 1e-7 * radius, rtol=1e-15)
                except ValueError:
                    continue
                return replace(self, low=float(low))
        raise ValueError("the follower can't be placed so that this is the least radius")

    def _around(self, far: float, radius: float) -> tuple[float, float] | None:
        """Two coordinates of the follower, close to each other, between which the least radius gets that long, growing
        with the cam: those nearest to where it is now, no further than `far`; None where there are none."""
        a, low, high = np.linspace(*self.range, FEW + 1), self.low - far, self.low + far
        for _ in range(2):
            tries = np.linspace(low, high, 33)
            radii = self._radii(np.tile(a, tries.size), np.repeat(tries, a.size)).reshape(tries.size, -1)
            values = (np.nanmin(radii, axis=1) - radius) * self.rises
            places = np.flatnonzero((values[:-1] <= 0) & (values[1:] >= 0))
            if not places.size:
                return None
            k = int(places[np.argmin(np.abs(tries[places] - self.low))])
            low, high = float(tries[k]), float(tries[k + 1])
        return low, high
