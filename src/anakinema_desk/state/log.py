"""The log of trials: a row for every accepted change, once it is known what the checks say of it."""

from datetime import datetime
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from anakinema.studies import trials

from .editor import Editor

if TYPE_CHECKING:
    from anakinema.document import Change
    from anakinema.findings import Findings


class Log(QObject):
    """The rows of the document that is open, those of its file first."""

    changed = Signal()

    def __init__(self, editor: Editor, parent: QObject | None = None):
        super().__init__(parent)
        self.editor = editor
        self.rows: list[trials.Row] = []
        self._tree: Any = {}
        """The document as the last row left it."""
        self._before: dict[str, list[str]] | None = None
        editor.opened.connect(self._opened)
        editor.logged = lambda: self.rows

    def _opened(self) -> None:
        assert self.editor.document is not None
        self.rows = trials.rows(self.editor.document)
        self._tree, self._before = self.editor.document.tree, None
        self.changed.emit()

    def judged(self, findings: "Findings") -> None:
        """Takes in what the checks say of the document as it is."""
        after = trials.verdicts_told(findings)
        tree = findings.document.tree
        change = trials.difference(self._tree, tree)
        if change:
            row: trials.Row = {"time": datetime.now().isoformat(timespec="seconds"), "changes": change}
            self.rows = trials.bounded([*self.rows, {**row, "before": self._before or {}, "after": after}])
            self._tree = tree
            self.changed.emit()
        self._before = after

    def mark(self, number: int, star: bool) -> None:
        """Gives a row a star, or takes it."""
        self._put(number, "star", star)

    def note(self, number: int, text: str) -> None:
        """Puts a note to a row."""
        self._put(number, "note", text)

    def _put(self, number: int, key: str, value: Any) -> None:
        row = {name: kept for name, kept in self.rows[number].items() if name != key}
        self.rows = [*self.rows[:number], {**row, **({key: value} if value else {})}, *self.rows[number + 1 :]]
        self.editor.log_touched = True
        self.changed.emit()

    def back_to(self, number: int) -> "list[Change] | None":
        """The changes that lead back to how things stood after a row; None where what came later can't be undone, for
        something else has changed it since."""
        document = self.editor.document
        if document is None or not trials.follows(document, self.rows, number):
            return None
        return trials.undoing(self.rows, number)
