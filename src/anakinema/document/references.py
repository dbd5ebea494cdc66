"""What refers to what: every place of a document that names a part, a point, a joint, a parameter, a sub-assembly.

Renaming and deleting follow these. Where a reference may stand is declared in the tables below and in the fields of the
kinds; a test renames everything in every example and finds nothing left behind.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from ..geometry.shapes import SHAPES, Shape, shape_kinds
from ..joints import CONTACT, COUPLING_TYPES
from ..kinds import Field, FieldForm
from ..measures import MEASURE_TYPES
from ..measures.expressions import Expression
from .copies import lineage
from .expressions import names, with_name
from .model import Document
from .sections import HARDWARE, SECTIONS

Place = tuple[str | int, ...]
PIECE = re.compile(r"[/.]")


@dataclass(frozen=True)
class Reference:
    """A text at a place that names entries. `named` holds each with the number of the piece of the text (pieces are cut
    at ``/`` and ``.``) that is its name: in ``left/arm.P`` the sub-assembly, the part in its definition, the point."""

    place: Place
    text: str
    how: str
    """``name``, ``point`` (written part.point), ``expression``, or ``key`` (the last key of the place is the name)."""
    named: tuple[tuple[Place, int], ...]

    @property
    def target(self) -> Place:
        """What it speaks of: the last that it names."""
        return self.named[-1][0] if self.named else ()

    @property
    def owner(self) -> Place:
        """The entry that can't be what it is without: a joint, a driver, a shape of a part, a parameter."""
        base = 2 if self.place[0] == "assemblies" else 0
        inner = self.place[base:]
        if inner[0] == "groups" or self.how == "key":
            return self.place  # one of several
        if inner[0] == "parts" and inner[2] not in ("of", "assembly", "repeat", "hardware"):
            return self.place[: base + 4]
        return self.place[: base + 2]

    def names(self, place: Place) -> bool:
        """Whether it names the entry at a place, or one within it."""
        return any(target[: len(place)] == place for target, _ in self.named)


BY_NAME = {FieldForm.PART: "parts", FieldForm.PARTS: "parts", FieldForm.MEMBERS: "parts",
           FieldForm.JOINT: "joints", FieldForm.MEASURE: "measures",
           FieldForm.PROGRAM: "programs", FieldForm.DRIVER: "drivers",
           FieldForm.TRACE: "traces", FieldForm.CONTACT: "joints",
           FieldForm.CAM: "joints"}
SHAPE_KINDS = shape_kinds()
EDGE_SPOTS = (("edges", "*", "center"), ("edges", "*", "from"), ("edges", "*", "to"))


@cache
def spot_paths() -> tuple[tuple[str, ...], ...]:
    """Paths below a part that lead to a point of its own, by name; * is any index or name."""
    found: dict[tuple[str, ...], None] = dict.fromkeys(EDGE_SPOTS)
    for field in (field for shape in SHAPES for field in shape.fields):
        here = ("shapes", "*", field.name)
        match field.form:
            case FieldForm.SPOT:
                found[here] = None
            case FieldForm.SPOTS:
                found[(*here, "*")] = None
            case FieldForm.SEGMENTS:
                found |= {(*here, "*", "to"): None, (*here, "*", "center"): None}
    return tuple(found)


def references(document: Document) -> Iterator[Reference]:
    """All references of a document that makes sense."""
    tree = document.tree
    yield from _of_content(document, tree, ())
    for name, definition in tree.get("assemblies", {}).items():
        yield from _of_content(document, definition, ("assemblies", name))
    for section in ("drivers", "measures", "checks", "tracks", "pairs", "waived"):
        for key, entry in tree.get(section, {}).items():
            yield from _of_entry(document, tree, (), section, key, entry)
    for key, entry in tree.get("positions", {}).items():
        for name in entry.get("drivers", {}):
            yield Reference(("positions", key, "drivers", name), name, "key", ((("drivers", name), 0),))
        for name in entry.get("joints", {}):
            named = path_of(tree, (), "joints", name)
            yield Reference(("positions", key, "joints", name), name, "key", named)
    for key, driver in document.drivers.items():
        for name in sorted(names(driver.follows)) if driver.follows else ():
            section = "drivers" if name in document.drivers else "parameters"
            yield Reference(("drivers", key, "follows"), driver.follows, "expression", (((section, name), 0),))
    yield from _of_measures(document)
    yield from _expressions(document)


def _of_measures(document: Document) -> Iterator[Reference]:
    """What expressions of measures name, and bounds that are expressions of what other checks find."""
    entries = ((section, key, entry) for section in ("measures", "checks", "tracks")
               for key, entry in document.tree.get(section, {}).items())  # fmt: skip
    texts = [((section, key, "expression"), entry["expression"], "measures") for section, key, entry in entries
             if entry["measure"] == Expression.name]  # fmt: skip
    texts += [(("checks", key, bound), text, "checks") for key, check in document.checks.items()
              for bound, text in check.asked.items()]  # fmt: skip
    for place, text, kind in texts:
        for name in sorted(names(text)):
            section = "parameters" if name in document.quantities else kind
            yield Reference(place, text, "expression", (((section, name), 0),))


def _of_content(document: Document, tree: Mapping[str, Any], at: Place) -> Iterator[Reference]:
    """Those among parts with what holds them together: of the document, or of a definition at a place."""
    for section in ("groups", "joints", "traces"):
        for key, entry in tree.get(section, {}).items():
            yield from _of_entry(document, tree, at, section, key, entry)
    for part, entry in tree.get("parts", {}).items():
        here = (*at, "parts", part)
        if "of" in entry:
            yield Reference((*here, "of"), entry["of"], "name", (((*at, "parts", entry["of"]), 0),))
        if "repeat" in entry:
            yield Reference((*here, "repeat"), entry["repeat"], "name", (((*at, "parts", entry["repeat"]), 0),))
        yield from _of_hardware(document, tree, at, here, entry.get("hardware", {}))
        definition = definition_of(tree, part)
        if "assembly" in entry:
            yield Reference((*here, "assembly"), entry["assembly"], "name", ((("assemblies", entry["assembly"]), 0),))
        if definition:
            inner = document.tree["assemblies"][definition]
            for name in entry.get("parameters", {}):
                target = ("assemblies", definition, "parameters", name)
                yield Reference((*here, "parameters", name), name, "key", ((target, 0),))
            for name in entry.get("poses", {}):
                named = path_of(document.tree, ("assemblies", definition), "parts", name, inner)
                yield Reference((*here, "poses", name), name, "key", named)
        for number, shape in enumerate(entry.get("shapes", [])):
            for field in SHAPE_KINDS.get(shape["kind"], (Shape,))[0].fields:
                if field.form is FieldForm.CAM:
                    named = path_of(document.tree, at, "joints", shape[field.name], tree)
                    yield Reference((*here, "shapes", number, field.name), shape[field.name], "name", named)
        points = {**entry.get("points", {}), **entry.get("edges", {})}
        for path in spot_paths():
            for place, text in _along(entry, path, here):
                own = place[len(at):]
                bent = own[2] == "edges" and "center" in entry["edges"][own[3]] and own[4] != "center"
                if isinstance(text, str) and text in points and not bent:
                    kind = "points" if text in entry.get("points", {}) else "edges"
                    yield Reference(place, text, "name", (((*here, kind, text), 0),))


def _of_hardware(
    document: Document, tree: Mapping[str, Any], at: Place, here: Place, entry: Mapping[str, Any]
) -> Iterator[Reference]:
    """What a piece of hardware lies about, on and goes to."""
    for field in HARDWARE:
        for place, text in _texts(entry.get(field.name), (*here, "hardware", field.name)):
            if field.form in (FieldForm.POINT, FieldForm.POINTS):
                yield Reference(place, text, "point", point_of(document.tree, at, text, tree))
            elif field.form is FieldForm.PART:
                yield Reference(place, text, "name", path_of(document.tree, at, "parts", text, tree))


def _of_entry(
    document: Document, tree: Mapping[str, Any], at: Place, section: str, key: str, entry: Mapping[str, Any]
) -> Iterator[Reference]:
    here: Place = (*at, section, key)
    root = document.tree
    fields = SECTIONS[section].fields
    if section in ("checks", "measures", "tracks"):
        fields = (*MEASURE_TYPES[entry["measure"]].fields, *fields)
    elif section == "joints":
        if entry["type"] == CONTACT.name:
            for side in "ab":
                yield Reference((*here, side), entry[side], "name", side_of(root, at, entry[side], tree))
            return
        coupling = COUPLING_TYPES.get(entry["type"])
        sides = FieldForm.JOINT if coupling is not None else FieldForm.FEATURE
        fields = (Field("a", form=sides), Field("b", form=sides), *(coupling.fields if coupling is not None else ()))
        if coupling is not None and isinstance(follower := entry.get("follower"), Mapping):
            place = (*here, "follower", "at")
            yield Reference(place, follower["at"], "point", point_of(root, at, follower["at"], tree))
    for field in fields:
        for place, text in _texts(entry.get(field.name), (*here, field.name)):
            if field.form in BY_NAME or (field.form is FieldForm.LINE and "." not in text):
                named = path_of(root, at, BY_NAME.get(field.form, "parts"), text, tree)
                yield Reference(place, text, "name", named)
            elif field.form in (FieldForm.FEATURE, FieldForm.LINE, FieldForm.POINT):
                yield Reference(place, text, "point", point_of(root, at, text, tree))


def _texts(value: Any, place: Place) -> Iterator[tuple[Place, str]]:
    """A text, or each of a list."""
    if isinstance(value, str):
        yield place, value
    elif isinstance(value, list):
        for i, entry in enumerate(value):
            if isinstance(entry, str):
                yield (*place, i), entry


def definition_of(tree: Mapping[str, Any], part: str) -> str:
    """The sub-assembly that an entry among the parts of a tree places, itself or what it is a copy of; else empty."""
    parts = tree.get("parts", {})
    line, _ = lineage(parts, part)
    return next((parts[each]["assembly"] for each in line if "assembly" in parts.get(each, {})), "")


def path_of(
    root: Mapping[str, Any], at: Place, section: str, name: str, tree: Mapping[str, Any] | None = None
) -> tuple[tuple[Place, int], ...]:
    """The entries along a name such as ``left/swing``, with the number of their pieces: the sub-assembly, and what it
    holds in its definition. The name is one of the tree at a place."""
    tree = tree if tree is not None else root
    found: list[tuple[Place, int]] = []
    *uses, last = name.split("/")
    for number, use in enumerate(uses):
        found.append(((*at, "parts", use), number))
        if "repeat" in tree.get("parts", {}).get(use, {}):  # what it makes has no entry of its own
            return tuple(found)
        definition = definition_of(tree, use)
        at, tree = ("assemblies", definition), root.get("assemblies", {}).get(definition, {})
    found.append(((*at, section, last), len(uses)))
    return tuple(found)


def side_of(
    root: Mapping[str, Any], at: Place, name: str, tree: Mapping[str, Any]
) -> tuple[tuple[Place, int], ...]:
    """The same of a side of a contact: a part, a sub-assembly, or a group."""
    *uses, last = name.split("/")
    inside = tree
    for use in uses:
        inside = root.get("assemblies", {}).get(definition_of(inside, use), {})
    section = "groups" if last not in inside.get("parts", {}) and last in inside.get("groups", {}) else "parts"
    return path_of(root, at, section, name, tree)


def point_of(
    root: Mapping[str, Any], at: Place, text: str, tree: Mapping[str, Any]
) -> tuple[tuple[Place, int], ...]:
    """The same of ``part.point``: the point of the part, and of what that is a copy of, where it says the point."""
    part, _, point = text.partition(".")
    named = path_of(root, at, "parts", part, tree)
    (*above, last), piece = named[-1]
    if above[:-1]:
        tree = root["assemblies"][above[1]]
    parts, last = tree["parts"], str(last)
    if "repeat" in parts[last]:
        last, piece = parts[last]["repeat"], part.count("/")
    holding = holder(parts, last, point)
    kind = "edges" if point in parts[holding].get("edges", {}) else "points"
    own = ((*above, last, kind, point), piece + 1)
    held = ((*above, holding, kind, point), piece + 1)
    return (*named, own) if holding == last else (*named, own, held)


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
    tree = document.tree
    places = [tuple(int(word) if word.isdigit() else word for word in place.split(".")) for place in document.values]
    for at, content in [((), tree), *((("assemblies", name), one) for name, one in tree.get("assemblies", {}).items())]:
        for key, entry in content.get("parameters", {}).items():
            here: Place = (*at, "parameters", key)
            places.append((*here, "value") if isinstance(entry, Mapping) else here)
        for part, entry in content.get("parts", {}).items():
            places += [(*at, "parts", part, "parameters", key) for key in entry.get("parameters", {})]
    for place in places:
        keyed, text = _reached(tree, place)
        if isinstance(text, str):
            own = tree["assemblies"][keyed[1]].get("parameters", {}) if keyed[0] == "assemblies" else {}
            for name in sorted(names(text)):
                target: Place = (*keyed[:2], "parameters", name) if name in own else ("parameters", name)
                yield Reference(keyed, text, "expression", ((target, 0),))


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
    piece = next((number for target, number in reference.named if target == place), None)
    if piece is None:
        return None
    if reference.how == "expression":
        return with_name(reference.text, str(place[-1]), name)
    pieces, cuts = PIECE.split(reference.text), [*PIECE.findall(reference.text), ""]
    pieces[piece] = name
    return "".join(word + cut for word, cut in zip(pieces, cuts, strict=True))
