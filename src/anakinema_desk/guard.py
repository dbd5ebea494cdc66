"""The one place where a mistake of this program ends: it is told, the work is kept, and the window lives on."""

import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from anakinema.document import Document
from anakinema.formats import project

REPEATED = 5.0
"""Seconds within which the same mistake is told once."""


class Guard:
    """Takes all exceptions that reach the event loop. `tell` shows a headline; `document` gives what is open."""

    def __init__(self, folder: Path, document: Callable[[], Document | None], tell: Callable[[str], None]):
        self.folder, self.document, self.tell = folder, document, tell
        self.seen: dict[str, float] = {}
        self.caught = 0

    def install(self) -> None:
        """Becomes the hook of the interpreter: Qt hands it what is raised in handlers and slots."""
        sys.excepthook = self

    def __call__(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        self.caught += 1
        where = "".join(traceback.format_tb(trace)[-1:])
        now = time.monotonic()
        if now - self.seen.get(f"{error!r}{where}", -REPEATED) < REPEATED:
            return
        self.seen[f"{error!r}{where}"] = now
        sys.stderr.write("".join(traceback.format_exception(kind, error, trace)))
        kept = self.keep()
        self.tell(f"A mistake of this program: {kind.__name__}: {str(error)[:120]}. {kept}")

    def keep(self) -> str:
        """Writes a copy of what is open; says where it lies."""
        document = self.document()
        if document is None:
            return "Nothing is open."
        path = self.folder / "rescued.anakinema"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            project.save(path, document)
        except (OSError, ValueError) as error:
            return f"The document is still open; a copy could not be written ({error})."
        return f"The document is still open, and a copy lies in {path}."
