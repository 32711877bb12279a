"""Array types used across the core."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Column = NDArray[Any]
"""What a column of a table holds, whatever that is."""
FloatArray = NDArray[np.float64]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
