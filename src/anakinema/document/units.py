"""Units and quantities: what an expression's numbers mean.

An angle is a dimension of its own: adding a length to an angle is then an error, as it should be in a drawing office.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

LENGTH_UNITS = ("mm", "cm", "m", "in")
ANGLE_UNITS = ("deg", "rad")
UNIT_NAMES = (*LENGTH_UNITS, *ANGLE_UNITS, "rpm", "s")
SIZES = {
    "mm": ("length", 1.0), "cm": ("length", 10.0), "m": ("length", 1000.0), "in": ("length", 25.4),
    "rad": ("angle", 1.0), "deg": ("angle", math.pi / 180), "s": ("time", 1.0),
}  # fmt: skip
"""What each unit measures, and how much of the dimension's first unit it is."""

# What a place of the document wants, as exponents of length, angle and time.
DIMENSIONS: dict[str, dict[str, float]] = {
    "number": {},
    "length": {"length": 1},
    "angle": {"angle": 1},
    "time": {"time": 1},
    "angular rate": {"angle": 1, "time": -1},
    "linear rate": {"length": 1, "time": -1},
    "angular acceleration": {"angle": 1, "time": -2},
    "linear acceleration": {"length": 1, "time": -2},
    "angular jerk": {"angle": 1, "time": -3},
    "linear jerk": {"length": 1, "time": -3},
    "per length": {"length": -1},
}


@dataclass(frozen=True)
class Quantity:
    """A number of units: `powers` maps units to their exponents, no two of one dimension, none of them zero.

    >>> Quantity(1.0, {"in": 1}) / Quantity(1.0, {"mm": 1})
    Quantity(magnitude=25.4, powers={})
    """

    magnitude: float
    powers: Mapping[str, float]

    @property
    def dimension(self) -> dict[str, float]:
        """Exponents of length, angle and time, as far as they aren't zero."""
        return {SIZES[unit][0]: power for unit, power in self.powers.items()}

    def in_units(self, unit: str) -> float:
        """How many of a unit such as ``mm``, ``deg/s`` or an empty one it is; the dimension must be the same."""
        return self.magnitude * _ratio(self.powers, unit_of(unit).powers)

    def alike(self, other: "Quantity") -> "Quantity":
        """Another quantity of the same dimension in the units of this one."""
        return Quantity(other.magnitude * _ratio(other.powers, self.powers), self.powers)

    def __add__(self, other: "Quantity") -> "Quantity":
        return Quantity(self.magnitude + self.alike(other).magnitude, self.powers)

    def __mul__(self, other: "Quantity") -> "Quantity":
        powers, factor = dict(self.powers), 1.0
        ours = {SIZES[unit][0]: unit for unit in powers}
        for unit, power in other.powers.items():
            dimension, size = SIZES[unit]
            same = ours.get(dimension, unit)
            if same != unit:
                factor *= (size / SIZES[same][1]) ** power
            powers[same] = powers.get(same, 0) + power
        return Quantity(self.magnitude * other.magnitude * factor, {u: p for u, p in powers.items() if p})

    def __truediv__(self, other: "Quantity") -> "Quantity":
        return self * other**-1

    def __pow__(self, power: float) -> "Quantity":
        powers = {unit: one * power for unit, one in self.powers.items() if power}
        return Quantity(self.magnitude**power, powers)

    def times(self, factor: float) -> "Quantity":
        """So many of it."""
        return Quantity(factor * self.magnitude, self.powers)

    def written(self) -> str:
        """Its units: ``mm²``, ``mm/s²``."""
        above = [name + _raised(power) for name, power in sorted(self.powers.items()) if power > 0]
        below = [name + _raised(-power) for name, power in sorted(self.powers.items()) if power < 0]
        return "/".join(["·".join(above) or "1" * bool(below), *below])


def _ratio(given: Mapping[str, float], wanted: Mapping[str, float]) -> float:
    """How many of some units one of others is."""
    ratio = 1.0
    for unit, power in given.items():
        if unit not in wanted:
            dimension, size = SIZES[unit]
            ratio *= (size / next(SIZES[other][1] for other in wanted if SIZES[other][0] == dimension)) ** power
    return ratio


def _raised(power: float) -> str:
    return "" if power == 1 else f"{power:g}".translate(str.maketrans("0123456789.-", "⁰¹²³⁴⁵⁶⁷⁸⁹⋅⁻"))


def number(value: float) -> Quantity:
    """A plain number."""
    return Quantity(value, {})


def unit_of(name: str) -> Quantity:
    """One of a unit: an empty name, a unit's, or one such as ``deg/s`` or ``mm/s^2``."""
    if name == "rpm":
        return Quantity(2 * math.pi / 60, {"rad": 1, "s": -1})
    above, _, below = name.partition("/")
    below, _, power = below.partition("^")
    return Quantity(1.0, {**({above: 1} if above else {}), **({below: -float(power or 1)} if below else {})})


def describe(dimension: Mapping[str, float]) -> str:
    """A dimension in words: ``length``, ``angle``, ``number`` or, where it has no name, ``length^2 angle``."""
    for word, wanted in DIMENSIONS.items():
        if dimension == wanted:
            return word
    return " ".join(name + ("" if power == 1 else f"^{power:g}") for name, power in sorted(dimension.items()))
