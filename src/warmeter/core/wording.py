"""Numbers, times of day and dates as people write them."""

import re
from datetime import date

from warmeter.core.units import TemperatureUnit, celsius_to, kelvin_to, temperature_sign

MINUS, THIN = "\u2212", "\u2009"
# A number, or two with "to" or "and" between, in °C or as a difference in K (not K·h, and not a W/K).
_TEMPERATURE = re.compile(rf"([{MINUS}-]?\d+(?:\.\d+)?)(?: (to|and) ([{MINUS}-]?\d+(?:\.\d+)?))? (°C|K)(?![·\w])")
# Countries that write month before day, and year before month.
_MONTH_FIRST, _YEAR_FIRST = {"US"}, {"CA", "CN", "HU", "JP", "KR", "LT", "SE", "TW"}


def number(value: float | None, decimals: int = 0, *, is_signed: bool = False) -> str:
    """Return a number with a real minus and thin spaces between thousands; a dash for None."""
    if value is None:
        return "–"
    text = f"{abs(value):,.{decimals}f}".replace(",", THIN)
    if float(text.replace(THIN, "")) == 0:
        return text
    return (MINUS if value < 0 else ("+" if is_signed else "")) + text


def clock_time(minute: int) -> str:
    """Return a minute of the day as 06:45; 1440 is 24:00."""
    return f"{minute // 60:02d}:{minute % 60:02d}"


def day_long(on: date, country: str) -> str:
    """Return a date as the country writes it, with weekday and month in words."""
    if country in _MONTH_FIRST:
        return f"{on:%a} {on:%b} {on.day}, {on.year}"
    if country in _YEAR_FIRST:
        return f"{on:%a} {on.year} {on:%b} {on.day}"
    return f"{on:%a} {on.day} {on:%b} {on.year}"


def day_short(on: date, country: str) -> str:
    """Return a date in figures as the country writes it."""
    if country in _MONTH_FIRST:
        return f"{on:%m/%d}"
    return f"{on:%m-%d}" if country in _YEAR_FIRST else f"{on:%d/%m}"


def in_unit(sentence: str, unit: TemperatureUnit) -> str:
    """Return a sentence in °C and K with its temperatures in another unit."""
    if unit == "C":
        return sentence

    def converted(match: re.Match[str]) -> str:
        first, word, second, sign = match.groups()
        shown = []
        for text in (n for n in (first, second) if n):
            typed, decimals = float(text.replace(MINUS, "-")), len(text.partition(".")[2])
            value = celsius_to(typed, unit) if sign == "°C" else kelvin_to(typed, unit)
            if sign == "°C" and not second and abs(value - round(value)) >= 0.05:
                decimals = max(decimals, 1)  # a whole number would name another setting
            shown.append(number(value, decimals))
        return f"{f' {word} '.join(shown)} {temperature_sign(unit)}"

    return _TEMPERATURE.sub(converted, sentence)
