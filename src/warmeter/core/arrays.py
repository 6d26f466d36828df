"""The arrays that travel between the parts: shapes and units stand with each function."""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
Bytes = NDArray[np.int8]


def true_runs(flags: Flags) -> tuple[Ints, Ints]:
    """Return where flags begin to be true and the places after their last true one, (run,) each."""
    turns = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8))).astype(np.int64)
    return turns[::2], turns[1::2]
