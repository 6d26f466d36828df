"""Zones warmed ahead, as the plan of the day tells of them: as written, as promised, as simulated, and how sure."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.home.day_plans import PlannedDay
from warmeter.core.home.document import Home
from warmeter.core.home.preheats import PlannedPreheat, PreheatBlock, PreheatZone, ZoneFigures
from warmeter.core.preheat.promise import FAR_COST, FAR_OFF_K, far_off
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import written_on
from warmeter.web import format as show


@dataclass(frozen=True, slots=True, kw_only=True)
class PreheatFigureRow:
    """A figure as written, promised and simulated."""

    name: str
    written: str
    promised: str
    simulated: str
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PreheatView:
    """A zone warmed ahead."""

    name: str
    when: str
    rows: list[PreheatFigureRow]
    doubts: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneChoice:
    """A zone that may be planned ahead, as its form has it."""

    id: str
    name: str
    is_planned: bool
    beyond: str
    most_changes: int


def zone_choices(home: Home) -> list[ZoneChoice]:
    """Return every zone with whether, how far and in how many steps it is planned ahead."""
    chosen = {each.zone_id: each for each in home.plan_practice.preheats}
    rows = []
    for zone in home.zones:
        own = chosen.get(zone.id, PreheatZone(zone_id=zone.id))
        rows.append(
            ZoneChoice(
                id=zone.id,
                name=zone.name,
                is_planned=zone.id in chosen,
                beyond=show.difference(own.beyond_k, home),
                most_changes=own.most_changes,
            )
        )
    return rows


def preheat_views(home: Home, planned: PlannedDay | None) -> list[PreheatView]:
    """Return each zone of a plan, the whole of several last."""
    if planned is None:
        return []
    clock = LocalClock(home.time_zone)
    return [_view(home, clock, each) for each in planned.preheats]


def _view(home: Home, clock: LocalClock, each: PlannedPreheat) -> PreheatView:
    sign = show.currency_sign(home.currency)
    rows = [
        _row(f"cost, {sign}", [show.number(f.cost, 2) for f in _three(each)], _span(each)),
        _row("drawn, kWh", [show.number(f.drawn_kwh, 1) for f in _three(each)]),
        _row(
            f"off what is asked, {show.difference_unit(home)}", [show.difference(f.off_k, home) for f in _three(each)]
        ),
        _row("highest, kW", [show.number(f.peak_kw, 1) for f in _three(each)]),
    ]
    doubts = []
    if each.unreached_k > FAR_OFF_K:
        doubts.append(
            f"What is asked cannot be had by any heat: up to {show.difference(each.unreached_k, home)} "
            f"{show.difference_unit(home)} are missing."
        )
    far = far_off(each.written, each.promised, each.simulated)
    if far.comfort:
        doubts.append(
            f"Simulation lies more than {show.difference(FAR_OFF_K, home)} {show.difference_unit(home)} further off what "
            "is asked than promised: trust the simulation."
        )
    if far.cost:
        doubts.append(
            f"Simulation and promise differ by more than {FAR_COST * 100:.0f} % in cost: trust the simulation."
        )
    if not far.pays:
        doubts.append("In simulation it saves nothing: leave this zone to its timetable.")
    return PreheatView(
        name=home.zone_of_id(each.zone_id).name,
        when=", ".join(_block(home, clock, block) for block in each.blocks) or "nothing ahead",
        rows=rows,
        doubts=doubts,
    )


def _three(each: PlannedPreheat) -> tuple[ZoneFigures, ZoneFigures, ZoneFigures]:
    return each.written, each.promised, each.simulated


def _row(name: str, values: Sequence[str], note: str = "") -> PreheatFigureRow:
    return PreheatFigureRow(name=name, written=values[0], promised=values[1], simulated=values[2], note=note)


def _span(each: PlannedPreheat) -> str:
    return f"95 %: {show.number(each.cost_low, 2)} to {show.number(each.cost_high, 2)}"


def _block(home: Home, clock: LocalClock, block: PreheatBlock) -> str:
    value = block.setpoint_c if block.setpoint_c is not None else block.cooling_c
    begin, end = clock.local(block.from_ms), clock.local(block.until_ms)
    return f"{begin:%H:%M} to {end:%H:%M} {show.temperature(value, home)}"


def is_taken(home: Home, planned: PlannedDay | None) -> bool:
    """Return whether a plan's pre-heats stand in the timetable."""
    if planned is None:
        return False
    dates: list[date] = [planned.on + timedelta(days=k) for k in range(planned.days)]
    return any(
        point.is_preheat
        for each in planned.preheats
        for on in dates
        for point in written_on(home, home.zone_of_id(each.zone_id), on).points
    )
