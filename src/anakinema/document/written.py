"""How numbers and placements are written into a document."""

import math

from ..kinds import Dimension, Units
from .expressions import coerce
from .model import Document
from .units import Quantity, describe

DIGITS, SHORT, NEAR = 9, 6, 5e-9
"""Decimal places that are kept of what a hand has placed: all matter where joints repeat each other; but a number of
fewer that lies so near is what is meant."""


def tidy(number: float) -> float | int:
    """A number as a hand would write it: no digits that only rounding has left, and no point where it is whole."""
    rounded = round(number, SHORT)
    if abs(rounded - number) > NEAR:
        rounded = round(number, DIGITS)
    return int(rounded) if rounded == int(rounded) and abs(rounded) < 1e15 else rounded


def pose_of(document: Document, at: complex, angle: float = 0.0) -> list[float | int]:
    """A pose as the document writes it; the angle in rad."""
    turned = math.degrees(angle) if document.units.angle == "deg" else angle
    return [tidy(at.real), tidy(at.imag), tidy(turned)]


def written(quantity: Quantity, units: Units) -> str:
    """A quantity as an expression that is worth just it. Raises `ValueError` for one that has no such unit."""
    word = describe(quantity.dimension)
    if word not in list(Dimension):
        raise ValueError(f"{word} can't be written")
    dimension = Dimension(word)
    unit = {Dimension.LENGTH: units.length, Dimension.ANGLE: "rad", Dimension.TIME: "s"}.get(dimension)
    if unit is None and dimension is not Dimension.NUMBER:
        raise ValueError(f"{word} can't be written")
    value = coerce(quantity, dimension, units)
    return f"{value!r} {unit}" if unit else repr(value)
