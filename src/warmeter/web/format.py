"""Numbers, times and money as a page shows them."""

from decimal import Decimal

from warmeter.core.errors import OutOfRange, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.sentence import Measure, in_unit, sentence
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import (
    M_PER_KM,
    M_PER_MI,
    Units,
    btu_h,
    celsius_to,
    difference_sign,
    feet_and_inches,
    kelvin_to,
    temperature_sign,
)
from warmeter.core.warmup.lead import Lead
from warmeter.core.wording import MINUS, THIN, clock_time, day_long, day_short, number, shortened

__all__ = ["MINUS", "THIN", "clock_time", "day_long", "day_short", "number", "shortened"]

_SIGNS = {"GBP": "£", "EUR": "€", "USD": "$", "JPY": "¥"}


def temperature(value_c: float | None, home: Home, decimals: int = 1) -> str:
    """Return a temperature in the home's unit, without the unit."""
    return number(None if value_c is None else celsius_to(value_c, home.temperature_unit), decimals)


def temperature_unit(home: Home) -> str:
    """Return the home's unit of temperature."""
    return temperature_sign(home.temperature_unit)


def difference(value_k: float | None, home: Home, decimals: int = 1, *, is_signed: bool = False) -> str:
    """Return a temperature difference in the home's unit, without the unit."""
    return number(None if value_k is None else kelvin_to(value_k, home.temperature_unit), decimals, is_signed=is_signed)


def difference_unit(home: Home) -> str:
    """Return the home's unit of a temperature difference."""
    return difference_sign(home.temperature_unit)


def error_words(error: WarmeterError, units: Units) -> str:
    """Return what an error says, temperatures and lengths in a home's units."""
    if isinstance(error, OutOfRange):
        low, high, value = (Measure(number, error.unit) for number in (error.low, error.high, error.value))
        return sentence("{} must be between {} and {} (got {})", error.name, low, high, value).in_unit(units)
    return in_unit(error.args[0], units)


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


def currency_sign(currency: str) -> str:
    """Return a currency as it stands before a number: its sign, or its letters."""
    return _SIGNS.get(currency, currency)


def small_money_unit(currency: str) -> str:
    """Return the unit of a price a kWh."""
    return {"GBP": "p", "EUR": "c", "USD": "c"}.get(currency, currency)


def small_money(value: float, currency: str, decimals: int = 1) -> str:
    """Return a price a kWh in pence or cents where the currency has them."""
    return number(100 * value, decimals) if currency in ("GBP", "EUR", "USD") else number(value, decimals + 1)


def span(learnt: Estimate, decimals: int) -> str:
    """Return "low to high" of a range."""
    return f"{number(learnt.low, decimals)} to {number(learnt.high, decimals)}"


def duration(minutes: float) -> str:
    """Return minutes as "85 min" or "3 h 05 min"."""
    whole = round(minutes)
    return f"{whole} min" if whole < 120 else f"{whole // 60} h {whole % 60:02d} min"


def lead_span(low: str, high: str | None) -> str:
    """Return a lead time's range of ready texts; without an upper end it may not be reached in time."""
    return f"{low}, or not reached in time" if high is None else f"{low} to {high}"


def lead_time(lead: Lead, home: Home) -> str:
    """Return a lead's best estimate, or why there is none: not reached in time, or a heater too small and what it would hold."""
    if lead.best is not None:
        return duration(lead.best)
    if lead.reach_c is None:
        return "not reached in time"
    return f"too small, holds {temperature(lead.reach_c, home)}"


def moment(at_ms: int, clock: LocalClock, country: str) -> str:
    """Return an instant on the home's clock, date and time."""
    local = clock.local(at_ms)
    return f"{day_long(local.date(), country)}, {local:%H:%M}"


def clock_now(at_ms: int, clock: LocalClock) -> str:
    """Return an instant's time of day."""
    return f"{clock.local(at_ms):%H:%M}"


def length(value_m: float | None, home: Home, decimals: int = 2) -> str:
    """Return a length in the home's unit with its sign."""
    if value_m is None:
        return number(None)
    return feet_and_inches(value_m, is_rounded=True) if home.length_unit == "ft" else f"{number(value_m, decimals)} m"


def way_length(value_m: float, home: Home) -> str:
    """Return how far away something is with its unit: metres and kilometres, or miles."""
    if home.length_unit == "ft":
        return f"{number(value_m / M_PER_MI, 1)} mi"
    return f"{value_m:.0f} m" if value_m < M_PER_KM else f"{value_m / M_PER_KM:g} km"


def way_number(value_m: float, home: Home) -> str:
    """Return how far away something is in kilometres or miles, without the unit."""
    return number(value_m / M_PER_MI, 1) if home.length_unit == "ft" else f"{value_m / M_PER_KM:g}"


def volume(value_l: float | None, home: Home, decimals: int = 0) -> str:
    """Return a volume of water in the home's unit with its sign."""
    return Measure(value_l, "L", decimals).text(home.units)


def heat(watts: float, home: Home) -> str:
    """Return a heat flow in W, in a home that counts in feet with BTU/h beside it."""
    beside = f" ({number(btu_h(watts))} BTU/h)" if home.length_unit == "ft" else ""
    return f"{number(watts)} W{beside}"


def area(value_m2: float | None, home: Home, decimals: int = 1) -> str:
    """Return an area in the home's unit with its sign."""
    return Measure(value_m2, "m²", decimals).text(home.units)
