"""The log of an install: one JSON object a line, in its data folder. No names, no readings, no addresses' queries."""

import json
import logging
import traceback
from datetime import UTC, datetime
from logging.handlers import WatchedFileHandler
from pathlib import Path

NAME = "warmeter.log"
MOST_BYTES = 10 * 1024**2
KEPT = 5
LOGGER = logging.getLogger("warmeter")


class _Line(logging.Formatter):
    """A record as one JSON object; of an error its kind and where it arose, not what it says."""

    def format(self, record: logging.LogRecord) -> str:
        """Return the line."""
        at = datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds")
        content: dict[str, object] = {"at": at, "level": record.levelname.lower(), "event": record.getMessage()}
        content |= getattr(record, "fields", {})
        if record.exc_info and record.exc_info[1] is not None:
            error = record.exc_info[1]
            content["error"] = type(error).__name__
            content["frames"] = [
                f"{Path(frame.filename).name}:{frame.lineno} {frame.name}"
                for frame in traceback.extract_tb(error.__traceback__)[-12:]
            ]
        return json.dumps(content)


def log_into(data_dir: Path) -> None:
    """Let this process write its lines into a data folder's log; several processes may."""
    path = data_dir / NAME
    path.touch(mode=0o600)
    handler = WatchedFileHandler(path, encoding="utf-8")
    handler.setFormatter(_Line())
    LOGGER.handlers[:] = [handler]
    LOGGER.setLevel(logging.INFO)
    LOGGER.propagate = False
    # What it would print holds the words of errors, and with them names and readings.
    logging.getLogger("uvicorn.error").setLevel(logging.CRITICAL)


def rotate(data_dir: Path) -> None:
    """Put a log that has grown large aside; the processes that write it begin a new one by themselves."""
    path = data_dir / NAME
    if not path.exists() or path.stat().st_size < MOST_BYTES:
        return
    for number in range(KEPT - 1, 0, -1):
        old = path.with_suffix(f".{number}.log")
        if old.exists():
            old.rename(path.with_suffix(f".{number + 1}.log"))
    path.rename(path.with_suffix(".1.log"))


def note(event: str, *, level: int = logging.INFO, error: BaseException | None = None, **fields: object) -> None:
    """Write a line: what happened, with fields that hold neither names nor readings."""
    LOGGER.log(level, event, extra={"fields": fields}, exc_info=error)
