"""Sizes that are typed while something is drawn."""

from collections.abc import Mapping

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document
from anakinema.kinds import Dimension


class Typed:
    """The texts of some sizes, of which the hand is at one. Of each `kinds` tells the dimension."""

    def __init__(self, kinds: Mapping[str, Dimension]):
        self.kinds = kinds
        self.forget()

    def forget(self) -> None:
        """Nothing is typed, and the hand is at the first size."""
        self.texts = dict.fromkeys(self.kinds, "")
        self.at = next(iter(self.kinds), "")

    def __bool__(self) -> bool:
        return any(self.texts.values())

    def takes(self, event: QKeyEvent) -> bool:
        """Takes a key that belongs to a text; whether it does."""
        text = self.texts[self.at]
        if event.key() == Qt.Key.Key_Backspace:
            self.texts[self.at] = text[:-1]
        elif event.text() and event.text().isprintable():
            self.texts[self.at] = text + event.text()
        else:
            return False
        return True

    def next(self, forward: bool) -> None:
        """Goes to the next size, or the one before."""
        names = list(self.kinds)
        self.at = names[(names.index(self.at) + (1 if forward else -1)) % len(names)]

    def worth(self, document: Document | None, size: str, part: str = "") -> float | None:
        """What is typed for a size (core units), by the numbers that hold in a part where one is said; None where
        nothing is. Raises `ExpressionError` for what makes no sense, and for a length that is not greater than zero."""
        text = self.texts[size].strip()
        if document is None or not text:
            return None
        value = document.worth(text, self.kinds[size], part)
        if self.kinds[size] is Dimension.LENGTH and value <= 0:
            raise ExpressionError(f"the {size} must be greater than zero")
        return value

    def written(self, size: str) -> float | str | None:
        """What is typed for a size, as the document says it: a number, or an expression; None where nothing is."""
        text = self.texts[size].strip()
        try:
            return float(text) if text else None
        except ValueError:
            return text

    def mark(self, size: str) -> str:
        """What stands before a size that is shown, where the hand is at it."""
        return "▸ " if size == self.at else ""
