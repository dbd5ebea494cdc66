"""Making a parameter of a value where it stands."""

import re

from ..document.changes import Change, Place, Set, lookup
from ..document.expressions import RESERVED
from ..document.model import Document
from ..document.read_parameters import SPREADS
from ..errors import DocumentError, Fault
from .building import Made

NAMED = re.compile(r"\s*([^\W\d]\w*)\s*=(?!=)\s*(\S.*)")


def named_value(text: str) -> tuple[str, str] | None:
    """The name and the expression of a text such as ``rod = 3*throw``; None for any other.

    >>> named_value("rod = 3*throw")
    ('rod', '3*throw')
    """
    found = NAMED.fullmatch(text)
    return (found[1], found[2].strip()) if found else None


def make_parameter(document: Document, place: Place, name: str, expression: str) -> Made:
    """A parameter with a value, which then stands at a place by its name. A plain number gets the unit in which it
    counts there. Raises `DocumentError` where the name is taken."""
    if name in document.parameters or name in RESERVED:
        kind = "a parameter" if name in document.parameters else "a unit or a function"
        raise DocumentError([Fault(".".join(map(str, place)), f"'{name}' is {kind} already; choose another name")])
    known = document.values.get(".".join(map(str, place)))
    unit = document.units.written(known.dimension) if known is not None else ""
    value: str | float = expression
    try:
        float(expression)
        value = f"{expression} {unit}" if unit else float(expression)
    except ValueError:
        pass
    changes: tuple[Change, ...] = (Set(("parameters", name), value), Set(place, name))
    return Made(changes, ("parameters", name))


def with_tolerance(document: Document, place: Place, by: str | float, spread: str = "") -> Made:
    """The parameter at a place of the tree with so much tolerance: ± a number or an expression, none where that is
    empty. `spread` is how it varies, else as it does already."""
    entry = lookup(document.tree, place)
    kept = dict(entry) if isinstance(entry, dict) else {"value": entry}
    before = kept.get("tolerance")
    spread = spread or (before.get("spread", SPREADS[0]) if isinstance(before, dict) else SPREADS[0])
    if by == "":
        kept.pop("tolerance", None)
    else:
        kept["tolerance"] = by if spread == SPREADS[0] else {"by": by, "spread": spread}
    if kept == entry or (by == "" and not isinstance(entry, dict)):
        return Made((), place)
    plain = set(kept) == {"value"} and not isinstance(entry, dict)
    return Made((Set(place, kept["value"] if plain else kept),), place)


def tolerance_text(document: Document, place: Place) -> str:
    """The tolerance of the parameter at a place of the tree, as it is written; empty where there is none."""
    entry = lookup(document.tree, place)
    given = entry.get("tolerance", "") if isinstance(entry, dict) else ""
    return str(given.get("by", "") if isinstance(given, dict) else given)
