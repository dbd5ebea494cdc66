"""The list of events along the motion; a row leads to where it happens."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QTableWidgetItem, QVBoxLayout, QWidget

from anakinema.findings.moments import Moment, moments
from anakinema.formatting import shown

from ..session import Session
from ..soon import soon
from ..theme.labels import Label, tip
from .study.base import table

HEADS = ("Driver", "Time", "Event", "What")
WIDTHS = (90, 90, 130)


class Events(QWidget):
    """A table in the order of time, and a line to search it."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.moments: list[Moment] = []
        self.table = table(HEADS, WIDTHS, "Events along the motion")
        self.search = QLineEdit()
        self.search.setPlaceholderText("search, e.g. dead centre, ram, contact")
        self.search.setAccessibleName("Search the events")
        self.search.setClearButtonEnabled(True)
        self.line = Label()
        self.line.setProperty("role", "muted")
        top = QHBoxLayout()
        top.setContentsMargins(12, 5, 12, 5)
        top.setSpacing(10)
        top.addWidget(self.search, 1)
        top.addWidget(self.line)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(self.table, 1)
        self.search.textChanged.connect(lambda _: self.refresh())
        self.table.itemClicked.connect(lambda item: self.go(item.row()))
        self.table.itemActivated.connect(lambda item: self.go(item.row()))
        session.analysis.changed.connect(soon(self, self.refresh))

    def refresh(self) -> None:
        """Fills the table, where it is looked at."""
        if not self.isVisible():
            return
        findings = self.session.findings
        every = moments(findings) if findings is not None else []
        words = self.search.text().lower().split()
        self.moments = [one for one in every
                        if all(word in f"{one.kind.value} {one.text}".lower() for word in words)]  # fmt: skip
        self.table.setRowCount(len(self.moments))
        for row, one in enumerate(self.moments):
            for column, text in enumerate(self._texts(one)):
                item = QTableWidgetItem(text)
                item.setToolTip(tip(text))
                if column < 2:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        known = "Nothing is known of this version yet." if findings is None else f"{len(self.moments)} of {len(every)}"
        self.line.setText(f"{known}  A row leads there.")

    def _texts(self, one: Moment) -> tuple[str, ...]:
        motion, document = self.session.motion, self.session.document
        if motion is None or document is None:
            return "", "", one.kind.value, one.text
        value = motion.driver_value(one.t)
        at = "–" if value is None else shown(value, motion.driver_dimension, document.units, 2)
        return at, shown(one.t, "time", document.units, 4), one.kind.value, one.text

    def go(self, row: int) -> None:
        """Goes to a moment, and selects whose it is."""
        if 0 <= row < len(self.moments):
            one = self.moments[row]
            self.session.pause()
            self.session.go(one.t)
            if self.session.selection.kind_of(one.place)[0]:
                self.session.selection.select(one.place)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()
