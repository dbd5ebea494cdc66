"""The card: everything about what is selected, editable in place, with the numbers found beside."""

import math
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.editing import lookup
from anakinema.document.model import Document
from anakinema.findings.behaviour import linkages
from anakinema.findings.transmission import world
from anakinema.formats.results import driver_dimension, wanted_text
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.joints.belt import belt_length
from anakinema.kinematics.motion import Motion
from anakinema.words import shown

from ..session import Place, Session
from .fields import WIDE, ExpressionField

SHAPE_KEYS = ("center", "diameter", "size", "angle", "corner_radius", "width", "radius", "from", "to", "start")
NEAREST = 8
"""Pairs listed on the card of the document."""


class Card(QScrollArea):
    """Shows the selected thing, or the document when nothing is selected."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Card of what is selected")
        self.fields: dict[str, ExpressionField] = {}
        self._live: list[Callable[[], None]] = []
        self._shape = ""
        self._known: dict[tuple[str, str], str] = {}
        self._known_of: Motion | None = None
        session.selection_changed.connect(self.rebuild)
        session.document_changed.connect(self._document_changed)
        session.findings_changed.connect(self._document_changed)
        session.time_changed.connect(self._refresh_live)

    # -- building ----------------------------------------------------------------------------------------------

    def _document_changed(self) -> None:
        if self._outline() != self._shape:
            self.rebuild()
        for field in self.fields.values():
            field.refresh()
        self._refresh_live()

    def _pairs(self) -> list[tuple[str, str]]:
        """The pairs that come closest."""
        findings = self.session.findings
        near = sorted(findings.approaches, key=lambda approach: approach.distance) if findings is not None else []
        return [approach.parts for approach in near[:NEAREST]]

    def _outline(self) -> str:
        """What the card's rows depend on: selection, and the keys (not the values) of what is selected."""
        document = self.session.document
        if document is None:
            return ""
        kind, name = self.session.selected()
        section = "joints" if kind == "couplings" else kind
        tree = lookup(document.tree, [section, name]) if kind else document.tree.get("parameters", {})
        return f"{kind}.{name}:{_keys(tree)}{'' if kind else self._pairs()}"

    def rebuild(self) -> None:
        """Makes the card anew for what is selected."""
        self.fields, self._live = {}, []
        self._shape = self._outline()
        body = QWidget()
        body.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.rows = QVBoxLayout(body)
        self.rows.setContentsMargins(14, 12, 14, 12)
        self.rows.setSpacing(4)
        document = self.session.document
        if document is not None:
            kind, name = self.session.selected()
            getattr(self, f"_{kind or 'document'}")(document, name)
        self.rows.addStretch(1)
        self.setWidget(body)
        self._refresh_live()

    def _refresh_live(self) -> None:
        for refresh in self._live:
            refresh()

    def _heading(self, kind: str, text: str, note: str = "") -> None:
        over = QLabel(kind)
        over.setProperty("role", "section")
        head = QLabel(text)
        head.setProperty("role", "heading")
        head.setWordWrap(True)
        head.setTextFormat(Qt.TextFormat.PlainText)
        self.rows.addWidget(over)
        self.rows.addWidget(head)
        if note:
            self._note(note)

    def _note(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setProperty("role", "muted")
        label.setWordWrap(True)
        label.setTextFormat(Qt.TextFormat.PlainText)
        self.rows.addWidget(label)
        return label

    def _section(self, text: str) -> QGridLayout:
        rule = QFrame()
        rule.setProperty("role", "rule")
        self.rows.addSpacing(8)
        self.rows.addWidget(rule)
        label = QLabel(text)
        label.setProperty("role", "section")
        self.rows.addWidget(label)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self.rows.addLayout(grid)
        return grid

    def _field(
        self, grid: QGridLayout, label: str, place: Place, *, hint: str = "", **options: bool
    ) -> ExpressionField:
        name = " ".join(str(word) for word in place[1:] if word != "value")
        field = ExpressionField(self.session, place, name, **options)
        row = grid.rowCount()
        caption = QLabel(label)
        caption.setTextFormat(Qt.TextFormat.PlainText)
        caption.setBuddy(field)
        caption.setToolTip(hint)
        caption.setMaximumWidth(120)
        grid.addWidget(caption, row, 0)
        wide = len(field.text()) > WIDE
        grid.addWidget(field, row, 1, 1, 2 if wide else 1)
        grid.addWidget(field.value_label, row + wide, 1 if wide else 2)
        grid.addWidget(field.fault_label, row + 2, 0, 1, 3)
        self.fields[".".join(map(str, place))] = field
        return field

    def _pair(self, grid: QGridLayout, label: str, place: Place) -> None:
        """Two coordinates, one below the other."""
        self._field(grid, f"{label} x", (*place, 0))
        self._field(grid, f"{label} y", (*place, 1))

    def _told(
        self, grid: QGridLayout, label: str, value: Callable[[], str], role: Callable[[], str] | None = None
    ) -> None:
        """A line with a found value, kept up to date."""
        row = grid.rowCount()
        text = QLabel()
        text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        grid.addWidget(QLabel(label), row, 0)
        grid.addWidget(text, row, 1, 1, 2)

        def refresh() -> None:
            text.setText(value())
            if role is not None and text.property("role") != role():
                text.setProperty("role", role())
                text.style().unpolish(text)
                text.style().polish(text)

        self._live.append(refresh)

    def _button(self, text: str, run: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.clicked.connect(run)
        self.rows.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)
        return button

    def _switch(self, text: str, place: Place, hint: str) -> None:
        document = self.session.document
        assert document is not None
        switch = QCheckBox(text)
        switch.setToolTip(hint)
        switch.setChecked(bool(lookup(document.tree, place, False)))

        def change(on: bool) -> None:
            edit = f"{text} {place[1]}"
            faults = self.session.edit(place, True, edit) if on else self.session.remove(place, edit)
            if faults:
                self.session.faults_raised.emit("Not changed", faults)

        def refresh() -> None:
            now = self.session.document
            switch.blockSignals(True)
            switch.setChecked(bool(lookup(now.tree, place, False)) if now is not None else False)
            switch.blockSignals(False)

        switch.toggled.connect(change)
        self._live.append(refresh)
        self.rows.addWidget(switch)

    # -- kinds -------------------------------------------------------------------------------------------------

    def _document(self, document: Document, _: str) -> None:
        units = f"lengths in {document.units.length}, angles in {document.units.angle}"
        self._heading("MECHANISM", document.title or "Untitled", units)
        if document.parameters:
            grid = self._section("PARAMETERS")
            for parameter in document.parameters.values():
                self._field(grid, parameter.id, self._value_place(document, parameter.id), hint=parameter.note)
        self._note("Numbers may be expressions: 2*rod + 3 mm, 1/2 in, 90 deg - lead. Select anything to see its card.")
        pairs = self._pairs()
        if pairs:
            grid = self._section("CLOSEST APPROACHES")
            for pair in pairs:
                self._told(grid, f"{pair[0]} – {pair[1]}", lambda pair=pair: self._approach_text(pair))
        found = linkages(document)
        if found:
            grid = self._section("LINKAGES")
            for linkage in found:
                self._told(grid, "–".join(linkage.parts), lambda kind=linkage.kind: kind)
        self._note("Moving machinery crushes and shears. Guard it, and follow local codes and licensed practice.")

    def _value_place(self, document: Document, name: str) -> Place:
        entry = document.tree["parameters"][name]
        return ("parameters", name, "value") if isinstance(entry, dict) else ("parameters", name)

    def _approach_text(self, pair: tuple[str, str]) -> str:
        findings, document = self.session.findings, self.session.document
        if findings is None or document is None:
            return "…"
        found = next((approach for approach in findings.approaches if approach.parts == pair), None)
        if found is None:
            return "–"
        text = shown(found.distance, "length", document.units, 3)
        return text if found.proven else f"{text} (sampled)"

    def _parameters(self, document: Document, name: str) -> None:
        parameter = document.parameters[name]
        self._heading("PARAMETER", name, parameter.note)
        grid = self._section("VALUE")
        self._field(grid, "value", self._value_place(document, name))
        users = [other.id for other in document.parameters.values() if name in _names(other.expression)]
        if users:
            self._note(f"used by {', '.join(users)}")

    def _parts(self, document: Document, name: str) -> None:
        part = document.parts[name]
        self._heading("PART", part.name, part.note)
        self._switch("Fixed", ("parts", name, "fixed"), "A fixed part stays at its pose exactly")
        if not part.fixed:
            grid = self._section("MOTIONS LEFT, drivers off")
            self._told(grid, "here", lambda: self._freedoms_text(name))
            others = [other for other in document.parts if other != name]
            if others:
                grid = self._section("INSTANTANEOUS CENTRE, as driven")
                against = QComboBox()
                against.addItems(others)
                against.setAccessibleName("against which part")
                against.currentTextChanged.connect(lambda _: self._refresh_live())
                grid.addWidget(QLabel("against"), 0, 0)
                grid.addWidget(against, 0, 1)
                self._told(grid, "lies at", lambda: self._center_text(name, against.currentText()))
        if part.points:
            grid = self._section("POINTS, in the part's own frame")
            for point in part.points:
                self._pair(grid, point, ("parts", name, "points", point))
        if "pose" in document.tree["parts"][name]:
            grid = self._section("PLACED AT" if part.fixed else "PLACED ROUGHLY AT")
            for i, label in enumerate(("x", "y", "angle")):
                self._field(grid, label, ("parts", name, "pose", i))
        if "depth" in document.tree["parts"][name]:
            grid = self._section("DEPTH, back to front")
            for i, label in enumerate(("from", "to")):
                self._field(grid, label, ("parts", name, "depth", i))
        for i, shape in enumerate(document.tree["parts"][name].get("shapes", [])):
            grid = self._section(f"{'CUT: ' if shape.get('cut') else ''}{shape['kind'].upper()}")
            self._shape_fields(grid, ("parts", name, "shapes", i), shape)

    def _center_text(self, name: str, other: str) -> str:
        center, document = self.session.instant_center(name, other), self.session.document
        if center is None or document is None:
            return "–"
        return f"({', '.join(shown(value, 'number', document.units, 2) for value in (center.real, center.imag))})"

    def _freedoms_text(self, name: str) -> str:
        left, document = self.session.motions_left(name), self.session.document
        if left is None or document is None:
            return "–"
        if len(left) == 3:
            return "free: it moves in any way"
        told = []
        for freedom in left:
            if freedom.kind == "slide":
                angle = math.atan2(freedom.direction.imag, freedom.direction.real)
                told.append(f"slides along {shown(angle, 'angle', document.units, 2)}")
            else:
                center = (freedom.center.real, freedom.center.imag)
                x, y = (shown(value, "number", document.units, 2) for value in center)
                told.append(f"turns about ({x}, {y})")
        return "\n".join(told) or "none: its joints hold it"

    def _shape_fields(self, grid: QGridLayout, place: Place, shape: dict[str, Any]) -> None:
        for key in SHAPE_KEYS:
            value = shape.get(key)
            if isinstance(value, list):
                self._pair(grid, key.replace("_", " "), (*place, key))
            elif value is not None:
                self._field(grid, key.replace("_", " "), (*place, key), plain=key in ("center", "start"))
        if "depth" in shape:
            for i, label in enumerate(("depth from", "depth to")):
                self._field(grid, label, (*place, "depth", i))

    def _joints(self, document: Document, name: str) -> None:
        joint = document.joints[name]
        kind = JOINT_TYPES[joint.type]
        title = kind.title.upper() + ("" if kind.of_edges else " JOINT")
        self._heading(title, name, joint.note or f"{joint.a} to {joint.b}")
        self._switch("Suspended", ("joints", name, "suspended"), "Takes the joint out for the moment; nothing is lost")
        dimension = kind.coordinate_dimension(joint.values)
        if dimension is not None:
            grid = self._section("COORDINATE")
            self._told(grid, "now", lambda: self._joint_text(name, "now"))
            self._told(grid, "least", lambda: self._joint_text(name, "low"))
            self._told(grid, "greatest", lambda: self._joint_text(name, "high"))
            self._told(grid, "travel", lambda: self._joint_text(name, "travel"))
            grid = self._section("BEHAVIOUR")
            self._told(grid, "time ratio", lambda: self._behaviour_text(name, "ratio"))
            self._told(grid, "dwells", lambda: self._behaviour_text(name, "dwells"))
            self._told(grid, "gain now", lambda: self._gain_text(name))
            grid = self._section("LIMITS")
            for key in ("min", "max", "rest"):
                self._field(grid, key, ("joints", name, "limits", key), optional=True)
        if kind.of_edges:
            grid = self._section("AT THE END OF AN EDGE")
            self._choice(grid, "the contact", ("joints", name, "at_end"), ("stop", "lost"))
        keys = [key for key in kind.keys if key in joint.values or key == "zero"]
        if keys:
            grid = self._section("FORM")
            for key in keys:
                self._field(grid, key, ("joints", name, key), optional=key in ("zero", "angle"))

    def _couplings(self, document: Document, name: str) -> None:
        coupling = document.couplings[name]
        kind = COUPLING_TYPES[coupling.type]
        place = ("joints", name)
        self._heading(kind.title.upper(), name, coupling.note or f"ties {coupling.a} to {coupling.b}")
        self._switch("Suspended", (*place, "suspended"), "Takes the coupling out for the moment; nothing is lost")
        grid = self._section("FORM")
        for key in kind.numbers:
            self._field(grid, key, (*place, key))
        for key in kind.pairs:
            if key in coupling.given:
                for i, joint in enumerate((coupling.a, coupling.b)):
                    self._field(grid, f"{key} at {joint}", (*place, key, i))
        for key, words in kind.choices.items():
            self._choice(grid, key, (*place, key), words)
        grid = self._section("FOUND")
        self._told(grid, "ratio", lambda: self._ratio_text(name))
        if coupling.type == "belt" and "diameters" in coupling.given:
            self._told(grid, "belt length", lambda: self._belt_text(name))
        for joint in (coupling.a, coupling.b):
            self._told(grid, f"{joint} now", lambda joint=joint: self._joint_text(joint, "now"))

    def _ratio_text(self, name: str) -> str:
        document = self.session.document
        coupling = document.couplings.get(name) if document is not None else None
        if coupling is None:
            return "–"
        ratio = f"{coupling.ratio:.6g}".replace("-", "−")
        unit = f" {document.units.length} for each rad" if coupling.type == "rack" and document is not None else ""
        return f"{coupling.b} = {ratio}{unit} × {coupling.a}"

    def _belt_text(self, name: str) -> str:
        """Length of the belt where its pulleys stand now."""
        document, motion = self.session.document, self.session.motion
        coupling = document.couplings.get(name) if document is not None else None
        pair = coupling.given.get("diameters") if coupling is not None else None
        if document is None or motion is None or coupling is None or not isinstance(pair, tuple):
            return "–"
        q = self.session.positions()[None]
        one, two = (world(motion, q, document.joints[joint].b)[0] for joint in (coupling.a, coupling.b))
        try:
            length = belt_length(abs(two - one), *pair, crossed=coupling.given.get("run") == "crossed")
        except ValueError as error:
            return str(error)
        return shown(length, "length", document.units, 2)

    def _choice(self, grid: QGridLayout, label: str, place: Place, words: Sequence[str]) -> None:
        """One of a few words; the first is meant when the document says nothing."""
        box = QComboBox()
        box.addItems(list(words))
        box.setAccessibleName(label)
        row = grid.rowCount()
        grid.addWidget(QLabel(label), row, 0)
        grid.addWidget(box, row, 1, 1, 2)

        def refresh() -> None:
            document = self.session.document
            now = lookup(document.tree, place, words[0]) if document is not None else words[0]
            box.blockSignals(True)
            box.setCurrentText(str(now))
            box.blockSignals(False)

        box.currentTextChanged.connect(lambda text: self.session.edit(place, text, f"Change {label}"))
        self._live.append(refresh)

    def _joint_text(self, name: str, what: str) -> str:
        findings, document = self.session.findings, self.session.document
        if findings is None or document is None or name not in findings.motion.system.coordinates.ids:
            return "–"
        coordinates = findings.motion.system.coordinates
        column = coordinates.index(name)
        dimension = "length" if coordinates.is_length[column] else "angle"
        found = findings.motion.extremes
        low, high = float(found.low[column]), float(found.high[column])
        if what == "now":
            value = float(self.session.coordinates()[column])
        else:
            value = {"low": low, "high": high, "travel": high - low}[what]
        return shown(value, dimension, document.units)

    def _behaviour_text(self, name: str, what: str) -> str:
        from anakinema.findings.behaviour import dwells, time_ratio

        findings, document = self.session.findings, self.session.document
        if findings is None or document is None or name not in findings.motion.system.coordinates.ids:
            return "–"
        motion = findings.motion
        if motion is not self._known_of:
            self._known, self._known_of = {}, motion
        key = (name, what)
        if key not in self._known:
            if what == "ratio":
                ratio = time_ratio(motion, name) if motion.path.t1 > 0 else None
                self._known[key] = "–" if ratio is None else f"{ratio:.4g} : 1"
            else:
                dimension = driver_dimension(motion) if motion.drive.drivers else ""
                told = []
                for found in dwells(motion, name) if motion.drive.drivers else []:
                    ends = (motion.driver_value(t) or 0.0 for t in (found.start, found.stop))
                    told.append(" … ".join(shown(end, dimension, document.units, 1) for end in ends))
                self._known[key] = "\n".join(told) or "none"
        return self._known[key]

    def _gain_text(self, name: str) -> str:
        """Mechanical advantage from the first driver to this joint, where the play head is."""
        from anakinema.findings.behaviour import mechanical_advantage

        findings = self.session.findings
        if findings is None or not findings.motion.drive.drivers or self.session.posed is not None:
            return "–"
        motion = findings.motion
        ids = motion.system.coordinates.ids
        if name not in ids or motion is not self.session.motion:
            return "–"
        state = motion.at(np.array([self.session.time]))
        gain = float(mechanical_advantage(state, ids.index(motion.drive.drivers[0].joint), ids.index(name))[0])
        return f"{gain:.4g}" if gain < 1e6 else "without bound: it stands still"

    def _drivers(self, document: Document, name: str) -> None:
        self._heading("DRIVER", name, f"drives joint {document.drivers[name].joint}")
        grid = self._section("RANGE")
        for key in ("from", "to"):
            self._field(grid, key, ("drivers", name, key), optional=key == "from")
        self._field(grid, "steps", ("drivers", name, "steps"))
        grid = self._section("SPEED")
        key = "duration" if "duration" in document.tree["drivers"][name] else "rate"
        self._field(grid, key, ("drivers", name, key), optional=True)
        self._told(grid, "takes", self._duration_text)
        self._button(f"Show joint {document.drivers[name].joint}", lambda: self._go_joint(name))

    def _go_joint(self, driver: str) -> None:
        document = self.session.document
        if document is not None and driver in document.drivers:
            self.session.select(f"joints.{document.drivers[driver].joint}")

    def _duration_text(self) -> str:
        findings = self.session.findings
        return f"{findings.motion.planned:.4g} s" if findings is not None else "–"

    def _traces(self, document: Document, name: str) -> None:
        trace = document.traces[name]
        self._heading("TRACE", name, f"path of {trace.point}, seen from {trace.on or 'the frame'}")

    def _checks(self, document: Document, name: str) -> None:
        check = document.checks[name]
        of = check.joint or " and ".join(check.parts or ())
        self._heading("CHECK", name, f"{check.measure.replace('_', ' ')} of {of}")
        grid = self._section("FOUND")
        self._told(grid, "value", lambda: self._check_text(name, "value"))
        self._told(grid, "wanted", lambda: self._check_text(name, "wanted"))
        self._told(grid, "margin", lambda: self._check_text(name, "margin"), lambda: self._check_role(name))
        self._told(grid, "worst at", lambda: self._check_text(name, "at"))
        self._button("Go to the worst position", lambda: self._go_worst(name))
        grid = self._section("WANTED")
        for key in ("at_least", "at_most"):
            self._field(grid, key.replace("_", " "), ("checks", name, key), optional=True)
        if check.note:
            self._note(check.note)

    def _check_role(self, name: str) -> str:
        findings = self.session.findings
        verdict = findings.verdicts.get(name) if findings is not None else None
        return "muted" if verdict is None else "good" if verdict.passed else "bad"

    def _check_text(self, name: str, what: str) -> str:
        findings, document = self.session.findings, self.session.document
        verdict = findings.verdicts.get(name) if findings is not None else None
        if verdict is None or document is None or findings is None:
            return "–"
        units = document.units
        match what:
            case "value":
                return "never share depth" if verdict.value is None else shown(verdict.value, verdict.dimension, units)
            case "wanted":
                return wanted_text(verdict, units)
            case "margin":
                margin = "" if verdict.margin is None else shown(verdict.margin, verdict.dimension, units) + "  "
                return margin + ("passes" if verdict.passed else "fails")
        if verdict.driver is None or verdict.value is None:
            return "–"
        driver = findings.motion.drive.drivers[0].id
        return f"{driver} {shown(verdict.driver, driver_dimension(findings.motion), units, 2)}"

    def _go_worst(self, name: str) -> None:
        findings = self.session.findings
        if findings is not None and name in findings.verdicts:
            self.session.pause()
            self.session.go(findings.verdicts[name].t)


def _keys(tree: Any) -> str:
    """The skeleton of a tree: keys and lengths, no values."""
    if isinstance(tree, dict):
        return "{" + ",".join(f"{key}{_keys(value)}" for key, value in tree.items() if key not in ("fixed",)) + "}"
    if isinstance(tree, list):
        return "[" + ",".join(map(_keys, tree)) + "]"
    return ""


def _names(expression: float | str) -> Iterable[str]:
    from anakinema.document.expressions import names

    return names(expression) if isinstance(expression, str) else ()
