"""How a mechanism behaves: linkage class, time ratio, dwells, mechanical advantage, instantaneous centres."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from ..arrays import Array
from ..document.model import Document, Joint
from ..kinematics.extremes import grid
from ..kinematics.motion import Motion, State

STILL = 0.005
"""Share of its travel within which a coordinate counts as dwelling."""
LONG = 0.06
"""Share of the motion from which standing still counts as a dwell."""


@dataclass(frozen=True)
class Linkage:
    """A loop of four pinned links: its parts from the fixed one (or the first) on, their lengths (document lengths)
    and what it is."""

    parts: tuple[str, str, str, str]
    lengths: tuple[float, float, float, float]
    kind: str


def linkages(document: Document) -> list[Linkage]:
    """The loops of four parts and four revolute joints, each classed by Grashof's rule.

    With s + l < p + q (shortest and longest against the other two) the shortest link turns fully against all others:
    fixed it makes a drag link, next to the fixed one a crank-rocker, opposite a double rocker. With equality the links
    can lie in line (change point); else no link turns fully. (F. Grashof 1883, attribution from memory.)
    """
    pins: dict[frozenset[str], list[Joint]] = {}
    for joint in document.active_joints.values():
        if joint.type == "revolute":
            pins.setdefault(frozenset((joint.a.part, joint.b.part)), []).append(joint)
    beside: dict[str, set[str]] = {}
    for pair in pins:
        one, two = pair
        beside.setdefault(one, set()).add(two)
        beside.setdefault(two, set()).add(one)
    found: dict[frozenset[str], Linkage] = {}
    for start in [part for part in document.parts if part in beside]:
        for one, two in combinations(sorted(beside[start]), 2):
            for far in sorted((beside[one] & beside[two]) - {start}):
                parts = (start, one, far, two)
                if frozenset(parts) in found or (document.parts[one].fixed and document.parts[two].fixed):
                    continue
                ring = (start, one, far, two, start)
                joints = [pins[frozenset(ring[i : i + 2])][0] for i in range(4)]
                a, b, c, d = (_length(document, part, joints[i - 1], joints[i]) for i, part in enumerate(parts))
                if min(a, b, c, d) > 0:
                    kind = grashof(a, b, c, d, grounded=document.parts[start].fixed)
                    found[frozenset(parts)] = Linkage(parts, (a, b, c, d), kind)
    return list(found.values())


def grashof(ground: float, one: float, opposite: float, two: float, grounded: bool = True) -> str:
    """The class of a four-bar by its link lengths in order round the loop.

    >>> grashof(100, 40, 120, 80)
    'crank-rocker'
    """
    lengths = (ground, one, opposite, two)
    short, long = min(lengths), max(lengths)
    others = sum(lengths) - short - long
    if abs(short + long - others) <= 1e-9 * sum(lengths):
        return "change-point four-bar"
    if short + long > others:
        return "double rocker, no link turns fully"
    if not grounded:
        return "four-bar whose shortest link turns fully"
    if short == ground:
        return "drag link"
    return "double rocker, its coupler turns fully" if short == opposite else "crank-rocker"


def _length(document: Document, part: str, one: Joint, two: Joint) -> float:
    points = document.parts[part].points
    ends = [complex(*points[(joint.a if joint.a.part == part else joint.b).point]) for joint in (one, two)]
    return abs(ends[0] - ends[1])


@dataclass(frozen=True)
class Dwell:
    """A stretch of the motion in which a coordinate stands nearly still: from and to (s), and its value there."""

    start: float
    stop: float
    value: float


def dwells(motion: Motion, joint: str, still: float = STILL, long: float = LONG) -> list[Dwell]:
    """The stretches in which a joint's coordinate stays within `still` of its travel for at least `long` of the motion.

    Found on a dense grid of times, so their ends are as exact as that grid (about a hundredth of a motion's node).
    """
    column = motion.system.coordinates.index(joint)
    nodes = grid(motion)
    t = np.unique(np.concatenate([nodes, np.linspace(0.0, motion.path.t1, 721)]))
    values = motion.at(t).coordinates[:, column]
    travel = float(np.ptp(values))
    if travel <= 1e-12 or t[-1] == 0.0:
        return []
    found: list[Dwell] = []
    first = 0
    while first < t.size - 1:
        run = np.maximum.accumulate(values[first:]) - np.minimum.accumulate(values[first:])
        last = first + int(np.searchsorted(run, still * travel, side="right")) - 1
        if t[last] - t[first] >= long * t[-1]:
            found.append(Dwell(float(t[first]), float(t[last]), float(values[first : last + 1].mean())))
            first = last + 1
        else:
            first += 1
    return found


def time_ratio(motion: Motion, joint: str) -> float | None:
    """The slower over the faster of the two strokes of a coordinate that goes out and comes back in one motion (≥ 1);
    None where it doesn't end where it began, or has other than two turning points."""
    column = motion.system.coordinates.index(joint)
    ends = motion.at(np.array([0.0, motion.path.t1])).coordinates[:, column]
    found = motion.extremes
    travel = float(found.high[column] - found.low[column])
    if travel <= 1e-12 or abs(ends[1] - ends[0]) > 1e-6 * travel:
        return None
    t = grid(motion)
    rates = motion.at(t).rates[:, column]
    signs = np.sign(rates[np.abs(rates) > 1e-6 * np.abs(rates).max()])
    if np.count_nonzero(np.diff(signs)) + (signs[0] != signs[-1]) > 2:
        return None
    way = abs(float(found.high_t[column] - found.low_t[column]))
    back = motion.path.t1 - way
    return max(way, back) / min(way, back) if min(way, back) > 0 else None


def mechanical_advantage(state: State, driver: int, joint: int) -> Array:
    """(S,) force or torque at a joint for each unit at the driver, by the balance of power: driver's rate over the
    joint's. Infinite where the joint stands still."""
    with np.errstate(divide="ignore"):
        gain: Array = np.abs(state.rates[:, driver] / state.rates[:, joint])
    return gain


def instant_center(state: State, step: int, one: int, two: int) -> complex | None:
    """The point about which body `one` turns against body `two` at a step (document lengths); None where they don't
    turn against each other. v₁ + iω₁(z − z₁) = v₂ + iω₂(z − z₂) solved for z."""
    z = [complex(state.q[step, body, 0], state.q[step, body, 1]) for body in (one, two)]
    v = [complex(state.v[step, body, 0], state.v[step, body, 1]) for body in (one, two)]
    w = [float(state.v[step, body, 2]) for body in (one, two)]
    turning = w[0] - w[1]
    if abs(turning) <= 1e-9 * max(abs(w[0]), abs(w[1]), 1e-12):
        return None
    return (v[1] - v[0] + 1j * (w[0] * z[0] - w[1] * z[1])) / (1j * turning)
