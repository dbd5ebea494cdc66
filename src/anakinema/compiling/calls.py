"""Calling machine code with Python's values.

Machine code here is a function ``int32 entry(const int64 *words, void *result)``. The words are the arguments, flat:
numbers as they are (a complex number is two words), an array as Numba lays it out (owner, its Python object, how many
items, bytes of an item, address, its shape, its strides in bytes), a named tuple as its fields in order.
"""

import ctypes
import os
import struct
import threading
from collections.abc import Callable
from functools import cache
from typing import Any, TypeVar, cast

import numpy as np

from . import store
from .marks import marked

F = TypeVar("F", bound=Callable[..., Any])
Packed = tuple[str, bytes]
"""What kind of thing, and its words."""
ENTRY: Any = ctypes.CFUNCTYPE(ctypes.c_int32, ctypes.c_char_p, ctypes.c_char_p)
"""Of the kind that lets go of the interpreter's lock, so that the window stays alive."""
NUMBERS: dict[type, tuple[str, Callable[[Any], bytes]]] = {
    float: ("d", struct.Struct("d").pack),
    int: ("q", struct.Struct("q").pack),
    bool: ("?", lambda value: struct.pack("q", value)),
    complex: ("D", lambda value: struct.pack("2d", value.real, value.imag)),
}
LAYOUTS = {count: struct.Struct(f"{5 + 2 * count}q") for count in range(5)}
KINDS: dict[tuple[str, int, int], str] = {}
"""What kinds of arrays are called, by type, dimensions and flags."""
MOST = 4096
"""How many tuples' words are remembered. The same tables are passed over and over: three of each stretch of a motion,
and among contacts there are hundreds of stretches."""
RETURNED_NONE = -2


def packed_array(array: np.ndarray) -> Packed:
    """An array's kind, such as ``d2C`` (float64 of two dimensions, C-contiguous; ``r`` for read-only), and words."""
    flags, kind, count = array.flags, array.dtype.char, array.ndim
    layout_key = kind, count, flags.num
    named = KINDS.get(layout_key)
    if named is None:
        layout = "C" if flags.c_contiguous else "F" if flags.f_contiguous else "A"
        named = KINDS[layout_key] = f"{kind}{count}{layout}{'' if flags.writeable else 'r'}"
    address = array.__array_interface__["data"][0]
    return named, LAYOUTS[count].pack(0, 0, array.size, array.itemsize, address, *array.shape, *array.strides)


class Words:
    """Lays out arguments. A tuple's words are remembered with the tuple, so that its arrays stay where they are."""

    def __init__(self) -> None:
        self.kept: dict[int, tuple[tuple[Any, ...], Packed]] = {}

    def of(self, value: Any) -> Packed:
        """The kind and the words of one argument. Raises TypeError for what machine code can't take."""
        if isinstance(value, np.ndarray):
            return packed_array(value)
        if isinstance(value, tuple):
            found = self.kept.get(id(value))
            if found is None:
                kinds, words = zip(*map(self.of, value), strict=True)
                found = value, (f"{type(value).__name__}({','.join(kinds)})", b"".join(words))
                if len(self.kept) >= MOST:
                    self.kept.clear()
                self.kept[id(value)] = found
            return found[1]
        if isinstance(value, np.generic):
            value = value.item()
        known = NUMBERS.get(type(value))
        if known is None:
            raise TypeError(f"machine code takes numbers, arrays and tuples of them, not a {type(value).__name__}")
        return known[0], known[1](value)


WORDS = Words()


class Kernel:
    """A function that is compiled when it is first called with arguments of some kinds."""

    def __init__(self, function: Callable[..., Any]) -> None:
        self.function = function
        self.__name__, self.__module__, self.__doc__ = function.__name__, function.__module__, function.__doc__
        self._ready: dict[tuple[str, ...], tuple[Any, str, struct.Struct]] = {}

    def __call__(self, *arguments: Any) -> Any:
        if checked():
            return in_numba(self)(*arguments)
        kinds, words = zip(*map(WORDS.of, arguments), strict=True)
        ready = self._ready.get(kinds)
        if ready is None:
            ready = self._ready[kinds] = self._prepared(kinds, arguments)
        entry, kind, layout = ready
        result = ctypes.create_string_buffer(layout.size)
        status = entry(b"".join(words), result)
        if status not in (0, RETURNED_NONE):
            raise RuntimeError(f"the machine code of {self.__name__} ended with {status}")
        return shaped(kind, iter(layout.unpack(result.raw))) if kind else None

    def _prepared(self, kinds: tuple[str, ...], arguments: tuple[Any, ...]) -> tuple[Any, str, struct.Struct]:
        with LOADING:
            kept = store.kept(self, kinds)
            if kept is None:
                from .translate import translated

                store.tell()
                kept = translated(self, arguments)
                store.keep(self, kinds, kept)
            kind, code = kept
            return ENTRY(loader().address(code)), kind, struct.Struct(layout_of(kind))


LOADING = threading.RLock()
"""Held while machine code is made or loaded."""


@cache
def checked() -> bool:
    """Whether indices are to be checked (in tests). Numba calls the functions itself then, and nothing is kept."""
    return os.environ.get("NUMBA_BOUNDSCHECK", "0") not in ("", "0")


def in_numba(kernel: Any) -> Any:
    """The kernel as Numba's own."""
    from .translate import dispatcher

    return dispatcher(kernel)


@cache
def loader() -> Any:
    """What loads machine code into this process."""
    from .load import Loader

    return Loader()


def layout_of(kind: str) -> str:
    """The layout of a result in memory, for `struct`: ``(dqD)`` is ``dqdd``, as C would lay it out."""
    return kind.replace("(", "").replace(")", "").replace("D", "dd")


def shaped(kind: str, numbers: Any) -> Any:
    """A result out of its numbers: ``d`` a number, ``(dq)`` a tuple."""
    if kind[0] != "(":
        return complex(next(numbers), next(numbers)) if kind == "D" else next(numbers)
    return tuple(shaped(one, numbers) for one in kind[1:-1])


def compiled(function: F) -> F:
    """Compiles a function at its first call and keeps the machine code. Arguments are given by position."""
    kernel = Kernel(function)
    marked(function, kernel, "called")
    return cast(F, kernel)
