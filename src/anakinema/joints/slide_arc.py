"""Slide on an arc: a block that keeps its face on a circular track."""

from typing import ClassVar

from ..kinds import Dimension, Field
from .base import Guide, JointType, Meeting, Row, Values


class SlideArc(JointType):
    """Coordinate: angle of b's point about a's point, the centre of the track, seen in a's part, counter-clockwise
    positive and counted on over full turns (rad).

    Rows: b's point stays at `radius` from the centre, and b's part turns as it goes round: θ_b − θ_a less the
    coordinate is `angle` (as placed by the poses when left out).
    """

    name = "slide-arc"
    title = "Slide on an arc"
    symbol = "slide on an arc"
    word = "track"
    slotted = True
    guide = Guide.ROUND
    suits: ClassVar = {Meeting.ROUND_SLOT: 1}
    fields = (
        Field("radius", required=True, size=True, description="that of the track"),
        Field("angle", Dimension.ANGLE, description="of b's part against its place on the track (default: as placed)"),
    )
    holds = "P_b stays at the radius about P_a, and b turns as it goes round: θ_b − θ_a less the coordinate is `angle`"
    counts = "as for the arc slot"

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        turned = Row("angle", offset=values.get("angle", 0.0), less=Row("polar"), as_placed="angle" not in values)
        return [Row("distance", length=values["radius"]), turned]

    def coordinate(self, values: Values) -> Row:
        return Row("polar")
