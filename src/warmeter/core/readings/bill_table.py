"""Bills and readings of periods: months, or lines with a beginning and an end, made a table of counter readings.

Months are no even steps, so the energy of a period is told as a counter that has gone on by it from the period's
beginning to its end. Where periods do not meet, or a cell is empty, the counter steps back: nothing is known of that
time.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal, InvalidOperation
from itertools import pairwise

from warmeter.core.csv_cells import csv_text
from warmeter.core.errors import ReadingError
from warmeter.core.readings.column_words import heading_words, said_by
from warmeter.core.readings.csvlog import cells, date_forms_of, delimiter_of, month_number, wall_time
from warmeter.core.units import is_energy

LOOKED_AT = 40
MOST_LINES = 5_000
SHORTEST = timedelta(hours=20)
SHORTEST_BILL, LONGEST_BILL = timedelta(days=20), timedelta(days=100)
FEWEST_BEGINNINGS = 2
_PLAIN = ("value", "amount", "usage", "")
COUNTED_FROM = Decimal(1000)  # room to step back
_MONTH = re.compile(
    r"(?P<name>[a-z]{3,9})\.?[ -](?P<y>\d{4})|(?P<y2>\d{4})[ -](?P<name2>[a-z]{3,9})\.?"
    r"|(?P<y3>\d{4})[-/.](?P<m3>\d{1,2})|(?P<m4>\d{1,2})[-/.](?P<y4>\d{4})"
)
_BEGINS = re.compile(r"\b(from|start\w*|begin\w*)\b", re.IGNORECASE)
_ENDS = re.compile(r"\b(to|until|end\w*)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class _Period:
    """A period [begin, end) with the cells of its line, its times left out; the times as they are written anew."""

    begin: datetime
    end: datetime
    row: list[str]
    begin_text: str = ""
    end_text: str = ""

    @property
    def written(self) -> tuple[str, str]:
        """Its beginning and its end as texts: as they stood, if they carry more than a date and time."""
        return (self.begin_text or f"{self.begin:%Y-%m-%d %H:%M}", self.end_text or f"{self.end:%Y-%m-%d %H:%M}")


@dataclass(frozen=True, slots=True)
class _Bill:
    """The periods of a file in their order, with the headings of their cells and the sign that parts these."""

    periods: list[_Period]
    headings: list[str]
    delimiter: str


def looks_like_bill(lines: Sequence[str]) -> bool:
    """Return whether a file begins with periods: months, or lines with the dates on which they begin and end."""
    try:
        return _bill_of(lines[:LOOKED_AT]) is not None
    except ReadingError:
        return True


def table_of_bill(text: str) -> str:
    """Return the periods of a file as a CSV table with a counter's readings at their ends.

    Raises
    ------
    ReadingError
        If it is too long, its dates can be read in two ways, or its periods overlap.
    """
    lines = text.splitlines()
    if len(lines) > MOST_LINES:
        raise ReadingError(f"a bill of over {MOST_LINES} lines cannot be imported; cut it into years")
    bill = _bill_of(lines)
    if bill is None:
        raise ReadingError("no line of this file is a month, or has the dates on which it begins and ends")
    for before, after in pairwise(bill.periods):
        if after.begin < before.end:
            raise ReadingError(f"the period from {after.begin:%d %b %Y} begins before the one before it has ended")
    energies = [k for k, name in enumerate(bill.headings) if _is_energy(name)]
    if not energies:
        raise ReadingError("no column of this bill is an energy; name one by its unit, such as Used kWh")
    others = [k for k in range(len(bill.headings)) if k not in energies]
    head = ["time", *(f"Counted {bill.headings[k]}" for k in energies), *(bill.headings[k] for k in others)]
    return csv_text([head, *_rows(bill, energies, others)])


def _rows(bill: _Bill, energies: Sequence[int], others: Sequence[int]) -> list[list[str]]:
    """Return a row at each beginning and end of a period; what is no energy stands at the beginning."""
    counted = dict.fromkeys(energies, COUNTED_FROM)
    rows: list[list[str]] = []
    for period in bill.periods:
        (begin, end), told = period.written, [_cell(period, k) for k in others]
        if rows and rows[-1][0] == begin:
            rows[-1][1 + len(energies) :] = told
        else:
            if rows:
                counted = {k: value - 1 for k, value in counted.items()}
            rows.append([begin, *(str(counted[k]) for k in energies), *told])
        for k in energies:
            amount = _amount(_cell(period, k), bill.delimiter)
            counted[k] += amount if amount is not None else -1
        rows.append([end, *(str(counted[k]) for k in energies), *("" for _ in others)])
    return rows


def _cell(period: _Period, k: int) -> str:
    return period.row[k] if k < len(period.row) else ""


def _amount(text: str, delimiter: str) -> Decimal | None:
    """Return an energy; where commas part cells a comma in one parts thousands, else it parts decimals."""
    plain = text.replace(",", "" if delimiter == "," or "." in text else ".")
    try:
        found = Decimal(plain)
    except InvalidOperation:
        return None
    return found if found.is_finite() and found >= 0 else None


def _is_energy(heading: str) -> bool:
    words = heading_words(heading)
    named = {"import", "export", "heat", "electric"} & set(said_by(words.words).measures)
    return is_energy(words.unit) or bool(named and not words.unit and not words.foreign_unit)


def _bill_of(lines: Sequence[str]) -> _Bill | None:
    """Return the periods of lines, None where they are none."""
    delimiter = delimiter_of(lines)
    rows: list[list[str]] = []
    for line in lines:
        try:
            rows.append(cells(line, delimiter))
        except ReadingError:
            continue
    return _of_months(rows, delimiter) or _of_dates(rows, delimiter) or _of_beginnings(rows, delimiter)


def _of_months(rows: Sequence[list[str]], delimiter: str) -> _Bill | None:
    found = [(row, month) for row in rows if len(row) > 1 and (month := _month(row[0])) is not None]
    if not found:
        return None
    head = next((row for row in reversed(rows[: rows.index(found[0][0])]) if len(row) > 1), [])
    periods = sorted((_Period(begin, _next_month(begin), row[1:]) for row, begin in found), key=lambda p: p.begin)
    return _Bill(periods, _headings(head[1:], periods), delimiter)


def _month(text: str) -> datetime | None:
    match = _MONTH.fullmatch(text.strip().lower())
    if match is None:
        return None
    name, year = match["name"] or match["name2"], match["y"] or match["y2"] or match["y3"] or match["y4"]
    number = month_number(name) if name is not None else int(match["m3"] or match["m4"])
    return datetime(int(year), number, 1) if 1 <= number <= 12 and 1900 <= int(year) < 2200 else None


def _next_month(begin: datetime) -> datetime:
    return (begin + timedelta(days=31)).replace(day=1)


def _of_dates(rows: Sequence[list[str]], delimiter: str) -> _Bill | None:
    """Return periods of lines with a beginning and an end, by their headings."""
    places = [(k, ends) for k, row in enumerate(rows) if (ends := _ends_of(row)) is not None]
    if not places:
        return None
    place, (begin, end) = places[0]
    body = [row for row in rows[place + 1 :] if len(row) > max(begin, end)]
    forms = date_forms_of([row[k] for row in body for k in (begin, end)])
    read = [_periods_in(form, body, begin, end) for form in forms]
    kept = [periods for periods in read if periods]
    if not kept:
        return None
    if len(kept) > 1:
        raise ReadingError("the dates of these periods can be read day first or month first; write them as 2026-02-01")
    head = [name for k, name in enumerate(rows[place]) if k not in (begin, end)]
    return _Bill(kept[0], _headings(head, kept[0]), delimiter)


def _ends_of(row: Sequence[str]) -> tuple[int, int] | None:
    begins = [k for k, cell in enumerate(row) if _BEGINS.search(cell.replace("_", " "))]
    ends = [k for k, cell in enumerate(row) if _ENDS.search(cell.replace("_", " ")) and k not in begins]
    return (begins[0], ends[0]) if len(begins) == 1 and len(ends) == 1 else None


def _periods_in(form: str, body: Sequence[list[str]], begin: int, end: int) -> list[_Period]:
    """Return periods with their dates in a form; none where a line's is none, ends before it begins, or is short."""
    found = []
    for row in body:
        first, last = wall_time(row[begin], form), wall_time(row[end], form)
        if first is None or last is None or last - first < SHORTEST:
            return []
        found.append(_Period(first, last, [cell for k, cell in enumerate(row) if k not in (begin, end)]))
    found.sort(key=lambda p: p.begin)
    one_day = timedelta(days=1)
    # The last day is named where the next period begins on the day after, or where it ends a month.
    names_last = all(a.end + one_day == b.begin for a, b in pairwise(found)) and all(
        len(found) > 1 or (p.end + one_day).day == 1 for p in found
    )
    return [_Period(p.begin, p.end + one_day, p.row) for p in found] if names_last else found


def _of_beginnings(rows: Sequence[list[str]], delimiter: str) -> _Bill | None:
    """Return periods of some weeks of which only the beginnings stand, each until the next; a counter's are none."""
    forms = date_forms_of([row[0] for row in rows if row])
    if len(forms) != 1 or forms[0] == "epoch":
        return None
    body = [(wall, row) for row in rows if len(row) > 1 and (wall := wall_time(row[0], forms[0])) is not None]
    lengths = sorted(b - a for (a, _), (b, _) in pairwise(body))
    if len(lengths) < FEWEST_BEGINNINGS or not SHORTEST_BILL <= lengths[len(lengths) // 2] <= LONGEST_BILL:
        return None
    if lengths[0] <= timedelta(0) or _only_rises([row[1] for _, row in body], delimiter):
        return None
    periods = [_Period(a, b, row[1:], row[0], following[0]) for (a, row), (b, following) in pairwise(body)]
    last, row = body[-1]
    if any(row[1:]) and last.day == 1:
        # Of the last line nothing says where it ends, but a month that begins on the first.
        periods.append(_Period(last, _next_month(last), row[1:], row[0]))
    head = next((r for r in rows if len(r) > 1 and wall_time(r[0], forms[0]) is None), [])
    return _Bill(
        periods, [f"{name} energy" if name in _PLAIN else name for name in _headings(head[1:], periods)], delimiter
    )


def _only_rises(cells_: Sequence[str], delimiter: str) -> bool:
    amounts = [amount for text in cells_ if (amount := _amount(text, delimiter)) is not None]
    return all(a <= b for a, b in pairwise(amounts))


def _headings(head: Sequence[str], periods: Sequence[_Period]) -> list[str]:
    width = max(len(p.row) for p in periods)
    return [head[k] if k < len(head) else f"column {k + 1}" for k in range(width)]
