"""Prismatic joint: b's part slides along a straight line of a's part without turning against it."""

import math
from typing import ClassVar

from .base import JointType, Row, Values


class Prismatic(JointType):
    """Coordinate: displacement of b's point from a's point along `direction`, an angle in a's part (length).

    Rows: θ_b − θ_a = `angle` (as placed by the poses when left out); no displacement across the direction.
    """

    name = "prismatic"
    title = "Prismatic"
    keys: ClassVar = {"direction": "angle", "angle": "angle"}

    def faults(self, values: Values) -> list[str]:
        return [] if "direction" in values else ["'direction' is missing: the angle of the slide in a's part"]

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        across = values["direction"] + math.pi / 2
        turned = Row("angle", offset=values.get("angle", placed_angle), periodic=True)
        return [turned, Row("projection", direction=across)]

    def coordinate(self, values: Values) -> Row:
        return Row("projection", direction=values.get("direction", 0.0))
