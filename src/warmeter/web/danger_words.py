"""Predicted danger in words, the same on every page that predicts."""

from warmeter.core.forecast.day_forecast import DayForecast
from warmeter.core.home.document import Home
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.dangers import TooSmall
from warmeter.web import format as show


def too_small_of(forecast: DayForecast) -> list[str]:
    """Return in words which heaters are too small for a day."""
    return [
        too_small_line(forecast.home, room.room.name, room.too_small)
        for room in forecast.rooms
        if room.too_small is not None
    ]


def dangers_of(forecast: DayForecast) -> list[str]:
    """Return in words which rooms of a day fall under their guard limit."""
    home, unit = forecast.home, show.temperature_unit(forecast.home)
    lines = []
    for room in forecast.rooms:
        under = room.under
        if under is None:
            continue
        at_ms = forecast.day.start_ms + (under.minute - room.begin) * MS_PER_MIN
        when = show.moment(at_ms, forecast.clock, home.country)
        lines.append(
            f"{room.room.name} is predicted to fall to {show.temperature(under.lowest_c, home)} {unit}{_often(under.share)}, "
            f"under its protection limit of {show.temperature(under.limit_c, home)} {unit}, first on {when}: pipes and people there "
            "are at risk. Its heater is too small, or too much is asked of it."
        )
    return lines


def too_small_line(home: Home, name: str, small: TooSmall) -> str:
    """Return that a room's heater cannot hold what is asked of it."""
    unit = show.temperature_unit(home)
    return (
        f"{name}: its heater is too small for {show.temperature(small.wanted_c, home)} {unit} at "
        f"{show.temperature(small.outdoor_c, home)} {unit} outdoors{_often(small.share)}. At full heat for ever it would hold "
        f"{show.temperature(small.reach_c, home)} {unit}: starting earlier does not help."
    )


def _often(share: float) -> str:
    """Return how often, where it is not sure."""
    return "" if share >= 0.5 else f" in {100 * share:.0f} of 100 outcomes"
