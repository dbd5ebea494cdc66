"""The commands that ask something of the mechanism: positions, wiggling, ties between joints, programs."""

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer, QIODevice

from anakinema.document import Document, Set, changed
from anakinema.document.expressions import ExpressionError
from anakinema.document.segments import table_program
from anakinema.errors import DocumentError, Fault, located
from anakinema.findings.measuring import dimension_of, found_now, value_at
from anakinema.findings.moments import told_moment
from anakinema.formatting import in_document_units, shown
from anakinema.joints import COUPLING_TYPES
from anakinema.kinematics.positions import stands_at
from anakinema.kinematics.touches import heading
from anakinema.measures import MEASURE_TYPES
from anakinema.operations import (
    Made,
    Offer,
    ReadOff,
    add_check,
    add_expression,
    add_measure,
    add_track,
    cam_of_motion,
    check_measure,
    couple,
    couplings_for,
    keep_position,
    move_apart,
    moved_track,
    new_program,
    offers,
    read_table,
    slot_along,
    stop_here,
    touch,
    touch_all,
    usual_width,
)

from ..timeline.curves import TRACK, entry_of
from .doing import Doing
from .palette import Line, Palette
from .registry import Command

MOST_KEPT = 12
"""Tracks that stay when the first is chosen."""
TRIAL = "trial-of-this"
"""The check that is tried to see what it would measure."""
MOST_BYTES = 5_000_000
"""Of a table that is read."""
if TYPE_CHECKING:
    from ..timeline.timeline import Timeline


class Study(Doing):
    """Where the mechanism stands, how it moves, what moves with what."""

    timeline: "Callable[[], Timeline]"
    chooser: Palette
    """The list from which a quantity is chosen."""

    def commands(self) -> list[Command]:
        """The commands, for the menus Build and Motion."""
        session = self.session
        return [
            *(
                Command(f"tie-{name}", f"Couple by {kind.phrase}", "Build", partial(self.tie, name),
                        divider=number == 0, enabled=partial(self.can_tie, name),
                        hint=f"{kind.title} between the two joints that are selected")
                for number, (name, kind) in enumerate(COUPLING_TYPES.items())
            ),
            Command("touch", "Contact of the two parts", "Build", self.touch, divider=True,
                    enabled=lambda: len(session.selection.chosen("parts")) == 2,
                    hint="The two parts that are selected may touch and part again, and never pass each other"),
            Command("touch-all", "Contact with all that it meets", "Build", self.touch_all,
                    enabled=lambda: self.chosen("parts"),
                    hint="The part that is selected passes none that share its depth and are not joined to it"),
            Command("move-apart", "Move apart what overlaps", "Build", self.move_apart,
                    enabled=lambda: session.motion is not None and session.document is not None
                    and bool(session.document.contacts),
                    hint="The least movement after which no contact begins with parts in each other"),
            Command("stop-here", "Stop here", "Build", self.stop_here,
                    enabled=lambda: self.chosen("parts") and session.motion is not None,
                    hint="A fixed pin where the part that is selected stands, on the side to which it goes"),
            Command("check-measure", "Check this measure", "Build", self.check, enabled=lambda: self.chosen("measures"),
                    hint="A check that the measure never gets below what it is now; its card has the bound"),
            Command("name-value", "Keep as a measure…", "Motion", self.name_value,
                    enabled=lambda: bool(self.offered(False)),
                    hint="A quantity of what is selected gets a name, for checks and expressions to speak of"),
            Command("name-expression", "Measure an expression", "Motion", self.name_expression,
                    enabled=lambda: session.document is not None and bool(session.document.measures),
                    hint="A difference, a ratio, the larger of two measures; its card has the expression"),
            Command("track", "Show as a track…", "Motion", self.track, "Y", enabled=lambda: bool(self.offered(True)),
                    divider=True, hint="A quantity of what is selected, along the motion"),
            Command("check-this", "Check this…", "Motion", self.check_this, "Shift+Y",
                    enabled=lambda: bool(self.offered(False)),
                    hint="What is selected must keep something: travel, clearance, speed…"),
            Command("pin", "Pin this run", "Motion", self.pin, "Ctrl+P",
                    checked=lambda: session.trying.pinned is not None,
                    enabled=lambda: session.findings is not None or session.trying.pinned is not None,
                    hint="Lays this run beneath the tracks, to compare those to come with it"),
            Command("save-tracks", "Save the tracks as a table…", "File", self.save_tracks,
                    enabled=lambda: session.findings is not None),
            Command("save-strip", "Save the tracks as a picture…", "File", self.save_strip,
                    enabled=lambda: session.findings is not None),
            *(Command(f"track-{name}", text, "", partial(self.on_track, name),
                      enabled=lambda: self.chosen("tracks"))
              for name, text in (("up", "Track further up"), ("down", "Track further down"), ("taller", "Taller track"),
                                 ("lower", "Lower track"))),
            Command("travel", "Find the free travel", "Motion", self.travel, "Shift+Q",
                    enabled=lambda: self.chosen("joints") and (session.motion is not None or session.analysis.busy),
                    hint="How far the joint can go either way, and what stops it there"),
            Command("read-table", "Program from a table…", "Motion", self.read_table,
                    enabled=lambda: session.document is not None, divider=True,
                    hint="Times and values from a CSV file become a program, which a driver can run by"),
            Command("slot-along", "Slot along this path…", "Build", self.slot_along,
                    enabled=lambda: self.chosen("traces") and session.motion is not None,
                    hint="The path becomes a slot in the part on which it is seen, its ends the limits"),
            Command("cam-of-motion", "Cam from this motion…", "Build", self.cam_of_motion,
                    enabled=lambda: len(session.selection.chosen("joints")) == 2 and session.motion is not None,
                    hint="Two joints, shaft then follower: the lift over a turn becomes a program, and a cam gives it"),
            Command("go-to", "Go to a moment…", "Motion", self.go_to, "Ctrl+Shift+G",
                    enabled=lambda: session.motion is not None and session.end > 0, divider=True,
                    hint="A value of the driver, a time or a step is typed, and the play head goes there"),
            Command("ghost", "Keep this position in sight", "Motion", session.keep_ghost, "Shift+P",
                    checked=lambda: session.trying.ghost is not None, enabled=lambda: session.motion is not None,
                    hint="A ghost stays where the mechanism stands now; cards say how far joints are from it"),
            Command("wiggle", "Wiggle", "Motion", self.wiggle, "Q", enabled=lambda: session.motion is not None,
                    divider=True, hint="Moves the joint that is selected, else the newest, through its freedom"),
            Command("keep-position", "Keep this position", "Motion", self.keep, "K",
                    enabled=lambda: session.motion is not None,
                    hint="Where the mechanism stands now gets a name, to go back to"),
            Command("go-position", "Go to the next position", "Motion", self.go_next, "Shift+K",
                    enabled=lambda: session.document is not None and bool(session.document.positions)),
            Command("update-position", "Put the position here", "Motion", self.update,
                    enabled=lambda: self.chosen("positions") and session.motion is not None,
                    hint="The position that is selected becomes where the mechanism stands now"),
        ]  # fmt: skip

    def go_to(self) -> None:
        """Goes to a moment that is typed."""
        motion, document = self.session.motion, self.session.document
        if motion is None or document is None:
            return
        value = motion.driver_value(self.session.time)
        usual = "" if value is None else shown(value, motion.driver_dimension, document.units, 3)
        text = self.asking.word("Go to a moment", "A value of the driver, a time such as 0.06 s, or step 108",
                                usual.replace("°", " deg").replace("−", "-"))  # fmt: skip
        if not text:
            return
        try:
            t = told_moment(motion, text.replace("°", " deg"), self.session.time)
        except DocumentError as error:
            self.session.faults_raised.emit("Not gone there", error.faults)
            return
        self.session.pause()
        self.session.go(t)

    def can_tie(self, kind: str) -> bool:
        """Whether two joints are selected that a coupling can tie."""
        document, joints = self.session.document, self.session.selection.chosen("joints")
        if document is None or len(joints) != 2:
            return False
        one, two = joints
        return kind in couplings_for(document, one, two) or kind in couplings_for(document, two, one)

    def tie(self, kind: str) -> None:
        """Ties the two joints that are selected."""
        joints = self.session.selection.chosen("joints")
        if len(joints) == 2:
            self.make(lambda document: couple(document, kind, *joints), f"Couple by {COUPLING_TYPES[kind].phrase}")

    def write_cam(self, joint: str) -> None:
        """Writes the profile of a cam to a file."""
        from anakinema.formats.cam_files import POINTS, write_cam

        document = self.session.document
        if document is None:
            return
        kinds = "Drawing (*.dxf);;Drawing (*.svg);;Sheets at true size (*.pdf);;Table (*.csv)"
        path = self.asking.new_file(f"Write the profile of {joint}", f"{joint}.dxf", kinds)
        if path is None:
            return
        try:
            write_cam(path, document, joint, POINTS, 0.0, 0.0)
        except DocumentError as error:
            self.session.faults_raised.emit("Not written", error.faults)
        except (OSError, ValueError) as error:
            self.session.faults_raised.emit("Not written", (Fault(path.name, str(error)),))
        else:
            self.session.message.emit(f"The profile of {joint} is in {path.name}")

    def cam_of_motion(self) -> None:
        """Reads the lift of the second joint over a turn of the first as a program, with a cam that gives it."""
        document, motion, joints = self.session.document, self.session.motion, self.session.selection.chosen("joints")
        if document is None or motion is None or motion.document is not document or len(joints) != 2:
            return
        counts = "angle" if document.joints[joints[1]].kind.pin else "length"
        allowed = self._size("Cam from this motion", "How far the program may miss the lift", "0.01", counts)
        if allowed is None:
            return
        read: list[ReadOff] = []

        def made(_: Document) -> Made:
            read.append(cam_of_motion(motion, joints[0], joints[1], allowed))
            return read[0].made

        if self.make(made, f"Cam from the motion of {joints[1]}"):
            missed = shown(read[0].error, counts, document.units, 6)
            self.session.message.emit(f"{read[0].points} points miss the lift by {missed} at most; its outline is worn "
                                      "too: take the old one away when it is no longer needed")  # fmt: skip

    def _size(self, title: str, what: str, usual: str, counts: str = "length") -> float | None:
        """A size that is asked for, as an expression (core units); None where there is none, or it can't be read, which
        is told."""
        document = self.session.document
        if document is None:
            return None
        text = self.asking.word(title, f"{what} ({document.units.written(counts)})", usual)
        if not text:
            return None
        try:
            return document.worth(text, counts)
        except ExpressionError as error:
            self.session.faults_raised.emit(f"Not done: {title[0].lower()}{title[1:]}", (Fault(text, str(error)),))
            return None

    def slot_along(self) -> None:
        """Cuts the path that is selected into the part on which it is seen."""
        document, motion, name = self.session.document, self.session.motion, self.session.selection.current()[1]
        if document is None or motion is None or motion.document is not document:
            return
        usual = usual_width(document, name) or 6.0
        width = self._size("Slot along this path", "How wide", f"{usual:g}")
        if width is not None:
            self.make(lambda _: slot_along(motion, name, width), f"Slot along {name}")

    def touch(self) -> None:
        """A contact of the two parts that are selected."""
        parts = self.session.selection.chosen("parts")
        if len(parts) == 2:
            self.make(lambda document: touch(document, *parts), f"Contact of {parts[0]} with {parts[1]}")

    def touch_all(self) -> None:
        """Contacts of the part that is selected with all that it meets."""
        part = self.session.selection.current()[1]
        self.make(lambda document: touch_all(document, part), f"Contact of {part} with all that it meets")

    def move_apart(self) -> None:
        """Moves apart the parts of contacts that overlap."""
        poses = self.session.posing.poses()
        self.make(lambda document: move_apart(document, poses), "Move apart what overlaps")

    def stop_here(self) -> None:
        """Makes a stop where the part that is selected stands, on the side to which the motion takes it."""
        part, poses, motion = self.session.selection.current()[1], self.session.posing.poses(), self.session.motion
        if motion is None:
            return
        way = heading(motion, part, self.session.time)
        self.make(lambda document: stop_here(document, part, poses, way), f"Stop {part} here")

    def offered(self, tracks: bool) -> list[Offer]:
        """The measures that can be taken of what is selected."""
        document = self.session.document
        if document is None:
            return []
        kinds = ("joints", "couplings", "traces", "measures", "parts", "tracks")
        chosen = {kind: self.session.selection.chosen(kind) for kind in kinds}
        return [one for one in offers(document, chosen) if not (tracks and one.whole)]

    def _choose(self, title: str, tracks: bool, act: Callable[[Offer], None]) -> None:
        """Lets a quantity of what is selected be chosen, where there are several; each with its value now."""
        found = self.offered(tracks)
        if len(found) == 1:
            act(found[0])
        elif found:
            told = [MEASURE_TYPES[one.entry["measure"]].description for one in found]
            lines = [Line(one.words, partial(act, one), self._value_now(one), hint)
                     for one, hint in zip(found, told, strict=True)]  # fmt: skip
            self.chooser.choose(f"{title}: which quantity?", lines, title)

    def _value_now(self, one: Offer) -> str:
        """What a quantity is now, or over the whole motion where it is one number for that; empty where it can't be
        told."""
        motion, document = self.session.motion, self.session.document
        if motion is None or document is None or self.session.posing.posed is not None:
            return ""
        try:
            trial = changed(document, Set(("checks", TRIAL), {**one.entry, "at_most": 0}))
            measure = trial.checks[TRIAL].measured
            if measure.kind == "clearance" or MEASURE_TYPES[measure.kind].slow:
                return ""
            value = value_at(measure, motion, self.session.time)
            return "" if value is None else shown(value, dimension_of(measure, trial), document.units, 3)
        except DocumentError:
            return ""

    def track(self) -> None:
        """Shows a quantity of what is selected as a track."""
        self._choose("Show as a track", True, self.add_track)

    def add_track(self, one: Offer) -> None:
        """Makes a track; where none was chosen yet, those that are shown stay."""
        if self.session.document is not None:
            shown = [entry_of(entry.series) for entry in self.timeline().entries
                     if not entry.track and entry.series.bars is None][:MOST_KEPT]
            self.make(lambda document: add_track(document, one.entry, shown), f"Track {one.words.lower()}")

    def check_this(self) -> None:
        """Makes a check of what is selected; its bound is what is found now."""
        self._choose("Check this", False, self.add_check)

    def add_check(self, one: Offer) -> None:
        """Makes a check, its bound what is found now."""
        document, findings = self.session.document, self.session.findings
        if document is None:
            return
        value, measure = None, None
        if findings is not None:
            try:
                trial = changed(document, Set(("checks", TRIAL), {**one.entry, "at_most": 0}))
                measure = trial.checks[TRIAL].measured
                value = found_now(findings.motion, measure, one.entry["measure"])
            except DocumentError as error:
                self.session.faults_raised.emit("It can't be checked", error.faults)
                return
        self.make(lambda document: add_check(document, one.entry, value, measure), f"Check {one.words.lower()}")

    def name_value(self) -> None:
        """Makes a measure of what is selected."""
        self._choose("Keep as a measure", False, self.add_measure)

    def add_measure(self, one: Offer) -> None:
        """Gives a quantity a name."""
        self.make(lambda document: add_measure(document, one.entry), f"Measure {one.words.lower()}")

    def name_expression(self) -> None:
        """Makes a measure that is an expression of others; at first it is the first that there is."""
        self.make(add_expression, "Measure an expression")

    def pin(self) -> None:
        """Lays this run beneath the tracks, or takes the one that lies there away."""
        trying = self.session.trying
        trying.pin(None if trying.pinned is not None else self.session.findings)

    def on_track(self, what: str) -> None:
        """Moves the track that is selected, or makes it taller or lower."""
        document, name = self.session.document, self.session.selection.current()[1]
        if document is None or name not in document.tracks:
            return
        if what in ("up", "down"):
            self.session.apply([moved_track(document, name, -1 if what == "up" else 1)], f"Move track {name}")
            return
        now = document.tracks[name].height or TRACK
        height = min(max(round(now * (1.4 if what == "taller" else 1 / 1.4)), 34), 400)
        self.session.edit(("tracks", name, "height"), height, f"Height of track {name}")

    def save_tracks(self) -> None:
        """Writes the tracks as CSV."""
        path = self.asking.new_file("Save the tracks", "tracks.csv", "Tables (*.csv)")
        if path is not None:
            self.session.write(path, self.timeline().curves_csv().encode())

    def save_strip(self) -> None:
        """Writes a picture of the tracks."""
        path = self.asking.new_file("Save the picture", "tracks.png", "Pictures (*.png)")
        if path is not None:
            buffer = QBuffer()
            buffer.open(QIODevice.OpenModeFlag.WriteOnly)
            self.timeline().grab().save(buffer, "PNG")
            self.session.write(path, bytes(buffer.data().data()))

    def travel(self) -> None:
        """Looks for the free travel of the joint that is selected."""
        self.session.find_travel(self.session.selection.current()[1])

    def _table(self, title: str) -> tuple[Path, list[list[float]]] | None:
        """A table that is asked for; None where there is none, or it can't be read, which is told."""
        path = self.asking.file(title, "Tables (*.csv *.txt *.tsv);;All files (*)")
        if path is None:
            return None
        try:
            if path.stat().st_size > MOST_BYTES:
                raise located(path.name, "is larger than 5 MB; take every tenth row")
            return path, read_table(path.read_text(encoding="utf-8-sig", errors="replace"))
        except OSError as error:
            self.session.faults_raised.emit("Not read", (Fault(path.name, str(error.strerror or error)),))
        except DocumentError as error:
            self.session.faults_raised.emit(f"{path.name} was not read", error.faults)
        return None

    def read_cam_table(self, joint: str) -> None:
        """Reads coordinates of the shaft and of the follower from a file, as the program of a cam."""
        document = self.session.document
        found = self._table("A table of the shaft's coordinate and of the follower's, from 0 on")
        if found is None or document is None:
            return
        path, rows = found
        try:
            faults = self.session.apply(table_program(document, joint, rows), f"Table of {joint}")
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit(f"{path.name} makes no program", faults)

    def read_table(self, program: str = "") -> None:
        """Reads times and values from a file into a program: the one named, else a new one, which a driver that is
        selected then takes."""
        document = self.session.document
        found = self._table("A table of times and values")
        if found is None or document is None:
            return
        path, rows = found
        kind, driver = self.session.selection.current()
        if program:
            kept = {"points": rows, **{key: value for key, value in document.tree["programs"][program].items()
                                       if key in ("curve", "note")}}  # fmt: skip
            faults = self.session.edit(("programs", program), kept, f"Table of {program}")
            if faults:
                self.session.faults_raised.emit(f"{path.name} makes no program", faults)
            return
        word = re.sub(r"\W", "-", path.stem) or "table"
        if not self.make(lambda document: new_program(document, rows, word), "Program from a table"):
            return
        if kind == "drivers":
            name = self.session.selection.current()[1]
            entry = {key: value for key, value in document.tree["drivers"][driver].items()
                     if key not in ("to", "rate", "duration", "law", "follows")}  # fmt: skip
            self.session.edit(("drivers", driver), {**entry, "program": name}, f"Drive {driver} by {name}")

    def check(self) -> None:
        """Makes a check of the measure that is selected."""
        name, document = self.session.selection.current()[1], self.session.document
        if document is not None and name in document.measures:
            dimension = dimension_of(document.measures[name], document)
            now = round(in_document_units(self.session.posing.measured(name) or 0.0, dimension, document.units), 3)
            self.make(lambda document: check_measure(document, name, now), f"Check {name}")

    def wiggle(self) -> None:
        """Moves a joint to and fro."""
        document, (kind, name) = self.session.document, self.session.selection.current()
        if document is None:
            return
        if kind != "joints":
            name = next(reversed(list(document.joints)), "")
        if name:
            self.session.going.wiggle(name)

    def _where(self) -> dict[str, dict[str, float]] | None:
        document, motion = self.session.document, self.session.motion
        if document is None or motion is None:
            return None
        return stands_at(document, motion, self.session.posing.coordinates(), self.session.posing.posed is not None)

    def keep(self) -> None:
        """Keeps where the mechanism stands as a named position."""
        where, document = self._where(), self.session.document
        if where is None or document is None:
            return
        usual = f"position {len(document.positions) + 1}" if document.positions else "position"
        if name := self.asking.word("Keep this position", "What it is called", usual):
            self.make(lambda document: keep_position(document, where, name), "Keep this position")

    def update(self) -> None:
        """Puts the position that is selected where the mechanism stands."""
        name, where = self.session.selection.current()[1], self._where()
        document = self.session.document
        if where is None or document is None or name not in document.positions:
            return
        entry = {key: value for key, value in document.tree["positions"][name].items() if key == "note"}
        self.session.edit(("positions", name), {**where, **entry}, f"Put {name} here")

    def go_next(self) -> None:
        """Goes to the position after the one that is selected, else to the first."""
        document, (kind, name) = self.session.document, self.session.selection.current()
        if document is None or not document.positions:
            return
        names = list(document.positions)
        after = names[(names.index(name) + 1) % len(names)] if kind == "positions" else names[0]
        self.session.selection.select(f"positions.{after}")
        self.session.going.to_position(after)
