"""A day or a week as a strip: zones with their profiles, weather, price, heaters, machine runs."""

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.arrays import Floats
from warmeter.core.building.checks.zoning import can_cool
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.forecast.day_forecast import DayForecast, RoomForecast
from warmeter.core.home.document import Home
from warmeter.core.tariff.cheapest_start import RunSchedule
from warmeter.core.timetable.day import Block
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN, W_MIN_PER_KWH, celsius_from, celsius_to
from warmeter.core.warmup.prediction import BlockLead
from warmeter.web import format as show
from warmeter.web.strip.day_axis import clock_names, day_marks
from warmeter.web.strip.draw import LEFT, NARROW_LEFT, NARROW_RIGHT, RIGHT, DrawnStrip, draw
from warmeter.web.strip.lanes import (
    Axis,
    Bracket,
    Curve,
    Hold,
    Lane,
    StripBlock,
    StripStep,
    StripView,
    Wedge,
    gutter_name,
)

# Temperatures from which each hatch step holds [°C]: the warmer, the denser.
HATCH_FROM_C = (14.0, 16.0, 17.5, 19.0, 20.0, 21.0, 22.5)
COOL_FROM_C = (32.0, 30.0, 29.0, 28.0, 27.0, 26.0, 25.0)  # up to these, the cooler the denser
# The crosshair's table: every so many minutes of a day, of a stretch of days.
TABLE_MIN, LONG_TABLE_MIN, MEAN_MIN = 5, 30, 30


def hatch_step(setpoint_c: float) -> int:
    """Return the hatch, 1 to 8, of a setpoint."""
    return 1 + sum(setpoint_c >= limit for limit in HATCH_FROM_C)


def fitting_width(available: int, hours: float, per_hour: float = 1.0) -> int:
    """Return the widest strip of a whole number of px an hour within a width."""
    gutters = NARROW_LEFT + NARROW_RIGHT if available < 600 else LEFT + RIGHT
    px = max(4, int((available - gutters) / hours * per_hour))
    return gutters + round(px * hours / per_hour)


def is_long(forecast: DayForecast) -> bool:
    """Return whether a stretch is longer than a day of 25 hours."""
    return forecast.minutes > 1560


def table_min(forecast: DayForecast) -> int:
    """Return every how many minutes the crosshair's table has a row."""
    return LONG_TABLE_MIN if is_long(forecast) else TABLE_MIN


def strip_axis(forecast: DayForecast, width: int) -> Axis:
    """Return the axis of a local day or of several: real minutes, numerals by the wall clock."""
    clock, day = forecast.clock, forecast.day
    table_at = day.start_ms + np.arange(0, forecast.minutes, table_min(forecast), dtype=np.int64) * MS_PER_MIN
    _, table_wall = clock.local_minutes(table_at)
    now = forecast.now_min
    grid, numerals = _long_marks(forecast) if is_long(forecast) else day_marks(clock, day, width)
    times = [show.clock_time(m) for m in table_wall.tolist()]
    if is_long(forecast):
        times = [f"{clock.local(at):%a} {text}" for at, text in zip(table_at.tolist(), times, strict=True)]
    return Axis(
        length=float(forecast.minutes),
        grid=grid,
        numerals=numerals,
        now=None if now is None else float(now),
        now_label="" if now is None else f"now {show.clock_now(forecast.as_of_ms, clock)}",
        table_step=float(table_min(forecast)),
        table_times=times,
        crosshair=None if is_long(forecast) else 1170.0 * forecast.minutes / MIN_PER_DAY,
        clock_names=clock_names(clock, table_at, table_min(forecast)),
    )


def _long_marks(forecast: DayForecast) -> tuple[list[tuple[float, bool]], list[tuple[float, str]]]:
    """Return a grid line at each midnight and noon, and each day's name at its noon."""
    grid, numerals = [], []
    for day in forecast.clock.days(forecast.day.start_ms, forecast.day.end_ms):
        noon = forecast.clock.instant(day.date, MIN_PER_DAY // 2)
        for at_ms, is_major in ((day.start_ms, True), (noon, False)):
            grid.append(((at_ms - forecast.day.start_ms) / MS_PER_MIN, is_major))
        numerals.append(((noon - forecast.day.start_ms) / MS_PER_MIN, f"{day.date:%a} {day.date.day}"))
    return grid, numerals


def _every(values: Floats, forecast: DayForecast) -> Floats:
    return values[:: table_min(forecast)]


def _shown(values_c: Floats, home: Home) -> Floats:
    """Return temperatures in the home's unit."""
    return celsius_to(values_c, home.temperature_unit)


def _column(values: Floats, decimals: int, forecast: DayForecast) -> list[str]:
    # A temperature to a tenth comes again and again: each is written once.
    found, place = np.unique(np.round(_every(values, forecast), decimals), return_inverse=True)
    texts = ["" if np.isnan(v) else show.number(v, decimals) for v in found.tolist()]
    return [texts[k] for k in place.tolist()]


def leads_zone(forecast: DayForecast, room: RoomForecast) -> bool:
    """Return whether a room is the first of its zone: its lane carries the zone's handles, the others follow."""
    return next(r for r in forecast.rooms if r.zone.id == room.zone.id).room.id == room.room.id


def _lane_note(room: RoomForecast) -> str:
    if len(room.zone.room_ids) > 1:
        return gutter_name(room.zone.name)
    return room.heater.name if len(room.heater.name) < 16 else room.heater.kind.replace("_", " ")


def zone_lane(forecast: DayForecast, room: RoomForecast, height: int, zone_id: str = "") -> Lane:
    """Return a room's lane: profile, wedges, measured and predicted temperature."""
    home, unit = forecast.home, show.temperature_unit(forecast.home)
    now = forecast.now_min
    past = forecast.minutes if forecast.as_of_ms >= forecast.day.end_ms else (0 if now is None else now)
    predicted = room.predicted_c.copy()
    if past and not np.isnan(room.measured_c[:past]).all():
        predicted[: past - 1] = np.nan
    lows = np.concatenate([room.predicted_c, room.setpoint_c])
    low_c, high_c = min(10.0, float(lows.min()) - 1), max(23.0, float(lows.max()) + 1)
    blocks = _joined(room.blocks)
    ceilings = [c for c in (_ceiling(forecast, block) for block in blocks) if c is not None]
    ceilings = ceilings if can_cool(home, room.zone) else []
    high_c = max([high_c, *(ceiling.value + 1 for ceiling in ceilings)])
    measured_or_not = np.where(np.isnan(room.measured_c), room.predicted_c, room.measured_c)
    values = (
        [
            (_column(_shown(measured_or_not, home), 1, forecast), unit, ""),
            (_column(_shown(room.wanted_c, home), 1, forecast), unit, "set"),
        ]
        if height >= 44
        else [(_column(_shown(measured_or_not, home), 1, forecast), unit, "")]
    )
    axis_values = (15.0, 20.0) if home.temperature_unit == "C" else (celsius_from(60, "F"), celsius_from(70, "F"))
    return Lane(
        name=room.zone.name if len(room.zone.room_ids) == 1 else room.room.name,
        note=_lane_note(room),
        height=height,
        low=low_c,
        high=high_c,
        axis=[(c, show.temperature(c, home, 0)) for c in axis_values] if height >= 44 else [],
        blocks=[_strip_block(forecast, room, block) for block in blocks],
        ceilings=ceilings,
        is_in_tab_order=zone_id in ("", room.zone.id),
        wedges=_wedges(forecast, room),
        holds=_holds(forecast, room),
        curves=(Curve(values=room.measured_c, css="wm-temp"), Curve(values=predicted, css="wm-pred")),
        table=values,
        zone_key=room.zone.id,
    )


def _joined(blocks: Sequence[Block]) -> list[Block]:
    """Return blocks with those that go on over midnight in one piece."""
    found: list[Block] = []
    for block in blocks:
        last = found[-1] if found else None
        if last is not None and block.is_carried and (last.on, last.index) == (block.on, block.index):
            found[-1] = replace(last, until_ms=block.until_ms)
        else:
            found.append(block)
    return found


def cool_hatch_step(cooling_c: float) -> int:
    """Return how densely a cooling limit is hatched: the lower, the denser."""
    return 1 + sum(cooling_c <= limit for limit in COOL_FROM_C)


def _ceiling(forecast: DayForecast, block: Block) -> StripBlock | None:
    """Return a block's cooling limit, None without one."""
    if block.cooling_c is None:
        return None
    return StripBlock(
        start=(block.from_ms - forecast.day.start_ms) / MS_PER_MIN,
        end=(block.until_ms - forecast.day.start_ms) / MS_PER_MIN,
        value=block.cooling_c,
        label=show.temperature(block.cooling_c, forecast.home),
        hatch=cool_hatch_step(block.cooling_c),
    )


def _strip_block(forecast: DayForecast, room: RoomForecast, block: Block) -> StripBlock:
    home = forecast.home
    start = (block.from_ms - forecast.day.start_ms) / MS_PER_MIN
    end = (block.until_ms - forecast.day.start_ms) / MS_PER_MIN
    shown = show.temperature(block.setpoint_c, home)
    day = f"{block.on:%a} " if is_long(forecast) else ""
    return StripBlock(
        start=start,
        end=end,
        value=block.setpoint_c,
        label=f"{'pre-heat' if block.is_preheat else block.level_name} {shown}",
        key=f"{room.zone.id}-{BlockPlace(block.on, block.index).text}" if leads_zone(forecast, room) else "",
        hatch=hatch_step(block.setpoint_c),
        is_first=block.is_carried,
        edge_label=f"{room.zone.name}: start of {block.level_name}, {day}{show.clock_time(block.start_min)}",
        top_label=f"{room.zone.name}: setpoint of {block.level_name} from {show.clock_time(block.start_min)}, {shown}",
    )


def _holds(forecast: DayForecast, room: RoomForecast) -> list[Hold]:
    """Return the changes by hand that touch the stretch."""
    found = []
    for claim in room.by_hand:
        start = (claim.from_ms - forecast.day.start_ms) / MS_PER_MIN
        end = float(forecast.minutes)
        if claim.until_ms is not None:
            end = min(end, (claim.until_ms - forecast.day.start_ms) / MS_PER_MIN)
        if end > max(0.0, start) and start < forecast.minutes:
            shown = show.temperature(claim.value, forecast.home)
            until = "" if claim.until_ms is None else f" until {show.clock_now(claim.until_ms, forecast.clock)}"
            title = f"by hand {shown}{until}{', ' + claim.by if claim.by else ''}"
            found.append(Hold(start=max(0.0, start), end=end, value=claim.value, label=f"by hand {shown}", title=title))
    return found


def _lead_label(lead: BlockLead) -> str:
    """Return a warm-up in a word or two: its minutes, or why there are none."""
    if lead.lead.best is None:
        return "not reached in time" if lead.lead.reach_c is None else "heater too small"
    return "measure first" if lead.measure_first else f"{lead.lead.best:.0f} min"


def _wedges(forecast: DayForecast, room: RoomForecast) -> list[Wedge]:
    found = []
    for lead in room.leads:
        due = (lead.block.from_ms - forecast.day.start_ms) / MS_PER_MIN
        minutes = lead.lead.best
        if not 0 < due <= forecast.minutes or minutes == 0:
            continue
        before = max(
            (b for b in room.blocks if b.until_ms <= lead.block.from_ms), key=lambda b: b.until_ms, default=None
        )
        low = before.setpoint_c if before else lead.from_c
        found.append(
            Wedge(
                start=due - (minutes or 1),
                end=due,
                low=low,
                high=lead.block.setpoint_c,
                label="" if is_long(forecast) else _lead_label(lead),
            )
        )
    for lead in room.cool_downs:
        due = (lead.block.from_ms - forecast.day.start_ms) / MS_PER_MIN
        minutes, limit = lead.lead.best, lead.block.cooling_c
        if 0 < due <= forecast.minutes and minutes and limit is not None:
            found.append(Wedge(start=due - minutes, end=due, low=lead.from_c, high=limit, is_cooling=True))
    return found


def power_lane(forecast: DayForecast) -> Lane | None:
    """Return the heat of all rooms as a silhouette, None where watts are unknown."""
    rooms = [room for room in forecast.rooms if room.is_in_watts]
    if not rooms:
        return None
    total = np.sum([np.abs(room.heat_w) for room in rooms], axis=0)
    electric = np.sum([room.drawn_w for room in rooms], axis=0)
    fuels = {room.costed.fuel or "el." for room in rooms}
    drawn = fuels.pop() if len(fuels) == 1 else "drawn"
    # A heater's minutes on and off are averaged, as a meter would show them.
    shown = _smoothed(total)
    top = max(float(shown.max()) * 1.08, 500.0)
    mark = 1000.0 * max(1, round(top / 2 / 1000))
    return Lane(
        name="Heaters",
        note="W, heat, cold" if any((room.heat_w < 0).any() for room in rooms) else "W, heat",
        height=56,
        high=top,
        axis=[(mark, f"{mark / 1000:g} k")],
        fills=(Curve(values=shown, css="wm-pw", step=float(MEAN_MIN), start=MEAN_MIN / 2),),
        table=[
            (_column(np.repeat(shown, MEAN_MIN)[: forecast.minutes], 0, forecast), "W", ""),
            (_column(np.repeat(_smoothed(electric), MEAN_MIN)[: forecast.minutes], 0, forecast), "W", drawn),
        ],
    )


def _smoothed(values: Floats) -> Floats:
    usable = values[: values.size // MEAN_MIN * MEAN_MIN].reshape(-1, MEAN_MIN)
    means: Floats = usable.mean(axis=1)
    return means


def outdoor_lane(forecast: DayForecast) -> Lane:
    """Return the outdoor temperature: measured, then expected."""
    home = forecast.home
    expected = forecast.outdoor_expected_c.copy()
    heard = ~np.isnan(forecast.outdoor_measured_c)
    if heard.any():
        expected[: int(np.flatnonzero(heard)[-1])] = np.nan
    both = np.where(heard, forecast.outdoor_measured_c, forecast.outdoor_expected_c)
    low, high = float(np.nanmin(both)) - 1.5, float(np.nanmax(both)) + 1.5
    marks = [c for c in (-10.0, -5.0, 0.0, 5.0, 10.0, 15.0, 20.0) if low + 1 < c < high - 1][:2]
    return Lane(
        name="Outdoor",
        note=forecast.outdoor.origin,
        height=46,
        low=low,
        high=high,
        axis=[(c, show.temperature(c, home, 0)) for c in marks],
        curves=(
            Curve(values=forecast.outdoor_measured_c, css="wm-outl"),
            Curve(values=expected, css="wm-outl wm-dash"),
        ),
        table=[(_column(_shown(both, home), 1, forecast), show.temperature_unit(home), "")],
    )


def price_lane(forecast: DayForecast) -> Lane | None:
    """Return the price in steps, None without a tariff."""
    if forecast.prices is None:
        return None
    currency, by_minute = forecast.prices.currency, forecast.prices.by_step
    edges = [0, *(np.flatnonzero(np.diff(by_minute)) + 1).tolist(), by_minute.size]
    steps = [
        StripStep(
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
            (
                [show.small_money(float(p), currency) for p in _every(by_minute, forecast)],
                show.small_money_unit(currency),
                "",
            )
        ],
    )


def run_lane(forecast: DayForecast, record: MachineRecord, schedule: RunSchedule) -> Lane:
    """Return the machine's run: silhouette and bracket, its start to be dragged."""
    machine, currency = record.appliance, forecast.home.currency
    start = float(schedule.planned.start_min)
    watts = schedule.profile_kwh * W_MIN_PER_KWH
    values = np.full(forecast.minutes, np.nan)
    first, last = int(start), min(int(start) + watts.size, forecast.minutes)
    values[first:last] = watts[: last - first]
    cost = show.money(schedule.planned.cost, currency)
    word, _, rest = machine.name.partition(" ") if len(machine.name) > 13 else (machine.name, "", "")
    return Lane(
        name=word,
        note=f"{rest}, W" if rest else "run, W",
        height=44,
        high=max(float(watts.max()) * 1.6, 1.0),
        fills=(Curve(values=values, css="wm-pw"),),
        brackets=(
            Bracket(
                start=start,
                end=min(start + watts.size, float(forecast.minutes)),
                label=machine.name,
                note=f"{cost} from {show.clock_time(machine.start_min)}",
                key=machine.id,
            ),
        ),
        table=[(_column(np.nan_to_num(values), 0, forecast), "W", "")],
    )


def strip_of(
    forecast: DayForecast, runs: Sequence[tuple[MachineRecord, RunSchedule]], available: int, zone_id: str = ""
) -> DrawnStrip:
    """Return the strip of a day or a week for a width; the handles of ``zone_id`` come in the order of Tab.

    Without a zone, those of all zones do.
    """
    hours = forecast.minutes / 60
    # A week has a whole number of px a day where a day has one an hour.
    width = fitting_width(available, hours, 24.0) if is_long(forecast) else fitting_width(available, hours)
    height = 72 if len(forecast.rooms) <= 4 else (44 if len(forecast.rooms) <= 8 else 28)
    if is_long(forecast):
        runs = ()
    lanes: list[Lane | None] = [zone_lane(forecast, room, height, zone_id) for room in forecast.rooms]
    lanes += [outdoor_lane(forecast), price_lane(forecast), power_lane(forecast)]
    lanes += [run_lane(forecast, record, schedule) for record, schedule in runs]
    return draw(
        StripView(
            id="day",
            title=f"{show.day_long(forecast.day.date, forecast.home.country)}: setpoints, temperatures, prices",
            axis=strip_axis(forecast, width),
            lanes=[lane for lane in lanes if lane is not None],
            width=width,
            attributes={"data-unit": forecast.home.temperature_unit},
        )
    )
