"""Levels as a table: the home's numbers, a zone's own, which sensors count, and the guard limits below all."""

from dataclasses import dataclass
from typing import get_args

from warmeter.core.building.checks.zoning import can_cool
from warmeter.core.building.damp import DampLimit
from warmeter.core.home.document import Home
from warmeter.core.home.presets import COUNT_RULE_LABEL
from warmeter.core.home.timetables import Fan
from warmeter.core.home.zones import Level, Zone
from warmeter.service.forecast.level_savings import LevelSaving
from warmeter.web import format as show


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelRow:
    """A level with the home's numbers and those of the zone in view; "" leaves the home's."""

    id: str
    name: str
    heating: str
    cooling: str
    fan: str
    is_saving: bool
    is_used: bool
    own_heating: str
    own_cooling: str
    own_fan: str
    sensors: str


@dataclass(frozen=True, slots=True)
class GuardRow:
    """A guard limit: name, value, why, and the key of its working, if it was worked out."""

    name: str
    value: str
    reason: str
    key: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelsView:
    """The pane of levels."""

    rows: list[LevelRow]
    zones: list[tuple[str, str, bool]]
    zone: Zone
    cools: bool
    zone_cools: bool
    fans: tuple[str, ...]
    unit: str
    gap_reason: str
    guards: list[GuardRow]
    findings: list[str]


def levels_view(home: Home, zone: Zone, guards: list[GuardRow], findings: list[str]) -> LevelsView:
    """Return the pane for a home with one zone's own numbers."""
    used = {p.level_id for z in home.zones for p in z.all_points}
    return LevelsView(
        rows=[_row(home, zone, level, level.id in used) for level in home.levels],
        zones=[(z.id, z.name, z.id == zone.id) for z in home.zones],
        zone=zone,
        cools=any(can_cool(home, z) for z in home.zones),
        zone_cools=can_cool(home, zone),
        fans=get_args(Fan),
        unit=show.temperature_unit(home),
        gap_reason=home.gap.reason,
        guards=guards,
        findings=findings,
    )


def guard_rows(home: Home, zone: Zone, damp: DampLimit | None) -> list[GuardRow]:
    """Return the guard limits of a zone."""
    guard, whose = home.guard_of(zone), "the zone's own" if zone.guard else "the home's, set under Survey"
    return [
        GuardRow("Protection, frost", show.temperature(guard.low_c, home), f"never less is asked; {whose}"),
        _damp_row(home, zone, damp),
        GuardRow("Protection, heat", show.temperature(guard.high_c, home), f"never more is asked; {whose}"),
    ]


def _damp_row(home: Home, zone: Zone, damp: DampLimit | None) -> GuardRow:
    if damp is None:
        return GuardRow("Protection, mould", "–", "not worked out: no humidity of its rooms was received for two days")
    words = (
        f"never less is asked; from {100 * damp.rh:.0f} % at {show.temperature(damp.indoor_c, home)} "
        f"{show.temperature_unit(home)} in {damp.room.name}, a corner of {damp.element}"
    )
    return GuardRow("Protection, mould", show.temperature(damp.low_c, home), words, f"damp.{zone.id}")


def _text(value: float | None, home: Home) -> str:
    return "" if value is None else show.temperature(value, home)


def _row(home: Home, zone: Zone, level: Level, is_used: bool) -> LevelRow:
    own = zone.numbers_at(level.id)
    return LevelRow(
        id=level.id,
        name=level.name,
        heating=show.temperature(level.heating_c, home),
        cooling=_text(level.cooling_c, home),
        fan=level.fan,
        is_saving=level.is_saving,
        is_used=is_used,
        own_heating=_text(own.heating_c if own else None, home),
        own_cooling=_text(own.cooling_c if own else None, home),
        own_fan=(own.fan or "") if own else "",
        sensors=_sensors(home, zone, level),
    )


def _sensors(home: Home, zone: Zone, level: Level) -> str:
    """Return which sensors count for a zone at a level, and whether that is stated for it."""
    own = next((s for s in zone.sensing if s.level_id == level.id), None)
    sensing = own or zone.sensing_at(level.id)
    if sensing is None or not sensing.sensors:
        return "none stated: each heater's own sensor is used"
    names = ", ".join(home.device(c.device_id).name for c in sensing.sensors)
    words = names if sensing.rule == "one" else f"{COUNT_RULE_LABEL[sensing.rule]} {names}"
    return words if own else f"{words} (as at every level)"


def saving_rows(home: Home, savings: list[LevelSaving]) -> list[tuple[str, str, str]]:
    """Return what each level saves a week: name, money or electricity, range."""
    rows = []
    for saving in savings:
        if saving.cost is not None:
            low, high = (show.money(v, home.currency) for v in (saving.cost.low, saving.cost.high))
            rows.append((saving.level.name, show.money(saving.cost.value, home.currency), f"{low} to {high}"))
        elif saving.electric_kwh is not None:
            kwh = saving.electric_kwh
            rows.append((saving.level.name, f"{show.number(kwh.value, 1)} kWh", show.span(kwh, 1)))
        else:
            rows.append((saving.level.name, "not known in watts", ""))
    return rows
