"""Taking things out of a document, with all that can't be without them."""

from dataclasses import dataclass

from ..document.changes import Change, Place, Put, Take
from ..document.model import Document
from ..document.references import references
from ..errors import DocumentError, Fault


@dataclass(frozen=True)
class Leaving:
    """Changes that take something out, and the places of what goes with it."""

    changes: tuple[Change, ...]
    also: tuple[Place, ...]


def leave(document: Document, *places: Place) -> Leaving:
    """Takes entries out (parts, points, joints, drivers…) with all that refers to them: joints of a part, drivers and
    checks of a joint, shapes about a point. A parameter's value takes its place in the expressions that use it. Raises
    `DocumentError` where a parameter's value can't be written there."""
    gone: dict[tuple[str | int, ...], None] = {tuple(place): None for place in places}
    every = list(references(document))
    grown = True
    while grown:
        grown = False
        for reference in every:
            hit = any(reference.names(place) for place in gone)
            if hit and reference.how != "expression" and not _within(reference.owner, gone):
                gone[reference.owner] = None
                grown = True
    for name, group in document.groups.items():
        left = [k for k in range(len(group.parts)) if ("groups", name, "parts", k) not in gone]
        if not left:
            gone = {place: None for place in gone if place[:2] != ("groups", name)} | {("groups", name): None}
    changes: list[Change] = []
    for place in gone:
        if place[0] == "parameters":
            changes += _with_its_value(document, str(place[1]))
    # The last entries of a list first, so that the indices of the others still count.
    ordered = sorted(gone, key=lambda place: [(isinstance(key, int), key if isinstance(key, int) else 0)
                                              for key in place], reverse=True)
    changes += [Take(place) for place in ordered]
    asked = {tuple(place) for place in places}
    return Leaving(tuple(changes), tuple(place for place in gone if place not in asked))


def _within(place: tuple[str | int, ...], gone: dict[tuple[str | int, ...], None]) -> bool:
    return any(place[: len(other)] == other for other in gone)


def _with_its_value(document: Document, name: str) -> list[Change]:
    """Writes a parameter's expression, in brackets, wherever it is used."""
    from ..document.expressions import with_name

    expression = document.parameters[name].expression
    changes: list[Change] = []
    texts: dict[tuple[str | int, ...], str] = {}
    for reference in references(document):
        if reference.how == "expression" and reference.target == ("parameters", name):
            texts[reference.place] = with_name(reference.text, name, f"({expression})")
    for place, text in texts.items():
        if len(text) > 1000:
            raise DocumentError([Fault(".".join(map(str, place)), f"with the value of '{name}' it would be too long")])
        changes.append(Put(place, text))
    return changes
