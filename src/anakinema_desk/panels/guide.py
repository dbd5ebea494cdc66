"""Short ways through the application, step by step: a first mechanism from nothing, a first look at the demo."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from anakinema.document import Document

from ..session import Session
from ..theme.labels import Label
from .overlay import Overlay

ASIDE, WIDEST = 14, 620
"""How far the card lies from the edges of the bench, and how wide it is at most (pixels)."""


@dataclass(frozen=True)
class Step:
    """A step: what to do, and how it is known to be done, the document at the beginning of the way being given too."""

    text: str
    done: Callable[[Session, Document, Document | None], bool]


@dataclass(frozen=True)
class Way:
    """Steps one after the other, and what is said at the end."""

    steps: tuple[Step, ...]
    end: str


def _at_a_failure(session: Session) -> bool:
    failed = session.findings.failed if session.findings is not None else []
    return any(session.selection.place == f"checks.{one.check.id}" and abs(session.time - one.t) < 1e-9
               for one in failed)  # fmt: skip


FIRST_MECHANISM = Way((
    Step("The frame: take the bar (B), click twice, about 100 mm apart. The first part is fixed to the ground",
         lambda session, document, before: bool(document.parts)),
    Step("The crank: with the bar still in the hand click the frame's left end, then a little above it",
         lambda session, document, before: len(document.joints) >= 1),
    Step("The rocker: click the frame's right end, then well above it. It must be longer than the crank",
         lambda session, document, before: len(document.joints) >= 2),
    Step("The coupler: click the crank's free end, then the rocker's. Both are pinned, the loop is closed",
         lambda session, document, before: len(document.joints) >= 4),
    Step("Drive it: Escape puts the tool away; click the pin of the crank on the frame, then press R",
         lambda session, document, before: bool(document.drivers)),
    Step("Watch it: press the space bar. The tracks below show every joint through the turn",
         lambda session, document, before: session.playing),
), "That is a crank-rocker. Select anything to see its numbers and to change them")  # fmt: skip

FIRST_LOOK = Way((
    Step("Watch it: press the space bar. The tracks below show every joint along the turn of the crank",
         lambda session, document, before: session.playing),
    Step("One check fails. Click what the line above says in colour: it goes to where it is worst, and shows the gap",
         lambda session, document, before: _at_a_failure(session)),
    Step("Change a number: at the right, click empty paper for the parameters, type another throw, Enter",
         lambda session, document, before: before is not None and document.parameters != before.parameters),
    Step("Try before you change: Ctrl+1, then the slider. What is tried is solid, its checks stand beside it",
         lambda session, document, before: bool(session.trying.numbers)),
), "That is the way of the work. Ctrl+Z takes the change back; F1 has the rest")  # fmt: skip


class Guide(QObject):
    """Walks along a way; a step that is done leads to the next, and any may be passed over."""

    changed = Signal()

    def __init__(self, session: Session):
        super().__init__(session)
        self.session = session
        self.at = -1
        self.way = FIRST_MECHANISM
        self._before: Document | None = None
        for signal in (session.document_changed, session.playing_changed, session.time_changed,
                       session.selection.changed, session.trying.changed):  # fmt: skip
            signal.connect(self._look)
        session.editor.opened.connect(self._opened)

    @property
    def text(self) -> str:
        """What to do next; empty while it does not guide."""
        steps = self.way.steps
        return f"{self.at + 1} of {len(steps)}   {steps[self.at].text}" if 0 <= self.at < len(steps) else ""

    def start(self, way: Way = FIRST_MECHANISM) -> None:
        """Begins: a first mechanism on an empty bench, a first look with the demo."""
        self.way, self.at, self._before = way, 0, self.session.document
        self._look()
        self.changed.emit()

    def stop(self) -> None:
        """Guides no further."""
        if self.at >= 0:
            self.at = -1
            self.changed.emit()

    def skip(self) -> None:
        """Passes a step over."""
        if self.at >= 0:
            self.at += 1
            self._end()
            self.changed.emit()

    def _opened(self) -> None:
        if self.session.document is not None and self.session.document.parts:  # another mechanism is looked at now
            self.stop()

    def _look(self) -> None:
        document, at, steps = self.session.document, self.at, self.way.steps
        while document is not None and 0 <= self.at < len(steps) and steps[self.at].done(
            self.session, document, self._before
        ):
            self.at += 1
        if self.at != at:
            self._end()
            self.changed.emit()

    def _end(self) -> None:
        if self.at >= len(self.way.steps):
            self.at = -1
            self.session.message.emit(self.way.end)


class GuideCard(Overlay):
    """What the guide says, along the lower edge of the bench, with the ways on and out."""

    def __init__(self, bench: QWidget, guide: Guide):
        super().__init__(bench)
        self.guide = guide
        self.setObjectName("trial")
        self.text = Label()
        self.text.setWordWrap(True)
        self.next, self.leave = QPushButton("Next"), QPushButton("Leave")
        self.next.setToolTip("Passes this step over")
        self.leave.setToolTip("Guides no further; the Help menu has it again")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 8, 6)
        row.addWidget(self.text, 1)
        for button in (self.next, self.leave):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keyboard stays with the bench
            row.addWidget(button)
        self.next.clicked.connect(guide.skip)
        self.leave.clicked.connect(guide.stop)
        guide.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Says the step, or goes."""
        self.text.setText(self.guide.text)
        self.setVisible(bool(self.guide.text))
        if self.isVisible():
            self.raise_()
            self.place()

    def place(self) -> None:
        wide = min(self.bench.width() - 2 * ASIDE, WIDEST)
        high = max(self.heightForWidth(wide), self.sizeHint().height())
        self.setGeometry((self.bench.width() - wide) // 2, self.bench.height() - high - ASIDE, wide, high)
