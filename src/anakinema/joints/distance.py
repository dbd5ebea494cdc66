"""Distance joint: two points stay at a given distance, as if joined by a thin rod with a pin at each end."""

from ..kinds import LEAST_SIZE, Field
from .base import Elsewhere, JointType, Row, Values


class Distance(JointType):
    """No coordinate. Row: |P_b − P_a| = `length`."""

    name = "distance"
    title = "Distance"
    symbol = "rod"
    word = "rod"
    pivots = True
    elsewhere = Elsewhere.HOWEVER_TURNED
    fields = (Field("length", required=True, description="the distance that is kept"),)
    holds = "P_b stays at the length from P_a"

    def faults(self, values: Values) -> list[str]:
        positive = values.get("length", 1.0) >= LEAST_SIZE
        return [] if positive else ["'length' must be greater than zero; use a revolute joint for points that meet"]

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("distance", length=values["length"])]

    def coordinate(self, values: Values) -> None:
        return None
