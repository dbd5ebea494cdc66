"""Fixed joint: two parts that move as one, point on point."""

from typing import ClassVar

from ..kinds import Dimension, Field
from .base import Elsewhere, JointType, Meeting, Row, Values


class Fixed(JointType):
    """No coordinate. Rows: P_b = P_a and θ_b − θ_a = `angle` (as placed by the poses when left out)."""

    name = "fixed"
    title = "Fixed"
    symbol = "weld"
    word = "weld"
    meets = True
    suits: ClassVar = {
        Meeting.RIM: 3, Meeting.ROUND_SLOT: 3, Meeting.SLOT: 3, Meeting.SIDES: 2, Meeting.LINE: 2, Meeting.PLACES: 1,
    }  # fmt: skip
    elsewhere = Elsewhere.AS_PLACED
    fields = (Field("angle", Dimension.ANGLE, description="of b against a (default: as placed)"),)
    holds = "P_b = P_a, θ_b − θ_a = angle"

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        return [Row("coincident"), Row("angle", offset=values.get("angle", placed_angle), periodic=True)]

    def coordinate(self, values: Values) -> None:
        return None
