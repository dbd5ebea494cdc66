"""Taking things out of a document, with all that can't be without them."""

import cmath
from collections.abc import Mapping
from dataclasses import dataclass

from ..document.changes import Change, Remove, Set, lookup
from ..document.expressions import names
from ..document.model import Document
from ..document.references import Place, references
from ..document.written import written
from ..errors import DocumentError, Fault
from ..geometry.features import SAME


@dataclass(frozen=True)
class Leaving:
    """Changes that take something out, and the places of what goes with it."""

    changes: tuple[Change, ...]
    also: tuple[Place, ...]


def leave(document: Document, *places: Place) -> Leaving:
    """Takes entries out (parts, points, joints, drivers…) with all that refers to them: joints of a part, drivers and
    checks of a joint, shapes about a point. A parameter's value takes its place in the expressions that use it. Raises
    `DocumentError` where a parameter's value can't be written there."""
    gone: dict[Place, None] = {tuple(place): None for place in places}
    every = list(references(document))
    grown = True
    while grown:
        grown = False
        for reference in every:
            hit = any(reference.names(place) for place in gone)
            without = reference.how != "expression" or reference.target[:1] == ("drivers",)  # it follows what goes
            if hit and without and not _within(reference.owner, gone):
                gone[reference.owner] = None
                grown = True
    for place in list(gone):
        whole = place[:-2]  # a group without parts, a position without values go whole
        kept = place in gone and len(place) > 3 and whole[-2] in ("groups", "positions")
        if kept and _emptied(document, place, gone):
            gone = {other: None for other in gone if other[: len(whole)] != whole} | {whole: None}
    changes: list[Change] = []
    for place in gone:
        if len(place) in (2, 4) and place[-2] == "parameters" and place[0] in ("parameters", "assemblies"):
            changes += _with_its_value(document, place)
    # The last entries of a list first, so that the indices of the others still count.
    ordered = sorted(gone, key=lambda place: [(isinstance(key, int), key if isinstance(key, int) else 0)
                                              for key in place], reverse=True)
    changes += [Remove(place) for place in ordered]
    asked = {tuple(place) for place in places}
    return Leaving(tuple(changes), tuple(place for place in gone if place not in asked))


def _within(place: Place, gone: dict[Place, None]) -> bool:
    return any(place[: len(other)] == other for other in gone)


def tied_elsewhere(
    document: Document, part: str, poses: Mapping[str, tuple[float, float, float]]
) -> tuple[Change, ...]:
    """The changes that tie the joints of a part to other parts that have a point at the same place, where these are
    none of its joint's own; `poses` are where parts stand. Joints for which there is none are left as they are."""
    changes: list[Change] = []

    def spot(name: str, point: str) -> complex:
        x, y, angle = poses[name]
        return complex(x, y) + complex(*document.parts[name].points[point]) * cmath.rect(1.0, angle)

    for joint in document.joints.values():
        side = "a" if joint.a.part == part else "b" if joint.b.part == part else ""
        own, other = joint.seen_from(part)
        if not side or joint.at_end or own.point not in document.parts[part].points:
            continue
        at = spot(part, own.point)
        found = next((
            f"{name}.{point}" for name, one in document.parts.items() if name not in (part, other.part)
            for point in one.points if abs(spot(name, point) - at) < SAME
        ), "")  # fmt: skip
        if found:
            changes.append(Set((*document.home("joints", joint.id), side), found))
    return tuple(changes)


def _emptied(document: Document, place: Place, gone: dict[Place, None]) -> bool:
    """Whether nothing is left beside the entry at a place."""
    holder = lookup(document.tree, place[:-1])
    keys = holder if isinstance(holder, Mapping) else range(len(holder))
    return all((*place[:-1], key) in gone for key in keys)


def _standing_at(document: Document, parameter: Place, place: Place) -> str:
    """What a parameter is worth, for another place: its expression, or the number where names of that would mean
    something else there."""
    entry = lookup(document.tree, parameter)
    expression = entry["value"] if isinstance(entry, Mapping) else entry
    own = lookup(document.tree, (*place[:2], "parameters"), {}) if place[0] == "assemblies" else {}
    elsewhere = own.keys() if place[0] == "assemblies" else document.drivers.keys() if place[0] == "drivers" else ()
    if parameter[0] != "parameters" or not names(str(expression)) & set(elsewhere):
        return str(expression)
    try:
        return written(document.quantities[str(parameter[-1])], document.units)
    except ValueError as error:
        text = f"'{parameter[-1]}' can't be replaced by its value at '{'.'.join(map(str, place))}': {error}"
        raise DocumentError([Fault(".".join(map(str, parameter)), text)]) from error


def _with_its_value(document: Document, parameter: Place) -> list[Change]:
    """Writes a parameter's expression, in brackets, wherever it is used."""
    from ..document.expressions import with_name

    name = str(parameter[-1])
    changes: list[Change] = []
    texts: dict[Place, str] = {}
    for reference in references(document):
        if reference.how == "expression" and reference.target == parameter:
            text = texts.get(reference.place, reference.text)
            texts[reference.place] = with_name(text, name, f"({_standing_at(document, parameter, reference.place)})")
    for place, text in texts.items():
        if len(text) > 1000:
            raise DocumentError([Fault(".".join(map(str, place)), f"with the value of '{name}' it would be too long")])
        changes.append(Set(place, text))
    return changes
