"""Coordinates of the first driver, by which all that happens is placed, in document units."""

from ..formatting import in_document_units
from ..kinematics.motion import Motion


def driver_value(motion: Motion, value: float | None) -> float | None:
    """A coordinate of the first driver (core units) in document units; None without drivers."""
    if value is None or not motion.drive.drivers:
        return None
    return in_document_units(value, motion.driver_dimension, motion.document.units)
