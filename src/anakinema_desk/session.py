"""What all views listen to: the document, what is shown of it, the selection, the moment, the hand."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from anakinema.document import Change, Document
from anakinema.errors import DocumentError, Fault
from anakinema.formats import project

from .state import Analyst, Editor, Place, Player, Shown, Stage
from .state.by_hand import ByHand
from .state.shown import Pose, carried

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from anakinema.findings import Findings
    from anakinema.findings.gaps import Gap
    from anakinema.kinematics.dragging import Pull
    from anakinema.kinematics.freedoms import Freedom
    from anakinema.kinematics.modes import Modes
    from anakinema.kinematics.motion import Motion

__all__ = ["Place", "Session"]

COMPILING = "First start after an installation: the inner loops are compiled, which takes about half a minute, once"


@dataclass(frozen=True)
class _Ring:
    """The ways to put the parts together, and the one in which a document is."""

    document: Document
    modes: "Modes"
    index: int


class Session(QObject):
    """State of the application, without widgets: ties editor, analyst, player and hand together."""

    document_changed = Signal()
    shown_changed = Signal()
    """What is known of the document has changed: its motion, its findings, or that they are those of a version
    before."""
    gaps_changed = Signal()
    selection_changed = Signal()
    time_changed = Signal()
    playing_changed = Signal()
    posed_changed = Signal()
    progress_changed = Signal(float)
    faults_raised = Signal(str, object)
    told = Signal(str)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.editor, self.analyst, self.player = Editor(self), Analyst(self), Player(self)
        self.hand = ByHand()
        self.shown: Shown | None = None
        self.selection = ""
        self.renaming: tuple[str, str] | None = None
        """While what is selected gets another name: its place before and after."""
        self._poses: dict[str, Pose] = {}
        self._ring: _Ring | None = None
        self._held = False
        self.editor.opened.connect(self._opened)
        self.editor.changed.connect(self._edited)
        self.editor.saved.connect(self.document_changed)
        self.analyst.moved.connect(self._moved)
        self.analyst.gauged.connect(self._gauged)
        self.analyst.judged.connect(self._judged)
        self.analyst.failed.connect(self._failed)
        self.analyst.ways_found.connect(self._ways_found)
        self.analyst.progressed.connect(self._progressed)
        self.analyst.compiling.connect(self._compiling)
        self._compiled = QTimer(self)
        self._compiled.setInterval(250)
        self._compiled.timeout.connect(self._tell_compiled)
        self.player.changed.connect(self.time_changed)
        self.player.playing_changed.connect(self.playing_changed)

    # -- the document ------------------------------------------------------------------------------------------

    @property
    def document(self) -> Document | None:
        """The document as it is now."""
        return self.editor.document

    @property
    def path(self) -> Path | None:
        """The file of the document, if it has one."""
        return self.editor.path

    @property
    def modified(self) -> bool:
        """Whether there is something that no file holds yet."""
        return self.editor.modified

    def open(self, path: Path) -> bool:
        """Opens a file; on faults nothing changes but that they are told."""
        try:
            self.editor.open(path)
        except DocumentError as error:
            self.faults_raised.emit(f"{path.name} can't be opened", error.faults)
            return False
        return True

    def open_demo(self) -> None:
        """Opens the demo, as a new document without a file."""
        self.open_example(next(iter(project.EXAMPLES)))

    def open_example(self, name: str) -> None:
        """Opens one of the mechanisms that ship with the program, as a new document without a file."""
        self.editor.begin(*project.example(name), None)

    def new(self) -> None:
        """Starts an empty document."""
        self.editor.new()

    def save(self, path: Path) -> bool:
        """Writes the document; a fault is told and leaves the old file as it was."""
        try:
            self.editor.save(path)
        except OSError as error:
            self.faults_raised.emit("Not saved", (Fault(path.name, str(error.strerror or error)),))
            return False
        return True

    def edit(self, place: Place, value: Any, text: str) -> tuple[Fault, ...]:
        """Puts a value at a place of the document. Gives the faults that hinder it; then nothing has changed."""
        return self.editor.edit(place, value, text)

    def apply(self, changes: Iterable[Change], text: str, merge: str = "") -> tuple[Fault, ...]:
        """Makes changes as one step to undo; see `Editor.apply`."""
        return self.editor.apply(changes, text, merge)

    def remove(self, place: Place, text: str) -> tuple[Fault, ...]:
        """Takes the entry at a place out of the document."""
        return self.editor.remove(place, text)

    def undo(self) -> None:
        """One step back, as far as the opening of the file."""
        self.editor.undo()

    def redo(self) -> None:
        """One step forward again."""
        self.editor.redo()

    # -- what is shown -----------------------------------------------------------------------------------------

    @property
    def motion(self) -> "Motion | None":
        """The motion of the document; None while it is not known."""
        return self.shown.motion if self.shown is not None else None

    @property
    def findings(self) -> "Findings | None":
        """The findings of the document; None while they are not known."""
        return self.shown.findings if self.shown is not None and self.shown.fresh else None

    @property
    def faults(self) -> tuple[Fault, ...]:
        """Why the document makes no sense as a mechanism."""
        return self.shown.faults if self.shown is not None else ()

    @property
    def busy(self) -> bool:
        """Whether work is under way, or its results are about to be shown."""
        return self.analyst.busy or (self.shown is not None and self.shown.busy)

    def hold(self) -> None:
        """Puts off all analysis until `release`, so that a window can be painted first."""
        self._held = True

    def release(self) -> None:
        """Begins what was put off."""
        self._held = False
        if self.document is not None and self.motion is None:
            self.analyst.analyse(self.document)

    def cancel(self) -> None:
        """Gives up the analysis under way: the document is then not judged, and says so."""
        self.analyst.cancel()
        self.progress_changed.emit(1.0)
        if self.shown is not None and self.shown.busy:
            self._show(Shown(self.shown.document, Stage.CANCELLED, self.shown.motion, self.shown.findings))

    def judge_again(self) -> None:
        """Begins the analysis anew, after it was given up."""
        if self.shown is not None and not self.shown.busy:
            self._show(Shown(self.shown.document, findings=self.shown.findings))
            self.analyst.analyse(self.shown.document)

    def stop(self) -> bool:
        """Ends all work, before the application closes; whether it has ended."""
        self.player.pause()
        return self.analyst.stop()

    def _opened(self) -> None:
        self.player.pause()
        self.hand.drop()
        self._poses, self._ring, self.selection, self.player.time = {}, None, "", 0.0
        self.player.last(0.0)
        self._take_in(None)
        self.selection_changed.emit()
        self.time_changed.emit()
        assert self.document is not None
        if self.document.warnings:
            self.faults_raised.emit("Opened, with remarks", self.document.warnings)

    def _edited(self) -> None:
        self._poses = self.poses()
        self.hand.drop()
        self._take_in(self.shown.findings if self.shown is not None else None)

    def _take_in(self, before: "Findings | None") -> None:
        """Shows a new version of the document, with the findings of the one before until its own are known."""
        before_selected = self.selection
        assert self.document is not None
        if self.renaming is not None and self.renaming[0] == self.selection:
            old, self.selection = self.renaming
            if old.startswith("parts."):
                self._poses[self.selection.partition(".")[2]] = self._poses[old.partition(".")[2]]
        self._poses = carried(self.document, self._poses)
        if not self.selected()[0] and self.selection:
            self.selection = ""
        if self.selection != before_selected:
            self.selection_changed.emit()
        self.shown = Shown(self.document, findings=before)
        if not self._held:
            self.analyst.analyse(self.document)
        with self.analyst.held():
            self.document_changed.emit()
            self.shown_changed.emit()

    def _show(self, shown: Shown) -> None:
        self.shown = shown
        with self.analyst.held():
            self.shown_changed.emit()

    def _progressed(self, number: int, share: float) -> None:
        if number == self.analyst.wanted and (share == 1.0 or not self._compiled.isActive()):
            self.progress_changed.emit(share)

    def _compiling(self) -> None:
        """The first start: tells what is being waited for, and how far it has come."""
        self.told.emit(COMPILING)
        self._compiled.start()

    def _tell_compiled(self) -> None:
        from anakinema.compiling import compiled_share

        if self.shown is not None and self.shown.busy:
            self.progress_changed.emit(min(compiled_share(), 0.99))
        else:
            self._compiled.stop()

    def _moved(self, number: int, motion: "Motion") -> None:
        if number == self.analyst.wanted and self.shown is not None and motion.document is self.shown.document:
            self.hand.drop()
            self.player.last(motion.path.t1 if motion.drive.drivers else 0.0)
            self._show(Shown(motion.document, Stage.JUDGING, motion, self.shown.findings))
            self.time_changed.emit()

    def _gauged(self, number: int, gaps: "tuple[Gap, ...]") -> None:
        if number == self.analyst.wanted and self.shown is not None:
            self.shown = replace(self.shown, gaps=gaps)
            self.gaps_changed.emit()

    def _judged(self, number: int, findings: "Findings") -> None:
        if number == self.analyst.wanted and self.shown is not None and findings.document is self.shown.document:
            self._show(Shown(findings.document, Stage.DONE, findings.motion, findings))

    def _failed(self, number: int, error: Exception) -> None:
        if number != self.analyst.wanted or self.shown is None:
            return
        if isinstance(error, DocumentError):
            faults = error.faults
        else:
            faults = (Fault("", f"the analysis failed, which is a mistake of this program: {error!r}"),)
        self.hand.drop()
        self.player.last(0.0)
        self._poses = carried(self.shown.document, {})
        self._show(Shown(self.shown.document, Stage.FAILED, faults=faults))
        self.time_changed.emit()

    # -- by hand -----------------------------------------------------------------------------------------------

    @property
    def posed(self) -> "NDArray[np.float64] | None":
        """Positions (P, 3) into which the hand has put the mechanism; None while it follows its motion."""
        return self.hand.posed

    def grab(self, part: str, local: tuple[float, float]) -> None:
        """Takes a part by a point (in its own axes) where it stands now."""
        self.player.pause()
        if self.motion is not None:
            self.hand.grab(self.motion, self.time, part, local)

    def pull(self, x: float, y: float, steps: int) -> "Pull | None":
        """Pulls the point in the hand toward a place, in at most so many steps; None with nothing in the hand."""
        before = self.posed
        found = self.hand.pull(self.motion, x, y, steps) if self.motion is not None else None
        if found is not None:
            if before is None:
                self.posed_changed.emit()
            self.time_changed.emit()
        return found

    def unpose(self) -> None:
        """Goes back from where the hand has put it to the motion."""
        if self.posed is not None:
            self.hand.drop()
            self.posed_changed.emit()
            self.time_changed.emit()

    def keep_pose(self) -> tuple[Fault, ...]:
        """Makes where the hand has put the parts their rough placement in the document."""
        q, motion = self.posed, self.motion
        if q is None or motion is None:
            return ()
        from anakinema.kinematics.modes import placed

        self.unpose()
        return self.editor.replace(lambda before: placed(before, motion, q), "Place by hand")

    def next_mode(self) -> None:
        """Puts the parts together in the next of the ways in which the joints close; `told` says which."""
        ring = self._ring
        if ring is not None and ring.document is self.document:
            self._choose(ring, (ring.index + 1) % len(self._allowed(ring.modes)))
        elif self.motion is not None and not self.busy:
            self.analyst.look_for_ways(self.motion)

    @staticmethod
    def _allowed(found: "Modes") -> "list[NDArray[np.float64]]":
        """The ways that keep all limits; the first, in which the document is, whatever it keeps."""
        return [mode.q for i, mode in enumerate(found.ways) if i == 0 or not mode.outside]

    def _ways_found(self, number: int, found: "Modes") -> None:
        if number != self.analyst.wanted or self.document is None:
            return
        allowed = self._allowed(found)
        if len(allowed) == 1:
            self.told.emit(f"The joints close in this one way only{self._but(found)}")
        else:
            self._choose(_Ring(self.document, found, 0), 1)

    def _but(self, found: "Modes") -> str:
        """What else there is to say of the ways."""
        allowed = len(self._allowed(found))
        beyond = len(found.ways) - allowed
        outside = dict.fromkeys(joint for mode in found.ways[1:] for joint in mode.outside)
        told = f"; {beyond} more outside the limits of {', '.join(outside)}" if beyond else ""
        return told + (f"; {found.doubt}" if found.doubt else "")

    def _choose(self, ring: "_Ring", index: int) -> None:
        from anakinema.kinematics.modes import placed

        motion, ways = self.motion, self._allowed(ring.modes)
        if motion is None:
            return
        q = ways[index]
        faults = self.editor.replace(lambda before: placed(before, motion, q), "Put together another way")
        if not faults and self.document is not None:
            self._ring = _Ring(self.document, ring.modes, index)
            more = self._but(ring.modes)
            self.told.emit(f"Put together in way {index + 1} of {len(ways)}{more}; the same command shows the next")

    def motions_left(self, part: str) -> "tuple[Freedom, ...] | None":
        """What motions are left to a part where it stands, with the drivers off; None where that can't be told."""
        return self.hand.motions_left(self.motion, self.time, part) if self.motion is not None else None

    def instant_center(self, one: str, two: str) -> complex | None:
        """The point about which a part turns against another at the moment shown; None where it doesn't."""
        from anakinema.findings.behaviour import instant_center

        motion = self.motion
        if motion is None or self.posed is not None or not {one, two} <= set(motion.system.body_ids):
            return None
        state = motion.at(np.array([self.time]))
        return instant_center(state, 0, motion.system.body(one), motion.system.body(two))

    def positions(self) -> "NDArray[np.float64]":
        """Where all bodies stand that are shown (P, 3: document lengths, rad); only where there is a motion."""
        assert self.motion is not None
        return self.hand.positions(self.motion, self.time)

    def coordinates(self) -> "NDArray[np.float64]":
        """The joint coordinates shown (C,), in core units; only where there is a motion."""
        assert self.motion is not None
        return self.hand.coordinates(self.motion, self.time)

    def poses(self) -> dict[str, Pose]:
        """Where every part of the document stands: by motion or hand, else where it stood before, else as placed."""
        motion = self.motion
        if motion is not None:
            placed = zip(motion.system.body_ids, self.positions().tolist(), strict=True)
            self._poses = {part: (x, y, angle) for part, (x, y, angle) in placed if part}
        return self._poses

    # -- selection and moment ----------------------------------------------------------------------------------

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
    def time(self) -> float:
        """The moment shown (s)."""
        return self.player.time

    @property
    def end(self) -> float:
        """When the motion ends (s); 0 where nothing is driven."""
        return self.player.end

    @property
    def playing(self) -> bool:
        """Whether the motion runs."""
        return self.player.playing

    def go(self, t: float) -> None:
        """Shows a moment of the motion, and takes it from the hand."""
        self.player.go(t)
        self.unpose()

    def step(self, count: int) -> None:
        """Moves by whole steps of the motion."""
        self.player.pause()
        if self.motion is not None and self.motion.steps and self.motion.planned > 0:
            each = self.motion.planned / self.motion.steps
            self.go((round(self.time / each) + count) * each)

    def play(self) -> None:
        """Plays from the moment shown, from the start when at the end."""
        self.unpose()
        self.player.play()

    def pause(self) -> None:
        """Stops playing."""
        self.player.pause()
