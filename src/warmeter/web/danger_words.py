"""Predicted danger in words, the same on every page that predicts."""

from warmeter.core.units import MS_PER_MIN
from warmeter.service.dangers import dangers_of
from warmeter.service.outlook import DayOutlook
from warmeter.web import format as show


def danger_lines(outlook: DayOutlook) -> list[str]:
    """Return the rooms of a day that fall under their guard limit, in words."""
    home, unit = outlook.home, show.temperature_unit(outlook.home)
    lines = []
    for danger in dangers_of(outlook):
        at_ms = outlook.day.start_ms + danger.minute * MS_PER_MIN
        when = show.moment(at_ms, outlook.clock, home.country)
        often = "" if danger.share >= 0.5 else f", in {100 * danger.share:.0f} of 100 outcomes"
        lines.append(
            f"{danger.room.name} is predicted to fall to {show.temperature(danger.lowest_c, home)} {unit}{often}, under its guard "
            f"limit of {show.temperature(danger.limit_c, home)} {unit}, first on {when}: pipes and "
            "people there are at risk. Its heater is too small, or too much is asked of it."
        )
    return lines
