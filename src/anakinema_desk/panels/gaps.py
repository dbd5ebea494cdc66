"""The table of clearances: every pair of parts, the least margin first; a row leads to where the pair is worst."""

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QFont
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QVBoxLayout, QWidget

from anakinema.document.changes import lookup
from anakinema.formatting import shown

from ..session import Session
from ..state import Stage
from ..theme.labels import Label, tip
from ..theme.tokens import Tokens

if TYPE_CHECKING:
    from anakinema.findings.gaps import Gap

PAIR, LEAST, WANTED, MARGIN, PLACE, STATE, IGNORED = range(7)
HEADS = ("Pair", "Least gap", "Wanted", "Margin", "Worst at", "State", "Not watched because")
HINTS = (
    "Two parts that share depth and move against each other",
    "The least distance of their outlines over the whole motion; below zero the shortest move that parts them",
    "Type the gap that is wanted, such as 2 mm: a check holds it from then on. Clear it to take the check's bound away",
    "How much the least gap exceeds what is wanted (or touching)",
    "The driver's coordinate there; a click on the row goes to it",
    "Whether anything smaller can hide between the moments looked at",
    "Say why this pair needs no watching, and it is left out; clear it to watch the pair again",
)
WIDTHS = (230, 100, 100, 100, 100, 190)

Index = QModelIndex | QPersistentModelIndex


class Rows(QAbstractTableModel):
    """The table of pairs as the views of Qt read it."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.gaps: tuple[Gap, ...] = ()
        self.fresh = True

    def show_gaps(self, gaps: "tuple[Gap, ...]", fresh: bool) -> None:
        """Takes other rows; pale while they are those of a version before."""
        if len(gaps) == len(self.gaps):
            self.gaps, self.fresh = gaps, fresh
            if gaps:
                self.dataChanged.emit(self.index(0, 0), self.index(len(gaps) - 1, len(HEADS) - 1))
            return
        self.beginResetModel()
        self.gaps, self.fresh = gaps, fresh
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.gaps)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._alignment(section)
        texts = HEADS if role == Qt.ItemDataRole.DisplayRole else HINTS if role == Qt.ItemDataRole.ToolTipRole else None
        return texts[section] if texts is not None else None

    @staticmethod
    def _alignment(column: int) -> Qt.AlignmentFlag:
        side = Qt.AlignmentFlag.AlignRight if LEAST <= column <= PLACE else Qt.AlignmentFlag.AlignLeft
        return side | Qt.AlignmentFlag.AlignVCenter

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        gap, column = self.gaps[index.row()], index.column()
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return self._text(gap, column)
            case Qt.ItemDataRole.EditRole:
                return self._written(gap, column)
            case Qt.ItemDataRole.TextAlignmentRole:
                return self._alignment(column)
            case Qt.ItemDataRole.ForegroundRole:
                return self._ink(gap, column)
            case Qt.ItemDataRole.FontRole if column in (PAIR, MARGIN) and gap.margin < 0 and not gap.ignored:
                bold = QFont()
                bold.setBold(True)
                return bold
            case Qt.ItemDataRole.ToolTipRole:
                return tip(gap.reason) if column == STATE and gap.reason else HINTS[column]
        return None

    def _ink(self, gap: "Gap", column: int) -> QColor:
        if not self.fresh or gap.ignored:
            return QColor(self.tokens.muted)
        if gap.margin < 0 and column in (PAIR, LEAST, MARGIN):
            return QColor(self.tokens.bad)
        return QColor(self.tokens.warn if column == STATE and not gap.proven else self.tokens.text)

    def _text(self, gap: "Gap", column: int) -> str:
        def length(value: float) -> str:
            assert self.session.document is not None
            return shown(value, "length", self.session.document.units, 3)

        match column:
            case 0:
                return f"{gap.parts[0]} – {gap.parts[1]}"
            case 1 if gap.distance is not None:
                return length(gap.distance)
            case 1 if gap.low > 0:
                return f"≥ {length(gap.low)}"
            case 2 if gap.wanted is not None:
                return f"≥ {length(gap.wanted)}"
            case 3 if gap.distance is not None and gap.wanted is not None:
                return length(gap.margin)
            case 4 if gap.driver is not None and gap.distance is not None and self.session.motion is not None:
                assert self.session.document is not None
                return shown(gap.driver, self.session.motion.driver_dimension, self.session.document.units, 1)
            case 5:
                return self._state(gap)
            case 6:
                return gap.ignored
        return ""

    @staticmethod
    def _state(gap: "Gap") -> str:
        if gap.ignored:
            return "not watched"
        if gap.joint:
            return "same depth"
        if gap.distance is None:
            return "bound only" if gap.low > 0 else "not judged"
        kind = "overlap" if gap.distance < 0 else "touches" if gap.distance < 1e-6 else "clear"
        return f"{kind}, proven" if gap.proven else f"{kind}, not proven"

    def _written(self, gap: "Gap", column: int) -> str:
        """What is edited: the expression as it stands in the document."""
        if column == IGNORED:
            return gap.ignored
        if column != WANTED or not gap.check or self.session.document is None:
            return ""
        return str(lookup(self.session.document.tree, ["checks", gap.check, "at_least"], ""))

    def flags(self, index: Index) -> Qt.ItemFlag:
        found = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return found | Qt.ItemFlag.ItemIsEditable if index.column() in (WANTED, IGNORED) else found

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        gap, text = self.gaps[index.row()], str(value).strip()
        if role != Qt.ItemDataRole.EditRole or text == self._written(gap, index.column()):
            return False
        faults = self._want(gap, text) if index.column() == WANTED else self._ignore(gap, text)
        if faults:
            self.session.faults_raised.emit("Not changed", faults)
        return not faults

    def _want(self, gap: "Gap", text: str) -> tuple[Any, ...]:
        """Writes down the gap that is wanted of a pair, or takes it away."""
        document, pair = self.session.document, " – ".join(gap.parts)
        assert document is not None
        if gap.check:
            both = document.checks[gap.check].at_most is not None
            if not text:
                place = ("checks", gap.check, "at_least") if both else ("checks", gap.check)
                return self.session.remove(place, f"gap of {pair} no longer wanted")
            return self.session.edit(("checks", gap.check, "at_least"), text, f"gap wanted of {pair}")
        check = {"measure": "clearance", "parts": list(gap.parts), "at_least": text}
        return self.session.edit(("checks", self._free("gap", document.checks)), check, f"gap wanted of {pair}")

    def _ignore(self, gap: "Gap", text: str) -> tuple[Any, ...]:
        """Writes down why a pair is not watched, or has it watched again."""
        document, pair = self.session.document, " – ".join(gap.parts)
        assert document is not None
        if gap.ignored:
            place = tuple(gap.place.split("."))
            if not text:
                return self.session.remove(place, f"{pair} watched again")
            return self.session.edit((*place, "ignore"), text, f"why {pair} is not watched")
        said = {"parts": list(gap.parts), "ignore": text}
        return self.session.edit(("pairs", self._free("pair", document.pairs)), said, f"{pair} not watched")

    @staticmethod
    def _free(stem: str, taken: Any) -> str:
        return next(name for k in range(1, len(taken) + 2) if (name := f"{stem}-{k}") not in taken)


class Gaps(QWidget):
    """The table, with a line that sums it up."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.rows = Rows(session, tokens)
        self.table = QTableView()
        self.table.setAccessibleName("Clearances of all pairs")
        self.table.setModel(self.rows)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(24)
        header = self.table.horizontalHeader()
        header.setHighlightSections(False)
        header.setStretchLastSection(True)
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        for column, width in enumerate(WIDTHS):
            self.table.setColumnWidth(column, width)
        self.line = Label()
        self.line.setProperty("role", "muted")
        self.line.setContentsMargins(12, 4, 12, 4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.table, 1)
        layout.addWidget(self.line)
        self.table.selectionModel().currentRowChanged.connect(lambda now, _before: self._go(now))
        self.table.clicked.connect(self._go)
        session.analysis.changed.connect(self.refresh)
        session.analysis.gaps_changed.connect(self.refresh)

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = self.rows.tokens = tokens
        self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Shows the pairs of the findings, or what is certain of them while they are being judged."""
        if not self.isVisible():
            return  # filled when it is looked at
        now = self.session.analysis.shown
        gaps: tuple[Gap, ...] = ()
        fresh = True
        if now is not None and now.gaps and not now.fresh:
            gaps = now.gaps
        elif now is not None and now.findings is not None and now.stage is not Stage.FAILED:
            gaps, fresh = now.findings.gaps, now.fresh
        self.rows.show_gaps(gaps, fresh)
        self.line.setText(self._summary(gaps, now is not None and now.busy))

    @staticmethod
    def _summary(gaps: "tuple[Gap, ...]", busy: bool) -> str:
        if not gaps:
            return "No pair of parts shares depth and moves against each other." if not busy else "Judging the pairs…"
        watched = [gap for gap in gaps if not gap.ignored]
        proven = sum(gap.proven for gap in watched)
        text = f"{len(watched)} pairs, {proven} proven" + (", judging the others…" if busy else "")
        left = len(gaps) - len(watched)
        text += f", {left} not watched" if left else ""
        return f"{text}. Double-click a wanted gap or a reason to change it."

    def _go(self, index: Index) -> None:
        """Goes to where the pair of a row is worst."""
        if index.isValid() and index.row() < len(self.rows.gaps):
            gap = self.rows.gaps[index.row()]
            if gap.distance is not None and self.session.findings is not None:
                self.session.pause()
                self.session.go(gap.t)
