"""Compiling functions of numbers and arrays to machine code, once, when they are first called."""

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba

F = TypeVar("F", bound=Callable[..., Any])
JIT: Any = numba.njit
OPTIONS = {"nogil": True, "error_model": "numpy", "_nrt": False}
"""Without the interpreter's lock, so that the window stays alive. `_nrt` off: nothing here makes arrays, so nothing
need count references, which would cost more than the arithmetic."""


def compiled(function: F) -> F:
    """Compiles a function at its first call and keeps the machine code beside the source, or wherever there is room."""
    try:
        return cast(F, JIT(cache=True, **OPTIONS)(function))
    except RuntimeError:  # no folder can be written: compile for this run only
        return cast(F, JIT(**OPTIONS)(function))


def inlined(function: F) -> F:
    """A function that is put into its callers before they are compiled: a table is dear to pass on."""
    return cast(F, JIT(inline="always", **OPTIONS)(function))
