"""The one place that holds document, findings, selection and the moment shown; every view listens to it."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer, Signal

from anakinema.document import Document, edited, removed
from anakinema.errors import DocumentError, Fault
from anakinema.formats import project

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from anakinema.findings import Findings
    from anakinema.kinematics.dragging import Grip, Pull
    from anakinema.kinematics.freedoms import Freedom
    from anakinema.kinematics.modes import Mode
    from anakinema.kinematics.motion import Motion

Place = tuple[str | int, ...]
PLAY_SECONDS = 4.0
"""A motion is shown in this time at speed 1, however fast it really is."""


FREEDOMS_UP_TO = 30
"""Moving parts up to which the motions left are told while things move."""


class Cancelled(Exception):
    """Raised inside an analysis that is no longer wanted."""


class _Signals(QObject):
    moved = Signal(int, object)
    done = Signal(int, object)
    progress = Signal(int, float)
    modes = Signal(int, object)


class _Job(QRunnable):
    """One analysis off the interface thread."""

    prepared = False
    """Whether dragging has been loaded, which happens once."""

    def __init__(self, number: int, document: Document, wanted: Callable[[], int], signals: _Signals):
        super().__init__()
        self.number, self.document, self.wanted, self.signals = number, document, wanted, signals

    def run(self) -> None:
        from anakinema.findings import analyse  # late, and here: it takes longer than the first paint

        result: Findings | DocumentError | Exception
        try:
            result = analyse(self.document, progress=self.report, moved=self.moved)
        except Cancelled:
            return
        except DocumentError as error:
            result = error
        except Exception as error:  # shown to the user as our own mistake, never swallowed
            result = error
        self.signals.done.emit(self.number, result)
        if not isinstance(result, Exception) and not _Job.prepared:
            from anakinema.kinematics.dragging import prepare

            prepare(result.motion)
            _Job.prepared = True

    def moved(self, motion: "Motion") -> None:
        self.signals.moved.emit(self.number, motion)

    def report(self, share: float) -> None:
        if self.wanted() != self.number:
            raise Cancelled
        self.signals.progress.emit(self.number, share)


class _ModesJob(QRunnable):
    """Looks for the other ways to put the parts together, off the interface thread."""

    def __init__(self, number: int, motion: "Motion", signals: _Signals):
        super().__init__()
        self.number, self.motion, self.signals = number, motion, signals

    def run(self) -> None:
        from anakinema.kinematics.modes import modes

        self.signals.modes.emit(self.number, modes(self.motion))


@dataclass(frozen=True)
class _Ring:
    """The ways to put the parts together, and the one in which a document is."""

    document: Document
    modes: "list[Mode]"
    index: int


@dataclass(frozen=True)
class Step:
    """A document on the undo stack and what led away from it."""

    document: Document
    text: str


class Session(QObject):
    """State of the application, without widgets."""

    document_changed = Signal()
    motion_changed = Signal()
    findings_changed = Signal()
    selection_changed = Signal()
    time_changed = Signal()
    playing_changed = Signal()
    posed_changed = Signal()
    progress_changed = Signal(float)
    faults_raised = Signal(str, object)
    told = Signal(str)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.document: Document | None = None
        self.source: project.Source | None = None
        self.path: Path | None = None
        self.motion: Motion | None = None
        """The motion of the document; its findings follow a moment later."""
        self.findings: Findings | None = None
        self.faults: tuple[Fault, ...] = ()
        self.selection = ""
        self.time = 0.0
        self.posed: NDArray[np.float64] | None = None
        """Positions (P, 3) into which the hand has put the mechanism; None while it follows its motion."""
        self._grip: Grip | None = None
        self._near: NDArray[np.float64] = np.zeros(0)
        self._ring: _Ring | None = None
        self._left: dict[str, tuple[Freedom, ...]] = {}
        self._left_at: tuple[Motion, float, NDArray[np.float64] | None] | None = None
        self.looping, self.speed = True, 1.0
        self.undo_stack: list[Step] = []
        self.redo_stack: list[Step] = []
        self._job = 0
        self._held = False
        self._signals = _Signals()
        self._signals.moved.connect(self._moved)
        self._signals.done.connect(self._finished)
        self._signals.progress.connect(self._progressed)
        self._signals.modes.connect(self._modes_found)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self._tick)

    # -- files -------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> bool:
        """Opens a file; on faults nothing changes but that they are told."""
        try:
            document, source = project.load(path)
        except DocumentError as error:
            self.faults_raised.emit(f"{path.name} can't be opened", error.faults)
            return False
        self._begin(document, source, path)
        return True

    def open_demo(self) -> None:
        """Opens the demo, as a new document without a file."""
        self.open_example(next(iter(project.EXAMPLES)))

    def open_example(self, name: str) -> None:
        """Opens one of the mechanisms that ship with the program, as a new document without a file."""
        document, source = project.example(name)
        self._begin(document, source, None)

    def new(self) -> None:
        """Starts an empty document."""
        document, source = project.loads(b'{"anakinema": 1, "title": "Untitled", "parts": {}}')
        self._begin(document, source, None)

    def _begin(self, document: Document, source: project.Source, path: Path | None) -> None:
        self.pause()
        self.document, self.source, self.path = document, source, path
        self.undo_stack, self.redo_stack = [], []
        self.posed = None
        self.selection, self.time, self.motion, self.findings, self.faults = "", 0.0, None, None, ()
        self._analyse()
        self.document_changed.emit()
        self.selection_changed.emit()
        self.time_changed.emit()
        if document.warnings:
            self.faults_raised.emit("Opened, with remarks", document.warnings)

    def save(self, path: Path) -> bool:
        """Writes the document; a fault is told and leaves the old file as it was."""
        assert self.document is not None
        try:
            self.source = project.save(path, self.document, self.source)
        except OSError as error:
            self.faults_raised.emit("Not saved", (Fault(path.name, str(error.strerror or error)),))
            return False
        self.path = path
        self.document_changed.emit()
        return True

    @property
    def modified(self) -> bool:
        """Whether there is something that no file holds yet."""
        if self.document is None or self.source is None:
            return False
        return not project.same(self.document.tree, self.source.tree)

    # -- edits -------------------------------------------------------------------------------------------------

    def edit(self, place: Place, value: Any, text: str) -> tuple[Fault, ...]:
        """Puts a value at a place of the document. Gives the faults that hinder it; then nothing has changed."""
        assert self.document is not None
        return self._replace(lambda document: edited(document, place, value), text)

    def remove(self, place: Place, text: str) -> tuple[Fault, ...]:
        """Takes the entry at a place out of the document."""
        return self._replace(lambda document: removed(document, place), text)

    def _replace(self, change: Callable[[Document], Document], text: str) -> tuple[Fault, ...]:
        assert self.document is not None
        try:
            document = change(self.document)
        except DocumentError as error:
            return error.faults
        if project.same(document.tree, self.document.tree):
            return ()
        self.undo_stack.append(Step(self.document, text))
        self.redo_stack.clear()
        self._show(document)
        return ()

    def undo(self) -> None:
        """One step back, as far as the opening of the file."""
        self._travel(self.undo_stack, self.redo_stack)

    def redo(self) -> None:
        """One step forward again."""
        self._travel(self.redo_stack, self.undo_stack)

    def _travel(self, source: list[Step], target: list[Step]) -> None:
        if source and self.document is not None:
            step = source.pop()
            target.append(Step(self.document, step.text))
            self._show(step.document)

    def _show(self, document: Document) -> None:
        self.document = document
        self._analyse()
        self.document_changed.emit()

    # -- analysis ----------------------------------------------------------------------------------------------

    def hold(self) -> None:
        """Puts off all analysis until `release`, so that a window can be painted first."""
        self._held = True

    def release(self) -> None:
        """Begins what was put off."""
        self._held = False
        if self.document is not None and self.motion is None:
            self._analyse()

    def _analyse(self) -> None:
        assert self.document is not None
        self._job += 1
        if not self._held:
            self._pool.start(_Job(self._job, self.document, lambda: self._job, self._signals))

    @property
    def busy(self) -> bool:
        """Whether an analysis is under way."""
        return self._pool.activeThreadCount() > 0

    def cancel(self) -> None:
        """Gives up the analysis under way; the findings stay as they were."""
        self._job += 1
        self.progress_changed.emit(1.0)

    def _progressed(self, number: int, share: float) -> None:
        if number == self._job:
            self.progress_changed.emit(share)

    def _moved(self, number: int, motion: "Motion") -> None:
        if number == self._job:
            self.motion, self.posed = motion, None
            self.time = min(self.time, self.end)
            self.motion_changed.emit()

    def _finished(self, number: int, result: "Findings | Exception") -> None:
        if number != self._job:
            return
        self.progress_changed.emit(1.0)
        if not isinstance(result, Exception):
            self.findings, self.faults = result, ()
        elif isinstance(result, DocumentError):
            self.pause()
            self.motion, self.findings, self.faults, self.posed = None, None, result.faults, None
            self.motion_changed.emit()
        else:
            self.pause()
            self.motion = self.findings = self.posed = None
            self.motion_changed.emit()
            self.faults = (Fault("", f"the analysis failed, which is a mistake of this program: {result!r}"),)
        self.findings_changed.emit()
        self.time_changed.emit()

    def stop(self) -> None:
        """Ends all work, before the application closes."""
        self.pause()
        self._job += 1
        self._pool.waitForDone(5000)

    # -- by hand -----------------------------------------------------------------------------------------------

    def grab(self, part: str, local: tuple[float, float]) -> None:
        """Takes a part by a point (in its own axes) where it stands now."""
        from anakinema.kinematics.dragging import Grip

        self.pause()
        assert self.document is not None and self.motion is not None
        self._near = self.coordinates()
        self._grip = Grip(self.document, self.motion.system, self.positions(), self._near, part, local)

    def pull(self, x: float, y: float, steps: int) -> "Pull":
        """Pulls the point in the hand toward a place, in at most so many steps."""
        assert self._grip is not None and self.motion is not None
        found = self._grip.pull(x, y, steps)
        before, self.posed = self.posed, found.q
        if before is None:
            self.posed_changed.emit()
        self._near = self.motion.posed(found.q, self._near)
        self.time_changed.emit()
        return found

    def unpose(self) -> None:
        """Goes back from where the hand has put it to the motion."""
        if self.posed is not None:
            self.posed = None
            self.posed_changed.emit()
            self.time_changed.emit()

    def keep_pose(self) -> tuple[Fault, ...]:
        """Makes where the hand has put the parts their rough placement in the document."""
        document, q = self.document, self.posed
        if document is None or q is None or self.motion is None:
            return ()
        from anakinema.kinematics.modes import placed

        motion = self.motion
        self.unpose()
        return self._replace(lambda before: placed(before, motion, q), "Place by hand")

    def next_mode(self) -> None:
        """Puts the parts together in the next of the ways in which the joints close; `told` says which."""
        ring = self._ring
        if ring is not None and ring.document is self.document:
            self._choose(ring, (ring.index + 1) % len(ring.modes))
        elif self.motion is not None and not self.busy:
            self._pool.start(_ModesJob(self._job, self.motion, self._signals))

    def _modes_found(self, number: int, found: "list[Mode]") -> None:
        if number == self._job and self.document is not None:
            if len(found) == 1:
                self.told.emit("The joints close in this one way only")
            else:
                self._choose(_Ring(self.document, found, 0), 1)

    def _choose(self, ring: "_Ring", index: int) -> None:
        from anakinema.kinematics.modes import placed

        motion = self.motion
        if motion is None:
            return
        q = ring.modes[index].q
        faults = self._replace(lambda before: placed(before, motion, q), "Put together another way")
        if not faults and self.document is not None:
            self._ring = _Ring(self.document, ring.modes, index)
            self.told.emit(f"Put together in way {index + 1} of {len(ring.modes)}; the same command shows the next")

    def motions_left(self, part: str) -> "tuple[Freedom, ...] | None":
        """What motions are left to a part where it stands, with the drivers off; None where that can't be told."""
        from anakinema.kinematics.freedoms import freedoms

        motion = self.motion
        if motion is None or len(motion.system.moving) > FREEDOMS_UP_TO or part not in motion.system.body_ids:
            return None
        at = self._left_at
        if at is None or at[0] is not motion or at[1] != self.time or at[2] is not self.posed:
            self._left_at = (motion, self.time, self.posed)
            self._left = freedoms(motion.system, self.positions())
        return self._left[part]

    def instant_center(self, one: str, two: str) -> complex | None:
        """The point about which a part turns against another at the moment shown; None where it doesn't."""
        from anakinema.findings.behaviour import instant_center

        motion = self.motion
        if motion is None or self.posed is not None or not {one, two} <= set(motion.system.body_ids):
            return None
        state = motion.at(np.array([self.time]))
        return instant_center(state, 0, motion.system.body(one), motion.system.body(two))

    def positions(self) -> "NDArray[np.float64]":
        """Where all bodies stand that are shown (P, 3: document lengths, rad)."""
        assert self.motion is not None
        return self.posed if self.posed is not None else self.motion.positions(np.array([self.time]))[0]

    def coordinates(self) -> "NDArray[np.float64]":
        """The joint coordinates shown (C,), in core units."""
        assert self.motion is not None
        return self._near if self.posed is not None else self.motion.at(np.array([self.time])).coordinates[0]

    # -- what is shown -----------------------------------------------------------------------------------------

    def select(self, place: str) -> None:
        """Selects by place in the document: ``joints.ram``; empty for nothing."""
        if place != self.selection:
            self.selection = place
            self.selection_changed.emit()

    def selected(self) -> tuple[str, str]:
        """Kind and id of what is selected, empty where nothing is or it is gone."""
        kind, _, name = self.selection.partition(".")
        if kind == "joints" and self.document is not None and name in self.document.couplings:
            return "couplings", name
        items = getattr(self.document, kind, {}) if kind and self.document is not None else {}
        return (kind, name) if name in items else ("", "")

    @property
    def end(self) -> float:
        """When the motion ends (s); 0 where nothing is driven."""
        motion = self.motion
        return motion.path.t1 if motion is not None and motion.drive.drivers else 0.0

    def go(self, t: float) -> None:
        """Shows a moment of the motion."""
        t = min(max(t, 0.0), self.end)
        moved, self.time = t != self.time, t
        if self.posed is not None:
            self.unpose()
        elif moved:
            self.time_changed.emit()

    def step(self, count: int) -> None:
        """Moves by whole steps of the motion."""
        self.pause()
        if self.motion is not None and self.motion.steps:
            each = self.motion.planned / self.motion.steps
            self.go((round(self.time / each) + count) * each)

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def play(self) -> None:
        """Plays from the moment shown, from the start when at the end."""
        if self.end > 0 and not self.playing:
            if self.time >= self.end:
                self.go(0.0)
            self._timer.start()
            self.playing_changed.emit()

    def pause(self) -> None:
        """Stops playing."""
        if self.playing:
            self._timer.stop()
            self.playing_changed.emit()

    def _tick(self) -> None:
        t = self.time + self._timer.interval() / 1000 / PLAY_SECONDS * self.speed * self.end
        if t < self.end:
            self.go(t)
        elif self.looping:
            self.go(t % self.end if self.end else 0.0)
        else:
            self.go(self.end)
            self.pause()
