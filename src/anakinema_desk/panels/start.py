"""What an empty bench offers first, and the short guide through a first mechanism."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.document import Document

from ..session import Session
from ..theme.labels import Label


@dataclass(frozen=True)
class Step:
    """A step of the guide: what to do, and how it is known to be done."""

    text: str
    done: Callable[[Session, Document], bool]


STEPS = (
    Step("The frame: take the bar (B), click twice, about 100 mm apart. The first part is fixed to the ground",
         lambda session, document: bool(document.parts)),
    Step("The crank: with the bar still in the hand click the frame's left end, then a little above it",
         lambda session, document: len(document.joints) >= 1),
    Step("The rocker: click the frame's right end, then well above it. It must be longer than the crank",
         lambda session, document: len(document.joints) >= 2),
    Step("The coupler: click the crank's free end, then the rocker's. Both are pinned, the loop is closed",
         lambda session, document: len(document.joints) >= 4),
    Step("Drive it: Escape puts the tool away; click the pin of the crank on the frame, then press R",
         lambda session, document: bool(document.drivers)),
    Step("Watch it: press the space bar. The tracks below show every joint through the turn",
         lambda session, document: session.playing),
)  # fmt: skip


class Guide(QObject):
    """Walks through a first mechanism, a crank that drives a rocker."""

    changed = Signal()

    def __init__(self, session: Session):
        super().__init__(session)
        self.session = session
        self.at = -1
        session.document_changed.connect(self._look)
        session.playing_changed.connect(self._look)
        session.editor.opened.connect(self._opened)

    @property
    def text(self) -> str:
        """What to do next; empty while it does not guide."""
        return f"{self.at + 1} of {len(STEPS)}   {STEPS[self.at].text}" if 0 <= self.at < len(STEPS) else ""

    def start(self) -> None:
        """Begins, on an empty bench."""
        self.at = 0
        self._look()
        self.changed.emit()

    def stop(self) -> None:
        """Guides no further."""
        if self.at >= 0:
            self.at = -1
            self.changed.emit()

    def _opened(self) -> None:
        if self.session.document is not None and self.session.document.parts:  # another mechanism is looked at now
            self.stop()

    def _look(self) -> None:
        document, before = self.session.document, self.at
        while document is not None and 0 <= self.at < len(STEPS) and STEPS[self.at].done(self.session, document):
            self.at += 1
        if self.at == len(STEPS):
            self.at = -1
            self.session.message.emit("That is a crank-rocker. Select anything to see its numbers and to change them")
        if self.at != before:
            self.changed.emit()


class Start(QWidget):
    """The offers of an empty bench, each a button."""

    def __init__(self, offers: list[tuple[str, str, Callable[[], None]]], parent: QWidget):
        super().__init__(parent)
        layout = QVBoxLayout(self)
        layout.setSpacing(10)
        head = Label("Nothing on the bench yet")
        head.setProperty("role", "heading")
        head.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout.addWidget(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        for row, (word, description, run) in enumerate(offers):
            button = QPushButton(word)
            button.clicked.connect(run)
            text = Label(description)
            text.setProperty("role", "muted")
            grid.addWidget(button, row, 0)
            grid.addWidget(text, row, 1)
        layout.addLayout(grid)

    def offer(self, wanted: bool) -> None:
        """Stands in the middle of what it lies over, or goes."""
        over = self.parentWidget()
        if wanted and over is not None:
            self.adjustSize()
            self.move(max((over.width() - self.width()) // 2, 4), max((over.height() - self.height()) // 2, 50))
        self.setVisible(wanted)
