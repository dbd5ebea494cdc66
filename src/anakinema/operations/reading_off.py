"""A cam from a motion: the lift that any shape gives by contact, or any linkage, read off as a program."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..arrays import Array
from ..cams import FollowerKind
from ..document.changes import Change, Set
from ..document.model import Document, Joint
from ..document.written import tidy
from ..errors import located
from ..formatting import in_document_units, shown
from ..geometry.shapes import CamOutline
from ..joints import JOINT_TYPES
from ..joints.cam import Cam
from ..kinds import Dimension
from ..kinematics.motion import Motion
from .building import Made, free_name
from .camming import cam_and_follower, nearest_point

COUNTS = (8, 12, 18, 24, 36, 48, 72, 96, 144, 180, 240, 360)
"""Points of a turn that are tried, the fewest that are close enough being taken."""
BETWEEN = 8
"""Places between two points at which it is looked how far the program misses."""
ENOUGH = 1e-9
"""Share of a turn by which a motion may fall short of one."""
CLOSES = 1e-6
"""How far a lift may be from where it began, after a turn (of its size)."""


@dataclass(frozen=True)
class ReadOff:
    """What makes the cam, by how much its program misses the lift at most (core units), and by how many points."""

    made: Made
    error: float
    points: int


def cam_of_motion(motion: Motion, shaft: str, follower: str, tolerance: float) -> ReadOff:
    """The follower's lift over a turn of the shaft in this motion as a program, with the fewest points whose spline
    misses it by no more than a tolerance (core units), and a cam that gives it; contacts of the two are suspended.
    Raises `DocumentError` where the shaft does not turn once, the lift does not come back, or no spline is so close."""
    document = motion.document
    turning, guided, wheel, moved = cam_and_follower(document, shaft, follower)
    if not turning.kind.pin:
        raise located(f"joints.{shaft}", "slides; the lift is read off over a turn")
    begin, lift = _lift(motion, shaft, follower)
    low = float(lift(np.zeros(1))[0])
    units = document.units
    counts = Dimension.ANGLE if guided.kind.pin else Dimension.LENGTH
    best = math.inf
    for count in COUNTS:
        a = np.linspace(0.0, math.tau, count + 1)
        values = lift(a) - low
        values[-1] = values[0]
        error = _missed(lambda x: lift(x) - low, a, values)
        best = min(best, error)
        if error <= tolerance:
            break
    else:
        text = (f"no program of {COUNTS[-1]} points follows this lift within {shown(tolerance, counts, units)}, the "
                f"nearest misses it by {shown(best, counts, units)}; allow so much, and it is smoothed")  # fmt: skip
        raise located(f"joints.{follower}", text)
    program = free_name(document.tree.get("programs", {}), f"{follower}-lift".replace("/", "-"))
    points = [[f"{tidy(round(math.degrees(x), 9))} deg", f"{tidy(in_document_units(y, counts, units))} "
               f"{counts.written(units)}"] for x, y in zip(a.tolist(), values.tolist(), strict=True)]  # fmt: skip
    name = free_name(document.tree.get("joints", {}), Cam.name)
    entry = {"type": Cam.name, "a": shaft, "b": follower, "program": program, "start": f"{begin!r} rad",
             "low": f"{in_document_units(low, counts, units)!r} {counts.written(units)}",
             "follower": _follower(document, turning, guided, moved)}  # fmt: skip
    home = document.home("parts", wheel)
    worn = [*document.entry("parts", wheel).get("shapes", []), {"kind": CamOutline.kind, "joint": name}]
    changes: list[Change] = [Set(("programs", program), {"points": points}), Set(("joints", name), entry),
                             Set((*home, "shapes"), worn), *_suspended(document, wheel, moved)]  # fmt: skip
    return ReadOff(Made(tuple(changes), ("joints", name)), error, count)


def _lift(motion: Motion, shaft: str, follower: str) -> "tuple[float, Any]":
    """The shaft's coordinate at the start, and the follower's by how far the shaft has turned from there."""
    columns = [motion.system.coordinates.index(name) for name in (shaft, follower)]
    t = np.linspace(0.0, motion.path.t1, 4001)
    both = motion.coordinates(t)[:, columns]
    gone = both[:, 0] - both[0, 0]
    sign = 1.0 if gone[-1] >= 0 else -1.0
    if abs(gone[-1]) < math.tau * (1 - ENOUGH) or (np.diff(gone) * sign <= 0).any():
        raise located(f"joints.{shaft}", "does not turn once all round, one way, in this motion; drive it by 360°")

    def lift(a: Array) -> Array:
        wanted = a if sign > 0 else a - math.tau  # what turns back goes through its turn from the other end
        low = np.interp(np.abs(wanted), np.abs(gone), t)
        for _ in range(4):  # by secants between two samples: the shaft goes on steadily there
            off = motion.coordinates(low)[:, columns[0]] - both[0, 0] - wanted
            rate = motion.at(low).rates[:, columns[0]]
            low = np.clip(low - np.where(rate != 0, off / np.where(rate != 0, rate, 1.0), 0.0), 0.0, motion.path.t1)
        found: Array = motion.coordinates(low)[:, columns[1]]
        return found

    ends = lift(np.array([0.0, math.tau]))
    size = float(np.ptp(both[:, 1])) or 1.0
    if abs(ends[1] - ends[0]) > CLOSES * size:
        raise located(f"joints.{follower}", "does not come back to where it was after a turn of the shaft")
    return float(both[0, 0]), lift


def _missed(lift: Any, a: Array, values: Array) -> float:
    """By how much a periodic spline through places misses a lift."""
    from scipy.interpolate import CubicSpline

    spline = CubicSpline(a, values, bc_type="periodic")
    shares = (np.arange(BETWEEN) + 0.5) / BETWEEN
    between = (a[:-1, None] + np.diff(a)[:, None] * shares).ravel()
    return float(np.abs(spline(between) - lift(between)).max())


def _follower(document: Document, turning: Joint, guided: Joint, moved: str) -> dict[str, Any]:
    """What touches: a disc about the point nearest to the shaft, else a flat face square to the guide, else a knife."""
    part = document.parts[moved]
    at, radius = nearest_point(document, part, turning, guided)
    point = f"{moved}.{at}"
    if radius:
        return {"kind": FollowerKind.ROLLER.value, "at": point, "radius": radius}
    if guided.kind.straight:
        carrier = document.parts[guided.a.part]
        way = carrier.pose[2] + guided.values["direction"]
        return {"kind": FollowerKind.FLAT.value, "at": point, "direction": f"{way - part.pose[2] + math.pi / 2!r} rad"}
    return {"kind": FollowerKind.KNIFE.value, "at": point}


def _suspended(document: Document, one: str, two: str) -> list[Change]:
    """Takes out what held the two parts together by their outlines."""
    found: list[Change] = []
    pair = {one, two}
    for name, contact in document.active_contacts.items():
        if any(pair == {a, b} for a in contact.sides[0] for b in contact.sides[1]):
            found.append(Set((*document.home("joints", name), "suspended"), True))
    for name, joint in document.active_joints.items():
        if pair == {joint.a.part, joint.b.part} and JOINT_TYPES[joint.type].of_edges:
            found.append(Set((*document.home("joints", name), "suspended"), True))
    return found
