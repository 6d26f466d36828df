"""A day as a strip, a table and figures, all ready strings."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.home.document import Home
from warmeter.core.thermal.learnt import Learnt
from warmeter.core.units import MS_PER_MIN, celsius_to
from warmeter.service.machines import MachineRecord, RunPlan
from warmeter.service.outlook import DayOutlook, RoomOutlook
from warmeter.web import format as show
from warmeter.web.strip.draw import LEFT, NARROW_LEFT, NARROW_RIGHT, RIGHT, Drawn, draw
from warmeter.web.strip.lanes import Axis, Bracket, Curve, Lane, Step, StripBlock, StripView, Wedge
from warmeter.web.timetable.acts import place_text

Floats = NDArray[np.float64]
# Temperatures from which each hatch step holds [°C]: the warmer, the denser.
HATCH_FROM_C = (14.0, 16.0, 17.5, 19.0, 20.0, 21.0, 22.5)
TABLE_MIN, MEAN_MIN = 5, 30


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
    """A figure that can be opened."""

    key: str
    name: str
    value: str
    unit: str
    note: str


@dataclass(frozen=True, slots=True)
class ZoneTab:
    """A zone with its rows."""

    id: str
    name: str
    rows: list[BlockRow]
    is_shown: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DayView:
    """A day's page."""

    strip: Drawn
    zones: list[ZoneTab]
    figures: list[FigureLine]
    totals: list[tuple[str, str, str]]
    levels: list[tuple[str, str]]
    unit: str
    weather: str
    notes: list[str]
    typed_low: str = ""
    typed_high: str = ""


def hatch_step(setpoint_c: float) -> int:
    """Return the hatch, 1 to 8, of a setpoint."""
    return 1 + sum(setpoint_c >= limit for limit in HATCH_FROM_C)


def fitting_width(available: int, hours: float, per_hour: float = 1.0) -> int:
    """Return the widest strip of a whole number of px an hour within a width."""
    gutters = NARROW_LEFT + NARROW_RIGHT if available < 600 else LEFT + RIGHT
    px = max(4, int((available - gutters) / hours * per_hour))
    return gutters + round(px * hours / per_hour)


def day_axis(outlook: DayOutlook, width: int) -> Axis:
    """Return a local day's axis: real minutes, numerals by the wall clock."""
    clock, day = outlook.clock, outlook.day
    at = day.start_ms + np.arange(0, outlook.minutes + 1, 60, dtype=np.int64) * MS_PER_MIN
    _, wall = clock.wall_minutes(at)
    px = (width - LEFT - RIGHT) / (outlook.minutes / 60)
    every = 2 if px >= 18 else 3
    grid, numerals = [], []
    for k, minute in enumerate(wall.tolist()):
        hour = minute // 60
        is_end = k == at.size - 1
        if hour % 2 == 0 or is_end:
            grid.append((k * 60.0, hour % 6 == 0))
        if hour % every == 0 or is_end:
            numerals.append((k * 60.0, "24" if is_end and hour == 0 else f"{hour:02d}"))
    table_at = day.start_ms + np.arange(0, outlook.minutes, TABLE_MIN, dtype=np.int64) * MS_PER_MIN
    _, table_wall = clock.wall_minutes(table_at)
    now = outlook.now_min
    return Axis(
        length=float(outlook.minutes),
        grid=grid,
        numerals=numerals,
        now=None if now is None else float(now),
        now_label="" if now is None else f"now {show.clock_now(outlook.as_of_ms, clock)}",
        table_times=[show.clock_time(m) for m in table_wall.tolist()],
        crosshair=1170.0 * outlook.minutes / 1440,
        zone_note=clock.abbreviation(day.start_ms),
    )


def _every(values: Floats) -> Floats:
    return values[::TABLE_MIN]


def _shown(values_c: Floats, home: Home) -> Floats:
    """Return temperatures in the home's unit."""
    return values_c if home.temperature_unit == "C" else np.array([celsius_to(v, "F") for v in values_c.tolist()])


def _column(values: Floats, decimals: int) -> list[str]:
    return ["" if np.isnan(v) else show.number(float(v), decimals) for v in _every(values)]


def _leads_zone(outlook: DayOutlook, room: RoomOutlook) -> bool:
    """Return whether a room is the first of its zone: its lane carries the zone's handles, the others follow."""
    return next(r for r in outlook.rooms if r.zone.id == room.zone.id).room.id == room.room.id


def _lane_note(room: RoomOutlook) -> str:
    if len(room.zone.room_ids) > 1:
        return room.zone.name if len(room.zone.name) < 15 else f"{room.zone.name[:13]}…"
    return room.heater.name if len(room.heater.name) < 16 else room.heater.kind.replace("_", " ")


def zone_lane(outlook: DayOutlook, room: RoomOutlook, height: int) -> Lane:
    """Return a room's lane: profile, wedges, measured and predicted temperature."""
    home, unit = outlook.home, show.temperature_unit(outlook.home)
    now = outlook.now_min
    past = outlook.minutes if outlook.as_of_ms >= outlook.day.end_ms else (0 if now is None else now)
    predicted = room.predicted_c.copy()
    if past and not np.isnan(room.measured_c[:past]).all():
        predicted[: past - 1] = np.nan
    lows = np.concatenate([room.predicted_c, room.setpoint_c])
    low_c, high_c = min(10.0, float(lows.min()) - 1), max(23.0, float(lows.max()) + 1)
    measured_or_not = np.where(np.isnan(room.measured_c), room.predicted_c, room.measured_c)
    values = (
        [(_column(_shown(measured_or_not, home), 1), unit, ""), (_column(_shown(room.wanted_c, home), 1), unit, "set")]
        if height >= 44
        else [(_column(_shown(measured_or_not, home), 1), unit, "")]
    )
    axis_values = (15.0, 20.0) if home.temperature_unit == "C" else ((60 - 32) / 1.8, (70 - 32) / 1.8)
    return Lane(
        name=room.zone.name if len(room.zone.room_ids) == 1 else room.room.name,
        note=_lane_note(room),
        height=height,
        low=low_c,
        high=high_c,
        axis=[(c, show.temperature(c, home, 0)) for c in axis_values] if height >= 44 else [],
        blocks=[_strip_block(outlook, room, k) for k in range(len(room.blocks))],
        wedges=_wedges(outlook, room),
        curves=(Curve(values=room.measured_c, css="wm-temp"), Curve(values=predicted, css="wm-pred")),
        table=values,
        zone_key=room.zone.id,
    )


def _strip_block(outlook: DayOutlook, room: RoomOutlook, k: int) -> StripBlock:
    home, block = outlook.home, room.blocks[k]
    start = (block.from_ms - outlook.day.start_ms) / MS_PER_MIN
    end = (block.until_ms - outlook.day.start_ms) / MS_PER_MIN
    shown = show.temperature(block.setpoint_c, home)
    return StripBlock(
        start=start,
        end=end,
        value=block.setpoint_c,
        label=f"{block.level_name} {shown}",
        key=f"{room.zone.id}-{place_text(block.on, block.index)}" if _leads_zone(outlook, room) else "",
        hatch=hatch_step(block.setpoint_c),
        is_first=block.is_carried,
        edge_label=f"{room.zone.name}: start of {block.level_name}, {show.clock_time(block.start_min)}",
        top_label=f"{room.zone.name}: setpoint of {block.level_name} from {show.clock_time(block.start_min)}, {shown}",
    )


def _wedges(outlook: DayOutlook, room: RoomOutlook) -> list[Wedge]:
    found = []
    for lead in room.day.leads:
        due = (lead.block.from_ms - outlook.day.start_ms) / MS_PER_MIN
        minutes = lead.lead.best
        if not 0 < due <= outlook.minutes or not minutes:
            continue
        before = max(
            (b for b in room.blocks if b.until_ms <= lead.block.from_ms), key=lambda b: b.until_ms, default=None
        )
        low = before.setpoint_c if before else lead.from_c
        found.append(
            Wedge(start=due - minutes, end=due, low=low, high=lead.block.setpoint_c, label=f"{minutes:.0f} min")
        )
    return found


def power_lane(outlook: DayOutlook) -> Lane | None:
    """Return the heat of all rooms as a silhouette, None where watts are unknown."""
    rooms = [room for room in outlook.rooms if room.is_in_watts]
    if not rooms:
        return None
    total = np.sum([room.heat_w for room in rooms], axis=0)
    electric = np.sum([room.electric_w for room in rooms], axis=0)
    # A heater's minutes on and off are averaged, as a meter would show them.
    shown = _smoothed(total)
    top = max(float(shown.max()) * 1.08, 500.0)
    mark = 1000.0 * max(1, round(top / 2 / 1000))
    return Lane(
        name="Heaters",
        note="W, heat",
        height=56,
        high=top,
        axis=[(mark, f"{mark / 1000:g} k")],
        fills=(Curve(values=shown, css="wm-pw", step=float(MEAN_MIN), start=MEAN_MIN / 2),),
        table=[
            (_column(np.repeat(shown, MEAN_MIN)[: outlook.minutes], 0), "W", ""),
            (_column(np.repeat(_smoothed(electric), MEAN_MIN)[: outlook.minutes], 0), "W", "el."),
        ],
    )


def _smoothed(values: Floats) -> Floats:
    usable = values[: values.size // MEAN_MIN * MEAN_MIN].reshape(-1, MEAN_MIN)
    return usable.mean(axis=1)


def outdoor_lane(outlook: DayOutlook) -> Lane:
    """Return the outdoor temperature: measured, then expected."""
    home = outlook.home
    expected = outlook.outdoor_expected_c.copy()
    heard = ~np.isnan(outlook.outdoor_measured_c)
    if heard.any():
        expected[: int(np.flatnonzero(heard)[-1])] = np.nan
    both = np.where(heard, outlook.outdoor_measured_c, outlook.outdoor_expected_c)
    low, high = float(np.nanmin(both)) - 1.5, float(np.nanmax(both)) + 1.5
    marks = [c for c in (-10.0, -5.0, 0.0, 5.0, 10.0, 15.0, 20.0) if low + 1 < c < high - 1][:2]
    return Lane(
        name="Outdoor",
        note=outlook.outdoor.origin,
        height=46,
        low=low,
        high=high,
        axis=[(c, show.temperature(c, home, 0)) for c in marks],
        curves=(Curve(values=outlook.outdoor_measured_c, css="wm-outl"), Curve(values=expected, css="wm-outl wm-dash")),
        table=[(_column(_shown(both, home), 1), show.temperature_unit(home), "")],
    )


def price_lane(outlook: DayOutlook) -> Lane | None:
    """Return the price in steps, None without a tariff."""
    if outlook.prices is None:
        return None
    currency, by_minute = outlook.prices.tariff.currency, outlook.prices.by_minute
    edges = [0, *(np.flatnonzero(np.diff(by_minute)) + 1).tolist(), by_minute.size]
    steps = [
        Step(
            start=float(a),
            end=float(b),
            value=float(by_minute[a]),
            label=show.small_money(float(by_minute[a]), currency),
        )
        for a, b in itertools.pairwise(edges)
        if b > a
    ]
    low = min(0.0, float(by_minute.min()))
    return Lane(
        name="Price",
        note=f"{show.small_money_unit(currency)}/kWh",
        height=46,
        low=low,
        high=max(float(by_minute.max()) * 1.12, low + 0.01),
        steps=steps,
        table=[
            ([show.small_money(float(p), currency) for p in _every(by_minute)], show.small_money_unit(currency), "")
        ],
    )


def run_lane(outlook: DayOutlook, record: MachineRecord, plan: RunPlan) -> Lane:
    """Return the machine's run: silhouette and bracket, its start to be dragged."""
    machine, currency = record.appliance, outlook.home.currency
    start = float(plan.planned.start_min)
    watts = plan.profile_kwh * 60_000
    values = np.full(outlook.minutes, np.nan)
    first, last = int(start), min(int(start) + watts.size, outlook.minutes)
    values[first:last] = watts[: last - first]
    cost = show.money(plan.planned.cost, currency)
    first, _, rest = machine.name.partition(" ") if len(machine.name) > 13 else (machine.name, "", "")
    return Lane(
        name=first,
        note=f"{rest}, W" if rest else "run, W",
        height=44,
        high=max(float(watts.max()) * 1.6, 1.0),
        fills=(Curve(values=values, css="wm-pw"),),
        brackets=(
            Bracket(
                start=start,
                end=min(start + watts.size, float(outlook.minutes)),
                label=machine.name,
                note=f"{cost} from {show.clock_time(machine.start_min)}",
                key=machine.id,
            ),
        ),
        table=[(_column(np.nan_to_num(values), 0), "W", "")],
    )


def strip_of_day(outlook: DayOutlook, runs: Sequence[tuple[MachineRecord, RunPlan]], available: int) -> Drawn:
    """Return a day's strip for a width."""
    width = fitting_width(available, outlook.minutes / 60)
    height = 72 if len(outlook.rooms) <= 4 else (44 if len(outlook.rooms) <= 8 else 28)
    lanes: list[Lane | None] = [zone_lane(outlook, room, height) for room in outlook.rooms]
    lanes += [outdoor_lane(outlook), price_lane(outlook), power_lane(outlook)]
    lanes += [run_lane(outlook, record, plan) for record, plan in runs]
    return draw(
        StripView(
            id="day",
            title=f"{show.day_long(outlook.day.date, outlook.home.country)}: setpoints, temperatures, prices",
            axis=day_axis(outlook, width),
            lanes=[lane for lane in lanes if lane is not None],
            width=width,
            attributes={"data-unit": outlook.home.temperature_unit},
        )
    )


def day_view(
    outlook: DayOutlook,
    runs: Sequence[tuple[MachineRecord, RunPlan]],
    *,
    zone_id: str,
    available: int,
    notes: list[str],
) -> DayView:
    """Return a day's page."""
    home = outlook.home
    shown = zone_id if any(z.id == zone_id for z in home.zones) else (home.zones[0].id if home.zones else "")
    return DayView(
        strip=strip_of_day(outlook, runs, available),
        zones=[_zone_tab(outlook, r, r.zone.id == shown) for r in outlook.rooms if _leads_zone(outlook, r)],
        figures=_figures(outlook, runs),
        totals=_totals(outlook),
        levels=[(level.id, f"{level.name} {show.temperature(level.heating_c, home)}") for level in home.levels],
        unit=show.temperature_unit(home),
        weather=outlook.outdoor.origin,
        notes=notes,
    )


def _zone_tab(outlook: DayOutlook, room: RoomOutlook, is_shown: bool) -> ZoneTab:
    home = outlook.home
    leads = {lead.block.from_ms: lead for lead in room.day.leads}
    rows = []
    for place, block in enumerate(room.blocks):
        lead = leads.get(block.from_ms)
        text = ""
        if lead:
            text = "too late" if lead.lead.best is None else show.duration(lead.lead.best)
        rows.append(
            BlockRow(
                zone_id=room.zone.id,
                block=place_text(block.on, block.index),
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


def total_of(parts: Sequence[Learnt]) -> Learnt:
    """Return a sum with a range that takes rooms to err together, the cautious way."""
    return Learnt(value=sum(p.value for p in parts), low=sum(p.low for p in parts), high=sum(p.high for p in parts))


def _figures(outlook: DayOutlook, runs: Sequence[tuple[MachineRecord, RunPlan]]) -> list[FigureLine]:
    home, lines = outlook.home, []
    rooms = [room for room in outlook.rooms if room.is_in_watts]
    if rooms and outlook.prices is not None:
        cost = total_of([room.costed.cost for room in rooms if room.costed.cost])
        lines.append(
            FigureLine(
                "cost",
                "Heating, whole day",
                show.money(cost.value, home.currency),
                "",
                f"{show.money(cost.low, home.currency)} to {show.money(cost.high, home.currency)}",
            )
        )
    if rooms:
        kwh = total_of([room.costed.electric_kwh for room in rooms])
        lines.append(
            FigureLine("electricity", "Electricity for it", show.number(kwh.value, 1), "kWh", show.span(kwh, 1))
        )
    if outlook.rooms:
        short = total_of([room.shortfall_kh for room in outlook.rooms])
        scale = 1.8 if home.temperature_unit == "F" else 1.0
        scaled = Learnt(value=short.value * scale, low=short.low * scale, high=short.high * scale)
        lines.append(
            FigureLine(
                "shortfall",
                "Short of setpoint",
                show.number(scaled.value, 1),
                show.degree_hour_unit(home),
                show.span(scaled, 1),
            )
        )
    if rooms and outlook.prices is not None:
        saved = total_of([room.saving.saved_cost for room in rooms if room.saving.saved_cost])
        lines.append(
            FigureLine(
                "saving",
                "Setbacks save",
                show.money(saved.value, home.currency),
                "a day",
                f"{show.money(saved.low, home.currency)} to {show.money(saved.high, home.currency)}",
            )
        )
    for record, plan in runs:
        lines.append(
            FigureLine(
                f"run.{record.appliance.id}",
                f"{record.appliance.name}, a run",
                show.money(plan.planned.cost, home.currency),
                "",
                f"cheapest {show.money(plan.cheapest.cost, home.currency)} at "
                f"{show.clock_time(plan.cheapest.start_min % 1440)}",
            )
        )
    return lines


def _totals(outlook: DayOutlook) -> list[tuple[str, str, str]]:
    rooms = [room for room in outlook.rooms if room.is_in_watts]
    if not rooms or outlook.prices is None:
        return [] if outlook.prices else [("no costs:", "", outlook.price_note)]
    sums: dict[str, float] = {}
    for room in rooms:
        for name, kwh, _ in room.costed.by_rate:
            sums[name] = sums.get(name, 0.0) + float(kwh)
    heat = sum(room.costed.heat_kwh.value for room in rooms)
    parts = [(name, show.number(kwh, 2), "kWh") for name, kwh in sums.items()]
    return [("heat", show.number(heat, 1), "kWh"), *parts]
