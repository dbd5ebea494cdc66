"""What the readers of a document share, and single values of its tree: each either gives what is wanted or notes a
fault with its place."""

import dataclasses
import math
import re
from collections.abc import Callable, Iterable, Mapping, Set
from dataclasses import dataclass
from operator import is_
from types import MappingProxyType
from typing import Any, Generic, TypeVar

from ..errors import Fault, suggestion
from ..kinds import LEAST_SIZE, Dimension, Field, FieldForm, Units
from ..laws import SOONEST
from .expressions import ExpressionError, coerce, evaluate, names, plain
from .model import (
    Contact,
    Coupling,
    Document,
    Driver,
    Group,
    Joint,
    Measure,
    Part,
    Program,
    Trace,
    Use,
    Value,
)
from .units import Quantity
from .units import number as bare

T = TypeVar("T")
MAX_ITEMS = 20_000
MISSING = object()
NAN = math.nan
ID = re.compile(r"[\w-]+\Z")
IDS = re.compile(r"[\w-]+(/[\w-]+)*\Z")


def kind_of(value: Any) -> str:
    """What a JSON value is, in words."""
    if value is None:
        return "null"
    if isinstance(value, bool):
        return "true or false"
    for types, word in ((Mapping, "an object"), (list, "a list"), (str, "a text"), ((int, float), "a number")):
        if isinstance(value, types):
            return word
    return type(value).__name__


@dataclass(frozen=True)
class Cached(Generic[T]):
    """An entry as it was read, and what belongs to it: the objects that it was read from, the numbers behind its
    places, the warnings, the parameters used; `sound` where it has no faults."""

    source: tuple[Any, ...]
    entry: T
    values: Mapping[str, Value]
    warnings: tuple[Fault, ...]
    used: frozenset[str]
    sound: bool = True

    def stands(self, source: tuple[Any, ...], changed: Set[str]) -> bool:
        """Whether it would be read alike from the very objects `source`, now that some parameters have changed."""
        same = len(self.source) == len(source) and all(map(is_, self.source, source))
        return same and not self.used & changed


@dataclass
class ReadContext:
    """What readers share: the tree (that of a document, or of a definition of a sub-assembly, whose places begin with
    `at`), the faults found, the number behind each place, and what has been read so far."""

    tree: Any
    at: str = ""
    before: Document | None = None
    """The document before."""
    units: Units = dataclasses.field(default_factory=Units)
    quantities: dict[str, Quantity] = dataclasses.field(default_factory=dict)
    broken: set[str] = dataclasses.field(default_factory=set)
    """Parameters whose faults are told at their own places."""
    programs: dict[str, Program] = dataclasses.field(default_factory=dict)

    faults: list[Fault] = dataclasses.field(default_factory=list)
    warnings: list[Fault] = dataclasses.field(default_factory=list)
    values: dict[str, Value] = dataclasses.field(default_factory=dict)
    used: set[str] = dataclasses.field(default_factory=set)
    """The parameters that the expressions read since the last look at it refer to."""

    parts: dict[str, Part] = dataclasses.field(default_factory=dict)
    joints: dict[str, Joint] = dataclasses.field(default_factory=dict)
    couplings: dict[str, Coupling] = dataclasses.field(default_factory=dict)
    contacts: dict[str, Contact] = dataclasses.field(default_factory=dict)
    groups: dict[str, Group] = dataclasses.field(default_factory=dict)
    uses: dict[str, Use] = dataclasses.field(default_factory=dict)
    drivers: dict[str, Driver] = dataclasses.field(default_factory=dict)
    traces: dict[str, Trace] = dataclasses.field(default_factory=dict)
    measures: dict[str, Measure] = dataclasses.field(default_factory=dict)
    tied: dict[str, str] = dataclasses.field(default_factory=dict)
    """The type of every coupling, known before it is read."""
    touching: set[str] = dataclasses.field(default_factory=set)
    """The names of all contacts, known before they are read."""

    part_cache: dict[str, Cached[Part]] = dataclasses.field(default_factory=dict)
    joint_cache: dict[str, Cached[Joint | None]] = dataclasses.field(default_factory=dict)
    study_cache: dict[tuple[str, str], Cached[Any]] = dataclasses.field(default_factory=dict)
    known_study: Mapping[tuple[str, str], Cached[Any]] = dataclasses.field(default_factory=dict)
    """What was read before of entries that speak of the very same things."""
    changed: set[str] = dataclasses.field(default_factory=set)
    """The parameters that are worth something else than in the document before."""

    @property
    def part_trees(self) -> Mapping[str, Any]:
        """The entries of all parts."""
        given = self.tree.get("parts")
        return given if isinstance(given, Mapping) else {}

    # -- faults ------------------------------------------------------------------------------------------------

    def fault(self, place: str, text: str) -> None:
        self.faults.append(Fault(place, text))

    def unknown_keys(self, item: Mapping[str, Any], known: Iterable[str], place: str) -> None:
        known = tuple(known)
        for key in item:
            if key not in known:
                where = f"{place}.{key}" if place else key
                self.warnings.append(Fault(where, f"unknown key, kept as it is{suggestion(key, known)}"))

    def section(self, name: str, read: Callable[[str, Mapping[str, Any], str], Any]) -> dict[str, Any]:
        """What is read of each entry of a section; None is left out."""
        items = self.mapping(self.tree.get(name, {}), f"{self.at}{name}")
        if len(items) > MAX_ITEMS:
            self.fault(f"{self.at}{name}", f"{len(items)} entries; at most {MAX_ITEMS} are allowed")
            return {}
        found = {}
        for key, value in items.items():
            place = f"{self.at}{name}.{key}"
            if not ID.match(key):
                self.fault(place, "a name may hold only letters, digits, '_' and '-'")
                continue
            entry = read(key, self.mapping(value, place), place)
            if entry is not None:
                found[key] = entry
        return found

    def cached(self, source: tuple[Any, ...], read: Callable[[], T]) -> Cached[T]:
        """What is read by itself: with the numbers, the warnings and the parameters that belong to it."""
        values, warnings, used, faults = self.values, self.warnings, self.used, len(self.faults)
        self.values, self.warnings, self.used = {}, [], set()
        entry, own = read(), self.used
        sound = len(self.faults) == faults
        found = Cached(source, entry, self.values, tuple(self.warnings), frozenset(own), sound)
        self.values, self.warnings, self.used = values, warnings, used | own
        self.take(found)
        return found

    def take(self, found: Cached[Any]) -> None:
        """Takes over numbers and warnings of what was read by itself."""
        self.values |= found.values
        self.warnings += found.warnings

    # -- plain values ------------------------------------------------------------------------------------------

    def mapping(self, value: Any, place: str) -> Mapping[str, Any]:
        if isinstance(value, Mapping):
            return value
        self.fault(place, f"an object is wanted, this is {kind_of(value)}")
        return {}

    def listing(self, value: Any, place: str, least: int = 0, most: int = MAX_ITEMS) -> list[Any]:
        if not isinstance(value, list):
            self.fault(place, f"a list is wanted, this is {kind_of(value)}")
            return []
        if not least <= len(value) <= most:
            wanted = f"{least}" if least == most else f"at least {least}" if len(value) < least else f"at most {most}"
            self.fault(place, f"{wanted} entries are wanted, here are {len(value)}")
            return []
        return value

    def text(self, item: Mapping[str, Any], key: str, place: str, default: str = "") -> str:
        value = item.get(key, default)
        if isinstance(value, str):
            return value
        self.fault(f"{place}.{key}" if place else key, f"a text is wanted, this is {kind_of(value)}")
        return default

    def flag(self, item: Mapping[str, Any], key: str, place: str, default: bool = False) -> bool:
        value = item.get(key, default)
        if isinstance(value, bool):
            return value
        self.fault(f"{place}.{key}", f"true or false is wanted, this is {kind_of(value)}")
        return default

    def required(self, item: Mapping[str, Any], key: str, place: str) -> Any:
        if key in item:
            return item[key]
        if not (len(item) == 0 and any(fault.place == place for fault in self.faults)):
            self.fault(place, f"'{key}' is missing{suggestion(key, list(item))}")
        return MISSING

    def number(self, value: Any, dimension: str, place: str, record: str = "") -> float:
        """The value of a number or expression in core units; NaN after a fault."""
        if value is MISSING:
            return NAN
        try:
            if isinstance(value, bool) or not isinstance(value, (int, float, str)):
                raise ExpressionError(f"a number or an expression is wanted, this is {kind_of(value)}")
            if isinstance(value, str):
                here = names(value)
                self.used |= here
                if here & self.broken:
                    return NAN  # the parameter's own fault is told at its place
                result = coerce(evaluate(value, self.quantities, self.units), dimension, self.units)
            else:
                result = plain(finite(value), dimension, self.units)
        except ExpressionError as error:
            self.fault(place, str(error))
            return NAN
        self.values[record or place] = Value(result, dimension)
        return result

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
            return bare(finite(expression))
        self.used |= names(expression)
        return bare(0.0) if self.refers_to_broken(expression) else evaluate(expression, self.quantities, self.units)

    def optional(self, item: Mapping[str, Any], key: str, dimension: str, place: str) -> float | None:
        return self.number(item[key], dimension, f"{place}.{key}") if key in item else None

    def positive(self, item: Mapping[str, Any], key: str, dimension: str, place: str) -> float:
        return self.above_zero(self.required(item, key, place), dimension, f"{place}.{key}")

    def above_zero(self, value: Any, dimension: str, where: str) -> float:
        number = self.number(value, dimension, where)
        if number <= 0:
            self.fault(where, f"must be greater than zero, it is {self.described(number, dimension)}")
        return number

    def size(self, value: Any, where: str) -> float:
        """A length that is that of something."""
        number = self.above_zero(value, Dimension.LENGTH, where)
        if 0.0 < number < LEAST_SIZE:
            self.fault(where, f"{self.described(number, Dimension.LENGTH)} is too small to be meant")
        return number

    def lasting(self, item: Mapping[str, Any], key: str, dimension: str, place: str) -> float:
        """A time, or an angle that stands for one, that is not too short to move in."""
        value = self.positive(item, key, dimension, place)
        if 0.0 < value < SOONEST:
            self.fault(f"{place}.{key}", f"{self.described(value, dimension)} is too short to be meant")
            return NAN
        return value

    def described(self, number: float, dimension: str) -> str:
        """A core value as the user would write it."""
        return f"{number * Dimension(dimension).per_core(self.units):.6g} {self.units.written(dimension)}".strip()

    def pair(self, value: Any, dimension: str, place: str) -> tuple[float, float]:
        entries = self.listing(value, place, 2, 2) if value is not MISSING else []
        if not entries:
            return NAN, NAN
        x, y = (self.number(entry, dimension, place, f"{place}.{i}") for i, entry in enumerate(entries))
        return x, y

    # -- declared fields ---------------------------------------------------------------------------------------

    def given(
        self, fields: Iterable[Field], item: Mapping[str, Any], place: str, forms: "Forms" = MappingProxyType({})
    ) -> dict[str, Any]:
        """The values of fields that an item gives, under what the code calls them; those of words always. `forms` reads
        what is no plain value."""
        found: dict[str, Any] = {}
        for field in fields:
            if field.name in item:
                value, where = item[field.name], f"{place}.{field.name}"
                read = forms.get(field.form) or PLAIN[field.form]
                found[field.key] = read(self, field, value, where)
            elif field.required:
                if not (len(item) == 0 and any(fault.place == place for fault in self.faults)):
                    message = f": {field.description}" if field.description else ""
                    self.fault(place, f"'{field.name}' is missing{message}{suggestion(field.name, list(item))}")
                found[field.key] = nothing(field)
            elif field.form is FieldForm.WORD:
                found[field.key] = field.words[0]
        return found

    def word(self, field: Field, value: Any, where: str) -> str:
        """One of a field's words."""
        word = value if isinstance(value, str) else kind_of(value)
        if word not in field.words:
            near = suggestion(word, field.words)
            self.fault(where, f"one of {', '.join(field.words)} is wanted, this is '{word}'{near}")
        return word

    def depth(self, value: Any, place: str) -> tuple[float, float]:
        low, high = self.pair(value, "length", place)
        if high <= low:
            self.fault(place, f"runs from {low:g} to {high:g}; the second number must be the larger one")
        return low, high


ReadForm = Callable[[ReadContext, Field, Any, str], Any]
"""Reads what stands in a field, at a place."""
Forms = Mapping[FieldForm, ReadForm]


def _number(context: ReadContext, field: Field, value: Any, where: str) -> float:
    return context.size(value, where) if field.size else context.number(value, field.dimension, where)


def _flag(context: ReadContext, field: Field, value: Any, where: str) -> bool:
    return context.flag({field.name: value}, field.name, where.removesuffix(f".{field.name}"))


PLAIN: Forms = {
    FieldForm.NUMBER: _number,
    FieldForm.PAIR: lambda context, field, value, where: context.pair(value, field.dimension, where),
    FieldForm.WORD: ReadContext.word,
    FieldForm.FLAG: _flag,
}
"""What hangs on nothing else that is read."""


def nothing(field: Field) -> Any:
    """What stands for a field that could not be read."""
    return {FieldForm.NUMBER: NAN, FieldForm.PAIR: (NAN, NAN), FieldForm.SPOT: (NAN, NAN),
            FieldForm.SPOTS: ((NAN, NAN),) * max(field.least, 2),
            FieldForm.SEGMENTS: ()}.get(field.form, "")  # fmt: skip


def finite(value: float) -> float:
    try:
        number = float(value)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise ExpressionError("the number is not finite")
    return number
