"""One data folder, one Warmeter: who holds it is written in it, and the kernel lets go of it when its holder ends."""

import fcntl
import json
import os
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from warmeter.store.server import DatabaseError


@contextmanager
def held_folder(folder: Path, address: str = "") -> Iterator[None]:
    """Hold a data folder for this process until the end of the block; it is made if it is not there.

    Raises
    ------
    DatabaseError
        If another process holds it, with which and where it answers; or if it cannot be written.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        descriptor = os.open(folder / "lock", os.O_RDWR | os.O_CREAT, 0o600)
    except OSError as error:
        raise DatabaseError(
            f"The data folder {folder} cannot be written ({error.strerror}). "
            "Choose another with --data-dir, or change its rights."
        ) from error
    with os.fdopen(descriptor, "r+", encoding="utf-8") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise DatabaseError(f"{_holder(file.read())} {folder}. {_WHAT_TO_DO}") from error
        file.truncate(0)
        since = datetime.now(UTC).strftime("%Y-%m-%d %H:%M UTC")
        json.dump({"process": os.getpid(), "since": since, "address": address}, file)
        file.flush()
        yield


_WHAT_TO_DO = "Nothing was touched. Use that one, stop it first, or choose another folder with --data-dir."


def _holder(text: str) -> str:
    """Return who holds a folder, as its lock file says."""
    try:
        told = json.loads(text)
        where = f", at {told['address']}" if told["address"] else ""
        return f"Another Warmeter (process {told['process']}, since {told['since']}{where}) works in"
    except (ValueError, KeyError, TypeError):
        return "Another Warmeter works in"
