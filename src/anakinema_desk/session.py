"""What all views listen to: the document, what is shown of it, the selection, the moment, the hand."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from anakinema.document import Change, Document, Rename
from anakinema.document.reading import INSIDE
from anakinema.document.references import path_of
from anakinema.errors import DocumentError, Fault
from anakinema.formats import project
from anakinema.formats.writing import write_whole

from .state import Analyst, DrawingClient, Editor, Log, Place, Player, Shown, Stage, StudyClient
from .state.by_hand import ByHand
from .state.configurations import Configurations
from .state.display_state import DisplayState
from .state.going import Going
from .state.shown import Pose, carried
from .state.trying import Trying
from .state.worker import faults_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from anakinema.findings import Findings
    from anakinema.findings.gaps import Gap
    from anakinema.kinematics.dragging import Pull
    from anakinema.kinematics.freedoms import Freedom
    from anakinema.kinematics.motion import Motion
    from anakinema.kinematics.touches import Touch

__all__ = ["Place", "Session"]

SECTIONS = {"couplings": "joints", "contacts": "joints", "uses": "parts"}
"""The section of the document in which a kind stands, where that is called otherwise."""
COMPILING = "First start after an installation: the inner loops are compiled, which takes about half a minute, once"


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
    """What was not done, and why."""
    warned = Signal(str, object)
    """What goes on all the same, with what to know of it."""
    message = Signal(str)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.editor, self.analyst, self.player = Editor(self), Analyst(self), Player(self)
        self.study_client, self.drawing_client = StudyClient(self), DrawingClient(self)
        self.trying, self.log = Trying(self.study_client, self), Log(self.editor, self)
        self.hand, self.configurations = ByHand(), Configurations(self.editor, self.analyst, lambda: self.motion, self)
        self.going = Going(self)
        self.shown: Shown | None = None
        self.display_state = DisplayState(self)
        self.selection = ""
        self.others: tuple[str, ...] = ()
        """What else is selected, in the order in which it was."""
        self._poses: dict[str, Pose] = {}
        self._following: dict[str, str] = {}
        """While something gets another name: what is selected, and what it is called then."""
        self._compiled_for = 0
        """The analysis for which the inner loops are compiled."""
        self._compiled_share = 0.0
        self._opening = False
        """Whether the document has just been opened, and its position is still to be gone to."""
        self.editor.opened.connect(self._opened)
        self.editor.changed.connect(self._edited)
        self.editor.saved.connect(self.document_changed)
        self.analyst.moved.connect(self._moved)
        self.analyst.gauged.connect(self._gauged)
        self.analyst.judged.connect(self._judged)
        self.analyst.failed.connect(self._failed)
        self.configurations.message.connect(self.message)
        self.analyst.progressed.connect(self._progressed)
        self.analyst.compiling.connect(self._compiling)
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
        selected = [self.selection, *self.others]
        for change in changes:
            if isinstance(change, Rename) and self.document is not None:
                selected = [self._renamed(place, change) for place in selected]
        before = [self.selection, *self.others]
        self._following = dict(zip(before, selected, strict=True))
        faults = self.editor.apply(changes, text, merge)
        self._following = {}
        return faults

    def _renamed(self, place: str, change: Rename) -> str:
        """What a selected thing is called once something has another name."""
        kind, _, name = place.partition(".")
        if not name or self.document is None:
            return place
        section = SECTIONS.get(kind, kind)
        pieces = name.split("/")
        for target, piece in path_of(self.document.tree, (), section, name):
            if target == tuple(change.place):
                pieces[piece] = change.name
        return f"{kind}.{'/'.join(pieces)}"

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

    def stop(self) -> None:
        """Ends all work, before the application closes."""
        self.player.pause()
        self.study_client.stop()
        self.drawing_client.stop()
        self.analyst.stop()

    def _opened(self) -> None:
        self.player.pause()
        self.hand.drop()
        self._poses, self.selection, self.player.time = {}, "", 0.0
        self.configurations.forget()
        self.others = ()
        self.trying.drop()
        self.trying.pin(None)
        self.trying.travel = None
        self._opening = True
        self.display_state.show_all()
        self.player.last(0.0)
        self._take_in(None)
        self.selection_changed.emit()
        self.time_changed.emit()
        assert self.document is not None
        if self.document.warnings:
            self.warned.emit("Opened, with remarks", self.document.warnings)

    def _edited(self) -> None:
        self._opening = False
        self.trying.drop()
        self._poses = self.poses()
        self.hand.drop()
        self.going.forget()
        self._take_in(self.shown.findings if self.shown is not None else None)

    def _take_in(self, before: "Findings | None") -> None:
        """Shows a new version of the document, with the findings of the one before until its own are known."""
        before_selected = self.selection, self.others
        assert self.document is not None
        for old, new in self._following.items():
            if old.startswith("parts.") and old != new and old.partition(".")[2] in self._poses:
                self._poses[new.partition(".")[2]] = self._poses[old.partition(".")[2]]
        kept = [self._following.get(place, place) for place in (self.selection, *self.others)]
        kept = [place for place in kept if self.kind_of(place)[0]]
        self.selection, self.others = kept[0] if kept else "", tuple(kept[1:])
        self._poses = carried(self.document, self._poses)
        self.display_state.keep(self.document.parts)
        if (self.selection, self.others) != before_selected:
            self.selection_changed.emit()
        self.shown = Shown(self.document, findings=before)
        self.analyst.analyse(self.document)
        self.document_changed.emit()
        self.shown_changed.emit()

    def _show(self, shown: Shown) -> None:
        self.shown = shown
        self.shown_changed.emit()

    def _progressed(self, number: int, share: float) -> None:
        if number == self.analyst.wanted and (share == 1.0 or number != self._compiled_for):
            self.progress_changed.emit(share)

    def _compiling(self, number: int, share: float) -> None:
        """The first start: tells what is being waited for, and how far it has come."""
        if number != self._compiled_for:
            self.message.emit(COMPILING)
            self._compiled_share = 0.0
        self._compiled_for = number
        self._compiled_share = max(self._compiled_share, min(share, 0.99))  # more is to be compiled as more is loaded
        self.progress_changed.emit(self._compiled_share)

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
            self.log.judged(findings)
            self._show(Shown(findings.document, Stage.DONE, findings.motion, findings))
            if self._opening:
                self._opening = False
                QTimer.singleShot(0, self.going.to_opening)

    def _failed(self, number: int, error: Exception) -> None:
        if number != self.analyst.wanted or self.shown is None:
            return
        self.hand.drop()
        self.player.last(0.0)
        self._poses = carried(self.shown.document, {})
        self._show(Shown(self.shown.document, Stage.FAILED, faults=faults_of(error)))
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

    def let_go(self) -> "list[NDArray[np.float64]]":
        """What the hand lets go of: the places through which all goes that has a rest, none where nothing moves."""
        return self.hand.let_go()

    def put_on(self, q: "NDArray[np.float64]") -> None:
        """Shows the mechanism at positions (P, 3) on its way from where the hand let it go."""
        if self.motion is not None and self.posed is not None:
            self.hand.put(self.motion, q)
            self.time_changed.emit()

    def touches(self) -> "list[Touch]":
        """Where contacts touch as the mechanism stands now."""
        motion, document = self.motion, self.document
        if motion is None or document is None or motion.document is not document or not document.contacts:
            return []
        from anakinema.kinematics.touches import touches

        return touches(motion, self.positions())

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
        self.configurations.next()

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

    def slides(self, one: str, two: str) -> bool:
        """Whether a part moves against another at the moment shown; not where a motion knows them not yet."""
        motion = self.motion
        if motion is None or not {one, two} <= set(motion.system.body_ids):
            return False
        state = motion.at(np.array([self.time]))
        a, b = (state.v[0, motion.system.body(part)] for part in (one, two))
        return float(np.abs(a - b).max()) > 1e-9 * max(float(np.abs(state.v).max()), 1e-12)

    # -- measured values and free travel -------------------------------------------------------------------

    def measured(self, name: str) -> float:
        """A measure of the document where the parts stand now (core units)."""
        from anakinema.findings.measuring import value_now

        assert self.document is not None
        motion = self.motion if self.posed is None else None
        return value_now(self.document.measures[name], self.document, motion, self.time, self.poses())

    def find_travel(self, joint: str) -> None:
        """Looks how far a joint can go either way from where it stands."""
        if self.motion is None or self.busy or joint not in self.motion.system.coordinates:
            self.message.emit(f"The free travel of '{joint}' can't be looked for yet")
            return
        self.player.pause()
        self.message.emit(f"Looking how far '{joint}' can go…")
        self.study_client.study("travel", self.motion.document, self.motion, self.positions(), joint)

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

    def put(self, q: "NDArray[np.float64]") -> None:
        """Puts the parts where they are to stand (P, 3: document lengths, rad), as the hand would."""
        if self.motion is None:
            return
        before = self.posed
        self.hand.put(self.motion, q)
        if before is None:
            self.posed_changed.emit()
        self.time_changed.emit()

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
            self._poses = _by_part(motion, self.positions())
        return self._poses

    def start_poses(self) -> dict[str, Pose]:
        """Where every part of the document stands when the motion starts."""
        known = {name: part.pose for name, part in self.document.parts.items()} if self.document is not None else {}
        if self.motion is None:
            return known | self._poses
        return known | _by_part(self.motion, self.motion.positions(np.array([0.0]))[0])

    # -- selection and moment ----------------------------------------------------------------------------------

    def select(self, place: str, more: bool = False) -> None:
        """Selects by kind and name: ``joints.ram``; empty for nothing. With `more`, besides what is selected, or not
        any longer where it is."""
        chosen = [one for one in (self.selection, *self.others) if one]
        if more and place in chosen:
            chosen.remove(place)
        elif more and place:
            chosen.insert(0, place)
        elif not more:
            chosen = [place]
        self.select_all(chosen)

    def select_all(self, places: Sequence[str]) -> None:
        """Selects several; the first is what the card shows."""
        first, others = (places[0], tuple(places[1:])) if places else ("", ())
        if (first, others) != (self.selection, self.others):
            self.selection, self.others = first, others
            self.selection_changed.emit()

    def kind_of(self, place: str) -> tuple[str, str]:
        """Kind and id of a selected thing, empty where it is gone."""
        kind, _, name = place.partition(".")
        if kind == "joints" and self.document is not None:
            other = next((one for one in ("couplings", "contacts") if name in getattr(self.document, one)), kind)
            if other != kind:
                return other, name
        items = getattr(self.document, kind, {}) if kind and self.document is not None else {}
        return (kind, name) if name in items else ("", "")

    def selected(self) -> tuple[str, str]:
        """Kind and id of what is selected, empty where nothing is or it is gone."""
        return self.kind_of(self.selection)

    def chosen(self, kind: str) -> list[str]:
        """The names of all of a kind that are selected, in the order in which they were; of parts also those of a
        sub-assembly or a group that is."""
        found: dict[str, None] = {}
        for place in (*reversed(self.others), self.selection):
            what, name = self.kind_of(place)
            if what == kind:
                found[name] = None
            elif what == "groups" and kind == "parts" and self.document is not None:
                found |= dict.fromkeys(self.document.groups[name].parts)
            elif what == "uses" and kind == "parts" and self.document is not None:
                found |= dict.fromkeys(part for part in self.document.parts if part.startswith(f"{name}/"))
        return list(found)

    @property
    def place(self) -> tuple[str, ...]:
        """Where what is selected stands in the document's tree; empty where nothing is."""
        kind, name = self.selected()
        if not kind or self.document is None:
            return ()
        section = SECTIONS.get(kind, kind)
        return self.document.home(section, name) if section in INSIDE else (section, name)

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


def _by_part(motion: "Motion", positions: "NDArray[np.float64]") -> dict[str, Pose]:
    """The poses of all parts, of the positions of all bodies (P, 3)."""
    placed = zip(motion.system.body_ids, positions.tolist(), strict=True)
    return {part: (x, y, angle) for part, (x, y, angle) in placed if part}
