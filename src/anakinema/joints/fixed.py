"""Fixed joint: two parts that move as one, point on point."""

from typing import ClassVar

from .base import JointType, Row, Values


class Fixed(JointType):
    """No coordinate. Rows: P_b = P_a and θ_b − θ_a = `angle` (as placed by the poses when left out)."""

    name = "fixed"
    title = "Fixed"
    keys: ClassVar = {"angle": "angle"}

    def faults(self, values: Values) -> list[str]:
        return []

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("coincident"), Row("angle", offset=values.get("angle", placed_angle), periodic=True)]

    def coordinate(self, values: Values) -> None:
        return None
