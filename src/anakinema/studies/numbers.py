"""Parameters as a study turns them: in the unit in which the document says them.

A parameter of a sub-assembly is named ``jaw.reach`` where its definition says it, for all uses, and ``left/reach``
where one use of it says its own.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..document.changes import Change, Set
from ..document.expressions import names, with_name
from ..document.model import Document, Parameter, Tolerance
from ..document.units import describe
from ..errors import located, suggestion
from ..kinds import Dimension


@dataclass(frozen=True)
class Held:
    """A number that can be turned: the `place` of the tree at which it stands, what it is, and its expression as it
    would be written there."""

    place: tuple[str, ...]
    parameter: Parameter
    expression: str


def held(document: Document) -> dict[str, Held]:
    """All parameters by name: the document's own, those of definitions, and those of uses that stand in the document
    itself (those within other sub-assemblies stand in their definitions, copies of uses follow what they copy)."""
    tree = document.tree
    found = {
        name: Held(_at(tree["parameters"], ("parameters", name)), one, str(one.expression))
        for name, one in document.parameters.items()
    }
    for name, read in document.definitions.items():
        own = document.assemblies[name].get("parameters", {})
        for key, one in read.entry.parameters.items():
            place = _at(own, ("assemblies", name, "parameters", key))
            found[f"{name}.{key}"] = Held(place, one, str(one.expression))
    for use in document.uses.values():
        if "/" in use.id or use.of or "of" in tree["parts"][use.id]:
            continue
        known = document.definitions[use.assembly].entry.parameters
        said = tree["parts"][use.id].get("parameters", {})
        for key, one in known.items():
            expression = str(said[key]) if key in said else _spelt(key, known)
            given = Parameter(key, expression, use.parameters.get(key, one.quantity), one.note, one.tolerance)
            found[f"{use.id}/{key}"] = Held(("parts", use.id, "parameters", key), given, expression)
    return found


def named(name: str, known: Mapping[str, Held]) -> Held:
    """One of the parameters that are known. Raises `DocumentError` where it is none of them."""
    if name not in known:
        raise located(f"parameters.{name}", f"there is no such parameter{suggestion(name, list(known))}")
    return known[name]


def _at(entries: Mapping[str, Any], place: tuple[str, ...]) -> tuple[str, ...]:
    return (*place, "value") if isinstance(entries[place[-1]], Mapping) else place


def _spelt(name: str, known: Mapping[str, Parameter]) -> str:
    """A definition's expression in which its own parameters are spelt out, so that it may stand outside of it."""
    text = str(known[name].expression)
    for inner in sorted(names(text) & known.keys()):
        text = with_name(text, inner, f"({_spelt(inner, known)})")
    return text


def toleranced(document: Document) -> dict[str, Tolerance]:
    """What varies by itself when a mechanism is made: every parameter with a tolerance. One of a definition varies in
    every use by itself, for each is made by itself."""
    found = {name: one.tolerance for name, one in document.parameters.items() if one.tolerance is not None}
    alone = {use.assembly for use in document.uses.values() if "/" not in use.id}
    for name, each in held(document).items():
        stem = name.split(".")[0]
        inside = "." in name and stem in alone
        if name not in found and each.parameter.tolerance is not None and not inside:
            found[name] = each.parameter.tolerance
    return found


Numbers = Mapping[str, float | str]
"""Parameters by name with what they are to be: a number in the parameter's own unit, or an expression."""
SURE = 10
"""Figures with which a number is written that was found."""


def worth(document: Document, name: str, value: float | str) -> float:
    """What a parameter is to be, in its own unit."""
    one = dial(document, name)
    if not isinstance(value, str):
        return float(value)
    return document.worth(value, one.dimension) * one.dimension.per_core(document.units)


def taken(document: Document, numbers: Numbers) -> list[Change]:
    """The changes that make parameters what they are to be, written as a hand would: ``26.8125 mm``."""
    known = held(document)
    values = {name: float(f"{worth(document, name, value):.{SURE}g}") for name, value in numbers.items()}
    return [Set(named(name, known).place, dial(document, name).written(value)) for name, value in values.items()]


@dataclass(frozen=True)
class Dial:
    """A parameter that can be turned: its value and unit (``mm``, ``deg``, ``rpm`` as ``deg/s``, empty for a
    number), and its expression as the document writes it."""

    name: str
    value: float
    unit: str
    dimension: Dimension
    expression: str

    def written(self, value: float) -> float | str:
        """A value as the document writes it, exactly."""
        return f"{float(value)!r} {self.unit}" if self.unit else float(value)


def dial(document: Document, name: str) -> Dial:
    """A parameter by name. Raises `DocumentError` where there is none, or it has no unit of the trade."""
    found = named(name, held(document))
    quantity = found.parameter.quantity
    word = describe(quantity.dimension)
    if word not in list(Dimension):
        raise located(f"parameters.{name}", f"counts {word}; only lengths, angles, times, rates and numbers are turned")
    dimension = Dimension(word)
    unit = dimension.written(document.units)
    return Dial(name, quantity.in_units(unit), unit, dimension, found.expression)
