"""The process as its owner sees it: asked, called off, heard of, ended."""

import atexit
import os
import queue
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Callable, Mapping
from contextlib import suppress
from functools import partial
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Any

from .parcels import KEPT, Channel, Gone, Name, Parcel, Sealed, held_kinds, packed

if TYPE_CHECKING:
    from ..document.model import Document

Heard = Callable[[int, str, Callable[[], Any]], None]
"""What was asked, what is told of it, and what opens the value told."""


class Died(Exception):
    """The process has ended by itself."""

    def __repr__(self) -> str:
        return str(self)


class ComputeProcess:
    """A process that computes. Nothing here waits for it: what it tells is given to `heard`, on a thread of its own."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair()
        self._channel = Channel(Connection(ours.detach()))
        with theirs:
            self._process = subprocess.Popen(
                [sys.executable, "-P", "-m", "anakinema.compute_process", str(theirs.fileno()), str(os.getpid())],
                pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, start_new_session=True,
            )  # fmt: skip
        self.heard: Heard | None = None
        self.alive = True
        self._asked = self._ended = 0
        self._holding: dict[int, object] = {}
        """What was sent to be held there, by its number; the last `KEPT` are."""
        self._newest = 0
        self._told: tuple[int, object] = (0, None)
        self._before: Document | None = None
        """The document that was sent last, and by what name each piece of its tree goes, by identity."""
        self._same: dict[int, Name] = {}
        self._outgoing: queue.SimpleQueue[Parcel | None] = queue.SimpleQueue()
        self.threads = [threading.Thread(target=target, daemon=True, name=f"compute{target.__name__}")
                        for target in (self._send, self._listen)]  # fmt: skip
        for thread in self.threads:
            thread.start()

    @property
    def idle(self) -> bool:
        """Whether it has done all that it was asked."""
        return self.alive and self._asked == self._ended

    def ask(self, number: int, task: str, arguments: tuple[Any, ...]) -> None:
        """Asks for a task (see `tasks.TASKS`); numbers must rise. It ends the one before. Documents and motions among
        the arguments are sent once."""
        self._asked = number
        self._hold_all(arguments)
        self._put(("ask", number, task), arguments)

    def drop(self, number: int) -> None:
        """Calls off what was asked under lower numbers."""
        self._put(("drop", number), None)

    def end(self) -> None:
        """Ends the process at once, with all that it has started."""
        self.heard, self.alive = None, False
        self._outgoing.put(None)
        with suppress(ProcessLookupError):
            os.killpg(self._process.pid, signal.SIGKILL)
        self._process.wait()

    def _put(self, head: tuple[Any, ...], value: object) -> None:
        self._outgoing.put(packed(head, value, self._name_of))

    def _hold_all(self, arguments: Any) -> None:
        """Sends what is among the arguments, or of those of their motions, and not held there yet: documents first, for
        motions speak of them."""
        document, motion = held_kinds()
        for value in arguments:
            if isinstance(value, document):
                self._hold_document(value)
            elif isinstance(value, motion):
                self._hold_document(value.document)
                if self._name_of(value) is None:
                    self._put(("hold", self._newest + 1), value)  # before it has a name, for it is to go whole
                    self._held(value)

    def _hold_document(self, document: "Document") -> None:
        """Sends the tree of a document, to be read there: what is still the same as in the one before goes by its
        place in that."""
        if self._name_of(document) is None:
            same = self._same
            self._outgoing.put(packed(("read", self._newest + 1), document.tree, lambda value: same.get(id(value))))
            self._held(document)
            self._before, self._same = document, {}
            for name, section in document.tree.items():
                self._same[id(section)] = ("tree", (name,))
                if isinstance(section, Mapping):
                    self._same |= {id(entry): ("tree", (name, key)) for key, entry in section.items()}

    def _held(self, value: object) -> None:
        """Keeps what was sent, as the other side does."""
        self._newest += 1
        self._holding[self._newest] = value
        self._holding.pop(self._newest - 2 * KEPT, None)  # what is on its way may speak of some that are gone there

    def _name_of(self, value: object) -> Name | None:
        if isinstance(value, held_kinds()):
            kept = (number for number, held in self._holding.items() if held is value)
            return next((("held", number) for number in kept if number > self._newest - KEPT), None)
        return None

    # -- on threads of its own ---------------------------------------------------------------------------------

    def _send(self) -> None:
        with suppress(Gone):  # which the other thread tells
            while (parcel := self._outgoing.get()) is not None:
                self._channel.send(parcel)

    def _named(self, name: Name) -> object:
        kind, number = name
        if kind == "held":
            return self._holding[number]
        told, value = self._told
        if told != number:
            raise KeyError(name)
        return value

    def _listen(self) -> None:
        try:
            while True:
                (number, what), sealed = self._channel.receive()
                if what == "ended":
                    self._ended = number
                if self.heard is not None:
                    self.heard(number, what, partial(self._opened, number, sealed))
        except Gone:
            self._outgoing.put(None)  # so that the other thread ends too
            self._channel.connection.close()
            if self.alive:
                self.alive = False
                code = self._process.wait()
                with suppress(ProcessLookupError):  # what it had started
                    os.killpg(self._process.pid, signal.SIGKILL)
                how = f"was ended by signal {-code}" if code < 0 else f"ended with {code}"
                if self.heard is not None and self._asked != self._ended:
                    self.heard(self._asked, "failed", lambda: Died(f"the process that computes {how}"))

    def _opened(self, number: int, sealed: Sealed) -> Any:
        value = sealed.opened(self._named)
        if isinstance(value, held_kinds()[1]):
            self._told = number, value
        return value


_spare: list[ComputeProcess] = []
"""Those that have nothing to do, for who needs one next: starting one takes half a second."""
MOST_SPARE = 2


def ready() -> None:
    """Starts one, to be there when it is needed. Where none can be had, who needs it then is told."""
    if not _spare:
        with suppress(OSError):
            _spare.append(ComputeProcess())


def engaged(heard: Heard) -> ComputeProcess:
    """One that is ready, or else begins, with who hears of it."""
    found = next((one for one in _spare if one.alive), None)
    if found is None:
        found = ComputeProcess()
    else:
        _spare.remove(found)
    found.heard = heard
    return found


def given_back(compute_process: ComputeProcess) -> None:
    """Keeps one for the next where it has nothing to do, else ends it."""
    compute_process.heard = None
    if compute_process.idle and len(_spare) < MOST_SPARE:
        _spare.append(compute_process)
    else:
        compute_process.end()


@atexit.register
def _end_spare() -> None:
    while _spare:
        _spare.pop().end()
