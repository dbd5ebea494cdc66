"""What is asked of a mechanism: measures, checks of them, named positions; and joints that are tied to each other."""

import copy
from collections.abc import Mapping
from typing import Any

from ..document.changes import Change, Set, changed
from ..document.model import Document
from ..errors import DocumentError, Fault
from ..joints import COUPLING_TYPES, JOINT_TYPES
from ..kinds import Dimension
from .building import Made, free_name, named_point
from .camming import cam_between
from .joining import Grab


def measure(document: Document, kind: str, one: Grab, two: Grab) -> Made:
    """A named measure between two features; those without a name get one, a side those of its ends. A distance to a
    side is that to its line. An angle is that between two sides, else between the axes of the two parts. Raises
    `DocumentError` for two features in one place of a part, or an angle of one part with itself."""
    name = free_name(document.measures, "gap" if kind == "distance" else "angle")
    changes: list[Change] = []
    if kind == "angle" and one.part == two.part:
        raise DocumentError([Fault(f"parts.{one.part}", "an angle is taken between two parts")])
    sides: list[Any] = []
    for grab in (one, two):
        places = measured_places(grab)
        if kind == "angle" and len(places) == 1:
            sides.append(grab.part)
            continue
        names = []
        for at in places:
            point, named = named_point(_with(document, changes), grab.part, at)
            changes += named
            names.append(f"{grab.part}.{point}")
        sides.append(names if len(names) == 2 else names[0])
    if sides[0] == sides[1]:
        raise DocumentError([Fault(f"parts.{one.part}", "both features are one; take two that are apart")])
    changes.append(Set(("measures", name), {"measure": kind, "a": sides[0], "b": sides[1]}))
    return Made(tuple(changes), ("measures", name))


def trace_point(document: Document, grab: Grab, on: str = "") -> Made:
    """The path of a feature, seen from the frame or from a part. One without a name gets one. Raises `DocumentError`
    where a part is to see its own point, which does not move on it, or the same is traced already."""
    if on == grab.part:
        raise DocumentError([Fault(f"parts.{on}", "its own point stands still on it; choose another part")])
    point, changes = named_point(document, grab.part, grab.feature.at)
    entry = {"point": f"{grab.part}.{point}"} | ({"on": on} if on else {})
    for known in document.traces.values():
        if str(known.point) == entry["point"] and (known.on or "") == on:
            raise DocumentError([Fault(f"traces.{known.id}", "traces this already")])
    name = free_name(document.traces, point if point.isidentifier() and len(point) > 1 else f"{grab.part}-{point}")
    return Made((*changes, Set(("traces", name.replace("/", "-")), entry)), ("traces", name.replace("/", "-")))


def measured_places(grab: Grab) -> tuple[complex, ...]:
    """The places by which a feature is measured, in its part's axes: both ends of a side, else where it is."""
    edge = grab.feature.edge
    return edge if edge is not None and not grab.feature.round else (grab.feature.at,)


def _with(document: Document, changes: list[Change]) -> Document:
    return changed(document, *changes) if changes else document


def check_measure(document: Document, name: str, at_least: float) -> Made:
    """A check that a measure never gets below what it is now; the bound is then changed on its card."""
    check = free_name(document.checks, f"{name}-kept")
    entry = {"measure": "measured", "of": name, "at_least": at_least}
    return Made((Set(("checks", check), entry),), ("checks", check))


PAIRED = {"at_least": "at_most", "at_most": "at_least", "min": "max", "max": "min"}
"""Bounds that come in pairs."""


def bounds_around(place: tuple[str, ...], text: str) -> list[Change] | None:
    """Both bounds of a pair from one text such as ``80 ± 0.5``, typed for the one at a place; None where it is not
    so.

    >>> [change.value for change in bounds_around(("checks", "stroke", "at_least"), "80 ± 0.5 mm")]
    ['80 - (0.5 mm)', '80 + (0.5 mm)']
    """
    middle, sign, off = (each.strip() for each in text.partition("±"))
    if not sign or not off or place[-1] not in PAIRED:
        return None
    low = "at_least" if place[-1].startswith("at_") else "min"
    middle = middle or "0"
    return [Set((*place[:-1], low), f"{middle} - ({off})"), Set((*place[:-1], PAIRED[low]), f"{middle} + ({off})")]


def keep_position(
    document: Document, where: Mapping[str, Mapping[str, float]], word: str = "position"
) -> Made:
    """A named position, called by a word or as near to it as names are: where the mechanism stands now. Raises
    `DocumentError` where nothing fixes that."""
    if not any(where.values()):
        raise DocumentError([Fault("positions", "no joint says where the mechanism stands; add joints first")])
    plain = "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in word).strip("-")
    name = free_name(document.positions, plain or "position")
    entry = {kind: dict(values) for kind, values in where.items()}
    return Made((Set(("positions", name), entry),), ("positions", name))


def couplings_for(document: Document, one: str, two: str) -> list[str]:
    """The couplings that can tie two joints, in the order a to b as given."""
    found = []
    dimensions = [_dimension(document, name) for name in (one, two)]
    for kind in COUPLING_TYPES.values():
        if None not in dimensions and all(
            wanted in (None, got) for wanted, got in zip(kind.wants, dimensions, strict=True)
        ):
            found.append(kind.name)
    return found


def couple(document: Document, kind: str, one: str, two: str) -> Made:
    """Ties two joints by a coupling with a first guess of its numbers. A rack is tied from pinion to slide, however the
    joints were picked. Raises `DocumentError` where the joints don't suit it."""
    if one == two:
        raise DocumentError([Fault(f"joints.{one}", "is tied to itself; pick two joints")])
    if kind not in couplings_for(document, one, two) and kind in couplings_for(document, two, one):
        one, two = two, one
    if kind not in couplings_for(document, one, two):
        wants = {"angle": "a joint that turns", "length": "a joint that slides", None: "a joint with a coordinate"}
        a, b = COUPLING_TYPES[kind].wants
        text = f"{COUPLING_TYPES[kind].title.lower()}: {wants[a]} and {wants[b]} are wanted"
        raise DocumentError([Fault(f"joints.{one}", text)])
    if COUPLING_TYPES[kind].by_program:
        return cam_between(document, one, two)
    name = free_name(document.tree.get("joints", {}), kind)
    entry = {"type": kind, "a": one, "b": two, **copy.deepcopy(COUPLING_TYPES[kind].first_guess)}
    return Made((Set(("joints", name), entry),), ("joints", name))


def _dimension(document: Document, joint: str) -> Dimension | None:
    found = document.joints.get(joint)
    return JOINT_TYPES[found.type].coordinate_dimension(found.values) if found is not None else None
