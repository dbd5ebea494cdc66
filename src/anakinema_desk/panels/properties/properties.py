"""The card: everything about what is selected, editable in place, with the numbers found beside."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.changes import lookup
from anakinema.document.model import Document
from anakinema.kinds import Field, FieldForm

from ...session import Place, Session
from ...theme.choices import Choice
from ...theme.labels import Label, set_role, tip
from ...theme.tokens import Tokens
from ..fields import WIDE, ExpressionField, NameField, TextField
from . import features, joints, parts, study, whole

if TYPE_CHECKING:
    from anakinema.findings import Findings

Fill = Callable[["Properties", Document, str], None]
KINDS: dict[str, Fill] = {
    "": whole.document, "parameters": whole.parameter, "parts": parts.part, "uses": parts.use,
    "assemblies": parts.assembly, "groups": parts.group, "joints": joints.joint, "couplings": joints.coupling,
    "contacts": joints.contact, "drivers": study.driver, "tracks": study.track, "programs": study.program,
    "traces": study.trace, "checks": study.check, "measures": study.measure, "positions": study.position,
    "pairs": study.pair, "features": features.feature,
}  # fmt: skip
"""What fills the card, for each kind of thing that can be selected."""
PAGE = 12
"""Entries of a list that are shown at once: a sieve has thousands of holes, and each is a few fields."""


class Properties(QScrollArea):
    """Shows the selected thing, or the document when nothing is selected."""

    table_wanted = Signal(str)
    """Another table is to be read for a program."""
    tool_wanted = Signal(str)
    """A tool is to be taken in hand."""
    desk_wanted = Signal()
    """The cam desk is to be shown."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Card of what is selected")
        self._fields: dict[str, ExpressionField] = {}
        self.live: list[Callable[[], None]] = []
        self._found: list[QLabel] = []
        """Labels of what the analysis found: greyed while it is that of a version before."""
        self._shape = ""
        self._turned: dict[tuple[str, str], int] = {}
        """The page that each list has been turned to, by what is selected and what is listed."""
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self.rebuild)
        session.selection.changed.connect(self._later.start)
        session.analysis.changed.connect(self._document_changed)
        session.time_changed.connect(self.refresh_live)
        session.trying.changed.connect(self._document_changed)

    @property
    def fields(self) -> dict[str, ExpressionField]:
        """The fields of what is selected, by their place in the document."""
        if self._later.isActive():
            self.rebuild()
        return self._fields

    def _document_changed(self) -> None:
        """Brings the card up to date. Where rows come or go it is made anew a moment later: what is happening now may
        come from one of its own fields, which must outlive it."""
        if self._outline() != self._shape:
            self._later.start()
            return
        for field in self._fields.values():
            field.refresh()
        self.refresh_live()

    def _outline(self) -> str:
        """What the card's rows depend on: selection, and the keys (not the values) of what is selected."""
        document = self.session.document
        if document is None:
            return ""
        kind, name = self.session.selection.current()
        place = self.session.selection.in_tree
        tree = lookup(document.tree, place) if place else document.tree.get("parameters", {})
        more = "" if kind else whole.outline(self)
        if kind == "joints":
            more += joints.outline(self, name)
        return f"{kind}.{name}:{_keys(tree)}{more}{len(self.session.selection.others)}"

    def rebuild(self) -> None:
        """Makes the card anew for what is selected. Where the same thing is selected still, focus, scroll and what is
        being typed stay; else what is being typed is taken in."""
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
            kind, name = self.session.selection.current()
            KINDS[kind](self, document, name)
        self.rows.addStretch(1)
        self.setWidget(body)
        self.refresh_live()
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
        held = QApplication.focusWidget()
        if held is not None and self.isAncestorOf(held):
            self.window().setFocus()  # to the bench: else the next best field would have the keys
        self._fields, self.live, self._found = {}, [], []
        old = self.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()

    def last(self) -> "Findings | None":
        """The findings to tell: those of the document, or, greyed, those of the version before."""
        return self.session.analysis.shown.findings if self.session.analysis.shown is not None else None

    def refresh_live(self) -> None:
        shown_now = self.session.analysis.shown
        for refresh in self.live:
            refresh()
        for label in self._found:
            label.setEnabled(shown_now is not None and shown_now.fresh)

    def heading(self, kind: str, text: str, note: str = "", place: Place = ()) -> None:
        """What it is and what it is called; what stands at a place has its name to be changed there."""
        over = Label(kind)
        over.setProperty("role", "section")
        self.rows.addWidget(over)
        if not place or text != place[-1]:
            head = Label(text)
            head.setProperty("role", "heading")
            head.setWordWrap(True)
            self.rows.addWidget(head)
        if place:
            field = NameField(self.session, place)
            field.setToolTip("The name; all that refers to it follows")
            self.rows.addWidget(field)
            rows = self.rows
            field.put_below = lambda label: rows.insertWidget(rows.indexOf(field) + 1, label)
            self._fields[".".join(map(str, place))] = field
        if note:
            self.note(note)
        if self.session.selection.others:
            self.note(f"and {len(self.session.selection.others)} more selected")

    def rename(self) -> None:
        """Puts the hand to what the make-up calls the thing that is selected: its label where it has one, else its
        name."""
        document = self.session.document
        label = (*self.session.selection.in_tree, "label")
        field = self.fields.get(".".join(map(str, label)))
        if field is None or document is None or not lookup(document.tree, label, ""):
            field = next((field for field in self.fields.values() if isinstance(field, NameField)), None)
        if field is not None:
            self.ensureWidgetVisible(field)
            field.setFocus()
            field.selectAll()

    def note(self, text: str) -> QLabel:
        label = Label(text)
        label.setProperty("role", "muted")
        label.setWordWrap(True)
        self.rows.addWidget(label)
        return label

    def section(self, text: str) -> QGridLayout:
        rule = QFrame()
        rule.setProperty("role", "rule")
        self.rows.addSpacing(8)
        self.rows.addWidget(rule)
        label = Label(text)
        label.setProperty("role", "section")
        self.rows.addWidget(label)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self.rows.addLayout(grid)
        return grid

    def paged(self, what: str, count: int) -> range:
        """Which of many entries to show: a page of them, and a row with which to turn to the others."""
        if count <= PAGE:
            return range(count)
        key = self.session.selection.place, what
        last = (count - 1) // PAGE
        page = min(self._turned.get(key, 0), last)
        shown = range(page * PAGE, min(count, (page + 1) * PAGE))
        row = QWidget()
        layout = QHBoxLayout(row)
        layout.setContentsMargins(0, 8, 0, 0)
        for text, hint, to in (("‹", f"The {what} before", page - 1), ("›", f"The next {what}", page + 1)):
            turn = QToolButton()
            turn.setText(text)
            turn.setToolTip(tip(hint))
            turn.setAccessibleName(hint)
            turn.setEnabled(0 <= to <= last)
            turn.clicked.connect(lambda _=False, to=to: self._turn(key, to))
            layout.addWidget(turn)
        layout.addWidget(Label(f"{what} {shown.start + 1} to {shown.stop} of {count}"))
        layout.addStretch(1)
        self.rows.addWidget(row)
        return shown

    def _turn(self, key: tuple[str, str], page: int) -> None:
        self._turned[key] = page
        self._later.start()

    def field(
        self, grid: QGridLayout, label: str, place: Place, *, hint: str = "", **options: bool
    ) -> ExpressionField:
        name = " ".join(str(word) for word in place[1:] if word != "value")
        shown_of = self.session.selection.current()[1] if place[0] == "assemblies" else ""
        field = ExpressionField(self.session, place, name, shown_of=shown_of, **options)
        row = grid.rowCount()
        caption = Label(label)
        caption.setBuddy(field)
        caption.setToolTip(tip(hint))
        caption.setMaximumWidth(120)
        grid.addWidget(caption, row, 0)
        wide = len(field.text()) > WIDE
        grid.addWidget(field, row, 1, 1, 2 if wide else 1)
        grid.addWidget(field.value_label, row + wide, 1 if wide else 2)
        self._room_below(grid, field, row + 2)
        self._fields[".".join(map(str, place))] = field
        return field

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = tokens
        self._later.start()

    def own_field(self, grid: QGridLayout, row: int, label: str, field: ExpressionField, name: str) -> None:
        """A line with a field that stands for no one place of the document; `name` is what it is found by."""
        caption = Label(label)
        caption.setBuddy(field)
        grid.addWidget(caption, 2 * row, 0)
        grid.addWidget(field, 2 * row, 1, 1, 2)
        self._room_below(grid, field, 2 * row + 1)
        self.keep(name, field)

    def keep(self, name: str, field: ExpressionField) -> None:
        """Keeps a field that stands for no one place of the document."""
        self._fields[name] = field
        self.live.append(field.refresh)

    def text(self, grid: QGridLayout, label: str, place: Place, hint: str = "") -> None:
        """A text of the document, such as a note; empty where there is none."""
        field = TextField(self.session, place, label)
        row = grid.rowCount()
        caption = Label(label)
        caption.setBuddy(field)
        caption.setToolTip(tip(hint))
        grid.addWidget(caption, row, 0)
        grid.addWidget(field, row, 1, 1, 2)
        self._room_below(grid, field, row + 1)
        self._fields[".".join(map(str, place))] = field

    @staticmethod
    def _room_below(grid: QGridLayout, field: ExpressionField, row: int) -> None:
        """Keeps a row for what may be wrong with a field."""
        grid.setRowMinimumHeight(row, 0)
        field.put_below = lambda label: grid.addWidget(label, row, 0, 1, 3)

    def form(self, grid: QGridLayout, fields: Sequence[Field], place: Place, given: dict[str, Any]) -> None:
        """The fields that a kind declares, as far as the document gives them or they may be added by themselves."""
        for field in fields:
            there, value = (*place, field.name), given.get(field.name)
            match field.form:
                case FieldForm.NUMBER | FieldForm.AMOUNT if value is not None or not field.required:
                    self.field(grid, field.caption, there, hint=field.description, optional=not field.required)
                case FieldForm.PAIR | FieldForm.SPOT if isinstance(value, list):
                    self.pair(grid, field.caption, there)
                case FieldForm.SPOT if value is not None:
                    self.field(grid, field.caption, there, hint=field.description, plain=True)
                case FieldForm.WORD:
                    self.choice(grid, field.caption, there, field.words)
                case FieldForm.EXPRESSION:
                    self.field(grid, field.caption, there, hint=field.description, plain=True)
                case FieldForm.FLAG:
                    self.switch(field.caption.capitalize(), there, field.description)
                case FieldForm.DRIVER if self.session.document is not None and len(self.session.document.drivers) > 1:
                    self.choice(grid, field.caption, there, tuple(self.session.document.drivers))

    def pair(self, grid: QGridLayout, label: str, place: Place) -> None:
        """Two coordinates, one below the other."""
        self.field(grid, f"{label} x", (*place, 0))
        self.field(grid, f"{label} y", (*place, 1))

    def description(
        self, grid: QGridLayout, label: str, value: Callable[[], str], role: Callable[[], str] | None = None
    ) -> None:
        """A line with a found value, kept up to date."""
        row = grid.rowCount()
        text = Label()
        text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        caption = Label(label)
        grid.addWidget(caption, row, 0)
        grid.addWidget(text, row, 1, 1, 2)
        self._found.append(text)

        def refresh() -> None:
            text.setText(value())
            if role is not None:
                set_role(text, role())

        self.live.append(refresh)

    def button(self, text: str, run: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.clicked.connect(run)
        self.rows.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)
        return button

    def switch(self, text: str, place: Place, hint: str) -> None:
        document = self.session.document
        assert document is not None
        switch = QCheckBox(text)
        switch.setToolTip(tip(hint))
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
        self.live.append(refresh)
        self.rows.addWidget(switch)

    def choice(
        self, grid: QGridLayout, label: str, place: Place, words: Sequence[str], hints: Sequence[str] = ()
    ) -> None:
        """One of a few words; the first is meant when the document says nothing, and an empty one says nothing. What
        each does stands beside it, where `hints` say so."""
        def now() -> str:
            document = self.session.document
            return str(lookup(document.tree, place, words[0])) if document is not None else words[0]

        def change(text: str) -> None:
            if text or words[0]:
                self.change(place, text)
            else:
                self.session.remove(place, f"Change {label}")

        self.pick(grid, label, words, now, change, hints)

    def pick(
        self, grid: QGridLayout, label: str, words: Sequence[str], now: Callable[[], str],
        change: Callable[[str], None], hints: Sequence[str] = (),
    ) -> None:  # fmt: skip
        """One of a few words, whatever it is that it changes."""
        box = Choice()
        for number, word in enumerate(words):
            box.addItem(f"{word}: {hints[number]}" if hints else word, word)
        box.setAccessibleName(label)
        caption = Label(label)
        caption.setWordWrap(True)
        caption.setToolTip(tip(label))
        row = grid.rowCount()
        grid.addWidget(caption, row, 0)
        grid.addWidget(box, row, 1, 1, 2)

        def refresh() -> None:
            box.blockSignals(True)
            box.setCurrentIndex(box.findData(now()))
            box.blockSignals(False)
            box.setToolTip(tip(box.currentText()))

        box.currentIndexChanged.connect(lambda number: change(str(box.itemData(number))))
        self.live.append(refresh)

    def change(self, place: Place, value: Any) -> None:
        """Puts a value at a place of the document; what hinders it is told."""
        faults = self.session.edit(place, value, f"Change {place[-1]}")
        if faults:
            self.session.faults_raised.emit("Not changed", faults)
            self.refresh_live()


def _keys(tree: Any) -> str:
    """The skeleton of a tree: keys and lengths, no values."""
    if isinstance(tree, dict):
        return "{" + ",".join(f"{key}{_keys(value)}" for key, value in tree.items() if key not in ("fixed",)) + "}"
    if isinstance(tree, list):
        return "[" + ",".join(map(_keys, tree)) + "]"
    return ""
