"""Rack and pinion: a wheel that drives a slide."""

from typing import ClassVar

from ..kinds import Field
from .coupling import CouplingType, Given


class Rack(CouplingType):
    """Ties a revolute joint (a) and a prismatic joint (b): Δb = `radius` × Δa, Δa in rad. The radius is that of the
    pitch circle; its sign says which way the slide runs when the pinion turns counter-clockwise."""

    name = "rack"
    title = "Rack and pinion"
    wants = ("angle", "length")
    symbol = "pinion"
    phrase = "rack and pinion"
    first_guess: ClassVar = {"radius": 10}
    toothed = True
    fields = (
        Field("radius", description="that of the pinion's pitch circle, signed; where both wear teeth, these say it"),
    )
    holds = "Δb = radius × Δa, Δa in rad"

    def faults(self, given: Given) -> list[str]:
        if "radius" not in given:
            return ["'radius' is missing: that of the pinion's pitch circle; or let both wear teeth"]
        return [] if given["radius"] else ["'radius' must not be zero"]

    def ratio(self, given: Given) -> float:
        return float(given["radius"])  # type: ignore[arg-type]
