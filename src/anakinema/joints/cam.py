"""Cam: a follower that goes as a program says while a shaft turns."""

from typing import ClassVar

from ..kinds import Dimension, Field, FieldForm
from .coupling import CouplingType, Given


class Cam(CouplingType):
    """Ties a follower's joint (b, revolute or prismatic) to a shaft's (a, revolute; or prismatic for a wedge): b is
    `low` + program(a − `start`), over and over with every turn; on a slide it holds its first and last value beyond the
    program's ends.

    `low` is b where the program is 0; `base` gives the least radius of the profile instead; with neither it is as the
    poses place both. `follower` says what touches the cam: only with it there is a profile.
    """

    name = "cam"
    title = "Cam"
    symbol = "cam"
    phrase = "a cam"
    first_guess: ClassVar = {}
    fields = (
        Field("program", form=FieldForm.PROGRAM, required=True, description="what the follower does over a turn"),
        Field("start", Dimension.ANGLE, FieldForm.AMOUNT, description="coordinate of a at which the program begins"),
        Field("low", form=FieldForm.AMOUNT, description="coordinate of b where the program is 0 (default: as placed)"),
        Field("base", size=True, description="the least radius of the profile, in place of low"),
        Field("follower", form=FieldForm.FOLLOWER, description="what touches the cam"),
    )
    holds = "b = low + program(a − start), periodic over a turn"
    by_program = True

    def faults(self, given: Given) -> list[str]:
        return []

    def ratio(self, given: Given) -> float:
        raise NotImplementedError("a cam has no ratio: its program says how b goes")


FOLLOWER_FIELDS: tuple[Field, ...] = (
    Field("kind", form=FieldForm.WORD, words=("knife", "roller", "flat", "arc"), required=True,
          description="a sharp edge, a roller, a flat face, a curved face"),
    Field("at", form=FieldForm.POINT, required=True, description="its edge, its centre, or a point of its face"),
    Field("radius", size=True, description="of a roller, or of a curved face about its centre"),
    Field("direction", Dimension.ANGLE, description="of a flat face, in the follower's own axes"),
    Field("width", size=True, description="of a flat face, with its middle at the point"),
    Field("yoke", form=FieldForm.FLAG, description="a second one across the cam, so that it is held both ways"),
)  # fmt: skip
"""What a follower is made of."""
NEEDED = {"roller": ("radius",), "arc": ("radius",), "flat": ("direction",)}
"""What each kind needs besides its place."""
SUITS = {"knife": (), "roller": ("radius", "yoke"), "arc": ("radius",), "flat": ("direction", "width", "yoke")}
"""What each kind may say besides its place."""
