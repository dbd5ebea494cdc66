"""When each driver moves, and how: the pieces of every driver's law over one common time."""

from collections.abc import Mapping, Sequence
from graphlib import TopologicalSorter

import numpy as np

from ..arrays import Array
from ..document.expressions import ExpressionError, coerce, evaluate
from ..document.model import Document, Driver
from ..document.read_study import leaders
from ..document.units import Quantity
from ..errors import located
from ..kinds import Dimension, Units
from ..laws import LATEST, MOST_PIECES, SOONEST, LawPiece, cut_at_rests, fitted, polynomial, risen
from .drive import DEFAULT_DURATION, Drive, dimensionless

Pieces = list[LawPiece]


def timetable(document: Document, drive: Drive, placed: Array) -> list[Pieces]:
    """The pieces of each driver's coordinate (dimensionless, whole turns counted) over the whole motion. `placed` (D,)
    is where the drivers stand that are told no start.

    Drivers begin together, or when they are told to; one that has arrived waits. One with neither rate nor duration
    takes as long as the longest of the others, or one second. Raises `DocumentError` where a follower can't follow.
    """
    drivers = {driver.id: (i, driver) for i, driver in enumerate(drive.drivers)}
    waits = {name: ({driver.after} | leaders(driver)) & drivers.keys() for name, (_, driver) in drivers.items()}
    order = list(TopologicalSorter(waits).static_order())
    own = {name: _once(document.units, drive, *drivers[name], float(placed[drivers[name][0]])) for name in order
           if not drivers[name][1].follows}  # fmt: skip
    longest = max((pieces[-1].stop for pieces in own.values() if pieces), default=0.0) or DEFAULT_DURATION
    ends: dict[str, float] = {}
    found: dict[str, Pieces] = {}
    for name in order:
        number, driver = drivers[name]
        if driver.follows:
            continue
        pieces = own[name] or _in_time(drive, number, driver, float(placed[number]), longest)
        begin = driver.at + ends.get(driver.after, 0.0)
        if begin < 0.0:
            raise located(f"drivers.{name}.at", f"it would begin {-begin:g} s before the motion does")
        found[name] = [piece.scaled(start=begin) for piece in _again(driver, pieces)]
        ends[name] = found[name][-1].stop
    end = max(ends.values(), default=DEFAULT_DURATION)
    found = {name: _held(pieces, end) for name, pieces in found.items()}
    for name in order:
        if name not in found:
            found[name] = _following(document, drive, *drivers[name], found, end)
    table = [found[driver.id] for driver in drive.drivers]
    for number, joint in enumerate(drive.rests, len(table)):
        rest = document.joints[joint].limits.rest
        assert rest is not None
        table.append([polynomial(0.0, end, dimensionless(drive, number, rest))])
    return table


def _once(units: Units, drive: Drive, number: int, driver: Driver, placed: float) -> Pieces:
    """One go of a driver, from time 0; nothing where its time is not said."""
    start = placed if driver.start is None else dimensionless(drive, number, driver.start)
    if driver.program is not None:
        unit = 1.0
        if not driver.program.lift and _turns(drive, number):
            unit = 1.0 / Dimension.ANGLE.per_core(units)
        by = unit * dimensionless(drive, number, 1.0)
        return cut_at_rests(piece.scaled(by=by, offset=start) for piece in driver.program.pieces)
    if driver.duration is not None:
        return _in_time(drive, number, driver, placed, driver.duration)
    if driver.rate is None:
        return []
    span = abs(dimensionless(drive, number, driver.stop) - start)
    time = span / dimensionless(drive, number, driver.rate)
    if time > LATEST:
        raise located(f"drivers.{driver.id}.rate", f"it would take {time:g} s, which is too long to be meant")
    if time >= SOONEST:
        return _in_time(drive, number, driver, placed, time)
    if span > SOONEST:
        raise located(f"drivers.{driver.id}.rate", f"it would arrive within {time:g} s, which is too soon to be meant")
    return [polynomial(0.0, 0.0, start)]  # it is there


def _in_time(drive: Drive, number: int, driver: Driver, placed: float, time: float) -> Pieces:
    start = placed if driver.start is None else dimensionless(drive, number, driver.start)
    return risen(driver.law, 0.0, time, start, dimensionless(drive, number, driver.stop))


def _turns(drive: Drive, number: int) -> bool:
    coordinates = drive.system.coordinates
    return not coordinates.is_length[coordinates.index(drive.commanded[number])]


def _again(driver: Driver, pieces: Pieces) -> Pieces:
    """All goes of a driver: back the same way, and that so many times. What doesn't come back goes on from where it
    is."""
    length = pieces[-1].stop
    if driver.back and length > 0.0:
        pieces = [*pieces, *(piece.turned_back(2 * length) for piece in reversed(pieces))]
        length *= 2
    if driver.times == 1 or length == 0.0:
        return pieces
    if driver.times * len(pieces) > MOST_PIECES:
        raise located(f"drivers.{driver.id}.times", f"makes more than {MOST_PIECES:,} pieces of motion; fewer will do")
    rise = pieces[-1].at(length) - pieces[0].at(0.0)
    return [piece.scaled(start=k * length, offset=k * rise) for k in range(driver.times) for piece in pieces]


def _held(pieces: Pieces, end: float) -> Pieces:
    """With what comes before and after: it waits."""
    first, last = pieces[0], pieces[-1]
    found = list(pieces)
    if first.start > 0.0:
        found.insert(0, polynomial(0.0, first.start, first.at(first.start)))
    if last.stop < end:
        found.append(polynomial(last.stop, end, last.at(last.stop)))
    return found


def _following(
    document: Document, drive: Drive, number: int, driver: Driver, others: Mapping[str, Pieces], end: float
) -> Pieces:
    """A coordinate that is an expression of others."""
    units = document.units
    given = document.quantities
    ahead = sorted(leaders(driver) & others.keys())
    scales, dimensions = {}, {}
    for name in ahead:
        other = next(i for i, each in enumerate(drive.drivers) if each.id == name)
        dimensions[name] = units.unit(Dimension.ANGLE if _turns(drive, other) else Dimension.LENGTH)
        scales[name] = 1.0 / dimensionless(drive, other, 1.0)
    wanted = Dimension.ANGLE if _turns(drive, number) else Dimension.LENGTH
    to = dimensionless(drive, number, 1.0)

    def at(t: float) -> float:
        for name in ahead:
            given[name] = Quantity(scales[name] * _value(others[name], t), {dimensions[name]: 1})
        return coerce(evaluate(driver.follows, given, units), wanted, units) * to

    knots = [piece.stop for name in ahead for piece in others[name]]
    try:
        return cut_at_rests(fitted(at, 0.0, end, knots))
    except ExpressionError as error:
        raise located(f"drivers.{driver.id}.follows", str(error)) from error
    except ValueError as error:
        raise located(f"drivers.{driver.id}.follows", f"'{driver.follows}' {error}") from error


def _value(pieces: Sequence[LawPiece], t: float) -> float:
    number = int(np.searchsorted([piece.stop for piece in pieces[:-1]], t))
    return pieces[number].at(t)
