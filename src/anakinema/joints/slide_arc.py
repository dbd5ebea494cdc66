"""Slide on an arc: a block that keeps its face on a circular track."""

from typing import ClassVar

from .base import JointType, Row, Values


class SlideArc(JointType):
    """Coordinate: angle of b's point about a's point, the centre of the track, seen in a's part, counter-clockwise
    positive and counted on over full turns (rad).

    Rows: b's point stays at `radius` from the centre, and b's part turns as it goes round: θ_b − θ_a less the
    coordinate is `angle` (as placed by the poses when left out).
    """

    name = "slide-arc"
    title = "Slide on an arc"
    keys: ClassVar = {"radius": "length", "angle": "angle"}

    def faults(self, values: Values) -> list[str]:
        if "radius" not in values:
            return ["'radius' is missing: that of the track"]
        return [] if values["radius"] > 0 else ["'radius' must be greater than zero"]

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        turned = Row("angle", offset=values.get("angle", 0.0), less=Row("polar"), as_placed="angle" not in values)
        return [Row("distance", length=values["radius"]), turned]

    def coordinate(self, values: Values) -> Row:
        return Row("polar")
