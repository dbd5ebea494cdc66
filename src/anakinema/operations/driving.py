"""Driving a joint."""

import math

from ..document.changes import Put
from ..document.model import Document
from ..errors import DocumentError, Fault
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from .building import Made, free_name, tidy


def drive(document: Document, joint: str, at: float, reach: float) -> Made:
    """A driver for a joint, from where it stands (`at`, core units): a turn for an angle, a way of `reach` for a
    length, within its limits where it has any. Raises `DocumentError` where it has no coordinate or is driven."""
    place = f"joints.{joint}"
    if any(driver.joint == joint for driver in document.drivers.values()):
        raise DocumentError([Fault(place, "is driven already")])
    one = document.joints[joint]
    dimension = JOINT_TYPES[one.type].coordinate_dimension(one.values)
    if dimension is None:
        raise DocumentError([Fault(place, f"a {one.type} joint has no coordinate to drive")])
    turns = dimension == Dimension.ANGLE
    stop = at + (math.tau if turns else reach)
    if one.limits.max is not None and one.limits.max > at:
        stop = min(stop, one.limits.max)
    shown = stop * dimension.per_core(document.units)
    entry = {"joint": joint, "to": tidy(shown), "rate": "60 deg/s" if turns else f"20 {document.units.length}/s"}
    name = free_name(document.drivers, "drive")
    return Made((Put(("drivers", name), entry),), ("drivers", name))
