"""The make-up: the assembly as a kinematic chain from the frame outward, then parameters, drivers, traces, checks."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QHeaderView, QTreeWidget, QTreeWidgetItem

from anakinema.document.model import Coupling, Document, Joint
from anakinema.findings import Findings
from anakinema.findings.chain import Link, chain
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.words import quantity_shown, shown

from ..session import Session
from ..theme import symbols
from ..theme.tokens import Tokens, font

PLACE = Qt.ItemDataRole.UserRole
DEEPEST = 5
"""Levels to which the chain is indented."""
STATE = 84
"""Width of the column of states."""


class MakeUp(QTreeWidget):
    """A tree of what the document holds; each line tells its state, and selecting one selects it everywhere."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.setAccessibleName("Make-up of the mechanism")
        self.setColumnCount(2)
        self.setHeaderHidden(True)
        self.setIndentation(13)
        self.setIconSize(QSize(18, 18))
        self.setUniformRowHeights(True)
        self.header().setStretchLastSection(False)
        self.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.header().setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)
        self.header().setMinimumSectionSize(20)
        self.header().resizeSection(1, STATE)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._lines: dict[str, QTreeWidgetItem] = {}
        self._filling = False
        self.itemSelectionChanged.connect(self._chosen)
        session.document_changed.connect(self._document_changed)
        session.findings_changed.connect(self.rebuild)
        session.selection_changed.connect(self._follow)

    def _document_changed(self) -> None:
        if self.session.findings is None:  # else new findings follow in a moment
            self.rebuild()

    def rebuild(self) -> None:
        """Makes all lines anew; what was folded stays folded."""
        folded = {place for place, item in self._lines.items() if item.childCount() and not item.isExpanded()}
        self._filling = True
        scroll = self.verticalScrollBar().value()
        self.clear()
        self._lines = {}
        document, findings = self.session.document, self.session.findings
        if document is not None:
            self._fill(document, findings)
        for place, item in self._lines.items():
            item.setExpanded(place not in folded)
        self.verticalScrollBar().setValue(scroll)
        self._filling = False
        self._follow()

    def _fill(self, document: Document, findings: Findings | None) -> None:
        group = self._group("chain", "Chain", f"{len(document.parts)} parts")
        for root in chain(document):
            self._add_link(group, root, document, findings)
        if document.couplings:
            group = self._group("couplings", "Couplings", "")
            for coupling in document.couplings.values():
                state = "suspended" if coupling.suspended else coupling_text(coupling)
                tip = f"{COUPLING_TYPES[coupling.type].title} of {coupling.a} and {coupling.b}"
                self._line(group, f"joints.{coupling.id}", coupling.id, state, self._glyph("coupling"), tip)
        if document.parameters:
            group = self._group("parameters", "Parameters", str(len(document.parameters)))
            for parameter in document.parameters.values():
                value = quantity_shown(parameter.quantity, document.units)
                self._line(group, f"parameters.{parameter.id}", parameter.id, value, tip=parameter.note)
        if document.drivers:
            group = self._group("drivers", "Drivers", "")
            for driver in document.drivers.values():
                self._line(group, f"drivers.{driver.id}", driver.id, f"of {driver.joint}", self._glyph("driver"))
        if document.traces:
            group = self._group("traces", "Traces", "")
            for trace in document.traces.values():
                self._line(group, f"traces.{trace.id}", trace.id, str(trace.point), self._glyph("trace"))
        if document.checks:
            failed = len(findings.failed) if findings else 0
            text = "" if findings is None else f"{failed} of {len(document.checks)} fail" if failed else "all pass"
            group = self._group("checks", "Checks", text)
            for name in document.checks:
                self._add_check(group, name, document, findings)

    def _group(self, place: str, text: str, state: str) -> QTreeWidgetItem:
        item = QTreeWidgetItem([text, state])
        item.setFont(0, font(9, font().Weight.Bold))
        for column in (0, 1):
            item.setForeground(column, QColor(self.tokens.muted))
        item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsSelectable)
        self.addTopLevelItem(item)
        self._lines[place] = item
        return item

    def _line(
        self, above: QTreeWidgetItem, place: str, text: str, state: str, icon: QIcon | None = None, tip: str = ""
    ) -> QTreeWidgetItem:
        item = QTreeWidgetItem(above, [text, state])
        item.setData(0, PLACE, place)
        item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        item.setForeground(1, QColor(self.tokens.muted))
        item.setFont(1, font(9))
        item.setToolTip(0, tip or text)
        item.setToolTip(1, state)
        if icon is not None:
            item.setIcon(0, icon)
        item.setFirstColumnSpanned(not state)
        self._lines.setdefault(place, item)
        return item

    def _add_link(
        self, above: QTreeWidgetItem, link: Link, document: Document, findings: Findings | None, level: int = 0
    ) -> None:
        if link.joint:
            joint = document.joints[link.joint]
            tip = f"{JOINT_TYPES[joint.type].title}: {joint.a} to {joint.b}"
            tip += ", closes a loop" if link.closes and not joint.suspended else ""
            state = joint_state(joint, document, findings)
            if link.closes and not joint.suspended:
                state = f"{state} ↩ {link.part}".lstrip()
            self._line(above, f"joints.{joint.id}", joint.id, state, self._joint_icon(joint), tip)
        if not link.closes:
            part = document.parts[link.part]
            state = "fixed" if part.fixed else "" if part.shapes else "skeleton"
            picture = self._part_icon(document, part.id)
            item = self._line(above, f"parts.{part.id}", part.name, state, picture, part.note)
            for child in link.children:  # a long strand would run out at the side: from some level on it runs down
                self._add_link(item if level < DEEPEST else above, child, document, findings, level + 1)

    def _add_check(self, above: QTreeWidgetItem, name: str, document: Document, findings: Findings | None) -> None:
        verdict = findings.verdicts.get(name) if findings else None
        if verdict is None:
            self._line(above, f"checks.{name}", name, "…")
            return
        margin = "passes" if verdict.margin is None else shown(verdict.margin, verdict.dimension, document.units, 2)
        if verdict.margin is not None and verdict.margin >= 0:
            margin = f"+{margin}"
        icon = self._glyph("pass" if verdict.passed else "fail")
        item = self._line(above, f"checks.{name}", name, margin, icon)
        if not verdict.passed:
            item.setForeground(1, QColor(self.tokens.bad))
            item.setFont(1, font(9, font().Weight.Bold))

    # -- icons -------------------------------------------------------------------------------------------------

    def _canvas(self) -> tuple[QPixmap, QPainter]:
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(QSize(18, 18) * ratio)
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        return pixmap, painter

    def _both(self, draw: Callable[[QPainter, QColor], None], ink: str) -> QIcon:
        """An icon in its own ink, and in that of a selected line."""
        icon = QIcon()
        for mode, colour in ((QIcon.Mode.Normal, ink), (QIcon.Mode.Selected, self.tokens.on_accent)):
            pixmap, painter = self._canvas()
            draw(painter, QColor(colour))
            painter.end()
            icon.addPixmap(pixmap, mode)
        return icon

    def _joint_icon(self, joint: Joint) -> QIcon:
        def draw(painter: QPainter, ink: QColor) -> None:
            painter.translate(9, 9)
            painter.scale(0.68, 0.68)
            if joint.type == "distance":
                painter.translate(-8, 0)
            fill = QColor(0, 0, 0, 0)
            symbols.draw(painter, joint.type, ink, fill, other=QPointF(16, 0))

        return self._both(draw, self.tokens.muted if joint.suspended else self.tokens.symbol)

    def _part_icon(self, document: Document, part: str) -> QIcon:
        pixmap, painter = self._canvas()
        moving = [other.id for other in document.parts.values() if not other.fixed]
        fixed = document.parts[part].fixed
        own = QColor(document.parts[part].color)
        fill = self.tokens.frame_fill if fixed else self.tokens.fills[moving.index(part) % len(self.tokens.fills)]
        painter.setPen(QPen(QColor(self.tokens.edge), 1.1))
        painter.setBrush(own if document.parts[part].color and own.isValid() else QColor(fill))
        painter.drawRoundedRect(3, 5, 12, 8, 3, 3)
        if fixed:
            symbols.hatch(painter, QPointF(2, 13.5), QPointF(16, 13.5), QColor(self.tokens.edge))
        painter.end()
        return QIcon(pixmap)

    def _glyph(self, kind: str) -> QIcon:
        """Small marks: shape tells pass from fail, not colour alone."""

        def draw(painter: QPainter, ink: QColor) -> None:
            pen = QPen(ink, 1.8)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            match kind:
                case "pass":
                    painter.drawPolyline([QPointF(4, 9.5), QPointF(7.5, 13), QPointF(14, 5)])
                case "fail":
                    painter.drawPolygon([QPointF(9, 3), QPointF(15.5, 14.5), QPointF(2.5, 14.5)])
                    painter.drawLine(QPointF(9, 7.5), QPointF(9, 10))
                    painter.drawPoint(QPointF(9, 12.3))
                case "driver":
                    painter.drawArc(4, 4, 10, 10, -40 * 16, 260 * 16)
                    painter.setBrush(ink)
                    painter.drawPolygon([QPointF(12.6, 14.6), QPointF(15.4, 11), QPointF(11.4, 10.6)])
                case "coupling":
                    painter.drawEllipse(QPointF(6.2, 9), 3.8, 3.8)
                    painter.drawEllipse(QPointF(12.8, 9), 2.6, 2.6)
                case "trace":
                    painter.drawArc(3, 5, 7, 8, 0, 180 * 16)
                    painter.drawArc(9, 5, 7, 8, 180 * 16, 180 * 16)

        inks = {"pass": self.tokens.good, "fail": self.tokens.bad}
        return self._both(draw, inks.get(kind, self.tokens.accent))

    # -- selection ---------------------------------------------------------------------------------------------

    def _chosen(self) -> None:
        items = self.selectedItems()
        if not self._filling and items:
            self.session.select(items[0].data(0, PLACE) or "")

    def _follow(self) -> None:
        self._filling = True
        item = self._lines.get(self.session.selection)
        self.clearSelection()
        if item is not None:
            self.setCurrentItem(item)
            self.scrollToItem(item)
        self._filling = False


def coupling_text(coupling: Coupling) -> str:
    """A coupling in a few words: ``gear 20 : 40``, ``rack``."""
    pair = next((value for value in coupling.given.values() if isinstance(value, tuple)), None)
    return f"{coupling.type} {pair[0]:g} : {pair[1]:g}" if pair is not None else coupling.type


def joint_state(joint: Joint, document: Document, findings: Findings | None) -> str:
    """A joint's state in a word or two: suspended, driven, redundant, held, limited or free."""
    if joint.suspended:
        return "suspended"
    if any(driver.joint == joint.id for driver in document.drivers.values()):
        return "driven"
    if findings is not None and joint.id in findings.motion.mobility.redundant:
        return "redundant"
    if findings is not None and joint.id in findings.motion.drive.held:
        return "held"
    if joint.limits.min is not None or joint.limits.max is not None:
        return "limited"
    return "rigid" if JOINT_TYPES[joint.type].coordinate_dimension(joint.values) is None else ""
