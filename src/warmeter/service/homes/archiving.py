"""A home's archive as a file to save, and one that is brought in."""

import secrets
from collections.abc import Iterable
from pathlib import Path

from warmeter.service.app import App
from warmeter.service.limits import LOG_BYTES, size_told
from warmeter.service.timetable.manual_overrides import KIND, change_from_json
from warmeter.store.archive import read_archive, write_archive
from warmeter.store.dump import DumpError

OPENERS = {KIND: change_from_json}


def written_archive(app: App, home_id: str) -> Path:
    """Write a home's archive among the uploads and return it; who sends it removes it.

    Raises
    ------
    HomeNotFound
        If the home is not there.
    """
    path = _made(app)
    try:
        write_archive(app.engine, home_id, path, app.now_ms())
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path


def bring_in_archive(app: App, parts: Iterable[bytes]) -> tuple[str, str]:
    """Bring in the home of an archive; return its id and name.

    Raises
    ------
    DumpError
        If it is no archive, damaged, larger than is taken, or holds what cannot be opened; nothing is changed then.
    """
    path, size = _made(app), 0
    try:
        path.touch(mode=0o600)
        with path.open("wb") as out:
            for part in parts:
                size += len(part)
                if size > LOG_BYTES:
                    raise DumpError(f"this archive is larger than {size_told(LOG_BYTES)}; nothing was changed")
                out.write(part)
        return read_archive(app.engine, path, OPENERS)
    finally:
        path.unlink(missing_ok=True)


def _made(app: App) -> Path:
    """Return the path of a new file among the uploads, which are swept after a day."""
    app.uploads.mkdir(mode=0o700, parents=True, exist_ok=True)
    return app.uploads / f"archive-{secrets.token_hex(8)}.zip"
