"""Ratio: the coordinates of any two joints tied by a number, whatever does it inside."""

from typing import ClassVar

from .coupling import CouplingType, Given


class Ratio(CouplingType):
    """Δb = `ratio` × Δa with both coordinates in document units (mm for each degree, say)."""

    name = "ratio"
    title = "Ratio"
    numbers: ClassVar = {"ratio": "number"}
    meshes = False

    def faults(self, given: Given) -> list[str]:
        if "ratio" not in given:
            return ["'ratio' is missing: what b moves for each unit that a moves"]
        return [] if given["ratio"] else ["'ratio' must not be zero; fix the joint instead"]

    def ratio(self, given: Given) -> float:
        return float(given["ratio"])  # type: ignore[arg-type]
