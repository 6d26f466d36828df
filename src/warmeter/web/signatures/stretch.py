"""A stretch of a machine's log as a strip at any zoom: power, low end, cycles with phases, tellings, price."""

import itertools
from dataclasses import dataclass

import numpy as np

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.edits.cycle_labels import CycleSpan
from warmeter.core.home.document import Home
from warmeter.core.home.machines import PhaseName
from warmeter.core.signature.buckets import Buckets, buckets
from warmeter.core.signature.cycles import Cycle
from warmeter.core.signature.tuner import Verdict
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, MIN_PER_DAY, MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.tariffs.pricing import known_prices
from warmeter.web import format as show
from warmeter.web.strip.draw import LEFT, RIGHT, DrawnStrip, draw
from warmeter.web.strip.lanes import Axis, Bracket, Curve, Lane, ReferenceLine, StripStep, StripStretch, StripView, Tick

LOW_SHARE = 3.0  # the lower lane is cut at this many times the threshold
EVERY_MIN = (1, 2, 5, 10, 15, 30, 60, 120, 180, 360, 720)
MOST_CYCLES = 60
MOST_TICKS, TICK_PX = 12, 44  # a time is so wide with the room that it needs
PRICE_DAYS = 4
LONGEST_NOTCHED_MIN = 2 * MIN_PER_DAY
READOUTS = 600


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingTells:
    """A setting's tellings over the record, with its name in the left gutter and its setting in words."""

    name: str
    words: str
    verdict: Verdict


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What is drawn: instants [start, end) ms UTC and the cycle that is chosen."""

    start_ms: int
    end_ms: int
    chosen: Cycle | None

    @property
    def minutes(self) -> float:
        """Length of the stretch [min]."""
        return (self.end_ms - self.start_ms) / MS_PER_MIN

    def at_min(self, at_ms: float) -> float:
        """Return an instant's place on the axis [min]."""
        return (at_ms - self.start_ms) / MS_PER_MIN


def span_of_cycle(record: MachineRecord, cycle: Cycle) -> CycleSpan:
    """Return a cycle's stretch [ms UTC]."""
    return CycleSpan(record.at_ms(cycle.start), record.at_ms(cycle.end))


def phase_name(mean_w: float, names: tuple[PhaseName, ...]) -> str:
    """Return what a person calls phases of a power, "" where nothing was said."""
    return next((n.name for n in names if n.low_w <= mean_w < n.high_w), "")


def stretch_strip(
    app: App, record: MachineRecord, home: Home, shown: Shown, told: list[SettingTells], threshold_w: float, width: int
) -> DrawnStrip:
    """Return the stretch's strip for a width [px]."""
    clock = app.clock(home)
    plot = max(200, width - LEFT - RIGHT)
    first, last = record.step_at(shown.start_ms), record.step_at(shown.end_ms)
    drawn = buckets(record.power_w, first, last, plot)
    axis = _axis(shown, clock, home, min(MOST_TICKS, plot // TICK_PX))
    lanes = [*_power_lanes(record, shown, drawn, threshold_w), _cycle_lane(record, shown)]
    lanes += [_told_lane(record, shown, each) for each in told]
    price = _price_lane(app, home, clock, shown)
    lanes += [price] if price else []
    step_min = record.step_s / 60
    return draw(
        StripView(
            id="log",
            title=f"{record.appliance.name}, {show.day_short(clock.local(shown.start_ms).date(), home.country)}",
            axis=axis,
            lanes=lanes,
            width=width,
            attributes={
                "data-zoom": "1",
                "data-since": str(shown.start_ms),
                "data-machine": record.appliance.id,
                "data-span": span_of_cycle(record, shown.chosen).text if shown.chosen else "",
                "data-snap": f"{max(1.0, step_min):g} {step_min:g}",
            },
        )
    )


def _axis(shown: Shown, clock: LocalClock, home: Home, most_ticks: int) -> Axis:
    minutes = shown.minutes
    every_min = next((m for m in EVERY_MIN if minutes / m <= most_ticks), 0)
    ticks = _clock_ticks(shown, clock, every_min) if every_min else _day_ticks(shown, clock, home)
    at = shown.start_ms + np.arange(READOUTS) * (minutes * MS_PER_MIN / READOUTS)
    seconds = ":%S" if minutes < 600 else ""
    is_long = minutes > 1440
    times = []
    for each in at.astype(np.int64).tolist():
        local = clock.local(each)
        day = f"{show.day_short(local.date(), home.country)} " if is_long else ""
        times.append(day + f"{local:%H:%M{seconds}}")
    middle = 0.5 * minutes if shown.chosen is None else shown.at_min(shown.start_ms) + 0.5 * minutes
    return Axis(
        length=minutes,
        grid=[(place, False) for place, _ in ticks],
        numerals=ticks,
        table_step=minutes / READOUTS,
        table_times=times,
        crosshair=middle,
        clock_names=[(0.0, clock.local(shown.start_ms).tzname() or "")],
    )


def _clock_ticks(shown: Shown, clock: LocalClock, every_min: int) -> list[tuple[float, str]]:
    """Return round times of the wall clock in the stretch, with their places [min]."""
    found = []
    for day in clock.days(shown.start_ms, shown.end_ms):
        for minute in range(0, 1440, every_min):
            at = clock.instant(day.date, minute)
            if shown.start_ms <= at < shown.end_ms:
                found.append((shown.at_min(at), f"{minute // 60:02d}:{minute % 60:02d}"))
    return found


def _day_ticks(shown: Shown, clock: LocalClock, home: Home) -> list[tuple[float, str]]:
    days = clock.days(shown.start_ms, shown.end_ms)
    every = max(1, -(-len(days) // 10))
    return [
        (shown.at_min(day.start_ms), show.day_short(day.date, home.country))
        for k, day in enumerate(days)
        if k % every == 0 and shown.start_ms <= day.start_ms < shown.end_ms
    ]


def _power_lanes(record: MachineRecord, shown: Shown, drawn: Buckets, threshold_w: float) -> list[Lane]:
    top = max(float(np.nanmax(drawn.high, initial=1.0)) * 1.08, 1.0)
    mark = 10 ** int(np.floor(np.log10(top)))
    cut = max(LOW_SHARE * threshold_w, 2 * record.found.learnt.rest.high_w, 1.0)
    note = f"W, {record.step_s:g} s" if drawn.mean.size * record.step_s >= shown.minutes * 59 else "W, least to most"
    return [
        Lane(
            name="Power",
            note=note,
            height=84,
            high=top,
            axis=[(mark, show.number(mark)), *([(2 * mark, show.number(2 * mark))] if 2 * mark < top else [])],
            fills=_curves(drawn, shown, np.inf),
            table=[(_readout(drawn), "W", "")],
        ),
        Lane(
            name="Low end",
            note=f"W, cut at {cut:.0f}",
            height=64,
            high=cut,
            axis=[(cut / 3, show.number(cut / 3)), (2 * cut / 3, show.number(2 * cut / 3))],
            fills=_curves(drawn, shown, cut),
            levels=(
                ReferenceLine(value=threshold_w, css="wm-thr", label=f"threshold {show.number(threshold_w, 0)} W"),
            ),
            table=[(_readout(drawn, is_low=True), "W", "least")],
        ),
    ]


def _curves(drawn: Buckets, shown: Shown, cut: float) -> tuple[Curve, ...]:
    """Return the highest, mean and lowest power of each pixel as fills, one over the other."""
    step = shown.minutes / drawn.mean.size
    parts = ((drawn.high, "wm-pw-high"), (drawn.mean, "wm-pw"), (drawn.low, "wm-pw-low"))
    return tuple(Curve(values=np.repeat(np.minimum(values, cut), 2), css=css, step=step / 2) for values, css in parts)


def _readout(drawn: Buckets, *, is_low: bool = False) -> list[str]:
    """Return what the crosshair reads, even over the stretch."""
    places = (np.arange(READOUTS) * drawn.mean.size // READOUTS).astype(np.int64)
    values = drawn.low if is_low else drawn.mean
    return ["" if np.isnan(v) else show.number(float(v), 1 if v < 100 else 0) for v in values[places]]


def _cycle_lane(record: MachineRecord, shown: Shown) -> Lane:
    inside = [
        c for c in record.found.cycles if record.at_ms(c.end) > shown.start_ms and record.at_ms(c.start) < shown.end_ms
    ]
    is_fine = shown.minutes <= LONGEST_NOTCHED_MIN and len(inside) <= 12
    if len(inside) > MOST_CYCLES:
        return Lane(
            name="Run",
            note=f"{len(inside)} here",
            height=44,
            stretches=[
                StripStretch(start=shown.at_min(a), end=shown.at_min(b), css="wm-bar")
                for a, b in (span_of_cycle(record, c) for c in inside)
            ],
        )
    brackets, names = [], []
    for cycle in inside:
        start, end = span_of_cycle(record, cycle)
        phases = record.phases(cycle) if is_fine else ()
        notches = tuple(shown.at_min(record.at_ms(p.start)) for p in phases[1:])
        is_chosen = cycle is shown.chosen
        brackets.append(
            Bracket(
                start=max(shown.at_min(start), 0.0),
                end=min(shown.at_min(end), shown.minutes),
                label=(cycle.programme or ("" if not is_fine else "run")) + ("" if cycle.is_whole else " (cut)"),
                note=f"{record.features(cycle).energy_kwh:.2f} kWh" if is_fine else "",
                notches=tuple(n for n in notches if 0 < n < shown.minutes),
                key="chosen" if is_chosen else "",
                has_two_ends=True,
            )
        )
        for phase in phases:
            word = phase_name(phase.mean_w, record.appliance.phase_names)
            ends = shown.at_min(record.at_ms(phase.start)), shown.at_min(record.at_ms(phase.end))
            names.append(
                StripStretch(start=max(ends[0], 0), end=min(ends[1], shown.minutes), css="wm-none", label=word)
            )
    return Lane(name="Run", note="phase", height=44, brackets=brackets, stretches=names)


def _told_lane(record: MachineRecord, shown: Shown, told: SettingTells) -> Lane:
    def inside(steps: tuple[int, ...]) -> list[float]:
        at = [shown.at_min(record.at_ms(s)) for s in steps]
        return [a for a in at if 0 <= a < shown.minutes]

    is_short = shown.minutes <= LONGEST_NOTCHED_MIN
    words = (StripStretch(start=0, end=0.3 * shown.minutes, css="wm-none", label=told.words),) if is_short else ()
    ticks = [Tick(at=a, is_false=True) for a in inside(told.verdict.false_at)]
    ticks += [Tick(at=a) for a in inside(told.verdict.told_at)]
    return Lane(
        name=told.name,
        height=26,
        ticks=ticks,
        stretches=words,
        table=[([f"{told.verdict.false} false"] * READOUTS, "", "")],
    )


def _price_lane(app: App, home: Home, clock: LocalClock, shown: Shown) -> Lane | None:
    tariff = home.tariff_on(clock.local(shown.start_ms).date())
    if tariff is None or shown.end_ms - shown.start_ms > PRICE_DAYS * MS_PER_DAY:
        return None
    first = shown.start_ms // MS_PER_MIN * MS_PER_MIN
    prices = known_prices(app, home, minutes_between(first, shown.end_ms + MS_PER_MIN))
    if prices is None:
        return None
    price = prices.by_step
    edges = [0, *(np.flatnonzero(np.diff(price)) + 1).tolist(), price.size]
    steps = [
        StripStep(
            start=max(shown.at_min(first + a * MS_PER_MIN), 0.0),
            end=min(shown.at_min(first + b * MS_PER_MIN), shown.minutes),
            value=float(price[a]),
            label=show.small_money(float(price[a]), home.currency),
        )
        for a, b in itertools.pairwise(edges)
    ]
    places = np.minimum((np.arange(READOUTS) * shown.minutes / READOUTS).astype(np.int64), price.size - 1)
    return Lane(
        name="Price",
        note=f"{show.small_money_unit(home.currency)}/kWh",
        height=26,
        low=min(0.0, float(price.min())),
        high=max(1.02 * float(price.max()), 0.01),
        steps=steps,
        table=[
            (
                [show.small_money(float(p), home.currency) for p in price[places]],
                show.small_money_unit(home.currency),
                "",
            )
        ],
    )


def energy_kwh(record: MachineRecord, cycles: tuple[Cycle, ...]) -> float:
    """Return what cycles used together [kWh]."""
    return float(sum(np.nansum(record.power_w[c.start : c.end]) for c in cycles)) * record.step_s / J_PER_KWH
