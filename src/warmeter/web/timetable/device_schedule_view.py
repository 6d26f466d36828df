"""The sheet to type into a device, and the one that makes its own week harmless."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import Request

from warmeter.core.home.document import Home
from warmeter.core.home.part import Unit
from warmeter.core.timetable.merge import BlockPiece
from warmeter.core.units import kelvin_to
from warmeter.service.timetable.device_schedules import DeviceLimits, DeviceSchedule, OwnWeek
from warmeter.web import format as show
from warmeter.web.form_reader import read_form
from warmeter.web.timetable.writing import weekdays_text


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetDay:
    """A day to type: which weekdays, as written, as it fits."""

    days: str
    written: str
    lines: list[tuple[str, str]]
    error: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceScheduleView:
    """The pane of carrying over."""

    zone_id: str
    zone: str
    zones: list[tuple[str, str, bool]]
    most: str
    step: str
    finest: str
    finest_unit: str
    only_words: bool
    words: list[tuple[str, str, str, str]]
    days: list[SheetDay]
    lost: str
    money: str
    own: list[tuple[str, str, str]]
    level_id: str
    unit: str


@dataclass(frozen=True, slots=True)
class _TypedLimits:
    """A device's limits as they are typed; ``finest`` in the home's unit of differences."""

    most: Annotated[int, Ge(1), Le(48)] = 6
    step: Annotated[int, Ge(1), Le(240), Unit("min")] = 15
    finest: Annotated[float, Ge(0.1), Le(10)] | None = None
    only_words: bool = False


def limits_of(request: Request, home: Home) -> DeviceLimits:
    """Return a device's limits from the address; ``WarmeterError`` if a number makes no sense."""
    texts = dict(request.query_params.items())
    typed, usual = read_form(_TypedLimits, texts), 0.5 if home.temperature_unit == "C" else 1.0
    return DeviceLimits(
        most_blocks=typed.most,
        step_min=typed.step,
        step_k=(typed.finest or usual) / kelvin_to(1.0, home.temperature_unit),
        words=tuple((level.id, texts.get(f"word_{level.id}", "").strip()[:20]) for level in home.levels),
        only_words=typed.only_words,
    )


def device_schedule_view_of(
    home: Home, found: DeviceSchedule, limits: DeviceLimits, own: list[OwnWeek], level_id: str
) -> DeviceScheduleView:
    """Return the pane for a zone and a device's limits."""
    unit = show.temperature_unit(home)
    words = dict(limits.words)
    by_setpoint = {round(home.heating_c(found.zone, x.id), 3): words.get(x.id, "") for x in home.levels}

    def value(piece: BlockPiece) -> str:
        shown = f"{show.temperature(piece.setpoint_c, home)} {unit}"
        word = by_setpoint.get(round(piece.setpoint_c, 3), "")
        return f"{word} ({shown})" if word else shown

    return DeviceScheduleView(
        zone_id=found.zone.id,
        zone=found.zone.name,
        zones=[(z.id, z.name, z.id == found.zone.id) for z in home.zones],
        most=str(limits.most_blocks),
        step=str(limits.step_min),
        finest=f"{kelvin_to(limits.step_k, home.temperature_unit):g}",
        finest_unit=show.difference_unit(home),
        only_words=limits.only_words,
        words=[
            (x.id, x.name, words.get(x.id, ""), show.temperature(home.heating_c(found.zone, x.id), home))
            for x in home.levels
        ],
        days=[
            SheetDay(
                days=weekdays_text(day.weekdays),
                written=", ".join(
                    f"{show.clock_time(p.from_min)} {show.temperature(p.setpoint_c, home)}" for p in day.written
                ),
                lines=[(show.clock_time(p.from_min), value(p)) for p in day.merged.pieces],
                error=_error(home, day.merged.below_kh, day.merged.above_kh),
            )
            for day in found.days
        ],
        lost=_error(home, found.below_kh, found.above_kh),
        money=_money(home, found),
        own=[_own(home, each) for each in own],
        level_id=level_id,
        unit=unit,
    )


def _error(home: Home, below_kh: float, above_kh: float) -> str:
    unit = show.degree_hour_unit(home)
    if below_kh < 5e-4 and above_kh < 5e-4:
        return "exactly as written"
    return f"{show.difference(below_kh, home)} {unit} too cold, {show.difference(above_kh, home)} {unit} too warm"


def _money(home: Home, found: DeviceSchedule) -> str:
    if found.more_cost is not None:
        return f"{show.money(found.more_cost, home.currency, is_signed=True)} a week"
    if found.more_kwh is not None:
        return f"{show.number(found.more_kwh, 1, is_signed=True)} kWh a week"
    return "not known: no weather, or no watts"


def _own(home: Home, each: OwnWeek) -> tuple[str, str, str]:
    value = f"{show.temperature(each.setpoint_c, home)} {show.temperature_unit(home)}"
    where = f" in {each.zone.name}" if each.zone else ""
    return each.device.name, f"runs a week of its own{where}", value
