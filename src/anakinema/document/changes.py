"""Changes of a document, as data. A change speaks of a place of the tree: the keys and indices that lead to it.

Changes take a document and give a new one, all or nothing: what no longer makes sense is refused with its faults, and
the old document is as it was.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import DocumentError, Fault
from .model import Document
from .read_context import MISSING
from .reading import read_document
from .references import Reference, references, renamed_in

Place = Sequence[str | int]


@dataclass(frozen=True)
class Set:
    """Puts a value at a place; objects that are missing on the way are made."""

    place: Place
    value: Any


@dataclass(frozen=True)
class Remove:
    """Takes the entry at a place away; an object left empty by it goes too. Where there is none nothing changes."""

    place: Place


@dataclass(frozen=True)
class Rename:
    """Gives the entry at a place (a part, a point of a part, a joint, a parameter…) another name; all that refers to it
    follows."""

    place: Place
    name: str


Change = Set | Remove | Rename


def changed(document: Document, *changes: Change) -> Document:
    """The document after some changes, one after the other. Raises `DocumentError`.

    >>> from anakinema.document import Set, read_document
    >>> changed(read_document({"anakinema": 1, "title": "A"}), Set(["title"], "B")).title
    'B'
    """
    tree: Any = document.tree
    renamed: Document | None = None
    for change in changes:
        if isinstance(change, Rename):
            document = renamed or read_document(tree, document)  # what refers to it is known of what makes sense
            document = renamed = _renamed(document, list(change.place), change.name)
            tree = document.tree
            continue
        renamed = None
        if isinstance(change, Remove):
            tree = _without(tree, list(change.place))
        else:
            tree = replaced(tree, list(change.place), change.value)
    return renamed or read_document(tree, document)


def lookup(tree: Any, place: Place, default: Any = None) -> Any:
    """What stands at a place of a tree, or the default where there is nothing."""
    for key in place:
        here = isinstance(tree, Mapping) and key in tree
        if here or (isinstance(tree, list) and isinstance(key, int) and key < len(tree)):
            tree = tree[key]
        else:
            return default
    return tree


def replaced(tree: Any, place: Place, value: Any) -> Any:
    """The tree with another value at a place; what the place does not lead through is the very same."""
    if not place:
        return value
    key, rest = place[0], place[1:]
    if isinstance(tree, list):
        return [replaced(entry, rest, value) if i == key else entry for i, entry in enumerate(tree)]
    branch = dict(tree) if isinstance(tree, Mapping) else {}
    branch[str(key)] = replaced(branch.get(str(key)), rest, value)
    return branch


def _without(tree: Any, place: list[str | int]) -> Any:
    *above, last = place
    holder = lookup(tree, above)
    if lookup(tree, place, MISSING) is MISSING:
        return tree
    if isinstance(holder, list):
        rest: Any = [entry for i, entry in enumerate(holder) if i != last]
    else:
        rest = {key: entry for key, entry in holder.items() if key != last}
    return _without(tree, above) if not rest and len(above) > 2 else replaced(tree, above, rest)


def _renamed(document: Document, place: list[str | int], name: str) -> Document:
    """The document with another name for an entry, which keeps its position among its neighbours."""
    *above, old = place
    holder = lookup(document.tree, above)
    if not isinstance(holder, Mapping) or old not in holder:
        raise DocumentError([Fault(".".join(map(str, place)), "there is no such entry to rename")])
    if name == old:
        return document
    if name in holder:
        where = ".".join(map(str, place))
        raise DocumentError([Fault(where, f"the name '{name}' is taken already; choose another")])
    tree = with_key(document.tree, [*above, old], name)
    every = list(references(document))
    for reference in every:
        text = renamed_in(reference, place, name)
        if text is not None:
            there = [name if i == len(above) and reference.place[:i] == tuple(above) and key == old else key
                     for i, key in enumerate(reference.place)]  # fmt: skip
            tree = with_key(tree, there, text) if reference.how == "key" else replaced(tree, there, text)
    after = _read_renamed(document, tree, tuple(place), name)
    _refuse_captures(every, after, tuple(place), name)
    return after


def _read_renamed(document: Document, tree: Any, place: tuple[str | int, ...], name: str) -> Document:
    """The document of a tree with a new name. Raises `DocumentError` that tells what of the name is wrong."""
    try:
        return read_document(tree, document)
    except DocumentError as error:
        here = ".".join(map(str, (*place[:-1], name)))
        if all(fault.place.startswith(here) for fault in error.faults):
            raise
        text = f"with the name '{name}' there would be a fault at {error.faults[0]}; choose another"
        raise DocumentError([Fault(".".join(map(str, place)), text)]) from error


def _refuse_captures(
    before: Sequence[Reference], after: Document, place: tuple[str | int, ...], name: str
) -> None:
    """Raises `DocumentError` where under its new name something else is meant than was `before`: a definition has a
    parameter of that name, or uses the document's, or it is a unit's."""
    depth, where = len(place) - 1, ".".join(map(str, place))

    def moved(target: tuple[str | int, ...]) -> tuple[str | int, ...]:
        return (*target[:depth], name, *target[depth + 1 :]) if target[: depth + 1] == place else target

    expressions = [reference for reference in before if reference.how == "expression"]
    texts = {one.place: new for one in expressions if (new := renamed_in(one, place, name)) is not None}
    wanted = Counter((texts.get(one.place, one.text), moved(one.target)) for one in expressions)
    for reference in references(after):
        if reference.how == "expression":
            wanted[reference.text, reference.target] -= 1
            if wanted[reference.text, reference.target] < 0:
                there = ".".join(map(str, reference.place))
                raise DocumentError([Fault(where, f"'{name}' means something else at '{there}'; choose another name")])


def redirected(tree: Any, reference: Reference, text: str) -> Any:
    """The tree with another text where something refers to another."""
    return with_key(tree, reference.place, text) if reference.how == "key" else replaced(tree, reference.place, text)


def with_key(tree: Any, place: Place, name: str) -> Any:
    """The tree with another name for an entry, which keeps its position among its neighbours."""
    *above, old = place
    return replaced(tree, above, {name if key == old else key: entry for key, entry in lookup(tree, above).items()})
