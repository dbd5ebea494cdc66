"""Reading parameters: expressions that refer to each other, in an order in which each comes after those it needs."""

from collections.abc import Mapping
from typing import Any

from ..kinds import Dimension
from .expressions import RESERVED, ExpressionError, evaluate, names
from .fields import MISSING, Fields, finite, kind_of
from .model import Document, Parameter, Tolerance
from .units import Quantity, describe, number

SPREADS = ("normal", "uniform", "worst")


class ParameterFields(Fields):
    """Knows the parameters."""

    def __init__(self, tree: Any, at: str = ""):
        super().__init__(tree, at)
        self.before: Document | None = None
        """The document before, in the same units."""

    def parameters(self, replaced: Mapping[str, Quantity] | None = None) -> dict[str, Parameter]:
        """All parameters. A definition's are worth what its use says where that is `replaced`."""
        items = self.mapping(self.tree.get("parameters", {}), f"{self.at}parameters")
        expressions: dict[str, Any] = {}
        notes: dict[str, str] = {}
        varying: dict[str, Any] = {}
        for key, value in items.items():
            place = f"{self.at}parameters.{key}"
            if not key.isidentifier():
                self.fault(place, "a parameter's name may hold only letters, digits and '_', a letter first")
            elif key in RESERVED:
                self.fault(place, f"'{key}' is the name of a unit or function; choose another name")
            if isinstance(value, Mapping):
                self.unknown_keys(value, ("value", "note", "tolerance"), place)
                if "tolerance" in value:
                    varying[key] = value["tolerance"]
                notes[key] = self.text(value, "note", place)
                expressions[key] = self.required(value, "value", place)
            else:
                expressions[key] = value
        here = {key: expression for key, expression in expressions.items() if key not in (replaced or {})}
        self.quantities |= replaced or {}
        kept = self.kept_parameters(items) if not self.at else {}
        for key in self.ordered(here):
            if key in kept and not self._needs(here[key]) - kept.keys():
                self.quantities[key] = kept[key].quantity
            else:
                kept.pop(key, None)
                self.parameter(key, here[key])
        tolerances = {}
        for key, given in varying.items():
            by = given.get("by") if isinstance(given, Mapping) else given
            if key in kept and not self._needs(by) - kept.keys():
                tolerances[key] = kept[key].tolerance
            elif key in self.quantities:
                tolerances[key] = self.tolerance(key, given)
        return {
            key: Parameter(key, expressions[key], self.quantities[key], notes.get(key, ""), tolerances.get(key))
            for key in items
            if key in self.quantities and key not in self.broken
        }

    def kept_parameters(self, items: Mapping[str, Any]) -> dict[str, Parameter]:
        """Those that the document before says in the same words, and the numbers behind what else they say."""
        if self.before is None or self.before.units != self.units:
            return {}
        own, trees = self.before.parameters, self.before.tree["parameters"] if self.before.parameters else {}
        kept = {key: own[key] for key, entry in items.items() if key in own and trees.get(key) is entry}
        for key in kept:
            for place in (f"parameters.{key}.tolerance", f"parameters.{key}.tolerance.by"):
                if place in self.before.values:
                    self.values[place] = self.before.values[place]
        return kept

    @staticmethod
    def _needs(expression: Any) -> frozenset[str]:
        return names(expression) if isinstance(expression, str) else frozenset()

    def tolerance(self, key: str, given: Any) -> Tolerance | None:
        """What a parameter may be off by: a number or an expression, or an object that says how it is spread too."""
        place = f"{self.at}parameters.{key}.tolerance"
        item = given if isinstance(given, Mapping) else {"by": given}
        self.unknown_keys(item, ("by", "spread"), place)
        spread = self.text(item, "spread", place, SPREADS[0])
        if spread not in SPREADS:
            self.fault(f"{place}.spread", f"one of {', '.join(SPREADS)} is wanted, this is '{spread}'")
        word = describe(self.quantities[key].dimension)
        if word not in list(Dimension):
            self.fault(place, f"'{key}' counts {word}; only lengths, angles, times, rates and numbers have tolerances")
            return None
        where = f"{place}.by" if isinstance(given, Mapping) else place
        by = self.number(self.required(item, "by", place), word, where)
        if by <= 0:
            self.fault(where, f"must be greater than zero, it is {by:g}")
        return Tolerance(by * Dimension(word).per_core(self.units), spread)

    def parameter(self, key: str, expression: Any) -> None:
        """Evaluates one whose needs are evaluated already."""
        if expression is MISSING:
            self.broken.add(key)
            return
        try:
            self.quantities[key] = self.quantity(expression)
        except ExpressionError as error:
            self.broken.add(key)
            self.fault(f"{self.at}parameters.{key}", str(error))
        if isinstance(expression, str) and self.refers_to_broken(expression):
            self.broken.add(key)

    def refers_to_broken(self, expression: str) -> bool:
        """Whether an expression needs a parameter whose fault is told at its own place."""
        try:
            return bool(names(expression) & self.broken)
        except ExpressionError:
            return False

    def quantity(self, expression: Any) -> Quantity:
        """The quantity of a number or an expression. Raises `ExpressionError`."""
        if isinstance(expression, bool) or not isinstance(expression, (int, float, str)):
            raise ExpressionError(f"a number or an expression is wanted, this is {kind_of(expression)}")
        if not isinstance(expression, str):
            return number(finite(expression))
        self.used |= names(expression)
        return number(0.0) if self.refers_to_broken(expression) else evaluate(expression, self.quantities, self.units)

    def ordered(self, expressions: Mapping[str, Any]) -> list[str]:
        """Parameters in an order in which each comes after those it needs; a cycle is a fault."""
        needs: dict[str, list[str]] = {}
        for key, expression in expressions.items():
            try:
                needs[key] = sorted(names(expression) & expressions.keys()) if isinstance(expression, str) else []
            except ExpressionError:
                needs[key] = []  # told when it is evaluated
        order: list[str] = []
        state: dict[str, int] = {}
        for root in expressions:
            stack = [(root, iter(needs[root]))] if root not in state else []
            state.setdefault(root, 1)
            while stack:
                key, rest = stack[-1]
                following = next(rest, None)
                if following is None:
                    stack.pop()
                    state[key] = 2
                    order.append(key)
                elif following not in state:
                    state[following] = 1
                    stack.append((following, iter(needs[following])))
                elif state[following] == 1:
                    cycle = [entry for entry, _ in stack]
                    cycle = [*cycle[cycle.index(following):], following]
                    self.fault(f"{self.at}parameters.{following}", f"depends on itself: {' → '.join(cycle)}")
                    self.broken.update(cycle)
        return [key for key in order if key not in self.broken]
