"""Columns of a long log held in files while it is read, so that memory does not grow with its length."""

import tempfile
from pathlib import Path
from typing import IO

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


class OnDisk:
    """A column in files without a name, which go with the process that made them."""

    def __init__(self, folder: Path) -> None:
        # They are open as long as what is mapped of them is looked at.
        self._files: list[IO[bytes]] = [tempfile.TemporaryFile(dir=folder) for _ in range(3)]  # noqa: SIM115

    def add(self, at_ms: Ints, value: Floats, line: Ints) -> None:
        """Hold a section's readings."""
        for file, part in zip(self._files, (at_ms, value, line), strict=True):
            file.write(part.tobytes())

    def whole(self) -> tuple[Ints, Floats, Ints]:
        """Return all that was added, mapped: the kernel reads and lets go of pages as they are asked for."""
        at_ms, value, line = (_mapped(f, t) for f, t in zip(self._files, (np.int64, np.float64, np.int64), strict=True))
        return at_ms, value, line


def _mapped(file: IO[bytes], kind: type[np.int64] | type[np.float64]) -> NDArray[np.int64 | np.float64]:
    file.flush()
    return np.memmap(file, dtype=kind, mode="r") if file.tell() else np.zeros(0, dtype=kind)
