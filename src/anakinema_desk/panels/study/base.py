"""What the panels of studies have in common: a form on the left, what was found beside it, progress and giving up."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QGraphicsOpacityEffect,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document
from anakinema.errors import DocumentError, Fault
from anakinema.kinds import Dimension
from anakinema.studies.numbers import Dial, dial, held

from ...session import Session
from ...theme.choices import Choice
from ...theme.labels import Label, set_role, tip
from ...theme.tokens import Tokens

PALE = 0.4
"""How much of what is of before a change shows."""
FORM = 276
"""Width of a form (pixels)."""


class StudyPage(QWidget):
    """One study."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.asked = 0
        """The number of the question that was asked last."""
        self._asked_of: Document | None = None
        self.form = QGridLayout()
        self.form.setHorizontalSpacing(8)
        self.form.setVerticalSpacing(4)
        self.form.setColumnStretch(1, 1)
        left = QWidget()
        left.setFixedWidth(FORM)
        self.left = QVBoxLayout(left)
        self.left.setContentsMargins(12, 8, 8, 8)
        self.left.setSpacing(6)
        self.left.addLayout(self.form)
        self.run = QPushButton("Find")
        self.stop = QPushButton("Give up")
        self.stop.setEnabled(False)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(5)
        self.progress.setRange(0, 1000)
        kept = self.progress.sizePolicy()
        kept.setRetainSizeWhenHidden(True)
        self.progress.setSizePolicy(kept)
        self.progress.hide()
        buttons = QHBoxLayout()
        buttons.addWidget(self.run)
        buttons.addWidget(self.stop)
        buttons.addStretch(1)
        self.left.addLayout(buttons)
        self.left.addWidget(self.progress)
        self.message = Label()
        self.message.setWordWrap(True)
        self.message.setProperty("role", "muted")
        self.left.addWidget(self.message)
        self.of: Document | None = None
        """The document that what is shown was found of."""
        self.old = QPushButton("Of before the change: do it again")
        self.old.setToolTip("What stands here was found of the design as it was; a click finds it of this one")
        self.old.setProperty("role", "warn")
        self.old.hide()
        self.old.clicked.connect(self.begin)
        self.left.addWidget(self.old)
        self.left.addStretch(1)
        self.layout_ = QHBoxLayout(self)
        self.layout_.setContentsMargins(0, 0, 0, 0)
        self.layout_.setSpacing(0)
        self.layout_.addWidget(left)
        self.run.clicked.connect(self.begin)
        self.stop.clicked.connect(self.give_up)
        study_client = session.study_client
        study_client.found.connect(self._found)
        study_client.failed.connect(self._failed)
        study_client.progressed.connect(self._progressed)
        session.editor.opened.connect(self._other_document)

    # -- what pages say ----------------------------------------------------------------------------------------

    def ask(self) -> int:
        """Asks the student; gives the number of the question. Raises `DocumentError` where the form makes no sense."""
        raise NotImplementedError

    def take(self, found: object) -> bool:
        """Shows what was found, if it is of this page."""
        raise NotImplementedError

    def refresh(self) -> None:
        """Fills the form for the document as it is."""

    def forget(self) -> None:
        """Shows nothing that was found."""

    def results(self) -> Sequence[QWidget]:
        """What shows what was found, or acts on it."""
        return ()

    def commit(self) -> None:
        """Writes into the document what is being typed in the form, before it is asked."""

    def mark(self) -> None:
        """Marks what was found of the design before a change, so that nobody takes it for this one."""
        stale = self.of is not None and self.of is not self.session.document
        self.old.setVisible(stale)
        for widget in self.results():
            widget.setEnabled(not stale and self.of is not None)
            if stale and widget.graphicsEffect() is None:
                pale = QGraphicsOpacityEffect(widget)
                pale.setOpacity(PALE)
                widget.setGraphicsEffect(pale)
            elif not stale:
                widget.setGraphicsEffect(None)  # type: ignore[arg-type]

    def _other_document(self) -> None:
        self.give_up()
        self.of = None
        self.say("")
        self.forget()
        self.mark()

    # -- asking ------------------------------------------------------------------------------------------------

    def begin(self) -> bool:
        """Asks what the form says; whether that makes sense."""
        self.commit()
        if self.session.document is None:
            return False
        try:
            self.asked, self._asked_of = self.ask(), self.session.document
        except DocumentError as error:
            self.say(error.faults[0].text if not error.faults[0].place else str(error.faults[0]), bad=True)
            return False
        self.stop.setEnabled(True)
        self.progress.show()
        self.say("Working…")
        return True

    def give_up(self) -> None:
        """Gives up what is under way."""
        if self.asked and self.asked == self.session.study_client.wanted:
            self.session.study_client.cancel()
            self.say("Given up.")
        self._rest()

    def say(self, text: str, bad: bool = False) -> None:
        """A line below the form."""
        self.message.setText(text)
        set_role(self.message, "bad" if bad else "muted")

    def _rest(self) -> None:
        self.asked = 0
        self.stop.setEnabled(False)
        self.progress.setValue(0)
        self.progress.hide()

    def _found(self, number: int, found: object) -> None:
        if number != self.asked:
            return
        self.say("")  # a fault that was told before is none any more
        if self.take(found):
            self.of = self._asked_of
            self.mark()
            self._rest()

    def _failed(self, number: int, error: Exception) -> None:
        if number == self.asked:
            known = str(error.faults[0]) if isinstance(error, DocumentError) else ""
            self.say(known or f"A mistake of this program: {error!r}", bad=True)
            self._rest()

    def _progressed(self, number: int, share: float) -> None:
        if number == self.asked:
            self.progress.setValue(int(1000 * share))

    # -- forms -------------------------------------------------------------------------------------------------

    def row(self, caption: str, widget: QWidget, hint: str = "") -> None:
        """A line of the form."""
        label = Label(caption)
        label.setBuddy(widget)
        label.setToolTip(tip(hint))
        widget.setToolTip(tip(hint))
        widget.setAccessibleName(caption)
        number = self.form.rowCount()
        self.form.addWidget(label, number, 0)
        self.form.addWidget(widget, number, 1)

    def line(self, caption: str, hint: str = "", empty: str = "") -> QLineEdit:
        """A line to type in; Enter asks."""
        field = QLineEdit()
        field.setPlaceholderText(empty)
        field.returnPressed.connect(lambda: field.setProperty("wrong", not self.begin()))  # wrong, it keeps the keys
        self.row(caption, field, hint)
        return field

    def choice(self, caption: str, hint: str = "") -> QComboBox:
        """One of a few."""
        box = Choice()
        box.setMinimumContentsLength(10)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.row(caption, box, hint)
        return box

    def number(self, text: str, dimension: Dimension, what: str) -> float:
        """What is typed as a number (core units). Raises `DocumentError`."""
        document = self.session.document
        assert document is not None
        try:
            return document.worth(text, dimension)
        except ExpressionError as error:
            raise DocumentError([Fault("", f"{what}: {error}")]) from error

    def turned(self, name: str, text: str, what: str) -> float | None:
        """What is typed for a parameter, in its own unit; None where nothing is."""
        document = self.session.document
        if not text.strip() or document is None:
            return None
        one = dial(document, name)
        return self.number(text, one.dimension, what) * one.dimension.per_core(document.units)


def fill(box: QComboBox, words: Sequence[str], told: Callable[[str], str] = str) -> None:
    """Other words to choose from, each shown as it is `told`; what was chosen stays where it is still there."""
    shown = [(told(word), word) for word in words]
    if [(box.itemText(k), box.itemData(k)) for k in range(box.count())] == shown:
        return
    before = box.currentData()
    box.blockSignals(True)
    box.clear()
    for text, word in shown:
        box.addItem(text, word)
    if before in words:
        box.setCurrentIndex(box.findData(before))
    box.blockSignals(False)


def dials(document: Document) -> list[Dial]:
    """The parameters that can be turned."""
    found = []
    for name in held(document):
        try:
            found.append(dial(document, name))
        except DocumentError:
            continue
    return found


def table(heads: Sequence[str], widths: Sequence[int], what: str) -> QTableWidget:
    """An empty table that is read line by line; `what` it is called aloud, `widths` in pixels, the last stretches."""
    made = QTableWidget(0, len(heads))
    made.setWordWrap(False)
    made.setHorizontalHeaderLabels(list(heads))
    made.setAccessibleName(what)
    made.verticalHeader().hide()
    made.setShowGrid(False)
    made.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    made.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    header = made.horizontalHeader()
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
    header.setStretchLastSection(True)
    for column, width in enumerate(widths):
        made.setColumnWidth(column, width)
    return made
