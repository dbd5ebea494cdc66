"""Which functions are compiled, and how. Unmarked or called from Python, they are ordinary functions.

`HOW` names each marked function: "called" from Python (see `calls.compiled`), "inner" ones that only other compiled
functions call, "inlined" ones that are put into their callers before these are compiled, for a table is dear to pass.
"""

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

F = TypeVar("F", bound=Callable[..., Any])
HOME = Path(__file__).parent.parent
FOLDERS = (HOME / "kinematics/kernels", HOME / "clearance/kernels")
"""Where all stands that is compiled; `marked` refuses what stands elsewhere."""
HOW: dict[Any, str] = {}
"""The functions that are compiled, by what stands in their module under their name."""


def marked(function: F, stand_in: Any, how: str) -> None:
    """Notes that a function is compiled, and what stands for it in its module."""
    if Path(function.__code__.co_filename).parent not in FOLDERS:
        raise ValueError(f"{function.__qualname__} stands outside the folders whose sources are digested")
    HOW[stand_in] = how


def inner(function: F) -> F:
    """A function that other compiled ones call: its machine code is kept within theirs."""
    marked(function, function, "inner")
    return function


def inlined(function: F) -> F:
    """A function that is put into its callers before they are compiled."""
    marked(function, function, "inlined")
    return function
