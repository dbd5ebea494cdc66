"""Involute teeth of wheels, internal wheels and racks, as lines and arcs, with what is to be known of a pair.

Of a wheel with z teeth of module m, pressure angle α and shift x (in modules, outward): pitch radius r = m z / 2, base
radius r cos α, tip r + m (a + x), root r − m (d − x), a and d being addendum and dedendum in modules. Half a tooth's
angle at a radius ρ is s / 2r + inv α − inv α_ρ, with s = m (π/2 + 2 x tan α) the tooth's thickness on the pitch circle,
less the backlash, and cos α_ρ = r cos α / ρ. Roots are what a rack cuts whose tips are rounded with the largest radius
that leaves its flanks straight over the addendum, (d − a) / (1 − sin α) modules (0.38 for the basic rack of ISO 53). An
internal wheel's teeth are the spaces of such a wheel; its shift moves them outward too, its roots are sharp.
(Formulas: ISO 21771, from memory.)

Angles in rad, lengths in document units; teeth are counted counter-clockwise, the middle of the first at angle 0.
"""

import cmath
import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from ..arrays import Array, Plane
from .biarcs import along
from .contours import Turn

FINE = 1e-6
"""By how much lines and arcs may miss a tooth, as a share of the wheel's tip radius."""
DRAWN_IN, MISSED = 0.6, 0.3
"""Of that: by how much each flank is drawn in, so that what meshes without backlash never cuts in; and by how much
lines and arcs may miss the rest."""
Ring = tuple[complex, tuple[Turn, ...]]


def inv(angle: float) -> float:
    """The involute function tan α − α."""
    return math.tan(angle) - angle


def angle_of(value: float) -> float:
    """The angle (rad, up to a right one) whose involute function has a value, by Newton from Cheng's estimate.

    >>> round(math.degrees(angle_of(inv(math.radians(23.5)))), 9)
    23.5
    """
    angle = (3 * value) ** (1 / 3) if value < 1.8 else math.atan(value + math.pi / 2)
    for _ in range(40):
        step = (inv(angle) - value) / max(math.tan(angle) ** 2, 1e-300)
        angle = min(max(angle - step, 1e-9), math.pi / 2 - 1e-9)
        if abs(step) < 1e-15:
            break
    return angle


@dataclass(frozen=True)
class Teeth:
    """The teeth of a wheel, or of an internal one; those of a rack have `count` 0 and its pitch line as x axis."""

    module: float
    count: int
    pressure: float = math.radians(20)
    shift: float = 0.0
    backlash: float = 0.0
    addendum: float = 1.0
    dedendum: float = 1.25
    internal: bool = False

    @property
    def pitch_radius(self) -> float:
        """r."""
        return self.module * self.count / 2

    @property
    def base_radius(self) -> float:
        """r cos α."""
        return self.pitch_radius * math.cos(self.pressure)

    @property
    def tip_radius(self) -> float:
        """Of the circle through the tips."""
        sign = -1.0 if self.internal else 1.0
        return self.pitch_radius + self.module * (sign * self.addendum + self.shift)

    @property
    def root_radius(self) -> float:
        """Of the circle along the roots."""
        sign = -1.0 if self.internal else 1.0
        return self.pitch_radius - self.module * (sign * self.dedendum - self.shift)

    @property
    def tip_fillet(self) -> float:
        """Radius of the tips of the rack that cuts them."""
        clear = max(self.dedendum - self.addendum, 0.0)
        sine, tangent, cosine = math.sin(self.pressure), math.tan(self.pressure), math.cos(self.pressure)
        most = (math.pi / 4 - self.dedendum * tangent) * cosine / (1 - sine)  # then it is all round
        return self.module * max(min(clear / (1 - sine), most), 0.0)

    def half_angle(self, radius: float) -> float:
        """Half the angle of a tooth at a radius, of an internal wheel half that of a space; below zero where the flanks
        have crossed."""
        if radius < self.base_radius:
            raise ValueError("there is no involute below the base circle")
        thick = self.module * (math.pi / 2 + 2 * self.shift * math.tan(self.pressure))
        thick += self.backlash if self.internal else -self.backlash
        at = math.acos(min(self.base_radius / radius, 1.0))
        return thick / (2 * self.pitch_radius) + inv(self.pressure) - inv(at)

    @property
    def least_shift(self) -> float:
        """The shift from which a rack does not cut away the foot of the flank."""
        straight = self.dedendum - self.tip_fillet / self.module * (1 - math.sin(self.pressure))
        return straight - self.count * math.sin(self.pressure) ** 2 / 2

    @property
    def undercut(self) -> bool:
        """Whether a rack cuts into the foot of the flank."""
        return not self.internal and self.count > 0 and self.shift < self.least_shift - 1e-9

    @property
    def most_shift(self) -> float:
        """The shift up to which the teeth do not come to a point."""
        low, high = -2.0, 4.0
        for _ in range(60):
            middle = (low + high) / 2
            other = Teeth(self.module, self.count, self.pressure, middle, self.backlash, self.addendum, self.dedendum)
            pointed = other.tip_radius > other.base_radius and other.half_angle(other.tip_radius) <= 0
            low, high = (low, middle) if pointed else (middle, high)
        return low

    # -- curves ------------------------------------------------------------------------------------------------

    def flank(self, roll: Array) -> tuple[Plane, Plane]:
        """(N,) places of the flank that lies counter-clockwise of the tooth's middle (of a space's, of an internal
        wheel), by the angle of roll tan α_ρ, and the unit tangents outward."""
        at = np.arctan(roll)
        polar = self.half_angle(self.pitch_radius) + inv(self.pressure) - (roll - at)
        place: Plane = self.base_radius * np.hypot(1.0, roll) * np.exp(1j * polar)
        ahead: Plane = np.exp(1j * (polar - at))  # an involute leaves its base circle along the radius
        return place, ahead

    def roll(self, radius: float) -> float:
        """The angle of roll at a radius."""
        return math.sqrt(max((radius / self.base_radius) ** 2 - 1.0, 0.0))

    @property
    def _tip_middle(self) -> tuple[float, float]:
        """The middle of the round of a rack's tip: beside the tooth's middle, and below the pitch line."""
        m, rho, tangent = self.module, self.tip_fillet, math.tan(self.pressure)
        beside = m * math.pi / 4 - (self.dedendum * m - rho) * tangent - rho / math.cos(self.pressure)
        return beside + self.backlash / 2, (self.dedendum - self.shift) * m - rho

    def trochoid(self, u: Array) -> tuple[Plane, Plane]:
        """(N,) places of the root's curve on the same side of the space that follows counter-clockwise, by the rack's
        way u from the middle of that space, and unit tangents for growing u."""
        r, rho = self.pitch_radius, self.tip_fillet
        offset, depth = self._tip_middle
        center = (offset + u) + 1j * (r - depth)
        away = center - 1j * r
        size = np.abs(away)
        out = np.where(size > 0, away / np.where(size > 0, size, 1.0), -1j)
        turned = np.exp(1j * u / r)
        place: Plane = turned * (center + rho * out)
        # Of a rolling rack all moves about the pitch point, so that the tangent is square to the way from there.
        point = center + rho * out - 1j * r
        step = turned * 1j * point
        length = np.abs(step)
        ahead: Plane = np.where(length > 0, step / np.where(length > 0, length, 1.0), 1.0)
        return place, ahead

    @cached_property
    def trochoid_ends(self) -> tuple[float, float, float]:
        """Where the rack stands (u) at the bottom of the root and where its curve meets the flank, and the radius
        there."""
        m = self.module
        offset, depth = self._tip_middle
        bottom = -offset
        if not self.undercut:
            meets = depth / math.tan(self.pressure) - offset if depth > 0 else bottom
            # There the way from the pitch point to the tip's middle is square to the rack's flank.
            place, _ = self.trochoid(np.array([meets]))
            return bottom, meets, max(float(abs(place[0])), self.base_radius)
        from scipy.optimize import brentq

        space = math.pi / self.count

        def beside(u: float) -> float:
            """By how much the curve lies within the tooth, by angle."""
            place, _ = self.trochoid(np.array([u]))
            z = complex(place[0])
            radius = max(abs(z), self.base_radius)
            tooth = space - self.half_angle(radius)  # half of the space at that radius
            return (math.pi / 2 - cmath.phase(z)) - tooth

        u = np.linspace(bottom, bottom + 3 * m * math.pi, 400)
        inside = np.array([beside(one) for one in u.tolist()])
        radii = np.abs(self.trochoid(u)[0])
        crossing = [k for k in range(u.size - 1) if inside[k] > 0 >= inside[k + 1] and radii[k + 1] > self.base_radius]
        crossing = crossing or [k for k in range(u.size - 1) if inside[k] <= 0 < inside[k + 1]
                                and radii[k + 1] > self.base_radius]  # fmt: skip
        if not crossing:
            raise ValueError("the rack leaves nothing of the flanks")
        k = crossing[-1]
        meets = float(brentq(beside, u[k], u[k + 1], xtol=1e-14))
        return bottom, meets, float(abs(self.trochoid(np.array([meets]))[0][0]))


@lru_cache(maxsize=64)
def wheel(teeth: Teeth) -> Ring:
    """The outline of a wheel about 0; of an internal one that of its hole. Raises ValueError where there is none."""
    size = max(teeth.tip_radius, teeth.root_radius)
    allowed = MISSED * FINE * size
    drawn = Teeth(teeth.module, teeth.count, teeth.pressure, teeth.shift, teeth.backlash + 2 * DRAWN_IN * FINE * size,
                  teeth.addendum, teeth.dedendum, teeth.internal)  # fmt: skip
    half = _inner_half(drawn, allowed) if teeth.internal else _outer_half(drawn, allowed)
    return _all_round(half, teeth.count)


Half = tuple[complex, list[Turn]]
"""Half a tooth, from its middle counter-clockwise to the middle of the space (of a space to the middle of a tooth)."""


def _outer_half(teeth: Teeth, allowed: float) -> Half:
    tip = teeth.tip_radius
    thick = teeth.half_angle(tip)
    if thick <= 0:
        raise ValueError("the teeth are pointed")
    bottom, meets, radius = teeth.trochoid_ends
    radius = min(radius, tip)
    turns: list[Turn] = [(cmath.rect(tip, thick), 0j, True)]
    turns += along(teeth.flank, teeth.roll(tip), teeth.roll(radius), allowed)
    space = cmath.rect(1.0, math.pi / teeth.count)
    # The space's curve stands about the y axis, its right half being that of the tooth clockwise of it.
    turn = space / 1j

    def root(u: Array) -> tuple[Plane, Plane]:
        place, ahead = teeth.trochoid(u)
        return turn * place, turn * ahead

    if abs(meets - bottom) > 1e-12 * teeth.module:
        start = complex(root(np.array([meets]))[0][0])
        if abs(start - turns[-1][0]) > allowed / 100:
            turns.append((start, None, True))
        turns += along(root, meets, bottom, allowed)
    low = space * teeth.root_radius
    here = turns[-1][0]
    if abs(here - low) > 1e-12 * tip:
        turns.append((low, 0j, True))
    return complex(tip), turns


def _inner_half(teeth: Teeth, allowed: float) -> Half:
    """Half of a space, from its middle at the root, to the middle of a tooth at its tip."""
    root, tip = teeth.root_radius, teeth.tip_radius
    wide = teeth.half_angle(root)
    if tip < teeth.base_radius:
        raise ValueError("the tips reach below the base circle")
    turns: list[Turn] = [(cmath.rect(root, max(wide, 0.0)), 0j, True)] if wide > 0 else []
    if wide <= 0:
        raise ValueError("the spaces are pointed")
    turns += along(teeth.flank, teeth.roll(root), teeth.roll(tip), allowed)
    end = cmath.rect(tip, math.pi / teeth.count)
    if math.pi / teeth.count - cmath.phase(turns[-1][0]) <= 0:
        raise ValueError("the teeth are pointed")
    turns.append((end, 0j, True))
    return complex(root), turns


def _all_round(half: Half, count: int) -> Ring:
    start, turns = half
    back: list[Turn] = []
    places = [start, *(to for to, _, _ in turns)]
    for k in range(len(turns) - 1, -1, -1):  # the other half, turned over and run backwards
        _, center, ccw = turns[k]
        back.append((places[k].conjugate(), None if center is None else center.conjugate(), ccw))
    step = cmath.rect(1.0, math.tau / count)
    whole: list[Turn] = []
    for number in range(count):
        here, there = step**number, step ** (number + 1)
        whole += [(to * here, None if center is None else center * here, ccw) for to, center, ccw in turns]
        whole += [(to * there, None if center is None else center * there, ccw) for to, center, ccw in back]
    whole[-1] = (start, whole[-1][1], whole[-1][2])
    return start, tuple(whole)


def ring_halves(teeth: Teeth, rim: float) -> tuple[Ring, ...]:
    """The outline of an internal wheel with a rim of that radius, as two halves side by side, cut through the middles
    of two spaces."""
    start, turns = wheel(teeth)
    each = len(turns) // teeth.count
    cut = each * (teeth.count // 2)
    middle = turns[cut - 1][0]
    found = []
    for here, some, out in ((start, turns[:cut], middle), (middle, turns[cut:], start)):
        # Along the teeth, out to the rim, and back along it.
        far, near = out / abs(out) * rim, here / abs(here) * rim
        found.append((here, (*some, (far, None, True), (near, 0j, False), (here, None, True))))
    return tuple(found)


def rack_outline(teeth: Teeth, count: int, back: float) -> Ring:
    """The outline of a rack of so many teeth from 0 along the x axis, its pitch line, with the middle of the first
    tooth at half a pitch and its teeth upward; `back` below the roots."""
    m, tangent = teeth.module, math.tan(teeth.pressure)
    pitch = math.pi * m
    size = pitch * count
    thin = teeth.backlash / 2 + DRAWN_IN * FINE * size
    high, low = (teeth.addendum + teeth.shift) * m, (teeth.shift - teeth.dedendum) * m
    half = math.pi * m / 4 + teeth.shift * m * tangent - thin
    if half - high * tangent <= 0:
        raise ValueError("the teeth are pointed")
    if half - low * tangent >= pitch / 2:
        raise ValueError("the roots are pointed")
    turns: list[Turn] = []
    for k in range(count):
        middle = (k + 0.5) * pitch
        for x, y in ((-(half - low * tangent), low), (-(half - high * tangent), high), (half - high * tangent, high),
                     (half - low * tangent, low)):  # fmt: skip
            turns.append((complex(middle + x, y), None, True))
    turns += [(complex(size, low), None, True), (complex(size, low - back), None, True),
              (complex(0, low - back), None, True), (complex(0, low), None, True)]  # fmt: skip
    return complex(0, low), tuple(turns)


# -- pairs -------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Mesh:
    """What is to be known of two wheels (or a wheel and a rack) in mesh: the working distance of their axes (of a
    rack's pitch line from the axis), that without backlash, contact ratio, backlash along the pitch circle, whether one
    is undercut, and whether a tip meets the other's flank below where that is an involute."""

    distance: float
    tight: float
    contact_ratio: float
    backlash: float
    undercut: bool
    interferes: bool


def mesh(one: Teeth, two: Teeth, distance: float) -> Mesh:
    """Of two wheels whose axes are so far apart; an internal one is the second. Raises ValueError where they are too
    close for any involute to touch."""
    alpha, m = one.pressure, one.module
    total = two.count - one.count if two.internal else one.count + two.count
    reference = m * total / 2
    tight = tight_distance(one, two)
    if distance <= reference * math.cos(alpha):
        raise ValueError("the axes are closer than the base circles allow")
    working = math.acos(reference * math.cos(alpha) / distance)
    base1, base2 = one.base_radius, two.base_radius
    reach1 = math.sqrt(max(one.tip_radius**2 - base1**2, 0.0))
    reach2 = math.sqrt(max(two.tip_radius**2 - base2**2, 0.0))
    pitch = math.pi * m * math.cos(alpha)
    line = distance * math.sin(working)
    foot1 = math.sqrt(max(_foot(one) ** 2 - base1**2, 0.0))
    foot2 = math.sqrt(max(_foot(two) ** 2 - base2**2, 0.0))
    if two.internal:  # from where the ring's tips, or the feet of the pinion's flanks, begin to touch
        ratio = (reach1 - max(reach2 - line, foot1)) / pitch
    else:
        ratio = (min(reach1, line - foot2) - max(line - reach2, foot1)) / pitch
    # Play along the working pitch circle: the pitch less both thicknesses there; told along the reference one.
    r1 = base1 / math.cos(working)
    r2 = base2 / math.cos(working)
    if two.internal:
        play = 2 * r2 * two.half_angle(r2) - 2 * r1 * one.half_angle(r1)
    else:
        play = math.tau * r1 / one.count - 2 * r1 * one.half_angle(r1) - 2 * r2 * two.half_angle(r2)
    if two.internal:
        interferes = reach2 - line < foot1 - 1e-9 * m or two.tip_radius < base2
    else:
        interferes = line - reach2 < foot1 - 1e-9 * m or line - reach1 < foot2 - 1e-9 * m
    play *= math.cos(working) / math.cos(alpha)
    return Mesh(distance, tight, ratio, play, one.undercut or two.undercut, interferes)


def mesh_with_rack(one: Teeth, rack: Teeth, distance: float) -> Mesh:
    """Of a wheel and a rack whose pitch line is so far from its axis."""
    alpha, m, r = one.pressure, one.module, one.pitch_radius
    apart = distance - r
    above = (rack.addendum + rack.shift) * m - apart
    reach = math.sqrt(max(one.tip_radius**2 - one.base_radius**2, 0.0)) - r * math.sin(alpha)
    foot = math.sqrt(max(_foot(one) ** 2 - one.base_radius**2, 0.0))
    ratio = (reach + min(above / math.sin(alpha), r * math.sin(alpha) - foot)) / (math.pi * m * math.cos(alpha))
    tight = r + (one.shift + rack.shift) * m - (one.backlash + rack.backlash) / (2 * math.tan(alpha))
    play = 2 * (distance - tight) * math.tan(alpha)
    interferes = above > r * math.sin(alpha) ** 2 + 1e-9 * m and above / math.sin(alpha) > r * math.sin(alpha)
    return Mesh(distance, tight, ratio, play, one.undercut, interferes)


def _foot(teeth: Teeth) -> float:
    """From which radius on the flank is an involute."""
    if teeth.internal:
        return teeth.root_radius
    return teeth.trochoid_ends[2]


def tight_distance(one: Teeth, two: Teeth) -> float:
    """The distance of two axes at which there is no backlash: inv α_w = inv α + (2 (x₁ + x₂) tan α − j/m) / (z₁ + z₂),
    differences for an internal wheel."""
    alpha, m = one.pressure, one.module
    tangent = math.tan(alpha)
    if two.internal:
        total = two.count - one.count
        more = (2 * (two.shift - one.shift) * tangent + (one.backlash + two.backlash) / m) / total
    else:
        total = one.count + two.count
        more = (2 * (one.shift + two.shift) * tangent - (one.backlash + two.backlash) / m) / total
    value = inv(alpha) + more
    if value <= 0:
        return m * total / 2 * math.cos(alpha)
    return m * total / 2 * math.cos(alpha) / math.cos(angle_of(value))


def sum_of_shifts(one: Teeth, two: Teeth, distance: float) -> float:
    """The sum of shifts (of an internal pair the second less the first) with which two wheels mesh at a distance with
    no more backlash than is given. Raises ValueError where no shift does."""
    total = two.count - one.count if two.internal else one.count + two.count
    cosine = one.module * total / 2 * math.cos(one.pressure) / distance
    if not 0 < cosine < 1:
        raise ValueError("no shift makes them mesh at that distance")
    more = (one.backlash + two.backlash) / one.module
    sign = -1.0 if two.internal else 1.0
    return ((inv(math.acos(cosine)) - inv(one.pressure)) * total + sign * more) / (2 * math.tan(one.pressure))
