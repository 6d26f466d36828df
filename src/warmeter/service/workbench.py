"""What every use case needs: stores, clock, folders and the job port."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from sqlalchemy import Engine

from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.store.events import EventStore
from warmeter.store.homes import HomeStore
from warmeter.store.readings import ReadingStore
from warmeter.store.work import WorkStore


class JobPort(Protocol):
    """Takes the number of a queued job and sees that it is run."""

    def submit(self, job_id: int) -> None:
        """Run a queued job when there is room for it."""


@dataclass(frozen=True, slots=True)
class Person:
    """Who edits: a name for this browser and its window."""

    name: str
    window: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Workbench:
    """The application's parts, handed to every use case."""

    engine: Engine
    uploads: Path
    jobs: JobPort
    now_ms: Callable[[], int]

    @property
    def homes(self) -> HomeStore:
        """Homes and revisions."""
        return HomeStore(self.engine)

    @property
    def readings(self) -> ReadingStore:
        """Series and imports."""
        return ReadingStore(self.engine)

    @property
    def work(self) -> WorkStore:
        """Jobs and fits."""
        return WorkStore(self.engine)

    @property
    def events(self) -> EventStore:
        """What happened beside changes of the document."""
        return EventStore(self.engine)

    def clock(self, home: Home) -> LocalClock:
        """Return the home's clock."""
        return LocalClock(home.zone)

    def as_of_ms(self, home_id: str) -> int:
        """Return what counts as now for a home: set, or its last reading, or the wall clock's time."""
        line = next((line for line in self.homes.lines() if line.id == home_id), None)
        if line is not None and line.as_of_ms is not None:
            return line.as_of_ms
        bounds = self.readings.bounds(home_id)
        return bounds[1] if bounds else self.now_ms() // 60_000 * 60_000


def wall_now_ms() -> int:
    """Return the machine's clock [ms UTC]."""
    return time.time_ns() // 1_000_000
