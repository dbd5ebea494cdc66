"""Work off the interface thread: one task at a time, the newest one, given up as soon as it is not wanted."""

import contextlib
import queue
import sys
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any

from PySide6.QtCore import QAbstractEventDispatcher, QObject, Signal

from anakinema.work import Cancelled, Work

SWITCH = 1e-4
"""Seconds after which a thread that computes lets the window go on. The interpreter's own 5 ms add up: painting waits
at each of its calls."""
PATIENT, ONWARD = 0.1, 0.002
"""Work waits so long (s) for the window to be done, then goes on for as long as it waited, or so long at least."""
PAUSE = 0.04
"""Seconds between two tellings of progress, at least."""

Task = Callable[[int, Work], None]


class Courtesy:
    """Whether the window is at work, for which all work waits: two threads of Python in one interpreter only hinder
    each other, and the user sees the one."""

    def __init__(self) -> None:
        self.idle = threading.Event()
        self.idle.set()
        self._holding = 0
        self._awake = False
        self._watched: QAbstractEventDispatcher | None = None

    def watch(self) -> None:
        """From now on the window is at work whenever its event loop is: from when that wakes until it waits again.
        To be asked on the interface thread."""
        dispatcher = QAbstractEventDispatcher.instance()
        if dispatcher is not None and dispatcher is not self._watched:
            self._watched = dispatcher
            dispatcher.awake.connect(self._woken)
            dispatcher.aboutToBlock.connect(self._asleep)

    def _woken(self) -> None:
        self._awake = True
        self.idle.clear()

    def _asleep(self) -> None:
        self._awake = False
        if not self._holding:
            self.idle.set()

    @contextlib.contextmanager
    def held(self) -> Iterator[None]:
        """Work waits while the window paints or fills its views."""
        self._holding += 1
        self.idle.clear()
        try:
            yield
        finally:
            self._holding -= 1
            if not self._holding and not self._awake:
                self.idle.set()


class Worker(QObject):
    """Runs one task after the other on a thread of its own. A new task ends the one before: only the newest is wanted.

    All results are told through signals with the number of the task, and only while it is the wanted one.
    """

    failed = Signal(int, object)
    progressed = Signal(int, float)

    def __init__(self, parent: QObject | None = None, courtesy: Courtesy | None = None, name: str = "worker"):
        super().__init__(parent)
        self.courtesy, self.name = courtesy or Courtesy(), name
        self.wanted = 0
        self._running = 0
        self._queue: queue.SimpleQueue[tuple[int, Task] | None] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None
        self._not_before = 0.0

    @property
    def busy(self) -> bool:
        """Whether the newest task is still under way."""
        return self._running == self.wanted != 0

    def held(self) -> contextlib.AbstractContextManager[None]:
        """Work waits while the window paints or fills its views."""
        return self.courtesy.held()

    def cancel(self) -> None:
        """Gives up the task under way; nothing more is told of it."""
        self.wanted += 1
        self._running = 0
        self.courtesy.idle.set()  # so that what waits for the window sees it at once

    def stop(self, seconds: float = 0.8) -> bool:
        """Ends all work; whether the thread has ended within the time. One that has not can tell nothing any more."""
        self.cancel()
        if self._thread is None:
            return True
        self._queue.put(None)
        self._thread.join(seconds)
        ended = not self._thread.is_alive()
        self._thread = None
        return ended

    # -- on the thread -----------------------------------------------------------------------------------------

    def _submit(self, task: Task) -> int:
        self.wanted += 1
        self._running = self.wanted
        self.courtesy.idle.set()
        if self._thread is None:
            sys.setswitchinterval(SWITCH)
            self.courtesy.watch()
            self._queue = queue.SimpleQueue()
            self._thread = threading.Thread(target=self._work, args=(self._queue,), daemon=True, name=self.name)
            self._thread.start()
        self._queue.put((self.wanted, task))
        return self.wanted

    def _work(self, tasks: "queue.SimpleQueue[tuple[int, Task] | None]") -> None:
        while (entry := tasks.get()) is not None:
            number, task = entry
            if number != self.wanted:
                continue

            def wanted(number: int = number) -> bool:
                self._give_way()
                return number == self.wanted

            told = -PAUSE

            def tell(share: float, number: int = number) -> None:
                nonlocal told
                if time.monotonic() - told >= PAUSE:  # more often would only keep the window painting
                    told = time.monotonic()
                    self._tell(number, self.progressed, share)

            try:
                task(number, Work(wanted, tell))
            except Cancelled:
                continue
            except Exception as error:  # told to the user: a fault of the document, or our own mistake
                with contextlib.suppress(Cancelled):
                    self._tell(number, self.failed, error)
            if self._running == number:
                self._running = 0
                with contextlib.suppress(Cancelled):
                    self._tell(number, self.progressed, 1.0)

    def _give_way(self) -> None:
        """Waits while the window is at work, but no more than half of the time."""
        start = time.monotonic()
        if not self.courtesy.idle.is_set() and start >= self._not_before:
            self.courtesy.idle.wait(PATIENT)
            now = time.monotonic()
            self._not_before = now + max(now - start, ONWARD)

    def _tell(self, number: int, signal: Any, *values: object) -> None:
        """Emits a signal of a task that is still wanted."""
        if number == self.wanted:
            try:
                signal.emit(number, *values)
            except RuntimeError as error:  # the application has closed while this was under way
                raise Cancelled from error
