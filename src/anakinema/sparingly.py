"""Loading SciPy without what nobody here asks for. SciPy takes in all of NumPy by name, also the parts that NumPy loads
only when they are named (its Fortran wrapper, its test helpers): a third of the whole import."""

import numpy as np

UNUSED = frozenset(
    ("char", "core", "ctypeslib", "f2py", "ma", "polynomial", "random", "rec", "strings", "testing", "typing")
)


def load_scipy() -> None:
    """Loads the parts of SciPy that every motion needs. Who names the unused parts of NumPy later gets them as ever."""
    names, listed = np.__all__, np.__dir__
    np.__all__ = [name for name in names if name not in UNUSED]
    np.__dir__ = lambda: [name for name in listed() if name not in UNUSED]  # type: ignore[method-assign]
    try:
        import scipy.linalg
        import scipy.sparse
        import scipy.sparse.csgraph
        import scipy.sparse.linalg  # noqa: F401
    finally:
        np.__all__, np.__dir__ = names, listed  # type: ignore[method-assign]
