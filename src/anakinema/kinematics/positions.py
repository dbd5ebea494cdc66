"""Named positions: which coordinates fix where a mechanism stands, and the way from where it stands to a position."""

import math

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document.changes import Set, changed
from ..document.model import Document, Position
from ..errors import located
from ..formatting import in_document_units
from .modes import placed
from .motion import Motion
from .simulation import simulate

STEPS = 60
FIGURES = 9
"""Decimals of a position as it is written (document units)."""
FRAMES = 16
"""Pictures of one way of a wiggle."""


def fixing(motion: Motion) -> tuple[str, ...]:
    """The joints whose coordinates together fix where the mechanism stands: those that are driven, then those that are
    left undriven."""
    driven = [driver.joint for driver in motion.drive.drivers]
    held = [joint for joint in motion.drive.held if joint in motion.system.coordinates]
    return tuple(dict.fromkeys([*driven, *held]))


def way_to(motion: Motion, q: Array, position: Position, work: CancellationToken | None = None) -> Motion:
    """The motion from where the parts stand, q (P, 3: document lengths, rad), to a position: its joints go there
    together, the others follow. Raises `DocumentError` where the mechanism can't be moved so."""
    document = motion.document
    for name in position.drivers.keys() - document.drivers.keys():
        raise located(f"positions.{position.id}", f"there is no driver '{name}' that could lead there")
    values = {document.drivers[name].joint: value for name, value in position.drivers.items()} | dict(position.joints)
    if not values:
        raise located(f"positions.{position.id}", "says nothing of where the mechanism stands")
    drivers = {}
    for number, (joint, value) in enumerate(values.items()):
        column = motion.system.coordinates.index(joint) if joint in motion.system.coordinates else None
        if column is None:
            raise located(f"positions.{position.id}", f"joint '{joint}' is suspended, or there is none; take it back")
        to = in_document_units(value, motion.system.coordinates.dimension(column), document.units)
        drivers[f"way{number}"] = {"joint": joint, "to": to, "duration": "1 s", "steps": STEPS}
    here = placed(document, motion, q)
    return simulate(changed(here, Set(["drivers"], drivers), Set(["checks"], {}), Set(["positions"], {})), work=work)


def to_and_fro(motion: Motion, q: Array, joint: str, work: CancellationToken | None = None) -> list[Array]:
    """Positions (P, 3) on the way of a joint through its freedom from where the parts stand: as far as half a typical
    turn or slide either way, or until it is stopped, and back. Raises `DocumentError` where nothing leaves it free, or
    there is no such joint."""
    coordinates = motion.system.coordinates
    if joint not in coordinates:
        raise located(f"joints.{joint}", "has no coordinate, or is suspended; there is nothing to wiggle")
    column = coordinates.index(joint)
    limits = motion.document.joints[joint].limits
    reach = math.pi / 4 if coordinates.dimension(column) == "angle" else motion.system.scale / 3
    here = float(motion.posed(q, np.zeros(len(coordinates.ids)))[column])
    low = here - reach if limits.min is None else max(here - reach, limits.min)
    high = here + reach if limits.max is None else min(here + reach, limits.max)
    frames: list[Array] = []
    for end in (high, low):
        if abs(end - here) > 1e-9:
            found = way_to(motion, q, Position("", {}, {joint: end}), work)
            there = list(found.positions(np.linspace(0.0, found.path.t1, FRAMES)))
            frames += [*there, *reversed(there)]
    return frames


def stands_at(document: Document, motion: Motion, coordinates: Array, by_hand: bool) -> dict[str, dict[str, float]]:
    """Where the mechanism stands, as a position is written: by its drivers where they alone lead there, else by the
    joints that fix it. `coordinates` (C,) are in core units. What stands at a limit is written as standing within it,
    however its figures are rounded."""
    names = fixing(motion)
    values = {}
    for joint in names:
        column = motion.system.coordinates.index(joint)
        dimension = motion.system.coordinates.dimension(column)
        values[joint] = round(in_document_units(float(coordinates[column]), dimension, document.units), FIGURES)
        limits = document.joints[joint].limits
        for way, end in ((1, limits.min), (-1, limits.max)):
            there = in_document_units(end, dimension, document.units) if end is not None else way * -math.inf
            if way * values[joint] < way * there:
                values[joint] = way * math.ceil(way * there * 10**FIGURES) / 10**FIGURES
    driven = {driver.joint: driver.id for driver in motion.drive.drivers}
    if driven and not by_hand and set(names) == set(driven):
        return {"drivers": {driven[joint]: value for joint, value in values.items()}}
    return {"joints": values}
