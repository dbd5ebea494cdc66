"""The commands that put in hardware."""

from anakinema.document.model import Document, PointRef
from anakinema.errors import DocumentError
from anakinema.hardware import TABLES
from anakinema.operations.fastening import (
    WAYS,
    bolt_together,
    pin_joint,
    pinned_points,
    proposed_size,
    put_piece,
    seats,
    sizes_of,
)

from .doing import Doing
from .registry import Command

PROPOSED = " (proposed)"


class Fastening(Doing):
    """Pins, screws, nuts, washers and rings, through joints and groups."""

    def commands(self) -> list[Command]:
        """The commands, for the menu Build."""
        session = self.session
        return [
            Command("pin-joint", "Pin this joint…", "Build", self.pin, "Alt+P", divider=True,
                    enabled=lambda: self.chosen("joints"),
                    hint="A screw or pin with what holds it, through the selected joint; its length is chosen"),
            Command("piece", "Put in one piece…", "Build", self.piece, "Alt+H", enabled=lambda: self.chosen("joints"),
                    hint="A spacer, collar, bearing or any piece of the tables, on the axis of the joint"),
            Command("bolt", "Bolt these together…", "Build", self.bolt, "Alt+B",
                    enabled=lambda: len(session.selection.chosen("parts")) > 1,
                    hint="A screw, washer and nut at every place where holes of the parts that are selected line up"),
        ]  # fmt: skip

    def pin(self) -> None:
        """Pins the joint that is selected."""
        document, joint, points = self._axis("Not pinned")
        if document is None:
            return
        way = self._way("Pin this joint")
        size = self._size(way, proposed_size(document, points, way)) if way else ""
        if size:
            self.make(lambda document: pin_joint(document, joint, way, size), "Pin this joint")

    def piece(self) -> None:
        """Puts in one piece of a table on the axis of the joint that is selected."""
        document, _, points = self._axis("Not put in")
        if document is None:
            return
        titles = {f"{one.title}, {name}": name for name, one in TABLES.items()}
        standard = titles.get(self.asking.one_of("Put in one piece", "What?", sorted(titles)), "")
        size = self.asking.one_of("Put in one piece", "Which size?", list(TABLES[standard].rows)) if standard else ""
        faces = {f"{'front' if front else 'back'} of {name}": (name, front) for name, front in seats(document, points)}
        face = self.asking.one_of("Put in one piece", "On which face, from the front?", list(faces)) if size else ""
        seat = faces.get(face)
        if seat is None:
            return
        kind, to = TABLES[standard].kind, ""
        if kind.fills or (kind.long and not kind.turns):
            others = [name for name in dict.fromkeys(name for name, _ in faces.values()) if name != seat[0]]
            to = self.asking.one_of("Put in one piece", "To what does it reach?", others)
            if not to:
                return
        self.make(lambda document: put_piece(document, points, standard, size, seat, to), "Put in one piece")

    def bolt(self) -> None:
        """Bolts the parts together that are selected."""
        parts = self.session.selection.chosen("parts")
        way = self._way("Bolt these together")
        if way:
            self.make(lambda document: bolt_together(document, parts, way), "Bolt these together")

    def _axis(self, headline: str) -> tuple[Document | None, str, list[PointRef]]:
        """The document, the joint that is selected, and the points on its axis; no document where it has no axis."""
        document, joint = self.session.document, self.session.selection.current()[1]
        if document is None or joint not in document.joints:
            return None, "", []
        try:
            return document, joint, pinned_points(document, joint)
        except DocumentError as error:
            self.session.faults_raised.emit(headline, error.faults)
            return None, "", []

    def _way(self, title: str) -> str:
        """With what; empty where the user thinks better of it."""
        titles = {one.title: name for name, one in WAYS.items()}
        return titles.get(self.asking.one_of(title, "With what?", list(titles)), "")

    def _size(self, way: str, proposed: str) -> str:
        """In which size; the one that is proposed comes first."""
        others = [size for size in sizes_of(way) if size != proposed]
        found = self.asking.one_of(WAYS[way].title, "Which size?", [proposed + PROPOSED, *others])
        return found.removesuffix(PROPOSED)
