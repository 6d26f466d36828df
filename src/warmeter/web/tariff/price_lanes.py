"""A tariff's different days as lanes: the price by the hour with its parts, holes hatched, edges that can be dragged."""

from decimal import Decimal

from warmeter.core.home.tariffs import PricePart, Tariff
from warmeter.core.tariff.price_days import PriceDay, PriceStep, price_days, price_of_step
from warmeter.core.tariff.taxes import tax_factor
from warmeter.core.units import MIN_PER_DAY
from warmeter.web import format as show
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import Axis, Lane, StripStep, StripStretch, StripView, gutter_name
from warmeter.web.tariff.rate_words import days_words, seasons_words

HEIGHT_FEW, HEIGHT_MANY, FEW = 64, 44, 4
TABLE_MIN = 5
GUTTER, WIDE_PX = 128, 560
EVENING_MIN = 1110.0
HEADROOM = 1.12
SOLD: tuple[PricePart, ...] = ("export",)


def price_parts(tariff: Tariff, step: PriceStep) -> tuple[Decimal, ...]:
    """Return a step's price built up: energy, with network and levies, with taxes [currency/unit]; () in a hole."""
    if step.energy is None:
        return ()
    energy = tariff.rates[step.energy].price_per_unit
    rest = sum((tariff.rates[place].price_per_unit for place in step.rates[1:] if place is not None), Decimal(0))
    if tariff.prices_include_tax:
        return energy, energy + rest, energy + rest
    return energy, energy + rest, (energy + rest) * tax_factor(tariff.taxes)


def _step(tariff: Tariff, step: PriceStep, before: PriceStep | None, number: int) -> StripStep | None:
    parts = [float(part) for part in price_parts(tariff, step)]
    if not parts:
        return None
    has_edge = before is not None and before.energy is not None
    return StripStep(
        start=float(step.from_min),
        end=float(step.to_min),
        value=parts[-1],
        label=show.small_money(parts[-1], tariff.currency),
        parts=tuple(parts[:-1]) if parts[0] < parts[-1] else (),
        edge_key=f"{number}-{step.from_min}" if has_edge else "",
        edge_label=f"Rates change at {show.clock_time(step.from_min)}" if has_edge else "",
    )


def _lane(tariff: Tariff, day: PriceDay, number: int, low: float, high: float, height: int) -> Lane:
    unit = show.small_money_unit(tariff.currency)
    pairs = zip(day.steps, (None, *day.steps[:-1]), strict=True)
    steps = [made for step, before in pairs if (made := _step(tariff, step, before, number)) is not None]
    table = [
        "no rate" if price is None else show.small_money(float(price), tariff.currency)
        for step in day.steps
        for price in [price_of_step(tariff, step)]
        for _ in range(step.from_min, step.to_min, TABLE_MIN)
    ]
    return Lane(
        name=gutter_name(days_words(day.days)),
        note=seasons_words(day.spans),
        height=height,
        low=low,
        high=high,
        steps=steps,
        stretches=[
            StripStretch(start=float(s.from_min), end=float(s.to_min), css="wm-gap", label="no rate")
            for s in day.steps
            if s.energy is None
        ],
        table=[(table, unit, "")],
    )


def _demand_lane(tariff: Tariff) -> Lane | None:
    if not tariff.demand:
        return None
    charge = tariff.demand[0]
    hours = charge.hours
    ends = [(hours.from_min, hours.to_min)]
    if hours.from_min > hours.to_min:
        ends = [(0, hours.to_min), (hours.from_min, MIN_PER_DAY)]
    price = show.money(charge.price_per_kw, tariff.currency)
    inside = [any(a <= minute < b for a, b in ends) for minute in range(0, MIN_PER_DAY, TABLE_MIN)]
    return Lane(
        name="Demand",
        note=gutter_name(days_words(hours.days)),
        height=30,
        stretches=[StripStretch(start=float(a), end=float(b), css="wm-bar wm-demand") for a, b in ends],
        table=[([price if each else "" for each in inside], "/kW", "")],
    )


def _sold_lane(tariff: Tariff) -> Lane | None:
    if not tariff.rates_of("export"):
        return None
    day = price_days(tariff.rates, parts=SOLD)[0]
    steps = [
        StripStep(
            start=float(s.from_min),
            end=float(s.to_min),
            value=float(tariff.rates[s.energy].price_per_unit),
            label=show.small_money(float(tariff.rates[s.energy].price_per_unit), tariff.currency),
        )
        for s in day.steps
        if s.energy is not None
    ]
    table = [
        "" if s.energy is None else show.small_money(float(tariff.rates[s.energy].price_per_unit), tariff.currency)
        for s in day.steps
        for _ in range(s.from_min, s.to_min, TABLE_MIN)
    ]
    unit = show.small_money_unit(tariff.currency)
    high = max((step.value for step in steps), default=1.0)
    return Lane(
        name="Sold",
        note="paid to the home",
        height=34,
        low=min(0.0, *(step.value for step in steps)),
        high=max(high * HEADROOM * 1.4, 0.01),
        steps=steps,
        table=[(table, unit, "")],
    )


def price_strip(tariff: Tariff, width: int, post: str = "") -> DrawnStrip:
    """Return the strip of a tariff's different days by the meter's clock, all on one scale of prices; edges go to ``post``."""
    days = price_days(tariff.rates)
    every = 2 if width >= WIDE_PX else 6
    prices = [float(p) for day in days for s in day.steps if (p := price_of_step(tariff, s)) is not None]
    low = min(0.0, *prices) if prices else 0.0
    high = max(max(prices, default=0.0) * HEADROOM, low + 0.01)
    height = HEIGHT_FEW if len(days) <= FEW else HEIGHT_MANY
    axis = Axis(
        length=float(MIN_PER_DAY),
        grid=[(60.0 * hour, hour % 6 == 0) for hour in range(0, 25, every)],
        numerals=[(60.0 * hour, f"{hour:02d}") for hour in range(0, 25, every)],
        table_step=float(TABLE_MIN),
        table_times=[show.clock_time(minute) for minute in range(0, MIN_PER_DAY, TABLE_MIN)],
        crosshair=EVENING_MIN,
    )
    lanes = [_lane(tariff, day, number, low, high, height) for number, day in enumerate(days)]
    lanes += [lane for lane in (_demand_lane(tariff), _sold_lane(tariff)) if lane is not None]
    return draw(
        StripView(
            id="prices",
            title=f"{tariff.name}: the price of each hour",
            axis=axis,
            lanes=lanes,
            width=width,
            left=GUTTER,
            attributes={"data-post": post, "data-snap": "30 5"} if post else {},
        )
    )
