"""The days that differ on a year: a line a month, a cell a day, with the letter of what wins on it."""

from calendar import monthrange
from dataclasses import dataclass
from datetime import date
from string import ascii_lowercase

from warmeter.core.home.document import Home
from warmeter.core.home.occasions import Occasion
from warmeter.core.timetable.calendar import holding_on, occasion_on
from warmeter.core.timetable.compare import name_of_key
from warmeter.web import format as show

LEFT, TOP, CELL, MONTHS = 46, 16, 17, 12
NOTED = "·"


@dataclass(frozen=True, slots=True, kw_only=True)
class YearCell:
    """A day: its place [px], its letter, how it is drawn, and what it is in words."""

    x: int
    y: int
    letter: str
    css: str
    title: str
    is_more: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class YearView:
    """The year's cells, its months and days of the month at their places, and what each letter stands for."""

    width: int
    height: int
    cell: int
    cells: list[YearCell]
    months: list[tuple[int, str]]
    days: list[tuple[int, str]]
    letters: list[tuple[str, str, str]]


def year_view(home: Home, on: date) -> YearView:
    """Return twelve months from that of a date on."""
    letters = {o.id: _letter(place) for place, o in enumerate(home.occasions)}
    counts = dict.fromkeys(letters, 0)
    cells, months = [], []
    for row in range(MONTHS):
        year, month = on.year + (on.month - 1 + row) // 12, (on.month - 1 + row) % 12 + 1
        y = TOP + row * CELL
        months.append((y, f"{date(year, month, 1):%b}{f' {year % 100:02d}' if month == 1 else ''}"))
        for number in range(1, monthrange(year, month)[1] + 1):
            day = date(year, month, number)
            held = holding_on(home, day)
            for occasion in held:
                counts[occasion.id] += 1
            cells.append(_cell(home, day, held, letters, LEFT + (number - 1) * CELL, y, is_now=day == on))
    return YearView(
        width=LEFT + 31 * CELL + 1,
        height=TOP + MONTHS * CELL + 1,
        cell=CELL,
        cells=cells,
        months=months,
        days=[(LEFT + (number - 1) * CELL + CELL // 2, str(number)) for number in (1, 5, 10, 15, 20, 25, 30)],
        letters=[(letters[o.id], o.name, _days_text(counts[o.id])) for o in home.occasions],
    )


def _cell(
    home: Home, day: date, held: list[Occasion], letters: dict[str, str], x: int, y: int, *, is_now: bool
) -> YearCell:
    noted = next((s for s in reversed(home.special_days) if s.on == day), None)
    winner = occasion_on(home, day)
    shown = winner or (held[-1] if held else None)
    words = [show.day_long(day, home.country)]
    if noted is not None:
        words.append(f"{name_of_key(home, noted.kind_id)}, as noted")
    elif winner is not None:
        words.append(f"{winner.name} wins")
    words += [o.name for o in held if noted is not None or o is not winner]
    css = (
        "wm-year-noted"
        if noted is not None
        else "wm-year-kind"
        if winner is not None
        else "wm-year-look"
        if held
        else ""
    )
    if not css and day.weekday() >= 5:
        css = "wm-year-off"
    return YearCell(
        x=x,
        y=y,
        letter=NOTED if noted is not None else "" if shown is None else letters[shown.id],
        css=css + (" is-now" if is_now else ""),
        title=": ".join(words[:2]) + "".join(f"; also {name}" for name in words[2:]),
        is_more=len(held) > 1,
    )


def _letter(place: int) -> str:
    return ascii_lowercase[place] if place < len(ascii_lowercase) else str(place - len(ascii_lowercase) + 1)


def _days_text(count: int) -> str:
    return f"{count} day{'s' * (count != 1)}"
