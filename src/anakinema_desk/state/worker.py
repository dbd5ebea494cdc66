"""Work off the interface thread: one task at a time, the newest one, in a process of its own, given up as soon as it is
not wanted."""

import itertools
import sys
from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, Signal
from shiboken6 import isValid

from anakinema.compute_process import ComputeProcess, Died, engaged, given_back
from anakinema.errors import DocumentError, Fault

from .doorbell import doorbell

SWITCH = 1e-4
"""Seconds after which a thread that listens lets the window go on. The interpreter's own 5 ms add up: painting waits at
each of its calls."""
NUMBERS = itertools.count(1)
"""Of all tasks of all workers, so that what one asked can't be taken for what another did."""


class Worker(QObject):
    """Has one task after the other done. A new task ends the one before: only the newest is wanted.

    All results are told through signals with the number of the task, and only while it is the wanted one. What is told
    is heard by a thread that listens, opened there, and told on the interface thread.
    """

    failed = Signal(int, object)
    progressed = Signal(int, float)
    _ended = Signal(int)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.wanted = 0
        self._running = 0
        self._reckoner: ComputeProcess | None = None
        self._doorbell = doorbell()
        self._ended.connect(self._rest)

    @property
    def busy(self) -> bool:
        """Whether the newest task is still under way."""
        return self._running == self.wanted != 0

    def engage(self) -> ComputeProcess:
        """Has a process ready, before anything is asked of it."""
        if self._reckoner is None or not self._reckoner.alive:
            sys.setswitchinterval(SWITCH)
            self._reckoner = engaged(self._heard)
        return self._reckoner

    def ask(self, task: str, *arguments: Any) -> int:
        """Begins a task (see `anakinema.compute_process.tasks`); gives its number."""
        self.wanted = self._running = next(NUMBERS)
        try:
            self.engage().ask(self.wanted, task, arguments)
        except OSError as error:  # no further process can be had
            self._running = 0
            self._tell("failed", self.wanted, error)
        return self.wanted

    def cancel(self) -> None:
        """Gives up the task under way; nothing more is told of it."""
        self.wanted, self._running = next(NUMBERS), 0
        if self._reckoner is not None:
            self._reckoner.drop(self.wanted)

    def stop(self) -> None:
        """Ends all work. Its process is kept for the next worker where it has nothing to do, else ended at once."""
        self.cancel()
        if self._reckoner is not None:
            given_back(self._reckoner)
        self._reckoner = None

    def _rest(self, number: int) -> None:
        """A task has ended, and all that was told of it has been taken in."""
        if number == self._running:
            self._running = 0
            self.progressed.emit(number, 1.0)

    # -- on the thread that listens ----------------------------------------------------------------------------

    def _heard(self, number: int, what: str, opened: Callable[[], Any]) -> None:
        """Tells what is heard of a task that is still wanted."""
        if number != self.wanted:
            return
        if what == "ended":
            self._tell("_ended", number)
            self.over()
            return
        try:
            value = opened()
            self.taken_in(what, value)
        except Exception as error:  # our own mistake: nobody else would tell it on this thread
            what, value = "failed", error
        self._tell(what, number, value)
        if what == "failed":
            self._tell("_ended", number)

    def taken_in(self, what: str, value: Any) -> None:
        """A place to make what has come ready for use, before it is told."""

    def over(self) -> None:
        """A place for what can wait until a task has ended."""

    def _tell(self, name: str, *values: object) -> None:
        self._doorbell.leave(partial(self._emit, name, values))

    def _emit(self, name: str, values: tuple[object, ...]) -> None:
        """On the interface thread: tells what was left."""
        if isValid(self):  # else its window has closed meanwhile: there is nobody to be told
            getattr(self, name).emit(*values)


def faults_of(error: Exception) -> tuple[Fault, ...]:
    """Why something was not found, in words: faults of the document, what hindered computing, or our own mistake."""
    if isinstance(error, DocumentError):
        return error.faults
    if isinstance(error, Died):
        return (Fault("", f"{error}, which is a mistake of this program; the document is as it was, judge it again"),)
    if isinstance(error, OSError):
        message = error.strerror or str(error)
        return (Fault("", f"no process can be had to compute in ({message}); end other programs, then judge it again"),)
    return (Fault("", f"it could not be computed, which is a mistake of this program: {error!r}"),)
