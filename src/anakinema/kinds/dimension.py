"""Dimensions: what a number counts, in which unit the core keeps it and in which a document writes it."""

import math
from dataclasses import dataclass
from enum import StrEnum

MM_IN = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
"""Millimetres in one unit of length."""


class Dimension(StrEnum):
    """The dimensions of values in a document. The core keeps lengths in the document's unit, angles in rad, times in s,
    and rates in those units a second; a document writes angles in its own unit."""

    NUMBER = "number"
    LENGTH = "length"
    ANGLE = "angle"
    TIME = "time"
    ANGULAR_RATE = "angular rate"
    LINEAR_RATE = "linear rate"
    ANGULAR_ACCELERATION = "angular acceleration"
    LINEAR_ACCELERATION = "linear acceleration"
    ANGULAR_JERK = "angular jerk"
    LINEAR_JERK = "linear jerk"
    PER_LENGTH = "per length"

    @property
    def rate(self) -> "Dimension":
        """The dimension of what changes a second. Raises KeyError where that has no name."""
        return {Dimension.LENGTH: Dimension.LINEAR_RATE, Dimension.ANGLE: Dimension.ANGULAR_RATE,
                Dimension.LINEAR_RATE: Dimension.LINEAR_ACCELERATION,
                Dimension.ANGULAR_RATE: Dimension.ANGULAR_ACCELERATION,
                Dimension.LINEAR_ACCELERATION: Dimension.LINEAR_JERK,
                Dimension.ANGULAR_ACCELERATION: Dimension.ANGULAR_JERK}[self]

    @property
    def turns(self) -> bool:
        """Whether it counts angles."""
        return self in (Dimension.ANGLE, Dimension.ANGULAR_RATE, Dimension.ANGULAR_ACCELERATION, Dimension.ANGULAR_JERK)

    def per_core(self, units: "Units") -> float:
        """Document units in one core unit.

        >>> round(Dimension.ANGULAR_RATE.per_core(Units(angle="deg")), 6)
        57.29578
        """
        return math.degrees(1.0) if self.turns and units.angle == "deg" else 1.0

    def core_unit(self, units: "Units") -> str:
        """The unit in which the core keeps it, as an expression writes it."""
        return {"length": units.length, "angle": "rad", "time": "s", "angular rate": "rad/s",
                "linear rate": f"{units.length}/s", "angular acceleration": "rad/s^2",
                "linear acceleration": f"{units.length}/s^2", "angular jerk": "rad/s^3",
                "linear jerk": f"{units.length}/s^3", "per length": f"1/{units.length}", "number": ""}[self]

    def written(self, units: "Units") -> str:
        """The unit in which a plain number counts in the document, as an expression writes it."""
        return self.core_unit(units).replace("rad", units.angle)


@dataclass(frozen=True)
class Units:
    """The document's units of length and angle."""

    length: str = "mm"
    angle: str = "deg"

    def unit(self, dimension: str) -> str:
        """The unit in which the core keeps values of a dimension."""
        return Dimension(dimension).core_unit(self)

    def written(self, dimension: str) -> str:
        """The unit in which a plain number of a dimension is written in the document."""
        return Dimension(dimension).written(self)
