"""All ways to close a triad: a link that three others, or three rods, hold on what is placed already.

Each of the three holds a point of the link at a distance from a place. With the angle φ of the link given, the
differences of these conditions are linear in its place, and what remains is a trigonometric polynomial of the third
degree in φ: six ways at most (the direct problem of the planar 3-RR platform; C. Gosselin, J. Sefrioui, M. J. Richard,
J. Mech. Des. 114, 1992, from memory).
"""

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..arrays import Array, Index
from .primitives import Form
from .rows import RowSpec


@dataclass(frozen=True)
class Leg:
    """Holds a point of the link (in its own axes) at a distance from a place. `body` is the one that does, −1 for a
    rod; `near` is its own pin at that place, `far` that at the link."""

    place: complex
    point: complex
    length: float
    body: int = -1
    near: complex = 0j
    far: complex = 0j


@dataclass(frozen=True)
class Triad:
    """The number of the link, and its three legs."""

    link: int
    legs: tuple[Leg, ...]

    def condition(self, angle: float) -> float:
        """What the third leg lacks where the link is turned by an angle, times the square of a determinant."""
        at, whole = self._place(angle)
        first = self._arm(0, angle)
        return abs(at + whole * first) ** 2 - (whole * self.legs[0].length) ** 2

    def placed(self, q: Array, here: Array, angle: float) -> Array | None:
        """Positions (P, 3) with the triad closed at an angle of its link; None where its place is not determined."""
        at, whole = self._place(angle)
        if abs(whole) < 1e-9:
            return None
        found = q.copy()
        middle = at / whole
        found[self.link] = middle.real, middle.imag, _near(angle, float(here[self.link, 2]))
        for leg in self.legs:
            if leg.body >= 0:
                tip = middle + leg.point * cmath.rect(1.0, angle)
                turn = cmath.phase(tip - leg.place) - cmath.phase(leg.far - leg.near)
                origin = leg.place - leg.near * cmath.rect(1.0, turn)
                found[leg.body] = origin.real, origin.imag, _near(turn, float(here[leg.body, 2]))
        return found

    def _arm(self, number: int, angle: float) -> complex:
        """From the place of a leg to the origin of the link, less that origin."""
        leg = self.legs[number]
        return leg.point * cmath.rect(1.0, angle) - leg.place

    def _place(self, angle: float) -> tuple[complex, float]:
        """The origin of the link, times a determinant, by which the first two differences hold."""
        arms = [self._arm(k, angle) for k in range(3)]
        size = [abs(arm) ** 2 - leg.length**2 for arm, leg in zip(arms, self.legs, strict=True)]
        one, two = 2 * (arms[1] - arms[0]), 2 * (arms[2] - arms[0])
        b, c = size[0] - size[1], size[0] - size[2]
        whole = one.real * two.imag - one.imag * two.real
        return complex(b * two.imag - c * one.imag, c * one.real - b * two.real), whole


def _near(angle: float, other: float) -> float:
    return angle + math.tau * round((other - angle) / math.tau)


def triad(specs: Sequence[RowSpec], members: Index, q: Array) -> Triad | None:
    """The triad that a block's rows make of its bodies, all others standing as in q (P, 3); None where it is none."""
    own = set(members.tolist())
    if len(own) not in (1, 2, 3, 4) or any(len(spec.terms) > 1 for spec in specs):
        return None
    pins: Pins = {}
    rods = []
    for spec in specs:
        term = spec.terms[0]
        ends = term.a, complex(*term.pa), term.b, complex(*term.pb)
        if term.spec.form is Form.CIRCLE:
            rods.append((*ends, term.constant))
        elif term.spec.axis is not None and not spec.offset:
            pins.setdefault(ends, set()).add(term.spec.axis)
        else:
            return None
    if any(len(axes) < 2 for axes in pins.values()):
        return None
    links = [body for body in own if _pins_of(body, pins, rods) == 3]
    if len(links) != 1 or len(pins) + len(rods) != 3 + len(own) - 1:
        return None
    legs = [_rod(links[0], rod, own, q) for rod in rods]
    legs += [_binary(links[0], body, pins, own, q) for body in own - set(links)]
    made = [leg for leg in legs if leg is not None]
    return Triad(links[0], tuple(made)) if len(made) == len(legs) == 3 else None


Pins = dict[tuple[int, complex, int, complex], set[complex]]
Rod = tuple[int, complex, int, complex, float]


def _pins_of(body: int, pins: Pins, rods: Sequence[Rod]) -> int:
    return sum(body in (pin[0], pin[2]) for pin in pins) + sum(body in (rod[0], rod[2]) for rod in rods)


def _world(q: Array, body: int, at: complex) -> complex:
    x, y, angle = q[body].tolist()
    return complex(x, y) + at * cmath.rect(1.0, angle)


def _rod(link: int, rod: Rod, own: set[int], q: Array) -> Leg | None:
    a, pa, b, pb, length = rod
    if b == link:
        a, pa, b, pb = b, pb, a, pa
    return Leg(_world(q, b, pb), pa, length) if a == link and b not in own else None


def _binary(link: int, body: int, pins: Pins, own: set[int], q: Array) -> Leg | None:
    """The leg that a body with two pins makes, one of them at the link, the other at what is placed already."""
    ends = [(a, pa, pb) if b == body else (b, pb, pa) for a, pa, b, pb in pins if body in (a, b)]
    tips = [end for end in ends if end[0] == link]
    feet = [end for end in ends if end[0] not in own]
    if len(ends) != 2 or len(tips) != 1 or len(feet) != 1:
        return None
    (_, point, far), (ground, at, near) = tips[0], feet[0]
    return Leg(_world(q, ground, at), point, abs(far - near), body, near, far)
