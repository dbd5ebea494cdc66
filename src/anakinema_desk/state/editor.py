"""The document and its versions: open, edit, undo, save."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from anakinema.document import Change, Document, Remove, Set, changed
from anakinema.errors import DocumentError, Fault
from anakinema.formats import project
from anakinema.studies.trials import SECTION

Place = tuple[str | int, ...]


@dataclass(frozen=True)
class Step:
    """A document on the undo stack and what led away from it."""

    document: Document
    text: str
    merge: str = ""
    """Of what hand's work it is: the next change of the same joins this step."""


class Editor(QObject):
    """Holds the document; every change makes a new one, and the old one stays on the undo stack."""

    opened = Signal()
    """Another document is there, with nothing to undo."""
    changed = Signal()
    """The document has another version."""
    saved = Signal()

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.document: Document | None = None
        self.source: project.Source | None = None
        self.path: Path | None = None
        self.undo_stack: list[Step] = []
        self.redo_stack: list[Step] = []
        self.logged: Callable[[], list[dict[str, Any]]] = list
        """The log of trials, which is written with the document."""
        self.log_touched = False
        """Whether a note or a star of the log is in no file yet."""

    # -- files -------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Opens a file. Raises `DocumentError`; then nothing has changed."""
        document, source = project.load(path)
        self.begin(document, source, path)

    def begin(self, document: Document, source: project.Source, path: Path | None) -> None:
        """Starts with a document."""
        self.document, self.source, self.path = document, source, path
        self.undo_stack, self.redo_stack, self.log_touched = [], [], False
        self.opened.emit()

    def new(self) -> None:
        """Starts an empty document."""
        self.begin(*project.loads(b'{"anakinema": 1, "title": "Untitled", "parts": {}}'), None)

    def changed_outside(self, path: Path) -> bool:
        """Whether another program has written to the file since it was read or saved here."""
        return path == self.path and project.changed_outside(path, self.source)

    def gone(self, path: Path) -> bool:
        """Whether the file is no longer where it was read or saved here."""
        return path == self.path and project.gone(path, self.source)

    def save(self, path: Path) -> None:
        """Writes the document. Raises `OSError`; then the old file is as it was."""
        self.source = project.save(path, self.whole(), self.source)
        self.path, self.log_touched = path, False
        self.saved.emit()

    def whole(self) -> Document:
        """The document with its log."""
        assert self.document is not None
        log = self.logged()
        if not log:
            return self.document
        return replace(self.document, tree={**self.document.tree, SECTION: log})

    @property
    def modified(self) -> bool:
        """Whether there is something that no file holds yet. A change that was undone has left a row in the log, but
        nothing that would be missed."""
        if self.document is None or self.source is None:
            return False
        if self.log_touched:
            return True
        return not project.same(*({key: value for key, value in tree.items() if key != SECTION}
                                  for tree in (self.document.tree, self.source.tree)))  # fmt: skip

    # -- edits -------------------------------------------------------------------------------------------------

    def apply(self, changes: Iterable[Change], text: str, merge: str = "") -> tuple[Fault, ...]:
        """Makes changes as one step to undo, however many; all or none. Those with the same `merge` as the step
        before join it: a drag is one step. Gives the faults that hinder it; then nothing has changed."""
        return self.replace(lambda document: changed(document, *changes), text, merge)

    def edit(self, place: Place, value: Any, text: str) -> tuple[Fault, ...]:
        """Puts a value at a place of the document."""
        return self.apply([Set(place, value)], text)

    def remove(self, place: Place, text: str) -> tuple[Fault, ...]:
        """Takes the entry at a place out of the document; where there is none nothing changes."""
        return self.apply([Remove(place)], text)

    def replace(self, change: Callable[[Document], Document], text: str, merge: str = "") -> tuple[Fault, ...]:
        """Makes any change to the document, as one step to undo. Gives the faults that hinder it."""
        assert self.document is not None
        try:
            document = change(self.document)
        except DocumentError as error:
            return error.faults
        if project.same(document.tree, self.document.tree):
            return ()
        if not merge or self.redo_stack or not self.undo_stack or self.undo_stack[-1].merge != merge:
            self.undo_stack.append(Step(self.document, text, merge))
        else:
            self.undo_stack[-1] = Step(self.undo_stack[-1].document, text, merge)
        self.redo_stack.clear()
        self.document = document
        self.changed.emit()
        return ()

    def undo(self) -> None:
        """One step back, as far as the opening of the file."""
        self._travel(self.undo_stack, self.redo_stack)

    def redo(self) -> None:
        """One step forward again."""
        self._travel(self.redo_stack, self.undo_stack)

    def _travel(self, source: list[Step], target: list[Step]) -> None:
        if source and self.document is not None:
            step = source.pop()
            target.append(Step(self.document, step.text, step.merge))
            self.document = step.document
            self.changed.emit()
