"""Compiling functions of numbers and arrays to machine code, once, when they are first called.

Numba keeps the machine code of a function by the time stamp of the one file in which it stands, so a change in another
file (a constant of `tables`, say) would leave old code running. Here the folder of that store is named after a digest
of all sources that are compiled (the packages `kernels`): any change begins a new one, and the old one goes.
"""

import hashlib
import os
import shutil
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any, TypeVar, cast

import numba
from platformdirs import user_cache_path

F = TypeVar("F", bound=Callable[..., Any])
JIT: Any = numba.njit
CONFIG: Any = numba.config
OPTIONS = {"nogil": True, "error_model": "numpy", "_nrt": False}
"""Without the interpreter's lock, so that the window stays alive. `_nrt` off (a private switch; a test watches over
it): nothing here makes arrays, so nothing need count references, which would cost more than the arithmetic."""
if CONFIG.BOUNDSCHECK:
    del OPTIONS["_nrt"]  # an index out of bounds is raised as an exception, which needs counting
HOME = Path(__file__).parent
FOLDERS = (HOME / "kinematics/kernels", HOME / "clearance/kernels")
"""Where all stands that is compiled; `compiled` refuses what stands elsewhere."""
PREFIX = "machine-code-"


def digest() -> str:
    """What the machine code depends on: all sources that are compiled, this file, and how that is done."""
    whole = hashlib.sha256(repr((numba.__version__, sorted(OPTIONS), CONFIG.BOUNDSCHECK)).encode())
    for path in (Path(__file__), *(path for folder in FOLDERS for path in sorted(folder.glob("*.py")))):
        whole.update(path.name.encode() + path.read_bytes())
    return whole.hexdigest()[:16]


@cache
def store() -> Path | None:
    """The folder of the machine code: beside the sources, else among the user's caches; None where none can be written.
    Those of other sources are removed."""
    wanted = PREFIX + digest()
    for home in (HOME / "__pycache__", user_cache_path("anakinema", appauthor=False)):
        try:
            (home / wanted).mkdir(parents=True, exist_ok=True)
        except OSError:
            continue
        if os.access(home / wanted, os.W_OK):
            for other in home.glob(f"{PREFIX}*"):
                if other.name != wanted and not CONFIG.BOUNDSCHECK:
                    shutil.rmtree(other, ignore_errors=True)
            return home / wanted
    return None


def compiled_before() -> bool:
    """Whether the machine code of these sources is there already, so that nothing need be waited for."""
    folder = store()
    return folder is not None and any(folder.rglob("*.nbi"))


def compiled_share() -> float:
    """How much of what is loaded is compiled (0 to 1), by the machine code that is kept."""
    folder = store()
    kept = sum(1 for _ in folder.rglob("*.nbi")) if folder is not None else 0
    return min(kept / max(len(FUNCTIONS), 1), 1.0)


FUNCTIONS: list[str] = []
"""Names of the functions that are compiled at their first call, as far as they are loaded."""


def compiled(function: F) -> F:
    """Compiles a function at its first call and keeps the machine code."""
    if Path(function.__code__.co_filename).parent not in FOLDERS:
        raise ValueError(f"{function.__qualname__} stands outside the folders whose sources are digested")
    FUNCTIONS.append(function.__qualname__)
    folder, before = store(), CONFIG.CACHE_DIR
    if folder is not None:
        with suppress(RuntimeError):  # Numba finds the folder unfit: compile for this run only
            CONFIG.CACHE_DIR = str(folder)
            try:
                return cast(F, JIT(cache=True, **OPTIONS)(function))
            finally:
                CONFIG.CACHE_DIR = before
    return cast(F, JIT(**OPTIONS)(function))


def inner(function: F) -> F:
    """A function that other compiled ones call: its machine code is kept within theirs."""
    return cast(F, JIT(**OPTIONS)(function))


def inlined(function: F) -> F:
    """A function that is put into its callers before they are compiled: a table is dear to pass on."""
    return cast(F, JIT(inline="always", **OPTIONS)(function))
