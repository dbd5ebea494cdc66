"""Reading what is done with a mechanism: drivers, checks, measures, positions, what is said of pairs."""

import math
import re
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace
from graphlib import CycleError, TopologicalSorter
from types import MappingProxyType
from typing import Any, TypeVar

from ..errors import suggestion
from ..joints import JOINT_TYPES
from ..kinds import LEAST_SIZE, Dimension, Field, FieldForm
from ..measures import MEASURE_TYPES, TRACKED
from ..measures.between import Clearance, Measured
from ..measures.expressions import Expression
from .expressions import ExpressionError, coerce, evaluate, names
from .fields import MISSING, Apart, kind_of
from .model import Check, Driver, Measure, Picture, PointRef, Position, Program, SaidOfPair, Span, Trace, Track
from .read_cams import CamFields
from .sections import BOUNDS, MAX_STEPS, MOST_PICTURE, MOST_TIMES, SECTIONS, keys_of
from .units import describe, unit_of

ALONE = {"rate": ("duration", "program", "follows"), "duration": ("program", "follows"), "law": ("program", "follows"),
         "program": ("to", "follows"), "follows": ("to", "from", "back", "times", "at", "after")}  # fmt: skip
"""Keys of a driver that say the same as others, or nothing beside them."""
DEFAULT_STEPS = 360
SOME = 1.2345
"""What measures come to where only the dimension of an expression of them is asked."""
BASE64 = re.compile(r"[A-Za-z0-9+/]+={0,2}")


T = TypeVar("T")


@dataclass(frozen=True)
class ReadEntry:
    """An entry as it was read: its tree, and what was read."""

    tree: Any
    read: Apart[Any]


class StudyFields(CamFields):
    """Knows the drivers and measures that have been read."""

    def __init__(self, tree: Any, at: str = ""):
        super().__init__(tree, at)
        self.driven: dict[str, str] = {}
        """The driver of each joint that has one."""
        self.drivers: dict[str, Driver] = {}
        self.measures: dict[str, Measure] = {}
        self.traces: dict[str, Trace] = {}
        self.known_study: Mapping[tuple[str, str], ReadEntry] = {}
        """What was read before of entries that speak of the very same things, and the parameters that are worth
        something else now."""
        self.changed: set[str] = set()
        self.read_study: dict[tuple[str, str], ReadEntry] = {}

    def keeping(self, section: str, read: Callable[[str, Mapping[str, Any], str], T]) -> dict[str, T]:
        """What is read of each entry of a section; those that are as they were are taken from before."""

        def entry(key: str, item: Mapping[str, Any], place: str) -> T:
            kept = self.known_study.get((section, key))
            if kept is not None and kept.tree is item and not kept.read.used & self.changed:
                self.take(kept.read)
            else:
                kept = ReadEntry(item, self.apart(lambda: read(key, item, place)))
            if kept.read.sound and not self.speaks_of_others(kept.read.entry, item):
                self.read_study[section, key] = kept
            found: T = kept.read.entry
            return found

        return self.section(section, entry)

    @staticmethod
    def speaks_of_others(read: Any, item: Mapping[str, Any]) -> bool:
        """Whether what it means hangs on other measures or checks, which may be others by then."""
        return "of" in item or "expression" in item or (isinstance(read, Check) and bool(read.asked))

    def driver(self, key: str, item: Mapping[str, Any], place: str) -> Driver:
        """What moves a joint."""
        self.unknown_keys(item, SECTIONS["drivers"].keys, place)
        name, dimension = self.coordinate(self.required(item, "joint", place), f"{place}.joint")
        steps = item.get("steps", DEFAULT_STEPS)
        if isinstance(steps, bool) or not isinstance(steps, int) or not 1 <= steps <= MAX_STEPS:
            self.fault(f"{place}.steps", f"a whole number from 1 to {MAX_STEPS} is wanted, this is {steps!r:.40}")
            steps = DEFAULT_STEPS
        self.only_one(item, place)
        if not dimension:
            return Driver(key, name, None, 0.0, steps)
        other = self.driven.setdefault(name, key)
        if other != key:
            self.fault(place, f"joint '{name}' is driven by '{other}' already; remove one of the two drivers")
        rate_dimension = "angular rate" if dimension == "angle" else "linear rate"
        rate = self.positive(item, "rate", rate_dimension, place) if "rate" in item else None
        duration = self.lasting(item, "duration", "time", place) if "duration" in item else None
        start = self.optional(item, "from", dimension, place)
        program = self.program_of(item, dimension, place) if "program" in item else None
        by_itself = "program" in item or "follows" in item
        stop = 0.0 if by_itself else self.number(self.required(item, "to", place), dimension, f"{place}.to")
        return Driver(
            key, name, start, stop, steps, rate, duration, self.law(item, place), program,
            self.text(item, "follows", place),
            (self.optional(item, "at", "time", place) or 0.0),
            self.text(item, "after", place), self.flag(item, "back", place), self.count(item, "times", place),
            self.text(item, "note", place), self.flag(item, "running", place),
        )

    def only_one(self, item: Mapping[str, Any], place: str) -> None:
        """Of keys that say the same in different ways one may stand."""
        for one, others in ALONE.items():
            for other in others:
                if one in item and other in item:
                    self.fault(place, f"has both '{one}' and '{other}'; give one of them")
                    return

    def count(self, item: Mapping[str, Any], key: str, place: str) -> int:
        """A whole number of repeats."""
        value = item.get(key, 1)
        if isinstance(value, bool) or not isinstance(value, int) or not 1 <= value <= MOST_TIMES:
            self.fault(f"{place}.{key}", f"a whole number from 1 to {MOST_TIMES} is wanted, this is {value!r:.40}")
            return 1
        return value

    def program_of(self, item: Mapping[str, Any], dimension: str, place: str) -> Program | None:
        """The program that a driver takes."""
        name = self.text(item, "program", place)
        where = f"{place}.program"
        if name not in self.programs:
            if name not in self.tree.get("programs", {}):  # one with a fault is told at its own place
                self.fault(where, f"there is no program '{name}'{suggestion(name, list(self.programs))}")
            return None
        found = self.programs[name]
        if found.over != Dimension.TIME:
            what = "an angle" if found.over == Dimension.ANGLE else "a length"
            self.fault(where, f"'{name}' runs over {what}, for a cam; a driver wants one over time ('over' in s)")
        elif found.lift not in ("", dimension):
            self.fault(where, f"'{name}' gives {'an angle' if found.lift == 'angle' else 'a length'}, "
                              f"joint '{item['joint']}' counts {'angles' if dimension == 'angle' else 'lengths'}")
        return found

    def driven_together(self) -> None:
        """Faults of drivers that wait for each other or follow each other."""
        for key, driver in self.drivers.items():
            place = f"drivers.{key}"
            if driver.after and driver.after not in self.drivers:
                near = suggestion(driver.after, list(self.drivers))
                self.fault(f"{place}.after", f"there is no driver '{driver.after}'{near}")
            self.leaders(driver, place)
        self.in_order("drivers", {key: ({driver.after} | leaders(driver)) & self.drivers.keys()
                                  for key, driver in self.drivers.items()})  # fmt: skip

    def leaders(self, driver: Driver, place: str) -> None:
        """Faults of what a driver follows."""
        if not driver.follows:
            return
        where = f"{place}.follows"
        given = dict(self.quantities)
        for name, other in self.drivers.items():
            dimension = self.coordinate(other.joint, where)[1]
            if dimension and name.isidentifier():
                given[name] = unit_of(self.units.unit(dimension))
        try:
            here = names(driver.follows)
            if driver.id in here:
                raise ExpressionError("a driver can't follow itself")
            if here & self.broken:
                return
            if not leaders(driver) & self.drivers.keys():
                raise ExpressionError("names no driver; write the number as 'to'")
            dimension = self.coordinate(driver.joint, where)[1]
            if dimension:
                coerce(evaluate(driver.follows, given, self.units), dimension, self.units)
        except ExpressionError as error:
            self.fault(where, str(error))

    # -- measures and checks -----------------------------------------------------------------------------------

    def field(self, field: Field, value: Any, where: str) -> Any:
        """What stands in a field; joints, features and measures too."""
        match field.form:
            case FieldForm.JOINT:
                return self.coordinate(value, where)[0]
            case FieldForm.PARTS:
                return self.two_parts(value, where)
            case FieldForm.FEATURE:
                return self.feature(value, where)
            case FieldForm.LINE:
                if isinstance(value, str) and "." not in value:
                    return (PointRef(self.a_part(value, where), ""),)
                return self.feature(value, where, 2)
            case FieldForm.POINT:
                return (self.reference(value, where),)
            case FieldForm.PART:
                return self.a_part(value, where)
            case FieldForm.AMOUNT:
                return value  # read when it is known what the joint counts
            case FieldForm.TRACE:
                return self._one_of(value, where, "trace", self.traces)
            case FieldForm.CONTACT:
                return self._one_of(value, where, "contact", self.contacts)
            case FieldForm.CAM if self.joints:  # shapes are read before there are joints
                cams = [name for name, one in self.couplings.items() if one.kind.by_program]
                return self._one_of(value, where, "cam joint", cams)
            case FieldForm.EXPRESSION:
                if isinstance(value, str):
                    return value
                self.fault(where, f"an expression that names measures is wanted, this is {kind_of(value)}")
                return "0"
            case FieldForm.DRIVER:
                return self._one_of(value, where, "driver", self.drivers)
            case FieldForm.MEASURE:
                return self._one_of(value, where, "measure", self.measures)
        return super().field(field, value, where)

    def _one_of(self, value: Any, where: str, what: str, known: Collection[str]) -> str:
        """A name among known ones; empty, and a fault, where it is none."""
        if isinstance(value, str) and value in known:
            return value
        self.fault(where, f"there is no {what} '{value}'{suggestion(str(value), list(known))}")
        return ""

    def feature(self, value: Any, where: str, least: int = 1) -> tuple[PointRef, ...]:
        """A point, or the line through two points of one part."""
        if isinstance(value, str) and least == 1:
            return (self.reference(value, where),)
        entries = self.listing(value, where, 2, 2)
        found = tuple(self.reference(entry, where) for entry in entries)
        if len(found) == 2 and found[0].part != found[1].part:
            self.fault(where, "a line runs through two points of one part; these are of two")
        elif len(found) == 2 and found[0].part in self.parts:
            points = self.parts[found[0].part].points
            ends = [points[ref.point] for ref in found if ref.point in points]
            if len(ends) == 2 and math.dist(*ends) < LEAST_SIZE:
                self.fault(where, "both points lie at the same place; a line runs through two that are apart")
        return found

    def measure(self, key: str, item: Mapping[str, Any], place: str) -> Measure:
        """A measure of the document."""
        known = [name for name in MEASURE_TYPES if name != Measured.name]
        found = self.measured(key, item, place, known, SECTIONS["measures"].keys)
        return found or Measure(key, "", (), ())

    def measures_of_each_other(self) -> None:
        """What the measures that are expressions of others count; faults of those that can't be taken."""
        waits = {name: _names_in(one.values["expression"]) & self.measures.keys() - self.quantities.keys()
                 if one.kind == Expression.name else set() for name, one in self.measures.items()}  # fmt: skip
        for name in self.in_order("measures", waits):
            one = self.measures[name]
            if one.kind == Expression.name:
                self.measures[name] = self.counted(one, f"measures.{name}")

    def counted(self, one: Measure, place: str) -> Measure:
        """A measure that is an expression, with what it counts."""
        given, text, operands = dict(self.quantities), one.values["expression"], []
        for name in sorted(_names_in(text) & self.measures.keys() - given.keys()):
            other = self.measures[name]
            counts = self.dimension_of(other) if other.kind != Clearance.name else None
            if counts:
                given[name] = unit_of(self.units.unit(counts)).times(SOME)
                operands.append((name, counts))
        counts = Dimension.NUMBER
        try:
            unknown = sorted(names(text) & self.measures.keys() - given.keys())
            if unknown:
                raise ExpressionError(f"'{unknown[0]}' has no value at a moment; an expression is taken at each")
            if not names(text) & self.broken:
                found = describe(evaluate(text, given, self.units).dimension)
                if found not in list(Dimension):
                    raise ExpressionError(f"gives {found}; a number, a length, an angle, or a rate of one is wanted")
                counts = Dimension(found)
        except ExpressionError as error:
            self.fault(f"{place}.expression", str(error))
        return replace(one, values=MappingProxyType({**one.values, "counts": counts, "operands": tuple(operands)}))

    def measured(
        self, key: str, item: Mapping[str, Any], place: str, known: list[str], more: tuple[str, ...]
    ) -> Measure | None:
        """What an item measures, with the keys of its measure; None after a fault in its name."""
        name = self.required(item, "measure", place)
        if name is MISSING:
            return None
        if not isinstance(name, str) or name not in known:
            near = suggestion(str(name), known)
            self.fault(f"{place}.measure", f"unknown measure {name!r}{near}; known are {', '.join(known)}")
            return None
        fields = MEASURE_TYPES[name].fields
        self.unknown_keys(item, ("measure", *(field.name for field in fields), *more), place)
        given = self.given(fields, item, place)
        if "of" in given:
            return self.measures.get(given["of"])
        for field in fields:  # an amount counts what the joint counts
            if field.form is FieldForm.AMOUNT and field.name in item:
                counts = self.dimension_of(Measure(key, "coordinate", (), (), given["joint"])) or Dimension.NUMBER
                given[field.name] = self.positive(item, field.name, counts, place)
        a = given.pop("point", given.pop("a", ()))
        found = Measure(
            key, name, a, given.pop("b", ()), given.pop("joint", ""), given.pop("parts", None),
            self.text(item, "note", place), given.pop("trace", ""), MappingProxyType(given),
        )
        of_others = name == Expression.name and not place.startswith("measures.")  # those wait for each other
        return self.counted(found, place) if of_others else found

    def track(self, key: str, item: Mapping[str, Any], place: str) -> Track | None:
        """What the strip shows."""
        height = item.get("height")
        if height is not None and (isinstance(height, bool) or not isinstance(height, int) or not 20 <= height <= 2000):
            self.fault(f"{place}.height", f"a whole number from 20 to 2000 is wanted, this is {height!r:.40}")
        measured = self.measured(key, item, place, list(TRACKED), SECTIONS["tracks"].keys)
        return Track(key, measured, height) if measured is not None else None

    def check(self, key: str, item: Mapping[str, Any], place: str) -> Check:
        """What the design must do."""
        known = list(MEASURE_TYPES)
        measured = self.measured(key, item, place, known, SECTIONS["checks"].keys)
        if measured is None:
            return Check(key, Measure(key, "", (), ()), None, None)
        dimension = self.dimension_of(measured)
        asked = {bound: item[bound] for bound in keys_of(BOUNDS) if self.asks(item.get(bound))}
        low, high = (
            self.optional(item, bound, dimension, place) if dimension and bound not in asked else None
            for bound in keys_of(BOUNDS)
        )
        if "at_least" not in item and "at_most" not in item:
            self.fault(place, "wants 'at_least', 'at_most' or both")
        if low is not None and high is not None and low > high:
            self.fault(place, "can't hold: 'at_least' is above 'at_most'")
        note = self.text(item, "note", place)
        return Check(key, measured, low, high, note, self.judged_at(measured, item, place),
                     self.span(measured, item, place), asked)  # fmt: skip

    def asks(self, bound: Any) -> bool:
        """Whether a bound is an expression of what other checks find: names one that no parameter has."""
        try:
            named = names(bound) if isinstance(bound, str) else frozenset()
        except ExpressionError:
            return False  # told where it is read
        return bool((named - self.quantities.keys()) & self.tree.get("checks", {}).keys())

    def bounds_of_each_other(self, checks: Mapping[str, Check]) -> None:
        """Faults of bounds that are expressions of what other checks find."""
        given = dict(self.quantities)
        for name, check in checks.items():
            counts = self.dimension_of(check.measured)
            if name.isidentifier() and name not in given and counts:
                given[name] = unit_of(self.units.unit(counts))
        for check in checks.values():
            dimension = self.dimension_of(check.measured)
            for bound, text in check.asked.items() if dimension else ():
                try:
                    coerce(evaluate(text, given, self.units), str(dimension), self.units)
                except ExpressionError as error:
                    self.fault(f"checks.{check.id}.{bound}", str(error))
        self.in_order("checks", {name: asked_by(check) & checks.keys() for name, check in checks.items()})

    def in_order(self, section: str, waits: Mapping[str, set[str]]) -> list[str]:
        """The entries of a section in an order in which each comes after those that it waits for; a fault where one
        waits for itself."""
        try:
            return list(TopologicalSorter(waits).static_order())
        except CycleError as error:
            circle = error.args[1]
            self.fault(f"{section}.{circle[0]}", f"waits for itself: {' ← '.join(circle)}")
            return []

    def span(self, measured: Measure, item: Mapping[str, Any], place: str) -> Span | None:
        """The part of the motion over which a check is judged: by the coordinate of a driver (`by`, else the first), or
        by the time."""
        if not {"from", "until", "by"} & item.keys():
            return None
        kind, name = MEASURE_TYPES[measured.kind], self.text(item, "by", place)
        first = next(iter(self.drivers), "")
        if not {"from", "until"} & item.keys():
            self.fault(f"{place}.by", "says whose span it is; say 'from', 'until' or both as well")
        elif "at" in item:
            self.fault(place, "has both 'at' and a span; give one of them")
        elif not (kind.in_part or kind.name == "clearance"):
            self.fault(place, f"a {kind.title.lower()} is judged all along; leave 'from' and 'until' out")
        elif not first:
            self.fault(place, "nothing is driven, so there is no motion to judge a part of")
        elif name and name not in self.drivers:
            self.fault(f"{place}.by", f"there is no driver '{name}'{suggestion(name, list(self.drivers))}")
        else:
            return self.span_of(name or first, bool(name), item, place)
        return None

    def span_of(self, driver: str, said: bool, item: Mapping[str, Any], place: str) -> Span | None:
        """Its ends: a time where it is written as one, else coordinates of the driver."""
        written = [key for key in ("from", "until") if key in item]
        timed = [key for key in written if self.is_time(item[key])]
        if timed and (said or timed != written):
            self.fault(place, "mixes times with coordinates of a driver; write both ends alike")
            return None
        dimension = str(Dimension.TIME) if timed else self.coordinate(self.drivers[driver].joint, place)[1]
        if not dimension:
            return None
        start, stop = (self.optional(item, key, dimension, place) for key in ("from", "until"))
        if start is not None and stop is not None and start >= stop:
            self.fault(place, "holds nothing: 'from' is not below 'until'")
        return Span("" if timed else driver, start, stop)

    def is_time(self, value: Any) -> bool:
        """Whether an expression gives a time."""
        try:
            return isinstance(value, str) and evaluate(value, self.quantities, self.units).dimension == {"time": 1}
        except ExpressionError:
            return False  # told where it is read

    def judged_at(self, measured: Measure, item: Mapping[str, Any], place: str) -> float | None:
        """The first driver's coordinate at which a check is judged."""
        if "at" not in item:
            return None
        kind = MEASURE_TYPES[measured.kind]
        if kind.whole or kind.name == "clearance":
            self.fault(f"{place}.at", f"a {kind.title.lower()} is judged all along; leave 'at' out")
        elif not self.drivers:
            self.fault(f"{place}.at", "nothing is driven, so there is no position to name by its driver")
        else:
            dimension = self.coordinate(next(iter(self.drivers.values())).joint, f"{place}.at")[1]
            return self.number(item["at"], dimension, f"{place}.at") if dimension else None
        return None

    def dimension_of(self, measured: Measure) -> str | None:
        """What it counts; None where that is not known."""
        kind = MEASURE_TYPES[measured.kind] if measured.kind else None
        if "counts" in measured.values:
            return str(measured.values["counts"])
        joint = self.joints.get(measured.joint)
        if kind is not None and kind.of_driver:
            first = next(iter(self.drivers.values()), None)
            joint = self.joints.get(first.joint) if first is not None else None
            if joint is None:
                return Dimension.NUMBER
        if kind is None or kind.dimension is not None or joint is None or not joint.type:
            return kind.dimension if kind is not None else None
        found = JOINT_TYPES[joint.type].coordinate_dimension(joint.values)
        for _ in range(kind.order):
            found = found.rate if found is not None else None
        return found

    def said_of_pair(self, key: str, item: Mapping[str, Any], place: str) -> SaidOfPair:
        """Why two parts need no watching."""
        self.unknown_keys(item, SECTIONS["pairs"].keys, place)
        value = self.required(item, "parts", place)
        parts = self.two_parts(value, f"{place}.parts") if value is not MISSING else ("", "")
        reason = self.text(item, "ignore", place)
        if not reason.strip():
            self.fault(f"{place}.ignore", "say why this pair needs no watching, or leave the entry out")
        return SaidOfPair(key, parts, reason)

    def two_parts(self, value: Any, where: str) -> tuple[str, str]:
        """The names of two parts; empty after a fault."""
        entries = self.listing(value, where, 2, 2)
        for entry in entries:
            self.a_part(entry, where)
        if len(entries) == 2 and entries[0] == entries[1]:
            self.fault(where, "names the same part twice")
        return (str(entries[0]), str(entries[1])) if entries else ("", "")

    def picture(self, item: Mapping[str, Any], place: str) -> Picture:
        """A picture to trace."""
        self.unknown_keys(item, SECTIONS["picture"].keys, place)
        data = self.text(item, "data", place)
        if not BASE64.fullmatch(data):
            self.fault(f"{place}.data", "the bytes of a PNG or JPEG picture as base64 are wanted")
        elif len(data) > MOST_PICTURE:
            self.fault(f"{place}.data", "is larger than 4 MB; a smaller picture serves to trace")
        at = self.pair(item.get("at", [0, 0]), "length", f"{place}.at")
        return Picture(data, at, self.positive(item, "width", "length", place))

    # -- positions ---------------------------------------------------------------------------------------------

    def position(self, key: str, item: Mapping[str, Any], place: str) -> Position:
        """Values of drivers, or of joints, at which the mechanism stands so."""
        self.unknown_keys(item, SECTIONS["positions"].keys, place)
        if ("drivers" in item) == ("joints" in item):
            self.fault(place, "give either 'drivers' or 'joints', with their values")
        values: dict[str, dict[str, float]] = {"drivers": {}, "joints": {}}
        for kind, found in values.items():
            for name, value in self.mapping(item.get(kind, {}), f"{place}.{kind}").items():
                where = f"{place}.{kind}.{name}"
                joint = name
                if kind == "drivers":
                    if name not in self.drivers:
                        self.fault(where, f"there is no driver '{name}'{suggestion(name, list(self.drivers))}")
                        continue
                    joint = self.drivers[name].joint
                dimension = self.coordinate(joint, where)[1]
                if dimension:
                    found[name] = self.number(value, Dimension(dimension), where)
        drivers, joints = (MappingProxyType(found) for found in values.values())
        opens = self.flag(item, "at_opening", place)
        return Position(key, drivers, joints, self.text(item, "note", place), opens)


def leaders(driver: Driver) -> set[str]:
    """The names in what a driver follows; those of drivers are the drivers that it follows."""
    return _names_in(driver.follows)


def asked_by(check: Check) -> set[str]:
    """The names in its bounds that are expressions of what other checks find."""
    return {name for text in check.asked.values() for name in _names_in(text)}


def _names_in(text: str) -> set[str]:
    """Of what is no expression, which is told at its place, none."""
    try:
        return set(names(text))
    except ExpressionError:
        return set()
