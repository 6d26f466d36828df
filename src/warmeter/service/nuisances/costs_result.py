"""Costs that nobody understands, and things left on: what the meter's readings come to, and what runs all night."""

from collections.abc import Sequence
from decimal import Decimal

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.figure import Figure, Input
from warmeter.core.forecast.tariff_year import mean_price, money_of_even_use, standing_a_year
from warmeter.core.home.document import Home
from warmeter.core.nuisances.result import DayBars, FoundNumber, More, NuisanceResult
from warmeter.core.saving.simple import exact
from warmeter.core.units import J_PER_KWH, MS_PER_DAY, S_PER_DAY
from warmeter.service.app import App
from warmeter.service.readings.room_logs import series_of
from warmeter.service.signatures.meter import Meter, meter_of

DAYS_A_YEAR, MOST_BARS = Decimal(365), 60
COSTS_MORE = (
    More(
        title="A log of the meter",
        text="What runs all night, and at which hours it is drawn.",
        step="import_log",
        minutes=5,
    ),
    More(title="The hours of the tariff", text="Which hours cost more, and what could wait.", step="tariff", minutes=5),
)
OUTDOORS_MORE = (
    More(
        title="The temperature outdoors of the same days",
        text="What follows the cold is heat; the rest stands all year.",
        step="import_log",
        minutes=5,
    ),
)
LEFT_ON_MORE = (
    More(
        title="A metering plug on what you suspect",
        text="Each appliance that is logged takes its share out of what nobody owns.",
        step="signatures",
        minutes=10,
    ),
)


def costs_result(app: App, home: Home, part_id: str) -> NuisanceResult:  # noqa: ARG001  # no part: the meter
    """Return what the readings of the meter come to a day and a year."""
    series = series_of(app, home.id, "grid_import_w", "")
    if not series:
        return NuisanceResult(sentence="Write two readings of the meter.", is_answered=False)
    counter = next((s for s in series if s.record.kind == "counter"), series[0])
    found = app.readings.readings(counter.id).in_stored_unit(counter.record)
    heard = ~np.isnan(found.value)
    at, value = found.at_ms[heard], found.value[heard]
    if at.size < 2:
        return NuisanceResult(sentence="Write a second reading of the meter.", is_answered=False)
    days = float(at[-1] - at[0]) / MS_PER_DAY
    kwh = float(value[-1] - value[0]) / J_PER_KWH
    last = app.clock(home).local(int(at[-1])).date()
    year_kwh = exact(kwh / days) * DAYS_A_YEAR
    energy = money_of_even_use(home, last, year_kwh)
    standing = standing_a_year(home.tariff_on(last))
    facts = (
        FoundNumber(label="Days between the readings", value=days, decimals=1),
        FoundNumber(label="Drawn", value=kwh, unit="kWh", decimals=1),
        FoundNumber(label="A day", value=kwh / days, unit="kWh", decimals=2),
        FoundNumber(label="Mean power", value=1000 * kwh / days / 24, unit="W"),
        FoundNumber(label="At this pace, a year", value=float(year_kwh), unit="kWh"),
    )
    if energy is None:
        words = f"{kwh / days:.1f} kWh a day, {year_kwh:.0f} kWh a year at this pace; it has no price yet: type it here or under Tariff."
        return NuisanceResult(sentence=words, is_answered=True, facts=facts, more=COSTS_MORE)
    total = energy + standing
    share = 100 * float(standing / total) if total else 0.0
    figure = Figure(
        key="costs",
        title="A year at this pace",
        unit=f"{home.currency} a year",
        value=float(total),
        decimals=0,
        formula="kWh a day · 365 · price + standing charge · 365",
        substituted=f"{kwh / days:.3f} · 365 · {float(energy / year_kwh) if year_kwh else 0.0:.4f} + {standing:.2f} = {total:.2f}",
        method="I1 flat bill",
        inputs=(
            Input(symbol="E", name="between the readings", value=kwh, unit="kWh", decimals=1, origin="measured"),
            Input(symbol="d", name="days", value=days, unit="d", decimals=2, origin="typed"),
        ),
        note="As if every day of the year were like these: what is drawn in another season no two readings tell.",
    )
    words = (
        f"{kwh / days:.1f} kWh a day. At this pace a year comes to {year_kwh:.0f} kWh and {total:.0f} {home.currency}, "
        f"of which {share:.0f} % is the standing charge. Another season may differ."
    )
    return NuisanceResult(sentence=words, is_answered=True, facts=facts, more=COSTS_MORE, figure=figure)


def left_on_result(app: App, home: Home, part_id: str) -> NuisanceResult:  # noqa: ARG001  # no part: the meter
    """Return what runs all night by the meter's log, and what that costs a year."""
    try:
        meter = meter_of(app, home, 0.0)
    except NotKnowable as why:
        return NuisanceResult(sentence=str(why), is_answered=False)
    floor, standing = meter.floor, meter.standing
    if floor.floor_w is None:
        words = "No night of this log is known well enough: four fifths of 01:00 to 05:00 are needed."
        return NuisanceResult(sentence=words, is_answered=False, bars=_bars(app, home, meter))
    if standing.floor_w is None or meter.floor_kwh_year is None:
        words = f"{floor.floor_w:.0f} W run all night in this log. {standing.why}"
        return NuisanceResult(sentence=words, is_answered=False, bars=_bars(app, home, meter), more=OUTDOORS_MORE)
    price = mean_price(home, app.clock(home).local(meter.last_ms).date())
    money = meter.floor_money_year
    low = f", {floor.p10_w:.0f} to {floor.p90_w:.0f} W in eight nights of ten" if floor.p10_w and floor.p90_w else ""
    never = "On no night was less drawn. " if floor.never_below else ""
    if standing.heating_w > 0:
        low = f" of a mild night; {standing.heating_w:.0f} W more rise with the cold, as heating does, and are left out"
        never = ""
    cost = "" if money is None else f" and {money:.0f} {home.currency}"
    words = (
        f"{standing.floor_w:.0f} W run all night{low}: standing still costs {meter.floor_kwh_year:.0f} kWh{cost} a year. "
        f"{never}What keeps food cold is in it."
    )
    facts = (
        FoundNumber(label="Nights that count", value=floor.counted_nights, unit=f"of {len(floor.nights)}"),
        FoundNumber(label="Night floor", value=floor.floor_w, unit="W"),
        FoundNumber(label="Mean of all hours", value=meter.whole.mean_w, unit="W"),
        FoundNumber(label="Highest interval", value=meter.highest_w, unit="W"),
        FoundNumber(
            label="Share that stands still",
            value=None if not meter.whole.mean_w else 100 * standing.floor_w / meter.whole.mean_w,
            unit="%",
        ),
    )
    figure = None
    if money is not None and price is not None:
        figure = Figure(
            key="left-on",
            title="Standing still for a year",
            unit=f"{home.currency} a year",
            value=float(money),
            decimals=0,
            low=float(money) * (1 - standing.down_w / standing.floor_w) if standing.floor_w else None,
            high=float(money) * (1 + standing.up_w / standing.floor_w) if standing.floor_w else None,
            formula="what stands of the night floor · 8760 h/1000 · price",
            substituted=f"{standing.floor_w:.1f} W · 8760 h/1000 · {price:.4f} = {money:.2f}",
            method="Q9 night floor",
        )
    return NuisanceResult(
        sentence=words, is_answered=True, facts=facts, bars=_bars(app, home, meter), more=LEFT_ON_MORE, figure=figure
    )


def _bars(app: App, home: Home, meter: Meter) -> DayBars:
    """Return the meter's energy by day."""
    daily = meter.daily_w[:MOST_BARS] * S_PER_DAY / J_PER_KWH
    return DayBars(
        label="Drawn, by day",
        unit="kWh",
        first=app.clock(home).local(meter.first_ms).date(),
        values=tuple(None if np.isnan(each) else float(each) for each in daily),
    )


def counter_csv(readings: Sequence[tuple[str, float]]) -> bytes:
    """Return a meter's readings as a log: each local time with its counter [kWh]."""
    lines = ["time,meter kWh", *(f"{at},{kwh:.3f}" for at, kwh in readings)]
    return "\n".join(lines).encode()
