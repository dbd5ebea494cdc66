"""What refers to what: every place of a document that names a part, a point, a joint or a parameter.

Renaming and deleting follow these. Where a reference may stand is declared in the tables below; a test renames
everything in every example and finds nothing left behind.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ..joints import COUPLING_TYPES
from .copies import lineage
from .expressions import names, with_name
from .model import Document

Place = tuple[str | int, ...]


@dataclass(frozen=True)
class Reference:
    """A text at a place that names the entry at `target`: a part, a part's point or edge, a joint, a parameter."""

    place: Place
    target: Place
    text: str
    how: str
    """``name``, ``point`` (written part.point) or ``expression``."""
    also: Place = ()
    """The point itself, where the part is a copy that takes it from another."""

    @property
    def owner(self) -> Place:
        """The entry that can't be what it is without: a joint, a driver, a shape of a part, a parameter."""
        if self.place[0] == "groups":
            return self.place  # one of several
        return self.place[:4] if self.place[0] == "parts" and self.place[2] != "of" else self.place[:2]

    def names(self, place: Place) -> bool:
        """Whether it names the entry at a place, or one within it."""
        return place in (self.target[: len(place)], self.also[: len(place)])


# Keys of entries of each section that name something; an entry of lists is read one by one.
PARTS = {"groups": ("parts",), "traces": ("on",), "checks": ("parts",), "pairs": ("parts",), "joints": ("carrier",)}
JOINTS = {"drivers": ("joint",), "checks": ("joint",)}
POINTS = {"traces": ("point",)}
# Paths below a part that lead to a point of its own, by name; * is any index or name.
SPOTS = (
    ("shapes", "*", "through", "*"), ("shapes", "*", "center"), ("shapes", "*", "vertices", "*"),
    ("shapes", "*", "start"), ("shapes", "*", "segments", "*", "to"), ("shapes", "*", "segments", "*", "center"),
    ("edges", "*", "center"), ("edges", "*", "from"), ("edges", "*", "to"),
)  # fmt: skip


def references(document: Document) -> Iterator[Reference]:
    """All references of a document that makes sense."""
    tree = document.tree
    for section in ("groups", "joints", "drivers", "traces", "checks", "pairs"):
        for key, entry in tree.get(section, {}).items():
            yield from _of_entry(document, section, key, entry)
    for part, entry in tree.get("parts", {}).items():
        if "of" in entry:
            yield Reference(("parts", part, "of"), ("parts", entry["of"]), entry["of"], "name")
        points = {**entry.get("points", {}), **entry.get("edges", {})}
        for path in SPOTS:
            for place, text in _along(entry, path, ("parts", part)):
                bent = place[2] == "edges" and "center" in entry["edges"][place[3]] and place[4] != "center"
                if isinstance(text, str) and text in points and not bent:
                    kind = "points" if text in entry.get("points", {}) else "edges"
                    yield Reference(place, ("parts", part, kind, text), text, "name")
    yield from _expressions(document)


def _of_entry(document: Document, section: str, key: str, entry: Mapping[str, Any]) -> Iterator[Reference]:
    here: Place = (section, key)
    for word in PARTS.get(section, ()):
        given = entry.get(word)
        for place, text in [((*here, word), given)] if isinstance(given, str) else [
            ((*here, word, i), text) for i, text in enumerate(given or [])
        ]:
            yield Reference(place, ("parts", text), text, "name")
    for word in JOINTS.get(section, ()):
        if isinstance(entry.get(word), str):
            yield Reference((*here, word), ("joints", entry[word]), entry[word], "name")
    points = ("a", "b") if section == "joints" else POINTS.get(section, ())
    for word in points:
        text = entry.get(word)
        if not isinstance(text, str):
            continue
        if section == "joints" and entry.get("type") in COUPLING_TYPES:
            yield Reference((*here, word), ("joints", text), text, "name")
        else:
            part, _, point = text.partition(".")
            kind = "points" if point in document.parts[part].points else "edges"
            also = ("parts", holder(document.tree["parts"], part, point), kind, point)
            target = ("parts", part, kind, point)
            yield Reference((*here, word), target, text, "point", also if also != target else ())


def holder(parts: Mapping[str, Any], part: str, point: str) -> str:
    """The part that says where a point or an edge of a part is: itself, or the one that it is a copy of."""
    line, _ = lineage(parts, part)
    for each in line:
        if any(point in parts[each].get(word, {}) for word in ("points", "edges")):
            return each
        if any(word in parts[each] for word in ("points", "edges")) and "of" not in parts[each]:
            break
    return part


def _expressions(document: Document) -> Iterator[Reference]:
    """The parameters in every expression."""
    places = [tuple(int(word) if word.isdigit() else word for word in place.split(".")) for place in document.values]
    for key, entry in document.tree.get("parameters", {}).items():
        places.append(("parameters", key, "value") if isinstance(entry, Mapping) else ("parameters", key))
    for place in places:
        keyed, text = _reached(document.tree, place)
        if isinstance(text, str):
            for name in sorted(names(text)):
                yield Reference(keyed, ("parameters", name), text, "expression")


def _reached(tree: Any, place: Place) -> tuple[Place, Any]:
    """The place with the names of objects as texts, though they may look like numbers, and what stands there (None
    where nothing does)."""
    found: list[str | int] = []
    for word in place:
        key = str(word) if isinstance(tree, Mapping) else word
        found.append(key)
        here = key in tree if isinstance(tree, Mapping) else isinstance(tree, list) and isinstance(key, int)
        tree = tree[key] if here else None
    return tuple(found), tree


def _along(tree: Any, path: tuple[str, ...], place: Place) -> Iterator[tuple[Place, Any]]:
    if not path:
        yield place, tree
    elif path[0] == "*":
        items = tree.items() if isinstance(tree, Mapping) else enumerate(tree) if isinstance(tree, list) else ()
        for key, entry in items:
            yield from _along(entry, path[1:], (*place, key))
    elif isinstance(tree, Mapping) and path[0] in tree:
        yield from _along(tree[path[0]], path[1:], (*place, path[0]))


def renamed_in(reference: Reference, place: Place | list[str | int], name: str) -> str | None:
    """What a reference says when the entry at a place has another name; None where it does not speak of it."""
    place = tuple(place)
    if not reference.names(place):
        return None
    if reference.how == "expression":
        return with_name(reference.text, str(place[1]), name)
    if reference.how == "point":
        part, _, point = reference.text.partition(".")
        if len(place) == 4:
            return f"{part}.{name}"
        return f"{name}.{point}" if part == place[1] else None  # a copy of that part keeps its own name
    return name if len(reference.target) == len(place) else None
