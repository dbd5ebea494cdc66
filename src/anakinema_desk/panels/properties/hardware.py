"""The card of a piece of hardware: size and length from its table, on what it lies, whether it fits."""

from typing import TYPE_CHECKING

from anakinema.document.changes import Change, Remove, Set
from anakinema.document.model import Document
from anakinema.formatting import shown
from anakinema.kinds import MM_IN

if TYPE_CHECKING:
    from .properties import Properties

CHOSEN = "as it fits"


def hardware(properties: "Properties", document: Document, name: str) -> None:
    """What it is of its table, and where."""
    piece = document.parts[name].hardware
    assert piece is not None
    place = (*document.home("parts", name), "hardware")
    properties.note(f"{document.parts[name].item.name}, {piece.standard}. It moves with {piece.at.part}.")
    grid = properties.section("HARDWARE")

    def put(key: str, value: str | float | None, text: str) -> None:
        change: Change = Remove((*place, key)) if value is None else Set((*place, key), value)
        faults = properties.session.apply((change,), text)
        if faults:
            properties.session.faults_raised.emit("Not changed", faults)

    sizes = list(piece.table.rows)
    properties.pick(grid, "size", sizes, lambda: _now(properties, name, "size"),
                    lambda size: put("size", size, f"Size of {name}"))  # fmt: skip
    if piece.kind.long:
        per = 1.0 / MM_IN[document.units.length]
        lengths = {shown(each * per, "number", document.units, 4): round(each * per, 9) for each in piece.row.lengths}
        if piece.given is not None:
            lengths.setdefault(shown(piece.given, "number", document.units, 4), piece.given)

        def choose(text: str) -> None:
            put("length", None if text == CHOSEN else lengths[text], f"Length of {name}")

        free = [CHOSEN] if piece.to or piece.kind.turns else []
        properties.pick(grid, "length", [*free, *lengths], lambda: _now(properties, name, "length"), choose)
    properties.description(grid, "is long", lambda: _length(properties, name))
    properties.description(grid, "lies on", lambda: _seat(properties, name))
    properties.field(grid, "off that", (*place, "off"), optional=True, hint="How far it lies off what it lies on")
    properties.note(f"Sizes: {piece.table.source}.")
    if piece.unfit:
        properties.note(f"No longer fits: {piece.unfit}.")


def _now(properties: "Properties", name: str, key: str) -> str:
    document = properties.session.document
    piece = document.parts[name].hardware if document is not None and name in document.parts else None
    if document is None or piece is None:
        return ""
    if key == "size":
        return piece.size
    return CHOSEN if piece.given is None else shown(piece.given, "number", document.units, 4)


def _length(properties: "Properties", name: str) -> str:
    document = properties.session.document
    piece = document.parts[name].hardware if document is not None and name in document.parts else None
    return "–" if document is None or piece is None else shown(piece.length, "length", document.units, 3)


def _seat(properties: "Properties", name: str) -> str:
    document = properties.session.document
    piece = document.parts[name].hardware if document is not None and name in document.parts else None
    if document is None or piece is None:
        return "–"
    side = "front" if piece.front else "back"
    return f"the {side} of {piece.seat or piece.at.part}"
