"""Text is text: labels and tooltips that show every letter as it is, whatever a document or a drawing puts into a name
or a note. Qt would take what looks like markup for such, and fetch what it names."""

import html

from PySide6.QtCore import Qt
from PySide6.QtGui import Qt as Rich
from PySide6.QtWidgets import QLabel, QWidget


class Label(QLabel):
    """A label of plain text."""

    def __init__(self, text: str = "", parent: QWidget | None = None):
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


def set_role(widget: QWidget, role: str) -> None:
    """What the text of a widget is for ("bad", "muted", "" for plain), which the sheet of styles colours. Qt looks at
    the sheet again only when told to, and that is dear enough to do it for a change alone."""
    if widget.property("role") == role:
        return
    widget.setProperty("role", role)
    widget.style().unpolish(widget)
    widget.style().polish(widget)


def tip(text: str) -> str:
    """A text for a tooltip, which knows no plain ones: what Qt would take for markup goes with its letters escaped.

    >>> tip("3 < 4"), tip("<b>")
    ('3 < 4', '<qt>&lt;b&gt;</qt>')
    """
    return f"<qt>{html.escape(text)}</qt>" if Rich.mightBeRichText(text) else text


def words(text: str) -> str:
    """A text for a menu or a button, where an ampersand would mark a key."""
    return text.replace("&", "&&")
