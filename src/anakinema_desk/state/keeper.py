"""Keeps a copy of unsaved work, so that a crash or a power cut takes a few seconds of it at most."""

import json
import os
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from anakinema.document import Document
from anakinema.errors import DocumentError
from anakinema.formats import project
from anakinema.formats.writing import write_whole

from .editor import Editor

PAUSE = 1_500
"""How long the hand must rest before a copy is written (ms)."""
MOST = 10.0
"""How long changes may go uncopied while the hand does not rest (s)."""
ENDING = ".anakinema"


@dataclass(frozen=True)
class Left:
    """Work that a program left behind which ended before it was saved: the copy, the file that it is of (None: a new
    document), its title, and when it was kept (seconds of the clock)."""

    copy: Path
    path: Path | None
    title: str
    at: float


class Keeper(QObject):
    """Writes a copy beside the settings, one for each running program, and takes it away when the work is safe."""

    def __init__(self, editor: Editor, folder: Path):
        super().__init__(editor)
        self.editor, self.folder = editor, folder
        self.copy = folder / f"{os.getpid()}{ENDING}"
        self._kept: Document | None = None
        self._since = 0.0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.keep)
        editor.changed.connect(self._later)
        editor.opened.connect(self.clear)
        editor.saved.connect(self.clear)

    def _later(self) -> None:
        now = time.monotonic()
        self._since = self._since or now
        self._timer.start(PAUSE if now - self._since < MOST else 0)

    def keep(self) -> None:
        """Writes the copy now, where there is something that no file holds. That it can't be written is no reason to
        disturb the work."""
        self._timer.stop()
        self._since = 0.0
        document = self.editor.document
        if document is None or document is self._kept:
            return
        if not self.editor.modified:
            self.clear()
            return
        note = {"path": str(self.editor.path or ""), "title": document.title, "at": time.time()}
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            write_whole(self.copy, project.dumps(self.editor.whole()))
            write_whole(self._note(self.copy), json.dumps(note).encode())
        except (OSError, ValueError):
            return
        self._kept = document

    def clear(self) -> None:
        """The work is saved, or given up: the copy goes."""
        self._timer.stop()
        self._since, self._kept = 0.0, None
        self.forget(self.copy)

    @staticmethod
    def _note(copy: Path) -> Path:
        return copy.with_suffix(".json")

    def forget(self, copy: Path) -> None:
        """Takes a copy away."""
        for path in (copy, self._note(copy)):
            with suppress(OSError):
                path.unlink(missing_ok=True)

    def left(self) -> list[Left]:
        """The work that programs left behind which run no more, the newest first."""
        found = []
        for copy in self.folder.glob(f"*{ENDING}"):
            if not copy.stem.isdigit() or _runs(int(copy.stem)):
                continue
            try:
                note = json.loads(self._note(copy).read_text(encoding="utf-8"))
                path, at = Path(note["path"]) if note["path"] else None, float(note["at"])
                found.append(Left(copy, path, str(note["title"]), at))
            except (OSError, ValueError, KeyError, TypeError):
                found.append(Left(copy, None, "", copy.stat().st_mtime))
        return sorted(found, key=lambda left: -left.at)

    def restore(self, left: Left) -> None:
        """Opens work that was left behind, as unsaved changes of its file. Raises `DocumentError`."""
        document, _ = project.load(left.copy)
        source, path = project.loads(b'{"anakinema": 1}')[1], left.path
        if path is not None:
            try:
                source = project.load(path)[1]
            except DocumentError:
                path = None
        self.editor.begin(document, source, path)
        self.keep()
        self.forget(left.copy)


def _runs(process: int) -> bool:
    """Whether a program of this number runs."""
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
