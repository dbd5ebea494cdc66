"""Where a motion can't go on, and why, in words that name the joint."""

import numpy as np

from ..arrays import Array
from ..document.model import Document
from ..formatting import digits_apart, shown
from ..kinds import Dimension
from .drive import Drive
from .equations import DENSE_UP_TO
from .motion import Lost, Motion, Stop
from .path import Path
from .system import System, limits

MOST_TOLD = 6
"""Contacts that are named where none can go on."""


def dead_point(document: Document, system: System, drive: Drive, path: Path, turns: Array, when: str = "") -> Stop:
    """The stop at the end of a path that ended in a dead point."""
    assert path.dead is not None
    number = pushing(drive, path)
    joint = drive.commanded[number]
    who = f"joint '{joint}', on its way to its rest,"
    if number < len(drive.drivers):
        who = f"driver '{drive.drivers[number].id}'"
    targets = path.targets(np.array([path.dead.t]))[0]

    def told(k: int) -> tuple[float, Dimension]:
        column = system.coordinates.index(drive.commanded[k])
        dimension = system.coordinates.dimension(column)
        size = system.scale if dimension == Dimension.LENGTH else 1.0
        return float(targets[k] + turns[column]) * size, dimension

    at, value = shown(*told(number), document.units), told(0)[0]
    if (overlap := path.dead.overlap) is not None:
        one, two = overlap.parts
        deep = shown(overlap.depth, Dimension.LENGTH, document.units)
        text = f"'{one}' and '{two}' overlap by about {deep} where they are placed (contact '{overlap.owner}'): "
        return Stop(path.dead.t, value, "contact", text + "move them apart", overlap.owner)
    if path.dead.contacts:
        some = [_touching(document, owner) for owner in path.dead.contacts[:MOST_TOLD]]
        more = len(path.dead.contacts) - len(some)
        names = ", ".join(some) + (f", and {more} more" if more > 0 else "")
        return Stop(path.dead.t, value, "contact", f"{when}{who} stops at {at}: {names}", path.dead.contacts[0])
    if path.dead.limits:
        held = path.dead.limits[-1]
        text = f"{when}{who} stops at {at}: joint '{held}' is at its limit, and what it pulls can follow no further"
        return Stop(path.dead.t, value, "limit", text, held)
    if drive.minimum_norm is not None and not path.stretches[-1].is_led:
        text = f"{when}{who} stops at {at}: what it pulls can follow no further"
        return Stop(path.dead.t, value, "dead point", text, joint)
    in_line = links_in_line(document, system, path.dead.q)
    cause = f": {in_line[1]}" if in_line else ""
    text = f"{when}{who} stops at {at}, a dead point{cause}"
    return Stop(path.dead.t, value, "dead point", text, in_line[0] if in_line else joint)


def _touching(document: Document, owner: str) -> str:
    """That a contact holds, in words."""
    contact = document.contacts[owner]
    return f"'{contact.a}' is held by '{contact.b}' (contact '{owner}')"


def pushing(drive: Drive, path: Path) -> int:
    """Which of the commanded joints can't go on at the dead point of a path: of those that move the one whose row
    weighs most in the balance of forces that holds there, times its rate."""
    assert path.dead is not None
    law = path.laws[-1]
    rates = np.abs(law.rates(path.dead.t)[: len(drive.commanded)])
    if not rates.any():  # it comes to rest just here
        rates = np.abs(law.targets(np.array([law.t1]))[0] - law.targets(np.array([law.t0]))[0])[: len(drive.commanded)]
    moving = np.flatnonzero(rates > 1e-9 * rates.max(initial=0.0))
    if moving.size < 2 or drive.equations.columns > DENSE_UP_TO:
        return int(moving[0]) if moving.size else 0
    equations = drive.equations
    _, jac = equations.linear(path.dead.q[None], np.zeros((1, equations.targets)))
    balance = np.zeros(equations.rows)
    if equations.rows >= equations.columns:
        balance = np.linalg.svd(jac[0])[0][:, equations.columns - 1]
    weight = np.zeros(len(rates))
    for row, target in enumerate(equations.table.target.tolist()):
        if 0 <= target < len(rates):
            weight[target] = abs(balance[row]) * rates[target]
    return int(np.argmax(weight)) if weight.any() else int(moving[0])


def links_in_line(document: Document, system: System, q: Array) -> tuple[str, str] | None:
    """The joint at which two moving links lie in line or folded at positions q (P, 3), with the words for it."""
    best: tuple[float, str, str] | None = None
    joints = list(document.active_joints.values())
    spots = {
        (joint.id, ref.part): _world(system, document, q, ref.part, ref.point)
        for joint in joints
        for ref in (joint.a, joint.b)
    }
    for joint in joints:
        if not joint.kind.pin or document.parts[joint.a.part].fixed or document.parts[joint.b.part].fixed:
            continue
        here = spots[joint.id, joint.a.part]
        lines = [
            [spots[other, part] - here for other, part in spots if part == side.part and other != joint.id]
            for side in (joint.a, joint.b)
        ]
        for one in lines[0]:
            for two in lines[1]:
                size = float(np.linalg.norm(one) * np.linalg.norm(two))
                if size > 1e-12:
                    sine = abs(float(one[0] * two[1] - one[1] * two[0])) / size
                    if sine < 1e-3 and (best is None or sine < best[0]):
                        text = f"'{joint.a.part}' and '{joint.b.part}' lie in line at joint '{joint.id}'"
                        best = (sine, joint.id, text)
    return (best[1], best[2]) if best else None


def off_edge(motion: Motion, lost: Lost) -> Stop:
    """The stop where a contact runs off its edge."""
    joint = motion.document.joints[lost.joint]
    place = "starts beyond" if lost.t == 0.0 else "runs off"
    text = f"contact '{joint.id}' of '{joint.a}' and '{joint.b}' {place} the end of '{lost.edge}'"
    return Stop(lost.t, lost.driver or 0.0, "contact", text, joint.id)


def _world(system: System, document: Document, q: Array, part: str, point: str) -> Array:
    x, y, angle = q[system.body(part)]
    px, py = np.array(document.parts[part].place(point)) / system.scale
    cos, sin = np.cos(angle), np.sin(angle)
    return np.array([x + cos * px - sin * py, y + sin * px + cos * py])


def first_limit(motion: Motion) -> Stop | None:
    """The first time at which a joint leaves its limits, located between the steps; None when none does."""
    document, system = motion.document, motion.system
    low, high = limits(document, system.coordinates)
    if not (np.isfinite(low) | np.isfinite(high)).any():
        return None
    found = _crossings(motion, low, high)
    if found is None:
        return None
    t, column, edge = found
    joint = system.coordinates.ids[column]
    dimension = system.coordinates.dimension(column)
    bound = low[column] if edge == "min" else high[column]
    bound, slack = float(bound), 1e-9 * float(motion.lengths[column])
    at = shown(bound, dimension, document.units)
    text = f"joint '{joint}' reaches its limit ({edge} {at})"
    if t == 0.0:
        value = float(motion.at(np.array([0.0])).coordinates[0, column])
        digits = digits_apart(value, (bound,), dimension, document.units)
        is_at, at = (shown(each, dimension, document.units, digits) for each in (value, bound))
        text = f"joint '{joint}' starts at {is_at}, outside its limit ({edge} {at})"
    for driver in motion.drive.drivers:  # which end of its way lies outside
        if driver.joint == joint and not driver.follows and driver.program is None:
            for word, end in (("from", driver.start), ("to", driver.stop)):
                if end is not None and not low[column] - slack <= end <= high[column] + slack:
                    lies = shown(end, dimension, document.units, digits_apart(end, (bound,), dimension, document.units))
                    text += f"; '{word}' of driver '{driver.id}', {lies}, lies outside"
    return Stop(t, motion.driver_value(t) or 0.0, "limit", text, joint)


def _crossings(motion: Motion, low: Array, high: Array) -> tuple[float, int, str] | None:
    """The first time at which a coordinate leaves [low, high] (C,): (time, column, ``min`` or ``max``)."""
    t = motion.grid
    found = motion.extremes
    slack = 1e-9 * motion.lengths
    outside = (found.low < low - slack) | (found.high > high + slack)
    if not outside.any():
        return None
    best: tuple[float, int, str] | None = None
    for c in np.flatnonzero(outside):
        extra = [found.low_t[c]] if found.low[c] < low[c] - slack[c] else []
        extra += [found.high_t[c]] if found.high[c] > high[c] + slack[c] else []
        times = np.union1d(t, extra)
        values = motion.at(times).coordinates[:, c]
        beyond = (values < low[c] - slack[c]) | (values > high[c] + slack[c])
        first = int(np.argmax(beyond))
        edge = "min" if values[first] < low[c] else "max"
        bound = low[c] if edge == "min" else high[c]
        at = _cross(motion, int(c), float(bound), float(times[max(first - 1, 0)]), float(times[first]))
        if best is None or at < best[0]:
            best = (at, int(c), edge)
    return best


def _cross(motion: Motion, column: int, bound: float, before: float, after: float) -> float:
    """The time between two at which a coordinate meets a bound, by subdivision in batches; the last one not beyond."""
    for _ in range(14):
        t = np.linspace(before, after, 18)
        side = motion.at(t).coordinates[:, column] - bound
        crossed = np.flatnonzero(np.sign(side[1:]) != np.sign(side[0]))
        if before >= after or side[0] == 0 or not crossed.size:
            break
        before, after = float(t[crossed[0]]), float(t[crossed[0] + 1])
    return before
