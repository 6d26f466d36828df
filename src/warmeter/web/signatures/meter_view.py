"""The home's meter as a strip of its days, sentences and a table of its months, ready strings."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.service.signatures.meter import Meter, MeterStretch
from warmeter.web import format as show
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import Axis, Curve, Lane, StripStretch, StripView

SHOWN_GAPS = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterView:
    """The pane's part about the meter; ``months`` are (stretch, energy, mean, share known)."""

    strip: DrawnStrip
    lines: list[str]
    night: list[str]
    gaps: list[str]
    months: list[tuple[str, str, str, str]]
    chosen: tuple[str, str, str, str] | None
    first: str
    last: str


def meter_view(home: Home, clock: LocalClock, meter: Meter, chosen: MeterStretch | None, width: int) -> MeterView:
    """Return the meter's part of the pane; ``chosen`` is a stretch that was asked for."""
    return MeterView(
        strip=_strip(home, meter, clock, width),
        lines=_lines(home, clock, meter),
        night=_night(home, meter),
        gaps=_gaps(home, clock, meter),
        months=[_row(home, month) for month in meter.months],
        chosen=None if chosen is None else _row(home, chosen),
        first=(chosen or meter.whole).first.isoformat(),
        last=(chosen or meter.whole).last.isoformat(),
    )


def _row(home: Home, stretch: MeterStretch) -> tuple[str, str, str, str]:
    return (
        f"{show.day_long(stretch.first, home.country)} to {show.day_long(stretch.last, home.country)}",
        show.number(stretch.kwh, 1),
        show.number(stretch.mean_w),
        _percent(stretch.coverage),
    )


def _percent(share: float) -> str:
    """Return a share in per cent; what is not quite all never reads as all."""
    return "100 %" if share >= 1 - 1e-9 else f"{min(99.99, 100 * share):.2f} %"


def _lines(home: Home, clock: LocalClock, meter: Meter) -> list[str]:
    whole = meter.whole
    overlaps = (
        f" {meter.overlapping} readings overlap others; every second is counted once." if meter.overlapping else ""
    )
    missing = (
        f"{show.number(meter.missing_intervals)} intervals are missing, in {len(meter.missing_ms)} stretch{'es' * (len(meter.missing_ms) != 1)}"
        if meter.missing_ms
        else "no interval is missing"
    )
    return [
        f"From {show.day_long(whole.first, home.country)} to {show.day_long(whole.last, home.country)}, in steps of "
        f"{show.duration(meter.step_s / 60)}: {show.number(whole.kwh, 1)} kWh taken from the grid, "
        f"{show.number(whole.mean_w)} W in the mean of what is known; {missing}.{overlaps}",
        f"The highest interval had {show.number(meter.highest_w / 1000, 2)} kW in the mean, from "
        f"{show.moment(meter.highest_ms, clock, home.country)}.",
    ]


def _gaps(home: Home, clock: LocalClock, meter: Meter) -> list[str]:
    """Return the longest gaps in words."""
    longest = sorted(meter.missing_ms, key=lambda g: g[0] - g[1])[:SHOWN_GAPS]
    told = [
        f"{show.moment(a, clock, home.country)} to {show.moment(b, clock, home.country)} "
        f"({show.duration((b - a) / MS_PER_MIN)})"
        for a, b in longest
    ]
    left = len(meter.missing_ms) - len(told)
    return [*told, *([f"and {left} shorter"] if left else [])]


def _night(home: Home, meter: Meter) -> list[str]:
    """Return what the meter's nights say, in sentences."""
    floor = meter.floor
    all_nights = len(floor.nights)
    if floor.floor_w is None:
        return [f"Of {all_nights} nights none is known well enough (four fifths of 01:00 to 05:00)."]
    spread = f"{show.number(floor.p10_w)} to {show.number(floor.p90_w)} W in eight of ten"
    never = (
        f"On none of them did it draw less than {show.number(floor.floor_w)} W."
        if floor.never_below
        else f"On {floor.below_nights} of them ({100 * (floor.below_share or 0.0):.0f} %) some interval was lower."
    )
    left = all_nights - floor.counted_nights
    unknown = f"; {left} more are not known well enough" if left else ""
    usual = (
        f"Between 01:00 and 05:00 the home usually draws about {show.number(floor.floor_w)} W ({spread} of "
        f"{floor.counted_nights} nights{unknown}). {never}"
    )
    if meter.unexplained_w is None:
        return [usual, meter.standing.why]
    heating = (
        f"About {show.number(meter.standing.heating_w)} W of it rise with the cold, as heating does, and are left out; "
        f"{show.number(meter.standing.floor_w)} W stand all year. "
        if meter.standing.heating_w > 0
        else ""
    )
    rest = (
        f"The plugs explain {show.number(meter.plugs_w)} W of it; nobody has measured the other "
        f"{show.number(meter.unexplained_w)} W."
        if meter.unexplained_w >= 0
        else f"The plugs show {show.number(-meter.unexplained_w)} W more than the meter: one of them has moved, or the "
        "log's days differ."
    )
    return [
        usual,
        f"{heating}{rest}",
        f"Drawn all year, that is {show.number(float(meter.floor_kwh_year or 0))} kWh, "
        f"{show.money(meter.floor_money_year, home.currency)}.",
    ]


def _strip(home: Home, meter: Meter, clock: LocalClock, width: int) -> DrawnStrip:
    """Return the meter's days with their gaps."""
    values = meter.daily_w
    days = values.size
    start_ms = clock.day(meter.whole.first).start_ms
    every = max(1, -(-days // 10))
    dates = [clock.local(start_ms + k * MS_PER_DAY + 43_200_000).date() for k in range(days)]
    per_ms = 1 / MS_PER_DAY
    gaps = [
        StripStretch(
            start=max(0.0, (a - start_ms) * per_ms), end=min(float(days), (b - start_ms) * per_ms), css="wm-gap"
        )
        for a, b in sorted(meter.missing_ms, key=lambda g: g[0] - g[1])[:200]
    ]
    top = max(1.15 * float(np.nanmax(values, initial=1.0)), 10.0)
    mark = float(f"{top / 2:.1g}")
    return draw(
        StripView(
            id="meter",
            title="The meter by day",
            axis=Axis(
                length=float(max(days, 1)),
                grid=[(float(k), False) for k in range(0, days, every)],
                numerals=[(float(k), show.day_short(dates[k], home.country)) for k in range(0, days, every)],
                table_step=1.0,
                table_times=[show.day_short(d, home.country) for d in dates],
                crosshair=max(days - 0.5, 0.5),
            ),
            lanes=[
                Lane(
                    name="The meter",
                    note="W, by day",
                    height=64,
                    high=top,
                    axis=[(mark, show.number(mark))],
                    fills=(Curve(values=np.repeat(values, 8), css="wm-pw", step=0.125),),
                    stretches=tuple(gaps),
                    table=[(["" if np.isnan(v) else show.number(float(v)) for v in values], "W", "")],
                )
            ],
            width=width,
        )
    )
