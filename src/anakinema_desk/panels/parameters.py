"""The table of parameters: name, expression, value, note, and where each is used; all but the last two can be typed."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QSortFilterProxyModel, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.references import references
from anakinema.formatting import format_quantity
from anakinema.operations import place_words, tolerance_text, with_tolerance
from anakinema.operations.building import free_name

from ..session import Session
from ..theme.labels import Label, tip
from ..theme.tokens import Tokens
from .fields import as_value, written
from .properties.whole import value_place

NAME, EXPRESSION, VALUE, TOLERANCE, NOTE, USED = range(6)
HEADS = ("Name", "Expression", "Value", "Tolerance", "Note", "Used in")
HINTS = (
    "Another name: all that uses it follows",
    "A number or an expression: 2*rod + 3 mm",
    "What it is worth",
    "By how much it may be off: 0.05 mm; cleared, it has none",
    "What it is for",
    "The places whose expressions name it",
)
WIDTHS = (130, 200, 110, 90, 200)
Index = QModelIndex | QPersistentModelIndex


class Rows(QAbstractTableModel):
    """The parameters as the views of Qt read them."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.names: list[str] = []
        self.used: dict[str, list[str]] = {}

    def refresh(self) -> None:
        """Takes in the parameters as they are now."""
        document = self.session.document
        names = list(document.parameters) if document is not None else []
        self.used = {name: [] for name in names}
        for one in references(document) if document is not None and names else ():
            if one.how == "expression" and one.target[0] == "parameters":
                self.used[str(one.target[1])].append(place_words(document, one.place) if document is not None else "")
        if names == self.names:
            if names:
                self.dataChanged.emit(self.index(0, 0), self.index(len(names) - 1, USED))
            return
        self.beginResetModel()
        self.names = names
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.names)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        texts = HEADS if role == Qt.ItemDataRole.DisplayRole else HINTS if role == Qt.ItemDataRole.ToolTipRole else None
        return texts[section] if texts is not None else None

    def flags(self, index: Index) -> Qt.ItemFlag:
        typed = index.column() in (NAME, EXPRESSION, TOLERANCE, NOTE)
        return super().flags(index) | (Qt.ItemFlag.ItemIsEditable if typed else Qt.ItemFlag.NoItemFlags)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        document = self.session.document
        name, column = self.names[index.row()], index.column()
        parameter = document.parameters.get(name) if document is not None else None
        if parameter is None or document is None:
            return None
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.EditRole:
                match column:
                    case 0:
                        return name
                    case 1:
                        return written(parameter.expression)
                    case 2:
                        return format_quantity(parameter.quantity, document.units)
                    case 3:
                        text = tolerance_text(document, ("parameters", name))
                        return f"± {text}" if text else ""
                    case 4:
                        return parameter.note
                return f"{len(self.used[name])}: {', '.join(self.used[name])}" if self.used[name] else "not used"
            case Qt.ItemDataRole.ForegroundRole if column in (VALUE, USED):
                return QColor(self.tokens.muted)
            case Qt.ItemDataRole.ToolTipRole:
                return tip(", ".join(self.used[name])) if column == USED else HINTS[column]
        return None

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        document = self.session.document
        if document is None or index.row() >= len(self.names):
            return False
        name, text = self.names[index.row()], str(value).strip()
        match index.column():
            case 0:
                faults = self.session.rename(("parameters", name), text) if text != name else ()
            case 1:
                faults = self.session.edit(value_place(document, name), as_value(text), f"Change {name}")
            case 3:
                by = text.lstrip("±").strip()
                made = with_tolerance(document, ("parameters", name), as_value(by) if by else "")
                faults = self.session.apply(made.changes, f"Tolerance of {name}") if made.changes else ()
            case _:
                entry = document.tree["parameters"][name]
                kept = entry if isinstance(entry, dict) else {"value": entry}
                rest = {key: one for key, one in kept.items() if key != "note"} | ({"note": text} if text else {})
                faults = self.session.edit(("parameters", name), rest, f"Note on {name}")
        if faults:
            self.session.faults_raised.emit("Not changed", faults)
        return not faults


class Parameters(QWidget):
    """The table with a line to filter it, and buttons for a new one and for taking one away."""

    def __init__(self, session: Session, tokens: Tokens, delete: Callable[[], None]):
        super().__init__()
        self.session = session
        self.rows = Rows(session, tokens)
        self.shown = QSortFilterProxyModel()
        self.shown.setSourceModel(self.rows)
        self.shown.setFilterKeyColumn(-1)
        self.shown.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.table = QTableView()
        self.table.setModel(self.shown)
        self.table.setAccessibleName("Parameters")
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setWordWrap(False)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.horizontalHeader().setSectionResizeMode(USED, QHeaderView.ResizeMode.Stretch)
        for column, width in enumerate(WIDTHS):
            self.table.setColumnWidth(column, width)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter by name, expression, note or use")
        self.filter.setAccessibleName("Filter the parameters")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self.shown.setFilterFixedString)
        add, take = QPushButton("New parameter"), QPushButton("Take away")
        take.setToolTip("Where it is used its value is written instead")
        add.clicked.connect(self.add)
        take.clicked.connect(lambda: delete() if self.session.selection.current()[0] == "parameters" else None)
        top = QHBoxLayout()
        top.setContentsMargins(10, 6, 10, 4)
        top.setSpacing(10)
        top.addWidget(Label("Parameters"))
        top.addWidget(self.filter, 1)
        top.addWidget(add)
        top.addWidget(take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top)
        layout.addWidget(self.table, 1)
        self.table.selectionModel().currentRowChanged.connect(self._chosen)
        session.document_changed.connect(self._changed)

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.rows.tokens = tokens
        self._changed()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.rows.refresh()

    def _changed(self) -> None:
        if self.isVisible():
            self.rows.refresh()

    def _chosen(self, now: QModelIndex) -> None:
        row = self.shown.mapToSource(now).row()
        if 0 <= row < len(self.rows.names):
            self.session.selection.select(f"parameters.{self.rows.names[row]}")

    def add(self) -> None:
        """Makes a parameter, and puts the hand to its name."""
        document = self.session.document
        if document is None:
            return
        name = free_name(document.parameters, "size")
        faults = self.session.edit(("parameters", name), f"10 {document.units.length}", f"New parameter {name}")
        if faults:
            self.session.faults_raised.emit("Not made", faults)
            return
        self.filter.clear()
        self.rows.refresh()
        index = self.shown.mapFromSource(self.rows.index(self.rows.names.index(name), NAME))
        self.table.setCurrentIndex(index)
        self.table.edit(index)

