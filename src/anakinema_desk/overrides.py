"""What Python puts in the place of a function of Qt lets no exception out that only C has seen.

An exception that C raises (``int(nan)``) is a kind and a text until some Python catches it. PySide takes the text for
the exception itself, to add to it whose function failed, and the program dies of that. One that was caught and raised
again is whole, and goes the way of all others: to `guard`.
"""

from collections.abc import Callable
from functools import wraps
from types import FunctionType
from typing import Any

from shiboken6 import Shiboken


def whole(function: Callable[..., Any]) -> Callable[..., Any]:
    """The function, with its exceptions whole."""

    @wraps(function)
    def called(*given: Any, **named: Any) -> Any:
        try:
            return function(*given, **named)
        except BaseException:
            raise  # caught, it has been made whole

    return called


def _hold(cls: type, /, **_: object) -> None:
    """Makes whole what a class puts in the place of functions of the class of Qt that it comes from."""
    bases = [base for base in cls.__mro__[1:] if base.__module__.startswith("PySide6.")]
    for name, function in list(vars(cls).items()):
        if isinstance(function, FunctionType) and any(name in vars(base) for base in bases) and name != "__init__":
            setattr(cls, name, whole(function))


def install() -> None:
    """From now on, for all classes that come from one of Qt's, engines of icons and items of lists among them."""
    Shiboken.Object.__init_subclass__ = classmethod(_hold)  # type: ignore[method-assign, assignment]
