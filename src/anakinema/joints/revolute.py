"""Revolute joint: a pin; b's part turns about a's point."""

from ..kinds import Dimension, Field
from .base import JointType, Row, Values


class Revolute(JointType):
    """Coordinate: θ_b − θ_a − `zero`, counter-clockwise positive, counted on over full turns (rad).

    Rows: P_b = P_a.
    """

    name = "revolute"
    title = "Revolute"
    symbol = "pin"
    fields = (Field("zero", Dimension.ANGLE, description="the angle that counts as zero"),)
    holds = "P_b = P_a"
    counts = "θ_b − θ_a − zero, counted on over full turns"

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("coincident")]

    def coordinate(self, values: Values) -> Row:
        return Row("angle", offset=values.get("zero", 0.0))
