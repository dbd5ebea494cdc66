"""The one way from other threads to the interface thread: a call is left, and a pipe wakes the event loop.

Threads that listen to processes touch nothing of Qt, so that whatever happens in it happens on one thread.
"""

import os
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from functools import cache

from PySide6.QtCore import QObject, QSocketNotifier

Call = Callable[[], None]


class Doorbell(QObject):
    """Does on the interface thread what other threads leave, one thing an event, in the order in which it came."""

    def __init__(self) -> None:
        super().__init__()
        self._left: deque[Call] = deque()
        self._heard, self._pulled = os.pipe2(os.O_NONBLOCK | os.O_CLOEXEC)
        self._notifier = QSocketNotifier(self._heard, QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._answer)

    def leave(self, call: Call) -> None:
        """Leaves something to be done; from any thread."""
        self._left.append(call)
        self._pull()

    def _pull(self) -> None:
        with suppress(BlockingIOError):  # it is full of pulls that are still to be heard
            os.write(self._pulled, b"\0")

    def _answer(self) -> None:
        with suppress(BlockingIOError):  # a loop within this one has heard it
            os.read(self._heard, 1 << 16)
        if not self._left:
            return
        call = self._left.popleft()
        if self._left:
            self._pull()
        call()


@cache
def doorbell() -> Doorbell:
    """That of the application; made on the interface thread, when the first work begins."""
    return Doorbell()
