"""Distance joint: two points stay at a given distance, as if joined by a thin rod with a pin at each end."""

from typing import ClassVar

from .base import JointType, Row, Values


class Distance(JointType):
    """No coordinate. Row: |P_b − P_a| = `length`."""

    name = "distance"
    title = "Distance"
    keys: ClassVar = {"length": "length"}

    def faults(self, values: Values) -> list[str]:
        if "length" not in values:
            return ["'length' is missing"]
        return ["'length' must be greater than zero; use a revolute joint for points that meet"] * (
            values["length"] <= 0
        )

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("distance", length=values["length"])]

    def coordinate(self, values: Values) -> None:
        return None
