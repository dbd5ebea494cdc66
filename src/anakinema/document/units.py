"""Units and dimensions: what an expression's numbers mean.

The registry is Pint's, with our own short list of units, because an angle must be a dimension of its own: adding a
length to an angle is then an error, as it should be in a drawing office.
"""

from functools import cache
from typing import Any

from pint import UnitRegistry

LENGTH_UNITS = ("mm", "cm", "m", "in")
ANGLE_UNITS = ("deg", "rad")
UNIT_NAMES = (*LENGTH_UNITS, *ANGLE_UNITS, "rpm", "s")

# What a place of the document wants: Pint's dimensionality, as exponents of length, angle and time.
DIMENSIONS: dict[str, dict[str, int]] = {
    "number": {},
    "length": {"[length]": 1},
    "angle": {"[angle]": 1},
    "time": {"[time]": 1},
    "angular rate": {"[angle]": 1, "[time]": -1},
    "linear rate": {"[length]": 1, "[time]": -1},
}


@cache
def registry() -> UnitRegistry[Any]:
    """The unit registry; one for the process, for quantities of two registries can't be added."""
    units: UnitRegistry[Any] = UnitRegistry(None, cache_folder=None)
    for definition in (
        "metre = [length] = m",
        "millimetre = 0.001 metre = mm",
        "centimetre = 0.01 metre = cm",
        "inch = 0.0254 metre = in",
        "radian = [angle] = rad",
        "degree = 0.017453292519943295 radian = deg",
        "second = [time] = s",
        "revolution_per_minute = 6.283185307179586 radian / (60 second) = rpm",
    ):
        units.define(definition)
    return units


def describe(dimensionality: Any) -> str:
    """A dimensionality in words: ``length``, ``angle``, ``number`` or, where it has no name, ``length^2 angle``."""
    exponents = {str(name): int(power) if power == int(power) else power for name, power in dimensionality.items()}
    for word, wanted in DIMENSIONS.items():
        if exponents == wanted:
            return word
    return " ".join(
        name.strip("[]") + ("" if power == 1 else f"^{power}") for name, power in sorted(exponents.items())
    )
