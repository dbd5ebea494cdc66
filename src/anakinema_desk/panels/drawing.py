"""The dialog that makes parts of a drawing: layers to parts, cuts or nothing, the unit, the tolerance for gaps."""

import cmath
import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from anakinema.geometry.drawn import MM_IN, Drawing, Outline, chained, nested, shared_cuts

from ..theme.painting import painting
from ..theme.tokens import Tokens

ROLES = ("parts", "cuts in the parts around them", "left out")
GAP = 1e-4
"""Gap that is healed at first, as a share of the drawing's extent."""
MOST_LAYERS = 40


class DrawingDialog(QDialog):
    """Shows what would be made; `outlines` are it, in the document's unit."""

    def __init__(self, drawing: Drawing, unit: str, tokens: Tokens, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle("Parts from a drawing")
        self.drawing, self.unit, self.tokens = drawing, unit, tokens
        self.outlines: list[Outline] = []
        self.units = QComboBox()
        self.units.addItems(list(MM_IN))
        self.units.setCurrentText(drawing.unit or unit)
        self.gap = QDoubleSpinBox()
        self.gap.setDecimals(5)
        self.gap.setRange(1e-5, 1e4)
        self.gap.setValue(max(drawing.reach * GAP, 1e-5))
        self.roles: dict[str, QComboBox] = {}
        form = QFormLayout()
        form.addRow("Its numbers are in" + ("" if drawing.unit else " (the file does not say)"), self.units)
        form.addRow("Heal gaps up to", self.gap)
        layers = QGridLayout()
        layers.addWidget(QLabel("Layer"), 0, 0)
        layers.addWidget(QLabel("becomes"), 0, 1)
        for row, (layer, pieces) in enumerate(list(drawing.layers.items())[:MOST_LAYERS], 1):
            box = QComboBox()
            box.addItems(ROLES)
            box.setAccessibleName(f"layer {layer} becomes")
            box.currentIndexChanged.connect(self.look)
            self.roles[layer] = box
            layers.addWidget(QLabel(f"{layer}  ({len(pieces)})"), row, 0)
            layers.addWidget(box, row, 1)
        self.view = View(self)
        self.report = QLabel()
        self.report.setWordWrap(True)
        self.report.setProperty("role", "muted")
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.take = self.buttons.addButton("Make the parts", QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        left = QVBoxLayout()
        left.addLayout(form)
        listed = QWidget()
        listed.setLayout(layers)
        scroll = QScrollArea()
        scroll.setWidget(listed)
        scroll.setWidgetResizable(True)
        left.addWidget(scroll, 1)
        left.addWidget(self.report)
        both = QHBoxLayout()
        both.addLayout(left)
        both.addWidget(self.view, 1)
        whole = QVBoxLayout(self)
        whole.addLayout(both)
        whole.addWidget(self.buttons)
        self.units.currentIndexChanged.connect(self.look)
        self.gap.valueChanged.connect(self.look)
        self.resize(760, 460)
        self.look()

    def look(self) -> None:
        """Finds what would be made by what is chosen now."""
        scale = MM_IN[self.units.currentText()] / MM_IN[self.unit]
        parts: list[Outline] = []
        cuts: list[Outline] = []
        told = list(self.drawing.report)
        for layer, box in self.roles.items():
            if box.currentIndex() == 2:
                continue
            pieces = [piece.scaled(scale) for piece in self.drawing.layers[layer]]
            found, report = chained(layer, pieces, self.gap.value() * scale)
            told += [f"{layer}: {line}" for line in report]
            if box.currentIndex() == 0:
                parts += nested(found)  # what lies on another layer lies before or behind it
            else:
                cuts += found
        self.outlines = shared_cuts(parts, cuts)
        count = sum(len(outline.cuts) for outline in self.outlines)
        reach = self.drawing.reach * scale
        told.insert(0, f"{len(self.outlines)} parts with {count} cuts, {reach:.4g} {self.unit} across")
        self.report.setText("\n".join(told))
        self.take.setEnabled(bool(self.outlines))
        self.view.update()


class View(QWidget):
    """The outlines as they would come."""

    def __init__(self, dialog: DrawingDialog):
        super().__init__()
        self.dialog = dialog
        self.setMinimumSize(320, 300)

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            tokens = self.dialog.tokens
            painter.fillRect(self.rect(), QColor(tokens.paper))
            paths = []
            for outer in self.dialog.outlines:
                path = QPainterPath()
                path.setFillRule(Qt.FillRule.OddEvenFill)
                for outline in (outer, *outer.cuts):
                    add_outline(path, outline)
                paths.append(path)
            box = QRectF()
            for path in paths:
                box = box.united(path.boundingRect())
            if box.isEmpty():
                painter.setPen(QColor(tokens.muted))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No closed outline")
                return
            self._draw(painter, paths, box)

    def _draw(self, painter: QPainter, paths: list[QPainterPath], box: QRectF) -> None:
        tokens = self.dialog.tokens
        scale = 0.9 * min(self.width() / max(box.width(), 1e-9), self.height() / max(box.height(), 1e-9))
        painter.translate(self.width() / 2, self.height() / 2)
        painter.scale(scale, -scale)
        painter.translate(-box.center())
        pen = QPen(QColor(tokens.edge), 1.2)
        pen.setCosmetic(True)
        painter.setPen(pen)
        for number, path in enumerate(paths):
            painter.setBrush(QColor(tokens.fills[number % len(tokens.fills)]))
            painter.drawPath(path)


def add_outline(path: QPainterPath, outline: Outline) -> None:
    """An outline as part of a painter's path, y upward; arcs stay arcs."""
    first = outline.pieces[0].start
    path.moveTo(QPointF(first.real, first.imag))
    for piece in outline.pieces:
        if piece.center is None:
            path.lineTo(QPointF(piece.end.real, piece.end.imag))
            continue
        radius = abs(piece.start - piece.center)
        box = QRectF(piece.center.real - radius, piece.center.imag - radius, 2 * radius, 2 * radius)
        start = math.degrees(cmath.phase(piece.start - piece.center))
        path.arcTo(box, -start, -math.degrees(piece.sweep))
    path.closeSubpath()
