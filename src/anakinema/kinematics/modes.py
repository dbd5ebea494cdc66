"""The distinct ways in which the same parts can be put together (circuits and branches) at one driver position."""

import math
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..document.editing import edited
from ..document.model import Document
from .assembly import assemble
from .motion import Motion

STARTS = 80
APART = 1e-5
"""Least difference of two configurations (typical lengths or rad)."""


@dataclass(frozen=True)
class Mode:
    """A configuration: positions (P, 3: document lengths, rad) at the start of the motion."""

    q: Array


def modes(motion: Motion) -> list[Mode]:
    """The configurations at the start of a motion, with its drivers where they begin and what is held in place; that of
    the motion first, the others by how far they lie from it.

    Looked for by closing the joints from many turned placements (always the same ones), so that a configuration into
    which few placements lead could be missed; a four-bar's two and a six-bar's six are found.
    """
    drive, system = motion.drive, motion.system
    here = motion.path.positions(np.zeros(1))[0]
    targets = motion.path.laws[0].targets(np.array([motion.path.laws[0].t0]))[0]
    random = np.random.default_rng(2024)
    found = [here]
    for _ in range(STARTS):
        start = here.copy()
        start[system.constraints.unknown, 2] += random.uniform(-math.pi, math.pi, len(system.constraints.unknown))
        start[system.constraints.unknown, :2] += random.uniform(-0.7, 0.7, (len(system.constraints.unknown), 2))
        start[_driven(motion)] = here[_driven(motion)]
        made = assemble(drive.equations, start, targets, restarts=False)
        if not made.open and all(_away(made.q, other) > APART for other in found):
            found.append(made.q)
    found[1:] = sorted(found[1:], key=lambda q: _away(q, here))
    return [Mode(q * system.size) for q in found]


def _driven(motion: Motion) -> list[int]:
    """Bodies that the drivers place against the fixed ones: they stand alike in every mode."""
    document, system = motion.document, motion.system
    joints = [document.joints[driver.joint] for driver in motion.drive.drivers]
    return [
        system.body(joint.b.part) for joint in joints if document.parts[joint.a.part].fixed and joint.type == "revolute"
    ]


def _away(one: Array, two: Array) -> float:
    gap = one - two
    gap[:, 2] = (gap[:, 2] + math.pi) % (2 * math.pi) - math.pi
    return float(np.abs(gap).max())


def placed(document: Document, motion: Motion, q: Array) -> Document:
    """The document with its moving parts roughly placed at positions q (P, 3: document lengths, rad): it then assembles
    into that configuration. Numbers are rounded to a millionth of a unit."""
    turn = math.degrees(1.0) if document.units.angle == "deg" else 1.0
    parts = dict(document.tree["parts"])
    for part, (x, y, angle) in zip(motion.system.body_ids, q.tolist(), strict=True):
        if part and not document.parts[part].fixed:
            degrees = math.remainder(angle, 2 * math.pi) * turn
            parts[part] = {**parts[part], "pose": [round(x, 6), round(y, 6), round(degrees, 6)]}
    return edited(document, ["parts"], parts)
