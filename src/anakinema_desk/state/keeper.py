"""Keeps a copy of unsaved work, so that a crash or a power cut takes a few seconds of it at most.

Each running program keeps its copy under a name that nobody else has, and holds a lock beside it as long as it runs. So
a copy whose lock can be had is of a program that has ended, whatever number it had, and on whatever machine that shares
the folder; and while it is offered here, no other program offers it. Where no lock can be had, its note tells of which
process on which machine it is. Only what is a program's own, or was given to it
by its user, is ever taken away.
"""

import errno
import fcntl
import json
import os
import stat
import time
import uuid
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from anakinema.document import Document
from anakinema.errors import DocumentError
from anakinema.formats import project
from anakinema.formats.writing import write_whole
from anakinema.lifetimes import has_ended, identity

from .editor import Editor

PAUSE = 1_500
"""How long the hand must rest before a copy is written (ms)."""
MOST = 10.0
"""How long changes may go uncopied while the hand does not rest (s)."""
ENDING, NOTE, LOCK = ".anakinema", ".json", ".lock"
MOST_NOTE = 100_000
"""Bytes of a note that is read."""


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

    unkept = Signal(str)
    """Why no copy can be kept; told once."""

    def __init__(self, editor: Editor, folder: Path):
        super().__init__(editor)
        self.editor, self.folder = editor, folder
        self.name = uuid.uuid4().hex
        self._locks: dict[Path, int] = {}
        """The locks that are held, by the copies that they are of."""
        self._kept: Document | None = None
        self._since, self._said = 0.0, False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.keep)
        editor.changed.connect(self._later)
        editor.opened.connect(self.clear)
        editor.saved.connect(self.clear)

    @property
    def copy(self) -> Path:
        """This program's own."""
        return self.folder / f"{self.name}{ENDING}"

    def _later(self) -> None:
        now = time.monotonic()
        self._since = self._since or now
        self._timer.start(PAUSE if now - self._since < MOST else 0)

    def keep(self) -> None:
        """Writes the copy now, where there is something that no file holds. That it can't be written is no reason to
        disturb the work: it is told once."""
        self._timer.stop()
        self._since = 0.0
        document = self.editor.document
        if document is None or document is self._kept:
            return
        if not self.editor.modified:
            self.clear()
            return
        note = {"path": str(self.editor.path or ""), "title": document.title, "at": time.time(), "of": identity()}
        try:
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            self._lock(self.copy)
            write_whole(self.copy, project.dumps(self.editor.whole()))
            write_whole(self._note(self.copy), json.dumps(note).encode())
        except (OSError, ValueError) as error:
            if not self._said:
                self._said = True
                why = error.strerror if isinstance(error, OSError) and error.strerror else error
                self.unkept.emit(f"No copy of unsaved work can be kept in '{self.folder}' ({why}): save often")
            return
        self._kept = document

    def clear(self) -> None:
        """The work is saved, or given up: the copy goes."""
        self._timer.stop()
        self._since, self._kept = 0.0, None
        if self.copy in self._locks:  # else none was written
            self.forget(self.copy)

    @staticmethod
    def _note(copy: Path) -> Path:
        return copy.with_suffix(NOTE)

    def _lock(self, copy: Path) -> bool:
        """Locks a copy, for as long as this program runs or until it is forgotten; False where another holds it. Raises
        `OSError` where the folder can't be written."""
        if copy in self._locks:
            return True
        handle = os.open(copy.with_suffix(LOCK), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o600)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            held = error.errno in (errno.EAGAIN, errno.EACCES)
            if held or not (copy == self.copy or self._is_left_alone(copy)):  # it is another's, or may be
                os.close(handle)
                return False
        self._locks[copy] = handle
        return True

    def _is_left_alone(self, copy: Path) -> bool:
        """Where no lock can be had, as on some shared folders: whether the program that wrote a copy has ended."""
        known = self._said_of(copy).get("of")
        return isinstance(known, dict) and has_ended(known)

    def forget(self, copy: Path) -> None:
        """Takes a copy away that is one's own, or was given up by the user to whom it was offered."""
        for path in (copy, self._note(copy), copy.with_suffix(LOCK)):
            with suppress(OSError):
                path.unlink(missing_ok=True)
        if (handle := self._locks.pop(copy, None)) is not None:
            os.close(handle)

    def left(self) -> list[Left]:
        """The work that programs left behind which run no more, the newest first. It is locked, so that no other
        program offers it too. Whatever else lies in the folder stays as it is."""
        found = []
        with suppress(OSError):
            for copy in sorted(self.folder.glob(f"*{ENDING}")):
                with suppress(OSError):
                    known = copy.lstat()
                    others = copy != self.copy and stat.S_ISREG(known.st_mode) and not _is_of_before(copy)
                    if others and self._lock(copy):
                        found.append(self._told(copy, known.st_mtime))
        return sorted(found, key=lambda left: -left.at)

    def _told(self, copy: Path, at: float) -> Left:
        """What its note says of a copy."""
        told = self._said_of(copy)
        with suppress(ValueError, KeyError, TypeError):
            return Left(copy, Path(told["path"]) if told["path"] else None, str(told["title"]), float(told["at"]))
        return Left(copy, None, "", at)

    def _said_of(self, copy: Path) -> dict[str, Any]:
        """Its note, where that is one."""
        note = self._note(copy)
        with suppress(OSError, ValueError, RecursionError):
            known = note.lstat()
            if stat.S_ISREG(known.st_mode) and known.st_size <= MOST_NOTE:
                told = json.loads(note.read_text(encoding="utf-8"))
                return told if isinstance(told, dict) else {}
        return {}

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


def _is_of_before(copy: Path) -> bool:
    """Whether a copy is of a program of before, named by its number, that still runs."""
    return copy.stem.isdecimal() and len(copy.stem) < 12 and Path(f"/proc/{copy.stem}").exists()
