"""Checks of levels and timetables: levels that save nothing, days written for nobody."""

from collections.abc import Iterator
from datetime import date

from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import WEEKDAYS
from warmeter.core.home.zones import Level
from warmeter.core.sentence import celsius, kelvin, sentence
from warmeter.core.timetable.pair_gap import HeatCoolPair, saves

RULES = {
    "saves nothing": "A level meant to save asks less for heating than the first level that is not, and cools later.",
    "day for nobody": "A written day is for a weekday, a kind of day that is there, or a date.",
}


def level_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about levels and written days."""
    in_use = home.in_use
    for level in home.levels:
        if in_use is not None and level.is_saving:
            yield from _saves_nothing(level, in_use)
    kinds = {kind.id for kind in home.day_kinds}
    for zone in home.zones:
        for timetable in zone.timetables:
            for profile in timetable.days:
                if profile.of not in WEEKDAYS and profile.of not in kinds and not _is_date(profile.of):
                    yield Finding(
                        kind="day for nobody",
                        severity="note",
                        place=zone.id,
                        sentence=f"In {timetable.name} of {zone.name} a day is written for {profile.of!r}, which is no day.",
                        fix="Remove this day.",
                        about=(zone.id, timetable.id, profile.of),
                    )


def _is_date(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def _saves_nothing(level: Level, in_use: Level) -> Iterator[Finding]:
    """Yield a finding where a level meant to save is no wider than In use, in winter or in summer (O4)."""
    heat, cool = saves(HeatCoolPair(level.heating_c, level.cooling_c), HeatCoolPair(in_use.heating_c, in_use.cooling_c))
    seasons = [(heat, "heating"), (cool, "cooling")]
    for is_wider, season in seasons:
        if is_wider is not False:
            continue
        asks = (
            sentence("asks {} for heating, no less than the {}", celsius(level.heating_c), celsius(in_use.heating_c))
            if season == "heating"
            else sentence(
                "lets cooling begin at {}, no later than the {}", celsius(level.cooling_c), celsius(in_use.cooling_c)
            )
        )
        yield Finding(
            kind="saves nothing",
            severity="warning",
            place=level.id,
            sentence=sentence("{} is meant to save but {} of {}.", level.name, asks, in_use.name),
            fix=sentence("Widen it by {}, or say that it is not meant to save.", kelvin(2)),
            about=(level.id, season),
        )
