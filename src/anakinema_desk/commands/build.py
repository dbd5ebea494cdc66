"""The commands that build: tools in the hand, and what is done to what is selected."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from anakinema.document import Document, Put, Take
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
    strand,
)

from ..bench.tools import TOOLS
from ..session import Session
from .registry import Command

if TYPE_CHECKING:
    from ..bench.bench import Bench
    from ..panels.card import Card

TOLD = {
    "bar": "Draw a bar with a hole at each end; what is drawn from a hole of another part is pinned there",
    "disc": "Draw a disc: a wheel, a pin, a roller",
    "plate": "Draw a rectangular plate",
    "hole": "Make a hole in a part, to join it by",
    "join": "Join two parts by a feature of each",
}
"""What each tool is for."""
MOST_TOLD = 12
"""Things named in a question; the rest is counted."""
ASIDE = 40
"""How far aside a duplicate is put (pixels)."""
WAY = 60
"""How far a slide is driven at first (pixels)."""
SINGULAR = {"parts": "part", "joints": "joint", "drivers": "driver", "traces": "trace", "checks": "check",
            "pairs": "what is said of the pair"}  # fmt: skip


class Build:
    """Makes and takes away. `agreed` asks: title, text, and the word for yes; `asked` for a count: title, what is
    counted, and how many it may be (0: none)."""

    def __init__(
        self, session: Session, bench: "Callable[[], Bench]", card: "Callable[[], Card]",
        agreed: Callable[[str, str, str], bool], asked: Callable[[str, str, int], int],
    ):
        self.session, self.agreed, self.asked = session, agreed, asked
        self._bench, self._card = bench, card

    def commands(self) -> list[Command]:
        """The commands of the menu Build."""
        session = self.session
        tools = [
            Command(
                f"tool-{name}", tool.title, "Build", lambda name=name: self._bench().take(name), tool.keys,
                enabled=lambda: session.document is not None, checked=lambda name=name: self._in_hand(name),
                hint=TOLD[name],
            )
            for name, tool in TOOLS.items()
        ]
        return [
            *tools,
            Command(
                "drive", "Drive", "Build", self.drive, "R", enabled=lambda: self._chosen("joints"), divider=True,
                hint="Drive the joint that is selected, through a turn or along a way",
            ),
            Command(
                "fixed", "Fixed to the ground", "Build", self.fix, "G", enabled=lambda: self._chosen("parts"),
                checked=self._is_fixed, hint="The part that is selected stays at its pose: it belongs to the frame",
            ),
            Command(
                "duplicate", "Duplicate", "Build", self.duplicate, "Ctrl+U", enabled=lambda: self._chosen("parts"),
                hint="Another part like the one that is selected, beside it", divider=True,
            ),
            Command(
                "copy", "Copy that follows", "Build", self.copy, "Ctrl+Shift+U", enabled=lambda: self._chosen("parts"),
                hint="A copy of the part that is selected: what is changed in that changes here too",
            ),
            Command(
                "mirror", "Mirrored copy", "Build", self.mirror, enabled=lambda: self._chosen("parts"),
                hint="A copy that is turned over, and follows",
            ),
            Command(
                "row", "Row of copies…", "Build", self.row, enabled=lambda: self._chosen("parts"),
                hint="Copies of the part that is selected, each as far on as the part is long",
            ),
            Command(
                "around", "Copies around the origin…", "Build", self.around, enabled=lambda: self._chosen("parts"),
                hint="Copies of the part that is selected, evenly around the origin of the plane",
            ),
            Command(
                "strand", "Strand of links…", "Build", self.strand, enabled=lambda: self._chosen("parts"),
                hint="Links like the part that is selected, each pinned to the one before",
            ),
            Command(
                "unique", "Make a part of its own", "Build", self.unique, enabled=self._is_copy,
                hint="The copy that is selected no longer follows",
            ),
            Command("rename", "Rename", "Build", lambda: self._card().rename(), "F2",
                    enabled=lambda: bool(session.selection), hint="All that refers to it follows"),
            Command("delete", "Delete", "Build", self.delete, "Del", enabled=lambda: bool(session.selection),
                    hint="What needs it goes with it, after a question"),
        ]  # fmt: skip

    # -- what is there -----------------------------------------------------------------------------------------

    def _in_hand(self, name: str) -> bool:
        tool = self._bench().tool
        return tool is not None and tool.name == name

    def _chosen(self, kind: str) -> bool:
        return self.session.selected()[0] == kind

    def _is_fixed(self) -> bool:
        kind, name = self.session.selected()
        document = self.session.document
        return kind == "parts" and document is not None and document.parts[name].fixed

    # -- what is done ------------------------------------------------------------------------------------------

    def _make(self, kind: str, made: Callable[[Document], Made], text: str) -> None:
        """Makes something of what is selected, which is of a kind, and selects it, or says what hinders it."""
        document = self.session.document
        if document is None or not self._chosen(kind):  # another thing is selected than when the command was offered
            return
        try:
            found = made(document)
            faults = self.session.apply(found.changes, text)
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit(f"Not done: {text.lower()}", faults)
        else:
            self.session.select(".".join(map(str, found.place)))

    def drive(self) -> None:
        """Drives the joint that is selected, from where it stands."""
        name, motion = self.session.selected()[1], self.session.motion
        at = 0.0
        if motion is not None and name in motion.system.coordinates:
            at = float(self.session.coordinates()[motion.system.coordinates.index(name)])
        reach = max(round(WAY / self._bench().scale), 1)
        self._make("joints", lambda document: drive(document, name, at, reach), f"Drive {name}")

    def fix(self) -> None:
        """Fixes the part that is selected, or sets it free."""
        name, fixed = self.session.selected()[1], self._is_fixed()
        place = ("parts", name, "fixed")
        change = Take(place) if fixed else Put(place, True)
        self._make("parts", lambda _: Made((change,), ("parts", name)), f"Set {name} free" if fixed else f"Fix {name}")

    def duplicate(self) -> None:
        """Puts another part like the one that is selected beside it."""
        name, step = self.session.selected()[1], max(round(ASIDE / self._bench().scale), 1)
        self._make("parts", lambda document: duplicate(document, name, complex(step, -step)), f"Duplicate {name}")

    def copy(self) -> None:
        """Puts a copy that follows beside the part that is selected."""
        name, step = self.session.selected()[1], max(round(ASIDE / self._bench().scale), 1)
        self._make("parts", lambda document: copy_row(document, name, 1, complex(step, -step)), f"Copy {name}")

    def mirror(self) -> None:
        """Puts a copy that is turned over below the part that is selected."""
        name, step = self.session.selected()[1], max(round(ASIDE / self._bench().scale), 1)
        self._make("parts", lambda document: copy_mirrored(document, name, complex(0, -step)), f"Mirror {name}")

    def row(self) -> None:
        """A row of copies, each as far on as the part is wide on the bench."""
        name = self.session.selected()[1]
        count = self.asked(f"Row of copies of {name}", "how many more", 3)
        if count and self._chosen("parts"):
            wide = self._bench().width_of(name)
            self._make("parts", lambda document: copy_row(document, name, count, complex(wide, 0)), f"Row of {name}")

    def around(self) -> None:
        """Copies around the origin."""
        name = self.session.selected()[1]
        count = self.asked(f"Copies of {name} around the origin", "how many in all", 6)
        if count:
            self._make("parts", lambda document: copy_around(document, name, count, 0j), f"{name} around")

    def strand(self) -> None:
        """A strand of links."""
        name = self.session.selected()[1]
        count = self.asked(f"Strand of links like {name}", "how many in all", 10)
        if count:
            self._make("parts", lambda document: strand(document, name, count), f"Strand of {name}")

    def unique(self) -> None:
        """The copy that is selected no longer follows."""
        name = self.session.selected()[1]
        self._make("parts", lambda document: make_unique(document, name), f"Make {name} a part of its own")

    def _is_copy(self) -> bool:
        kind, name = self.session.selected()
        document = self.session.document
        return kind == "parts" and document is not None and bool(document.parts[name].of)

    def delete(self) -> None:
        """Deletes what is selected; what goes with it is told before."""
        document, place = self.session.document, tuple(self.session.selection.split("."))
        if document is None or len(place) != 2:
            return
        try:
            leaving = leave(document, place)
        except DocumentError as error:
            self.session.faults_raised.emit("Not deleted", error.faults)
            return
        if leaving.also:
            told = [f"{SINGULAR.get(str(other[0]), other[0])} {other[1]}" for other in leaving.also]
            more = f" and {len(told) - MOST_TOLD} more" if len(told) > MOST_TOLD else ""
            text = f"With {place[1]} goes what can't be without it: {', '.join(told[:MOST_TOLD])}{more}."
            if not self.agreed(f"Delete {place[1]}", text, "Delete all that"):
                return
        faults = self.session.apply(leaving.changes, f"Delete {place[1]}")
        if faults:
            self.session.faults_raised.emit("Not deleted", faults)
