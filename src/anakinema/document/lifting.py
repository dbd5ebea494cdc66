"""Parts moved in depth: the changes that do it."""

from .changes import Change, Place, Set
from .model import Document
from .written import tidy


def nearer(document: Document, part: str, by: float) -> tuple[tuple[Change, ...], Place]:
    """A part so far nearer to the viewer, with all that stands out of it (document lengths). A copy that takes its
    depths from another is lifted; of a sub-assembly the whole is; hardware lies off what it lies on."""
    use = part.partition("/")[0]
    if use != part:
        place = ("parts", use, "lift")
        return (Set(place, tidy(document.uses[use].lift + by)),), ("uses", use)
    home, entry = document.home("parts", part), document.entry("parts", part)
    piece = document.parts[part].hardware
    if piece is not None:  # it lies on something: so far off that
        off = entry["hardware"].get("off", 0)
        return (Set((*home, "hardware", "off"), _on(off, piece.way * by)),), ("parts", part)
    if document.parts[part].of and "depth" not in entry and "shapes" not in entry:
        lift = entry.get("lift", 0)
        return (Set((*home, "lift"), _on(lift, by)),), ("parts", part)
    changes: list[Change] = []
    low, high = document.parts[part].depth
    given = entry.get("depth", [low, high])
    changes.append(Set((*home, "depth"), [_on(end, by) for end in given]))
    for number, shape in enumerate(entry.get("shapes", [])):
        if "depth" in shape:
            changes.append(Set((*home, "shapes", number, "depth"), [_on(end, by) for end in shape["depth"]]))
    return tuple(changes), ("parts", part)


def _on(value: float | str, by: float) -> float | str:
    """A depth moved by so much, as it is written."""
    if not isinstance(value, str):
        return tidy(value + by)
    return f"{value} {'+' if by >= 0 else '-'} {tidy(abs(by))!r}"
