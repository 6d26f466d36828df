"""Which written day is in view, what an edit of it changes, and what it can be copied to."""

from dataclasses import dataclass
from datetime import date

from warmeter.core.edits.timetable_edits import SCOPES, Scope
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import WEEKDAYS
from warmeter.core.home.zones import Zone
from warmeter.core.timetable.calendar import USUAL, days_of_key, kind_on, written_on
from warmeter.core.timetable.compare import LONG_WEEKDAY, name_of_key
from warmeter.web import format as show

SHORT_WEEKDAY = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenView:
    """The written day of a zone on a date; ``copies`` are (key, name), ``scopes`` (scope, words, chosen)."""

    timetable_id: str
    timetable: str
    key: str
    name: str
    holds: str
    is_apart: bool
    scopes: list[tuple[Scope, str, bool]]
    copies: list[tuple[str, str]]
    zones: list[tuple[str, str]]


def weekdays_text(days: tuple[int, ...]) -> str:
    """Return weekdays in words, runs of three or more as a span."""
    if not days:
        return "by date only"
    if len(days) == 7:
        return "every day"
    if len(days) > 2 and days[-1] - days[0] == len(days) - 1:
        return f"{SHORT_WEEKDAY[days[0]]} to {SHORT_WEEKDAY[days[-1]]}"
    return ", ".join(SHORT_WEEKDAY[d] for d in days)


def written_view(home: Home, zone: Zone, on: date, scope: Scope) -> WrittenView:
    """Return what is written for a zone on a date."""
    held = written_on(home, zone, on)
    days = days_of_key(home, held.timetable, held.key)
    kind = kind_on(home, on)
    is_date = held.key == on.isoformat()
    holds = show.day_short(on, home.country) if is_date else weekdays_text(days)
    words = {
        "written": f"all of “{name_of_key(home, held.key)}”: {holds}",
        "weekday": f"{LONG_WEEKDAY[on.weekday()]} only",
        "date": f"{show.day_short(on, home.country)} only",
    }
    scopes = [(s, words[s], s == scope) for s in SCOPES if not (is_date and s != "written")]
    keys = [USUAL, *(k.id for k in home.day_kinds), *WEEKDAYS]
    name = name_of_key(home, held.key)
    return WrittenView(
        timetable_id=held.timetable.id,
        timetable=held.timetable.name,
        key=held.key,
        name=f"{name} ({kind.name})" if kind and held.key == USUAL else name,
        holds=holds,
        is_apart=held.key != USUAL,
        scopes=scopes,
        copies=[(key, name_of_key(home, key)) for key in keys if key != held.key],
        zones=[(z.id, z.name) for z in home.zones if z.id != zone.id],
    )
