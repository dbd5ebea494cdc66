"""What the user is asked before something is done: each question once."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

from anakinema.geometry.drawn import Drawing, Outline

from ..theme.tokens import Tokens
from .drawing import DrawingDialog


class Questions:
    """Asks over a window, in the theme that it has."""

    def __init__(self, window: QWidget, tokens: Callable[[], Tokens]):
        self.window, self.tokens = window, tokens

    def agreed(self, title: str, text: str, yes: str) -> bool:
        """Whether the user wants something that can't be taken back."""
        box = QMessageBox(self.window)
        box.setWindowTitle(title)
        box.setText(text)
        agree = box.addButton(yes, QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        return box.clickedButton() is agree

    def word(self, title: str, what: str, usual: str) -> str:
        """A word or a few; empty where the user thinks better of it."""
        text, wanted = QInputDialog.getText(self.window, title, what, text=usual)
        return text.strip() if wanted else ""

    def choice(self, title: str, text: str, words: Sequence[str]) -> str:
        """One of a few words, the last of which can't be taken back; empty where the user thinks better of it."""
        box = QMessageBox(self.window)
        box.setWindowTitle(title)
        box.setText(text)
        box.setTextFormat(Qt.TextFormat.PlainText)
        buttons = {box.addButton(word, QMessageBox.ButtonRole.ActionRole): word for word in words}
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        return next((word for button, word in buttons.items() if button is box.clickedButton()), "")

    def new_file(self, title: str, name: str, kinds: str) -> Path | None:
        """A file to write; None where the user thinks better of it."""
        found, _ = QFileDialog.getSaveFileName(self.window, title, name, kinds)
        return Path(found) if found else None

    def drawn(self, drawing: Drawing, unit: str) -> list[Outline]:
        """What of a drawing is to become parts; nothing where the user thinks better of it."""
        dialog = DrawingDialog(drawing, unit, self.tokens(), self.window)
        return dialog.outlines if dialog.exec() else []

    def file(self, title: str, kinds: str) -> Path | None:
        """A file to read; None where the user thinks better of it."""
        name, _ = QFileDialog.getOpenFileName(self.window, title, "", kinds)
        return Path(name) if name else None
