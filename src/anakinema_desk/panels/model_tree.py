"""The make-up: the assembly as a kinematic chain from the frame outward, then parameters, drivers, traces, checks."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from PySide6.QtCore import QItemSelectionModel, QPointF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QHeaderView, QTreeWidget, QTreeWidgetItem

from anakinema.document.model import Contact, Coupling, Document, Joint, Part
from anakinema.findings import Findings, Outcome
from anakinema.findings.chain import chain
from anakinema.formatting import describe_measure, format_quantity, format_short
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.measures.touching import spans

from ..session import Session
from ..soon import soon
from ..state import Shown
from ..state.display_state import DisplayState
from ..theme import symbols
from ..theme.labels import tip
from ..theme.painting import clear, painting
from ..theme.tokens import Tokens, font

PLACE = Qt.ItemDataRole.UserRole
AFTER = 12
"""How long after a change the lines follow (ms): bench and strip are painted first."""
DEEPEST = 5
"""Levels to which the chain is indented."""
STATE = 92
"""Width of the column of states."""


class ModelTree(QTreeWidget):
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
        self._lines: list[Line] = []
        self._items: list[QTreeWidgetItem] = []
        self._icons: dict[tuple[object, ...], QIcon] = {}
        self._filling = False
        self._told: tuple[object, ...] = ()
        self.sifted = ""
        self.setSelectionMode(QTreeWidget.SelectionMode.ExtendedSelection)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.itemSelectionChanged.connect(self._chosen)
        session.analysis.changed.connect(soon(self, self.refresh, AFTER))
        session.display_state.changed.connect(soon(self, self.refresh))
        session.selection.changed.connect(self._follow)

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = tokens
        self._icons = {}
        self._lines, self._told = [], ()
        self.refresh()

    def refresh(self) -> None:
        """Brings the lines up to date: their texts in place, and all anew only where lines have come or gone."""
        now = self.session.analysis.shown
        state = self.session.display_state
        known = () if now is None else (now.document, now.findings if now.fresh else None, state.hidden, state.through)
        if len(known) == len(self._told) and all(
            one is other for one, other in zip(known, self._told, strict=True)
        ):
            return
        self._told = known
        wanted = [_as_shown(line, state) for line in lines(now)] if now is not None else []
        self._filling = True
        if [(line.place, line.level) for line in wanted] == [(line.place, line.level) for line in self._lines]:
            for item, old, line in zip(self._items, self._lines, wanted, strict=True):
                if line != old:
                    self._write(item, line)
            self._lines = wanted
        else:
            self._fill(wanted)
        self._filling = False
        self.sift(self.sifted)
        self._follow()

    def sift(self, text: str) -> None:
        """Shows only the lines whose name, label, kind or state have all words of a text, with what they stand under;
        with no words all."""
        self.sifted = text
        words = text.lower().split()
        level = 0
        """Of the line above which all that lead to it are shown."""
        for line, item in zip(reversed(self._lines), reversed(self._items), strict=True):
            said = f"{line.text} {line.place} {line.state} {line.tip}".lower()
            found = not words or (not line.group and all(word in said for word in words))
            leads = line.level < level
            level = line.level if found or leads else min(level, line.level)
            item.setHidden(not (found or leads))
            if words and leads:
                item.setExpanded(True)

    def _fill(self, wanted: "list[Line]") -> None:
        """Makes all lines anew; what was folded stays folded."""
        together = list(zip(self._lines, self._items, strict=True)) if len(self._lines) == len(self._items) else []
        folded = {line.place: not item.isExpanded() for line, item in together if item.childCount()}
        scroll = self.verticalScrollBar().value()
        self.setUpdatesEnabled(False)
        self.clear()
        above: list[QTreeWidgetItem] = []
        self._items = []
        for line in wanted:
            del above[line.level :]
            item = QTreeWidgetItem(above[-1]) if above else QTreeWidgetItem()
            if not above:
                self.addTopLevelItem(item)
            self._write(item, line)
            self._items.append(item)
            above.append(item)
        for line, item in zip(wanted, self._items, strict=True):
            if item.childCount() and not folded.get(line.place, line.closed):
                item.setExpanded(True)
        self._lines = wanted
        self.setUpdatesEnabled(True)
        self.verticalScrollBar().setValue(scroll)

    def _write(self, item: QTreeWidgetItem, line: "Line") -> None:
        item.setText(0, line.text)
        item.setText(1, line.state)
        item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        inks = {"bad": self.tokens.bad, "warn": self.tokens.warn}
        item.setForeground(1, QColor(inks.get(line.role, self.tokens.muted)))
        if line.group:
            item.setFont(0, font(9, font().Weight.Bold))
            item.setForeground(0, QColor(self.tokens.muted))
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsSelectable)
            return
        item.setData(0, PLACE, line.place)
        item.setFont(1, font(9, font().Weight.Bold) if line.role else font(9))
        item.setToolTip(0, tip(f"{line.text}: {line.tip}" if line.tip else line.text))
        item.setToolTip(1, tip(line.state))
        item.setIcon(0, self._icon(line.picture) if line.picture else QIcon())
        item.setFirstColumnSpanned(not line.state)

    # -- icons -------------------------------------------------------------------------------------------------

    def _canvas(self) -> QPixmap:
        return clear(QSize(18, 18), self.devicePixelRatioF())

    def _both(self, draw: Callable[[QPainter, QColor], None], ink: str) -> QIcon:
        """An icon in its own ink, and in that of a selected line."""
        icon = QIcon()
        for mode, colour in ((QIcon.Mode.Normal, ink), (QIcon.Mode.Selected, self.tokens.on_accent)):
            pixmap = self._canvas()
            with painting(pixmap) as painter:
                draw(painter, QColor(colour))
            icon.addPixmap(pixmap, mode)
        return icon

    def _icon(self, picture: tuple[object, ...]) -> QIcon:
        """The picture of a line, made once: ``("joint", type, suspended)``, ``("part", colour, fixed, number)`` or
        the name of a glyph."""
        if picture not in self._icons:
            match picture:
                case ("joint", str() as kind, suspended):
                    self._icons[picture] = self._joint_icon(kind, bool(suspended))
                case ("part", str() as colour, fixed, int() as number):
                    self._icons[picture] = self._part_icon(colour, bool(fixed), number)
                case (str() as kind,):
                    self._icons[picture] = self._glyph(kind)
        return self._icons[picture]

    def _joint_icon(self, kind: str, suspended: bool) -> QIcon:
        def draw(painter: QPainter, ink: QColor) -> None:
            painter.translate(9, 9)
            painter.scale(0.68, 0.68)
            if JOINT_TYPES[kind].rod:
                painter.translate(-8, 0)
            symbols.draw(painter, JOINT_TYPES[kind].symbol, ink, QColor(0, 0, 0, 0), other=QPointF(16, 0))

        return self._both(draw, self.tokens.muted if suspended else self.tokens.symbol)

    def _part_icon(self, colour: str, fixed: bool, number: int) -> QIcon:
        pixmap = self._canvas()
        with painting(pixmap) as painter:
            own = QColor(colour)
            fill = self.tokens.frame_fill if fixed else self.tokens.fills[number % len(self.tokens.fills)]
            painter.setPen(QPen(QColor(self.tokens.edge), 1.1))
            painter.setBrush(own if colour and own.isValid() else QColor(fill))
            painter.drawRoundedRect(3, 5, 12, 8, 3, 3)
            if fixed:
                symbols.hatch(painter, QPointF(2, 13.5), QPointF(16, 13.5), QColor(self.tokens.edge))
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
                case "open":
                    painter.drawEllipse(QPointF(9, 9), 5.5, 5.5)
                    painter.drawLine(QPointF(6.5, 9), QPointF(11.5, 9))
                case "driver":
                    painter.drawArc(4, 4, 10, 10, -40 * 16, 260 * 16)
                    painter.setBrush(ink)
                    painter.drawPolygon([QPointF(12.6, 14.6), QPointF(15.4, 11), QPointF(11.4, 10.6)])
                case "coupling":
                    painter.drawEllipse(QPointF(6.2, 9), 3.8, 3.8)
                    painter.drawEllipse(QPointF(12.8, 9), 2.6, 2.6)
                case "assembly":
                    painter.drawRoundedRect(3, 3, 12, 12, 2, 2)
                    painter.drawLine(QPointF(6, 12), QPointF(12, 6))
                    painter.drawEllipse(QPointF(6, 12), 1.4, 1.4)
                    painter.drawEllipse(QPointF(12, 6), 1.4, 1.4)
                case "inside":
                    for x in (5, 9, 13):
                        painter.drawPoint(QPointF(x, 9))
                case "group":
                    painter.drawRect(3, 4, 7, 7)
                    painter.drawRect(8, 8, 7, 7)
                case "measure":
                    painter.drawLine(QPointF(3, 9), QPointF(15, 9))
                    painter.drawLine(QPointF(3, 5), QPointF(3, 13))
                    painter.drawLine(QPointF(15, 5), QPointF(15, 13))
                case "position":
                    painter.drawLine(QPointF(5, 3), QPointF(5, 15))
                    painter.drawPolyline([QPointF(5, 4), QPointF(14, 6.5), QPointF(5, 9.5)])
                case "trace":
                    painter.drawArc(3, 5, 7, 8, 0, 180 * 16)
                    painter.drawArc(9, 5, 7, 8, 180 * 16, 180 * 16)

        inks = {"pass": self.tokens.good, "fail": self.tokens.bad, "open": self.tokens.warn}
        return self._both(draw, inks.get(kind, self.tokens.accent))

    # -- selection ---------------------------------------------------------------------------------------------

    def _chosen(self) -> None:
        items = self.selectedItems()
        if self._filling or not items:
            return
        places = [str(item.data(0, PLACE) or "") for item in items]
        current = self.currentItem()
        first = str(current.data(0, PLACE) or "") if current is not None else ""
        places.sort(key=lambda place: place != first)
        self.session.selection.select_all([place for place in places if place])

    def _follow(self) -> None:
        self._filling = True
        wanted = {self.session.selection.place, *self.session.selection.others} - {""}
        self.setUpdatesEnabled(False)
        for line, item in zip(self._lines, self._items, strict=True):
            chosen = line.place in wanted and not line.group
            if item.isSelected() != chosen:
                item.setSelected(chosen)
            if chosen and line.place == self.session.selection.place and self.currentItem() is not item:
                self.setCurrentItem(item, 0, QItemSelectionModel.SelectionFlag.NoUpdate)
                self.scrollToItem(item)
        self.setUpdatesEnabled(True)
        self._filling = False


@dataclass(frozen=True)
class Line:
    """A line of the make-up: what it leads to, how deep it stands, its text and state, its picture and hint."""

    place: str
    level: int
    text: str
    state: str = ""
    picture: tuple[object, ...] = ()
    tip: str = ""
    role: str = ""
    group: bool = False
    closed: bool = False
    """Whether what is inside is shown only when it is asked for."""


def _as_shown(line: Line, state: DisplayState) -> Line:
    """A line with what of it is hidden or seen through on the bench."""
    kind, _, name = line.place.partition(".")
    if kind == "parts":
        hidden, through = name in state.hidden, name in state.through
    elif kind == "uses":
        inside = f"{name}/"
        hidden, through = any(part.startswith(inside) for part in state.hidden), False
    else:
        return line
    word = "hidden" if hidden else "see-through" if through else ""
    return replace(line, state=", ".join(filter(None, (word, line.state)))) if word else line


def _touches(contact: Contact, findings: Findings | None) -> str:
    """How much of the motion a contact touches."""
    if findings is None or not findings.motion.path.t1:
        return f"{contact.a}, {contact.b}"
    touching = sum(stop - start for start, stop in spans(findings.motion, contact.id))
    share = touching / findings.motion.path.t1
    return "all along" if share > 1 - 1e-9 else "never" if not share else f"{share:.0%} of it"


def lines(now: Shown) -> Iterator[Line]:
    """All lines of a document, from the frame outward, then what speaks of it."""
    document, findings = now.document, now.findings if now.fresh else None
    yield Line("chain", 0, "Chain", f"{len(document.parts)} part{'s' * (len(document.parts) != 1)}", group=True)
    yield from _chain(document, findings)
    if document.couplings:
        yield Line("couplings", 0, "Couplings", group=True)
        for coupling in document.couplings.values():
            state = "suspended" if coupling.suspended else coupling_text(coupling)
            tip = f"{COUPLING_TYPES[coupling.type].title} of {coupling.a} and {coupling.b}"
            yield Line(f"joints.{coupling.id}", 1, coupling.id, state, ("coupling",), tip)
    if document.contacts:
        yield Line("contacts", 0, "Contacts", group=True)
        for contact in document.contacts.values():
            state = "suspended" if contact.suspended else _touches(contact, findings)
            yield Line(f"joints.{contact.id}", 1, contact.id, state, tip=f"{contact.a} and {contact.b} never pass")
    if document.parameters:
        yield Line("parameters", 0, "Parameters", str(len(document.parameters)), group=True)
        for parameter in document.parameters.values():
            value = format_quantity(parameter.quantity, document.units)
            yield Line(f"parameters.{parameter.id}", 1, parameter.id, value, tip=parameter.note)
    if document.assemblies:
        yield Line("assemblies", 0, "Sub-assemblies", group=True)
        for name in document.assemblies:
            count = sum(use.assembly == name for use in document.uses.values())
            yield Line(f"assemblies.{name}", 1, name, f"× {count}", ("assembly",), "The definition of a sub-assembly")
    if document.drivers:
        yield Line("drivers", 0, "Drivers", group=True)
        for driver in document.drivers.values():
            yield Line(f"drivers.{driver.id}", 1, driver.id, f"of {driver.joint}", ("driver",))
    if document.programs:
        yield Line("programs", 0, "Programs", group=True)
        for program in document.programs.values():
            yield Line(f"programs.{program.id}", 1, program.id, f"over {program.over}", ("driver",), program.note)
    if document.traces:
        yield Line("traces", 0, "Traces", group=True)
        for trace in document.traces.values():
            yield Line(f"traces.{trace.id}", 1, trace.id, str(trace.point), ("trace",))
    if document.measures:
        yield Line("measures", 0, "Measured", group=True)
        for measure in document.measures.values():
            yield Line(f"measures.{measure.id}", 1, measure.id, measure.kind, ("measure",), describe_measure(measure))
    if document.positions:
        yield Line("positions", 0, "Positions", group=True)
        for position in document.positions.values():
            yield Line(f"positions.{position.id}", 1, position.id, "", ("position",), position.note)
    if document.checks:
        yield Line("checks", 0, "Checks", _tally(document, findings), group=True)
        for name in document.checks:
            yield _check(name, document, findings)


def _chain(document: Document, findings: Findings | None) -> Iterator[Line]:
    moving = (part.id for part in document.parts.values() if not part.fixed)
    number = {part: i for i, part in enumerate(moving)}
    driven = {driver.joint for driver in document.drivers.values()}
    stack = [(root, 1) for root in reversed(chain(document))]
    for name, use in document.uses.items():  # what makes no more than there is has no place in the chain
        if use.count == 1 and "/" not in name:
            yield _unit(document, "uses", name, 1, 1)
    while stack:
        link, level = stack.pop()
        if link.joint:
            joint = document.joints[link.joint]
            loops = link.closes and not joint.suspended
            back = link.place.partition(".")[2] if loops else ""
            yield _joint(joint, level, driven, findings, back)
        if link.closes:
            continue
        kind, _, name = link.place.partition(".")
        if kind == "parts":
            yield _part(document.parts[name], level, number, document.parts[name].name)
        else:
            yield _unit(document, kind, name, len([one for one in link.inside if one.startswith("parts.")]), level)
        if link.inside:
            yield Line(f"inside.{name}", level + 1, "inside", "", ("inside",), "What it holds", closed=True)
        for place in link.inside:
            inner, _, own = place.partition(".")
            short = own.removeprefix(f"{name}/") if kind == "uses" else own
            if inner == "parts":
                yield _part(document.parts[own], level + 2, number, document.parts[own].label or short)
            else:
                yield _joint(document.joints[own], level + 2, driven, findings, "", short)
        # A long strand would run out at the side: from some level on it runs down.
        below = level + 1 if level <= DEEPEST else level
        stack += [(child, below) for child in reversed(link.children)]


def _part(part: Part, level: int, number: dict[str, int], name: str) -> Line:
    state = "fixed" if part.fixed else "" if part.shapes else "skeleton"
    picture = ("part", part.color, part.fixed, number.get(part.id, 0))
    return Line(f"parts.{part.id}", level, name, state, picture, part.note)


def _unit(document: Document, kind: str, name: str, count: int, level: int) -> Line:
    """The line of a sub-assembly or a group."""
    if kind == "groups":
        group = document.groups[name]
        fixed = any(document.parts[part].fixed for part in group.parts)
        return Line(f"groups.{name}", level, group.label or name, "fixed" if fixed else f"{count} as one", ("group",),
                    group.note or "A rigid group: its parts move as one body")  # fmt: skip
    use = document.uses[name]
    if use.of:
        return Line(f"uses.{name}", level, use.label or name, f"{use.count} × {use.of}", ("assembly",),
                    use.note or f"Makes {use.count} of '{use.of}', itself counted")  # fmt: skip
    state = "frozen" if use.frozen else use.assembly
    return Line(f"uses.{name}", level, use.label or name, state, ("assembly",),
                use.note or f"A sub-assembly: one of '{use.assembly}'")  # fmt: skip


def _joint(
    joint: Joint, level: int, driven: set[str], findings: Findings | None, back: str, name: str = ""
) -> Line:
    """The line of a joint; it leads `back` to what stands elsewhere where it closes a loop."""
    tip = f"{JOINT_TYPES[joint.type].title}: {joint.a} to {joint.b}{', closes a loop' if back else ''}"
    state = joint_state(joint, driven, findings)
    state = f"{state} ↩ {back}".lstrip() if back else state
    picture = ("joint", joint.type, joint.suspended)
    return Line(f"joints.{joint.id}", level, name or joint.id, state, picture, tip)


def _tally(document: Document, findings: Findings | None) -> str:
    if findings is None:
        return ""
    failed, left = len(findings.failed), len(findings.open)
    if failed:
        return f"{failed} of {len(document.checks)} fail"
    return f"{left} not proven" if left else "all pass"


def _check(name: str, document: Document, findings: Findings | None) -> Line:
    verdict = findings.verdicts.get(name) if findings else None
    if verdict is None:
        return Line(f"checks.{name}", 1, name, "…", ("open",))
    margin = "" if verdict.margin is None else format_short(verdict.margin, verdict.dimension, document.units)
    margin = margin.removeprefix("−") if margin.endswith("infinite") else margin
    if verdict.margin is not None and 0 <= verdict.margin < float("inf"):
        margin = f"+{margin}"
    match verdict.outcome:
        case Outcome.PASS:
            return Line(f"checks.{name}", 1, name, margin or "passes", ("pass",), verdict.reason)
        case Outcome.FAIL:
            return Line(f"checks.{name}", 1, name, margin, ("fail",), verdict.reason, "bad")
    state = f"{margin} unproven".lstrip() if verdict.outcome is Outcome.UNPROVEN else "not judged"
    return Line(f"checks.{name}", 1, name, state, ("open",), verdict.reason, "warn")


def coupling_text(coupling: Coupling) -> str:
    """A coupling in a few words: ``gear 20 : 40``, ``rack``."""
    pair = next((value for value in coupling.given.values() if isinstance(value, tuple)), None)
    return f"{coupling.type} {pair[0]:g} : {pair[1]:g}" if pair is not None else coupling.type


def joint_state(joint: Joint, driven: set[str], findings: Findings | None) -> str:
    """A joint's state in a word or two: suspended; else redundant, driven, undriven, free or rigid, and limited."""
    if joint.suspended:
        return "suspended"
    words = []
    if findings is not None and joint.id in findings.motion.mobility.redundant:
        words.append("redundant")
    if joint.id in driven:
        words.append("driven")
    elif findings is not None and joint.id in findings.motion.drive.held:
        words.append("undriven" if findings.motion.drive.drivers else "free")
    elif not words and JOINT_TYPES[joint.type].coordinate_dimension(joint.values) is None:
        words.append("rigid")
    if joint.limits.min is not None or joint.limits.max is not None:
        words.append("limited")
    return ", ".join(words)
