"""Reading parameters: expressions that refer to each other, in an order in which each comes after those it needs."""

from collections.abc import Mapping
from graphlib import CycleError, TopologicalSorter
from typing import Any

from ..kinds import Dimension
from .expressions import RESERVED, ExpressionError, names
from .model import Parameter, Tolerance
from .read_context import MISSING, ReadContext
from .units import Quantity, describe

SPREADS = ("normal", "uniform", "worst")



def read_parameters(context: ReadContext, replaced: Mapping[str, Quantity] | None = None) -> dict[str, Parameter]:
    """All parameters. A definition's are worth what its use says where that is `replaced`."""
    items = context.mapping(context.tree.get("parameters", {}), f"{context.at}parameters")
    expressions: dict[str, Any] = {}
    notes: dict[str, str] = {}
    varying: dict[str, Any] = {}
    for key, value in items.items():
        place = f"{context.at}parameters.{key}"
        if not key.isidentifier():
            context.fault(place, "a parameter's name may hold only letters, digits and '_', a letter first")
        elif key in RESERVED:
            context.fault(place, f"'{key}' is the name of a unit or function; choose another name")
        if isinstance(value, Mapping):
            context.unknown_keys(value, ("value", "note", "tolerance"), place)
            if "tolerance" in value:
                varying[key] = value["tolerance"]
            notes[key] = context.text(value, "note", place)
            expressions[key] = context.required(value, "value", place)
        else:
            expressions[key] = value
    here = {key: expression for key, expression in expressions.items() if key not in (replaced or {})}
    context.quantities |= replaced or {}
    kept = _kept(context, items) if not context.at else {}
    for key in _ordered(context, here):
        if key in kept and not _needs(here[key]) - kept.keys():
            context.quantities[key] = kept[key].quantity
        else:
            kept.pop(key, None)
            _evaluate(context, key, here[key])
    tolerances = {}
    for key, given in varying.items():
        by = given.get("by") if isinstance(given, Mapping) else given
        if key in kept and not _needs(by) - kept.keys():
            tolerances[key] = kept[key].tolerance
        elif key in context.quantities:
            tolerances[key] = _tolerance(context, key, given)
    return {
        key: Parameter(key, expressions[key], context.quantities[key], notes.get(key, ""), tolerances.get(key))
        for key in items
        if key in context.quantities and key not in context.broken
    }


def _kept(context: ReadContext, items: Mapping[str, Any]) -> dict[str, Parameter]:
    """Those that the document before says in the same words, and the numbers behind what else they say."""
    if context.before is None or context.before.units != context.units:
        return {}
    own, trees = context.before.parameters, context.before.tree["parameters"] if context.before.parameters else {}
    kept = {key: own[key] for key, entry in items.items() if key in own and trees.get(key) is entry}
    for key in kept:
        for place in (f"parameters.{key}.tolerance", f"parameters.{key}.tolerance.by"):
            if place in context.before.values:
                context.values[place] = context.before.values[place]
    return kept


def _needs(expression: Any) -> frozenset[str]:
    return names(expression) if isinstance(expression, str) else frozenset()


def _tolerance(context: ReadContext, key: str, given: Any) -> Tolerance | None:
    """What a parameter may be off by: a number or an expression, or an object that says how it is spread too."""
    place = f"{context.at}parameters.{key}.tolerance"
    item = given if isinstance(given, Mapping) else {"by": given}
    context.unknown_keys(item, ("by", "spread"), place)
    spread = context.text(item, "spread", place, SPREADS[0])
    if spread not in SPREADS:
        context.fault(f"{place}.spread", f"one of {', '.join(SPREADS)} is wanted, this is '{spread}'")
    word = describe(context.quantities[key].dimension)
    if word not in list(Dimension):
        context.fault(place, f"'{key}' counts {word}; only lengths, angles, times, rates and numbers have tolerances")
        return None
    where = f"{place}.by" if isinstance(given, Mapping) else place
    by = context.number(context.required(item, "by", place), word, where)
    if by <= 0:
        context.fault(where, f"must be greater than zero, it is {by:g}")
    return Tolerance(by * Dimension(word).per_core(context.units), spread)


def _evaluate(context: ReadContext, key: str, expression: Any) -> None:
    """Evaluates one whose needs are evaluated already."""
    if expression is MISSING:
        context.broken.add(key)
        return
    try:
        context.quantities[key] = context.quantity(expression)
    except ExpressionError as error:
        context.broken.add(key)
        context.fault(f"{context.at}parameters.{key}", str(error))
    if isinstance(expression, str) and context.refers_to_broken(expression):
        context.broken.add(key)


def _ordered(context: ReadContext, expressions: Mapping[str, Any]) -> list[str]:
    """Parameters in an order in which each comes after those it needs; a cycle is a fault."""
    needs: dict[str, list[str]] = {}
    for key, expression in expressions.items():
        try:
            needs[key] = sorted(names(expression) & expressions.keys()) if isinstance(expression, str) else []
        except ExpressionError:
            needs[key] = []  # told when it is evaluated
    while True:
        try:
            return list(TopologicalSorter(needs).static_order())
        except CycleError as error:
            cycle: list[str] = error.args[1][::-1]
            context.fault(f"{context.at}parameters.{cycle[0]}", f"depends on itself: {' → '.join(cycle)}")
            context.broken.update(cycle)
            needs = {key: [each for each in wanted if each not in cycle] for key, wanted in needs.items()
                     if key not in cycle}  # fmt: skip
