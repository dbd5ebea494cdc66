"""Tangent contact: an edge of one part held against one of the other; rolling: the same without slip."""

import math
from typing import ClassVar

from ..kinds import Field, FieldForm
from .base import JointType, Meeting, Press, Row, Values


class Tangent(JointType):
    """`a` and `b` name edges (``part.edge``), of which at least one is an arc. The side on which they touch is that of
    the rough poses. At the end of an edge the motion stops, or the contact is told as lost there (`at_end`).

    Straight edge and arc: coordinate is the displacement of the contact from the start of the straight edge (length);
    row: the arc's center stays at its radius from the edge. Two arcs: coordinate is the angle of the second center
    about the first, seen in the first part, counter-clockwise positive (rad); row: the centers stay at the sum of the
    radii, or, one inside the other, at their difference.

    `values` are made from the edges when the document is read: `direction` and `offset` (signed radius), or `length`
    with both radii.
    """

    name = "tangent"
    title = "Tangent contact"
    symbol = "contact"
    word = "contact"
    press = Press.EDGES
    suits: ClassVar = {Meeting.RIM: 0}
    of_edges = True
    fields = (
        Field("at_end", form=FieldForm.WORD, words=("stop", "lost"), description="what it does at the end of an edge"),
    )
    holds = (
        "straight and arc: the arc's centre stays at its radius from the edge; two arcs: the centres stay at the sum "
        "(or difference) of the radii"
    )
    counts = (
        "straight: displacement of the contact from the edge's start; arcs: angle of the second centre about the "
        "first, seen in the first part"
    )

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        if "direction" in values:
            return [Row("projection", direction=values["direction"] + math.pi / 2, offset=values["offset"])]
        return [Row("distance", length=values.get("length", 1.0))]

    def coordinate(self, values: Values) -> Row:
        if "direction" in values:
            return Row("projection", direction=values["direction"])
        return Row("polar")


class Rolling(Tangent):
    """A tangent contact whose edges don't slip: what the contact runs along one edge it runs along the other.

    Straight edge: Δs = −offset (Δθ_b − Δθ_a). Arcs with radii r_a, r_b, φ the direction from center to center:
    r_a Δ(φ − θ_a) = −r_b Δ(φ − θ_b) outside each other, + with one inside the other.
    """

    name = "rolling"
    title = "Rolling contact"
    symbol = "rolling"
    suits: ClassVar = {Meeting.RIM: 1}
    holds = "the same, without slip: the contact runs equally far along both edges"
    counts = "the same"

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        turned = Row("angle")
        if "direction" in values:
            offset = values["offset"]
            along = Row("projection", direction=values["direction"], less=turned, factor=-offset, as_placed=True)
        else:
            a, b = values.get("radius_a", 1.0), values.get("radius_b", 1.0)
            share = b / (a + b) if values.get("inside", 0.0) == 0.0 else -b / (a - b)
            along = Row("polar", less=turned, factor=share, as_placed=True)
        return [*super().rows(values, placed_angle), along]
