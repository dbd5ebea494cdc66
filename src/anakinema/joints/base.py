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


class JointType:
    """A joint type. `name` is the document's `type`, `fields` what it has beside its two sides; `holds` and `counts`
    say for the docs what it keeps and what its coordinate is; `symbol` is the key of its symbol."""

    name: ClassVar[str]
    title: ClassVar[str]
    fields: ClassVar[tuple[Field, ...]] = ()
    holds: ClassVar[str]
    counts: ClassVar[str] = "none"
    symbol: ClassVar[str]
    of_edges: ClassVar[bool] = False
    """Whether `a` and `b` name edges rather than points."""

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
