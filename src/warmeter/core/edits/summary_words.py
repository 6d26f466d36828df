"""Temperatures, times and dates in the sentence of a revision, in the home's own units."""

from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import celsius_to, temperature_sign
from warmeter.core.wording import clock_time, day_short, number


def temperature_text(home: Home, value_c: float) -> str:
    """Return a temperature in the home's unit, with it."""
    return f"{number(celsius_to(value_c, home.temperature_unit), 1)} {temperature_sign(home.temperature_unit)}"


def moment_text(home: Home, at_ms: int) -> str:
    """Return an instant [ms UTC] as date and time of the home's clock."""
    local = LocalClock(home.time_zone).local(at_ms)
    return f"{day_short(local.date(), home.country)} {clock_time(local.hour * 60 + local.minute)}"
