"""The loop of the process: takes what is asked, gives up what is no longer wanted, tells what it finds.

It has no thread of its own for listening: work asks often whether it is still wanted, and then it looks.
"""

import os
import select
import signal
import sys
import time
import traceback
import warnings
from collections import deque
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import Any

from ..cancellation import CancellationToken, Cancelled
from ..document import read_document
from ..document.changes import lookup
from ..document.model import Document
from ..errors import DocumentError
from ..kinematics.motion import Motion
from ..lifetimes import end_with
from .parcels import KEPT, Channel, Gone, Mistake, Name, held_kinds, packed
from .tasks import TASKS

POLITE = 5
"""How much the window comes first where both want one processor."""
PAUSE = 0.04
"""Seconds between two tellings of progress, at least."""


class Post:
    """What comes and goes. `wanted` is the number of what was asked last, or what ended that."""

    def __init__(self, channel: Channel):
        self.channel = channel
        self.wanted = 0
        self.asked: deque[tuple[int, str, tuple[Any, ...]]] = deque()
        self._held: dict[int, object] = {}
        self._told: tuple[int, object] = (0, None)
        self._before: Document | None = None
        """The document that came last."""
        self._poll = select.poll()
        self._poll.register(channel.connection.fileno(), select.POLLIN)

    @property
    def waiting(self) -> bool:
        """Whether something has come."""
        return bool(self._poll.poll(0))

    def next(self) -> tuple[int, str, tuple[Any, ...]]:
        """Waits for what is asked next."""
        while not self.asked:
            self._take()
        return self.asked.popleft()

    def still(self, number: int) -> bool:
        """Looks whether something is still wanted."""
        while self.waiting:
            self._take()
        return number == self.wanted

    def tell(self, number: int, what: str, value: object) -> None:
        """Tells something of what was asked."""
        self.channel.send(packed((number, what), value, self._name_of))
        if isinstance(value, Motion):
            self._told = number, value

    def _take(self) -> None:
        head, sealed = self.channel.receive()
        match head:
            case ("hold", int(number)):
                self._hold(number, sealed.opened(self._named))
            case ("read", int(number)):
                self._before = read_document(sealed.opened(self._named), self._before)
                self._hold(number, self._before)
            case ("ask", int(number), str(task)):
                self.wanted = number
                self.asked.append((number, task, sealed.opened(self._named)))
            case ("drop", int(number)):
                self.wanted = number

    def _hold(self, number: int, value: object) -> None:
        self._held[number] = value
        self._held.pop(number - KEPT, None)

    def _named(self, name: Name) -> object:
        kind, key = name
        return self._held[key] if kind == "held" else lookup(self._before.tree if self._before else {}, key)

    def _name_of(self, value: object) -> Name | None:
        if isinstance(value, held_kinds()):
            if value is self._told[1]:
                return "told", self._told[0]
            return next((("held", number) for number, held in self._held.items() if held is value), None)
        return None


def serve(post: Post) -> None:
    """Does what is asked, one thing after the other, until the other end is no more (raises `Gone`)."""
    while True:
        number, task, arguments = post.next()

        def tell(what: str, value: Any, number: int = number) -> None:
            post.tell(number, what, value)

        work = _work(post, number)
        try:
            work.check()
            TASKS[task](tell, work, *arguments)
        except Cancelled:
            pass
        except DocumentError as error:
            tell("failed", error)
        except Gone:
            raise
        except Exception as error:  # our own mistake: told, and the next thing asked is done
            traceback.print_exc()
            tell("failed", Mistake(repr(error)))
        tell("ended", None)


def _work(post: Post, number: int) -> CancellationToken:
    """The work of what was asked under a number, with its progress told."""
    last = -PAUSE

    def tell(share: float) -> None:
        nonlocal last
        if time.monotonic() - last >= PAUSE:  # more often would only keep a window painting
            last = time.monotonic()
            post.tell(number, "progressed", share)

    return CancellationToken(lambda: post.still(number), tell)


def _warm_up(post: Post) -> None:
    """Loads what an analysis needs, by making one, until something is asked."""
    from ..compiling import compiled_before
    from ..findings import analyse
    from ..formats import project

    if compiled_before():
        with suppress(Cancelled):
            analyse(project.demo()[0], work=CancellationToken(lambda: not post.waiting))


def main(descriptor: int, owner: int) -> None:
    """Serves the socket of a descriptor until the other end, of a process `owner`, is gone; then all that it started
    ends with it."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # whose window it is decides
    os.set_inheritable(descriptor, False)  # what is started from here holds no end of it
    end_with(owner)
    os.nice(POLITE)
    warnings.simplefilter("ignore", RuntimeWarning)  # NumPy's remarks on single numbers are no message to a user
    post = Post(Channel(Connection(descriptor)))
    with suppress(Gone):
        _warm_up(post)
        serve(post)
    sys.stderr.flush()
    os.killpg(0, signal.SIGKILL)
