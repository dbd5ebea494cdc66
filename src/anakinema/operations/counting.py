"""How a joint counts: where its zero lies, and which way is positive. All that speaks of its coordinate follows, so
that the mechanism moves as before."""

from collections.abc import Mapping
from typing import Any

from ..document.changes import Change, Put
from ..document.model import Document
from ..errors import located
from ..kinds import Dimension
from ..words import in_document_units
from .building import Made


def zero_here(document: Document, name: str, here: float) -> Made:
    """The zero of a revolute joint where its coordinate is `here` (core units): limits, drivers, positions and checks
    of the coordinate count from there. Raises `DocumentError` where it has no zero of its own, or where an expression
    counts on the old one."""
    joint = document.joints[name]
    if joint.type != "revolute":
        raise located(f"joints.{name}", "only a revolute joint has a zero; a slide counts from its first point")
    if "/" in name:
        raise located(f"joints.{name}", "stands in a sub-assembly; open that and change its zero there")
    _refuse_followers(document, name)
    shift = in_document_units(here, Dimension.ANGLE, document.units)
    zero = in_document_units(joint.values.get("zero", 0.0), Dimension.ANGLE, document.units)
    changes: list[Change] = [Put(("joints", name, "zero"), round(zero + shift, 9))]
    changes += _following(document, name, lambda value: value - shift)
    return Made(tuple(changes), ("joints", name))


def reversed_sign(document: Document, name: str, here: float) -> Made:
    """The positive direction of a joint the other way: its sides change places, and for a slide its direction turns.
    Raises `DocumentError` where that would say something else."""
    del here
    joint = document.joints[name]
    if "/" in name:
        raise located(f"joints.{name}", "stands in a sub-assembly; open that and change it there")
    if joint.type != "revolute":
        raise located(f"joints.{name}", "turn its direction about by half a turn instead; a slide counts along that")
    if any(name in (coupling.a, coupling.b) for coupling in document.couplings.values()):
        raise located(f"joints.{name}", "a coupling counts on its sign; change that first")
    _refuse_followers(document, name)
    entry = document.tree["joints"][name]
    changes: list[Change] = [Put(("joints", name, "a"), entry["b"]), Put(("joints", name, "b"), entry["a"])]
    if "zero" in entry:
        zero = in_document_units(joint.values["zero"], Dimension.ANGLE, document.units)
        changes.append(Put(("joints", name, "zero"), -zero))
    changes += _following(document, name, lambda value: -value)
    limits = dict(entry.get("limits", {}))
    if limits:
        turned = {key: in_document_units(getattr(joint.limits, key), Dimension.ANGLE, document.units) for key in limits}
        swap = {"min": "max", "max": "min", "rest": "rest"}
        new = {swap[key]: -value for key, value in turned.items()}
        changes = [change for change in changes if not (isinstance(change, Put) and change.place[2:3] == ("limits",)
                                                        and change.place[1] == name)]  # fmt: skip
        changes.append(Put(("joints", name, "limits"), {key: new[key] for key in ("min", "max", "rest") if key in new}))
    for check in document.checks.values():
        if check.measure == "coordinate" and check.joint == name:  # the bounds change sides as well
            old = document.tree["checks"][check.id]
            low, high = (None if bound is None else -in_document_units(bound, Dimension.ANGLE, document.units)
                         for bound in (check.at_most, check.at_least))  # fmt: skip
            kept = {key: value for key, value in old.items() if key not in ("at_least", "at_most")}
            bounds = {key: value for key, value in (("at_least", low), ("at_most", high)) if value is not None}
            changes.append(Put(("checks", check.id), {**kept, **bounds}))
    return Made(tuple(changes), ("joints", name))


def _refuse_followers(document: Document, name: str) -> None:
    for driver in document.drivers.values():
        leads = [other.id for other in document.drivers.values() if driver.id in other.follows and other.follows]
        if driver.joint == name and (leads or driver.follows):
            raise located(f"drivers.{driver.id}", "is part of an expression of drivers, which counts on the old zero; "
                                                  "change that first")  # fmt: skip


def _following(document: Document, name: str, change: Any) -> list[Change]:
    """All numbers that speak of a joint's coordinate, changed."""
    found: list[Change] = []
    units, tree = document.units, document.tree

    def put(place: tuple[str, ...], value: float | None) -> None:
        if value is not None:
            told = in_document_units(value, Dimension.ANGLE, units)
            new = round(change(told), 9)
            found.append(Put(place, 0.0 if new == 0 else new))

    joint = document.joints[name]
    for key in ("min", "max", "rest"):
        put(("joints", name, "limits", key), getattr(joint.limits, key))
    for driver in document.drivers.values():
        entry: Mapping[str, Any] = tree["drivers"][driver.id]
        if driver.joint == name:
            put(("drivers", driver.id, "from"), driver.start)
            put(("drivers", driver.id, "to"), driver.stop if "to" in entry else None)
    for position in document.positions.values():
        for key, value in position.joints.items():
            if key == name:
                put(("positions", position.id, "joints", key), value)
        for key, value in position.drivers.items():
            if document.drivers[key].joint == name:
                put(("positions", position.id, "drivers", key), value)
    for check in document.checks.values():
        if check.measure == "coordinate" and check.joint == name:
            put(("checks", check.id, "at_least"), check.at_least)
            put(("checks", check.id, "at_most"), check.at_most)
        first = next(iter(document.drivers.values()), None)
        if check.at is not None and first is not None and first.joint == name:
            put(("checks", check.id, "at"), check.at)
    return found
