"""Timetables as a table: one line a block, for a spreadsheet and back."""

import csv
from collections.abc import Iterator, Sequence
from datetime import date

from warmeter.core.csv_cells import cell_text
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import WEEKDAYS
from warmeter.core.timetable.calendar import USUAL
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.timetable.draft import DraftBlock, DraftTimetable, FileFinding, blocks_of_day
from warmeter.core.units import MIN_PER_DAY, TemperatureUnit, celsius_from, celsius_to

SETPOINT_COLUMN: dict[TemperatureUnit, str] = {"C": "setpoint_c", "F": "setpoint_f"}
COLUMNS = ("zone", "timetable", "day", "from", "to", "level")
NEEDED = ("zone", "day", "from", "to", "level")


def csv_rows(home: Home) -> Iterator[tuple[str, ...]]:
    """Yield the heading and every block of every timetable; an empty day is a line without times.

    The column of setpoints says their unit, that of the home. ``own`` says whether the setpoint is the block's own;
    dates and kinds of day are not in it.
    """
    yield (*COLUMNS, SETPOINT_COLUMN[home.temperature_unit], "own")
    for zone in home.zones:
        for timetable in zone.timetables:
            days = [(USUAL, timetable.usual), *((profile.of, profile.points) for profile in timetable.days)]
            for key, points in days:
                name = _name_of(home, key)
                if not points:
                    yield (zone.name, timetable.name, name, "", "", "", "", "")
                    continue
                for begin, end, point in blocks_of_day(points, points[0].start_min):
                    own = "yes" if point.own_setpoint_c is not None else "no"
                    value = f"{celsius_to(setpoint_of(home, zone, point), home.temperature_unit):.6g}"
                    level = home.level(point.level_id).name
                    yield (zone.name, timetable.name, name, _clock(begin), _clock(end), level, value, own)


def _name_of(home: Home, key: str) -> str:
    return next((kind.name for kind in home.day_kinds if kind.id == key), key)


def _clock(minute: int) -> str:
    return f"{minute // 60:02d}:{minute % 60:02d}"


def read_csv(home: Home, lines: Sequence[str]) -> tuple[list[DraftTimetable], list[FileFinding]]:
    """Return the timetables of a table and what was found in its lines; columns may stand in any order.

    Raises
    ------
    HomeError
        If a needed column is missing, the table has no line, or it cannot be read as a table.
    """
    try:
        rows = list(csv.reader(lines, delimiter=_delimiter(lines)))
    except csv.Error as error:
        raise HomeError(f"this cannot be read as a table ({error}); save it as CSV, one period a line") from error
    heading = [cell.strip().casefold() for cell in rows[0]] if rows else []
    missing = [name for name in NEEDED if name not in heading]
    if missing:
        raise HomeError(f"the first line of this table has no column {missing[0]!r}; it needs {', '.join(NEEDED)}")
    found: list[FileFinding] = []
    drafts: dict[tuple[str, str], dict[str, list[DraftBlock]]] = {}
    places: dict[tuple[str, str], str] = {}
    for number, cells in enumerate(rows[1:], start=2):
        row = dict(zip(heading, (cell_text(cell) for cell in cells), strict=False))
        place = f"line {number}"
        if not any(row.values()):
            continue
        key = _day_key(home, row.get("day", ""))
        if key is None:
            found.append(FileFinding(place, f"{row.get('day')!r} is no weekday, kind of day or date", "it is left out"))
            continue
        which = (row.get("zone", ""), row.get("timetable") or "Every day")
        places.setdefault(which, place)
        blocks = drafts.setdefault(which, {}).setdefault(key, [])
        if not (row.get("from") or row.get("to") or row.get("level")):
            continue
        block = _block(row, place, found)
        if block is not None:
            blocks.append(block)
    if not drafts:
        raise HomeError("no line of this table could be taken; it needs one line a period")
    return [
        DraftTimetable(place=places[zone, name], zone=zone, name=name, days=days)
        for (zone, name), days in drafts.items()
    ], found


def _delimiter(lines: Sequence[str]) -> str:
    first = lines[0] if lines else ""
    return max(",;\t", key=first.count)


def _day_key(home: Home, text: str) -> str | None:
    """Return the key of a day as written: usual, a weekday, a kind's name, a date."""
    word = text.casefold()
    if word in ("", USUAL):
        return USUAL
    if word[:3] in WEEKDAYS and word.isalpha():
        return word[:3]
    kind = next((k.id for k in home.day_kinds if k.name.casefold() == word), None)
    if kind is not None:
        return kind
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        return None


def _block(row: dict[str, str], place: str, found: list[FileFinding]) -> DraftBlock | None:
    times = [_minute(row.get(name, "")) for name in ("from", "to")]
    if times[0] is None or times[1] is None:
        wrong = row.get("from" if times[0] is None else "to", "")
        found.append(FileFinding(place, f"{wrong!r} is no time of day such as 06:30", "this period is left out"))
        return None
    own = None
    for unit, column in SETPOINT_COLUMN.items():
        if not row.get(column) or row.get("own", "yes").casefold() in ("no", "0", "false"):
            continue
        try:
            own = celsius_from(float(row[column].replace(",", ".")), unit)
        except ValueError:
            found.append(FileFinding(place, f"{row[column]!r} is no temperature", "the level's own is taken"))
    return DraftBlock(
        place=place, from_min=times[0], to_min=times[1] % MIN_PER_DAY, level=row.get("level", ""), own_setpoint_c=own
    )


def _minute(text: str) -> int | None:
    hour, colon, minute = text.replace(".", ":").partition(":")
    if not (hour.isdecimal() and (minute.isdecimal() if colon else True)):
        return None
    found = int(hour) * 60 + int(minute or 0)
    return found if found <= 1440 and int(minute or 0) < 60 else None
