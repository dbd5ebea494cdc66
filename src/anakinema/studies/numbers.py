"""Parameters as a study turns them: in the unit in which the document says them."""

from dataclasses import dataclass

from ..document.model import Document
from ..document.units import describe
from ..errors import located, suggestion
from ..kinds import Dimension


@dataclass(frozen=True)
class Dial:
    """A parameter that can be turned: its value and unit (``mm``, ``deg``, ``rpm`` as ``deg/s``, empty for a
    number)."""

    name: str
    value: float
    unit: str
    dimension: Dimension

    def written(self, value: float) -> float | str:
        """A value as the document writes it, exactly."""
        return f"{float(value)!r} {self.unit}" if self.unit else float(value)


def dial(document: Document, name: str) -> Dial:
    """A parameter by name. Raises `DocumentError` where there is none, or it has no unit of the trade."""
    if name not in document.parameters:
        near = suggestion(name, list(document.parameters))
        raise located(f"parameters.{name}", f"there is no such parameter{near}")
    quantity = document.parameters[name].quantity
    word = describe(quantity.dimension)
    if word not in list(Dimension):
        raise located(f"parameters.{name}", f"counts {word}; only lengths, angles, times, rates and numbers are turned")
    dimension = Dimension(word)
    unit = dimension.written(document.units)
    return Dial(name, quantity.in_units(unit), unit, dimension)
