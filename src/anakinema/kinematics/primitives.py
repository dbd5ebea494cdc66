"""The primitive terms of constraint rows, once each: what the compiled loops call them, what they depend on, how their
values count. Their formulas stand in `kernels.tables`, their derivatives in `kernels.terms`."""

from dataclasses import dataclass
from enum import Enum
from typing import Literal

from ..joints import Row
from ..kinds import Dimension
from .kernels import tables

TermKind = Literal["x", "y", "angle", "projection", "distance", "polar"]


class Form(Enum):
    """What a term says of the point of b, as the point of a sees it while both bodies keep their angles."""

    TURN = "nothing: it is of the angles alone"
    LINE = "how far it lies along a direction"
    CIRCLE = "how far off it lies"
    BEARING = "under which angle it lies"


@dataclass(frozen=True)
class TermSpec:
    """A kind of term. `code` is what the compiled loops call it, `dimension` that of its value, `constant` the number
    of a joint's row that is its constant, `depends` which of x, y, θ of either body it depends on."""

    kind: TermKind
    code: int
    dimension: Dimension
    form: Form
    constant: Literal["", "offset", "direction", "length"] = ""
    depends: tuple[int, ...] = (0, 1, 2)
    axis: complex | None = None
    """The direction along which it counts in the plane, where bodies that turn don't turn it."""

    @property
    def periodic(self) -> bool:
        """Whether its value jumps by whole turns."""
        return self.form is Form.BEARING

    @property
    def is_length(self) -> bool:
        """Whether its value is a length, which counts over the system's scale."""
        return self.dimension is Dimension.LENGTH

    def constant_of(self, row: Row, scale: float) -> float:
        """The term's constant, of a joint's row (document lengths, rad)."""
        constant = {"": 0.0, "offset": row.offset, "direction": row.direction, "length": row.length / scale}
        return constant[self.constant]

    def offset_of(self, row: Row, scale: float) -> float:
        """What such a row takes off the term's value."""
        return row.offset / scale if self.form is Form.LINE else 0.0


TERMS: dict[str, TermSpec] = {
    spec.kind: spec
    for spec in (
        TermSpec("x", tables.X, Dimension.LENGTH, Form.LINE, depends=(0, 2), axis=1 + 0j),
        TermSpec("y", tables.Y, Dimension.LENGTH, Form.LINE, depends=(1, 2), axis=1j),
        TermSpec("angle", tables.ANGLE, Dimension.ANGLE, Form.TURN, "offset", depends=(2,)),
        TermSpec("projection", tables.PROJECTION, Dimension.LENGTH, Form.LINE, "direction"),
        TermSpec("distance", tables.DISTANCE, Dimension.LENGTH, Form.CIRCLE, "length"),
        TermSpec("polar", tables.POLAR, Dimension.ANGLE, Form.BEARING),
    )
}
IN_PLANE: tuple[TermKind, TermKind] = ("x", "y")
"""The terms that say where a point is."""
OF_BODY: tuple[TermKind, TermKind, TermKind] = ("angle", *IN_PLANE)
"""The terms that say where a body is."""


def terms_of(row: Row) -> tuple[TermSpec, ...]:
    """The terms that a joint's row is made of, each a row by itself."""
    kinds = IN_PLANE if row.kind == "coincident" else (row.kind,)
    return tuple(TERMS[kind] for kind in kinds)
