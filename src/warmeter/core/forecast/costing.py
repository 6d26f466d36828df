"""What heaters draw over a stretch and what it costs: electricity at a tariff's rates, fuels at their own prices."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.fuel import FUELS, burns_fuel, price_of_drawn
from warmeter.core.home.plant import Heater, Source
from warmeter.core.tariff.prices import Prices, RateCost, one_price
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
    by_rate: tuple[RateCost, ...] = ()
    fuel: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PricedEnergy:
    """What a heater draws and at which prices by step; ``fuel`` names what is burnt, "" for electricity.

    ``prices`` is None where it has none.
    """

    fuel: str
    prices: Prices | None = None

    @property
    def by_step(self) -> Floats | None:
        """The price of each step [currency/kWh]."""
        return None if self.prices is None else self.prices.by_step


def drawn_of(heater: Heater, source: Source, prices: Prices | None, minutes: int) -> PricedEnergy:
    """Return what a heater draws over a stretch: electricity at the tariff's rates, or its boiler's fuel at its own price."""
    if not burns_fuel(heater, source):
        return PricedEnergy(fuel="", prices=prices)
    fuel = FUELS[source.fuel].name
    by_step = price_of_drawn(heater, source, None, minutes)
    if by_step is None:
        return PricedEnergy(fuel=fuel)
    price = Decimal(repr(float(by_step[0])))
    return PricedEnergy(fuel=fuel, prices=one_price(fuel, price, "", minutes))


def costed(heat_w: Floats, cop: Floats, drawn: PricedEnergy) -> Costed:
    """Return energy and cost of heat given or taken away by draw and minute."""
    electric = np.abs(heat_w) / cop / W_MIN_PER_KWH
    cost = None
    split: tuple[RateCost, ...] = ()
    if drawn.prices is not None:
        cost = range_of(electric @ drawn.prices.by_step)
        split = drawn.prices.by_rate(electric[0])
    return Costed(
        fuel=drawn.fuel,
        heat_kwh=range_of(np.maximum(heat_w, 0.0).sum(axis=1) / W_MIN_PER_KWH),
        cold_kwh=range_of(np.maximum(-heat_w, 0.0).sum(axis=1) / W_MIN_PER_KWH),
        drawn_kwh=range_of(electric.sum(axis=1)),
        cost=cost,
        by_rate=split,
    )
