"""Reading what is done with a mechanism: drivers, checks, measures, positions, what is said of pairs."""

import re
from collections.abc import Callable, Mapping
from dataclasses import replace
from graphlib import CycleError, TopologicalSorter
from types import MappingProxyType
from typing import Any, TypeVar

from ..errors import suggestion
from ..joints import JOINT_TYPES
from ..kinds import Dimension, FieldForm
from ..measures import MEASURE_TYPES, TRACKED
from ..measures.between import Clearance, Measured
from ..measures.expressions import Expression
from .expressions import ExpressionError, coerce, evaluate, names
from .model import Check, Driver, Measure, Picture, Position, Program, SaidOfPair, Span, Track, Waived
from .read_context import MISSING, ReadContext
from .read_names import NAMED, a_part, coordinate, two_parts
from .read_programs import read_law
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


def keeping(
    context: ReadContext, section: str, read: Callable[[ReadContext, str, Mapping[str, Any], str], T]
) -> dict[str, T]:
    """What is read of each entry of a section; those that are as they were are taken from before."""

    def entry(key: str, item: Mapping[str, Any], place: str) -> T:
        kept = context.known_study.get((section, key))
        if kept is not None and kept.stands((item,), context.changed):
            context.take(kept)
        else:
            kept = context.cached((item,), lambda: read(context, key, item, place))
        if kept.sound and not _speaks_of_others(kept.entry, item):
            context.study_cache[section, key] = kept
        found: T = kept.entry
        return found

    return context.section(section, entry)


def _speaks_of_others(read: Any, item: Mapping[str, Any]) -> bool:
    """Whether what it means hangs on other measures or checks, which may be others by then."""
    return "of" in item or "expression" in item or (isinstance(read, Check) and bool(read.asked))


def read_drivers(context: ReadContext) -> None:
    """Reads what moves joints."""
    driven: dict[str, str] = {}
    context.drivers = context.section(
        "drivers", lambda key, item, place: _read_driver(context, key, item, place, driven))
    _driven_together(context)


def _read_driver(
    context: ReadContext, key: str, item: Mapping[str, Any], place: str, driven: dict[str, str]
) -> Driver:
    """What moves a joint; `driven` knows the driver of each joint that has one."""
    context.unknown_keys(item, SECTIONS["drivers"].keys, place)
    name, dimension = coordinate(context, context.required(item, "joint", place), f"{place}.joint")
    steps = item.get("steps", DEFAULT_STEPS)
    if isinstance(steps, bool) or not isinstance(steps, int) or not 1 <= steps <= MAX_STEPS:
        context.fault(f"{place}.steps", f"a whole number from 1 to {MAX_STEPS} is wanted, this is {steps!r:.40}")
        steps = DEFAULT_STEPS
    _only_one(context, item, place)
    if not dimension:
        return Driver(key, name, None, 0.0, steps)
    other = driven.setdefault(name, key)
    if other != key:
        context.fault(place, f"joint '{name}' is driven by '{other}' already; remove one of the two drivers")
    rate_dimension = "angular rate" if dimension == "angle" else "linear rate"
    rate = context.positive(item, "rate", rate_dimension, place) if "rate" in item else None
    duration = context.lasting(item, "duration", "time", place) if "duration" in item else None
    start = context.optional(item, "from", dimension, place)
    program = _program_of(context, item, dimension, place) if "program" in item else None
    by_itself = "program" in item or "follows" in item
    stop = 0.0 if by_itself else context.number(context.required(item, "to", place), dimension, f"{place}.to")
    return Driver(
        key, name, start, stop, steps, rate, duration, read_law(context, item, place), program,
        context.text(item, "follows", place),
        (context.optional(item, "at", "time", place) or 0.0),
        context.text(item, "after", place), context.flag(item, "back", place), _count(context, item, "times", place),
        context.text(item, "note", place), context.flag(item, "running", place),
    )


def _only_one(context: ReadContext, item: Mapping[str, Any], place: str) -> None:
    """Of keys that say the same in different ways one may stand."""
    for one, others in ALONE.items():
        for other in others:
            if one in item and other in item:
                context.fault(place, f"has both '{one}' and '{other}'; give one of them")
                return


def _count(context: ReadContext, item: Mapping[str, Any], key: str, place: str) -> int:
    """A whole number of repeats."""
    value = item.get(key, 1)
    if isinstance(value, bool) or not isinstance(value, int) or not 1 <= value <= MOST_TIMES:
        context.fault(f"{place}.{key}", f"a whole number from 1 to {MOST_TIMES} is wanted, this is {value!r:.40}")
        return 1
    return value


def _program_of(context: ReadContext, item: Mapping[str, Any], dimension: str, place: str) -> Program | None:
    """The program that a driver takes."""
    name = context.text(item, "program", place)
    where = f"{place}.program"
    if name not in context.programs:
        if name not in context.tree.get("programs", {}):  # one with a fault is told at its own place
            context.fault(where, f"there is no program '{name}'{suggestion(name, list(context.programs))}")
        return None
    found = context.programs[name]
    if found.over != Dimension.TIME:
        what = "an angle" if found.over == Dimension.ANGLE else "a length"
        context.fault(where, f"'{name}' runs over {what}, for a cam; a driver wants one over time ('over' in s)")
    elif found.lift not in ("", dimension):
        context.fault(where, f"'{name}' gives {'an angle' if found.lift == 'angle' else 'a length'}, "
                          f"joint '{item['joint']}' counts {'angles' if dimension == 'angle' else 'lengths'}")
    return found


def _driven_together(context: ReadContext) -> None:
    """Faults of drivers that wait for each other or follow each other."""
    for key, driver in context.drivers.items():
        place = f"drivers.{key}"
        if driver.after and driver.after not in context.drivers:
            near = suggestion(driver.after, list(context.drivers))
            context.fault(f"{place}.after", f"there is no driver '{driver.after}'{near}")
        _leaders(context, driver, place)
    _in_order(context, "drivers", {key: ({driver.after} | leaders(driver)) & context.drivers.keys()
                              for key, driver in context.drivers.items()})  # fmt: skip


def _leaders(context: ReadContext, driver: Driver, place: str) -> None:
    """Faults of what a driver follows."""
    if not driver.follows:
        return
    where = f"{place}.follows"
    given = dict(context.quantities)
    for name, other in context.drivers.items():
        dimension = coordinate(context, other.joint, where)[1]
        if dimension and name.isidentifier():
            given[name] = unit_of(context.units.unit(dimension))
    try:
        here = names(driver.follows)
        if driver.id in here:
            raise ExpressionError("a driver can't follow itself")
        if here & context.broken:
            return
        if not leaders(driver) & context.drivers.keys():
            raise ExpressionError("names no driver; write the number as 'to'")
        dimension = coordinate(context, driver.joint, where)[1]
        if dimension:
            coerce(evaluate(driver.follows, given, context.units), dimension, context.units)
    except ExpressionError as error:
        context.fault(where, str(error))


# -- measures and checks -----------------------------------------------------------------------------------


def read_measures(context: ReadContext) -> None:
    """Reads the measures of the document."""
    context.measures = keeping(context, "measures", _read_measure)
    _measures_of_each_other(context)


def _read_measure(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Measure:
    """A measure of the document."""
    known = [name for name in MEASURE_TYPES if name != Measured.name]
    found = _measured(context, key, item, place, known, SECTIONS["measures"].keys)
    return found or Measure(key, "", (), ())


def _measures_of_each_other(context: ReadContext) -> None:
    """What the measures that are expressions of others count; faults of those that can't be taken."""
    waits = {name: _names_in(one.values["expression"]) & context.measures.keys() - context.quantities.keys()
             if one.kind == Expression.name else set() for name, one in context.measures.items()}  # fmt: skip
    for name in _in_order(context, "measures", waits):
        one = context.measures[name]
        if one.kind == Expression.name:
            context.measures[name] = _counted(context, one, f"measures.{name}")


def _counted(context: ReadContext, one: Measure, place: str) -> Measure:
    """A measure that is an expression, with what it counts."""
    given, text, operands = dict(context.quantities), one.values["expression"], []
    for name in sorted(_names_in(text) & context.measures.keys() - given.keys()):
        other = context.measures[name]
        counts = _dimension_of(context, other) if other.kind != Clearance.name else None
        if counts:
            given[name] = unit_of(context.units.unit(counts)).times(SOME)
            operands.append((name, counts))
    counts = Dimension.NUMBER
    try:
        unknown = sorted(names(text) & context.measures.keys() - given.keys())
        if unknown:
            raise ExpressionError(f"'{unknown[0]}' has no value at a moment; an expression is taken at each")
        if not names(text) & context.broken:
            found = describe(evaluate(text, given, context.units).dimension)
            if found not in list(Dimension):
                raise ExpressionError(f"gives {found}; a number, a length, an angle, or a rate of one is wanted")
            counts = Dimension(found)
    except ExpressionError as error:
        context.fault(f"{place}.expression", str(error))
    return replace(one, values=MappingProxyType({**one.values, "counts": counts, "operands": tuple(operands)}))


def _measured(
    context: ReadContext, key: str, item: Mapping[str, Any], place: str, known: list[str], more: tuple[str, ...]
) -> Measure | None:
    """What an item measures, with the keys of its measure; None after a fault in its name."""
    name = context.required(item, "measure", place)
    if name is MISSING:
        return None
    if not isinstance(name, str) or name not in known:
        near = suggestion(str(name), known)
        context.fault(f"{place}.measure", f"unknown measure {name!r}{near}; known are {', '.join(known)}")
        return None
    fields = MEASURE_TYPES[name].fields
    context.unknown_keys(item, ("measure", *(field.name for field in fields), *more), place)
    given = context.given(fields, item, place, NAMED)
    if "of" in given:
        return context.measures.get(given["of"])
    for field in fields:  # an amount counts what the joint counts
        if field.form is FieldForm.AMOUNT and field.name in item:
            counts = _dimension_of(context, Measure(key, "coordinate", (), (), given["joint"])) or Dimension.NUMBER
            given[field.name] = context.positive(item, field.name, counts, place)
    a = given.pop("point", given.pop("a", ()))
    found = Measure(
        key, name, a, given.pop("b", ()), given.pop("joint", ""), given.pop("parts", None),
        context.text(item, "note", place), given.pop("trace", ""), MappingProxyType(given),
    )
    of_others = name == Expression.name and not place.startswith("measures.")  # those wait for each other
    return _counted(context, found, place) if of_others else found


def read_track(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Track | None:
    """What the strip shows."""
    height = item.get("height")
    if height is not None and (isinstance(height, bool) or not isinstance(height, int) or not 20 <= height <= 2000):
        context.fault(f"{place}.height", f"a whole number from 20 to 2000 is wanted, this is {height!r:.40}")
    measured = _measured(context, key, item, place, list(TRACKED), SECTIONS["tracks"].keys)
    return Track(key, measured, height) if measured is not None else None


def read_checks(context: ReadContext) -> dict[str, Check]:
    """What the design must do."""
    checks = keeping(context, "checks", _read_check)
    _bounds_of_each_other(context, checks)
    return checks


def _read_check(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Check:
    """What the design must do."""
    known = list(MEASURE_TYPES)
    measured = _measured(context, key, item, place, known, SECTIONS["checks"].keys)
    if measured is None:
        return Check(key, Measure(key, "", (), ()), None, None)
    dimension = _dimension_of(context, measured)
    asked = {bound: item[bound] for bound in keys_of(BOUNDS) if _asks(context, item.get(bound))}
    low, high = (
        context.optional(item, bound, dimension, place) if dimension and bound not in asked else None
        for bound in keys_of(BOUNDS)
    )
    if "at_least" not in item and "at_most" not in item:
        context.fault(place, "wants 'at_least', 'at_most' or both")
    if low is not None and high is not None and low > high:
        context.fault(place, "can't hold: 'at_least' is above 'at_most'")
    note = context.text(item, "note", place)
    return Check(key, measured, low, high, note, _judged_at(context, measured, item, place),
                 _span(context, measured, item, place), asked)  # fmt: skip


def _asks(context: ReadContext, bound: Any) -> bool:
    """Whether a bound is an expression of what other checks find: names one that no parameter has."""
    try:
        named = names(bound) if isinstance(bound, str) else frozenset()
    except ExpressionError:
        return False  # told where it is read
    return bool((named - context.quantities.keys()) & context.tree.get("checks", {}).keys())


def _bounds_of_each_other(context: ReadContext, checks: Mapping[str, Check]) -> None:
    """Faults of bounds that are expressions of what other checks find."""
    given = dict(context.quantities)
    for name, check in checks.items():
        counts = _dimension_of(context, check.measured)
        if name.isidentifier() and name not in given and counts:
            given[name] = unit_of(context.units.unit(counts))
    for check in checks.values():
        dimension = _dimension_of(context, check.measured)
        for bound, text in check.asked.items() if dimension else ():
            try:
                coerce(evaluate(text, given, context.units), str(dimension), context.units)
            except ExpressionError as error:
                context.fault(f"checks.{check.id}.{bound}", str(error))
    _in_order(context, "checks", {name: asked_by(check) & checks.keys() for name, check in checks.items()})


def _in_order(context: ReadContext, section: str, waits: Mapping[str, set[str]]) -> list[str]:
    """The entries of a section in an order in which each comes after those that it waits for; a fault where one
    waits for itcontext."""
    try:
        return list(TopologicalSorter(waits).static_order())
    except CycleError as error:
        circle = error.args[1]
        context.fault(f"{section}.{circle[0]}", f"waits for itself: {' ← '.join(circle)}")
        return []


def _span(context: ReadContext, measured: Measure, item: Mapping[str, Any], place: str) -> Span | None:
    """The part of the motion over which a check is judged: by the coordinate of a driver (`by`, else the first), or
    by the time."""
    if not {"from", "until", "by"} & item.keys():
        return None
    kind, name = MEASURE_TYPES[measured.kind], context.text(item, "by", place)
    first = next(iter(context.drivers), "")
    if not {"from", "until"} & item.keys():
        context.fault(f"{place}.by", "says whose span it is; say 'from', 'until' or both as well")
    elif "at" in item:
        context.fault(place, "has both 'at' and a span; give one of them")
    elif not (kind.in_part or kind.name == "clearance"):
        context.fault(place, f"a {kind.title.lower()} is judged all along; leave 'from' and 'until' out")
    elif not first:
        context.fault(place, "nothing is driven, so there is no motion to judge a part of")
    elif name and name not in context.drivers:
        context.fault(f"{place}.by", f"there is no driver '{name}'{suggestion(name, list(context.drivers))}")
    else:
        return _span_of(context, name or first, bool(name), item, place)
    return None


def _span_of(context: ReadContext, driver: str, said: bool, item: Mapping[str, Any], place: str) -> Span | None:
    """Its ends: a time where it is written as one, else coordinates of the driver."""
    written = [key for key in ("from", "until") if key in item]
    timed = [key for key in written if _is_time(context, item[key])]
    if timed and (said or timed != written):
        context.fault(place, "mixes times with coordinates of a driver; write both ends alike")
        return None
    dimension = str(Dimension.TIME) if timed else coordinate(context, context.drivers[driver].joint, place)[1]
    if not dimension:
        return None
    start, stop = (context.optional(item, key, dimension, place) for key in ("from", "until"))
    if start is not None and stop is not None and start >= stop:
        context.fault(place, "holds nothing: 'from' is not below 'until'")
    return Span("" if timed else driver, start, stop)


def _is_time(context: ReadContext, value: Any) -> bool:
    """Whether an expression gives a time."""
    try:
        return isinstance(value, str) and evaluate(value, context.quantities, context.units).dimension == {"time": 1}
    except ExpressionError:
        return False  # told where it is read


def _judged_at(context: ReadContext, measured: Measure, item: Mapping[str, Any], place: str) -> float | None:
    """The first driver's coordinate at which a check is judged."""
    if "at" not in item:
        return None
    kind = MEASURE_TYPES[measured.kind]
    if kind.whole or kind.name == "clearance":
        context.fault(f"{place}.at", f"a {kind.title.lower()} is judged all along; leave 'at' out")
    elif not context.drivers:
        context.fault(f"{place}.at", "nothing is driven, so there is no position to name by its driver")
    else:
        dimension = coordinate(context, next(iter(context.drivers.values())).joint, f"{place}.at")[1]
        return context.number(item["at"], dimension, f"{place}.at") if dimension else None
    return None


def _dimension_of(context: ReadContext, measured: Measure) -> str | None:
    """What it counts; None where that is not known."""
    kind = MEASURE_TYPES[measured.kind] if measured.kind else None
    if "counts" in measured.values:
        return str(measured.values["counts"])
    joint = context.joints.get(measured.joint)
    if kind is not None and kind.of_driver:
        first = next(iter(context.drivers.values()), None)
        joint = context.joints.get(first.joint) if first is not None else None
        if joint is None:
            return Dimension.NUMBER
    if kind is None or kind.dimension is not None or joint is None or not joint.type:
        return kind.dimension if kind is not None else None
    found = JOINT_TYPES[joint.type].coordinate_dimension(joint.values)
    for _ in range(kind.order):
        found = found.rate if found is not None else None
    return found


def read_said_of_pair(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> SaidOfPair:
    """Why two parts need no watching."""
    context.unknown_keys(item, SECTIONS["pairs"].keys, place)
    value = context.required(item, "parts", place)
    parts = two_parts(context, value, f"{place}.parts") if value is not MISSING else ("", "")
    reason = context.text(item, "ignore", place)
    if not reason.strip():
        context.fault(f"{place}.ignore", "say why this pair needs no watching, or leave the entry out")
    return SaidOfPair(key, parts, reason)


def read_waived(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Waived:
    """A finding that is left as it is."""
    context.unknown_keys(item, SECTIONS["waived"].keys, place)
    finding, reason = (context.text(item, word, place) for word in ("finding", "reason"))
    context.required(item, "finding", place)
    names = context.listing(item.get("of", []), f"{place}.of")
    parts = tuple(name for name in (a_part(context, each, f"{place}.of") for each in names) if name)
    if not reason.strip():
        context.fault(f"{place}.reason", "say why this is left as it is, or leave the entry out")
    return Waived(key, finding, parts, reason)


def read_picture(context: ReadContext, item: Mapping[str, Any], place: str) -> Picture:
    """A picture to trace."""
    context.unknown_keys(item, SECTIONS["picture"].keys, place)
    data = context.text(item, "data", place)
    if not BASE64.fullmatch(data):
        context.fault(f"{place}.data", "the bytes of a PNG or JPEG picture as base64 are wanted")
    elif len(data) > MOST_PICTURE:
        context.fault(f"{place}.data", "is larger than 4 MB; a smaller picture serves to trace")
    at = context.pair(item.get("at", [0, 0]), "length", f"{place}.at")
    return Picture(data, at, context.positive(item, "width", "length", place))


# -- positions ---------------------------------------------------------------------------------------------


def read_position(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Position:
    """Values of drivers, or of joints, at which the mechanism stands so."""
    context.unknown_keys(item, SECTIONS["positions"].keys, place)
    if ("drivers" in item) == ("joints" in item):
        context.fault(place, "give either 'drivers' or 'joints', with their values")
    values: dict[str, dict[str, float]] = {"drivers": {}, "joints": {}}
    for kind, found in values.items():
        for name, value in context.mapping(item.get(kind, {}), f"{place}.{kind}").items():
            where = f"{place}.{kind}.{name}"
            joint = name
            if kind == "drivers":
                if name not in context.drivers:
                    context.fault(where, f"there is no driver '{name}'{suggestion(name, list(context.drivers))}")
                    continue
                joint = context.drivers[name].joint
            dimension = coordinate(context, joint, where)[1]
            if dimension:
                found[name] = context.number(value, Dimension(dimension), where)
    drivers, joints = (MappingProxyType(found) for found in values.values())
    opens = context.flag(item, "at_opening", place)
    return Position(key, drivers, joints, context.text(item, "note", place), opens)


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
