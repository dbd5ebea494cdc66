"""What commands that change the document have in common: what is selected, making, asking."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from anakinema.document import Document
from anakinema.errors import DocumentError, listed
from anakinema.geometry.drawn import Outline
from anakinema.operations import Made

from ..session import Session
from ..state import DrawingClient

if TYPE_CHECKING:
    from ..canvas.canvas import Canvas
    from ..panels.properties import Properties


class Asking(Protocol):
    """Asks the user; the window does."""

    def agreed(self, title: str, text: str, yes: str) -> bool:
        """Whether the user wants something."""

    def choice(self, title: str, text: str, words: Sequence[str]) -> str:
        """One of a few words; empty where the user thinks better of it."""

    def one_of(self, title: str, text: str, words: Sequence[str]) -> str:
        """One of some words, the first proposed; empty where the user thinks better of it."""

    def word(self, title: str, what: str, usual: str) -> str:
        """A word or a few; empty where the user thinks better of it."""

    def file(self, title: str, kinds: str) -> Path | None:
        """A file to read."""

    def new_file(self, title: str, name: str, kinds: str) -> Path | None:
        """A file to write."""

    def drawn(self, path: Path, unit: str, drawing_client: DrawingClient) -> list[Outline]:
        """What of a drawing is to become parts, in a unit of length."""


class Doing:
    """Commands of one subject."""

    def __init__(
        self, session: Session, canvas: "Callable[[], Canvas]", properties: "Callable[[], Properties]", asking: Asking
    ):
        self.session, self.asking = session, asking
        self._bench, self._card = canvas, properties

    def chosen(self, *kinds: str) -> bool:
        """Whether what is selected first is of one of some kinds."""
        return self.session.selection.current()[0] in kinds

    def make(self, made: Callable[[Document], Made], text: str, select: bool = True) -> bool:
        """Makes something, and selects it, or says what hinders it; whether it was made."""
        document = self.session.document
        if document is None:
            return False
        try:
            found = made(document)
            faults = self.session.apply(found.changes, text)
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit(f"Not done: {text[0].lower()}{text[1:]}", faults)
            return False
        if select and found.place:
            self.session.selection.select(".".join(map(str, found.place)))
        if found.dropped:
            self.session.warned.emit(f"Taken away, for it means nothing now: {listed(found.dropped)}", ())
        if found.left:
            self.session.warned.emit(f"The copies are not joined by {listed(found.left)} as the first is", ())
        return True
