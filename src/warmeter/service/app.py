"""What every use case needs: stores, clock, folders and the job port."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

from sqlalchemy import Engine

from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN
from warmeter.store.events import EventStore
from warmeter.store.homes import HomeStore
from warmeter.store.live_alerts import LiveAlertStore
from warmeter.store.live_commands import LiveCommandStore
from warmeter.store.live_homes import LiveHomeStore
from warmeter.store.live_readings import LiveReadingStore
from warmeter.store.matters import MattersStore
from warmeter.store.pages import PageStore
from warmeter.store.photos import PhotoStore
from warmeter.store.readings import ReadingStore
from warmeter.store.work import WorkStore


class JobPort(Protocol):
    """Takes the number of a queued job and sees that it is run."""

    def submit(self, job_id: int) -> None:
        """Run a queued job when there is room for it."""


class QueuedOnly:
    """A job port that leaves jobs to the runner, which finds what is queued."""

    def submit(self, job_id: int) -> None:
        """Leave the job queued."""


@dataclass(frozen=True, slots=True)
class Person:
    """Who edits: a name for this browser and its window."""

    name: str
    window: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class App:
    """The application's parts, handed to every use case."""

    engine: Engine
    uploads: Path
    jobs: JobPort
    now_ms: Callable[[], int]
    readings: ReadingStore = field(init=False)
    """Series and imports; it remembers which series there are."""

    def __post_init__(self) -> None:
        """Make the store that remembers."""
        object.__setattr__(self, "readings", ReadingStore(self.engine))

    @property
    def homes(self) -> HomeStore:
        """Homes and revisions."""
        return HomeStore(self.engine)

    @property
    def work(self) -> WorkStore:
        """Jobs and fits."""
        return WorkStore(self.engine)

    @property
    def events(self) -> EventStore:
        """What happened beside changes of the document."""
        return EventStore(self.engine)

    @property
    def matters(self) -> MattersStore:
        """What matters in each home, as last worked out, and what browsers saw of it."""
        return MattersStore(self.engine)

    @property
    def photos(self) -> PhotoStore:
        """Photos of parts and of steps."""
        return PhotoStore(self.engine)

    @property
    def pages(self) -> PageStore:
        """Pages that were drawn once."""
        return PageStore(self.engine)

    @property
    def live_homes(self) -> LiveHomeStore:
        """Homes that are linked live: clocks, leases, topics, tokens, addresses."""
        return LiveHomeStore(self.engine)

    @property
    def live_readings(self) -> LiveReadingStore:
        """Readings as they come in."""
        return LiveReadingStore(self.engine)

    @property
    def live_commands(self) -> LiveCommandStore:
        """What rules did live, and what devices were asked."""
        return LiveCommandStore(self.engine)

    @property
    def live_alerts(self) -> LiveAlertStore:
        """Alerts, who was told, what was answered."""
        return LiveAlertStore(self.engine)

    def clock(self, home: Home) -> LocalClock:
        """Return the home's clock."""
        return LocalClock(home.time_zone)

    def as_of_ms(self, home_id: str) -> int:
        """Return what counts as now for a home: set, or the last reading of its climate, of any, or the wall clock."""
        line = self.homes.line(home_id)
        return self.now_of(None if line is None else line.told_now_ms)

    def heard_until_ms(self, home_id: str) -> int:
        """Return what counts as now where every kind of log is looked at, machines' too: set, or the last reading."""
        line = self.homes.line(home_id)
        told = None if line is None else line.as_of_ms if line.as_of_ms is not None else line.last_reading_ms
        return self.now_of(told)

    def now_of(self, told_ms: int | None) -> int:
        """Return an instant that was told as now [ms UTC], or the wall clock's minute if none was."""
        return self.now_ms() // MS_PER_MIN * MS_PER_MIN if told_ms is None else told_ms


def system_now_ms() -> int:
    """Return the machine's clock [ms UTC]."""
    return time.time_ns() // 1_000_000
