"""What heaters draw over a stretch and what it costs: electricity at a tariff's rates, fuels at their own prices."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.fuel import FUELS, burns_fuel, price_of_drawn
from warmeter.core.home.plant import Heater, Source
from warmeter.core.tariff.prices import Prices
from warmeter.core.tariff.structure import BillLine, by_rate
from warmeter.core.thermal.room_fit import DrawnEstimate, range_of
from warmeter.core.units import W_MIN_PER_KWH


@dataclass(frozen=True, slots=True, kw_only=True)
class Costed:
    """What is drawn for heat [kWh of electricity, or of fuel where ``fuel`` names one], and its cost: best and 95 % range.

    ``cost`` is None where what is drawn has no price.
    """

    heat_kwh: DrawnEstimate
    cold_kwh: DrawnEstimate
    drawn_kwh: DrawnEstimate
    cost: DrawnEstimate | None
    by_rate: tuple[BillLine, ...] = ()
    fuel: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PricedEnergy:
    """What a heater draws and at which price: the rates' names and prices, the price and the rate by step.

    ``fuel`` names what is burnt, "" for electricity; ``by_step`` is None where it has no price.
    """

    fuel: str
    names: tuple[str, ...] = ()
    prices: tuple[Decimal, ...] = ()
    rate: Ints | None = None
    by_step: Floats | None = None


def drawn_of(heater: Heater, source: Source, prices: Prices | None, minutes: int) -> PricedEnergy:
    """Return what a heater draws over a stretch: electricity at the tariff's rates, or its boiler's fuel at its own price."""
    fuel = FUELS[source.fuel].name if burns_fuel(heater, source) else ""
    by_step = price_of_drawn(heater, source, None if prices is None else prices.by_step, minutes)
    if by_step is None:
        return PricedEnergy(fuel=fuel)
    if fuel:
        price = Decimal(repr(float(by_step[0])))
        return PricedEnergy(
            fuel=fuel, names=(fuel,), prices=(price,), rate=np.zeros(minutes, dtype=np.int64), by_step=by_step
        )
    assert prices is not None  # only a tariff gives electricity a price
    rates = prices.tariff.rates
    return PricedEnergy(
        fuel="",
        names=tuple(r.name for r in rates),
        prices=tuple(r.price_per_kwh for r in rates),
        rate=prices.rate,
        by_step=by_step,
    )


def costed(heat_w: Floats, cop: Floats, drawn: PricedEnergy) -> Costed:
    """Return energy and cost of heat given or taken away by draw and minute."""
    electric = np.abs(heat_w) / cop / W_MIN_PER_KWH
    cost = None
    split: tuple[BillLine, ...] = ()
    if drawn.by_step is not None and drawn.rate is not None:
        cost = range_of(electric @ drawn.by_step)
        split = by_rate(tuple(zip(drawn.names, drawn.prices, strict=True)), drawn.rate, electric[0])
    return Costed(
        fuel=drawn.fuel,
        heat_kwh=range_of(np.maximum(heat_w, 0.0).sum(axis=1) / W_MIN_PER_KWH),
        cold_kwh=range_of(np.maximum(-heat_w, 0.0).sum(axis=1) / W_MIN_PER_KWH),
        drawn_kwh=range_of(electric.sum(axis=1)),
        cost=cost,
        by_rate=split,
    )
