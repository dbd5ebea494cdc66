"""What the user is asked before something is done: each question once."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

from anakinema.errors import DocumentError
from anakinema.geometry.drawn import Outline

from ..state import DrawingClient
from ..theme.tokens import Tokens
from .drawing import DrawingDialog


class Questions:
    """Asks over a window."""

    def __init__(self, over: QWidget, tokens: Callable[[], Tokens]):
        """`over` is a view of the window; dialogs take its style sheet, and stand in the middle of its window."""
        self.over, self.tokens = over, tokens

    def agreed(self, title: str, text: str, yes: str) -> bool:
        """Whether the user wants something that can't be taken back."""
        box = self._box(title, text)
        agree = box.addButton(yes, QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        box.deleteLater()
        return box.clickedButton() is agree

    def word(self, title: str, what: str, usual: str) -> str:
        """A word or a few; empty where the user thinks better of it."""
        text, wanted = QInputDialog.getText(self.over, title, what, text=usual)
        return text.strip() if wanted else ""

    def choice(self, title: str, text: str, words: Sequence[str], leave: str = "Cancel") -> str:
        """One of a few words, the last of which can't be taken back; empty where the user thinks better of it, which
        a button lets them say."""
        box = self._box(title, text)
        buttons = {box.addButton(word, QMessageBox.ButtonRole.ActionRole): word for word in words}
        box.addButton(leave, QMessageBox.ButtonRole.RejectRole)
        box.exec()
        box.deleteLater()
        return next((word for button, word in buttons.items() if button is box.clickedButton()), "")

    def new_file(self, title: str, name: str, kinds: str) -> Path | None:
        """A file to write; None where the user thinks better of it."""
        found, _ = QFileDialog.getSaveFileName(self.over, title, name, kinds)
        return Path(found) if found else None

    def drawn(self, path: Path, unit: str, drawing_client: DrawingClient) -> list[Outline]:
        """What of a drawing is to become parts, in a unit of length; nothing where the user thinks better of it. Raises
        `DocumentError` where it can't be read."""
        dialog = DrawingDialog(path, unit, drawing_client, self.tokens(), self.over)
        wanted = dialog.exec()
        dialog.deleteLater()
        if dialog.faults:
            raise DocumentError(dialog.faults)
        return dialog.outlines if wanted else []

    def file(self, title: str, kinds: str, folder: str = "") -> Path | None:
        """A file to read; None where the user thinks better of it."""
        name, _ = QFileDialog.getOpenFileName(self.over, title, folder, kinds)
        return Path(name) if name else None

    def one_of(self, title: str, text: str, words: Sequence[str]) -> str:
        """One of some words; empty where the user thinks better of it."""
        word, wanted = QInputDialog.getItem(self.over, title, text, words, 0, False)
        return word if wanted else ""

    def kept(self, title: str, text: str) -> bool | None:
        """Whether changes are to be saved; None where the user thinks better of it."""
        box = self._box(title, text)
        buttons = QMessageBox.StandardButton
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        box.setDefaultButton(buttons.Save)
        answer = box.exec()
        box.deleteLater()
        if answer == buttons.Save:
            return True
        return False if answer == buttons.Discard else None

    def tell(self, title: str, text: str) -> None:
        """Tells something of ours at length, which may be marked up: nothing of a document may be in it."""
        box = self._box(title, "")
        box.setTextFormat(Qt.TextFormat.RichText)
        box.setText(text)
        box.setStandardButtons(QMessageBox.StandardButton.Ok)
        box.exec()
        box.deleteLater()

    def _box(self, title: str, text: str) -> QMessageBox:
        box = QMessageBox(self.over)
        box.setWindowTitle(title)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setText(text)
        return box
