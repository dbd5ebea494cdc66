"""Revolute joint: a pin; b's part turns about a's point."""

from typing import ClassVar

from .base import JointType, Row, Values


class Revolute(JointType):
    """Coordinate: θ_b − θ_a − `zero`, counter-clockwise positive, counted on over full turns (rad).

    Rows: P_b = P_a.
    """

    name = "revolute"
    title = "Revolute"
    keys: ClassVar = {"zero": "angle"}

    def faults(self, values: Values) -> list[str]:
        return []

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("coincident")]

    def coordinate(self, values: Values) -> Row:
        return Row("angle", offset=values.get("zero", 0.0))
