"""Edits: each takes a document and gives a new one, or raises `DocumentError` and leaves the old one untouched."""

from collections.abc import Mapping, Sequence
from typing import Any

from .fields import MISSING
from .model import Document
from .reading import read_document

Place = Sequence[str | int]


def edited(document: Document, place: Place, value: Any) -> Document:
    """The document with the value at a place of its tree replaced; missing objects on the way are made.

    >>> from anakinema.document import read_document
    >>> edited(read_document({"anakinema": 1, "title": "A"}), ["title"], "B").title
    'B'
    """
    return read_document(_replaced(document.tree, list(place), value), document)


def removed(document: Document, place: Place) -> Document:
    """The document without the entry at a place of its tree; an object left empty by it goes too. Where there is no
    such entry nothing changes."""
    *above, last = place
    holder = lookup(document.tree, above)
    if lookup(document.tree, place, MISSING) is MISSING:
        return document
    if isinstance(holder, list):
        rest: Any = [entry for i, entry in enumerate(holder) if i != last]
    else:
        rest = {key: entry for key, entry in holder.items() if key != last}
    if not above:
        return read_document(rest, document)
    return removed(document, above) if not rest and len(above) > 2 else edited(document, above, rest)


def lookup(tree: Any, place: Place, default: Any = None) -> Any:
    """What stands at a place of a tree, or the default where there is nothing."""
    for key in place:
        here = isinstance(tree, Mapping) and key in tree
        if here or (isinstance(tree, list) and isinstance(key, int) and key < len(tree)):
            tree = tree[key]
        else:
            return default
    return tree


def _replaced(tree: Any, place: list[str | int], value: Any) -> Any:
    if not place:
        return value
    key, rest = place[0], place[1:]
    if isinstance(tree, list):
        return [_replaced(entry, rest, value) if i == key else entry for i, entry in enumerate(tree)]
    branch = dict(tree) if isinstance(tree, Mapping) else {}
    branch[str(key)] = _replaced(branch.get(str(key)), rest, value)
    return branch
