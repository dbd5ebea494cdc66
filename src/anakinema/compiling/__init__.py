"""Compiling functions of numbers and arrays to machine code, once, when they are first called.

`marks` holds the decorators and what they mark, `calls` calls machine code with Python's values, `translate` makes it
with Numba, `store` keeps it. Numba takes half a second to load, longer than most files take to be judged, so it is
loaded only where there is something to compile; machine code that is kept is loaded and called without it.
"""

from .calls import compiled
from .marks import inlined, inner
from .store import compiled_before, compiled_share

__all__ = ["compiled", "compiled_before", "compiled_share", "inlined", "inner"]
