"""The card: everything about what is selected, editable in place, with the numbers found beside."""

import math
from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import Qt, QTimer
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

from anakinema.document.changes import lookup
from anakinema.document.model import Document
from anakinema.findings.transmission import world
from anakinema.formats.results import wanted_text
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.joints.belt import belt_length
from anakinema.words import shown

from ..session import Place, Session
from .fields import WIDE, ExpressionField, NameField

if TYPE_CHECKING:
    from anakinema.findings import Findings, Verdict
    from anakinema.findings.series import Series

SHAPE_KEYS = ("center", "diameter", "size", "angle", "corner_radius", "width", "radius", "from", "to", "start")
NEAREST = 8
"""Pairs listed on the card of the document."""
MOST_LINKAGES = 12
OUTCOMES = {"PASS": "passes", "FAIL": "fails", "UNPROVEN": "unproven", "NOT_JUDGED": "not judged"}


class Card(QScrollArea):
    """Shows the selected thing, or the document when nothing is selected."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Card of what is selected")
        self._fields: dict[str, ExpressionField] = {}
        self._live: list[Callable[[], None]] = []
        self._found: list[QLabel] = []
        """Labels of what the analysis found: greyed while it is that of a version before."""
        self._shape = ""
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self.rebuild)
        session.selection_changed.connect(self._later.start)
        session.shown_changed.connect(self._document_changed)
        session.time_changed.connect(self._refresh_live)

    @property
    def fields(self) -> dict[str, ExpressionField]:
        """The fields of what is selected, by their place in the document."""
        if self._later.isActive():
            self.rebuild()
        return self._fields

    # -- building ----------------------------------------------------------------------------------------------

    def _document_changed(self) -> None:
        """Brings the card up to date. Where rows come or go it is made anew a moment later: what is happening now may
        come from one of its own fields, which must outlive it."""
        if self._outline() != self._shape:
            self._later.start()
            return
        for field in self._fields.values():
            field.refresh()
        self._refresh_live()

    def _pairs(self) -> list[tuple[str, str]]:
        """The pairs that come closest."""
        findings = self._last()
        known = [found for found in findings.approaches if found.distance is not None] if findings is not None else []
        return [approach.parts for approach in sorted(known, key=lambda found: found.distance or 0.0)[:NEAREST]]

    def _outline(self) -> str:
        """What the card's rows depend on: selection, and the keys (not the values) of what is selected."""
        document = self.session.document
        if document is None:
            return ""
        kind, name = self.session.selected()
        section = "joints" if kind == "couplings" else kind
        tree = lookup(document.tree, [section, name]) if kind else document.tree.get("parameters", {})
        findings = self._last()
        more = "" if kind or findings is None else f"{self._pairs()}{findings.linkages[:MOST_LINKAGES]}"
        return f"{kind}.{name}:{_keys(tree)}{more}"

    def rebuild(self) -> None:
        """Makes the card anew for what is selected. Where the same thing is selected still, focus, scroll and what is
        being typed stay; else what is being typed is taken in."""
        with self.session.analyst.held():
            self._rebuild()

    def _rebuild(self) -> None:
        same = self._shape.split(":")[0] == self._outline().split(":")[0]
        if not same:
            for field in self._fields.values():
                field.commit()
        self._later.stop()
        typed = {place: field.typed() for place, field in self._fields.items() if same and field.isModified()}
        at = next((place for place, field in self._fields.items() if field.hasFocus()), "")
        scroll = self.verticalScrollBar().value() if same else 0
        self._retire()
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
        if at in self._fields:
            self._fields[at].setFocus()
            self._fields[at].selectAll()
        for place, words in typed.items():
            if place in self._fields:
                self._fields[place].type_again(words)
        self.verticalScrollBar().setValue(scroll)

    def _retire(self) -> None:
        """Takes the old rows away; they are deleted when nothing that happens now can still need them."""
        for field in self._fields.values():
            field.retired = True
        self._fields, self._live, self._found = {}, [], []
        old = self.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()

    def _last(self) -> "Findings | None":
        """The findings to tell: those of the document, or, greyed, those of the version before."""
        return self.session.shown.findings if self.session.shown is not None else None

    def _refresh_live(self) -> None:
        shown_now = self.session.shown
        for refresh in self._live:
            refresh()
        for label in self._found:
            label.setEnabled(shown_now is not None and shown_now.fresh)

    def _heading(self, kind: str, text: str, note: str = "", place: Place = ()) -> None:
        """What it is and what it is called; what stands at a place has its name to be changed there."""
        over = QLabel(kind)
        over.setProperty("role", "section")
        self.rows.addWidget(over)
        if not place or text != place[-1]:
            head = QLabel(text)
            head.setProperty("role", "heading")
            head.setWordWrap(True)
            head.setTextFormat(Qt.TextFormat.PlainText)
            self.rows.addWidget(head)
        if place:
            field = NameField(self.session, place)
            field.setToolTip("The name; all that refers to it follows")
            self.rows.addWidget(field)
            self.rows.addWidget(field.fault_label)
            self._fields[".".join(map(str, place))] = field
        if note:
            self._note(note)

    def rename(self) -> None:
        """Puts the hand to the name of what is selected."""
        field = next((field for field in self.fields.values() if isinstance(field, NameField)), None)
        if field is not None:
            self.ensureWidgetVisible(field)
            field.setFocus()
            field.selectAll()

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
        self._fields[".".join(map(str, place))] = field
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
        caption = QLabel(label)
        caption.setTextFormat(Qt.TextFormat.PlainText)
        text.setTextFormat(Qt.TextFormat.PlainText)
        grid.addWidget(caption, row, 0)
        grid.addWidget(text, row, 1, 1, 2)
        self._found.append(text)

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
        self._note(
            "Numbers may be expressions: 2*rod + 3 mm, 1/2 in, 90 deg - lead. Typed into any field, rod = 40 makes a "
            "parameter of it. Select anything to see its card."
        )
        pairs = self._pairs()
        if pairs:
            grid = self._section("CLOSEST APPROACHES")
            for pair in pairs:
                self._told(grid, f"{pair[0]} – {pair[1]}", lambda pair=pair: self._approach_text(pair))
        findings = self._last()
        if findings is not None and findings.linkages:
            grid = self._section("LINKAGES")
            for linkage in findings.linkages[:MOST_LINKAGES]:
                self._told(grid, "–".join(linkage.parts), lambda kind=linkage.kind: kind)
        self._note("Moving machinery crushes and shears. Guard it, and follow local codes and licensed practice.")

    def _value_place(self, document: Document, name: str) -> Place:
        entry = document.tree["parameters"][name]
        return ("parameters", name, "value") if isinstance(entry, dict) else ("parameters", name)

    def _approach_text(self, pair: tuple[str, str]) -> str:
        findings, document = self._last(), self.session.document
        if findings is None or document is None:
            return "…"
        found = next((approach for approach in findings.approaches if approach.parts == pair), None)
        if found is None or found.distance is None:
            return "–"
        text = shown(found.distance, "length", document.units, 3)
        return text if found.proven else f"{text} (sampled)"

    def _parameters(self, document: Document, name: str) -> None:
        parameter = document.parameters[name]
        self._heading("PARAMETER", name, parameter.note, ("parameters", name))
        grid = self._section("VALUE")
        self._field(grid, "value", self._value_place(document, name))
        users = [other.id for other in document.parameters.values() if name in _names(other.expression)]
        if users:
            self._note(f"used by {', '.join(users)}")

    def _parts(self, document: Document, name: str) -> None:
        part = document.parts[name]
        self._heading("PART", part.name, part.note, ("parts", name))
        self._switch("Fixed", ("parts", name, "fixed"), "A fixed part stays at its pose exactly")
        if part.of:
            self._note(f"A copy of {part.of}: what is changed there changes here too.")
            self._button(f"Show {part.of}", lambda: self.session.select(f"parts.{part.of}"))
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
        own = document.tree["parts"][name].get("points", {})
        if own:
            grid = self._section("POINTS, in the part's own frame")
            for point in own:
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
        self._heading(title, name, joint.note or f"{joint.a} to {joint.b}", ("joints", name))
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
        note = coupling.note or f"ties {coupling.a} to {coupling.b}"
        self._heading(kind.title.upper(), name, note, ("joints", name))
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
        document, motion = self.session.document, self.session.motion
        if document is None:
            return "–"
        if what == "now":
            if motion is None or name not in motion.system.coordinates:
                return "–"
            column = motion.system.coordinates.index(name)
            value = float(self.session.coordinates()[column])
            return shown(value, motion.system.coordinates.dimension(column), document.units)
        found = self._series(name)
        if found is None:
            return "–"
        value = {"low": found.low, "high": found.high, "travel": found.high - found.low}[what]
        return shown(value, found.dimension, document.units)

    def _series(self, joint: str) -> "Series | None":
        """What was found of a joint's coordinate."""
        findings = self._last()
        series = findings.series if findings is not None else ()
        return next((found for found in series if found.place == f"joints.{joint}"), None)

    def _behaviour_text(self, name: str, what: str) -> str:
        findings, document = self._last(), self.session.document
        found = findings.behaviours.get(name) if findings is not None else None
        if found is None or findings is None or document is None:
            return "–"
        if what == "ratio":
            return "–" if found.time_ratio is None else f"{found.time_ratio:.4g} : 1"
        motion, told = findings.motion, []
        for dwell in found.dwells:
            ends = (motion.driver_value(t) or 0.0 for t in (dwell.start, dwell.stop))
            told.append(" … ".join(shown(end, motion.driver_dimension, document.units, 1) for end in ends))
        return "\n".join(told) or "none"

    def _gain_text(self, name: str) -> str:
        """Mechanical advantage from the first driver to this joint, where the play head is."""
        from anakinema.findings.behaviour import mechanical_advantage

        motion = self.session.motion
        if motion is None or not motion.drive.drivers or self.session.posed is not None:
            return "–"
        ids = motion.system.coordinates.ids
        if name not in motion.system.coordinates:
            return "–"
        state = motion.at(np.array([self.session.time]))
        gain = float(mechanical_advantage(state, ids.index(motion.drive.drivers[0].joint), ids.index(name))[0])
        return f"{gain:.4g}" if gain < 1e6 else "without bound: it stands still"

    def _drivers(self, document: Document, name: str) -> None:
        self._heading("DRIVER", name, f"drives joint {document.drivers[name].joint}", ("drivers", name))
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
        motion = self.session.motion
        return f"{motion.planned:.4g} s" if motion is not None else "–"

    def _traces(self, document: Document, name: str) -> None:
        trace = document.traces[name]
        seen = f"path of {trace.point}, seen from {trace.on or 'the frame'}"
        self._heading("TRACE", name, seen, ("traces", name))

    def _checks(self, document: Document, name: str) -> None:
        check = document.checks[name]
        of = check.joint or " and ".join(check.parts or ())
        self._heading("CHECK", name, f"{check.measure.replace('_', ' ')} of {of}", ("checks", name))
        grid = self._section("FOUND")
        self._told(grid, "value", lambda: self._check_text(name, "value"))
        self._told(grid, "wanted", lambda: self._check_text(name, "wanted"))
        self._told(grid, "margin", lambda: self._check_text(name, "margin"), lambda: self._check_role(name))
        self._told(grid, "worst at", lambda: self._check_text(name, "at"))
        why = self._note("")
        self._live.append(lambda: (why.setText(self._check_text(name, "why")), why.setVisible(bool(why.text()))))
        self._button("Go to the worst position", lambda: self._go_worst(name))
        grid = self._section("WANTED")
        for key in ("at_least", "at_most"):
            self._field(grid, key.replace("_", " "), ("checks", name, key), optional=True)
        if check.note:
            self._note(check.note)

    def _verdict(self, name: str) -> "Verdict | None":
        findings = self._last()
        return findings.verdicts.get(name) if findings is not None else None

    def _check_role(self, name: str) -> str:
        verdict = self._verdict(name)
        if verdict is None or not (self.session.shown is not None and self.session.shown.fresh):
            return "muted"
        return {"PASS": "good", "FAIL": "bad"}.get(verdict.outcome.name, "warn")

    def _check_text(self, name: str, what: str) -> str:
        findings, document, verdict = self._last(), self.session.document, self._verdict(name)
        if verdict is None or document is None or findings is None:
            return "–"
        units = document.units
        match what:
            case "value":
                return "–" if verdict.value is None else shown(verdict.value, verdict.dimension, units)
            case "wanted":
                return wanted_text(verdict, units)
            case "margin":
                margin = "" if verdict.margin is None else shown(verdict.margin, verdict.dimension, units) + "  "
                return margin + OUTCOMES[verdict.outcome.name]
            case "why":
                return verdict.reason
        if verdict.driver is None or verdict.value is None:
            return "–"
        driver = findings.motion.drive.drivers[0].id
        return f"{driver} {shown(verdict.driver, findings.motion.driver_dimension, units, 2)}"

    def _go_worst(self, name: str) -> None:
        verdict = self._verdict(name)
        if verdict is not None:
            self.session.pause()
            self.session.go(verdict.t)


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
