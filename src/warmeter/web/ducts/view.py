"""Ducts as ready strings: rooms under each choice of sensors, the round of trimming, limits, a day in lanes."""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from warmeter.core.arrays import Flags, Floats, true_runs
from warmeter.core.ducts.shared_air import CHANGEOVER_MIN
from warmeter.core.forecast.duct_rooms import TrimProposal, shut_shares
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.home.zones import Level
from warmeter.core.sentence import Sentence, celsius, kelvin, sentence
from warmeter.core.units import FEET_FACTORS, FEET_SIGNS, MIN_PER_DAY, MIN_PER_H, celsius_from, celsius_to
from warmeter.service.ducts.outcome import DuctDay, DuctOutcome
from warmeter.web import format as show

WITHIN_K = 1.0
LANE_PX, CURVE_PX, LEFT_PX, RIGHT_PX = 16, 76, 120, 96
LINE_PX = 300
WHY_WORDS = {
    "dead": "close enough",
    "unknown": "nobody knows what a notch does",
    "open": "is open already",
    "shut": "is shut as far as it may be",
}


def air_text(home: Home, flow_m3_h: float) -> str:
    """Return an air flow in the home's unit, without its sign."""
    factor = FEET_FACTORS["m³/h"] if home.length_unit == "ft" else 1.0
    return show.number(flow_m3_h / factor)


def air_sign(home: Home) -> str:
    """Return the home's unit of air flow."""
    return FEET_SIGNS["m³/h"] if home.length_unit == "ft" else "m³/h"


def area_sign(home: Home) -> str:
    """Return the home's unit of a vent's free area."""
    return FEET_SIGNS["cm²"] if home.length_unit == "ft" else "cm²"


def pressure_text(home: Home, pressure_pa: float) -> str:
    """Return a pressure in the home's unit, without its sign."""
    if home.length_unit == "ft":
        return show.number(pressure_pa / FEET_FACTORS["Pa"], 2)
    return show.number(pressure_pa)


def pressure_sign(home: Home) -> str:
    """Return the home's unit of a fan's pressure."""
    return FEET_SIGNS["Pa"] if home.length_unit == "ft" else "Pa"


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceCell:
    """A room under a choice; the one furthest from the setpoint is marked."""

    text: str
    is_worst: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoicesView:
    """Rooms in rows, choices in columns, and what each comes to."""

    names: list[str]
    rows: list[tuple[str, list[ChoiceCell]]]
    sums: list[tuple[str, list[str]]]
    verdict: str
    fan: str


def choices_view(home: Home, system: DuctSystem, found: DuctOutcome) -> ChoicesView:
    """Return every room's temperature under each choice of leading sensors."""
    keys = [key for key in found.choices[0].room_c if key in system.room_ids]
    worst = [max(keys, key=lambda key, c=each: abs(c.room_c[key] - found.set_c)) for each in found.choices]  # type: ignore[misc]
    off = [[each.room_c[key] - found.set_c for key in keys] for each in found.choices]
    heat = [
        each.cold_h if found.is_cooling else sum(h * s.heat_w for h, s in zip(each.stage_h, system.stages, strict=True))
        for each in found.choices
    ]

    def signed(value_k: float) -> str:
        return show.difference(value_k, home, is_signed=True)

    least = min(range(len(off)), key=lambda place: max(abs(value) for value in off[place]))
    spread = max(off[least]) - min(off[least])
    return ChoicesView(
        names=[each.choice.name for each in found.choices],
        rows=[
            (
                home.room(key).name,
                [
                    ChoiceCell(text=show.temperature(each.room_c[key], home), is_worst=key == own)
                    for each, own in zip(found.choices, worst, strict=True)
                ],
            )
            for key in keys
        ],
        sums=[
            ("coldest room", [signed(min(each)) for each in off]),
            ("warmest room", [signed(max(each)) for each in off]),
            (
                f"rooms within {show.difference(WITHIN_K, home, 0)} {show.difference_unit(home)}",
                [f"{sum(abs(value) <= WITHIN_K for value in each)}" for each in off],
            ),
            ("starts a day", [f"{each.starts}" for each in found.choices]),
            (
                "cold, h a day" if found.is_cooling else "heat, h a day",
                [show.number(each.cold_h if found.is_cooling else each.stage_h[0], 1) for each in found.choices],
            ),
            (
                "cold used, %" if found.is_cooling else "heat used, %",
                ["–", *(f"{100 * (each / heat[0] - 1):+.1f}" for each in heat[1:])] if heat[0] else [],
            ),
        ],
        verdict=f"Best of them: {found.choices[least].choice.name}. No choice ends the spread, "
        f"{show.difference(spread, home)} {show.difference_unit(home)}: it only moves the whole home. Trim first, then choose."
        if spread > 2 * WITHIN_K
        else f"Best of them: {found.choices[least].choice.name}.",
        fan=_fan(home, system, found),
    )


def pair_words(level: Level, system: DuctSystem) -> Sentence | str:
    """Return a level's pair of heating setpoint and cooling limit with what lies between them, in words."""
    if system.cooling_w is None:
        return "Its coil is not typed: it heats only."
    if level.cooling_c is None:
        return f"{level.name} has no cooling limit: the coil never runs at it."
    half = system.hysteresis_k / 2
    return sentence(
        "{} heats under {} and cools over {}: between them neither works ({} of deadband, {} either way of it for the "
        "hysteresis). From one to the other it rests {} min.",
        level.name,
        celsius(level.heating_c, 1),
        celsius(level.cooling_c, 1),
        kelvin(level.cooling_c - level.heating_c, 1),
        kelvin(half, 2),
        str(CHANGEOVER_MIN),
    )


def _fan(home: Home, system: DuctSystem, found: DuctOutcome) -> str:
    now = next(each for each in found.choices if each.choice == found.always.choice)
    more = found.always.energy.fan_kwh - now.energy.fan_kwh
    unit = show.difference_unit(home)
    if system.fan_mode == "always":
        return f"The fan always runs: {show.number(now.energy.fan_kwh, 1)} kWh a day."
    return (
        f"With the fan always on the spread is {show.difference(found.always.spread_k, home)} {unit} instead of "
        f"{show.difference(now.spread_k, home)} {unit}, for {show.number(more, 1)} kWh a day more."
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimRowView:
    """A room in the round of trimming."""

    name: str
    now: str
    notches: str
    step: str
    air: str
    even: str
    then: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitLine:
    """A quantity before and after on one line with its limit: places [px] and words."""

    words: str
    text: str
    before_x: float
    after_x: float
    limit_x: float | None
    bad_from: float
    bad_to: float
    is_over: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimView:
    """A round of trimming: what to set, what it comes to, and whether the plant bears it."""

    rows: list[TrimRowView]
    spread: str
    verdict: str
    lines: list[LimitLine]
    notches: list[tuple[str, int]]
    moves: int


def trim_view(home: Home, system: DuctSystem, found: TrimProposal) -> TrimView:
    """Return a round of trimming."""
    after = found.after.flows_m3_h
    rows = []
    for step in sorted(found.trim.steps, key=lambda each: -_diff(found, each.id)):
        own = [vent for vent in system.vents if vent.room_id == step.id]
        unit_moved = f"{step.step:+d}".replace("-", show.MINUS) if step.step else "–"
        rows.append(
            TrimRowView(
                name=home.room(step.id).name,
                now=show.difference(_diff(found, step.id), home, is_signed=True),
                notches=f"{max(v.notch for v in own)} to {step.notch_after}"
                if step.step
                else f"{max(v.notch for v in own)}",
                step=unit_moved,
                air=air_text(home, sum(after[v.id] for v in own)),
                even=air_text(home, found.even_m3_h[step.id]) if step.id in found.even_m3_h else "",
                then=show.difference(step.diff_after_k, home, is_signed=True),
                why=WHY_WORDS[step.why] if step.why else "",
            )
        )
    unit = show.difference_unit(home)
    moves = sum(step.step != 0 for step in found.trim.steps)
    before_text = f"{show.difference(found.trim.spread_before_k, home)} {unit}"
    after_text = f"{show.difference(found.trim.spread_after_k, home)} {unit}"
    return TrimView(
        rows=rows,
        spread=f"From the coldest to the warmest {before_text} now, {after_text} predicted",
        verdict=_verdict(found, moves),
        lines=_lines(home, system, found),
        notches=sorted(found.notches.items()),
        moves=moves,
    )


def _diff(found: TrimProposal, room_id: str) -> float:
    return found.measured_k[room_id]


def _verdict(found: TrimProposal, moves: int) -> str:
    if found.trim.is_refused:
        return "Too much vent area would be shut, so nothing is moved: even the rooms by the sensors that lead, or by doors."
    if not moves:
        return "Nothing to move: the rooms are as even as notches can make them."
    learnt = (
        f" Four fifths in {len(found.learnt)} of the rooms, where the last round told what a notch does."
        if found.learnt
        else ""
    )
    return f"Half of each change, then wait a day and measure again; two such rounds.{learnt}"


def _lines(home: Home, system: DuctSystem, found: TrimProposal) -> list[LimitLine]:
    shut = shut_shares(system, found)
    return [
        _line(
            f"Pressure at the fan, {pressure_sign(home)}",
            (found.before.static_fan_pa, found.after.static_fan_pa),
            system.static_most_pa,
            pressure_text(home, found.before.static_fan_pa),
            pressure_text(home, found.after.static_fan_pa),
            "" if system.static_most_pa is None else pressure_text(home, system.static_most_pa),
            is_most=True,
        ),
        _line(
            f"All the air, {air_sign(home)}",
            (found.before.flow_m3_h, found.after.flow_m3_h),
            system.flow_least_m3_h,
            air_text(home, found.before.flow_m3_h),
            air_text(home, found.after.flow_m3_h),
            "" if system.flow_least_m3_h is None else air_text(home, system.flow_least_m3_h),
            is_most=False,
        ),
        _line(
            "Vent area shut, %",
            (100 * shut[0], 100 * shut[1]),
            100 * system.most_share_shut,
            f"{100 * shut[0]:.0f}",
            f"{100 * shut[1]:.0f}",
            f"{100 * system.most_share_shut:.0f}",
            is_most=True,
        ),
    ]


def _line(
    words: str,
    values: tuple[float, float],
    limit: float | None,
    before: str,
    after: str,
    limit_text: str,
    *,
    is_most: bool,
) -> LimitLine:
    known = [*values, *([] if limit is None else [limit])]
    low, high = min(known), max(known)
    margin = max(0.15 * (high - low), 0.05 * high, 1e-6)
    low, high = max(0.0, low - margin), high + margin

    def x(value: float) -> float:
        return round(LINE_PX * (value - low) / (high - low), 1)

    limited = f", limit {limit_text}" if limit_text else ", no limit typed"
    at = None if limit is None else x(limit)
    bad = (0.0, 0.0) if at is None else (at, float(LINE_PX)) if is_most else (0.0, at)
    is_over = limit is not None and (values[1] > limit + 1e-9 if is_most else values[1] < limit - 1e-9)
    return LimitLine(
        words=words,
        text=f"{before} to {after}{limited}",
        before_x=x(values[0]),
        after_x=x(values[1]),
        limit_x=at,
        bad_from=bad[0],
        bad_to=bad[1],
        is_over=is_over,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DayLane:
    """A lane of the day: its name, bars as (x, width) [px], and how long it was on."""

    name: str
    kind: str
    y: int
    bars: list[tuple[float, float]]
    total: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctDayView:
    """A day: coldest, mean and warmest room as paths over the setpoint, and lanes of stages and fan."""

    width: int
    height: int
    ticks: list[tuple[float, str]]
    levels: list[tuple[float, str]]
    asked: str
    band: str
    mean: str
    lanes: list[DayLane]
    summary: str
    rooms: int


def day_view(home: Home, system: DuctSystem, day: DuctDay, width: int) -> DuctDayView:
    """Return a day by the timetable in a picture of a width [px]."""
    inner = width - LEFT_PX - RIGHT_PX
    rows = [place for place, key in enumerate(day.room_ids) if key in system.room_ids]
    every = slice(None, None, 5)
    air = day.run.room_c[rows][:, every]
    minutes = np.arange(day.run.room_c.shape[1])[every]
    low, mean, high = air.min(axis=0), air.mean(axis=0), air.max(axis=0)
    bottom = min(float(low.min()), float(day.asked_c.min())) - 0.5
    top = max(float(high.max()), float(day.asked_c.max())) + 0.5

    def x(minute: float) -> float:
        return round(LEFT_PX + inner * minute / MIN_PER_DAY, 1)

    def y(value: float) -> float:
        return round(20 + CURVE_PX * (top - value) / (top - bottom), 1)

    def path(values: Floats) -> str:
        return "M" + "L".join(f"{x(float(m))} {y(float(v))}" for m, v in zip(minutes, values, strict=True))

    back = "L".join(f"{x(float(m))} {y(float(v))}" for m, v in zip(minutes[::-1], low[::-1], strict=True))
    stages = [
        _lane(
            "Auxiliary" if stage.is_auxiliary else f"Stage {place + 1}",
            f"stage{min(place, 1)}" if not stage.is_auxiliary else "aux",
            day.run.stages > place,
            x,
        )
        for place, stage in enumerate(system.stages)
    ]
    lanes = [*stages, _lane("Fan", "fan", day.run.fan, x)]
    return DuctDayView(
        width=width,
        height=20 + CURVE_PX + 8 + LANE_PX * len(lanes),
        ticks=[(x(float(MIN_PER_H * hour)), f"{hour:02d}") for hour in range(0, 25, 2)],
        levels=[(y(value), show.temperature(value, home, 0)) for value in _levels(home, bottom, top)],
        asked=_steps(day.asked_c, x, y),
        band=f"{path(high)}L{back}Z",
        mean=path(mean),
        lanes=[replace(lane, y=20 + CURVE_PX + 8 + LANE_PX * place) for place, lane in enumerate(lanes)],
        summary=_energy(home, system, day),
        rooms=len(rows),
    )


def _levels(home: Home, bottom_c: float, top_c: float) -> list[float]:
    """Return some whole degrees of the home's unit between two temperatures [°C]."""
    step = 2 if top_c - bottom_c < 12 else 5
    unit = home.temperature_unit
    shown_low, shown_high = celsius_to(bottom_c, unit), celsius_to(top_c, unit)
    step = step if unit == "C" else 5
    first = int(np.ceil(shown_low / step)) * step
    whole = [float(v) for v in range(first, int(shown_high) + 1, step)]
    return [celsius_from(value, unit) for value in whole]


def _steps(asked_c: Floats, x, y) -> str:  # type: ignore[no-untyped-def]
    """Return the setpoint as a path of steps."""
    edges = [0, *(int(k) for k in np.flatnonzero(np.diff(asked_c)) + 1), asked_c.size]
    parts = [f"M{x(0)} {y(float(asked_c[0]))}"]
    for begin, end in pairwise(edges):
        parts.append(f"V{y(float(asked_c[begin]))}H{x(float(end))}")
    return "".join(parts)


def _lane(name: str, kind: str, on: Flags, x) -> DayLane:  # type: ignore[no-untyped-def]
    bars = [
        (x(float(begin)), round(max(0.8, x(float(end)) - x(float(begin))), 1))
        for begin, end in zip(*true_runs(on), strict=True)
    ]
    return DayLane(name=name, kind=kind, y=0, bars=bars, total=show.duration(float(on.sum())))


def _energy(home: Home, system: DuctSystem, day: DuctDay) -> str:
    source = home.source(system.source_id)
    energy = day.energy
    what = source.fuel if source.kind == "boiler" else "electricity"
    parts = [f"{show.number(energy.source_kwh, 1)} kWh of {what}"]
    if energy.auxiliary_kwh:
        parts.append(f"{show.number(energy.auxiliary_kwh, 1)} kWh of auxiliary heat")
    parts.append(f"{show.number(energy.fan_kwh, 1)} kWh of the fan")
    return f"{', '.join(parts)}; {day.run.starts} starts."


@dataclass(frozen=True, slots=True, kw_only=True)
class StageRow:
    """A stage as it is typed."""

    place: int
    heat_w: str
    short: float
    delay: str
    is_auxiliary: bool


def stage_rows(system: DuctSystem) -> list[StageRow]:
    """Return the stages of a system."""
    return [
        StageRow(
            place=place,
            heat_w=f"{stage.heat_w:g}",
            short=stage.short_k,
            delay=f"{stage.delay_min:g}",
            is_auxiliary=stage.is_auxiliary,
        )
        for place, stage in enumerate(system.stages)
    ]
