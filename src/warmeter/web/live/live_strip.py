"""The live strip: the hours behind, now at two thirds, what is laid for the hours ahead."""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.claims.arbiter import Decision
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.quantity import QUANTITIES
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import Block
from warmeter.core.truth.track import heard, value_of
from warmeter.core.units import MIN_PER_H, MS_PER_H, MS_PER_MIN, S_PER_MIN, W_PER_KW, celsius_to
from warmeter.service.app import App
from warmeter.service.live.hourly_work import EXPECTED_MIN, expected_told
from warmeter.service.live.live_now import AlertNow, LiveNow, ZoneLive
from warmeter.service.rules.rule_signals import track_of
from warmeter.web import format as show
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import (
    Axis,
    Bracket,
    Curve,
    Lane,
    StripBlock,
    StripStep,
    StripStretch,
    StripView,
    Tick,
    gutter_name,
)
from warmeter.web.timetable.lanes import cool_hatch_step, hatch_step

BACK_H, AHEAD_H = 6, 3
TABLE_MIN = 5
LEAST_HOLD_MS, HOLD_GAPS, MOST_GAPS = 15 * MS_PER_MIN, 3, 60
MOST_ZONES, MOST_RULES, MOST_MACHINES = 8, 4, 2
MANY_ZONES = 5  # with more, one appliance only: the one that runs, else the first
TALL, MIDDLE, LOW, CURVE = 62, 44, 30, 34
AXIS_LETTERS = 12  # a longer name reaches into the axis
LEAST_SCALE_W = 50.0  # what stands by is drawn as little


@dataclass(frozen=True, slots=True)
class _Stretch:
    """The stretch that is drawn, by the minute."""

    app: App
    now: LiveNow
    clock: LocalClock
    start_ms: int
    end_ms: int

    @property
    def home(self) -> Home:
        return self.now.home

    @property
    def is_crowded(self) -> bool:
        """Whether there are so many zones that other lanes are narrow, without an axis."""
        return sum(1 for zone in self.now.zones if self.home.following(zone.zone)) > MANY_ZONES

    @property
    def minutes(self) -> int:
        return (self.end_ms - self.start_ms) // MS_PER_MIN

    @property
    def at_ms(self) -> Ints:
        return self.start_ms + np.arange(self.minutes + 1, dtype=np.int64) * MS_PER_MIN

    def place(self, at_ms: int) -> float:
        return min(max((at_ms - self.start_ms) / MS_PER_MIN, 0.0), float(self.minutes))

    @property
    def now_place(self) -> float:
        return self.place(self.now.now_ms)

    def by_minute(self, quantity: str, subject_id: str) -> Floats:
        """Return a signal's value at each minute up to now, NaN where nothing was heard."""
        signal = Signal(quantity=quantity, subject_id=subject_id or None)
        track = track_of(self.app, self.home, signal, self.start_ms, self.now.now_ms + 1)
        gaps = np.diff(track.at_ms[-MOST_GAPS:])
        hold_ms = max(LEAST_HOLD_MS, round(HOLD_GAPS * float(np.median(gaps)))) if gaps.size else LEAST_HOLD_MS
        values = value_of(heard(track, hold_ms), self.at_ms)
        values[self.at_ms > self.now.now_ms] = np.nan
        return values

    def every(self, values: Floats, decimals: int) -> list[str]:
        """Return ready strings for the crosshair's table."""
        return ["" if np.isnan(v) else f"{v:.{decimals}f}" for v in values[::TABLE_MIN].tolist()]


def stretch_start_ms(now_ms: int) -> int:
    """Return where the live strip begins [ms UTC]: on a whole hour, some hours back."""
    return (now_ms - BACK_H * MS_PER_H) // MS_PER_H * MS_PER_H


def live_strip(app: App, now: LiveNow, width: int) -> DrawnStrip:
    """Return the live strip of a home for a width [px]."""
    start = stretch_start_ms(now.now_ms)
    end = start + (BACK_H + AHEAD_H) * MS_PER_H
    stretch = _Stretch(app, now, app.clock(now.home), start, end)
    lanes = [*_zone_lanes(stretch), *_humidity(stretch), *_meter(stretch), *_price(stretch), *_people(stretch)]
    lanes += [*_machines(stretch), *_rules(stretch)]
    return draw(
        StripView(id="live", title="The last hours and the next ones", axis=_axis(stretch), lanes=lanes, width=width)
    )


def _axis(stretch: _Stretch) -> Axis:
    grid, numerals = [], []
    for k in range(0, stretch.minutes + 1, MIN_PER_H):
        hour = stretch.clock.local(stretch.start_ms + k * MS_PER_MIN)
        grid.append((float(k), hour.hour % 6 == 0))
        numerals.append((float(k), f"{hour:%H}"))
    names = [
        (float(k), stretch.clock.abbreviation(stretch.start_ms + k * MS_PER_MIN))
        for k in range(0, stretch.minutes, MIN_PER_H)
    ]
    return Axis(
        length=float(stretch.minutes),
        grid=grid,
        numerals=numerals,
        now=stretch.now_place,
        table_step=float(TABLE_MIN),
        table_times=[f"{stretch.clock.local(at):%H:%M}" for at in stretch.at_ms[::TABLE_MIN].tolist()],
        crosshair=stretch.now_place,
        ahead_from=stretch.now_place,
        clock_names=[n for k, n in enumerate(names) if not k or n[1] != names[k - 1][1]],
    )


def _zone_lanes(stretch: _Stretch) -> Iterator[Lane]:
    zones = [zone for zone in stretch.now.zones if stretch.home.following(zone.zone)][:MOST_ZONES]
    height = TALL if len(zones) <= 3 else (MIDDLE if len(zones) <= 5 else LOW)
    for zone in zones:
        yield _zone_lane(stretch, zone, height)


def _zone_lane(stretch: _Stretch, live: ZoneLive, height: int) -> Lane:
    home = stretch.home
    room_id = live.zone.room_ids[0]
    measured = stretch.by_minute("room_temperature", room_id)
    asked = _asked(stretch, live.decisions)
    expected = _expected(stretch, room_id)
    ceilings = [
        _ceiling(stretch, block)
        for block in live.cooled
        if block.until_ms > stretch.start_ms and block.from_ms < stretch.end_ms
    ]
    known = [
        *(each.value for each in ceilings),
        *measured[~np.isnan(measured)].tolist(),
        *asked.tolist(),
        *expected[~np.isnan(expected)].tolist(),
    ]
    low, high = min(known) - 1.5, max(known) + 1.5
    blocks = [_block(stretch, decision, until) for decision, until in _pieces(stretch, live.decisions)]
    shown = np.array([celsius_to(v, home.temperature_unit) for v in measured.tolist()])
    wanted = np.array([celsius_to(v, home.temperature_unit) for v in asked.tolist()])
    unit = show.temperature_unit(home)
    rows = [(stretch.every(shown, 1), unit, "")]
    if height >= MIDDLE:
        rows.append((stretch.every(wanted, 1), unit, "set"))
    last = np.flatnonzero(~np.isnan(measured))
    kind = live.asked.now.claim.kind
    note = {"rule": "a rule holds", "by_hand": "by hand", "window_lock": "window open", "safety": "safety"}.get(
        kind, ""
    )
    return Lane(
        name=gutter_name(live.zone.name),
        note=note,
        height=height,
        low=low,
        high=high,
        blocks=blocks,
        ceilings=ceilings,
        curves=(Curve(values=measured, css="wm-temp"), Curve(values=expected, css="wm-pred")),
        dots=[(float(last[-1]), float(measured[last[-1]]))] if last.size else [],
        table=rows,
    )


def _ceiling(stretch: _Stretch, block: Block) -> StripBlock:
    assert block.cooling_c is not None
    return StripBlock(
        start=stretch.place(block.from_ms),
        end=stretch.place(block.until_ms),
        value=block.cooling_c,
        label=show.temperature(block.cooling_c, stretch.home),
        hatch=cool_hatch_step(block.cooling_c),
    )


def _expected(stretch: _Stretch, room_id: str) -> Floats:
    """Return a room's expected temperature at each minute from now on, NaN where none was worked out [°C]."""
    found = expected_told(stretch.now.live.told.get("expected", {}), room_id)
    if found is None:
        return np.full(stretch.at_ms.size, np.nan)
    times = found.from_ms + np.arange(len(found.values_c)) * EXPECTED_MIN * MS_PER_MIN
    values = np.interp(stretch.at_ms, times, found.values_c, left=np.nan, right=np.nan)
    values[stretch.at_ms < stretch.now.now_ms] = np.nan
    return np.asarray(values)


def _pieces(stretch: _Stretch, found: tuple[Decision, ...]) -> Iterator[tuple[Decision, int]]:
    ends = [each.at_ms for each in found[1:]] + [stretch.end_ms]
    for decision, until in zip(found, ends, strict=True):
        if until > stretch.start_ms and decision.at_ms < stretch.end_ms:
            yield decision, until


def _asked(stretch: _Stretch, found: tuple[Decision, ...]) -> Floats:
    at = np.array([decision.at_ms for decision in found], dtype=np.int64)
    values = np.array([decision.value for decision in found])
    return np.asarray(values[np.maximum(np.searchsorted(at, stretch.at_ms, side="right") - 1, 0)])


def _block(stretch: _Stretch, decision: Decision, until_ms: int) -> StripBlock:
    shown = show.temperature(decision.value, stretch.home)
    return StripBlock(
        start=stretch.place(decision.at_ms),
        end=stretch.place(until_ms),
        value=decision.value,
        label=f"{decision.claim.reason} {shown}",
        hatch=hatch_step(decision.value),
        is_first=decision.at_ms < stretch.start_ms,
    )


def _curve(stretch: _Stretch, name: str, note: str, values: Floats, unit: str, css: str, decimals: int) -> Lane:
    known = values[~np.isnan(values)]
    low, high = (float(known.min()), float(known.max())) if known.size else (0.0, 1.0)
    margin = max(0.1 * (high - low), 0.5)
    is_power = css == "wm-pw"
    top = max(high + margin, LEAST_SCALE_W if is_power else 1.0)
    mark = float(f"{top / 2:.1g}") if is_power else float(round((low + high) / 2))
    last = np.flatnonzero(~np.isnan(values))
    return Lane(
        name=name,
        note=note,
        height=CURVE if stretch.is_crowded else MIDDLE,
        low=0.0 if is_power else low - margin,
        high=top,
        axis=[(mark, f"{mark / W_PER_KW:g} k" if mark >= W_PER_KW else show.number(mark))]
        if known.size and not stretch.is_crowded and len(name) <= AXIS_LETTERS
        else [],
        fills=(Curve(values=values, css="wm-pw"),) if is_power else (),
        curves=() if is_power else (Curve(values=values, css=css),),
        dots=[(float(last[-1]), float(values[last[-1]]))] if last.size else [],
        table=[(stretch.every(values, decimals), unit, "")],
    )


def _humidity(stretch: _Stretch) -> Iterator[Lane]:
    for room in stretch.home.rooms:
        if stretch.now.values.of("relative_humidity", room.id) is not None:
            values = stretch.by_minute("relative_humidity", room.id)
            yield _curve(stretch, gutter_name(room.name), "humidity", values, "%", "wm-temp", 0)
            return


def _meter(stretch: _Stretch) -> Iterator[Lane]:
    if stretch.now.values.of("grid_import_w", "") is not None:
        yield _curve(stretch, "From the grid", "W", stretch.by_minute("grid_import_w", ""), "W", "wm-pw", 0)


def _price(stretch: _Stretch) -> Iterator[Lane]:
    tariff = stretch.home.newest_tariff
    if tariff is None:
        return
    track = track_of(stretch.app, stretch.home, Signal(quantity="price"), stretch.start_ms, stretch.end_ms)
    values = value_of(track, stretch.at_ms)
    if np.isnan(values).all():
        return
    edges = [0, *(np.flatnonzero(np.diff(values)) + 1).tolist(), values.size - 1]
    steps = [
        StripStep(
            start=float(a),
            end=float(b),
            value=float(values[a]),
            label=show.small_money(float(values[a]), tariff.currency),
        )
        for a, b in itertools.pairwise(edges)
        if b > a and not np.isnan(values[a])
    ]
    unit = show.small_money_unit(tariff.currency)
    strings = ["" if np.isnan(v) else show.small_money(float(v), tariff.currency) for v in values[::TABLE_MIN].tolist()]
    yield Lane(
        name="Price",
        note=f"{unit}/kWh",
        height=LOW,
        low=min(0.0, float(np.nanmin(values))),
        high=float(np.nanmax(values)) * 1.15 + 0.001,
        steps=steps,
        table=[(strings, unit, "")],
    )


def _people(stretch: _Stretch) -> Iterator[Lane]:
    for quantity, subject, name in (("is_home", "", "Somebody in"), ("is_moving", "", "Motion")):
        signal = Signal(quantity=quantity, subject_id=subject or None)
        track = track_of(stretch.app, stretch.home, signal, stretch.start_ms, stretch.now.now_ms + 1)
        if not track.at_ms.size:
            continue
        values = value_of(track, stretch.at_ms)
        values[stretch.at_ms > stretch.now.now_ms] = np.nan
        words = QUANTITIES[quantity].states
        strings = ["" if np.isnan(v) else words[int(v >= 0.5)] for v in values[::TABLE_MIN].tolist()]
        yield Lane(name=name, height=24, stretches=_true(values), table=[(strings, "", "")])
        return


def _true(values: Floats) -> list[StripStretch]:
    on = np.concatenate([[False], np.nan_to_num(values) >= 0.5, [False]])
    edges = np.flatnonzero(on[1:] != on[:-1])
    return [
        StripStretch(start=float(a), end=float(b), css="wm-bar")
        for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
    ]


def _machines(stretch: _Stretch) -> Iterator[Lane]:
    heard_of = [a for a in stretch.home.appliances if stretch.now.values.of("electric_w", a.id) is not None]
    runs_now = {run.appliance.id for run in stretch.now.machines}
    heard_of.sort(key=lambda appliance: appliance.id not in runs_now)
    for appliance in heard_of[: 1 if stretch.is_crowded else MOST_MACHINES]:
        values = stretch.by_minute("electric_w", appliance.id)
        lane = _curve(stretch, gutter_name(appliance.name), "W", values, "W", "wm-pw", 0)
        setting = appliance.setting("finished")
        runs = [] if setting is None else _true(np.where(values >= max(setting.threshold_w, 1.0), 1.0, 0.0))
        wait = 0.0 if setting is None else setting.wait_s / S_PER_MIN
        joined: list[Bracket] = []
        for run in runs:
            if joined and run.start - joined[-1].end <= wait:
                joined[-1] = Bracket(start=joined[-1].start, end=run.end, label="")
            else:
                joined.append(Bracket(start=run.start, end=run.end, label=""))
        yield replace(lane, brackets=[each for each in joined if each.end - each.start >= 5])


def _rules(stretch: _Stretch) -> Iterator[Lane]:
    """Yield a lane for each rule that did something in the stretch, or of which somebody is told."""
    rows = []
    for number, rule in enumerate(stretch.home.rules, 1):
        firings = [f for f in stretch.now.firings if f.rule_id == rule.id]
        bars = [
            StripStretch(start=stretch.place(f.at_ms), end=stretch.place(f.end_ms or stretch.now.now_ms), css="wm-bar")
            for f in firings
            if f.at_ms < stretch.end_ms and (f.end_ms is None or f.end_ms > stretch.start_ms)
        ]
        ticks = list(_tellings(stretch, rule))
        if bars or ticks:
            rows.append((number, bars, ticks, any(f.end_ms is None for f in firings)))
    for number, bars, ticks, holds in rows[:MOST_RULES]:
        word = "holds" if holds else ("tells" if ticks else "")
        strings = [word] * len(stretch.at_ms[::TABLE_MIN])
        yield Lane(name=f"Rule {number}", height=22, stretches=bars, ticks=ticks, table=[(strings, "", "")])


def _tellings(stretch: _Stretch, rule: Rule) -> Iterator[Tick]:
    for each in stretch.now.alerts:
        if each.alert.detail.get("rule_id") != rule.id:
            continue
        yield from tick_marks(stretch, each)


def tick_marks(stretch: _Stretch, each: AlertNow) -> Iterator[Tick]:
    """Yield when an alert was told, and hollow when it will be."""
    for telling in each.run.told:
        if telling.at_ms >= stretch.start_ms:
            yield Tick(at=stretch.place(telling.at_ms), title=each.alert.text)
    for telling in each.run.to_come:
        if telling.at_ms < stretch.end_ms:
            yield Tick(at=stretch.place(telling.at_ms), is_ahead=True, title=each.alert.text)
