"""The analysis off the interface thread: one document at a time, the newest one, given up as soon as it is not
wanted."""

import contextlib
import queue
import sys
import threading
import time
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from anakinema.document import Document
from anakinema.document.model import Position
from anakinema.errors import DocumentError
from anakinema.work import Cancelled, Work

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from anakinema.kinematics.motion import Motion

SWITCH = 1e-4
"""Seconds after which a thread that computes lets the window go on. The interpreter's own 5 ms add up: painting waits
at each of its calls."""
PATIENT, ONWARD = 0.1, 0.002
"""Work waits so long (s) for the window to be done, then goes on for as long as it waited, or so long at least."""
PAUSE = 0.04
"""Seconds between two tellings of progress, at least."""

Task = Callable[[int, Work], None]


class Analyst(QObject):
    """Runs one task after the other on a thread of its own. A new task ends the one before: only the newest is wanted.

    All results are told through signals with the number of the task, and only while it is the wanted one.
    """

    moved = Signal(int, object)
    gauged = Signal(int, object)
    judged = Signal(int, object)
    ways_found = Signal(int, object)
    way_found = Signal(int, object)
    wiggled = Signal(int, object)
    failed = Signal(int, object)
    progressed = Signal(int, float)
    compiling = Signal(int)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.wanted = 0
        self._running = 0
        self._queue: queue.SimpleQueue[tuple[int, Task] | None] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None
        self._idle = threading.Event()
        """Whether the window is not at work (see `held`)."""
        self._idle.set()
        self._holding = 0
        self._not_before = 0.0

    @property
    def busy(self) -> bool:
        """Whether the newest task is still under way."""
        return self._running == self.wanted != 0

    def analyse(self, document: Document) -> int:
        """Begins the analysis of a document; gives its number."""

        def task(number: int, work: Work) -> None:
            from anakinema.compiling import compiled_before

            if not compiled_before():
                self._tell(number, self.compiling)
            from anakinema.findings import analyse

            def moved(motion: "Motion") -> None:
                motion.state  # noqa: B018 - found here, so that no view waits for it
                self._tell(number, self.moved, motion)

            found = analyse(document, work=work, moved=moved, gauged=lambda gaps: self._tell(number, self.gauged, gaps))
            self._tell(number, self.judged, found)
            if not Analyst.prepared:
                from anakinema.kinematics.dragging import prepare

                prepare(found.motion)
                Analyst.prepared = True

        return self._submit(task)

    prepared = False
    """Whether dragging has been loaded, which happens once."""

    def look_for_ways(self, motion: "Motion") -> int:
        """Looks for the other ways to put the parts together; gives the task's number."""

        def task(number: int, work: Work) -> None:
            from anakinema.kinematics.modes import modes

            self._tell(number, self.ways_found, modes(motion, work))

        return self._submit(task)

    def find_way(self, motion: "Motion", q: "NDArray[np.float64]", position: Position) -> int:
        """Looks for the way from where the parts stand (P, 3) to a named position; gives the task's number."""

        def task(number: int, work: Work) -> None:
            from anakinema.kinematics.positions import way_to

            try:
                found = way_to(motion, q, position, work)
            except DocumentError as error:
                self._tell(number, self.way_found, error)
            else:
                self._tell(number, self.way_found, found)

        return self._submit(task)

    def wiggle(self, motion: "Motion", q: "NDArray[np.float64]", joint: str) -> int:
        """Looks for the positions of a joint's way to and fro from where the parts stand (P, 3)."""

        def task(number: int, work: Work) -> None:
            from anakinema.kinematics.positions import to_and_fro

            try:
                self._tell(number, self.wiggled, to_and_fro(motion, q, joint, work))
            except DocumentError as error:
                self._tell(number, self.way_found, error)

        return self._submit(task)

    @contextlib.contextmanager
    def held(self) -> Iterator[None]:
        """Work waits while the window paints or fills its views: two threads of Python in one interpreter only hinder
        each other, and the user sees the one."""
        self._holding += 1
        self._idle.clear()
        try:
            yield
        finally:
            self._holding -= 1
            if not self._holding:
                self._idle.set()

    def cancel(self) -> None:
        """Gives up the task under way; nothing more is told of it."""
        self.wanted += 1
        self._running = 0
        self._idle.set()  # so that what waits for the window sees it at once

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
        self._idle.set()
        if self._thread is None:
            sys.setswitchinterval(SWITCH)
            self._queue = queue.SimpleQueue()
            self._thread = threading.Thread(target=self._work, args=(self._queue,), daemon=True, name="analyst")
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
        if not self._idle.is_set() and start >= self._not_before:
            self._idle.wait(PATIENT)
            now = time.monotonic()
            self._not_before = now + max(now - start, ONWARD)

    def _tell(self, number: int, signal: Any, *values: object) -> None:
        """Emits a signal of a task that is still wanted."""
        if number == self.wanted:
            try:
                signal.emit(number, *values)
            except RuntimeError as error:  # the application has closed while this was under way
                raise Cancelled from error

