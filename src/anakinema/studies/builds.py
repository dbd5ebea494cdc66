"""Many builds of one design: the same mechanism with other numbers, each moved as far as the first was.

A build that differs in numbers only shares the branch of the first: its positions lie near those of the first at the
same times, so they are put right there instead of being followed anew. Where that does not serve (a singular position,
another configuration, freedom that no driver moves) it is followed as any mechanism is.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np

from ..arrays import Array
from ..cancellation import CancellationToken
from ..document import read_document
from ..document.changes import Set, changed
from ..document.model import Document
from ..document.sections import UNMOVED
from ..errors import DocumentError
from ..findings.batch import keep_ends, keep_extremes
from ..kinematics.drive import alike, laws
from ..kinematics.kernels.tables import DOUBTFUL
from ..kinematics.motion import Motion
from ..kinematics.path import Path
from ..kinematics.simulation import put_together, simulate, stopped, turns_counted
from ..kinematics.stretches import RESTS, Law, Nodes, Stretch
from ..kinematics.system import compile_system
from ..kinematics.timetable import timetable
from .numbers import Numbers, held, named

"""Sections without which a mechanism moves and is judged the same."""
MOST_TOGETHER, MOST_CELLS = 64, 4_000_000
"""Of builds that are looked at at once: how many, and how many positions of bodies they hold (72 bytes each)."""


def with_numbers(document: Document, numbers: Numbers) -> Document:
    """A document in which parameters are worth something else. Raises `DocumentError` where that makes no sense, or
    there is no such parameter (a window may ask of the motion of an earlier document)."""
    known = held(document) if numbers else {}
    puts = [Set(named(name, known).place, value) for name, value in numbers.items()]
    return changed(document, *puts) if puts else document


def bare(document: Document) -> Document:
    """A document without what only clearances need: outlines, and checks and tracks of clearances."""
    tree = {key: value for key, value in document.tree.items() if key not in UNMOVED}
    tree["parts"] = _unshaped(tree.get("parts", {}))
    if "assemblies" in tree:
        tree["assemblies"] = {
            name: {**one, "parts": _unshaped(one.get("parts", {}))} for name, one in tree["assemblies"].items()
        }
    if "checks" in tree:
        tree["checks"] = {name: one for name, one in tree["checks"].items() if one["measure"] != "clearance"}
    return read_document(tree)


def _unshaped(parts: Mapping[str, Any]) -> dict[str, Any]:
    return {name: {key: value for key, value in part.items() if key != "shapes"} for name, part in parts.items()}


class Builds:
    """Builds of a document, near the one that it is itself. Where no clearance is asked for, outlines are not even
    read, unless what moves least depends on them."""

    def __init__(
        self,
        document: Document,
        work: CancellationToken | None = None,
        motion: Motion | None = None,
        clearance: bool = True,
    ):
        self.motion = motion if motion is not None else simulate(document, work=work)
        self.document = document
        if not clearance and not self.motion.drive.held:
            self.document = bare(document)
        self.followed = self.shared = 0
        """How many builds were followed anew, and how many shared the branch."""

    @property
    def together(self) -> int:
        """How many builds are looked at at once, by what memory should hold."""
        cells = self.motion.grid.size * len(self.motion.system.body_ids)
        return max(1, min(MOST_TOGETHER, MOST_CELLS // cells))

    def motion_with(self, numbers: Numbers, work: CancellationToken | None = None) -> Motion:
        """The motion of a build. Raises `DocumentError` where it can't be put together, or its numbers make no
        sense."""
        return self.motion_of(with_numbers(self.document, numbers), work)

    def motion_of(self, document: Document, work: CancellationToken | None = None) -> Motion:
        """The motion of a document that is this one with other numbers."""
        near = self._near(document)
        return stopped(near) if near is not None else simulate(document, work=work)

    def motions_with(
        self, several: Sequence[Numbers], work: CancellationToken | None = None
    ) -> list[Motion | DocumentError]:
        """The motions of builds, or why they can't be had; what can be found of all of them at once is, and kept with
        them."""
        found: list[Motion | DocumentError | Document] = []
        for numbers in several:
            try:
                document = with_numbers(self.document, numbers)
                found.append(self._near(document) or document)
            except DocumentError as error:
                found.append(error)
        near = [each for each in found if isinstance(each, Motion)]
        if len(near) > 1:
            keep_extremes(near)
        moved = [_moved(each, work) for each in found]
        whole = [each for each, before in zip(moved, found, strict=True) if isinstance(each, Motion) and each is before]
        if len(whole) > 1:
            keep_ends(whole)
        return moved

    @cached_property
    def _branch(self) -> list[tuple[Law, Nodes, Array]] | None:
        """Each stretch with nodes as dense as the grid of the first motion, and the signs (K, B) of the blocks there;
        None where the branch can't be shared: it ends, or the Jacobian does not tell it everywhere."""
        motion = self.motion
        if motion.path.dead is not None or motion.drive.minimum_norm is not None or motion.drive.held:
            return None
        if motion.document.active_contacts:  # what holds may be another in each build
            return None
        if not motion.drive.drivers or motion.path.last_regular < motion.planned:
            return None
        found = []
        for law in motion.path.laws:
            t = motion.grid[(motion.grid >= law.t0) & (motion.grid <= law.t1)]
            t = np.unique(np.concatenate(([law.t0], t, [law.t1])))
            settled = _settled(motion, law, t, motion.path.positions(t))
            if settled is None:
                return None
            found.append((law, *settled))
        return found

    def _near(self, document: Document) -> Motion | None:
        """The motion of a build by the branch of the first, whatever limits say; None where that does not serve."""
        first, branch = self.motion, self._branch
        self.followed += 1
        if branch is None or document.drivers.keys() != first.document.drivers.keys():
            return None
        system = compile_system(document, first.system.scale)
        drive = alike(first.drive, document, system)
        if drive is None:
            return None
        moved = branch[0][1].q[0].copy()
        still = np.setdiff1d(np.arange(len(system.placed)), np.array(system.moving, dtype=int))
        moved[still] = system.placed[still]
        columns = [system.coordinates.index(driver.joint) for driver in drive.drivers]
        turns = first.turns.copy()
        placed = system.coordinates.values(moved[None])[0] + turns
        if any(driver.start is None for driver in drive.drivers):  # it starts where it is placed, counted as ever
            own = compile_system(document)  # of its own scale, on which the nearest assembly depends
            raw = own.coordinates.values(put_together(document, own)[None])[0]
            raw *= np.where(own.coordinates.is_length, own.scale / system.scale, 1.0)
            placed = raw + turns_counted(document, system, raw)
            near = placed - first.at(np.zeros(1)).coordinates[0] / first.lengths
            turns += 2 * np.pi * np.where(system.coordinates.is_length, 0.0, np.round(near / (2 * np.pi)))
        table = timetable(document, drive, placed[columns])
        runs = laws(drive, table, turns[columns])
        if len(runs) != len(first.path.laws):
            return None
        planned, free = runs[-1].t1, first.mobility
        motion = Motion(document, system, drive, first.path, first.turns, first.steps, planned, None, free)
        pieces = []
        for law, (before, nodes, signs) in zip(runs, branch, strict=True):
            share = (nodes.t - before.t0) / (before.t1 - before.t0)
            t = law.t0 + share * (law.t1 - law.t0)
            t[-1] = law.t1
            q = nodes.q.copy()
            q[:, still] = system.placed[still]
            settled = _settled(motion, law, t, q)
            if settled is None or not np.array_equal(settled[1], signs):
                return None
            pieces.append(Stretch(law, settled[0], drive.equations))
        path = Path(drive, pieces, None, dense=True)
        self.followed -= 1
        self.shared += 1
        counted = turns_counted(document, system, system.coordinates.values(pieces[0].nodes.q[:1])[0])
        counted[columns] = turns[columns]
        return Motion(document, system, drive, path, counted, first.steps, planned, None, free)


def _moved(found: Motion | DocumentError | Document, work: CancellationToken | None) -> Motion | DocumentError:
    """A motion as far as limits let it go, one that is to be followed anew, or why there is none."""
    try:
        if isinstance(found, Document):
            return simulate(found, work=work)
        return stopped(found) if isinstance(found, Motion) else found
    except DocumentError as error:
        return error


def _settled(motion: Motion, law: Law, t: Array, q: Array) -> tuple[Nodes, Array] | None:
    """Nodes at times t (K,) put right onto the rows from positions q near them (K, P, 3; changed in place), with the
    signs of their blocks (K, B); None where one is singular or too far."""
    from ..kinematics.kernels import following

    equations = motion.drive.equations
    v, a = np.zeros_like(q), np.zeros_like(q)
    signs = np.zeros((len(t), len(equations.plan.first) - 1))
    regular = following.settle_nodes(
        equations.table, equations.plan, equations.lent(len(law.table)), law.table, law.t0,
        RESTS * law.fastest, t, q, v, a, signs,
    )
    return (Nodes(t, q, v, a), signs) if regular > DOUBTFUL else None
