"""The commands that build: tools in the hand, and what is done to what is selected."""

import math
from collections.abc import Callable
from functools import partial

from anakinema.document import Change, Document, Remove, Set, changed
from anakinema.document.expressions import ExpressionError
from anakinema.document.sections import INSIDE
from anakinema.document.sections import SECTIONS as SECTIONS_OF_FILE
from anakinema.errors import DocumentError
from anakinema.operations import (
    Made,
    copy_around,
    copy_mirrored,
    copy_row,
    drive,
    duplicate,
    leave,
    make_unique,
    reanchored,
    repeat,
    spelt_out,
    strand,
    tied_elsewhere,
    told_row,
    with_outline_of,
)
from anakinema.operations.own_features import own_feature, without
from anakinema.operations.ready import READY, make_ready
from anakinema.operations.readymade import cover_plate, gears_of

from ..canvas.tools import TOOLS
from ..panels.fields import as_value
from ..state.selection import SECTIONS
from .doing import Doing
from .registry import Command

TOLD = {
    "bar": "Draw a bar with a hole at each end; what is drawn from a hole of another part is pinned there",
    "disc": "Draw a disc: a wheel, a pin, a roller",
    "plate": "Draw a rectangular plate",
    "outline": "Draw a part by its outline of lines and arcs",
    "angle": "Draw an L-shaped plate",
    "tee": "Draw a T-shaped plate",
    "hole": "Make a hole in a part, to join it by",
    "slot": "Make a straight slot in a part",
    "arc-slot": "Make a slot along an arc in a part",
    "boss": "Set a boss or a pin on a part, in front of it",
    "point": "Name a point of a part, to join or to measure by",
    "copy-onto": "Copies of a part that arrive joined, at the holes that are clicked",
    "picture": "Two clicks on the picture under the bench, and how far apart the places really are",
    "trace": "A point leaves its path, on the frame or on a moving part",
    "cut-line": "A line across the plan along which the stack is cut, for the depth view",
    "measure": "Measure a distance or an angle, through the whole motion",
    "join": "Join two parts by a feature of each",
    "mirror-about": "Mirror the parts that are selected about a line, with their joints",
    "rejoin": "Join the joint that is selected to another hole, slot or side",
    "cam": "A cam from a shaft and a follower, with a first program to be changed",
    "contact": "Two parts may touch and part again, and never pass each other",
}
"""What each tool is for."""
MOST_TOLD = 12
"""Things named in a question; the rest is counted."""
ASIDE = 40
"""How far aside a duplicate is put (pixels)."""
WAY = 60
"""How far a slide is driven at first (pixels)."""


class Build(Doing):
    """Makes and takes away."""

    def commands(self) -> list[Command]:
        """The commands of the menu Build."""
        session = self.session
        tools = [
            Command(
                f"tool-{name}", tool.title, "Build", partial(self._take, name), tool.keys,
                enabled=lambda: session.document is not None, checked=partial(self._in_hand, name),
                hint=TOLD[name],
            )
            for name, tool in TOOLS.items()
        ]
        return [
            *tools,
            Command(
                "drive", "Drive", "Build", self.drive, "R", enabled=lambda: self.chosen("joints"), divider=True,
                hint="Drive the joint that is selected, through a turn or along a way",
            ),
            Command(
                "fixed", "Fixed to the ground", "Build", self.fix, "G", enabled=lambda: self.chosen("parts"),
                checked=self._is_fixed, hint="The part that is selected stays at its pose: it belongs to the frame",
            ),
            Command(
                "duplicate", "Duplicate", "Build", self.duplicate, "Ctrl+U", enabled=lambda: self.chosen("parts"),
                hint="Another part like the one that is selected, beside it", divider=True,
            ),
            Command(
                "copy", "Copy that follows", "Build", self.copy, "Ctrl+Shift+U", enabled=lambda: self.chosen("parts"),
                hint="A copy of the part that is selected: what is changed in that changes here too",
            ),
            Command(
                "mirror", "Mirrored copy", "Build", self.mirror, enabled=lambda: self.chosen("parts"),
                hint="A copy that is turned over, and follows",
            ),
            Command(
                "row", "Row of copies…", "Build", self.row, enabled=lambda: self.chosen("parts"),
                hint="Copies of the part that is selected, each as far on as the part is long, joined as it is",
            ),
            Command(
                "around", "Copies around the origin…", "Build", self.around, enabled=lambda: self.chosen("parts"),
                hint="Copies of the part that is selected, evenly around the origin of the plane, joined as it is",
            ),
            Command(
                "strand", "Strand of links…", "Build", self.strand, enabled=lambda: self.chosen("parts"),
                hint="Links like the part that is selected, each pinned to the one before",
            ),
            Command(
                "unique", "Make a part of its own", "Build", self.unique, enabled=self._is_copy,
                hint="The copy that is selected no longer follows; what a repeat makes become copies, each by itself",
            ),
            Command("outline-of", "Take the outline of the other", "Build", self.outline_of, enabled=self._two_parts,
                    hint="Two parts are selected: the first keeps its joints and gets the outline of the second"),
            Command("reanchor", "Give its joints to the other", "Build", self.reanchor, enabled=self._two_parts,
                    hint="Two parts are selected: what is joined to the first is joined to the second instead"),
            Command("gears-of", "Gears of the two discs", "Build", self.gears_of, enabled=self._two_parts,
                    hint="Two discs that turn on one part become wheels that mesh, by the ratio of their sizes"),
            Command("cover", "Cover plate in front", "Build", self.cover, enabled=lambda: self.chosen("parts"),
                    hint="A plate of the part's outline, held to it, in front of all that moves there"),
            Command("ready", "Ready shape…", "Build", self.ready, "W", enabled=lambda: session.document is not None,
                    hint="A ratchet with its pawl, a detent, a snail, an indexing wheel, in the middle of the view"),
            Command("rename", "Rename", "Build", lambda: self._card().rename(), "F2",
                    enabled=lambda: bool(session.selection.place), hint="All that refers to it follows"),
            Command("delete", "Delete", "Build", self.delete, "Del", enabled=lambda: bool(session.selection.place),
                    hint="What needs it goes with it, after a question"),
        ]  # fmt: skip

    # -- what is there -----------------------------------------------------------------------------------------

    def _take(self, name: str) -> None:
        self._bench().take(name)

    def _in_hand(self, name: str) -> bool:
        tool = self._bench().tool
        return tool is not None and tool.name == name

    def _is_fixed(self) -> bool:
        kind, name = self.session.selection.current()
        document = self.session.document
        return kind == "parts" and document is not None and document.parts[name].fixed

    # -- what is done ------------------------------------------------------------------------------------------

    def _make(self, kind: str, made: Callable[[Document], Made], text: str) -> None:
        """Makes something of what is selected, which is of a kind."""
        if self.chosen(kind):  # another thing may be selected than when the command was offered
            self.make(made, text)

    def drive(self) -> None:
        """Drives the joint that is selected, from where it stands."""
        name, motion = self.session.selection.current()[1], self.session.motion
        at = 0.0
        if motion is not None and name in motion.system.coordinates:
            at = float(self.session.posing.coordinates()[motion.system.coordinates.index(name)])
        reach = max(round(WAY / self._bench().scale), 1)
        self._make("joints", lambda document: drive(document, name, at, reach), f"Drive {name}")

    def fix(self) -> None:
        """Fixes the part that is selected, or sets it free."""
        name, fixed, document = self.session.selection.current()[1], self._is_fixed(), self.session.document
        assert document is not None
        place = (*document.home("parts", name), "fixed")
        change = Remove(place) if fixed else Set(place, True)
        self._make("parts", lambda _: Made((change,), ("parts", name)), f"Set {name} free" if fixed else f"Fix {name}")

    def duplicate(self) -> None:
        """Puts another part like the one that is selected beside it."""
        name, step = self.session.selection.current()[1], max(round(ASIDE / self._bench().scale), 1)
        self._make("parts", lambda document: duplicate(document, name, complex(step, -step)), f"Duplicate {name}")

    def copy(self) -> None:
        """Puts a copy that follows beside the part that is selected."""
        name, step = self.session.selection.current()[1], max(round(ASIDE / self._bench().scale), 1)
        aside = complex(step, -step)
        self._make("parts", lambda document: copy_row(document, name, 1, aside), f"Copy {name}")

    def mirror(self) -> None:
        """Puts a copy that is turned over below the part that is selected."""
        name, step = self.session.selection.current()[1], max(round(ASIDE / self._bench().scale), 1)
        self._make("parts", lambda document: copy_mirrored(document, name, complex(0, -step)), f"Mirror {name}")

    def _two_parts(self) -> bool:
        return len(self.session.selection.chosen("parts")) == 2

    def gears_of(self) -> None:
        """Makes wheels that mesh of the two discs that are selected."""
        if self._two_parts():
            one, two = self.session.selection.chosen("parts")
            self.make(lambda document: gears_of(document, one, two), f"Gears of {one} and {two}")

    def cover(self) -> None:
        """Puts a cover plate in front of the part that is selected."""
        name, start = self.session.selection.current()[1], self.session.posing.start_poses()
        self._make("parts", lambda document: cover_plate(document, name, start), f"Cover plate of {name}")

    def outline_of(self) -> None:
        """The part that was selected first gets the outline of the other, which goes."""
        if self._two_parts():
            one, two = self.session.selection.chosen("parts")
            start = self.session.posing.start_poses()
            self.make(lambda document: with_outline_of(document, one, two, start), f"Outline of {two} for {one}")

    def reanchor(self) -> None:
        """What is joined to the part that was selected first is joined to the other instead."""
        if self._two_parts():
            one, two = self.session.selection.chosen("parts")
            start = self.session.posing.start_poses()
            self.make(lambda document: reanchored(document, one, two, start), f"Joints of {one} to {two}")

    def ready(self) -> None:
        """Makes a ready shape in the middle of the view, about a third of it large."""
        title = self.asking.choice("Ready shape", "Which one?", [one.title for one in READY.values()])
        kind = next((name for name, one in READY.items() if one.title == title), "")
        if not kind:
            return
        one, count = READY[kind], None
        if one.count:
            text = self.asking.word(one.title, f"{one.hint}. How many {one.count}?", str(one.usual))
            if not text:
                return
            if not text.strip().isdigit():
                self.session.message.emit(f"'{text}' is no number of {one.count}: write {one.usual}, say")
                return
            count = int(text)
        bench = self._bench()
        at, size = complex(bench.center.x(), bench.center.y()), bench.height() / bench.scale / 4
        self.make(lambda document: make_ready(document, kind, at, size, count), one.title)

    def row(self) -> None:
        """A row of copies: so many, at a pitch or over a whole; else each as far on as the part is wide."""
        name, wide = self.session.selection.current()[1], self._bench().width_of(self.session.selection.current()[1])
        usual = f"3 at {wide:.4g}"
        text = self.asking.word(f"Row of copies of {name}", "How many more: 3 at 60 mm, or 3 over 180 mm", usual)
        row = told_row(text)
        if not text or not self.chosen("parts"):
            return
        if row is None:
            self.session.message.emit(f"'{text}' says no row: write 3 at 60 mm, or 3 over 180 mm")
            return
        count, pitch, whole = row
        pitch = f"({pitch})/({count})" if pitch and whole else pitch or f"{wide:.9g}"
        stand = self.session.posing.poses()
        if isinstance(count, str):
            how = {"pitch": [as_value(pitch), 0]}
            self._make("parts", lambda document: repeat(document, name, f"({count}) + 1", how), f"Row of {name}")
            return
        self._make("parts", lambda document: copy_row(document, name, count, pitch, stand), f"Row of {name}")

    def around(self) -> None:
        """Copies around the origin: over the whole turn, or over a part of it."""
        name, document = self.session.selection.current()[1], self.session.document
        what = "How many in all: 6, or 4 over 90 deg"
        text = self.asking.word(f"Copies of {name} around the origin", what, "6")
        row = told_row(text)
        if not text or document is None or not self.chosen("parts"):
            return
        if row is None:
            self.session.message.emit(f"'{text}' says no count: write 6, or 4 over 90 deg")
            return
        if isinstance(row[0], str):
            over = (
                {} if not row[1] else {"over": row[1] if row[2] else f"({row[1]})*({row[0]} - 1)"}
            )
            how = {"center": [0, 0], **over}
            self._make("parts", lambda document: repeat(document, name, str(row[0]), how), f"{name} around")
            return
        count, whole = row[0], math.tau
        try:
            if row[1]:
                whole = document.worth(row[1], "angle")
                whole *= 1.0 if row[2] else count - 1
        except ExpressionError as error:
            self.session.message.emit(f"'{row[1]}': {error}")
            return
        stand = self.session.posing.poses()
        self._make("parts", lambda document: copy_around(document, name, count, 0j, whole, stand), f"{name} around")

    def strand(self) -> None:
        """A strand of links."""
        name = self.session.selection.current()[1]
        text = self.asking.word(f"Strand of links like {name}", "How many in all: 10, or an expression", "10")
        row = told_row(text)
        if not text or not self.chosen("parts"):
            return
        if row is None or row[1]:
            self.session.message.emit(f"'{text}' says no count: write 10, or an expression of parameters")
            return
        count = row[0]
        if isinstance(count, str):
            self._make("parts", lambda document: repeat(document, name, count, {"strand": True}), f"Strand of {name}")
        else:
            self._make("parts", lambda document: strand(document, name, count), f"Strand of {name}")

    def unique(self) -> None:
        """The copy that is selected no longer follows."""
        kind, name = self.session.selection.current()
        if repeated := self._repeat():
            message = f"Make what {repeated} repeats copies"
            self._make(kind, lambda document: spelt_out(document, repeated), message)
        else:
            self._make("parts", lambda document: make_unique(document, name), f"Make {name} a part of its own")

    def _repeat(self) -> str:
        """The repeat that is selected, itself or by something that it made."""
        kind, name = self.session.selection.current()
        document = self.session.document
        if document is None or kind not in ("uses", "parts"):
            return ""
        if kind == "parts":
            return document.repeat_of(name)
        return name if document.uses[name].of else ""

    def _is_copy(self) -> bool:
        kind, name = self.session.selection.current()
        document = self.session.document
        copied = kind == "parts" and document is not None and bool(document.parts[name].of)
        return copied or bool(self._repeat())

    def delete(self) -> None:
        """Deletes what is selected; what goes with it is told before, and joints of a part may be tied to another
        part at the same place instead."""
        document, places = self.session.document, self.places()
        if document is None or not places:
            return
        if self.session.selection.current()[0] == "features":
            self._delete_feature(document)
            return
        try:
            leaving = leave(document, *places)
        except DocumentError as error:
            self.session.faults_raised.emit("Not deleted", error.faults)
            return
        what = str(places[0][-1]) if len(places) == 1 else f"{len(places)} things"
        changes = leaving.changes
        if leaving.also:
            named = [_told(place) for place in leaving.also]
            more = f" and {len(named) - MOST_TOLD} more" if len(named) > MOST_TOLD else ""
            text = f"With {what} goes what can't be without it: {', '.join(named[:MOST_TOLD])}{more}."
            tied = self._tied_elsewhere(document, places)
            if tied:
                text += f"\n{len(tied)} of its joints could be tied to other parts at the same place."
            words = ("Tie the joints to other parts", "Delete all that") if tied else ("Delete all that",)
            answer = self.asking.choice(f"Delete {what}", text, words)
            if not answer:
                return
            if answer == words[0] and tied:
                kept = changed(document, *tied)
                changes = (*tied, *leave(kept, *places).changes)
        faults = self.session.apply(changes, f"Delete {what}")
        if faults:
            self.session.faults_raised.emit("Not deleted", faults)

    def _delete_feature(self, document: Document) -> None:
        """Takes the hole, slot, point or edge that is selected away; its part is selected then."""
        name = self.session.selection.current()[1]
        one = own_feature(document, name)
        if one is None:
            return
        try:
            faults = self.session.apply(without(document, one), f"Delete {name}")
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit("Not deleted", faults)
        else:
            self.session.selection.select(f"parts.{one.part}")

    def places(self) -> list[tuple[str, ...]]:
        """Where all that is selected stands in the tree."""
        document, found = self.session.document, []
        for selected in (self.session.selection.place, *self.session.selection.others):
            kind, name = self.session.selection.kind_of(selected)
            section = SECTIONS.get(kind, kind)
            if kind in ("parts", "joints") and document is not None and document.repeat_of(name):
                kind, section, name = "uses", "parts", document.repeat_of(name)
            if kind and document is not None:
                found.append(document.home(section, name) if section in INSIDE else (section, name))
        return found

    def _tied_elsewhere(self, document: Document, places: list[tuple[str, ...]]) -> tuple[Change, ...]:
        """The changes that tie the joints of a part that goes to others at the same place."""
        if len(places) != 1 or places[0][0] != "parts" or not self.chosen("parts"):
            return ()
        return tied_elsewhere(document, self.session.selection.current()[1], self.session.posing.poses())


def _told(place: tuple[str | int, ...]) -> str:
    """What stands at a place, in words."""
    inner = place[2:] if place[0] == "assemblies" and len(place) > 2 else place
    name = inner[-1] if inner[0] == "parts" and len(inner) > 2 else inner[1]
    section = SECTIONS_OF_FILE.get(str(inner[0]))
    return f"{section.singular if section is not None else inner[0]} {name}"
