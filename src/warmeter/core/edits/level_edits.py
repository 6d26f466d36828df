"""Levels added, taken out and put in another order; heating and cooling kept apart."""

from dataclasses import replace

from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Level
from warmeter.core.timetable.pair_gap import HeatCoolPair, PairRule, keep_apart

HEAT_RANGE_C, COOL_RANGE_C, GRID_K = (4.0, 32.0), (16.0, 40.0), 0.5


def apart(home: Home, heating_c: float, cooling_c: float | None, moved: str) -> tuple[float, float | None]:
    """Return heating setpoint and cooling limit kept apart by the home's gap; the side not moved gives way (O4).

    Raises
    ------
    HomeError
        If there is no room for both.
    """
    rule = PairRule(gap_k=home.gap.gap_k, step_k=GRID_K, heat_range_c=HEAT_RANGE_C, cool_range_c=COOL_RANGE_C)
    pair = keep_apart(HeatCoolPair(heating_c, cooling_c), rule, "heat" if moved == "heat" else "cool")
    if pair is None or pair.heat_c is None:
        raise HomeError("there is no room for both limits that far apart; the pair in force stays")
    return pair.heat_c, pair.cool_c


def with_new_level(home: Home, name: str) -> Home:
    """Return a home with another level, beginning with the numbers of the last one."""
    last = home.levels[-1] if home.levels else Level(id="", name="", heating_c=18.0)
    return replace(home, levels=(*home.levels, replace(last, id=new_id(), name=name)))


def without_level(home: Home, level_id: str) -> Home:
    """Return a home without a level.

    Raises
    ------
    HomeError
        If a timetable still uses it, or it is the last one.
    """
    home.level(level_id)
    used = [zone.name for zone in home.zones if any(p.level_id == level_id for p in zone.all_points)]
    if used:
        raise HomeError(f"{home.level(level_id).name} is still in the timetable of {', '.join(used[:4])}")
    if len(home.levels) == 1:
        raise HomeError("a home keeps one level at least")
    zones = tuple(
        replace(
            zone,
            numbers=tuple(n for n in zone.numbers if n.level_id != level_id),
            sensing=tuple(s for s in zone.sensing if s.level_id != level_id),
        )
        for zone in home.zones
    )
    return replace(home, zones=zones, levels=tuple(x for x in home.levels if x.id != level_id))


def level_moved(home: Home, level_id: str, by: int) -> Home:
    """Return a home with a level moved in the list."""
    place = [x.id for x in home.levels].index(home.level(level_id).id)
    levels = list(home.levels)
    levels.insert(min(max(place + by, 0), len(levels) - 1), levels.pop(place))
    return replace(home, levels=tuple(levels))
