"""Fixed joint: two parts that move as one, point on point."""

from ..kinds import Dimension, Field
from .base import JointType, Row, Values


class Fixed(JointType):
    """No coordinate. Rows: P_b = P_a and θ_b − θ_a = `angle` (as placed by the poses when left out)."""

    name = "fixed"
    title = "Fixed"
    symbol = "weld"
    fields = (Field("angle", Dimension.ANGLE, description="of b against a (default: as placed)"),)
    holds = "P_b = P_a, θ_b − θ_a = angle"

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("coincident"), Row("angle", offset=values.get("angle", placed_angle), periodic=True)]

    def coordinate(self, values: Values) -> None:
        return None
