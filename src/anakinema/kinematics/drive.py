"""What moves the mechanism: the drivers' laws over one common time, and the freedoms that no driver moves.

A freedom that is not driven is named, by the coordinate of a joint where one will do. While drivers move, it follows
with the least movement; where nothing is driven, it is held where it was placed.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document.model import Document, Driver
from ..errors import located
from ..laws import LawPiece, polynomial
from .chains import open_chains, ways_of_body
from .equations import Equations
from .mobility import generic_position, independence, mobility, refuse_enormous
from .reaches import reaches
from .rows import RowSpec
from .stretches import Law
from .system import System

if TYPE_CHECKING:
    from .minimum_norm import MinimumNorm

DEFAULT_DURATION = 1.0
"""Seconds of a motion to which the document gives neither rate nor duration."""


@dataclass(frozen=True)
class Drive:
    """A system with its drivers: `equations` over all unknowns.

    `held` names the freedoms that no driver moves, as joint ids or ``part.angle``, ``part.x``, ``part.y``; `equations`
    holds them, for what is asked at one position.
    """

    system: System
    drivers: tuple[Driver, ...]
    equations: Equations
    held: tuple[str, ...]
    hold: Array
    """Targets of the held freedoms."""
    minimum_norm: "MinimumNorm | None" = None
    """Moves what the drivers leave free with the least movement; None where they leave nothing free, or drive
    nothing."""
    chains: tuple[str, ...] | None = None
    """The freedoms of a mechanism without loops, one by one; None where there are loops."""
    rests: tuple[str, ...] = ()
    """Joints that no driver moves and that go back to their rest by themselves: commanded like drivers, after them."""

    @property
    def commanded(self) -> tuple[str, ...]:
        """The joints whose coordinates are commanded, in the order of the targets."""
        return (*(driver.joint for driver in self.drivers), *self.rests)


def compile_drive(document: Document, system: System, q: Array, work: CancellationToken | None = None) -> Drive:
    """The drive of a document whose assembly is q (P, 3).

    Raises `DocumentError` when a driver's joint is suspended or can't move, or two drivers command the same motion.
    """
    work = work or CancellationToken()
    drivers = tuple(document.drivers.values())
    specs = list(system.constraints.specs)
    for number, driver in enumerate(drivers):
        place = f"drivers.{driver.id}"
        joint = document.joints[driver.joint]
        if joint.suspended:
            raise located(place, f"joint '{joint.id}' is suspended; take it back or remove the driver")
        if document.parts[joint.a.part].fixed and document.parts[joint.b.part].fixed:
            raise located(place, f"both parts of joint '{joint.id}' are fixed; it can't be driven")
        spec = system.coordinates.specs[system.coordinates.index(joint.id)]
        specs.append(replace(spec, owner=place, target=number))
    bodies = len(system.body_ids)
    driven = Equations(specs, system.moving, bodies)
    chains = open_chains(document, system)
    held: list[tuple[str, RowSpec]] = []
    if chains is not None:
        commanded = {driver.joint for driver in drivers}
        held = [(name, spec) for name, spec in chains if name not in commanded]
    elif driven.columns and not (driven.rows == driven.columns and _regular(driven, q, len(drivers))):
        at = generic_position(system.constraints, q, driven, work)
        _refuse_idle_drivers(document, system, specs, drivers, at, work)
        held = _to_hold(document, system, specs, at, work)
    resting = [(name, spec) for name, spec in held if _rest(document, name) is not None]
    held = [(name, spec) for name, spec in held if _rest(document, name) is None]
    specs += [replace(spec, target=len(drivers) + i) for i, (_, spec) in enumerate(resting)]
    if resting:
        driven = Equations(specs, system.moving, bodies)
    minimum_norm = None
    if held and drivers:
        from .minimum_norm import MinimumNorm

        minimum_norm = MinimumNorm(driven, reaches(document, system, q))
    whole = driven
    if held:
        specs += [replace(spec, target=len(drivers) + len(resting) + i) for i, (_, spec) in enumerate(held)]
        whole = Equations(specs, system.moving, bodies)
    hold = Equations([spec for _, spec in held], system.moving, bodies).values(q[None])[0]
    names = tuple(name for name, _ in held)
    freedoms = None if chains is None else tuple(name for name, _ in chains)
    rests = tuple(name for name, _ in resting)
    return Drive(system, drivers, whole, names, hold, minimum_norm, freedoms, rests)


def _rest(document: Document, name: str) -> float | None:
    """Where a freedom goes by itself: the rest of its joint."""
    return document.joints[name].limits.rest if name in document.joints else None


def alike(drive: Drive, document: Document, system: System) -> Drive | None:
    """The drive of a document that differs from that of a drive in numbers only, without looking anew at what is free;
    None where it differs in more, or leaves freedom undriven."""
    before = drive.equations
    one, two = drive.system, system
    if drive.held or drive.rests or one.moving != two.moving or one.coordinates.ids != two.coordinates.ids:
        return None
    drivers = tuple(document.drivers.values())
    specs = list(system.constraints.specs)
    for number, driver in enumerate(drivers):
        spec = system.coordinates.specs[system.coordinates.index(driver.joint)]
        specs.append(replace(spec, owner=f"drivers.{driver.id}", target=number))
    equations = Equations(specs, system.moving, len(system.body_ids))
    shapes = ("bodies", "first", "target")
    if not all(np.array_equal(getattr(equations.table, each), getattr(before.table, each)) for each in shapes):
        return None
    equations.plan = before.plan
    return Drive(system, drivers, equations, (), drive.hold, None, drive.chains)


def _regular(equations: Equations, q: Array, targets: int) -> bool:
    at, none = q.copy(), np.zeros(max(targets, 1))
    # The targets are what the drivers' rows have here: only the Jacobian counts.
    driven = equations.table.target >= 0
    none[equations.table.target[driven]] = equations.values(q[None])[0][driven]
    return equations.settle(at, none, 0 * none, 0 * none)[0] > 1e-9


def _refuse_idle_drivers(
    document: Document,
    system: System,
    specs: Sequence[RowSpec],
    drivers: Sequence[Driver],
    q: Array,
    work: CancellationToken,
) -> None:
    """A driver must command a freedom that is there and that no earlier driver commands."""
    free = mobility(system.constraints, q[None], work).dof
    bodies = len(system.body_ids)
    first = len(system.constraints.specs)
    for number, driver in enumerate(drivers):
        together = Equations(specs[: first + number + 1], system.moving, bodies)
        left = mobility(together, q[None], work).dof
        place = f"drivers.{driver.id}"
        if free == 0:
            raise located(place, f"nothing is free to move: joint '{driver.joint}' is locked by the other joints")
        if left == free - number:  # the row added nothing
            alone = Equations([*specs[:first], specs[first + number]], system.moving, bodies)
            if number and mobility(alone, q[None], work).dof < free:
                others = ", ".join(f"'{other.id}'" for other in drivers[:number])
                raise located(place, f"fights with {others}: together they command one motion twice; remove one")
            raise located(place, f"joint '{driver.joint}' is locked by the other joints; it can't be driven")


def _to_hold(
    document: Document, system: System, specs: Sequence[RowSpec], q: Array, work: CancellationToken
) -> list[tuple[str, RowSpec]]:
    """Freedoms to hold, so that nothing is left undetermined: joint coordinates first, then whole bodies."""
    from scipy import sparse

    bodies = len(system.body_ids)
    base = Equations(specs, system.moving, bodies)
    pairs = sorted(zip(system.coordinates.ids, system.coordinates.specs, strict=True),
                   key=lambda pair: _rest(document, pair[0]) is None)  # what goes to a rest decides first
    candidates = [(joint, replace(spec, owner=f"hold.{joint}")) for joint, spec in pairs]
    for body in system.moving:
        candidates += ways_of_body(system, body)
    trial = Equations([spec for _, spec in candidates], system.moving, bodies)
    refuse_enormous(base.rows + trial.rows, base.columns)
    wanted = np.zeros(max(base.targets, trial.targets))
    given, offered = base.sparse(q, wanted)[1], trial.sparse(q, wanted)[1]
    adds = independence(sparse.vstack((given, offered)), work)[base.rows :]
    return [candidate for candidate, share in zip(candidates, adds, strict=True) if share]


def approach(drive: Drive, placed: Array, start: Array) -> list[Law]:
    """The law that takes the drivers' rows from where they are placed (D,) to the start values (D,)."""
    ways = [polynomial(0.0, 1.0, a, b - a) for a, b in zip(placed.tolist(), start.tolist(), strict=True)]
    return [Law.of(0.0, 1.0, [*ways, *(polynomial(0.0, 1.0, value) for value in drive.hold.tolist())])]


def laws(drive: Drive, timetable: Sequence[Sequence[LawPiece]], turns: Array) -> list[Law]:
    """The drivers' laws by their timetable, cut wherever one of them is: the targets of their rows, which count `turns`
    (D,) less than the coordinates do."""
    ends = sorted({end for pieces in timetable for piece in pieces for end in (piece.start, piece.stop)})
    longest = ends[-1] if ends else DEFAULT_DURATION
    knots = [0.0]
    for end in ends:
        if end > knots[-1] + 1e-12 * longest:
            knots.append(end)
    if len(knots) == 1:
        knots.append(longest)
    still = [polynomial(0.0, longest, value) for value in drive.hold.tolist()]
    at = [0] * len(timetable)
    found = []
    for t0, t1 in pairwise(knots):
        now = []
        for i, pieces in enumerate(timetable):
            while at[i] + 1 < len(pieces) and pieces[at[i]].stop < (t0 + t1) / 2:
                at[i] += 1
            now.append(pieces[at[i]].scaled(offset=-float(turns[i])))
        found.append(Law.of(t0, t1, [*now, *still]))
    return found


def dimensionless(drive: Drive, number: int, value: float) -> float:
    """A coordinate of a commanded joint over the scale, if it is a length."""
    coordinates = drive.system.coordinates
    is_length = coordinates.is_length[coordinates.index(drive.commanded[number])]
    return value / drive.system.scale if is_length else value
