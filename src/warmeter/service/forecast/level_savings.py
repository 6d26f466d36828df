"""What each level that is meant to save does save."""

from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.edits.home_edits import with_level
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.day_forecast import totals_of
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Level
from warmeter.core.thermal.room_fit import Estimate
from warmeter.service.app import App
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.outdoor_forecast import TypedWeather

WEEK_DAYS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelSaving:
    """What a level saves in the week in view against In use in its place: money or None, electricity [kWh]."""

    level: Level
    cost: Estimate | None
    electric_kwh: Estimate | None


def level_savings(app: App, home: Home, revision: int, first: date, typed: TypedWeather | None) -> list[LevelSaving]:
    """Return what each level meant to save does in a week, by predicting the week with In use's setpoint in its place.

    Raises
    ------
    NotKnowable
        If the week cannot be predicted, or no level is one that others save against.
    """
    in_use = home.in_use
    if in_use is None:
        raise NotKnowable("Every level is meant to save.", "Say of one that it is not: that others save against it.")
    now = totals_of(day_forecast(app, home, revision, first, typed, WEEK_DAYS))
    found = []
    for level in home.levels:
        if not level.is_saving:
            continue
        held = with_level(home, replace(level, heating_c=in_use.heating_c))
        numbers = tuple(
            replace(
                zone, numbers=tuple(replace(n, heating_c=None) if n.level_id == level.id else n for n in zone.numbers)
            )
            for zone in held.zones
        )
        without = totals_of(day_forecast(app, replace(held, zones=numbers), revision, first, typed, WEEK_DAYS))
        found.append(
            LevelSaving(
                level=level,
                cost=_less(without.cost, now.cost),
                electric_kwh=_less(without.electric_kwh, now.electric_kwh),
            )
        )
    return found


def _less(without: Estimate | None, now: Estimate | None) -> Estimate | None:
    if without is None or now is None:
        return None
    ends = sorted((without.low - now.low, without.high - now.high))
    value = without.value - now.value
    return Estimate(value=value, low=min(ends[0], value), high=max(ends[1], value))
