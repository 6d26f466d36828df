"""The arrays that travel between the parts: shapes and units stand with each function."""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
Bytes = NDArray[np.int8]
