"""How a joint counts: where its zero lies, and which way is positive. All that speaks of its coordinate follows, so
that the mechanism moves as before."""

import math
from collections.abc import Callable, Mapping
from typing import Any

from ..document.changes import Change, Set
from ..document.model import Document
from ..document.read_study import leaders
from ..errors import located
from ..formatting import in_document_units
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from .building import Made

SWAPPED = {"min": "max", "max": "min", "rest": "rest", "at_least": "at_most", "at_most": "at_least"}
"""What a bound is when its joint counts the other way."""


def zero_here(document: Document, name: str, here: float) -> Made:
    """The zero of a revolute joint where its coordinate is `here` (core units): limits, drivers, positions and checks
    of the coordinate count from there. Raises `DocumentError` where it has no zero of its own, or where an expression
    counts on the old one."""
    joint = document.joints[name]
    if not joint.kind.has_zero:
        raise located(f"joints.{name}", "only a revolute joint has a zero; a slide counts from its first point")
    _refuse(document, name)
    shift = in_document_units(here, Dimension.ANGLE, document.units)
    zero = in_document_units(joint.values.get("zero", 0.0), Dimension.ANGLE, document.units)
    changes: list[Change] = [Set(("joints", name, "zero"), round(zero + shift, 9))]
    changes += _following(document, name, lambda value: value - shift, {key: key for key in SWAPPED})
    return Made(tuple(changes), ("joints", name))


def reversed_sign(document: Document, name: str, _here: float = 0.0) -> Made:
    """The positive direction of a joint the other way: the sides of a revolute joint change places, the direction of a
    slide turns about. Raises `DocumentError` where something else counts on the sign."""
    joint = document.joints[name]
    _refuse(document, name)
    if any(name in (coupling.a, coupling.b) for coupling in document.couplings.values()):
        raise located(f"joints.{name}", "a coupling counts on its sign; change that first")
    entry, units = document.tree["joints"][name], document.units
    changes: list[Change] = []
    if joint.kind.has_zero:
        changes += [Set(("joints", name, "a"), entry["b"]), Set(("joints", name, "b"), entry["a"])]
        if "zero" in entry:
            changes.append(Set(("joints", name, "zero"), -in_document_units(joint.values["zero"], "angle", units)))
    elif "direction" in joint.values:
        turned = in_document_units(joint.values["direction"] + math.pi, "angle", units)
        changes.append(Set(("joints", name, "direction"), round(turned, 9)))
    else:
        raise located(f"joints.{name}", "counts one way only")
    changes += _following(document, name, lambda value: -value, SWAPPED)
    return Made(tuple(changes), ("joints", name))


def _refuse(document: Document, name: str) -> None:
    """Where something counts on a coordinate that can't follow."""
    if "/" in name:
        raise located(f"joints.{name}", "stands in a sub-assembly; open that and change it there")
    for driver in document.drivers.values():
        led = any(driver.id in leaders(other) for other in document.drivers.values())
        if driver.joint == name and (led or driver.follows):
            raise located(f"drivers.{driver.id}", "is part of an expression of drivers, which counts on how it is; "
                                                  "change that first")  # fmt: skip
        if driver.joint == name and driver.program is not None:
            raise located(f"drivers.{driver.id}", "runs by a program, which counts on how it is; change that first")


def _following(
    document: Document, name: str, change: Callable[[float], float], keys: Mapping[str, str]
) -> list[Change]:
    """All numbers that speak of a joint's coordinate, changed, under what their keys are then."""
    joint, units, tree = document.joints[name], document.units, document.tree
    dimension = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) or Dimension.LENGTH
    found: list[Change] = []

    def new(value: float) -> float:
        return round(change(in_document_units(value, dimension, units)), 9) + 0.0

    def bounds(place: tuple[str, ...], kept: Mapping[str, Any], given: Mapping[str, float | None]) -> None:
        moved = {keys[key]: new(value) for key, value in given.items() if value is not None}
        if moved:
            order = [key for key in given if key in moved]
            found.append(Set(place, {**kept, **{key: moved[key] for key in order}}))

    limits = joint.limits
    bounds(("joints", name, "limits"), {}, {"min": limits.min, "max": limits.max, "rest": limits.rest})
    for driver in document.drivers.values():
        if driver.joint == name:
            if driver.start is not None:
                found.append(Set(("drivers", driver.id, "from"), new(driver.start)))
            if "to" in tree["drivers"][driver.id]:
                found.append(Set(("drivers", driver.id, "to"), new(driver.stop)))
    for position in document.positions.values():
        for kind, values in (("drivers", position.drivers), ("joints", position.joints)):
            for key, value in values.items():
                if (document.drivers[key].joint if kind == "drivers" else key) == name:
                    found.append(Set(("positions", position.id, kind, key), new(value)))
    first = next(iter(document.drivers.values()), None)
    for check in document.checks.values():
        entry = tree["checks"][check.id]
        if check.measure == "coordinate" and check.joint == name:
            kept = {key: value for key, value in entry.items() if key not in ("at_least", "at_most")}
            bounds(("checks", check.id), kept, {"at_least": check.at_least, "at_most": check.at_most})
        if check.at is not None and first is not None and first.joint == name:
            found.append(Set(("checks", check.id, "at"), new(check.at)))
    return found
