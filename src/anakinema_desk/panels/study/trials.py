"""The log of trials: every accepted change with what the checks said before and after; a star, a note, the way back."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from anakinema.errors import Fault
from anakinema.operations import place_words
from anakinema.studies import trials

from ...session import Session
from ...theme.labels import Label, tip
from ...theme.tokens import Tokens
from .base import table

HEADS = ("", "Time", "What", "From", "To", "Checks that came out otherwise", "Note")
WIDTHS = (46, 104, 210, 110, 110, 360)
TIME, WHAT, NOTE = 1, 2, 6


class Trials(QWidget):
    """The table, newest row last."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self._filling = False
        self.table = table(HEADS, WIDTHS, "Trials")
        self.table.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.compared = table(("What", "", ""), (150, 150), "Two trials compared")
        """Two trials side by side; shown while two rows are compared."""
        self.compared.hide()
        self.line = Label()
        self.line.setProperty("role", "muted")
        self.line.setWordWrap(True)
        self.star, self.back = QPushButton("Star"), QPushButton("Go back to after this row")
        self.compare = QPushButton("Compare two")
        self.compare.setToolTip("Select two rows with Ctrl: what differs between them")
        self.before, self.save = QPushButton("Go back to before all"), QPushButton("Save the table…")
        self.back.setToolTip("Undoes what the later rows changed, as one step; the log keeps them")
        top = QHBoxLayout()
        top.setContentsMargins(12, 5, 12, 5)
        top.setSpacing(8)
        top.addWidget(self.line, 1)
        for button in (self.star, self.compare, self.back, self.before, self.save):
            top.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        tables = QHBoxLayout()
        tables.setSpacing(0)
        tables.addWidget(self.table, 3)
        tables.addWidget(self.compared, 2)
        layout.addLayout(tables, 1)
        self.star.clicked.connect(self.toggle_star)
        self.back.clicked.connect(lambda: self.restore(self.table.currentRow()))
        self.before.clicked.connect(lambda: self.restore(-1))
        self.save.clicked.connect(self.save_table)
        self.compare.clicked.connect(self.compare_two)
        self.table.itemSelectionChanged.connect(self._enable)
        self.table.itemChanged.connect(self._noted)
        self.table.currentCellChanged.connect(lambda *_: self._enable())
        session.log.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Fills the table, where it is looked at."""
        if not self.isVisible():
            return
        rows = self.session.log.rows
        at, last = self.table.currentRow(), self.table.rowCount()
        self._filling = True
        self.table.setRowCount(len(rows))
        for number, line in enumerate(trials.table(rows)[1:]):
            for column, text in enumerate((*line[:WHAT], self._what(rows[number]), *line[WHAT + 1 :])):
                item = QTableWidgetItem(text[5:16].replace("T", "  ") if column == TIME else text)
                item.setToolTip(tip(text))
                if column != NOTE:
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                self.table.setItem(number, column, item)
        self._filling = False
        if len(rows) != last:
            self.table.setCurrentCell(len(rows) - 1, 0)
            self.table.scrollToBottom()
        elif at >= 0:
            self.table.setCurrentCell(at, 0)
        self._enable()

    def _what(self, row: trials.Row) -> str:
        """What a row changed, as it is said."""
        document, changes = self.session.document, row.get("changes", [])
        if document is None or not changes:
            return trials.said(changes)[0]
        first = place_words(document, changes[0]["place"])
        return f"{first} and {len(changes) - 1} more" if len(changes) > 1 else first

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def _enable(self) -> None:
        rows, at = self.session.log.rows, self.table.currentRow()
        chosen = 0 <= at < len(rows)
        self.star.setEnabled(chosen)
        self.star.setText("Take the star away" if chosen and rows[at].get("star") else "Star")
        self.back.setEnabled(chosen and at < len(rows) - 1)
        self.before.setEnabled(bool(rows))
        self.compare.setEnabled(len(self._chosen()) == 2 or self.compared.isVisible())
        self.compare.setText("Put the comparison away" if self.compared.isVisible() else "Compare two")
        self.save.setEnabled(bool(rows))
        count = f"{len(rows)} trials" if len(rows) != 1 else "1 trial"
        self.line.setText(f"{count}; saved with the file. Double-click a note to write it." if rows else
                          "Every change becomes a row, with what the checks said.")

    def _noted(self, item: QTableWidgetItem) -> None:
        if not self._filling and item.column() == NOTE:
            self.session.log.note(item.row(), item.text())

    def toggle_star(self) -> None:
        """Gives the row a star, or takes it."""
        at, rows = self.table.currentRow(), self.session.log.rows
        if 0 <= at < len(rows):
            self.session.log.mark(at, not rows[at].get("star"))

    def _chosen(self) -> list[int]:
        return sorted({index.row() for index in self.table.selectedIndexes()})

    def compare_two(self) -> None:
        """Shows what differs between the two rows that are selected, side by side; once more puts it away."""
        chosen = self._chosen()
        if self.compared.isVisible() or len(chosen) != 2:
            self.compared.hide()
            self._enable()
            return
        heads = ["What", *(f"After trial {number + 1}" for number in chosen)]
        self.compared.setHorizontalHeaderLabels(heads)
        lines = trials.compared(self.session.log.rows, *chosen)
        document = self.session.document
        self.compared.setRowCount(len(lines))
        for row, (place, before, after) in enumerate(lines):
            what = place
            if document is not None and not place.startswith("check "):
                what = place_words(document, place.split("."))
            for column, text in enumerate((what, before, after)):
                item = QTableWidgetItem(text)
                item.setToolTip(tip(text))
                if before != after:
                    bold = item.font()
                    bold.setBold(True)
                    item.setFont(bold)
                self.compared.setItem(row, column, item)
        self.compared.show()
        self._enable()

    def restore(self, number: int) -> None:
        """Puts things back to how they stood after a row."""
        changes = self.session.log.back_to(number)
        if changes is None:
            text = "what came later was changed by something that the log does not hold; undo, or change it by hand"
            self.session.faults_raised.emit("Not gone back", (Fault("", text),))
            return
        word = f"trial {number + 1}" if number >= 0 else "before all trials"
        faults = self.session.apply(changes, f"Back to {word}")
        if faults:
            self.session.faults_raised.emit("Not gone back", faults)

    def save_table(self) -> None:
        """Writes the log as CSV."""
        name, _ = QFileDialog.getSaveFileName(self, "Save the trials", "trials.csv", "Tables (*.csv)")
        if name:
            self.session.write(Path(name), trials.as_csv(self.session.log.rows).encode())
