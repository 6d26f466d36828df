"""Numbers, times and money as a page shows them."""

import re
from datetime import date, datetime
from decimal import Decimal

from warmeter.core.home.document import Home
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import celsius_to, difference_sign, kelvin_to, temperature_sign
from warmeter.core.warmup.lead import Lead

MINUS, THIN = "\u2212", "\u2009"
# A number, or two with "to" or "and" between, in °C or as a difference in K (not K·h, and not a W/K).
_TEMPERATURE = re.compile(rf"([{MINUS}-]?\d+(?:\.\d+)?)(?: (to|and) ([{MINUS}-]?\d+(?:\.\d+)?))? (°C|K)(?![·\w])")
_SIGNS = {"GBP": "£", "EUR": "€", "USD": "$", "JPY": "¥"}
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


def temperature(value_c: float | None, home: Home, decimals: int = 1) -> str:
    """Return a temperature in the home's unit, without the unit."""
    return number(None if value_c is None else celsius_to(value_c, home.temperature_unit), decimals)


def temperature_unit(home: Home) -> str:
    """Return the home's unit of temperature."""
    return temperature_sign(home.temperature_unit)


def difference(value_k: float | None, home: Home, decimals: int = 1) -> str:
    """Return a temperature difference in the home's unit, without the unit."""
    return number(None if value_k is None else kelvin_to(value_k, home.temperature_unit), decimals)


def difference_unit(home: Home) -> str:
    """Return the home's unit of a temperature difference."""
    return difference_sign(home.temperature_unit)


def in_home_unit(sentence: str, home: Home) -> str:
    """Return a sentence of the core, which speaks in °C and K, with its temperatures in the home's unit."""
    if home.temperature_unit == "C":
        return sentence

    def converted(match: re.Match[str]) -> str:
        first, word, second, unit = match.groups()
        shown = []
        for text in (n for n in (first, second) if n):
            value, decimals = float(text.replace(MINUS, "-")), len(text.partition(".")[2])
            celsius = temperature if second else _setting  # a range stays in whole numbers
            shown.append((celsius if unit == "°C" else difference)(value, home, decimals))
        return f"{f' {word} '.join(shown)} {temperature_unit(home)}"

    return _TEMPERATURE.sub(converted, sentence)


def _setting(value_c: float, home: Home, decimals: int) -> str:
    """Return a temperature with a tenth where a whole number would name another setting."""
    value = celsius_to(value_c, home.temperature_unit)
    return temperature(value_c, home, max(decimals, 0 if abs(value - round(value)) < 0.05 else 1))


def degree_hour_unit(home: Home) -> str:
    """Return the unit of degree-hours."""
    return "K·h" if home.temperature_unit == "C" else "°F·h"


def money(value: float | Decimal | None, currency: str, decimals: int = 2, *, is_signed: bool = False) -> str:
    """Return an amount with its currency."""
    if value is None:
        return "–"
    plain = number(float(value), decimals, is_signed=is_signed)
    sign = _SIGNS.get(currency)
    if sign is None:
        return f"{plain}{THIN}{currency}"
    return plain[0] + sign + plain[1:] if plain[0] in (MINUS, "+") else sign + plain


def small_money_unit(currency: str) -> str:
    """Return the unit of a price a kWh."""
    return {"GBP": "p", "EUR": "c", "USD": "c"}.get(currency, currency)


def small_money(value: float, currency: str) -> str:
    """Return a price a kWh in pence or cents where the currency has them."""
    return number(100 * value, 1) if currency in ("GBP", "EUR", "USD") else number(value, 2)


def span(learnt: Estimate, decimals: int) -> str:
    """Return "low to high" of a range."""
    return f"{number(learnt.low, decimals)} to {number(learnt.high, decimals)}"


def clock_time(minute: int) -> str:
    """Return a minute of the day as 06:45; 1440 is 24:00."""
    return f"{minute // 60:02d}:{minute % 60:02d}"


def duration(minutes: float) -> str:
    """Return minutes as "85 min" or "3 h 05 min"."""
    whole = round(minutes)
    return f"{whole} min" if whole < 120 else f"{whole // 60} h {whole % 60:02d} min"


def lead_time(lead: Lead, home: Home) -> str:
    """Return a lead's best estimate, or why there is none: too late, or a heater too small and what it would hold."""
    if lead.best is not None:
        return duration(lead.best)
    if lead.reach_c is None:
        return "too late"
    return f"too small, holds {temperature(lead.reach_c, home)}"


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


def moment(at_ms: int, clock: LocalClock, country: str) -> str:
    """Return an instant on the home's clock, date and time."""
    local = clock.local(at_ms)
    return f"{day_long(local.date(), country)}, {local:%H:%M}"


def clock_now(at_ms: int, clock: LocalClock) -> str:
    """Return an instant's time of day."""
    return f"{clock.local(at_ms):%H:%M}"


def parse_number(text: str) -> float:
    """Return a typed number; decimal comma and point are understood (ValueError else)."""
    plain = text.strip().replace(MINUS, "-").replace(THIN, "").replace(" ", "").replace(",", ".")
    return float(plain)


def parse_clock(text: str) -> int:
    """Return the minute of a typed time such as 6:45 or 06.45 (ValueError else)."""
    plain = text.strip().replace(".", ":")
    if plain in ("24:00", "24"):
        return 1440
    at = datetime.strptime(plain if ":" in plain else plain + ":00", "%H:%M")
    return at.hour * 60 + at.minute
