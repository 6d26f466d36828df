"""The log of an install: one JSON object a line, in its data folder. No names, no readings, no addresses' queries."""

import logging
import traceback
from logging.handlers import WatchedFileHandler
from pathlib import Path

import structlog
from structlog.typing import EventDict, WrappedLogger

NAME = "warmeter.log"
MOST_BYTES = 10 * 1024**2
KEPT = 5
LOGGER = logging.getLogger("warmeter")


def _error_without_words(_: WrappedLogger, __: str, line: EventDict) -> EventDict:
    """Put an error's kind and where it arose in its place, not what it says."""
    error = line.pop("exc_info", None)
    if isinstance(error, BaseException):
        line["error"] = type(error).__name__
        line["frames"] = [
            f"{Path(frame.filename).name}:{frame.lineno} {frame.name}"
            for frame in traceback.extract_tb(error.__traceback__)[-12:]
        ]
    return line


structlog.configure(
    processors=[
        structlog.contextvars.merge_contextvars,
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", key="at"),
        _error_without_words,
        structlog.processors.JSONRenderer(),
    ],
    logger_factory=lambda: LOGGER,
    wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
)


def log_into(data_dir: Path) -> None:
    """Let this process write its lines into a data folder's log; several processes may."""
    path = data_dir / NAME
    path.touch(mode=0o600)
    handler = WatchedFileHandler(path, encoding="utf-8")
    handler.setFormatter(logging.Formatter("%(message)s"))
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
    """Write a line: what happened, with fields that hold neither names nor readings, and the request's number."""
    structlog.get_logger().log(level, event, exc_info=error, **fields)


def with_request_id(request_id: str) -> None:
    """Let all lines of what now answers a request carry its number."""
    structlog.contextvars.clear_contextvars()
    structlog.contextvars.bind_contextvars(id=request_id)
