"""Gear pair: two wheels that mesh, on a common carrier."""

from typing import ClassVar

from ..kinds import Dimension, Field, FieldForm
from .coupling import CouplingType, Given, positive_pair, quotient


class Gear(CouplingType):
    """Ties two revolute joints, each between the carrier and a wheel: Δb = −(n_a / n_b) Δa for an external mesh,
    + for an internal one (Willis: both angles are those against the carrier, whatever the carrier does).

    With `carrier` (a part) the angles are those of the two wheels (part b of either joint) against that part, so that
    the joints themselves may hang on the frame: a planet train. Where both wheels wear teeth about the joints' points,
    these say ratio, mesh and phase.
    """

    name = "gear"
    title = "Gear pair"
    wants = ("angle", "angle")
    symbol = "wheels"
    phrase = "a gear pair"
    first_guess: ClassVar = {"teeth": [20, 40]}
    toothed = True
    fields = (
        Field("teeth", Dimension.NUMBER, FieldForm.PAIR, description="[of a, of b]; where the wheels wear teeth, "
              "these say it"),
        Field(
            "mesh",
            form=FieldForm.WORD,
            words=("external", "internal"),
            description="whether one wheel lies in the other",
        ),
        Field(
            "carrier",
            form=FieldForm.PART,
            description="the part against which both turn (default: as their joints count)",
        ),
    )
    holds = (
        "Δb = −(n_a / n_b) Δa, + for internal. With `carrier` the angles are those of the wheels (part b of either "
        "joint) against that part: a planet train"
    )

    def faults(self, given: Given) -> list[str]:
        found = positive_pair(given, "teeth")
        teeth = given.get("teeth")
        if not found and isinstance(teeth, tuple) and any(count != round(count) for count in teeth):
            found.append("'teeth' must be whole numbers")
        return found

    def ratio(self, given: Given) -> float:
        return quotient(given, "teeth") * (1.0 if given.get("mesh") == "internal" else -1.0)
