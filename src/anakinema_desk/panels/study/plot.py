"""One quantity against another over the motion: stroke against opening, speed against angle."""

from typing import Any

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from anakinema.findings.series import Series
from anakinema.formatting import shown

from ...session import Session
from ...theme.choices import Choice
from ...theme.labels import Label
from ...theme.painting import painting
from ...theme.tokens import Tokens, font
from .base import FORM, fill
from .graphs import Graph


class Against(Graph):
    """The curve of the one over the other, with where the mechanism stands."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__(tokens, "One quantity against another")
        self.session = session
        self.pair: tuple[Series, Series] | None = None
        self.bounds: list[float] = []
        """What is wanted of the upper one, or where its joint ends."""

    def show_pair(self, one: Series, two: Series) -> None:
        """Draws two of one motion."""
        document = self.session.document
        assert document is not None
        units = document.units
        self.pair = (one, two)
        self.across, self.up = self.around([one.low, one.high]), self.around([two.low, two.high])
        self.bounds = [bound for bound in two.bounds if self.up[0] <= bound <= self.up[1]]
        self.titles = (one.name, two.name)
        self.words = (lambda x: shown(x, one.dimension, units, 2), lambda y: shown(y, two.dimension, units, 2))
        self.update()

    def as_table(self) -> tuple[list[str], list[list[Any]]]:
        document = self.session.document
        if self.pair is None or document is None:
            return [], []
        one, two = self.pair
        counts = [f"{each.name} ({each.dimension.written(document.units)})" for each in self.pair]
        per = [each.dimension.per_core(document.units) for each in self.pair]
        columns = (one.t, one.values * per[0], two.at(one.t) * per[1])
        return ["time (s)", *counts], [list(row) for row in zip(*(each.tolist() for each in columns), strict=True)]

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            self.axes(painter)
            for value in self.bounds:
                painter.setPen(QPen(QColor(self.tokens.muted), 1.2, Qt.PenStyle.DashLine))
                painter.drawLine(self.at(self.across[0], value), self.at(self.across[1], value))
            if self.pair is None:
                painter.setPen(QColor(self.tokens.muted))
                painter.setFont(font(9.5))
                painter.drawText(self.frame, Qt.AlignmentFlag.AlignCenter, "Nothing is known of this version yet.")
                return
            one, two = self.pair
            t = one.t
            painter.setPen(QPen(QColor(self.tokens.accent), 1.8))
            painter.drawPolyline(QPolygonF([self.at(x, two.near(when)) for x, when in
                                            zip(one.values.tolist(), t.tolist(), strict=True)]))  # fmt: skip
            now = self.session.time
            painter.setBrush(QColor(self.tokens.text))
            painter.setPen(Qt.PenStyle.NoPen)
            spot = self.at(one.near(now), two.near(now))
            painter.drawEllipse(spot, 4.5, 4.5)
            painter.setPen(QColor(self.tokens.text))
            painter.setFont(font(9))
            painter.drawText(spot + QPointF(8, -6), f"{self.words[0](one.near(now))}, {self.words[1](two.near(now))}")


class Plot(QWidget):
    """Choose two quantities: of the tracks and joints."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session = session
        self.across, self.up = Choice(), Choice()
        left = QWidget()
        left.setFixedWidth(FORM)
        column = QVBoxLayout(left)
        column.setContentsMargins(12, 8, 8, 8)
        form = QGridLayout()
        form.setColumnStretch(1, 1)
        for row, (caption, box) in enumerate((("across", self.across), ("up", self.up))):
            box.setAccessibleName(caption)
            form.addWidget(Label(caption), row, 0)
            form.addWidget(box, row, 1)
            box.currentTextChanged.connect(lambda _: self._draw())
        column.addLayout(form)
        note = Label("Every joint, measure and track of the strip can be laid against another. The dot is where the "
                      "mechanism stands.")
        note.setWordWrap(True)
        note.setProperty("role", "muted")
        column.addWidget(note)
        column.addStretch(1)
        self.graph = Against(session, tokens)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.addWidget(left)
        layout.addWidget(self.graph, 1)
        session.time_changed.connect(self.graph.update)

    def _series(self) -> dict[str, Series]:
        now = self.session.analysis.shown
        findings = now.findings if now is not None else None
        if findings is None:
            return {}
        every = [*findings.series, *(one for one in findings.tracks.values() if one is not None)]
        return {one.name: one for one in reversed(every)}

    def refresh(self) -> None:
        """Fills both lists and draws."""
        names = list(reversed(self._series()))
        fill(self.across, names)
        fill(self.up, names)
        if len(names) > 1 and self.up.currentText() == self.across.currentText():
            self.up.setCurrentIndex(1)
        self._draw()

    def _draw(self) -> None:
        series = self._series()
        one, two = (series.get(box.currentText()) for box in (self.across, self.up))
        now = self.session.analysis.shown
        if one is not None and two is not None and now is not None and now.fresh:
            self.graph.show_pair(one, two)
        else:
            self.graph.pair = None
            self.graph.update()
