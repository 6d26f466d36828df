"""What is burnt for heat: a fuel in its own unit, at its own price."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.home.plant import Fuel, Heater, Source


@dataclass(frozen=True, slots=True)
class FuelKind:
    """A fuel: its name, the unit it is bought in, and its usual energy in that unit [kWh]."""

    name: str
    unit: str
    usual_kwh: float


# Usual gross calorific values; what the bill says is typed over them.
FUELS: dict[Fuel, FuelKind] = {
    "gas": FuelKind("gas", "m³", 11.0),
    "oil": FuelKind("oil", "L", 10.6),
    "lpg": FuelKind("liquid gas", "L", 7.1),
    "pellets": FuelKind("pellets", "kg", 4.9),
    "logs": FuelKind("logs", "kg", 4.2),
}


def burns_fuel(heater: Heater, source: Source) -> bool:
    """Return whether a heater's heat is burnt: a boiler's, but not a split unit's that hangs on one."""
    return source.kind == "boiler" and heater.kind != "split_unit"


def kwh_per_unit(source: Source) -> float:
    """Return the energy in a unit of a boiler's fuel, as typed or as usual [kWh]."""
    return FUELS[source.fuel].usual_kwh if source.fuel_kwh is None else source.fuel_kwh


def fuel_price_per_kwh(source: Source) -> float | None:
    """Return what a kWh of a boiler's fuel costs; None where no price was typed."""
    return None if source.fuel_price is None else float(source.fuel_price) / kwh_per_unit(source)


def price_of_drawn(heater: Heater, source: Source, electricity: Floats | None, steps: int) -> Floats | None:
    """Return the price of what a heater draws, by step; None where it has none [currency/kWh].

    Parameters
    ----------
    electricity : (step,) float array or None
        Price of electricity by step, None without a tariff.
    steps : int
        How many steps.
    """
    if not burns_fuel(heater, source):
        return electricity
    price = fuel_price_per_kwh(source)
    return None if price is None else np.full(steps, price)
