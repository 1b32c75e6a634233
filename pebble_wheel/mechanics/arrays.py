"""The one array type of the mechanics."""

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
IntArray = NDArray[np.int_]
Floats = float | FloatArray
"""A scalar or an array of them; functions that take several broadcast them."""
