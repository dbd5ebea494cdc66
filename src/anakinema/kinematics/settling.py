"""Rests while nothing is driven: where joints with a rest go when the hand moves a mechanism, or lets go of it."""

from dataclasses import replace

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document.model import Document
from .drive import compile_drive
from .pushing import Pusher
from .stretches import Law
from .surroundings import Surroundings
from .system import System
from .yielding import Yielding

MOST = 30
"""Falls that follow each other at most."""


class Settling:
    """Lets rests have their way, as far as contacts and limits allow, from where a mechanism stands."""

    def __init__(self, document: Document, system: System, around: Surroundings, q: Array, coordinates: Array):
        """`q` (P, 3) is dimensionless, `coordinates` (C,) what the joint coordinates are there in core units."""
        bare = replace(document, drivers={})
        drive = compile_drive(bare, system, q)
        yielding = Yielding(bare, drive, around.reaches)
        yielding.place_rests(q)
        columns = [system.coordinates.index(joint) for joint in drive.rests]
        sizes = np.where(system.coordinates.is_length, system.scale, 1.0)
        turns = coordinates / sizes - system.coordinates.values(q[None])[0]
        goal = [document.joints[joint].limits.rest or 0.0 for joint in drive.rests]
        rests = np.array(goal, dtype=float) / sizes[columns] - turns[columns]
        self._made = around, yielding, rests
        self.hanging = [yielding.hanging(number) for number in range(len(rests))]

    def settled(self, q: Array, in_hand: int | None = None) -> list[Array]:
        """The places (P, 3) through which joints go to their rests from q, the last being where they stay; none where
        nothing moves. What hangs on a body that is `in_hand` stays, and then no rest pushes free parts."""
        around, yielding, rests = self._made
        kept = [number for number, bodies in enumerate(self.hanging) if in_hand not in bodies]
        if not kept:
            return []
        pusher = Pusher(around, yielding, rests, CancellationToken())
        pusher.pushes, pusher.waiting = in_hand is None, frozenset(range(len(rests))) - set(kept)
        table = np.zeros((len(rests), 11))
        table[:, 0] = rests
        found: list[Array] = []
        for _ in range(MOST):
            way = pusher.fall_once(Law(0.0, 1.0, table), found[-1] if found else q)
            if way is None:
                break
            found += way
        return found
