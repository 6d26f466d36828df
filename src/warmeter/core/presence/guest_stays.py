"""Guests as stays that hold the home in: whole local days of the calendar."""

from datetime import timedelta

from warmeter.core.home.document import Home
from warmeter.core.home.occasions import occasion_days
from warmeter.core.timegrid import LocalClock


def guest_stays(home: Home, clock: LocalClock, start_ms: int, end_ms: int) -> list[tuple[int, int]]:
    """Return the days on which guests stay as stretches [ms UTC]; none where the calendar has no guests."""
    first, last = clock.local(start_ms).date(), clock.local(end_ms).date()
    return [
        (clock.instant(on, 0), clock.instant(on + timedelta(days=1), 0))
        for occasion in home.occasions
        if occasion.kind == "guests"
        for on in occasion_days(home.occasions, occasion, first, last)
    ]
