"""Reading programs: a law of motion over time (for a driver) or over an angle (for a cam), by segments, by a table of
values, as a sine, or, over a turn, as a sum of harmonics; over a length for a cam on a slide."""

import math
from collections.abc import Callable, Mapping
from itertools import pairwise
from typing import Any

from ..errors import suggestion
from ..kinds import Dimension
from ..laws import MOST_PIECES, SOONEST, STANDARD, LawPiece, fitted, polynomial, risen, through
from .expressions import ExpressionError, names
from .model import Program
from .read_context import ReadContext

MOST_HARMONICS, HIGHEST = 64, 360
OVER = (Dimension.TIME, Dimension.ANGLE, Dimension.LENGTH)
LIFT = (Dimension.LENGTH, Dimension.ANGLE)
Read = tuple[str, str, list[LawPiece], list[float]]
"""What a program runs over, what it gives, its pieces, and where its segments begin and end."""



def read_program(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Program | None:
    """One program; None after a fault."""
    context.unknown_keys(item, (*READERS, "curve", "note"), place)
    given = [kind for kind in READERS if kind in item]
    if len(given) != 1:
        message = f"this has {' and '.join(given)}" if given else "this has none of them"
        context.fault(place, f"one of 'segments', 'points', 'sine' and 'harmonics' is wanted, {message}")
        return None
    before = len(context.faults)
    over, lift, pieces, marks = READERS[given[0]](context, item, f"{place}.{given[0]}")
    note = context.text(item, "note", place)
    return Program(key, over, lift, tuple(pieces), note, tuple(marks)) if len(context.faults) == before else None


def _by_segments(context: ReadContext, item: Mapping[str, Any], place: str) -> Read:
    """A rise, fall or dwell after another."""
    listed = context.listing(item["segments"], place, 1)
    entries = [context.mapping(entry, f"{place}.{i}") for i, entry in enumerate(listed)]
    over = _kind(context, {f"{place}.{i}.over": entry.get("over") for i, entry in enumerate(entries)}, OVER) or OVER[0]
    lift = _kind(context, {f"{place}.{i}.to": entry.get("to") for i, entry in enumerate(entries)}, LIFT)
    pieces: list[LawPiece] = []
    x = value = 0.0
    marks = [0.0]
    for i, entry in enumerate(entries):
        where = f"{place}.{i}"
        context.unknown_keys(entry, ("over", "to", "law", "note"), where)
        length = context.lasting(entry, "over", over, where)
        to = context.number(entry["to"], lift or Dimension.NUMBER, f"{where}.to") if "to" in entry else value
        law = read_law(context, entry, where)
        if "law" in entry and "to" not in entry:
            context.fault(f"{where}.law", "a dwell has no law; say where it goes 'to', or leave the law out")
        if length > 0 and math.isfinite(length) and math.isfinite(to):
            pieces += risen(law, x, x + length, value, to)
            x, value = x + length, to
        marks.append(x)
    if not context.faults and value != 0.0 and over == Dimension.ANGLE and abs(x - 2 * math.pi) < 1e-9:
        context.fault(place, "a turn ends at another value than it begins with, 0: the motion would jump")
    return over, lift, pieces, marks


def read_law(context: ReadContext, item: Mapping[str, Any], place: str) -> str:
    """The name of a standard law."""
    law = context.text(item, "law", place, "uniform")
    if law not in STANDARD:
        near = suggestion(law, list(STANDARD))
        context.fault(f"{place}.law", f"unknown law '{law}'{near}; known are {', '.join(STANDARD)}")
        return "uniform"
    return law


def _by_points(context: ReadContext, item: Mapping[str, Any], place: str) -> Read:
    """Values at times or angles, straight or smooth between them."""
    curve = context.text(item, "curve", place, "smooth")
    if curve not in ("smooth", "straight"):
        context.fault(f"{place}.curve", f"'smooth' or 'straight' is wanted, this is '{curve}'")
    rows = [context.listing(row, f"{place}.{i}", 2, 2)
            for i, row in enumerate(context.listing(item["points"], place, 2, MOST_PIECES))]  # fmt: skip
    if not all(rows) or not rows:
        return Dimension.TIME, "", [], []
    over = _kind(context, {f"{place}.{i}.0": row[0] for i, row in enumerate(rows)}, OVER) or OVER[0]
    lift = _kind(context, {f"{place}.{i}.1": row[1] for i, row in enumerate(rows)}, LIFT)
    x = [context.number(row[0], over, f"{place}.{i}.0") for i, row in enumerate(rows)]
    values = [context.number(row[1], lift or Dimension.NUMBER, f"{place}.{i}.1") for i, row in enumerate(rows)]
    for i, (a, b) in enumerate(pairwise(x), 1):
        if not a + SOONEST <= b and math.isfinite(a) and math.isfinite(b):
            text = "two values at once: the motion would jump" if a <= b else "runs back; rows must stand in order"
            context.fault(f"{place}.{i}", text)
            return over, lift, [], []
    if x[0] != 0.0 and math.isfinite(x[0]):
        context.fault(f"{place}.0", "a table begins at 0")
    if not all(map(math.isfinite, (*x, *values))):
        return over, lift, [], []
    return over, lift, through(x, values, curve == "smooth"), x


def _by_sine(context: ReadContext, item: Mapping[str, Any], place: str) -> Read:
    """``middle + amplitude · sin(2π x / period + phase)``, for some cycles."""
    item = context.mapping(item["sine"], place)
    context.unknown_keys(item, ("amplitude", "period", "phase", "middle", "cycles", "note"), place)
    over = _kind(context, {f"{place}.period": item.get("period")}, OVER) or OVER[0]
    lift = _kind(context, {f"{place}.amplitude": item.get("amplitude")}, LIFT)
    kind = lift or Dimension.NUMBER
    amplitude = context.number(context.required(item, "amplitude", place), kind, f"{place}.amplitude")
    middle = context.optional(item, "middle", kind, place) or 0.0
    period = context.lasting(item, "period", over, place)
    phase = context.optional(item, "phase", Dimension.ANGLE, place) or 0.0
    cycles = context.positive(item, "cycles", Dimension.NUMBER, place) if "cycles" in item else 1.0
    if not all(map(math.isfinite, (amplitude, middle, period, phase, cycles))) or min(period, cycles) <= 0:
        return over, lift, [], []
    if cycles * period < SOONEST:
        context.fault(f"{place}.cycles", "so little of a period is too short to be meant")
        return over, lift, [], []
    if cycles > MOST_PIECES / 4:
        context.fault(f"{place}.cycles", f"at most {MOST_PIECES // 4:,} cycles are allowed")
        return over, lift, [], []
    whole = LawPiece(0.0, cycles * period, polynomial(0, 1, middle).terms, amplitude, 2 * math.pi / period, phase)
    # Cut where it turns back.
    first = math.ceil((phase - math.pi / 2) / math.pi + 1e-12)
    halves = range(first, first + 2 * int(cycles) + 3)
    turns = [((k + 0.5) * math.pi - phase) * period / (2 * math.pi) for k in halves]
    cuts = [0.0, *(turn for turn in turns if 1e-12 * period < turn < (cycles - 1e-12) * period), cycles * period]
    return over, lift, [whole.part(a, b) for a, b in pairwise(cuts)], [0.0, cycles * period]


def _by_harmonics(context: ReadContext, item: Mapping[str, Any], place: str) -> Read:
    """A sum of ``amplitude · sin(order · a + phase)`` over a turn, by pieces that miss it by 1e-11 of its size."""
    entries = [context.mapping(entry, f"{place}.{i}")
               for i, entry in enumerate(context.listing(item["harmonics"], place, 1, MOST_HARMONICS))]  # fmt: skip
    lift = _kind(context, {f"{place}.{i}.amplitude": entry.get("amplitude") for i, entry in enumerate(entries)}, LIFT)
    terms: list[tuple[float, float, float]] = []
    for i, entry in enumerate(entries):
        where = f"{place}.{i}"
        context.unknown_keys(entry, ("order", "amplitude", "phase", "note"), where)
        order = context.number(context.required(entry, "order", where), Dimension.NUMBER, f"{where}.order")
        counts = lift or Dimension.NUMBER
        size = context.number(context.required(entry, "amplitude", where), counts, f"{where}.amplitude")
        phase = context.optional(entry, "phase", Dimension.ANGLE, where) or 0.0
        if math.isfinite(order) and (order != round(order) or not 0 <= order <= HIGHEST):
            context.fault(f"{where}.order", f"a whole number from 0 to {HIGHEST} is wanted, this is {order:g}")
        elif all(map(math.isfinite, (order, size, phase))):
            terms.append((order, size, phase))
    if len(terms) < len(entries) or not terms:
        return Dimension.ANGLE, lift, [], []

    def value(a: float) -> float:
        return sum(size * math.sin(order * a + phase) for order, size, phase in terms)

    highest = max(order for order, _, _ in terms)
    cuts = [math.tau * k / (4 * max(highest, 1)) for k in range(1, int(4 * max(highest, 1)))]
    return Dimension.ANGLE, lift, fitted(value, 0.0, math.tau, cuts), [0.0, math.tau]


def _kind(context: ReadContext, values: Mapping[str, Any], allowed: tuple[str, ...]) -> str:
    """The dimension of values at places: of the first that has a unit; empty where all are plain."""
    for place, value in values.items():
        if not isinstance(value, str):
            continue
        try:
            found = context.quantity(value).dimension if not names(value) & context.broken else {}
        except ExpressionError:
            continue  # told where it is read
        for dimension in allowed:
            if found == {dimension: 1}:
                return dimension
        if found:
            context.fault(place, f"{' or '.join(allowed)} is wanted here")
            return ""
    return ""


READERS: dict[str, Callable[[ReadContext, Mapping[str, Any], str], Read]] = {
    "segments": _by_segments, "points": _by_points, "sine": _by_sine, "harmonics": _by_harmonics}  # fmt: skip
"""What reads a program, by the key that says it."""
