"""A tariff's different days as lanes: the price by the hour, holes hatched."""

from warmeter.core.home.document import Tariff
from warmeter.core.tariff.price_days import PriceDay, price_days
from warmeter.core.tariff.structure import ALL_MONTHS, DAY_KINDS, DayKind
from warmeter.core.units import MIN_PER_DAY
from warmeter.web import format as show
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import Axis, Lane, StripStep, StripStretch, StripView, gutter_name

KIND_WORD: dict[DayKind, str] = {"weekday": "workdays", "weekend": "weekends", "holiday": "holidays"}
MONTH_WORD = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
HEIGHT_FEW, HEIGHT_MANY, FEW = 64, 44, 4
TABLE_MIN = 5
GUTTER, WIDE_PX = 140, 600
EVENING_MIN = 1110.0


def months_words(months: tuple[int, ...]) -> str:
    """Return months in order, over the new year too, as "Nov to Feb" or "Jan, Mar to May"; "all year" for all."""
    if len(months) == len(ALL_MONTHS):
        return "all year"
    inside = set(months)
    starts = [m for m in ALL_MONTHS if m in inside and (m - 2) % 12 + 1 not in inside]
    words = []
    for start in starts:
        end = start
        while end % 12 + 1 in inside:
            end = end % 12 + 1
        name = MONTH_WORD[start - 1]
        words.append(name if end == start else f"{name} to {MONTH_WORD[end - 1]}")
    return ", ".join(words)


def kinds_words(kinds: tuple[DayKind, ...]) -> str:
    """Return kinds of day in words."""
    if set(kinds) == {"weekend", "holiday"}:
        return "days off"
    return "every day" if len(kinds) == len(DAY_KINDS) else ", ".join(KIND_WORD[kind] for kind in kinds)


def _lane(tariff: Tariff, day: PriceDay, low: float, high: float, height: int) -> Lane:
    prices = [None if s.rate is None else float(tariff.rates[s.rate].price_per_kwh) for s in day.steps]
    unit = show.small_money_unit(tariff.currency)
    steps = [
        StripStep(
            start=float(s.from_min), end=float(s.to_min), value=price, label=show.small_money(price, tariff.currency)
        )
        for s, price in zip(day.steps, prices, strict=True)
        if price is not None
    ]
    table = [
        "no rate" if price is None else show.small_money(price, tariff.currency)
        for s, price in zip(day.steps, prices, strict=True)
        for _ in range(s.from_min, s.to_min, TABLE_MIN)
    ]
    return Lane(
        name=gutter_name(kinds_words(day.kinds)),
        note=months_words(day.months),
        height=height,
        low=low,
        high=high,
        steps=steps,
        stretches=[
            StripStretch(start=float(s.from_min), end=float(s.to_min), css="wm-gap", label="no rate")
            for s in day.steps
            if s.rate is None
        ],
        table=[(table, unit, "")],
    )


def price_strip(tariff: Tariff, width: int) -> DrawnStrip:
    """Return the strip of a tariff's different days by the meter's clock, all on one scale of prices."""
    days = price_days(tariff.rates)
    every = 2 if width >= WIDE_PX else 6
    prices = [float(rate.price_per_kwh) for rate in tariff.rates]
    low = min(0.0, *prices)
    height = HEIGHT_FEW if len(days) <= FEW else HEIGHT_MANY
    axis = Axis(
        length=float(MIN_PER_DAY),
        grid=[(60.0 * hour, hour % 6 == 0) for hour in range(0, 25, every)],
        numerals=[(60.0 * hour, f"{hour:02d}") for hour in range(0, 25, every)],
        table_step=float(TABLE_MIN),
        table_times=[show.clock_time(minute) for minute in range(0, MIN_PER_DAY, TABLE_MIN)],
        crosshair=EVENING_MIN,
    )
    lanes = [_lane(tariff, day, low, max(max(prices) * 1.12, low + 0.01), height) for day in days]
    return draw(
        StripView(
            id="prices",
            title=f"{tariff.name}: the price of each hour",
            axis=axis,
            lanes=lanes,
            width=width,
            left=GUTTER,
        )
    )
