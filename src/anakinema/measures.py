"""What can be measured of a mechanism through its motion: each measure declares its fields once. How a measure is taken
stands in `anakinema.findings`."""

from dataclasses import dataclass

from .kinds import Dimension, Field, Form


@dataclass(frozen=True)
class MeasureKind:
    """A measure. `dimension` is None where it is that of what is measured. One that is `named` may stand by itself
    among the document's measures, and is drawn on the bench."""

    name: str
    title: str
    told: str
    fields: tuple[Field, ...]
    dimension: Dimension | None = Dimension.LENGTH
    named: bool = False


JOINT = Field("joint", form=Form.JOINT, required=True, told="the joint")
KINDS = (
    MeasureKind("travel", "Travel", "greatest less least of a joint's coordinate", (JOINT,), None),
    MeasureKind("coordinate", "Coordinate", "a joint's coordinate, all along", (JOINT,), None),
    MeasureKind(
        "transmission_angle", "Transmission angle", "at a joint between two moving links, 0 to 90°", (JOINT,),
        Dimension.ANGLE,
    ),
    MeasureKind(
        "clearance", "Clearance", "least distance of two parts' outlines",
        (Field("parts", form=Form.PARTS, required=True, told="the two parts"),),
    ),
    MeasureKind(
        "distance", "Distance", "of a point from a point, or from the line through two points of a part",
        (Field("a", form=Form.FEATURE, required=True, told="part.point, or two of them: a line"),
         Field("b", form=Form.FEATURE, required=True, told="part.point, or two of them: a line")),
        named=True,
    ),
    MeasureKind(
        "angle", "Angle", "from the line a to the line b, counter-clockwise, counted on over full turns",
        (Field("a", form=Form.LINE, required=True, told="two points of a part, or a part: its x axis"),
         Field("b", form=Form.LINE, required=True, told="two points of a part, or a part: its x axis")),
        Dimension.ANGLE, named=True,
    ),
    MeasureKind(
        "measured", "Measured value", "a measure of the document, all along",
        (Field("of", form=Form.MEASURE, required=True, told="the measure"),), None,
    ),
)  # fmt: skip
MEASURE_KINDS: dict[str, MeasureKind] = {kind.name: kind for kind in KINDS}
"""By the name that a document writes."""
