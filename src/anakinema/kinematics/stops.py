"""Where a motion can't go on, and why, in words that name the joint."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from ..arrays import Array
from ..document.model import Document
from ..words import shown
from .contacts import Lost
from .drive import Drive
from .extremes import crossings
from .path import Path
from .system import System, limits

if TYPE_CHECKING:
    from .motion import Motion


@dataclass(frozen=True)
class Stop:
    """The end of a motion before its time: when, the first driver's coordinate there (core units), why."""

    t: float
    driver: float
    reason: Literal["dead point", "limit", "contact"]
    text: str
    joint: str


def dead_point(document: Document, system: System, drive: Drive, path: Path, turns: Array, when: str = "") -> Stop:
    """The stop at the end of a path that ended in a dead point."""
    assert path.dead is not None
    joint = drive.drivers[0].joint
    column = system.coordinates.index(joint)
    value = float(path.targets(np.array([path.dead.t]))[0, 0] + turns[column])
    is_length = bool(system.coordinates.is_length[column])
    value *= system.scale if is_length else 1.0
    at = shown(value, "length" if is_length else "angle", document.units)
    in_line = links_in_line(document, system, path.dead.q)
    cause = f": {in_line[1]}" if in_line else ""
    text = f"{when}driver '{drive.drivers[0].id}' stops at {at}, a dead point{cause}"
    return Stop(path.dead.t, value, "dead point", text, in_line[0] if in_line else joint)


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
        if joint.type != "revolute" or document.parts[joint.a.part].fixed or document.parts[joint.b.part].fixed:
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


def off_edge(motion: "Motion", lost: Lost) -> Stop:
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


def first_limit(motion: "Motion") -> Stop | None:
    """The first time at which a joint leaves its limits, located between the steps; None when none does."""
    document, system = motion.document, motion.system
    low, high = limits(document, system.coordinates)
    if not (np.isfinite(low) | np.isfinite(high)).any():
        return None
    found = crossings(motion, low, high)
    if found is None:
        return None
    t, column, edge = found
    joint = system.coordinates.ids[column]
    is_length = bool(system.coordinates.is_length[column])
    bound = low[column] if edge == "min" else high[column]
    at = shown(float(bound), "length" if is_length else "angle", document.units)
    text = f"joint '{joint}' reaches its limit ({edge} {at})"
    if t == 0.0:
        value = float(motion.at(np.array([0.0])).coordinates[0, column])
        is_at = shown(value, "length" if is_length else "angle", document.units)
        text = f"joint '{joint}' starts at {is_at}, outside its limit ({edge} {at})"
    return Stop(t, motion.driver_value(t) or 0.0, "limit", text, joint)
