"""The workshop: what is found of how it is made without being asked, and cautions; a row leads there."""

from collections.abc import Sequence

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QTableWidgetItem, QVBoxLayout, QWidget

from anakinema.document.changes import Remove, Set
from anakinema.findings.cautions import USUAL, Caution
from anakinema.findings.shop import ShopFinding
from anakinema.formatting import shown
from anakinema.operations.building import free_name

from ..session import Session
from ..soon import soon
from ..theme.labels import Label, tip
from .questions import Questions
from .study.base import table

HEADS = ("Kind", "Where", "What, and how to mend it", "Rule")
WIDTHS = (120, 150, 560)


class Workshop(QWidget):
    """A table of findings and cautions; one is mended or waived by a button."""

    def __init__(self, session: Session, asking: Questions):
        super().__init__()
        self.session, self.asking = session, asking
        self.found: list[ShopFinding | Caution] = []
        self.table = table(HEADS, WIDTHS, "What is found of how it is made, and cautions")
        self.mend = QPushButton("Mend it")
        self.waive = QPushButton("Leave it, because…")
        self.line = Label()
        self.line.setProperty("role", "muted")
        self.usual = Label(USUAL)
        self.usual.setProperty("role", "muted")
        self.usual.setWordWrap(True)
        top = QHBoxLayout()
        top.setContentsMargins(12, 5, 12, 5)
        top.setSpacing(10)
        for widget, stretch in ((self.line, 1), (self.mend, 0), (self.waive, 0)):
            top.addWidget(widget, stretch)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(self.table, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 3, 12, 5)
        foot.addWidget(self.usual)
        layout.addLayout(foot)
        self.table.itemClicked.connect(lambda item: self.go(item.row()))
        self.table.itemActivated.connect(lambda item: self.go(item.row()))
        self.table.itemSelectionChanged.connect(self._offer)
        self.mend.clicked.connect(self.mend_it)
        self.waive.clicked.connect(self.waive_it)
        session.analysis.changed.connect(soon(self, self.refresh))

    def refresh(self) -> None:
        """Fills the table, where it is looked at."""
        if not self.isVisible():
            return
        findings = self.session.findings
        row = self.table.currentRow()
        told = [] if findings is None else [one for one in findings.shop if not one.waived]
        waived = [] if findings is None else [one for one in findings.shop if one.waived]
        cautions: Sequence[Caution] = () if findings is None else findings.cautions
        self.found = [*told, *cautions, *waived]
        self.table.setRowCount(len(self.found))
        for number, one in enumerate(self.found):
            for column, text in enumerate(self._texts(one)):
                item = QTableWidgetItem(text)
                item.setToolTip(tip(text))
                self.table.setItem(number, column, item)
        known = f"{len(told)} found, {len(cautions)} cautions" + (f", {len(waived)} left as they are" if waived else "")
        nothing = "Nothing is known of this version yet."
        self.line.setText(nothing if findings is None else f"{known}. A row leads there.")
        if 0 <= row < len(self.found):
            self.table.selectRow(row)
        self._offer()

    def _texts(self, one: ShopFinding | Caution) -> tuple[str, str, str, str]:
        if isinstance(one, ShopFinding):
            rule = one.source if not one.waived else f"left: {one.waived}"
            return one.name, ", ".join(one.of), one.text, rule
        document, motion = self.session.document, self.session.motion
        at = ""
        if document is not None and motion is not None and one.driver is not None:
            at = f" at {shown(one.driver, motion.driver_dimension, document.units, 1)}"
        rule = "ISO 13854, ISO 13857, from memory" if one.limbs else "ISO 12100, from memory"
        return f"caution: {one.kind}", ", ".join(one.parts[:3]) + at, one.text, rule

    def _offer(self) -> None:
        """What can be done with the row that is chosen."""
        one = self._chosen()
        finding = one if isinstance(one, ShopFinding) else None
        self.mend.setEnabled(finding is not None and bool(finding.mend))
        self.waive.setEnabled(finding is not None)
        self.waive.setText("Take it up again" if finding is not None and finding.waived else "Leave it, because…")

    def _chosen(self) -> ShopFinding | Caution | None:
        row = self.table.currentRow()
        return self.found[row] if 0 <= row < len(self.found) else None

    def go(self, row: int) -> None:
        """Goes to where it is, and selects it."""
        if not 0 <= row < len(self.found):
            return
        one = self.found[row]
        if one.t is not None:
            self.session.pause()
            self.session.go(one.t)
        if self.session.selection.kind_of(one.place)[0]:
            self.session.selection.select(one.place)
        self._offer()

    def mend_it(self) -> None:
        """Does what mends it."""
        one = self._chosen()
        if isinstance(one, ShopFinding) and one.mend:
            faults = self.session.apply(one.mend, f"Mend: {one.name}")
            if faults:
                self.session.faults_raised.emit("Not mended", faults)

    def waive_it(self) -> None:
        """Leaves it as it is, with a reason that is kept; or takes it up again."""
        one, document = self._chosen(), self.session.document
        if not isinstance(one, ShopFinding) or document is None:
            return
        if one.waived:
            name = next(key for key, each in document.waived.items() if (each.finding, each.of) == one.key)
            self.session.apply((Remove(("waived", name)),), f"Take up: {one.name}")
            return
        reason = self.asking.word("Leave it as it is", "Why? The reason is kept in the file.", "").strip()
        if reason:
            key = free_name(document.waived, one.name.replace(" ", "-"))
            entry = {"finding": one.name, "of": list(one.of), "reason": reason}
            faults = self.session.apply((Set(("waived", key), entry),), f"Leave: {one.name}")
            if faults:
                self.session.faults_raised.emit("Not noted", faults)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()
