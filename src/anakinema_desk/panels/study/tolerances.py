"""Tolerances: which parameters vary and by how much, and what that does to every check."""

import math
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.model import Document
from anakinema.document.read_parameters import SPREADS
from anakinema.formatting import format_short, shown
from anakinema.operations import tolerance_text, with_tolerance
from anakinema.studies.asked import all_judged, is_whole
from anakinema.studies.numbers import Numbers, held, toleranced
from anakinema.studies.reports import tolerances_csv
from anakinema.studies.tolerances import Spread, Tolerances

from ...session import Session
from ...theme.choices import Choice, Count
from ...theme.labels import tip
from ...theme.tokens import Tokens
from ..fields import as_value
from .base import StudyPage, dials, fill, table
from .graphs import Bars

HEADS = ("Check", "Passes (95 % sure)", "Mean", "σ", "Worst case", "What matters most")
WIDTHS = (60, 120, 64, 60, 130)


class TolerancesPage(StudyPage):
    """Gives parameters their tolerances, builds many, tells what each check does."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__(session, tokens)
        self.found: Tolerances | None = None
        self.parameter = self.choice("parameter", "The number that may be off")
        self.by = self.line("off by ±", "How much it may be off: 0.05 mm; empty takes the tolerance away", "none")
        self.spread = Choice()
        self.spread.addItems(list(SPREADS))
        self.row("spread", self.spread, "normal: the tolerance is three standard deviations; uniform: anything within; "
                                        "worst: at its ends")
        self.count, self.seed = Count(), Count()
        self.count.setRange(10, 100_000)
        self.count.setValue(1000)
        self.seed.setRange(0, 1_000_000)
        self.seed.setValue(1)
        self.row("builds", self.count, "How many builds are made by chance")
        self.row("seed", self.seed, "The same seed makes the same builds")
        self.clearance = QCheckBox("with clearances (slower)")
        self.left.insertWidget(1, self.clearance)
        self.run.setText("Build them")
        self.table = table(HEADS, WIDTHS, "What tolerances do to each check")
        self.bars = Bars(tokens)
        self.bars.title = "How the check that is chosen is spread"
        self.bars.setFixedWidth(232)
        self.bars.setToolTip("A click tries the build whose value is nearest")
        self.save = QPushButton("Save all builds…")
        self.save.setEnabled(False)
        self.worst = QPushButton("Try the worst")
        self.worst.setToolTip("Shows the worst case of the check that is chosen on the bench, with what it does to all")
        self.worst.setEnabled(False)
        buttons = QHBoxLayout()
        buttons.addWidget(self.worst)
        buttons.addStretch(1)
        buttons.addWidget(self.save)
        right = QVBoxLayout()
        right.setContentsMargins(0, 4, 8, 4)
        right.addWidget(self.bars, 1)
        right.addLayout(buttons)
        self.layout_.addWidget(self.table, 1)
        self.layout_.addLayout(right)
        self.parameter.currentTextChanged.connect(self._show_tolerance)
        self.by.editingFinished.connect(self.commit)
        self.spread.activated.connect(lambda _: self._set())
        self.table.currentCellChanged.connect(lambda row, *_: self._draw(row))
        self.save.clicked.connect(self.save_builds)
        self.worst.clicked.connect(self.try_worst)
        self.bars.chosen.connect(self.try_near)

    def refresh(self) -> None:
        document = self.session.document
        if document is None:
            return
        fill(self.parameter, [one.name for one in dials(document) if "/" not in one.name])
        if not self.by.hasFocus():
            self._show_tolerance(self.parameter.currentText())
        given = toleranced(document)
        self.run.setEnabled(bool(given) and bool(document.checks))
        if not given:
            self.say("No parameter has a tolerance yet: choose one and say by how much it may be off.")
        elif not document.checks:
            self.say("There are no checks yet: write down what the design must do.")
        elif self.found is None or self.found.document is not document:
            self.say("Off: " + ", ".join(f"{name} ±{one.by:g}" for name, one in given.items()))

    def results(self) -> Sequence[QWidget]:
        return self.table, self.bars, self.save, self.worst

    def forget(self) -> None:
        self.found = None
        self.table.setRowCount(0)
        self._draw(-1)
        self._show_tolerance(self.parameter.currentText())

    def commit(self) -> None:
        if self.by.isModified():
            self._set()

    def _show_tolerance(self, name: str) -> None:
        document = self.session.document
        place = _place(document, name) if document is not None else None
        self.by.setText(tolerance_text(document, place) if document is not None and place is not None else "")
        self.by.setModified(False)
        known = held(document)[name].parameter.tolerance if document is not None and place is not None else None
        self.spread.setCurrentText(known.spread if known is not None else SPREADS[0])

    def _set(self) -> None:
        """Writes the tolerance into the document."""
        document, name = self.session.document, self.parameter.currentText()
        place = _place(document, name) if document is not None else None
        if document is None or place is None:
            return
        text = self.by.text().strip().lstrip("±").strip()
        made = with_tolerance(document, place, as_value(text) if text else "", self.spread.currentText())
        faults = self.session.apply(made.changes, f"Tolerance of {name}") if made.changes else ()
        if faults:
            self.say(str(faults[0]), bad=True)

    def ask(self) -> int:
        document = self.session.document
        assert document is not None
        count, seed = self.count.value(), self.seed.value()
        asked = (count, seed, self.clearance.isChecked(), None, None)
        return self.session.study_client.study("tolerances", document, *asked)

    def take(self, found: object) -> bool:
        document = self.session.document
        if not isinstance(found, Tolerances) or document is None:
            return False
        self.found = found
        self.table.setRowCount(len(found.spreads))
        for row, one in enumerate(found.spreads):
            for column, text in enumerate(_told(found, one)):
                item = QTableWidgetItem(text)
                item.setToolTip(tip(one.why_apart or text))
                self.table.setItem(row, column, item)
        for column, least in enumerate(WIDTHS):  # the last column takes what is left
            self.table.resizeColumnToContents(column)
            self.table.setColumnWidth(column, max(self.table.columnWidth(column), least))
        self.table.setCurrentCell(0, 0)
        self._draw(0)
        end = f"; {found.broken} did not move to their end" if found.broken else ""
        judged = all_judged(document, found.left_out)
        self.say(f"{found.count} builds of seed {found.seed}: {100 * found.passing:.4g} % pass {judged}{end}."
                 + "".join(f" {one.why_apart}." for one in found.spreads if one.why_apart))  # fmt: skip
        self.save.setEnabled(True)
        return True

    def _draw(self, row: int) -> None:
        found = self.found
        if found is None or not 0 <= row < len(found.spreads):
            return
        one = found.spreads[row]
        check = found.document.checks[one.check]
        bounds = [check.at_least, check.at_most] if is_whole(found.document, one.check) else [0.0]
        now = self.session.findings.verdicts.get(one.check) if self.session.findings is not None else None
        self.bars.now = None if now is None else now.value if one.of == "value" else now.margin
        self.bars.titles = (one.check if one.of == "value" else f"margin of {one.check}", "builds")
        self.bars.show_values(found.values[one.check].tolist(), [bound for bound in bounds if bound is not None],
                              lambda value: shown(value, one.dimension, found.document.units, 3))  # fmt: skip

    def _chosen(self) -> Spread | None:
        row = self.table.currentRow()
        return self.found.spreads[row] if self.found is not None and 0 <= row < len(self.found.spreads) else None

    def try_worst(self) -> None:
        """Shows the worst case of the check that is chosen on the bench."""
        one = self._chosen()
        if one is not None:
            self._try(one.worst_build, f"the worst case of {one.check}")

    def try_near(self, value: float) -> None:
        """Shows the build whose value is nearest to one."""
        one, found = self._chosen(), self.found
        if one is None or found is None:
            return
        off = np.abs(found.values[one.check] - value)
        if np.isfinite(off).any():
            build = int(np.nanargmin(off))
            self._try(found.numbers(build), f"build {build + 1}")

    def _try(self, numbers: Numbers, what: str) -> None:
        motion = self.session.motion
        if motion is not None and self.found is not None and motion.document is self.found.document:
            self.session.trying.turn(motion, numbers, what)

    def save_builds(self) -> None:
        """Writes every build as a row of a CSV."""
        if self.found is not None:
            name, _ = QFileDialog.getSaveFileName(self, "Save all builds", "tolerances.csv", "Tables (*.csv)")
            if name:
                self.session.write(Path(name), tolerances_csv(self.found).encode())


def _told(found: Tolerances, one: Spread) -> tuple[str, ...]:
    units = found.document.units

    def say(value: float) -> str:
        return format_short(value, one.dimension, units) if math.isfinite(value) else "–"

    most = sorted(one.matters, key=lambda name: -one.matters[name])[:2]
    matters = ", ".join(f"{name} {100 * one.matters[name]:.0f} %" for name in most if one.matters[name] > 0.005)
    low, high = (say(value) for value in one.worst)
    unit = high.lstrip("−0123456789.e+-")
    worst = f"{low.removesuffix(unit)} to {high}" + ("" if one.worst_passes else ", fails")
    sure = f"{100 * one.share:.4g} % ({100 * one.low_share:.1f}–{100 * one.high_share:.1f})"
    return (one.check + ("" if one.of == "value" else " (margin)"), sure, say(one.mean), say(one.deviation), worst,
            matters or "nothing")  # fmt: skip


def _place(document: Document, name: str) -> tuple[str, ...] | None:
    """Where a parameter with all that is said of it stands; None where there is none of the name."""
    known = held(document)
    if name not in known:
        return None
    *above, last = known[name].place
    return tuple(above) if last == "value" and above[-1] != "parameters" else (*above, last)
