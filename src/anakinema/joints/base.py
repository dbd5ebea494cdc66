"""What a joint type is: its keys in a document, its constraint rows, its coordinate and its symbol.

Every joint type is written with a few primitive rows between two bodies `a` and `b`. Notation: θ a body's angle, P its
joint point in the plane, d = P_b − P_a, u(φ) the unit vector at angle φ.

=============  ====================================  ==========
kind           value                                 rows
=============  ====================================  ==========
coincident     d                                     2 (x, y)
angle          θ_b − θ_a − offset                    1
projection     u(θ_a + direction) · d − offset       1
distance       (d·d − length²) / (2 length)          1
polar          angle of d − θ_a                      1
=============  ====================================  ==========

Their derivatives stand in `anakinema.kinematics.tables`, once for all joint types. Lengths are in document units,
angles in radians.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from typing import ClassVar, Literal

from ..kinds import Dimension, Field

RowKind = Literal["coincident", "angle", "projection", "distance", "polar"]
Values = Mapping[str, float]


@dataclass(frozen=True)
class Row:
    """A primitive row of a joint; which of the three numbers counts depends on the kind. From its value `factor` times
    that of `less` is taken off, if given, and, `as_placed`, what that comes to at the rough poses. The factor is a
    length where a projection is set against an angle."""

    kind: RowKind
    offset: float = 0.0
    direction: float = 0.0
    length: float = 0.0
    less: "Row | None" = None
    factor: float = 1.0
    as_placed: bool = False
    periodic: bool = False
    """Whether whole turns of its value mean nothing: an angle that is held, whatever the poses were turned by."""


class Guide(Enum):
    """How a joint to the frame guides a part, where it leaves it one motion: so that there is a direction in which it
    yields nothing."""

    PIVOT = "about its own point"
    STRAIGHT = "along a line of the first part"
    ROUND = "round the first part's point"


class Press(Enum):
    """What presses on what, along a normal, where one part may push the other by a joint."""

    PIN = "a pin on the side of its slot"
    EDGES = "an edge on an edge"


class Meeting(Enum):
    """What two features are to each other that are to be joined."""

    RIM = "an edge and a rim, or two rims"
    ROUND_SLOT = "anything in a slot on an arc"
    SLOT = "anything in a straight slot"
    SIDES = "two sides"
    LINE = "a direction and a place"
    PLACES = "two places"


class Elsewhere(Enum):
    """Where a joint holds as well with other points of its first part, in a copy of the second."""

    NOWHERE = 0
    AS_PLACED = 1
    HOWEVER_TURNED = 2


class JointType:
    """A joint type. `name` is the document's `type`, `fields` what it has beside its two sides; `holds` and `counts`
    say for the docs what it keeps and what its coordinate is; `symbol` is the key of its symbol, `word` what one is
    called that gets a name. What others need to know of it they ask it, never its name."""

    name: ClassVar[str]
    title: ClassVar[str]
    fields: ClassVar[tuple[Field, ...]] = ()
    holds: ClassVar[str]
    counts: ClassVar[str] = "none"
    symbol: ClassVar[str]
    word: ClassVar[str]
    of_edges: ClassVar[bool] = False
    """Whether `a` and `b` name edges rather than points."""
    meets: ClassVar[bool] = False
    """Whether its two points lie on each other."""
    pivots: ClassVar[bool] = False
    """Whether both parts turn freely about its points."""
    straight: ClassVar[bool] = False
    """Whether it runs along a straight line, which may lie aside of the points."""
    slotted: ClassVar[bool] = False
    """Whether its first side is that of the slot, or of the track."""
    guide: ClassVar[Guide | None] = None
    press: ClassVar[Press | None] = None
    suits: ClassVar[Mapping[Meeting, int]] = {}
    """How well it suits two features: the type of the least number is proposed first."""
    elsewhere: ClassVar[Elsewhere] = Elsewhere.NOWHERE
    one_of: ClassVar[tuple[str, ...]] = ()
    """Fields of which exactly one is given."""

    @property
    def pin(self) -> bool:
        """Whether it is a pin: point on point, and both turn about it."""
        return self.meets and self.pivots

    @property
    def rigid(self) -> bool:
        """Whether the parts move as one."""
        return self.meets and not self.pivots

    @property
    def rod(self) -> bool:
        """Whether it reaches from one place to another, like a thin rod."""
        return self.pivots and not self.meets

    @property
    def has_zero(self) -> bool:
        """Whether it says itself where its coordinate is zero."""
        return any(field.name == "zero" for field in self.fields)

    def faults(self, values: Values) -> list[str]:
        """What is wrong with the values beyond what their fields say, in words."""
        return []

    def rows(self, values: Values, placed_angle: float) -> list[Row]:
        """The constraint rows; `placed_angle` is θ_b − θ_a of the rough poses (rad)."""
        raise NotImplementedError

    def coordinate(self, values: Values) -> Row | None:
        """The row whose value is the joint's coordinate, or None."""
        raise NotImplementedError

    def coordinate_dimension(self, values: Values) -> Dimension | None:
        """Length, angle or None, as the coordinate is."""
        row = self.coordinate(values)
        if row is None:
            return None
        return Dimension.LENGTH if row.kind == "projection" else Dimension.ANGLE
