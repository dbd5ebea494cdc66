"""The dialog that makes parts of a drawing: layers to parts, cuts or nothing, the unit, the tolerance for gaps."""

import cmath
import math
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from anakinema.errors import DocumentError, Fault
from anakinema.geometry.drawn import GAP, Chosen, Contents, DrawnPiece, Outline, Outlined
from anakinema.kinds import MM_IN

from ..state import DrawingClient
from ..state.worker import faults_of
from ..theme.choices import Amount, Choice
from ..theme.labels import Label
from ..theme.painting import painting
from ..theme.tokens import Tokens

ROLES = ("parts", "cuts in the parts around them", "left out")
MOST_LAYERS = 40
MOST_GAPS = 400
"""Open places that are marked."""
MOST_LEFT = 2000
"""Chains that stay out and are shown all the same."""
WIDEST = 420
"""Width of the list of layers at most (pixels)."""


class DrawingDialog(QDialog):
    """Has a drawing read, and shows what would be made of it; `outlines` are that, in the document's unit. `faults` say
    why it can't be read: then the dialog has closed itself."""

    def __init__(
        self, path: Path, unit: str, drawing_client: DrawingClient, tokens: Tokens, parent: QWidget | None = None
    ):
        super().__init__(parent)
        self.setWindowTitle("Parts from a drawing")
        self.path, self.unit, self.drawing_client, self.tokens = path, unit, drawing_client, tokens
        self.contents: Contents | None = None
        self.outlines: list[Outline] = []
        self.faults: tuple[Fault, ...] = ()
        self.units = Choice()
        self.units.addItems(list(MM_IN))
        self.gap = Amount()
        self.gap.setDecimals(5)
        self.gap.setRange(1e-5, 1e4)
        self.roles: dict[str, QComboBox] = {}
        form = QFormLayout()
        self.units_label = Label("Its numbers are in")
        form.addRow(self.units_label, self.units)
        form.addRow("Heal gaps up to", self.gap)
        self.layers = QGridLayout()
        self.layers.setRowStretch(MOST_LAYERS + 1, 1)
        self.view = View(tokens)
        self.report = Label()
        self.report.setWordWrap(True)
        self.report.setProperty("role", "muted")
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.take = self.buttons.addButton("Make the parts", QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        left = QVBoxLayout()
        left.addLayout(form)
        listed = QWidget()
        listed.setLayout(self.layers)
        self.room = QScrollArea()
        self.room.setWidget(listed)
        self.room.setWidgetResizable(True)
        self.room.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        left.addWidget(self.room, 1)
        left.addWidget(self.report)
        both = QHBoxLayout()
        both.addLayout(left)
        both.addWidget(self.view, 1)
        whole = QVBoxLayout(self)
        whole.addLayout(both)
        whole.addWidget(self.buttons)
        self.resize(860, 480)
        self.finished.connect(self._leave, Qt.ConnectionType.SingleShotConnection)
        drawing_client.contents.connect(self._read)
        drawing_client.outlined.connect(self._outlined)
        drawing_client.failed.connect(self._failed)
        self._wait("reading it…")
        drawing_client.read(path)

    @property
    def ready(self) -> bool:
        """Whether all is known that there is to choose by, or that nothing ever will be."""
        return bool(self.faults) or (self.contents is not None and not self.drawing_client.busy)

    def _leave(self) -> None:
        """Listens no more: what another dialog has read is not for this one."""
        for signal, heard in ((self.drawing_client.contents, self._read),
                              (self.drawing_client.outlined, self._outlined),
                              (self.drawing_client.failed, self._failed)):  # fmt: skip
            signal.disconnect(heard)
        self.drawing_client.cancel()

    def _wait(self, text: str) -> None:
        self.outlines = []
        self.view.show_outlines([], text)
        self.take.setEnabled(False)
        self.report.setText(f"{self.path.name}: {text}")

    def _read(self, number: int, found: Contents | DocumentError) -> None:
        if number != self.drawing_client.wanted:
            return
        if isinstance(found, DocumentError):
            self._give_up(found.faults)
            return
        self.contents = found
        self.units.setCurrentText(found.unit or self.unit)
        self.units_label.setText("Its numbers are in" + ("" if found.unit else " (the file does not say)"))
        self.gap.setValue(max(found.reach * GAP, 1e-5))
        self.layers.addWidget(Label("Layer"), 0, 0)
        self.layers.addWidget(Label("becomes"), 0, 1)
        for row, (layer, count) in enumerate(list(found.layers.items())[:MOST_LAYERS], 1):
            box = Choice()
            box.addItems(ROLES)
            box.setAccessibleName(f"layer {layer} becomes")
            box.currentIndexChanged.connect(self.look)
            self.roles[layer] = box
            for column, widget in enumerate((Label(f"{layer}  ({count})"), box)):
                self.layers.addWidget(widget, row, column)
                widget.show()  # now, for the width that they ask for
        bar = self.room.verticalScrollBar().sizeHint().width()
        self.room.setMinimumWidth(min(self.layers.sizeHint().width() + bar, WIDEST))
        self.units.currentIndexChanged.connect(self.look)
        self.gap.valueChanged.connect(self.look)
        self.look()

    def look(self) -> None:
        """Has found what would be made by what is chosen now."""
        self._wait("looking for closed outlines…")
        chosen = [tuple(layer for layer, box in self.roles.items() if box.currentIndex() == role) for role in (0, 1)]
        self.drawing_client.outline(self.path, Chosen(self._scale, self.gap.value(), *chosen))

    @property
    def _scale(self) -> float:
        return MM_IN[self.units.currentText()] / MM_IN[self.unit]

    def _outlined(self, number: int, found: Outlined | DocumentError) -> None:
        if number != self.drawing_client.wanted or self.contents is None:
            return
        if isinstance(found, DocumentError):  # the file has been changed meanwhile
            self._give_up(found.faults)
            return
        self.outlines = found.outlines
        reach = self.contents.reach * self._scale
        lines = [f"{found.counted}, {reach:.4g} {self.unit} across", *self.contents.report]
        if (more := len(self.contents.layers) - MOST_LAYERS) > 0:
            lines.append(f"{more} further layers left out: {MOST_LAYERS} are read at once")
        self.report.setText("\n".join([*lines, *found.remarks]))
        self.take.setEnabled(bool(self.outlines))
        self.view.show_outlines(self.outlines, "No closed outline", found.gaps, found.left)

    def _failed(self, number: int, error: Exception) -> None:
        if number == self.drawing_client.wanted:
            self._give_up(faults_of(error))

    def _give_up(self, faults: tuple[Fault, ...]) -> None:
        self.faults = faults
        self.reject()


class View(QWidget):
    """The outlines as they would come."""

    def __init__(self, tokens: Tokens):
        super().__init__()
        self.tokens = tokens
        self.setMinimumSize(320, 300)
        self.paths: list[QPainterPath] = []
        self.gaps: list[tuple[complex, complex]] = []
        self.left = QPainterPath()
        """The lines that stay out."""
        self.text = ""

    def show_outlines(
        self, outlines: Sequence[Outline], otherwise: str, gaps: Sequence[tuple[complex, complex]] = (),
        left: Sequence[tuple[DrawnPiece, ...]] = (),
    ) -> None:  # fmt: skip
        """Shows outlines, or a text where there are none, where chains are open, and the lines that stay out."""
        self.paths, self.text, self.gaps, self.left = [], otherwise, list(gaps[:MOST_GAPS]), QPainterPath()
        for pieces in left[:MOST_LEFT]:
            add_pieces(self.left, pieces)
        for outer in outlines:
            path = QPainterPath()
            path.setFillRule(Qt.FillRule.OddEvenFill)
            for outline in (outer, *outer.cuts):
                add_outline(path, outline)
            self.paths.append(path)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(self.tokens.paper))
            box = self.left.boundingRect()
            for path in self.paths:
                box = box.united(path.boundingRect())
            for spot in (spot for gap in self.gaps for spot in gap):
                box = box.united(QRectF(spot.real - 1e-6, spot.imag - 1e-6, 2e-6, 2e-6))
            if box.isEmpty():
                painter.setPen(QColor(self.tokens.muted))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text)
                return
            self._draw(painter, box)

    def _draw(self, painter: QPainter, box: QRectF) -> None:
        tokens = self.tokens
        scale = 0.9 * min(self.width() / max(box.width(), 1e-9), self.height() / max(box.height(), 1e-9))
        painter.translate(self.width() / 2, self.height() / 2)
        painter.scale(scale, -scale)
        painter.translate(-box.center())
        pen = QPen(QColor(tokens.edge), 1.2)
        pen.setCosmetic(True)
        painter.setPen(pen)
        for number, path in enumerate(self.paths):
            painter.setBrush(QColor(tokens.fills[number % len(tokens.fills)]))
            painter.drawPath(path)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        out = QPen(QColor(tokens.muted), 1.2, Qt.PenStyle.DashLine)
        out.setCosmetic(True)
        painter.setPen(out)
        painter.drawPath(self.left)
        bad = QPen(QColor(tokens.bad), 2.0)
        bad.setCosmetic(True)
        painter.setPen(bad)
        for one, two in self.gaps:  # a ring about each open end, however small the gap
            for spot in (one, two):
                painter.drawEllipse(QPointF(spot.real, spot.imag), 6.0 / scale, 6.0 / scale)
            painter.drawLine(QPointF(one.real, one.imag), QPointF(two.real, two.imag))


def add_outline(path: QPainterPath, outline: Outline) -> None:
    """An outline as part of a painter's path, y upward; arcs stay arcs."""
    add_pieces(path, outline.pieces)
    path.closeSubpath()


def add_pieces(path: QPainterPath, pieces: Sequence[DrawnPiece]) -> None:
    """A chain of pieces as part of a painter's path."""
    first = pieces[0].start
    path.moveTo(QPointF(first.real, first.imag))
    for piece in pieces:
        if piece.center is None:
            path.lineTo(QPointF(piece.end.real, piece.end.imag))
            continue
        radius = abs(piece.start - piece.center)
        box = QRectF(piece.center.real - radius, piece.center.imag - radius, 2 * radius, 2 * radius)
        start = math.degrees(cmath.phase(piece.start - piece.center))
        path.arcTo(box, -start, -math.degrees(piece.sweep))
