"""Ratio: the coordinates of any two joints tied by a number, whatever does it inside."""

from typing import ClassVar

from ..kinds import Dimension, Field
from .coupling import CouplingType, Given


class Ratio(CouplingType):
    """Δb = `ratio` × Δa with both coordinates in document units (mm for each degree, say)."""

    name = "ratio"
    title = "Ratio"
    symbol = "ratio"
    phrase = "a ratio"
    first_guess: ClassVar = {"ratio": 1}
    in_document_units = True
    fields = (Field("ratio", Dimension.NUMBER, required=True, description="what b moves for each unit that a moves"),)
    holds = "Δb = ratio × Δa in document units"
    meshes = False

    def faults(self, given: Given) -> list[str]:
        return [] if given["ratio"] else ["'ratio' must not be zero; fix the joint instead"]

    def ratio(self, given: Given) -> float:
        return float(given["ratio"])  # type: ignore[arg-type]
