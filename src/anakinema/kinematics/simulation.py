"""From a document to its motion: assembled, followed along one branch, stopped where it can't go on."""

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..disjoint_set import DisjointSet
from ..document.meshes import uneven_planets
from ..document.model import Coupling, Document, Joint
from ..errors import DocumentError, Fault
from .assembly import assemble, open_rows
from .contacts import lost_contacts
from .drive import Drive, approach, compile_drive, laws
from .fitting import fitted
from .follow import follow
from .met import cut, met_as_driven, met_on_the_way
from .mobility import Mobility, generic_position, mobility
from .motion import Motion
from .path import Path
from .stops import dead_point, first_limit, off_edge
from .system import System, compile_system
from .timetable import timetable
from .unilateral import Unilaterals, limits_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from .pushing import Pusher
    from .stretches import Law

MOST_AMONG_CONTACTS = 1_000
"""Turns of a driver that are followed where parts touch: each may have many events."""
MAX_CELLS, BESIDES = 6_000_000, 722
"""Positions times bodies that a motion may hold: about 1 GB with rates, and ten seconds. Besides its steps there are
positions to look for dwells and turning points at, about so many."""


def simulate(document: Document, steps: int | None = None, work: CancellationToken | None = None) -> Motion:
    """The motion of a document: `steps` steps, else as many as the driver with the most says.

    Raises `DocumentError` when joints can't close, when the document is empty or when drivers make no sense, and
    `Cancelled` when the work is no longer wanted.
    """
    work = work or CancellationToken()
    if not document.parts:
        raise DocumentError([Fault("parts", "there are no parts; add at least one")])
    steps = steps if steps is not None else max((driver.steps for driver in document.drivers.values()), default=0)
    if (steps + BESIDES) * len(document.parts) > MAX_CELLS:
        text = f"{steps} steps of {len(document.parts)} parts are too many for one motion; ask for fewer steps"
        raise DocumentError([Fault("drivers", text)])
    system = compile_system(document)
    q = put_together(document, system, work)
    drive = compile_drive(document, system, q, work)
    raw = system.coordinates.values(q[None])[0]
    turns = turns_counted(document, system, raw)
    return _run(document, system, drive, q, raw, turns, steps, work)


def put_together(document: Document, system: System, work: CancellationToken | None = None) -> Array:
    """The assembly nearest to the poses (P, 3), dimensionless, in which the joints keep their limits if there is one.
    Raises `DocumentError` naming the joints left open."""
    work = work or CancellationToken()
    return fitted(document, system, assembled(document, system, work), _starts(document, system), work)


def _starts(document: Document, system: System) -> dict[str, float]:
    """Where the joints that are driven begin, as far as that is said (dimensionless)."""
    found = {}
    for driver in document.drivers.values():
        if driver.start is not None and driver.joint in system.coordinates:
            is_length = system.coordinates.is_length[system.coordinates.index(driver.joint)]
            found[driver.joint] = driver.start / system.scale if is_length else driver.start
    return found


def assembled(document: Document, system: System, work: CancellationToken | None = None) -> Array:
    """The assembly nearest to the poses (P, 3), dimensionless. Raises `DocumentError` naming the joints left open."""
    result = assemble(system.constraints, system.placed, np.zeros(1), work=work)
    stuck = open_rows(system.idle, system.placed, np.zeros(1))
    open_joints = {**stuck, **result.open}
    if open_joints:
        unit = document.units.length
        owners: dict[str, Joint | Coupling] = {**document.joints, **document.couplings}
        groups = {owner: gap for owner, gap in open_joints.items() if owner.startswith("groups.")}
        faults = [
            Fault(owner, f"its parts can't keep their places by about {gap * system.scale:.4g} {unit}: a joint within "
                  "it, or around it, pulls them apart")
            for owner, gap in groups.items()
        ]
        faults += [
            Fault(
                f"joints.{owner}",
                f"can't close: '{owners[owner].a}' and '{owners[owner].b}' stay open by about "
                f"{gap * system.scale:.4g} {unit} "
                + (
                    "where they are fixed; move one of the fixed parts, or let it go"
                    if owner in stuck
                    else "at the nearest assembly; check the lengths around this loop"
                ),
            )
            for owner, gap in sorted(open_joints.items(), key=lambda item: -item[1])
            if owner not in groups
        ]
        known = [Fault(f"parts.{part}", text) for part, text in uneven_planets(document)]
        raise DocumentError([*known, *faults])
    return result.q


def turns_counted(document: Document, system: System, raw: Array) -> Array:
    """(C,) whole turns to add to each angle: to lie within (−π, π], or within its limits where one turn does."""
    turns = np.zeros(raw.size)
    for i, joint in enumerate(system.coordinates.ids):
        if system.coordinates.is_length[i]:
            continue
        half = math.pi + 1e-9  # rounding does not decide between a half turn forward and one back
        wrapped = half - (half - raw[i]) % (2 * math.pi)
        limits = document.joints[joint].limits
        low = -math.inf if limits.min is None else limits.min
        high = math.inf if limits.max is None else limits.max
        shifts = sorted((0, 1, -1), key=lambda k: _outside(wrapped + 2 * math.pi * k, low, high))
        turns[i] = wrapped + 2 * math.pi * shifts[0] - raw[i]
    return turns


def _outside(value: float, low: float, high: float) -> float:
    return max(low - value, value - high, 1e-9) - 1e-9


def _run(
    document: Document,
    system: System,
    drive: Drive,
    q: Array,
    raw: Array,
    turns: Array,
    steps: int,
    work: CancellationToken,
) -> Motion:
    columns = [system.coordinates.index(joint) for joint in drive.commanded]
    placed = raw[columns]
    table = timetable(document, drive, (raw + turns)[columns])
    start = np.array([pieces[0].at(0.0) for pieces in table])
    goal = start - turns[columns]
    for i, column in enumerate(columns):
        if not system.coordinates.is_length[column]:  # the nearest of the turns that look alike
            goal[i] = placed[i] + math.remainder(goal[i] - placed[i], 2 * math.pi)
            turns[column] = start[i] - goal[i]
    to_go = np.abs(goal - placed) > 1e-12
    way_there = None
    rests = goal[len(drive.drivers) :]
    if to_go.any():
        there = approach(drive, np.where(to_go, placed, goal), goal)
        limits = limits_of(document, drive, turns)
        pusher = _pusher(document, drive, there, limits, rests, q, work)
        path = way_there = follow(drive, there, q, work, limits, None, pusher)
        if path.dead is not None:
            early = dead_point(document, system, drive, path, turns, "on the way to its start, ")
            free = _mobility(document, system, drive, path, work)
            return Motion(document, system, drive, path.cut(0.0), turns, 0, 0.0, early, free)
        q = path.at(np.array([1.0]))[0][0]
        again = turns_counted(document, system, system.coordinates.values(q[None])[0])
        again[columns] = turns[columns]
        turns = again
    runs = laws(drive, table, turns[columns])
    runs = cut(runs, met_as_driven(document, drive, runs))
    planned = runs[-1].t1
    limits = limits_of(document, drive, turns)
    path = follow(drive, runs, q, work, limits, way_there, _pusher(document, drive, runs, limits, rests, q, work))
    met = met_on_the_way(document, drive, path)
    if met.size:  # known only now
        path = follow(drive, cut(runs, met), q, work, limits, way_there,
                      _pusher(document, drive, runs, limits, rests, q, work))  # fmt: skip
    stop = dead_point(document, system, drive, path, turns) if path.dead is not None else None
    free = _mobility(document, system, drive, path, work)
    motion = Motion(document, system, drive, path, turns, steps, planned, stop, free)
    work.check()
    return stopped(motion)


def _pusher(
    document: Document, drive: Drive, runs: "Sequence[Law]", limits: Unilaterals, rests: Array, q: Array,
    work: CancellationToken,
) -> "Pusher | None":
    """What follows drivers among contacts, where there are any. Raises `DocumentError` for a motion of so many turns
    that their events would never end."""
    if not document.active_contacts:
        return None
    ways = np.array([np.ptp(law.targets(np.array([law.t0, law.t1])), axis=0)[: len(drive.commanded)] for law in runs])
    columns = [drive.system.coordinates.index(joint) for joint in drive.commanded]
    turned = ways[:, ~drive.system.coordinates.is_length[columns]].sum(axis=0)
    if turned.size and float(turned.max()) > math.tau * MOST_AMONG_CONTACTS:
        text = f"the motion is longer than {MOST_AMONG_CONTACTS:,} turns, too long among contacts; shorten its range"
        raise DocumentError([Fault("drivers", text)])
    from .pushing import Pusher
    from .surroundings import Surroundings
    from .yielding import Yielding

    around = Surroundings(document, drive.system, limits, q)
    yielding = Yielding(document, drive, around.reaches)
    yielding.place_rests(q)
    return Pusher(around, yielding, rests, work)


def stopped(motion: Motion) -> Motion:
    """A motion as far as limits and the ends of edges let it go."""
    document, path = motion.document, motion.path
    lost = lost_contacts(motion)
    stops = [off_edge(motion, entry) for entry in lost if document.joints[entry.joint].at_end == "stop"]
    stops += [limit] if (limit := first_limit(motion)) is not None else []
    first = min(stops, key=lambda found: found.t, default=None)
    left = tuple(entry for entry in lost if document.joints[entry.joint].at_end == "lost")
    if first is not None:
        left = tuple(entry for entry in left if entry.t <= first.t)
        return replace(motion, path=path.cut(first.t), stop=first, lost=left)
    return replace(motion, lost=left) if left else motion


def _mobility(document: Document, system: System, drive: Drive, path: Path, work: CancellationToken) -> Mobility:
    """The mobility along a path; a joint between fixed parts is redundant, for it can hold nothing. The Grübler count
    leaves out all joints within one rigid body, fixed or grouped alike."""
    constraints = system.constraints
    ties = DisjointSet(document.rigid)
    within = {joint.id for joint in document.active_joints.values()
              if ties.head(joint.a.part) == ties.head(joint.b.part)}  # fmt: skip
    count = constraints.columns - sum(owner not in within for owner in constraints.owners)
    if drive.chains is not None:
        found = Mobility(len(drive.chains), (), count)
    elif not drive.held and drive.equations.rows == drive.equations.columns:
        # The drivers' rows made the Jacobian regular and square, so every joint row is independent.
        found = Mobility(count, (), count)
    else:
        span = path.t1
        q = path.positions(np.array([0.0, 0.381966 * span, 0.7236 * span]))
        places = np.concatenate((q, generic_position(constraints, q[0], None, work)[None]))
        written = list(document.tree.get("joints", {}))
        found = replace(mobility(constraints, places, work, written), count=count)
    if not system.idle.rows:
        return found
    idle = dict.fromkeys((*system.idle.owners, *found.redundant))
    return replace(found, redundant=tuple(owner for owner in system.owners if owner in idle))
