"""Columns of a long log held in files while it is read, so that memory does not grow with its length."""

import tempfile
from pathlib import Path
from typing import IO, TypeVar

import numpy as np
from numpy.typing import NDArray

from warmeter.core.arrays import Floats, Ints

_Number = TypeVar("_Number", np.int64, np.float64)


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
        at_ms, value, line = self._files
        return _mapped(at_ms, np.int64), _mapped(value, np.float64), _mapped(line, np.int64)


def _mapped(file: IO[bytes], kind: type[_Number]) -> NDArray[_Number]:
    file.flush()
    return np.memmap(file, dtype=kind, mode="r") if file.tell() else np.zeros(0, dtype=kind)
