"""UTC inside, the home's clock at the edge: local days of 23, 24 or 25 hours.

All instants are integer milliseconds since 1970 in UTC.
"""

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.errors import TimeError
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_H, MS_PER_MIN

_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)
# Every present rule of the zone database changes on a quarter of an hour of UTC.
_QUARTER_MS = 15 * MS_PER_MIN


def to_ms(moment: datetime) -> int:
    """Return an aware datetime as milliseconds UTC."""
    return round((moment - _EPOCH) / timedelta(milliseconds=1))


def from_ms(at_ms: int) -> datetime:
    """Return milliseconds as an aware UTC datetime."""
    return _EPOCH + timedelta(milliseconds=int(at_ms))


def parse_utc(text: str) -> int:
    """Return the milliseconds of an ISO 8601 text with Z or an offset.

    Raises
    ------
    TimeError
        If it cannot be read or carries no offset.
    """
    try:
        moment = datetime.fromisoformat(text)
    except ValueError as error:
        raise TimeError(f"{text!r} is not an ISO 8601 time") from error
    if moment.tzinfo is None:
        raise TimeError(f"{text!r} has no offset; write it with Z or +00:00")
    return to_ms(moment)


@dataclass(frozen=True, slots=True)
class LocalDay:
    """A local date and its stretch [start_ms, end_ms)."""

    date: date
    start_ms: int
    end_ms: int

    @property
    def hours(self) -> float:
        """Length of the day [h]: 24, or 23 to 25 where the clock changes."""
        return (self.end_ms - self.start_ms) / MS_PER_H


class LocalClock:
    """The wall clock of a time zone.

    Parameters
    ----------
    zone : str
        Name in the zone database, such as ``Europe/London``.

    Raises
    ------
    TimeError
        If the zone database does not know the name.
    """

    def __init__(self, zone: str) -> None:
        try:
            self._zone = ZoneInfo(zone)
        except (ZoneInfoNotFoundError, ValueError, OSError) as error:
            raise TimeError(f"{zone!r} is not a time zone; write one such as Europe/London") from error
        self.zone = zone

    def local(self, at_ms: int) -> datetime:
        """Return the wall-clock time of an instant."""
        return from_ms(at_ms).astimezone(self._zone)

    def offset_min(self, at_ms: int) -> int:
        """Return the offset from UTC at an instant [min]."""
        offset = self.local(at_ms).utcoffset()
        assert offset is not None  # an aware datetime of a ZoneInfo always has one
        return int(offset.total_seconds() // 60)

    def abbreviation(self, at_ms: int) -> str:
        """Return the clock's short name at an instant, such as GMT."""
        return self.local(at_ms).tzname() or ""

    def instants_of(self, wall: datetime) -> tuple[int, ...]:
        """Return every instant at which the clock shows ``wall`` (none, one or two)."""
        first, second = (wall.replace(tzinfo=self._zone, fold=fold) for fold in (0, 1))
        if first.utcoffset() == second.utcoffset():  # neither skipped nor doubled
            return (to_ms(first),)
        found = []
        for fold in (0, 1):
            at = to_ms(wall.replace(tzinfo=self._zone, fold=fold))
            if self.local(at).replace(tzinfo=None) == wall and at not in found:
                found.append(at)
        return tuple(found)

    def instant(self, on: date, minute: int) -> int:
        """Return the instant of a local date and clock time.

        Parameters
        ----------
        on : date
            Local date.
        minute : int
            Minutes since midnight, 0 to 1440; 1440 is 00:00 of the next date.

        Notes
        -----
        The first instant at which the clock shows that time or a later one: a time that the
        clock skips is the moment of the jump, one that comes twice its first coming.
        """
        wall = datetime(on.year, on.month, on.day) + timedelta(minutes=minute)
        instants = self.instants_of(wall)
        if instants:
            return min(instants)
        return self._jump_before(wall)

    def _jump_before(self, wall: datetime) -> int:
        """Return the instant of the jump that skips ``wall``."""
        low = to_ms(wall.replace(tzinfo=UTC)) - MS_PER_DAY
        high = low + 2 * MS_PER_DAY
        while high - low > MS_PER_MIN:
            middle = (low + high) // 2 // MS_PER_MIN * MS_PER_MIN
            if self.local(middle).replace(tzinfo=None) >= wall:
                high = middle
            else:
                low = middle
        return high

    def day(self, on: date) -> LocalDay:
        """Return a local date's stretch: [first instant of it, first of the next)."""
        return LocalDay(on, self.instant(on, 0), self.instant(on, 1440))

    def stretch(self, on: date, days: int) -> LocalDay:
        """Return so many local dates from one on, as one stretch."""
        return LocalDay(on, self.instant(on, 0), self.instant(on + timedelta(days=days), 0))

    def day_of(self, at_ms: int) -> LocalDay:
        """Return the local day that holds an instant."""
        return self.day(self.local(at_ms).date())

    def days(self, start_ms: int, end_ms: int) -> list[LocalDay]:
        """Return the local days that touch [start_ms, end_ms)."""
        found = [self.day_of(start_ms)]
        while found[-1].end_ms < end_ms:
            found.append(self.day(found[-1].date + timedelta(days=1)))
        return found

    def offsets_min(self, at_ms: Ints) -> Ints:
        """Return the offset from UTC for many instants [min], shape as given."""
        quarters, place = np.unique(at_ms // _QUARTER_MS, return_inverse=True)
        if quarters.size == 0:
            return np.zeros(0, dtype=np.int64)
        return self._offsets_of(quarters)[place]

    def _offsets_of(self, quarters: Ints) -> Ints:
        """Return offsets for sorted quarters of an hour, halving where both ends differ."""
        offsets = np.empty(quarters.size, dtype=np.int64)
        stack = [(0, quarters.size - 1)]
        while stack:
            low, high = stack.pop()
            first = self.offset_min(int(quarters[low]) * _QUARTER_MS)
            last = self.offset_min(int(quarters[high]) * _QUARTER_MS)
            # Zones keep an offset for weeks, so equal ends within 20 days mean no change between.
            if first == last and quarters[high] - quarters[low] < 20 * 96:
                offsets[low : high + 1] = first
            elif high - low == 1:
                offsets[low], offsets[high] = first, last
            else:
                middle = (low + high) // 2
                stack += [(low, middle), (middle, high)]
        return offsets

    def local_minutes(self, at_ms: Ints) -> tuple[Ints, Ints]:
        """Return (epoch day, minute of day) on the wall clock for many instants."""
        minutes = at_ms // MS_PER_MIN + self.offsets_min(at_ms)
        return minutes // MIN_PER_DAY, minutes % MIN_PER_DAY


def month_of_epoch_days(days: Ints) -> Ints:
    """Return the calendar month, 1 to 12, of epoch days."""
    months = days.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)
    return months % 12 + 1


def weekday_of_epoch_days(days: Ints) -> Ints:
    """Return the weekday of epoch days, Monday 0 to Sunday 6."""
    return (days + 3) % 7
