"""A field for a number or expression of the document: the text, the value it has, and what is wrong with it."""

import json
import re
from collections.abc import Callable
from decimal import Decimal, localcontext
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLabel, QLineEdit

from anakinema.document.changes import lookup
from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document, Value
from anakinema.errors import DocumentError, Fault
from anakinema.formatting import format_quantity, shown
from anakinema.operations import make_parameter, named_value
from anakinema.operations.studying import bounds_around

from ..session import Place, Session
from ..theme.labels import Label, tip

NUDGED = re.compile(r"\s*(-?\d+(?:\.\d+)?)(.*)\Z", re.DOTALL)
WIDE = 15
"""Letters from which an expression wants the whole width, its value below."""


def written(value: Any) -> str:
    """A value of the tree as the user writes it."""
    return value if isinstance(value, str) else json.dumps(value)


def as_value(text: str) -> int | float | str:
    """A plain number as a JSON number, anything else as an expression."""
    try:
        number = json.loads(text)
    except (ValueError, RecursionError):
        return text
    plain = isinstance(number, (int, float)) and not isinstance(number, bool) and abs(number) < 1e300
    return number if plain else text


def nudged(number: str, way: int, size: str) -> str:
    """A number as written, one step up (way 1) or down (−1); all its digits are kept.

    >>> nudged("12345678.25", 1, "1")
    '12345679.25'
    """
    with localcontext(prec=60):
        return f"{Decimal(number) + way * Decimal(size):f}"


class ExpressionField(QLineEdit):
    """Edits the value at a place of the document. Enter or leaving the field applies it; Escape takes it back; ↑ and ↓
    nudge a number (Shift tenfold, Alt a tenth). ``rod = 40`` makes a parameter of the value and puts that here. A wrong
    text stays, marked, and the document stays as it was."""

    applied = Signal()

    def __init__(
        self, session: Session, place: Place, name: str, *, optional: bool = False, plain: bool = False,
        shown_of: str = "",
    ):  # fmt: skip
        """`shown_of` is the part or joint on whose card it stands, where its place is in a definition."""
        super().__init__()
        self.shown_of = shown_of
        self.session, self.place, self.name = session, place, name
        self.optional, self.plain = optional, plain
        self.retired = False
        """Whether another field has taken its place: it then changes nothing any more."""
        self.value_label = Label()
        self.value_label.setProperty("role", "muted")
        self.fault_label: QLabel | None = None
        """Says what is wrong; made when something first is, for most fields never need it."""
        self.put_below: Callable[[QLabel], object] = lambda label: None
        """Puts that label where this field stands."""
        self.setAccessibleName(name)
        self.setPlaceholderText("none" if optional else "")
        self.editingFinished.connect(self.commit)
        self.refresh()

    def refresh(self) -> None:
        """Shows what the document holds, unless the user is typing or the text is wrong."""
        if self.hasFocus() and self.isModified():
            return
        document = self.session.document
        value = lookup(document.tree, self.place) if document is not None else None
        text = "" if value is None else written(value)
        if text != self.text():
            self.setText(text)
            self.setCursorPosition(0)
            self.setToolTip(tip(text))
        self.setModified(False)
        self._mark("")
        self.value_label.setText(self._evaluated(value))

    def typed(self) -> tuple[str, int, str]:
        """What is being typed: the text, the place of the cursor, and what is wrong with it."""
        return self.text(), self.cursorPosition(), self.fault

    def type_again(self, words: tuple[str, int, str]) -> None:
        """Takes over from the field that was here before."""
        text, cursor, fault = words
        self.setText(text)
        self.setCursorPosition(cursor)
        self.setModified(True)
        self._mark(fault)

    def _number(self, document: Document, value: Any, known: Value) -> float:
        """What it is worth where it is shown: of a part of a sub-assembly in that use, not in its definition."""
        if not isinstance(value, str) or "/" not in self.shown_of:
            return known.number
        try:
            return document.worth(value, known.dimension, self.shown_of)
        except ExpressionError:  # it names what only another section knows, such as drivers
            return known.number

    def _evaluated(self, value: Any) -> str:
        document = self.session.document
        if document is None or value is None or self.plain:
            return ""
        if len(self.place) >= 2 and self.place[0] == "parameters":
            parameter = document.parameters.get(str(self.place[1]))
            text = format_quantity(parameter.quantity, document.units) if parameter is not None else ""
        else:
            known = document.values.get(".".join(map(str, self.place)))
            text = ""
            if known is not None:
                text = shown(self._number(document, value, known), known.dimension, document.units)
        if not isinstance(value, str) and text:
            return text.lstrip("−0123456789. ") or ""
        return f"= {text}" if text and text.replace("−", "-") != value else ""

    def put(self, text: str) -> tuple[Fault, ...]:
        """Changes the document as the text says. Gives the faults that hinder it."""
        edit = f"Change {self.name}"
        if not text and self.optional:
            return self.session.remove(self.place, edit)
        if (both := bounds_around(tuple(map(str, self.place)), text)) is not None:
            return self.session.apply(both, edit)
        named, document = named_value(text), self.session.document
        if named is not None and not self.plain and document is not None and self.place[0] != "parameters":
            try:
                return self.session.apply(make_parameter(document, self.place, *named).changes, f"Name {named[0]}")
            except DocumentError as error:
                return error.faults
        return self.session.edit(self.place, text if self.plain else as_value(text), edit)

    def commit(self) -> None:
        """Applies the text."""
        if not self.isModified() or self.retired:
            return
        faults = self.put(self.text().strip())
        if faults:
            near = [fault for fault in faults if ".".join(map(str, self.place)).startswith(fault.place)]
            fault = near[0] if near else faults[0]
            self._mark(fault.text if near else self.elsewhere(fault))
        else:
            self.take_back()
            self.applied.emit()

    def take_back(self) -> None:
        """Shows again what the document holds; what was typed before can't be undone into it any more."""
        self.setModified(False)
        self.refresh()
        self.setText(self.text())

    def elsewhere(self, fault: Fault) -> str:
        """How a fault is said that lies elsewhere in the document."""
        return str(fault)

    @property
    def fault(self) -> str:
        """What is wrong with what is typed; empty where nothing is, or nothing is known of it yet."""
        return self.fault_label.text() if self.fault_label is not None else ""

    def _mark(self, fault: str) -> None:
        if fault and self.fault_label is None:
            self.fault_label = Label()
            self.fault_label.setProperty("role", "bad")
            self.fault_label.setWordWrap(True)
            self.put_below(self.fault_label)
        if self.fault_label is not None:
            self.fault_label.setText(fault)
            self.fault_label.setVisible(bool(fault) and self.fault_label.parent() is not None)
        if bool(self.property("wrong")) != bool(fault):
            self.setProperty("wrong", bool(fault))
            self.style().unpolish(self)
            self.style().polish(self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.isModified():
            self.take_back()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and not self.plain:
            self._nudge(1 if event.key() == Qt.Key.Key_Up else -1, event.modifiers())
        else:
            super().keyPressEvent(event)

    def _nudge(self, way: int, modifiers: Qt.KeyboardModifier) -> None:
        found = NUDGED.match(self.text())
        if found is None:
            return
        size = "10" if modifiers & Qt.KeyboardModifier.ShiftModifier else "1"
        size = "0.1" if modifiers & Qt.KeyboardModifier.AltModifier else size
        self.setText(f"{nudged(found[1], way, size)}{found[2]}")
        self.setModified(True)
        self.commit()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.setCursorPosition(0)
        if not self.isModified():
            self.refresh()


class ToldField(ExpressionField):
    """A field whose text is worked out from the document, not written at its place there."""

    def said(self, document: Document) -> str:
        """The text, as the document stands; empty where what it speaks of is gone."""
        raise NotImplementedError

    def refresh(self) -> None:
        if self.hasFocus() and self.isModified():
            return
        self.setText(self.said(self.session.document) if self.session.document is not None else "")
        self.setModified(False)
        self._mark("")


class NameField(ExpressionField):
    """The name of what stands at a place. All that refers to it follows another one."""

    def __init__(self, session: Session, place: Place):
        super().__init__(session, place, f"name of {place[-1]}", plain=True)
        self.setProperty("role", "name")

    def refresh(self) -> None:
        """Shows the name, unless the user is typing or the text is wrong."""
        if self.hasFocus() and self.isModified():
            return
        self.setText(str(self.place[-1]))
        self.setModified(False)
        self._mark("")

    def put(self, text: str) -> tuple[Fault, ...]:
        """Renames it."""
        return self.session.rename(self.place, text)


class TextField(ExpressionField):
    """A text of the document, such as a note: empty where there is none."""

    def __init__(self, session: Session, place: Place, name: str):
        super().__init__(session, place, name, optional=True, plain=True)
