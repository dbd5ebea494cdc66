"""What goes between two processes: a head that is read at once, and a value that is opened only where it is wanted.

What both sides hold already goes by its name, and is on the other side the very object that stands there for it: a
motion that comes back is of the document that it was asked for. Large arrays are neither copied into the parcel nor out
of it.
"""

import copyreg
import io
import pickle
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache
from multiprocessing.connection import Connection
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..document.model import Document
    from ..kinematics.motion import Motion

LARGE = 1 << 15
"""Bytes from which an array goes beside the parcel."""
KEPT = 4
"""How many of the documents and motions that were sent are held on the other side."""

Name = tuple[str, Any]
NameOf = Callable[[object], Name | None]
"""What the other side calls an object; None where it does not hold it."""


@cache
def held_kinds() -> "tuple[type[Document], type[Motion]]":
    """What is held on the other side once it was sent. Loaded when first asked for: a process is to start before."""
    from ..document.model import Document
    from ..kinematics.motion import Motion

    return Document, Motion


class Gone(Exception):
    """The other end is no more."""


class Mistake(Exception):
    """A mistake of the program in the other process; its words are those of the error there."""

    def __repr__(self) -> str:
        return str(self)


def _unproxied(mapping: MappingProxyType[Any, Any]) -> tuple[Any, ...]:
    return _proxied, (dict(mapping),)


def _proxied(given: dict[Any, Any]) -> MappingProxyType[Any, Any]:
    return MappingProxyType(given)


class _Packer(pickle.Pickler):
    def __init__(self, file: io.BytesIO, name_of: NameOf, beside: Callable[[pickle.PickleBuffer], object]):
        super().__init__(file, 5, buffer_callback=beside)
        self.dispatch_table = {**copyreg.dispatch_table, MappingProxyType: _unproxied}
        self._name_of = name_of

    def persistent_id(self, value: object) -> Name | None:
        return self._name_of(value)


class _Unpacker(pickle.Unpickler):
    def __init__(self, file: io.BytesIO, named: Callable[[Name], object], beside: list[bytearray]):
        super().__init__(file, buffers=beside)
        self._named = named

    def persistent_load(self, name: Name) -> object:
        return self._named(name)


@dataclass(frozen=True)
class Sealed:
    """A value that has come, not opened yet."""

    body: bytes
    beside: list[bytearray]

    def opened(self, named: Callable[[Name], object]) -> Any:
        """The value. `named` gives what is held here under a name."""
        return _Unpacker(io.BytesIO(self.body), named, self.beside).load()


Parcel = list[memoryview]
"""A head and a value, packed; the large arrays are still those of the value."""


def packed(head: tuple[Any, ...], value: object, name_of: NameOf) -> Parcel:
    """A parcel of a head and a value. The value must not change meanwhile, nor be looked at by another thread, for
    looking may add what was found to it."""
    beside: Parcel = []

    def put_beside(buffer: pickle.PickleBuffer) -> bool:
        raw = buffer.raw()
        if raw.nbytes < LARGE:
            return True
        beside.append(raw)
        return False

    file = io.BytesIO()
    _Packer(file, name_of, put_beside).dump(value)
    sizes = [each.nbytes for each in beside]
    return [memoryview(pickle.dumps((head, sizes))), file.getbuffer(), *beside]


class Channel:
    """One end of the way between two processes. Raises `Gone` where the other end is no more."""

    def __init__(self, connection: Connection):
        self.connection = connection
        self._sending = threading.Lock()

    def send(self, parcel: Parcel) -> None:
        """Sends a parcel; waits until the other side has taken it."""
        with self._sending, _or_gone():
            for each in parcel:
                self.connection.send_bytes(each)

    def receive(self) -> tuple[tuple[Any, ...], Sealed]:
        """Waits for what comes next."""
        with _or_gone():
            head, sizes = pickle.loads(self.connection.recv_bytes())
            body = self.connection.recv_bytes()
            beside = [bytearray(size) for size in sizes]
            for each in beside:
                self.connection.recv_bytes_into(each)
        return head, Sealed(body, beside)


@contextmanager
def _or_gone() -> Iterator[None]:
    """What a connection raises where its other end is no more, by a name that no other error has."""
    try:
        yield
    except (EOFError, OSError) as error:
        raise Gone from error
