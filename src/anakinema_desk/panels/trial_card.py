"""What is tried, beside the mechanism on the bench: its numbers, every check now and then, to be taken or left."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout

from anakinema.findings.checks import Outcome, Verdict
from anakinema.formats.results import told_digits
from anakinema.formatting import format_short, shown
from anakinema.kinds import Units
from anakinema.studies.reports import numbers_in_words

from ..canvas.canvas import Canvas
from ..session import Session
from ..soon import soon
from ..theme.labels import Label, set_role, tip
from .overlay import Overlay

MARKS = {Outcome.PASS: ("passes", "good"), Outcome.FAIL: ("fails", "bad"), Outcome.UNPROVEN: ("unproven", "warn"),
         Outcome.NOT_JUDGED: ("not judged", "warn")}  # fmt: skip
MOST, ASIDE, TOP, WIDE = 9, 12, 44, 324
"""Checks that are shown; how far from the side and the top of the bench it lies, and how wide it is (pixels)."""


class TrialCard(Overlay):
    """Shown while something is tried. Checks that come out otherwise than now stand first."""

    def __init__(self, bench: Canvas, session: Session) -> None:
        super().__init__(bench)
        self.canvas, self.session = bench, session
        self.setObjectName("trial")
        self.setAccessibleName("What is tried")
        self.setFixedWidth(WIDE)
        self.head, self.note = Label(), Label()
        self.head.setWordWrap(True)
        self.note.setWordWrap(True)
        self.note.setProperty("role", "muted")
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(1)
        self.grid.setColumnStretch(0, 1)
        self.cells: list[tuple[Label, Label, Label, Label]] = []
        self.take, self.leave = QPushButton("Take it"), QPushButton("Leave it")
        self.take.setToolTip("Writes these numbers into the design, as one step that can be undone")
        buttons = QHBoxLayout()
        buttons.addWidget(self.take)
        buttons.addWidget(self.leave)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 10)
        column.setSpacing(5)
        column.addWidget(self.head)
        column.addLayout(self.grid)
        column.addWidget(self.note)
        column.addLayout(buttons)
        self.take.clicked.connect(session.take_trial)
        self.leave.clicked.connect(session.trying.drop)
        session.trying.changed.connect(self.refresh)
        session.analysis.changed.connect(soon(self, self.refresh))

    def refresh(self) -> None:
        """Tells the trial that is shown; nothing where there is none."""
        trying, document = self.session.trying, self.session.document
        shown = bool(trying.numbers) and (trying.motion is not None or bool(trying.fault)) and document is not None
        if not shown or document is None:
            self.hide()
            return
        words = numbers_in_words(document, trying.numbers)
        self.head.setText(f"Tried: {words}" + (f" ({trying.what})" if trying.what else ""))
        self.head.setToolTip(tip(words))
        self.take.setEnabled(trying.motion is not None)
        self._tell_checks(trying.verdicts or {})
        opened = not self.isVisible()
        self.show()
        self.raise_()
        self.place()
        if opened:
            self.canvas.uncover(self.x() - ASIDE)

    def _tell_checks(self, verdicts: dict[str, Verdict]) -> None:
        trying, findings = self.session.trying, self.session.findings
        now = findings.verdicts if findings is not None and findings.document is self.session.document else {}
        order = sorted(verdicts, key=lambda name: _same(now.get(name), verdicts[name]))
        while len(self.cells) < min(len(order), MOST):
            self._another_row()
        for row, cells in enumerate(self.cells):
            for cell in cells:
                cell.setVisible(row < len(order))
            if row < len(order):
                self._tell(cells, order[row], now.get(order[row]), verdicts[order[row]])
        notes = []
        if trying.fault:
            notes.append(trying.fault)
        elif trying.verdicts is None or not trying.judged:
            notes.append("Clearances are being judged…" if trying.verdicts else "Checks are being judged…")
        if len(order) > MOST:
            notes.append(f"{len(order) - MOST} more checks come out as now.")
        self.note.setText(" ".join(notes))
        self.note.setVisible(bool(notes))
        set_role(self.note, "bad" if trying.fault else "muted")

    def _another_row(self) -> None:
        cells = Label(), Label(), Label(), Label()
        for column, cell in enumerate(cells):
            side = Qt.AlignmentFlag.AlignLeft if column in (0, 3) else Qt.AlignmentFlag.AlignRight
            self.grid.addWidget(cell, len(self.cells), column, side)
        cells[1].setProperty("role", "muted")
        self.cells.append(cells)

    def _tell(self, cells: tuple[Label, Label, Label, Label], name: str, now: Verdict | None, then: Verdict) -> None:
        name_cell, before, after, mark = cells
        units = self.session.document.units if self.session.document is not None else None
        assert units is not None
        name_cell.setText(name if len(name) <= 18 else name[:17] + "…")
        name_cell.setToolTip(tip(name))
        before.setText("–" if now is None else f"{_value(now, units)} →")
        after.setText(_value(then, units))
        text, role = MARKS[then.outcome]
        mark.setText(text)
        mark.setToolTip(tip(then.reason))
        set_role(mark, role)

    def place(self) -> None:
        self.adjustSize()
        high = min(self.sizeHint().height(), max(self.bench.height() - TOP - ASIDE, 60))
        self.setGeometry(self.bench.width() - WIDE - ASIDE, TOP, WIDE, high)


def _value(verdict: Verdict, units: Units) -> str:
    """Its value, with as many figures as set it apart from what is wanted."""
    if verdict.value is None:
        return "–"
    short = format_short(verdict.value, verdict.dimension, units)
    bounds = (verdict.check.at_least, verdict.check.at_most)
    same = any(bound is not None and bound != verdict.value and format_short(bound, verdict.dimension, units) == short
               for bound in bounds)  # fmt: skip
    return shown(verdict.value, verdict.dimension, units, told_digits(verdict, units)) if same else short


def _same(now: Verdict | None, then: Verdict) -> int:
    """In which order a check is told: those that come out otherwise first, then those whose value differs."""
    if now is None or now.outcome is not then.outcome:
        return 0
    return 1 if now.value != then.value else 2
