"""Revolute joint: a pin; b's part turns about a's point."""

from typing import ClassVar

from ..kinds import Dimension, Field
from .base import Elsewhere, Guide, JointType, Meeting, Row, Values


class Revolute(JointType):
    """Coordinate: θ_b − θ_a − `zero`, counter-clockwise positive, counted on over full turns (rad).

    Rows: P_b = P_a.
    """

    name = "revolute"
    title = "Revolute"
    symbol = "pin"
    word = "pin"
    meets = pivots = True
    guide = Guide.PIVOT
    suits: ClassVar = {
        Meeting.RIM: 2, Meeting.ROUND_SLOT: 2, Meeting.SLOT: 1, Meeting.SIDES: 1, Meeting.LINE: 0, Meeting.PLACES: 0,
    }  # fmt: skip
    elsewhere = Elsewhere.HOWEVER_TURNED
    fields = (Field("zero", Dimension.ANGLE, description="the angle that counts as zero"),)
    holds = "P_b = P_a"
    counts = "θ_b − θ_a − zero, counted on over full turns"

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("coincident")]

    def coordinate(self, values: Values) -> Row:
        return Row("angle", offset=values.get("zero", 0.0))
