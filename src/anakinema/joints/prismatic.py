"""Prismatic joint: b's part slides along a straight line of a's part without turning against it."""

import math
from typing import ClassVar

from ..kinds import Dimension, Field
from .base import Elsewhere, Guide, JointType, Meeting, Row, Values


class Prismatic(JointType):
    """Coordinate: displacement of b's point from a's point along `direction`, an angle in a's part (length).

    Rows: θ_b − θ_a = `angle` (as placed by the poses when left out); no displacement across the direction.
    """

    name = "prismatic"
    title = "Prismatic"
    symbol = "slide"
    word = "slide"
    straight = True
    guide = Guide.STRAIGHT
    suits: ClassVar = {Meeting.SLOT: 2, Meeting.SIDES: 0, Meeting.LINE: 1, Meeting.PLACES: 2}
    elsewhere = Elsewhere.AS_PLACED
    fields = (
        Field("direction", Dimension.ANGLE, required=True, description="the angle of the slide in a's part"),
        Field("angle", Dimension.ANGLE, description="of b against a (default: as placed)"),
    )
    holds = "θ_b − θ_a = angle; no displacement across the direction"
    counts = "displacement of P_b from P_a along the direction"

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        across = values["direction"] + math.pi / 2
        turned = Row("angle", offset=values.get("angle", placed_angle), periodic=True)
        return [turned, Row("projection", direction=across)]

    def coordinate(self, values: Values) -> Row:
        return Row("projection", direction=values.get("direction", 0.0))
