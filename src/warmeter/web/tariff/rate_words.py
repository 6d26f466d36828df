"""When a rate holds, in words, and what a person types of it."""

from collections.abc import Sequence
from datetime import date

from warmeter.core.home.tariffs import RATE_DAYS, WEEKEND, WORKDAYS, PricePart, RateDay, RateHours
from warmeter.web import format as show

MONTH_WORDS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
MONTH_ENDS = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
DAY_WORDS: dict[RateDay, str] = {
    "mon": "Mon",
    "tue": "Tue",
    "wed": "Wed",
    "thu": "Thu",
    "fri": "Fri",
    "sat": "Sat",
    "sun": "Sun",
    "holiday": "holidays",
}
PART_WORDS: dict[PricePart, str] = {"energy": "energy", "network": "network", "levy": "levy", "export": "sold"}


def days_words(days: Sequence[RateDay]) -> str:
    """Return kinds of day in words."""
    inside = set(days)
    if inside == set(RATE_DAYS):
        return "every day"
    if inside == {*WEEKEND, "holiday"}:
        return "days off"
    words = []
    if set(WORKDAYS) <= inside:
        words.append("workdays")
        inside -= set(WORKDAYS)
    if set(WEEKEND) <= inside:
        words.append("weekends")
        inside -= set(WEEKEND)
    return ", ".join((*words, *(DAY_WORDS[day] for day in RATE_DAYS if day in inside)))


def seasons_words(spans: Sequence[tuple[int, int]]) -> str:
    """Return stretches of the year (100 times the month, plus the day) in words; "all year" for the whole."""
    if not spans or spans[0] == (101, 1231):
        return "all year"
    return ", ".join(_span_words(first, last) for first, last in spans)


def _span_words(first: int, last: int) -> str:
    begins, ends = first % 100 == 1, last % 100 >= MONTH_ENDS[last // 100 - 1] - (last // 100 == 2)
    if begins and ends:
        names = MONTH_WORDS[first // 100 - 1], MONTH_WORDS[last // 100 - 1]
        return names[0] if names[0] == names[1] else f"{names[0]} to {names[1]}"
    return f"{_day_words(first)} to {_day_words(last)}"


def _day_words(number: int) -> str:
    return f"{number % 100} {MONTH_WORDS[number // 100 - 1]}"


def season_text(hours: RateHours) -> str:
    """Return the seasons of hours as a form has them, "" for the whole year."""
    return ", ".join(
        f"{_day_words(_number(span.from_day))} to {_day_words(_number(span.to_day))}" for span in hours.seasons
    )


def _number(text: str) -> int:
    return int(text.replace("-", ""))


def hours_words(hours: RateHours) -> str:
    """Return the hours of a day in words."""
    if (hours.from_min, hours.to_min) == (0, 1440):
        return "all day"
    return f"{show.clock_time(hours.from_min)} to {show.clock_time(hours.to_min)}"


def dates_words(first: date | None, last: date | None, country: str) -> str:
    """Return between which dates something holds; "" for ever."""
    if first is None and last is None:
        return ""
    if first is None:
        return f"to {show.day_long(last, country)}" if last else ""
    return f"from {show.day_long(first, country)}" + (f" to {show.day_long(last, country)}" if last else "")
