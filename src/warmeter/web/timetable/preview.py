"""What a block would do before it is laid: its length, what it costs, what follows it."""

from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.edits.block_commands import LayBlock
from warmeter.core.errors import WarmeterError
from warmeter.core.forecast.day_forecast import totals_of
from warmeter.core.home.document import Home
from warmeter.core.timetable.day import blocks_between
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_MIN, kelvin_to
from warmeter.service.app import App
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.outdoor_forecast import TypedWeather
from warmeter.web import format as show

DAYS = 2  # a block's heat is given back on the day after


@dataclass(frozen=True, slots=True, kw_only=True)
class LaidView:
    """Sentences about a block that is not laid yet."""

    lasts: str
    costs: str
    then: str


def laid_view(app: App, home: Home, revision: int, block: LayBlock, typed: TypedWeather | None) -> LaidView:
    """Return what a block would do over the day in view and the next.

    Raises
    ------
    WarmeterError
        If it cannot be laid.
    """
    changed, clock, on, end = block.edit(home).home, app.clock(home), block.day, block.end
    ends_on = on if end > block.start else on + timedelta(days=1)
    from_ms, until_ms = clock.instant(on, block.start), clock.instant(ends_on, end)
    zone = changed.zone_of_id(block.zone_id)
    later = blocks_between(changed, zone, clock, until_ms, until_ms + MS_PER_DAY)
    following = next((b for b in later if b.from_ms <= until_ms < b.until_ms), None)
    until = show.clock_time(end % MIN_PER_DAY) + ("" if ends_on == on else f" on {ends_on:%a}")
    return LaidView(
        lasts=f"lasts {show.duration((until_ms - from_ms) / MS_PER_MIN)}, until {until}",
        costs=_costs(app, home, changed, revision, on, typed),
        then="" if following is None else f"then {following.level_name} {show.temperature(following.setpoint_c, home)}",
    )


def _costs(app: App, home: Home, changed: Home, revision: int, on: date, typed: TypedWeather | None) -> str:
    """Return the difference in money, electricity and shortfall over two days, "" where it cannot be known."""
    try:
        before, after = (totals_of(day_forecast(app, h, revision, on, typed, DAYS)) for h in (home, changed))
    except WarmeterError:
        return ""
    parts = []
    if before.cost is not None and after.cost is not None:
        parts.append(show.money(after.cost.value - before.cost.value, home.currency, is_signed=True))
    if before.electric_kwh is not None and after.electric_kwh is not None:
        kwh = after.electric_kwh.value - before.electric_kwh.value
        parts.append(f"{show.number(kwh, 1, is_signed=True)} kWh")
    short = kelvin_to(after.underheating_kh.value - before.underheating_kh.value, home.temperature_unit)
    parts.append(f"{show.number(short, 1, is_signed=True)} {show.degree_hour_unit(home)} short")
    return f"over the day and the next: {', '.join(parts)}"
