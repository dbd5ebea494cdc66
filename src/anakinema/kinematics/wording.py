"""Numbers as people read them, in the document's units."""

import math
from typing import Any

from ..document.expressions import Units
from ..document.units import describe


def in_document_units(value: float, dimension: str, units: Units) -> float:
    """A core value (document lengths, rad) in the document's own units."""
    return math.degrees(value) if dimension.startswith("angle") and units.angle == "deg" else value


def shown(value: float, dimension: str, units: Units, digits: int = 4) -> str:
    """A core value with its unit: ``132.8466°``, ``28.02 mm``."""
    number = f"{in_document_units(value, dimension, units):.{digits}f}"
    if "." in number:
        number = number.rstrip("0").rstrip(".")
    number = "0" if number == "-0" else number.replace("-", "−")
    if dimension == "angle":
        return f"{number}°" if units.angle == "deg" else f"{number} rad"
    return f"{number} {units.length}" if dimension == "length" else number


def quantity_shown(quantity: Any, units: Units) -> str:
    """A parameter's quantity: in document units where its dimension is common, else in its own."""
    dimension = describe(quantity.dimensionality)
    if dimension in ("length", "angle"):
        return shown(float(quantity.m_as(units.unit(dimension))), dimension, units)
    if dimension == "number":
        return shown(float(quantity.magnitude), "number", units)
    return f"{quantity.magnitude:.6g} {quantity.units:~}"
