"""A day or a week as a strip, a table and figures, all ready strings."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.edits.timetable_edits import BlockPlace, Scope
from warmeter.core.forecast.day_forecast import DayForecast, RoomForecast, Totals, totals_of
from warmeter.core.home.document import Home
from warmeter.core.tariff.cheapest_start import RunSchedule
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.timegrid import LocalDay
from warmeter.core.units import MIN_PER_DAY, kelvin_to
from warmeter.web import format as show
from warmeter.web.strip.draw import DrawnStrip
from warmeter.web.timetable.lanes import is_long, leads_zone, strip_of
from warmeter.web.timetable.writing import WrittenView, written_view


@dataclass(frozen=True, slots=True)
class BlockRow:
    """A block in the table; ``block`` is its place as forms carry it."""

    zone_id: str
    block: str
    start: str
    end: str
    level_id: str
    setpoint: str
    is_own: bool
    lead: str
    lead_key: str
    can_move: bool


@dataclass(frozen=True, slots=True)
class FigureLine:
    """A figure that can be opened; ``change`` is its difference to the kept timetable."""

    key: str
    name: str
    value: str
    unit: str
    note: str
    change: str = ""


@dataclass(frozen=True, slots=True)
class ZoneTab:
    """A zone with its rows."""

    id: str
    name: str
    rows: list[BlockRow]
    is_shown: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DayView:
    """The page of a day or a week; ``days`` lead from a week to each of its days, ``kept`` names the kept state."""

    strip: DrawnStrip
    is_long: bool
    zones: list[ZoneTab]
    zone_id: str
    written: WrittenView | None
    figures: list[FigureLine]
    totals: list[tuple[str, str, str]]
    levels: list[tuple[str, str]]
    unit: str
    weather: str
    notes: list[str]
    kept: str
    days: list[tuple[str, str, bool]]


def day_view(
    forecast: DayForecast,
    runs: Sequence[tuple[MachineRecord, RunSchedule]],
    *,
    on: date,
    zone_id: str,
    scope: Scope,
    available: int,
    notes: list[str],
    kept: Totals | None = None,
    kept_name: str = "",
) -> DayView:
    """Return the page of a day, or of the week that holds the day."""
    home = forecast.home
    leading = [room for room in forecast.rooms if leads_zone(forecast, room)]
    shown = zone_id if any(room.zone.id == zone_id for room in leading) else leading[0].zone.id if leading else ""
    day = forecast.clock.day(on)
    dates = [each.date for each in forecast.clock.days(forecast.day.start_ms, forecast.day.end_ms)]
    return DayView(
        strip=strip_of(forecast, runs, available, shown),
        is_long=is_long(forecast),
        zones=[_zone_tab(forecast, room, day, room.zone.id == shown) for room in leading],
        zone_id=shown,
        written=written_view(home, home.zone_of_id(shown), on, scope) if shown else None,
        figures=_figures(forecast, runs, kept),
        totals=_totals(forecast),
        levels=[(level.id, f"{level.name} {show.temperature(level.heating_c, home)}") for level in home.levels],
        unit=show.temperature_unit(home),
        weather=forecast.outdoor.origin,
        notes=notes,
        kept=kept_name if kept is not None else "",
        days=[(each.isoformat(), f"{each:%a} {each.day}", each == on) for each in dates],
    )


def _zone_tab(forecast: DayForecast, room: RoomForecast, day: LocalDay, is_shown: bool) -> ZoneTab:
    home = forecast.home
    leads = {lead.block.from_ms: lead for lead in room.leads}
    rows = []
    for place, block in enumerate(room.blocks):
        if not day.start_ms <= block.from_ms < day.end_ms:
            continue
        lead = leads.get(block.from_ms)
        text = ""
        if lead:
            text = "measure first" if lead.measure_first else show.lead_time(lead.lead, home)
        rows.append(
            BlockRow(
                zone_id=room.zone.id,
                block=BlockPlace(block.on, block.index).text,
                start=show.clock_time(block.start_min),
                end=show.clock_time(block.end_min),
                level_id=block.level_id,
                setpoint=show.temperature(block.setpoint_c, home),
                is_own=block.is_own,
                lead=text,
                lead_key=f"lead.{room.zone.id}.{place}" if lead else "",
                can_move=not block.is_carried,
            )
        )
    return ZoneTab(room.zone.id, room.zone.name, rows, is_shown)


def _money_span(found: Estimate, home: Home) -> str:
    return f"{show.money(found.low, home.currency)} to {show.money(found.high, home.currency)}"


def _in_unit(short: Estimate, home: Home) -> Estimate:
    """Return degree-hours in the home's unit."""
    value, low, high = (kelvin_to(v, home.temperature_unit) for v in (short.value, short.low, short.high))
    return Estimate(value=value, low=low, high=high)


def _against(now: float, kept: float | None, text: str) -> str:
    """Return how a figure differs from that of the kept timetable, "" where there is none or no difference."""
    return "" if kept is None or abs(now - kept) < 5e-3 else text


def _figures(
    forecast: DayForecast, runs: Sequence[tuple[MachineRecord, RunSchedule]], kept: Totals | None
) -> list[FigureLine]:
    home, lines = forecast.home, []
    found = totals_of(forecast)
    span = "whole week" if is_long(forecast) else "whole day"
    if found.cost is not None:
        before = kept.cost.value if kept and kept.cost else None
        change = show.money(found.cost.value - (before or 0.0), home.currency, is_signed=True)
        lines.append(
            FigureLine(
                "cost",
                f"{'Heating and cooling' if found.overheating_kh is not None else 'Heating'}, {span}",
                show.money(found.cost.value, home.currency),
                "",
                _money_span(found.cost, home),
                _against(found.cost.value, before, change),
            )
        )
    if found.electric_kwh is not None:
        kwh, before = found.electric_kwh, kept.electric_kwh.value if kept and kept.electric_kwh else None
        change = f"{show.number(kwh.value - (before or 0.0), 1, is_signed=True)} kWh"
        lines.append(
            FigureLine(
                "electricity",
                "Electricity for it",
                show.number(kwh.value, 1),
                "kWh",
                show.span(kwh, 1),
                _against(kwh.value, before, change),
            )
        )
    for use in found.fuels:
        lines.append(
            FigureLine(
                f"fuel.{use.source.id}",
                f"{use.name.capitalize()} for it, {use.source.name}",
                show.number(use.amount.value, 2),
                use.unit,
                f"{show.span(use.amount, 2)}; {show.number(use.drawn_kwh.value, 1)} kWh",
            )
        )
    if forecast.rooms:
        short, before = (
            _in_unit(found.underheating_kh, home),
            _in_unit(kept.underheating_kh, home).value if kept else None,
        )
        unit = show.degree_hour_unit(home)
        change = f"{show.number(short.value - (before or 0.0), 1, is_signed=True)} {unit}"
        lines.append(
            FigureLine(
                "shortfall",
                "Short of setpoint",
                show.number(short.value, 1),
                unit,
                show.span(short, 1),
                _against(short.value, before, change),
            )
        )
    if found.overheating_kh is not None:
        over = _in_unit(found.overheating_kh, home)
        lines.append(
            FigureLine(
                "over",
                "Over cooling limit",
                show.number(over.value, 1),
                show.degree_hour_unit(home),
                show.span(over, 1),
            )
        )
    if found.saved_cost is not None:
        lines.append(
            FigureLine(
                "saving",
                "Setbacks save",
                show.money(found.saved_cost.value, home.currency),
                "a week" if is_long(forecast) else "a day",
                _money_span(found.saved_cost, home),
            )
        )
    for record, schedule in runs if not is_long(forecast) else ():
        lines.append(
            FigureLine(
                f"run.{record.appliance.id}",
                f"{record.appliance.name}, a run",
                show.money(schedule.planned.cost, home.currency),
                "",
                f"cheapest {show.money(schedule.cheapest.cost, home.currency)} at "
                f"{show.clock_time(schedule.cheapest.start_min % MIN_PER_DAY)}",
            )
        )
    return lines


def _totals(forecast: DayForecast) -> list[tuple[str, str, str]]:
    rooms = [room for room in forecast.rooms if room.is_in_watts]
    if not rooms:
        return []
    unpriced = sorted({room.costed.fuel or "electricity" for room in rooms if room.costed.cost is None})
    if unpriced:
        note = forecast.price_note if unpriced == ["electricity"] else f"{' and '.join(unpriced)} without a price"
        return [("no costs:", "", note)]
    sums: dict[str, float] = {}
    for room in rooms:
        for name, kwh, _, _ in room.costed.by_rate:
            sums[name] = sums.get(name, 0.0) + float(kwh)
    heat = sum(room.costed.heat_kwh.value for room in rooms)
    cold = sum(room.costed.cold_kwh.value for room in rooms)
    parts = [(name, show.number(kwh, 2), "kWh") for name, kwh in sums.items()]
    taken = [("removed", show.number(cold, 1), "kWh")] if cold > 0 else []
    return [("heat", show.number(heat, 1), "kWh"), *taken, *parts]
