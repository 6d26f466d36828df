"""Days that differ as an iCalendar file (RFC 5545), and the days of anybody's calendar by words of its events."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from dateutil.rrule import rrulestr
from icalendar import Calendar, Event

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.occasions import OCCASION_LABEL, occasion_days

MOST_EVENTS, MOST_DATES, MOST_TURNS = 20_000, 200, 200_000


@dataclass(frozen=True, slots=True, kw_only=True)
class CalendarDays:
    """The days of a calendar's events, rising, and how many events they are of; ``unread`` could not be read."""

    dates: tuple[date, ...]
    events: int
    unread: int


def days_of_ical(data: bytes, time_zone: str, first: date, last: date, words: str = "") -> CalendarDays:
    """Return the days from one date to another on which an event of a calendar falls, on the home's clock.

    Parameters
    ----------
    words : str
        Only events in whose summary these stand; upper and lower case are one. Without them every event.

    Raises
    ------
    HomeError
        If it is no iCalendar file, no event falls on these days, more than two hundred days do, or its events repeat
        more often than is laid out.

    Notes
    -----
    Events that repeat are laid out, without the days that they leave out; one that was moved counts where it was moved
    to; cancelled ones do not count. Of an event over several days every day counts.
    """
    try:
        events = list(Calendar.from_ical(data).walk("VEVENT"))
    except (ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise HomeError(f"this is no iCalendar file ({error})") from error
    if len(events) > MOST_EVENTS:
        raise HomeError(
            f"this calendar has {len(events)} events, more than {MOST_EVENTS}: save a shorter stretch of it"
        )
    clock = ZoneInfo(time_zone)
    moved, turns = _moved(events, clock), iter(range(MOST_TURNS))
    found: set[date] = set()
    read = unread = 0
    for event in events:
        if str(event.get("status", "")).upper() == "CANCELLED":
            continue
        if words.casefold() not in str(event.get("summary", "") or "").casefold():
            continue
        try:
            found |= set(_days(event, clock, first, last, moved, turns))
            read += 1
        except HomeError:
            raise
        except (ValueError, TypeError, KeyError, AttributeError, OverflowError):
            unread += 1
    if not found:
        about = f" with “{words}” in its name" if words else ""
        raise HomeError(
            f"no event{about} falls on {first} to {last}" + (f"; {unread} could not be read" if unread else "")
        )
    if len(found) > MOST_DATES:
        raise HomeError(f"{len(found)} days, more than {MOST_DATES}: give words that only the events meant have")
    return CalendarDays(dates=tuple(sorted(found)), events=read, unread=unread)


def _moved(events: list[Any], clock: ZoneInfo) -> set[tuple[str, date]]:
    """Return which turns of which events were moved or changed by themselves."""
    found = set()
    for event in events:
        if "recurrence-id" in event:
            try:
                found.add((str(event.get("uid", "")), _local(event.decoded("recurrence-id"), clock).date()))
            except (ValueError, TypeError, KeyError, AttributeError):
                continue
    return found


def _days(
    event: Any, clock: ZoneInfo, first: date, last: date, moved: set[tuple[str, date]], turns: Iterator[int]
) -> Iterator[date]:
    """Yield the days of an event from one date to another; ``turns`` are those that may still be laid out."""
    begin = _local(event.decoded("dtstart"), clock)
    length = _length(event, clock, begin)
    uid, is_turn = str(event.get("uid", "")), "recurrence-id" in event
    left_out = {_local(each.dt, clock).date() for each in _listed(event, "exdate")}
    for turn in _turns(event, begin, clock, last, turns):
        if turn.date() in left_out or (not is_turn and (uid, turn.date()) in moved):
            continue
        # A day that an event only touches at its midnight is not one of its days.
        ends = max(turn, turn + length - timedelta(microseconds=1)).date()
        day = max(turn.date(), first)
        while day <= min(ends, last):
            yield day
            day += timedelta(days=1)


def _turns(event: Any, begin: datetime, clock: ZoneInfo, last: date, turns: Iterator[int]) -> Iterator[datetime]:
    """Yield when an event begins, each time that it comes, on the home's clock."""
    yield begin
    yield from (_local(each.dt, clock) for each in _listed(event, "rdate"))
    if "rrule" not in event:
        return
    rule = event["rrule"]
    if "UNTIL" in rule:
        rule["UNTIL"] = [_local(rule["UNTIL"][0], clock)]
    for turn in rrulestr(rule.to_ical().decode(), dtstart=begin, ignoretz=True):
        if turn.date() > last:
            return
        if next(turns, None) is None:
            raise HomeError(f"its events repeat more than {MOST_TURNS} times: save a shorter stretch of this calendar")
        yield turn


def _listed(event: Any, name: str) -> list[Any]:
    value = event.get(name)
    lists = value if isinstance(value, list) else [] if value is None else [value]
    return [each for one in lists for each in one.dts]


def _length(event: Any, clock: ZoneInfo, begin: datetime) -> timedelta:
    if "dtend" in event:
        return max(_local(event.decoded("dtend"), clock) - begin, timedelta(0))
    if "duration" in event:
        return max(timedelta(0), timedelta(seconds=event.decoded("duration").total_seconds()))
    is_whole = not isinstance(event.decoded("dtstart"), datetime)
    return timedelta(days=1) if is_whole else timedelta(0)


def _local(moment: date, clock: ZoneInfo) -> datetime:
    """Return a moment on the home's clock, without a zone; a date is its midnight."""
    if not isinstance(moment, datetime):
        return datetime.combine(moment, time(0))
    return moment if moment.tzinfo is None else moment.astimezone(clock).replace(tzinfo=None)


def occasions_ical(home: Home, first: date, last: date) -> bytes:
    """Return the days that differ from one date to another as events over whole days."""
    calendar = Calendar()
    calendar.add("prodid", "-//Warmeter//Days that differ//EN")
    calendar.add("version", "2.0")
    for occasion in home.occasions:
        for begin, end in _runs(occasion_days(home.occasions, occasion, first, last)):
            event = Event()
            event.add("summary", occasion.name)
            event.add("categories", [OCCASION_LABEL[occasion.kind]])
            event.add("dtstart", begin)
            event.add("dtend", end + timedelta(days=1))
            event.add("dtstamp", datetime(first.year, first.month, first.day, tzinfo=UTC))
            event.add("uid", f"{home.id}.{occasion.id}.{begin:%Y%m%d}@warmeter")
            calendar.add_component(event)
    return bytes(calendar.to_ical())


def _runs(days: list[date]) -> Iterator[tuple[date, date]]:
    """Yield stretches of days without a gap, first and last."""
    begin = before = None
    for day in days:
        if before is None or day - before > timedelta(days=1):
            if begin is not None and before is not None:
                yield begin, before
            begin = day
        before = day
    if begin is not None and before is not None:
        yield begin, before
