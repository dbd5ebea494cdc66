"""The kinds of arrays that the core computes with. Docstrings give their shapes."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Plane = NDArray[np.complex128]
"""Points of the plane as complex numbers x + i y."""
Index = NDArray[np.int64]
Mask = NDArray[np.bool_]
