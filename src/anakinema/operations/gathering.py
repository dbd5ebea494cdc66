"""Taking parts together: rigid groups, sub-assemblies, what is copied and pasted, another document put in."""

import copy
from collections.abc import Iterable, Mapping
from typing import Any

from ..document.changes import Change, Remove, Rename, Set, changed, lookup, redirected, replaced
from ..document.copies import OWN, lineage, said
from ..document.expressions import names as names_in
from ..document.model import Document
from ..document.reading import read_document
from ..document.references import Place, Reference, references
from ..document.sections import INSIDE
from ..document.written import pose_of, tidy
from ..errors import DocumentError, Fault
from .building import Made, free_name

HOLDING = ("joints", "groups", "traces")


def top_names(document: Document, parts: Iterable[str]) -> list[str]:
    """The entries of the document in which some parts stand: of those of a sub-assembly that itself."""
    wanted = {part.partition("/")[0] for part in parts}
    return [name for name in document.tree.get("parts", {}) if name in wanted]


def group(document: Document, parts: Iterable[str]) -> Made:
    """A rigid group of parts: they keep the placement that they have against each other. Groups of which it takes
    parts lose these. Raises `DocumentError` for fewer than two."""
    members = [part for part in dict.fromkeys(parts) if part in document.parts]
    if len(members) < 2:
        raise DocumentError([Fault("groups", "a group needs two parts or more; select them first")])
    name = free_name({*document.tree.get("groups", {}), *document.tree.get("parts", {})}, "group")
    return Made((*_ungrouped(document, members), Set(("groups", name), {"parts": members})), ("groups", name))


def _ungrouped(document: Document, members: list[str]) -> list[Change]:
    """Takes parts out of the groups in which they are."""
    changes: list[Change] = []
    for name, entry in document.tree.get("groups", {}).items():
        left = [part for part in entry["parts"] if part not in members]
        if len(left) < 2 and len(left) < len(entry["parts"]):
            changes.append(Remove(("groups", name)))
        elif len(left) < len(entry["parts"]):
            changes.append(Set(("groups", name, "parts"), left))
    return changes


def group_still(document: Document, still: Iterable[str]) -> Made:
    """One rigid group of all that does not move, with what is fixed. Raises `DocumentError` where that is one part."""
    members = [*document.fixed_parts, *(part for part in still if not document.parts[part].fixed)]
    if len(members) < 2:
        raise DocumentError([Fault("groups", "no other part stands still: there is nothing to take together")])
    return group(document, members)


# -- taking out ------------------------------------------------------------------------------------------------


def extract(document: Document, tops: Iterable[str]) -> dict[str, Any]:
    """Some entries of the parts with all that holds only them together, as the sections of a definition. Copies of what
    stays behind become parts of their own."""
    chosen = list(tops)
    trees = document.tree["parts"]
    found: dict[str, dict[str, Any]] = {section: {} for section in ("parts", *HOLDING)}
    for name in chosen:
        line, _ = lineage(trees, name)
        entry = copy.deepcopy(trees[name])
        if "repeat" in entry and entry["repeat"] not in chosen:
            text = f"repeats '{entry['repeat']}'; take that along, or make copies of what it makes"
            raise DocumentError([Fault(f"parts.{name}", text)])
        if len(line) > 1 and line[1] not in chosen:
            own = {key: value for key, value in entry.items() if key in OWN and key != "of"}
            if any(trees[each].get(word) for each in line[:-1] for word in ("lift", "mirror")):
                text = f"is a copy of '{line[1]}', turned over or lifted; take that along"
                raise DocumentError([Fault(f"parts.{name}", text)])
            entry = {**copy.deepcopy(said(trees, line)), **own}
        found["parts"][name] = entry
    inside: set[Place] = {("parts", name) for name in chosen}
    every = list(references(document))
    grown = True
    while grown:  # a coupling is inside when the joints that it ties are
        grown = False
        for section in HOLDING:
            for key, entry in document.tree.get(section, {}).items():
                here: Place = (section, key)
                speaks = [one for one in every if one.place[:2] == here and one.how in ("name", "point")]
                if here not in inside and speaks and all(_inside(one, inside) for one in speaks):
                    found[section][key] = copy.deepcopy(entry)
                    inside.add(here)
                    grown = True
    return {section: entries for section, entries in found.items() if entries}


def _inside(reference: Reference, inside: set[Place]) -> bool:
    return bool(reference.named) and tuple(reference.named[0][0][:2]) in inside


def gather(document: Document, parts: Iterable[str], word: str = "unit") -> Made:
    """Makes a sub-assembly of some parts with all that holds them together, and puts it where they are; what spoke of
    them speaks of them there. Raises `DocumentError` where a copy stays behind."""
    tops = top_names(document, parts)
    if not tops:
        raise DocumentError([Fault("parts", "a sub-assembly needs parts; select them first")])
    trees = document.tree["parts"]
    for name, entry in trees.items():
        if name not in tops and (entry.get("of") in tops or entry.get("repeat") in tops):
            word = "repeats" if "repeat" in entry else "is a copy of"
            text = f"{word} '{entry.get('of') or entry['repeat']}'; select it too, or make it a part of its own"
            raise DocumentError([Fault(f"parts.{name}", text)])
    content = extract(document, tops)
    definition = free_name(document.assemblies, word)
    use = free_name(trees, definition)
    tree: Any = document.tree
    gone: set[Place] = {(section, key) for section, entries in content.items() for key in entries}
    for one in references(document):
        if not _inside(one, gone) or one.place[:2] in gone or one.how == "expression":
            continue
        tree = redirected(tree, one, f"{use}/{one.text}")
    for section, entries in content.items():
        tree = replaced(tree, [section], {key: entry for key, entry in tree[section].items() if key not in entries})
        if not tree[section] and section != "parts":
            tree = {key: entry for key, entry in tree.items() if key != section}
    entry = {"assembly": definition, "pose": _about_first(content["parts"])}
    if any(part.get("fixed") for part in content["parts"].values()):
        entry["fixed"] = True
    tree = replaced(tree, ["assemblies", definition], content)
    order = [use if name == tops[0] else name for name in trees if name == tops[0] or name not in tops]
    tree = replaced(tree, ["parts"], {name: entry if name == use else tree["parts"][name] for name in order})
    return Made(tuple(_put_all(document.tree, tree)), ("uses", use))


def _about_first(parts: dict[str, Any]) -> list[float]:
    """Makes the first part's origin that of all, and gives where it then stands. Where a pose is an expression all stay
    where they are."""
    poses = {name: entry.get("pose", [0, 0, 0]) for name, entry in parts.items()}
    if any(isinstance(number, str) for pose in poses.values() for number in pose[:2]):
        return [0, 0, 0]
    x, y, _ = next(iter(poses.values()))
    for name, pose in poses.items():
        parts[name] = {**parts[name], "pose": [tidy(pose[0] - x), tidy(pose[1] - y), pose[2]]}
    return [x, y, 0]


def _put_all(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[Change]:
    """The changes that make one tree of another, section by section; definitions come before what uses them."""
    changes: list[Change] = [Remove((key,)) for key in before if key not in after]
    return changes + [Set((key,), value) for key, value in after.items() if before.get(key) is not value]


def use_again(document: Document, assembly: str, at: complex, mirror: bool = False) -> Made:
    """Another use of a definition."""
    name = free_name(document.tree.get("parts", {}), assembly)
    entry: dict[str, Any] = {"assembly": assembly, "pose": pose_of(document, at)}
    if mirror:
        entry["mirror"] = True
    return Made((Set(("parts", name), entry),), ("uses", name))


# -- between documents -----------------------------------------------------------------------------------------


def clip(document: Document, parts: Iterable[str]) -> dict[str, Any]:
    """Some parts with what holds them together, and the parameters and definitions that they need, as a document by
    itself: what is copied to the clipboard."""
    content = extract(document, top_names(document, parts))
    needed = _definitions_in(document, content)
    wanted = _parameters_in(document, [content, *(document.assemblies[name] for name in needed)])
    tree: dict[str, Any] = {"anakinema": 1, "units": {"length": document.units.length, "angle": document.units.angle}}
    if wanted:
        tree["parameters"] = {name: entry for name, entry in document.tree["parameters"].items() if name in wanted}
    if needed:
        tree["assemblies"] = {name: document.assemblies[name] for name in needed}
    return {**tree, **content}


def _definitions_in(document: Document, content: Mapping[str, Any]) -> list[str]:
    found: dict[str, None] = {}
    left = [content]
    while left:
        for part in left.pop().get("parts", {}).values():
            name = part.get("assembly")
            if name is not None and name not in found:
                found[name] = None
                left.append(document.assemblies[name])
    return list(found)


def _parameters_in(document: Document, trees: Iterable[Any]) -> set[str]:
    """The parameters of the document that some trees need, and those which these need."""
    found: set[str] = set()
    left = [text for tree in trees for text in _texts(tree)]
    while left:
        text = left.pop()
        try:
            used = names_in(text)
        except ValueError:
            continue  # a name or a note
        for name in (used & document.parameters.keys()) - found:
            found.add(name)
            left.append(str(document.parameters[name].expression))
    return found


def _texts(tree: Any) -> Iterable[str]:
    if isinstance(tree, Mapping):
        for value in tree.values():
            yield from _texts(value)
    elif isinstance(tree, list):
        for value in tree:
            yield from _texts(value)
    elif isinstance(tree, str):
        yield tree


def _fitted(
    document: Document, other: Document, named: Mapping[str, Iterable[str]]
) -> tuple[Document, dict[tuple[str, str], str]]:
    """Another document under names that are free in this one, of some of its sections some names: what is said there
    in just the same words, and means the same here, keeps its name. Gives its names that are new, by where they were.
    Raises `DocumentError` where its units are others."""
    if other.units != document.units:
        text = (f"is in {other.units.length} and {other.units.angle}, this document in {document.units.length} and "
                f"{document.units.angle}; change the units of one of them first")  # fmt: skip
        raise DocumentError([Fault("units", text)])
    names = {(section, name): name for section, every in named.items() for name in every}
    clash = True
    while clash:  # what has another name is said in other words where it is used, which then clashes too
        clash = False
        for (section, first), name in names.items():
            here, entry = document.tree.get(section, {}), other.tree.get(section, {}).get(name)
            same = section in ("parameters", "assemblies") and here.get(name) == entry
            if name in here and not same:
                stem = name.rstrip("0123456789") or name
                new = free_name({*here, *other.tree[section], *_known_names(document), *_known_names(other)}, stem)
                other = changed(other, Rename((section, name), new))
                names[section, first], clash = new, True
    return other, {place: name for place, name in names.items() if name != place[1]}


def _known_names(document: Document) -> set[str]:
    """All names that expressions anywhere may use, lest a new one be taken for another."""
    inside = (definition.get("parameters", {}) for definition in document.assemblies.values())
    return {*document.parameters, *document.drivers, *(name for each in inside for name in each)}


def paste(document: Document, tree: Mapping[str, Any], by: complex) -> Made:
    """Puts what was copied beside where it was (`by`), under free names. Raises `DocumentError` for what is no piece of
    a document."""
    read = read_document(tree)
    sections = (*INSIDE, "assemblies")
    other, _ = _fitted(document, read, {section: list(read.tree.get(section, {})) for section in sections})
    changes: list[Change] = [
        Set((section, name), entry)
        for section in ("parameters", "assemblies", *INSIDE[1:])
        for name, entry in other.tree.get(section, {}).items()
        if lookup(document.tree, (section, name)) != entry  # what is there already stays as it is
    ]
    for name in other.tree.get("parts", {}):
        if name in other.uses and other.uses[name].of:
            continue  # stands by the part that it repeats
        pose = other.uses[name].pose if name in other.uses else other.parts[name].pose
        entry = {**other.tree["parts"][name], "pose": pose_of(document, complex(*pose[:2]) + by, pose[2])}
        if document.parts and "assembly" not in entry:
            entry.pop("fixed", None)  # one frame is enough
        changes.append(Set(("parts", name), entry))
    if not changes:
        raise DocumentError([Fault("parts", "there is nothing to put in")])
    first = next(iter(other.tree.get("parts", {})), "")
    return Made(tuple(changes), ("uses" if first in other.uses else "parts", first))


def insert(document: Document, other: Document, word: str, at: complex = 0j) -> Made:
    """Puts another document in as a sub-assembly, its content copied, so that nothing can be missing. Its drivers and
    checks stay behind: they are of the whole. Parameters that its own sub-assemblies use become the document's, under
    free names, for those see no others. Raises `DocumentError` where its units are others."""
    shared = _parameters_in(other, other.assemblies.values())
    other, new = _fitted(document, other, {"assemblies": list(other.assemblies), "parameters": sorted(shared)})
    shared = {new.get(("parameters", each), each) for each in shared}
    name = free_name({*document.assemblies, *other.assemblies}, word)
    content = {section: other.tree[section] for section in INSIDE if section in other.tree}
    if not content.get("parts"):
        raise DocumentError([Fault("parts", "the other document holds no parts")])
    known = other.tree.get("parameters", {})
    if own := {key: entry for key, entry in known.items() if key not in shared}:
        content["parameters"] = own
    else:
        content.pop("parameters", None)
    brought = [(("parameters", key), known[key]) for key in sorted(shared)]
    brought += [(("assemblies", key), definition) for key, definition in other.assemblies.items()]
    changes: list[Change] = [Set(place, said) for place, said in brought if lookup(document.tree, place) != said]
    changes.append(Set(("assemblies", name), content))
    use = free_name(document.tree.get("parts", {}), name)
    entry: dict[str, Any] = {"assembly": name, "pose": pose_of(document, at)}
    if not document.parts:
        entry["fixed"] = True
    return Made((*changes, Set(("parts", use), entry)), ("uses", use))
