"""Drawing files off the interface thread: what is in one, the outlines of what is chosen, parts written to one."""

from collections.abc import Mapping, Sequence
from pathlib import Path

from PySide6.QtCore import Signal

from anakinema.document import Document
from anakinema.geometry.drawn import Chosen

from .shown import Pose
from .worker import Worker


class DrawingClient(Worker):
    """Reads and writes drawings, one at a time: the newest."""

    contents = Signal(int, object)
    """The `Contents` of a drawing, or the `DocumentError` that it can't be read."""
    outlined = Signal(int, object)
    """The outlines of what is chosen and what there is to tell of them, or a `DocumentError`."""
    written = Signal(int, object)
    """The path that was written, or the `DocumentError` that it can't be."""

    writing = 0
    """The number under which something was to be written last."""

    def read(self, path: Path) -> int:
        """Looks what a drawing holds."""
        return self.ask("read_drawing", path)

    def outline(self, path: Path, chosen: Chosen) -> int:
        """Finds the outlines of what is chosen of a drawing."""
        return self.ask("outline_drawing", path, chosen)

    def write(self, document: Document, path: Path, poses: Mapping[str, Pose], parts: Sequence[str]) -> int:
        """Writes the outlines of parts where they stand."""
        self.writing = self.ask("write_drawing", document, path, dict(poses), list(parts))
        return self.writing
