"""How quantities, subjects and wishes are said, in the document's units."""

import math
from collections.abc import Iterable

from .document.model import Measure
from .document.units import Quantity, describe
from .kinds import Dimension, Units


def describe_measure(measure: Measure) -> str:
    """What is measured of: a joint, two parts, or what lies between two features."""
    sides = ["–".join(str(ref).removesuffix(".") for ref in side) for side in (measure.a, measure.b)]
    joints = " and ".join(name for name in (measure.joint, str(measure.values.get("against", ""))) if name)
    given = (measure.values[key] for key in ("contact", "cam", "part", "expression") if measure.values.get(key))
    named = joints or measure.trace or next(map(str, given), "")
    return named or "–".join(measure.parts or ()) or " and ".join(filter(None, sides))


def in_document_units(value: float, dimension: str, units: Units) -> float:
    """A core value (document lengths, rad, per s) in the document's own units."""
    return value * Dimension(dimension).per_core(units)


def shown(value: float, dimension: str, units: Units, digits: int = 4) -> str:
    """A core value with its unit: ``132.8466°``, ``28.02 mm``, ``360 °/s``."""
    kind = Dimension(dimension)
    if math.isinf(value):
        return "infinite" if value > 0 else "−infinite"
    number = f"{in_document_units(value, kind, units):.{digits}f}"
    if len(number) > 16 + digits:  # what is too large for figures is told by its size
        number = f"{in_document_units(value, kind, units):.6g}"
    if "." in number and "e" not in number:
        number = number.rstrip("0").rstrip(".")
    number = "0" if number == "-0" else number.replace("-", "−")
    unit = kind.written(units).replace("^2", "²").replace("^3", "³").replace("1/", "per ")
    if unit.startswith("deg"):
        return f"{number}°" if unit == "deg" else f"{number} °{unit.removeprefix('deg')}"
    return f"{number} {unit}" if unit else number


def digits_apart(value: float, others: Iterable[float | None], dimension: str, units: Units, digits: int = 4) -> int:
    """As many decimals as set a value apart from others that it is not, at least so many."""
    for more in range(digits, 13):
        text = shown(value, dimension, units, more)
        if all(other is None or other == value or shown(other, dimension, units, more) != text for other in others):
            return more
    return digits


def format_short(value: float, dimension: str, units: Units) -> str:
    """The same in little room, with four figures or so: ``−17709 mm/s²``, ``1.734 mm``."""
    size = abs(in_document_units(value, dimension, units))
    digits = 3 if size < 10 else 2 if size < 100 else 1 if size < 1000 else 0
    return shown(value, dimension, units, digits)


def format_quantity(quantity: Quantity, units: Units) -> str:
    """A parameter's quantity: in document units where its dimension is common, else in its own."""
    dimension = describe(quantity.dimension)
    if dimension in list(Dimension):
        return shown(quantity.in_units(units.unit(dimension)), dimension, units)
    return f"{quantity.magnitude:.6g} {quantity.written()}"
