"""Prices of a market from files: JSON or CSV, by instant or by days of 23, 24 or 25 hours, on the market's clock."""

import csv
import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from itertools import pairwise
from typing import Any

import numpy as np

from warmeter.core.errors import ReadingError, TimeError
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.units import MS_PER_MIN

STEPS_MIN = (60, 30, 15)
MOST_PRICES = 400_000
HIGHEST = Decimal(100)
FEWEST_OF_DAY, LOOKED_AT = 23, 2000
MIXED_SHARE = 0.5  # so many gaps are no holes any more
TIMES = ("start", "time", "from", "begin", "timestamp", "datetime", "hour", "date", "valid_from", "starts_at")
VALUES = ("price", "value", "spot", "amount", "rate", "total")
_FACTORS = {"kwh": Decimal(1), "mwh": Decimal("0.001")}
_SMALL = {"p": Decimal("0.01"), "pence": Decimal("0.01"), "c": Decimal("0.01"), "ct": Decimal("0.01")}
_SIGNS = {"£": "GBP", "€": "EUR", "$": "USD"}


@dataclass(frozen=True, slots=True)
class _Unit:
    """What a number is: times ``factor`` it is a price a kWh, in a currency if the file names one."""

    factor: Decimal = Decimal(1)
    currency: str = ""


@dataclass(frozen=True, slots=True)
class _Priced:
    """A price with the instant from which it holds [ms UTC] and its place in the file."""

    at_ms: int
    price: Decimal
    place: str


def read_prices(text: str, clock: LocalClock, currency: str) -> MarketPrices:
    """Return the prices of a file.

    Parameters
    ----------
    clock : LocalClock
        The market's: days and times without an offset are on it.
    currency : str
        What the tariff is in; a file that names another one is refused.

    Raises
    ------
    ReadingError
        With the place: no table of prices, another currency, a day with a count of prices that its hours do not have,
        times that repeat, or prices that no kWh costs.
    """
    begin = text.lstrip("\ufeff \t\r\n")
    rows = list(_from_json(begin, clock) if begin[:1] in ("[", "{") else _from_csv(begin, clock))
    if not rows:
        raise ReadingError("this file holds no price with its time; each line needs both")
    if len(rows) > MOST_PRICES:
        raise ReadingError(f"more than {MOST_PRICES} prices; cut the file into years")
    unit = _unit_in(begin)
    if unit.currency and unit.currency != currency:
        raise ReadingError(f"these prices are in {unit.currency}, the tariff is in {currency}")
    rows.sort(key=lambda row: row.at_ms)
    for before, after in pairwise(rows):
        if before.at_ms == after.at_ms and before.price != after.price:
            raise ReadingError(f"{after.place}: the same time has two prices, {before.price} and {after.price}")
    at, place = np.unique(np.array([row.at_ms for row in rows], dtype=np.int64), return_index=True)
    prices = [rows[k].price * unit.factor for k in place.tolist()]
    odd = next((k for k, price in enumerate(prices) if abs(price) > HIGHEST), None)
    if odd is not None:
        raise ReadingError(
            f"{rows[odd].place}: {rows[odd].price} is no price of a kWh; if it is of a MWh, write the unit into the heading"
        )
    gaps = np.diff(at) if at.size > 1 else np.array([STEPS_MIN[0] * MS_PER_MIN])
    step = int(gaps.min())
    if (gaps > step).mean() > MIXED_SHARE:
        raise ReadingError("prices of different lengths stand in one file; cut it where they change")
    if step // MS_PER_MIN not in STEPS_MIN:
        raise ReadingError(f"prices hold for 15, 30 or 60 minutes; these stand {step // MS_PER_MIN} min apart")
    return MarketPrices(start_ms=at, step_ms=step, price=np.array([float(price) for price in prices]))


def _unit_in(text: str) -> _Unit:
    """Return the unit that a file's first lines name; prices a kWh in the tariff's currency where they name none."""
    begin = "".join(sign if sign.isalpha() or sign in "/£€$" else " " for sign in text[:LOOKED_AT].replace(" /", "/"))
    for word in begin.replace("/ ", "/").split():
        money, slash, energy = word.partition("/")
        if slash and money and energy.lower() in _FACTORS:
            factor = _FACTORS[energy.lower()]
            if money.lower() in _SMALL:
                return _Unit(_SMALL[money.lower()] * factor)
            return _Unit(factor, _SIGNS.get(money, money.upper() if len(money) == 3 else ""))
    return _Unit()


def _number(value: Any, place: str) -> Decimal:
    try:
        number = Decimal(str(value).strip().replace(",", "."))
        if number.is_finite():
            return number
    except InvalidOperation:
        pass
    raise ReadingError(f"{place}: {str(value)[:30]!r} is no price")


def _instant(text: str, clock: LocalClock, place: str, after_ms: int | None) -> int:
    """Return the instant of a text; of a time that comes twice the second where the first was before it in the file."""
    written = text.strip().replace("Z", "+00:00")
    try:
        return parse_utc(written)
    except TimeError:
        pass
    try:
        wall = datetime.fromisoformat(written)
    except ValueError as error:
        raise ReadingError(
            f"{place}: {text[:30]!r} is no time; write it as 2026-03-29T13:00 or with an offset"
        ) from error
    instants = clock.instants_of(wall)
    if not instants:
        raise ReadingError(f"{place}: {text.strip()} does not exist on the clock of {clock.zone}")
    return next((at for at in instants if after_ms is None or at > after_ms), instants[-1])


def _of_day(on: date, values: list[Any], clock: LocalClock, place: str) -> Iterator[_Priced]:
    day = clock.day(on)
    minutes = (day.end_ms - day.start_ms) // MS_PER_MIN
    step = next((step for step in STEPS_MIN if len(values) * step == minutes), None)
    if step is None:
        raise ReadingError(
            f"{place}: {on} has {len(values)} prices, but {minutes / 60:g} hours on the clock of {clock.zone}"
            + ("; its clock changes on that day" if minutes != 24 * 60 else "")
        )
    for k, value in enumerate(values):
        yield _Priced(day.start_ms + k * step * MS_PER_MIN, _number(value, place), place)


def _from_json(text: str, clock: LocalClock) -> Iterator[_Priced]:
    try:
        content = json.loads(text, parse_float=Decimal)
    except json.JSONDecodeError as error:
        raise ReadingError(f"line {error.lineno}: this JSON cannot be read ({error.msg})") from error
    yield from _of_value(content, clock, "prices")


def _of_value(content: Any, clock: LocalClock, place: str) -> Iterator[_Priced]:
    if isinstance(content, list):
        after: int | None = None
        for k, each in enumerate(content, 1):
            for row in _of_entry(each, clock, f"entry {k}", after):
                after = row.at_ms
                yield row
    elif isinstance(content, dict):
        yield from _of_entry(content, clock, place, None)
    else:
        raise ReadingError(f"{place}: prices are a list, or days with a list each")


def _of_entry(entry: Any, clock: LocalClock, place: str, after_ms: int | None) -> Iterator[_Priced]:
    if not isinstance(entry, Mapping):
        raise ReadingError(f"{place}: each entry has a time and a price, or a date and its prices")
    keys = {str(key).lower(): value for key, value in entry.items()}
    time = next((keys[name] for name in TIMES if name in keys), None)
    lists = [value for value in keys.values() if isinstance(value, list)]
    if time is not None and lists and all(not isinstance(value, dict) for value in lists[0]):
        yield from _of_day(_date(str(time), place), lists[0], clock, place)
    elif time is not None:
        value = next((keys[name] for name in VALUES if name in keys), None)
        if value is None:
            raise ReadingError(f"{place}: it has no price; name it price or value")
        yield _Priced(_instant(str(time), clock, place, after_ms), _number(value, place), place)
    elif lists or all(isinstance(value, Mapping) for value in keys.values()):
        for name, value in keys.items():
            if isinstance(value, list) and _is_date(name):
                yield from _of_day(date.fromisoformat(name), value, clock, name)
            elif isinstance(value, list | Mapping):
                yield from _of_value(value, clock, name)


def _is_date(text: str) -> bool:
    try:
        date.fromisoformat(text.strip())
    except ValueError:
        return False
    return True


def _date(text: str, place: str) -> date:
    if not _is_date(text):
        raise ReadingError(f"{place}: {text[:30]!r} is no date such as 2026-03-29")
    return date.fromisoformat(text.strip())


def _is_price(heading: str) -> bool:
    return "/kwh" in heading or "/mwh" in heading or any(word in heading for word in VALUES)


def _from_csv(text: str, clock: LocalClock) -> Iterator[_Priced]:
    lines = text.splitlines()
    delimiter = next((sign for sign in (";", "\t") if any(sign in line for line in lines[:20])), ",")
    rows = [(k, [c.strip() for c in row]) for k, row in enumerate(csv.reader(lines, delimiter=delimiter), 1) if row]
    column, after = 1, None
    for line, cells in rows:
        place = f"line {line}"
        values = [cell for cell in cells[1:] if cell]
        if _is_date(cells[0]) and len(values) >= FEWEST_OF_DAY:
            yield from _of_day(date.fromisoformat(cells[0]), values, clock, place)
            continue
        if not cells[0][:1].isdigit():
            column = next((k for k, name in enumerate(cells) if k and _is_price(name.lower())), 1)
            continue
        if _is_date(cells[0]) and len(cells) > FEWEST_OF_DAY - 4:
            yield from _of_day(date.fromisoformat(cells[0]), values, clock, place)
            continue
        if column >= len(cells) or not cells[column]:
            continue  # no price yet: the hole shows where it matters
        after = _instant(cells[0], clock, place, after)
        yield _Priced(after, _number(cells[column], place), place)
