"""What can be measured of a mechanism through its motion: each measure declares its fields once. How a measure is taken
stands in `anakinema.findings.measuring`."""

from dataclasses import dataclass

from .kinds import Dimension, Field, FieldForm


@dataclass(frozen=True)
class MeasureKind:
    """A measure. `dimension` is None where it is that of the joint's coordinate, or of its rate of an `order`. One that
    is `named` may stand by itself among the document's measures, and is drawn on the bench. One of the `whole` motion
    is a single number; all others are tracks of the strip."""

    name: str
    title: str
    description: str
    fields: tuple[Field, ...]
    dimension: Dimension | None = Dimension.LENGTH
    named: bool = False
    whole: bool = False
    order: int = 0


JOINT = Field("joint", form=FieldForm.JOINT, required=True, description="the joint")
POINT = Field("point", form=FieldForm.POINT, required=True, description="part.point")
ON = Field("on", form=FieldForm.PART, description="the part from which it is seen, else the frame")
KINDS = (
    MeasureKind("travel", "Travel", "greatest less least of a joint's coordinate", (JOINT,), None, whole=True),
    MeasureKind("coordinate", "Coordinate", "a joint's coordinate, all along", (JOINT,), None),
    MeasureKind("velocity", "Velocity", "how fast a joint's coordinate changes", (JOINT,), None, order=1),
    MeasureKind("acceleration", "Acceleration", "how fast its velocity changes", (JOINT,), None, order=2),
    MeasureKind(
        "end_gap", "Gap to the ends", "how far a joint keeps from the nearer end of its limits", (JOINT,), None
    ),
    MeasureKind(
        "out_of_ratio", "Out of ratio", "how far a joint is from its share of another's way since the start",
        (JOINT, Field("against", form=FieldForm.JOINT, required=True, description="the other joint"),
         Field("ratio", Dimension.NUMBER, description="the share, else 1, in document units")), None,
    ),
    MeasureKind(
        "dwell", "Dwell", "the longest time for which a joint stands still",
        (JOINT, Field("within", form=FieldForm.AMOUNT,
                      description="what still counts as still, else 0.5 % of its travel")),
        Dimension.TIME, whole=True,
    ),
    MeasureKind(
        "reversals", "Reversals", "how often a joint turns back", (JOINT,), Dimension.NUMBER, whole=True
    ),
    MeasureKind(
        "time_ratio", "Time ratio", "the slower over the faster of the two strokes of a joint that comes back",
        (JOINT,), Dimension.NUMBER, whole=True,
    ),
    MeasureKind(
        "transmission_angle", "Transmission angle", "at a joint between two moving links, 0 to 90°", (JOINT,),
        Dimension.ANGLE,
    ),
    MeasureKind(
        "pressure_angle", "Pressure angle",
        "between the force on a follower and its way, 0 to 90°: at a pin in a slot, a contact, a coupler's end",
        (JOINT,), Dimension.ANGLE,
    ),
    MeasureKind(
        "mechanical_advantage", "Mechanical advantage",
        "force or torque at a joint for each unit at the first driver: the driver's rate over the joint's", (JOINT,),
        Dimension.NUMBER,
    ),
    MeasureKind(
        "clearance", "Clearance", "least distance of two parts' outlines",
        (Field("parts", form=FieldForm.PARTS, required=True, description="the two parts"),),
    ),
    MeasureKind(
        "distance", "Distance", "of a point from a point, or from the line through two points of a part",
        (Field("a", form=FieldForm.FEATURE, required=True, description="part.point, or two of them: a line"),
         Field("b", form=FieldForm.FEATURE, required=True, description="part.point, or two of them: a line")),
        named=True,
    ),
    MeasureKind(
        "angle", "Angle", "from the line a to the line b, counter-clockwise, counted on over full turns",
        (Field("a", form=FieldForm.LINE, required=True, description="two points of a part, or a part: its x axis"),
         Field("b", form=FieldForm.LINE, required=True, description="two points of a part, or a part: its x axis")),
        Dimension.ANGLE, named=True,
    ),
    MeasureKind(
        "place", "Place", "where a point is along an axis",
        (POINT, Field("axis", form=FieldForm.WORD, words=("x", "y"), description="the axis"), ON),
    ),
    MeasureKind("speed", "Speed", "of a point", (POINT, ON), Dimension.LINEAR_RATE),
    MeasureKind(
        "point_acceleration", "Acceleration of a point", "its size", (POINT, ON), Dimension.LINEAR_ACCELERATION
    ),
    MeasureKind(
        "straightness", "Straightness",
        "width of the narrowest straight band that holds a traced path, or of that along a direction",
        (Field("trace", form=FieldForm.TRACE, required=True, description="the trace"),
         Field("direction", Dimension.ANGLE, description="of the band")), whole=True,
    ),
    MeasureKind(
        "measured", "Measured value", "a measure of the document, all along",
        (Field("of", form=FieldForm.MEASURE, required=True, description="the measure"),), None,
    ),
)  # fmt: skip
MEASURE_KINDS: dict[str, MeasureKind] = {kind.name: kind for kind in KINDS}
"""By the name that a document writes."""
TRACKED = tuple(kind.name for kind in KINDS if not kind.whole)
"""Those that can be a track of the strip."""
