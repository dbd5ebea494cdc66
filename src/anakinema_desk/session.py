"""What all views listen to: ties the document, what is known of it, the selection, the moment and the hand together."""

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from anakinema.document import Change, Document, Rename
from anakinema.errors import DocumentError, Fault
from anakinema.formats import project
from anakinema.formats.writing import write_whole
from anakinema.formatting import shown

from .state import Analyst, DrawingClient, Editor, Log, Place, Player, StudyClient
from .state.analysis import Analysis
from .state.configurations import Configurations
from .state.display_state import DisplayState
from .state.ghost import Ghost
from .state.going import Going
from .state.posing import Posing
from .state.selection import Selection
from .state.trying import Trying
from .state.worker import faults_of

if TYPE_CHECKING:
    from anakinema.findings import Findings
    from anakinema.kinematics.motion import Motion

__all__ = ["Place", "Session"]


class Session(QObject):
    """State of the application, without widgets."""

    document_changed = Signal()
    time_changed = Signal()
    playing_changed = Signal()
    faults_raised = Signal(str, object)
    """What was not done, and why."""
    warned = Signal(str, object)
    """What goes on all the same, with what to know of it."""
    message = Signal(str)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.editor, self.analyst, self.player = Editor(self), Analyst(self), Player(self)
        self.study_client, self.drawing_client = StudyClient(self), DrawingClient(self)
        self.trying, self.log = Trying(self.study_client, self), Log(self.editor, self)
        self.selection = Selection(lambda: self.document, self)
        self.analysis = Analysis(self.analyst, self)
        self.posing = Posing(self)
        self.configurations = Configurations(self.editor, self.analyst, lambda: self.motion, self)
        self.going = Going(self)
        self.display_state = DisplayState(self)
        self._travel_wanted = ""
        """The joint whose free travel is looked for as soon as the motion is known."""
        self._on_trial = ""
        """The change that is taken back if the mechanism can't be put together with it."""
        self._opening = False
        """Whether the document has just been opened, and its position is still to be gone to."""
        self.editor.opened.connect(self._opened)
        self.editor.changed.connect(self._edited)
        self.editor.saved.connect(self.document_changed)
        self.analysis.moved.connect(self._moved)
        self.analysis.judged.connect(self._judged)
        self.analysis.failed.connect(self._failed)
        self.analysis.placed.connect(self.time_changed)
        self.analysis.message.connect(self.message)
        self.configurations.message.connect(self.message)
        self.analyst.unkept.connect(lambda _, why: self.warned.emit(why, ()))
        self.study_client.found.connect(self._studied)
        self.study_client.failed.connect(self._not_studied)
        self.drawing_client.written.connect(self._written)
        self.drawing_client.failed.connect(self._written)
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
            self._not_saved(path, error)
            return False
        return True

    def write(self, path: Path, data: bytes) -> None:
        """Writes a table or a picture, whole or not at all; a fault is told."""
        try:
            write_whole(path, data)
        except OSError as error:
            self._not_saved(path, error)

    def _not_saved(self, path: Path, error: OSError) -> None:
        self.faults_raised.emit("Not saved", (Fault(path.name, str(error.strerror or error)),))

    def edit(self, place: Place, value: Any, text: str) -> tuple[Fault, ...]:
        """Puts a value at a place of the document. Gives the faults that hinder it; then nothing has changed."""
        return self.editor.edit(place, value, text)

    def apply(self, changes: Iterable[Change], text: str, merge: str = "") -> tuple[Fault, ...]:
        """Makes changes as one step to undo; see `Editor.apply`. What is selected stays so under another name."""
        changes = list(changes)
        self.selection.foresee([change for change in changes if isinstance(change, Rename)])
        faults = self.editor.apply(changes, text, merge)
        self.selection.made()
        return faults

    def apply_if_it_closes(self, changes: Iterable[Change], text: str) -> tuple[Fault, ...]:
        """The same for changes of which it is not known yet whether the mechanism can still be put together: where it
        can't, they are taken back, and that is told."""
        faults = self.apply(changes, text)
        if not faults:
            self._on_trial = text
        return faults

    def rename(self, place: Place, name: str) -> tuple[Fault, ...]:
        """Gives what stands at a place another name; all that refers to it follows."""
        return self.apply([Rename(place, name)], f"Rename {place[-1]}")

    def remove(self, place: Place, text: str) -> tuple[Fault, ...]:
        """Takes the entry at a place out of the document."""
        return self.editor.remove(place, text)

    def undo(self) -> None:
        """One step back, as far as the opening of the file."""
        self.editor.undo()

    def redo(self) -> None:
        """One step forward again."""
        self.editor.redo()

    # -- what is known of it -----------------------------------------------------------------------------------

    @property
    def motion(self) -> "Motion | None":
        """The motion of the document; None while it is not known."""
        return self.analysis.motion

    @property
    def findings(self) -> "Findings | None":
        """The findings of the document; None while they are not known."""
        return self.analysis.findings

    def stop(self) -> None:
        """Ends all work, before the application closes."""
        self.player.pause()
        self.study_client.stop()
        self.drawing_client.stop()
        self.analyst.stop()

    def _opened(self) -> None:
        self.player.pause()
        self.posing.forget()
        self.player.time = 0.0
        self.configurations.forget()
        self.selection.clear()
        self.trying.drop()
        self.trying.pin(None)
        self.trying.travel = self.trying.ghost = None
        self._travel_wanted = ""
        self._opening, self._on_trial = True, ""
        self.display_state.forget()
        self.player.last(0.0)
        self._take_in(None)
        self.selection.changed.emit()
        self.time_changed.emit()
        assert self.document is not None
        if self.document.warnings:
            self.warned.emit("Opened, with remarks", self.document.warnings)

    def _edited(self) -> None:
        self._opening, self._on_trial = False, ""
        self.trying.drop()
        self.posing.leave()
        self.going.forget()
        shown = self.analysis.shown
        self._take_in(shown.findings if shown is not None else None)

    def _take_in(self, before: "Findings | None") -> None:
        """Shows a new version of the document, with the findings of the one before until its own are known."""
        assert self.document is not None
        self.posing.take_in(self.document)
        self.display_state.keep(self.document.parts)
        self.selection.keep()
        self.analysis.begin(self.document, before)
        self.document_changed.emit()
        self.analysis.changed.emit()

    def _moved(self) -> None:
        motion = self.motion
        assert motion is not None
        self._on_trial = ""
        self.posing.hand.drop()
        self.player.last(motion.path.t1 if motion.drive.drivers else 0.0)
        if self._travel_wanted:
            QTimer.singleShot(0, lambda: self.find_travel(self._travel_wanted))

    def _judged(self) -> None:
        assert self.findings is not None
        self.log.judged(self.findings)
        if self._opening:
            self._opening = False
            QTimer.singleShot(0, self.going.to_opening)

    def _failed(self) -> None:
        self.player.last(0.0)
        assert self.analysis.shown is not None
        self.posing.as_placed(self.analysis.shown.document)
        if self._on_trial:
            text, self._on_trial = self._on_trial, ""
            faults = self.analysis.faults
            QTimer.singleShot(0, lambda: self._take_back(text, faults))

    def _take_back(self, text: str, faults: tuple[Fault, ...]) -> None:
        """Takes a change back with which nothing closes."""
        if self.editor.undo_stack and self.editor.undo_stack[-1].text == text:
            self.editor.undo()
            self.faults_raised.emit(f"Taken back: {text[0].lower()}{text[1:]}", faults)

    def next_mode(self) -> None:
        """Puts the parts together in the next of the ways in which the joints close; `message` says which."""
        self.configurations.next()

    # -- studies and drawings ----------------------------------------------------------------------------------

    def take_trial(self) -> None:
        """Makes the parameters what is tried."""
        from anakinema.studies.numbers import taken

        numbers = dict(self.trying.numbers)
        if self.document is None or self.trying.motion is None or not numbers:
            return
        changes = taken(self.document, numbers)
        self.trying.drop()
        faults = self.apply(changes, f"Change {', '.join(numbers)}")
        if faults:
            self.faults_raised.emit("Not changed", faults)

    def find_travel(self, joint: str) -> None:
        """Looks how far a joint can go either way from where it stands; just after an edit it waits for the motion."""
        self._travel_wanted = ""
        if self.motion is None and self.analysis.busy:
            self._travel_wanted = joint
            self.message.emit(f"The free travel of '{joint}' is looked for as soon as the motion is known…")
            return
        if self.motion is None or joint not in self.motion.system.coordinates:
            self.message.emit(f"'{joint}' has no free travel: there is no motion that it takes part in")
            return
        self.player.pause()
        self.message.emit(f"Looking how far '{joint}' can go…")
        self.study_client.study("travel", self.motion.document, self.motion, self.posing.positions(), joint)

    def _studied(self, number: int, found: object) -> None:
        from anakinema.studies.travel import Travel

        if number == self.study_client.wanted and isinstance(found, Travel):
            self.trying.travel = found
            self.message.emit(f"'{found.joint}' is free {found.low.text.partition(':')[0].removeprefix('at ')} to "
                           f"{found.high.text.partition(':')[0].removeprefix('at ')}: {found.low.reason}, "
                           f"{found.high.reason}")
            self.trying.changed.emit()

    def _not_studied(self, number: int, error: Exception) -> None:
        if number == self.study_client.wanted:
            self.faults_raised.emit("Not found", faults_of(error))

    def _written(self, number: int, found: Path | Exception) -> None:
        if number == self.drawing_client.wanted == self.drawing_client.writing:
            if isinstance(found, Exception):
                self.faults_raised.emit("Not written", faults_of(found))
            else:
                self.message.emit(f"Written: {found.name}")

    # -- the moment --------------------------------------------------------------------------------------------

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
        self.posing.unpose()

    def step(self, count: int) -> None:
        """Moves by whole steps of the motion."""
        self.player.pause()
        if self.motion is not None and self.motion.steps and self.motion.planned > 0:
            each = self.motion.planned / self.motion.steps
            self.go((round(self.time / each) + count) * each)

    def play(self) -> None:
        """Plays from the moment shown, from the start when at the end."""
        self.posing.unpose()
        self.player.play()

    def keep_ghost(self) -> None:
        """Keeps the mechanism in sight as it stands now; where it is kept already, not any longer."""
        motion, document = self.motion, self.document
        if self.trying.ghost is not None or motion is None or document is None:
            self.trying.keep(None)
            return
        value = motion.driver_value(self.time)
        by_hand = self.posing.posed is not None or value is None
        text = "where the hand put it" if by_hand else shown(value or 0.0, motion.driver_dimension, document.units, 2)
        self.trying.keep(Ghost(document, dict(self.posing.poses()), self.posing.coordinates().copy(),
                               tuple(motion.system.coordinates.ids), text))  # fmt: skip

    def pause(self) -> None:
        """Stops playing."""
        self.player.pause()
