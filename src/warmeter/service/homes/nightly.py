"""A backup each night, so many of them kept."""

import logging
import threading
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import Engine

from warmeter.core.units import MS_PER_DAY
from warmeter.service.logfile import note, rotate
from warmeter.store.backup import backup_name, write_backup

LOOK_S = 600.0
FOLDER = "backups"
NIGHTLY, UPGRADE = "nightly-", "before-upgrade-"


def last_backup_ms(data_dir: Path) -> int | None:
    """Return when the newest backup in a data folder was written [ms UTC], None if there is none."""
    found = [path.stat().st_mtime for path in (data_dir / FOLDER).glob("*.zip")]
    return int(max(found) * 1000) if found else None


def back_up(engine: Engine, data_dir: Path, prefix: str, now_ms: int, kept: int) -> Path:
    """Write a backup into a data folder, and let go of the oldest of its kind beyond so many.

    Raises
    ------
    DumpError
        If it does not read back as it was written.
    OSError
        If it cannot be written.
    """
    folder = data_dir / FOLDER
    folder.mkdir(mode=0o700, exist_ok=True)
    path = folder / f"{prefix}{backup_name(now_ms)}"
    write_backup(engine, path, now_ms)
    for old in sorted(folder.glob(f"{prefix}*.zip"))[:-kept]:
        old.unlink()
    return path


class NightlyBackup:
    """Backs a data folder up whenever a day has passed since the last, or since its database was made."""

    def __init__(self, engine: Engine, data_dir: Path, made_ms: int, kept: int, now_ms: Callable[[], int]) -> None:
        self._engine, self._data_dir, self._kept, self._now_ms = engine, data_dir, kept, now_ms
        self._made_ms = made_ms
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        if kept:
            self._thread.start()

    def close(self) -> None:
        """Watch no more; a backup that is being written is given up with the process."""
        self._ending.set()

    def look(self) -> Path | None:
        """Write a backup if it is due; return it."""
        last = last_backup_ms(self._data_dir)
        if self._now_ms() - (self._made_ms if last is None else last) < MS_PER_DAY:
            return None
        path = back_up(self._engine, self._data_dir, NIGHTLY, self._now_ms(), self._kept)
        note("nightly backup written", bytes=path.stat().st_size)
        return path

    def _watch(self) -> None:
        while not self._ending.is_set():
            try:
                self.look()
            except Exception as error:
                # Whatever it was tonight, there is another night.
                note("nightly backup failed", level=logging.WARNING, error=error)
            rotate(self._data_dir)
            self._ending.wait(LOOK_S)
