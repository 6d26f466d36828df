"""Machines compared by the load: what a cycle takes and costs, with a year's rest laid on the loads of a year."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.saving.simple import exact
from warmeter.core.units import S_PER_H
from warmeter.service.app import App
from warmeter.service.signatures.machines import cost_between, machine_record
from warmeter.service.signatures.standby import standby_profile

FEWEST_CYCLES = 2
WEEKS_A_YEAR = Decimal(365) / 7
PRICED = 60  # the latest cycles are priced at their hours


@dataclass(frozen=True, slots=True, kw_only=True)
class PerLoad:
    """A machine by the load.

    Parameters
    ----------
    cycles_per_week : float
        As its log has them.
    kwh, kwh_low, kwh_high : float
        Energy of a cycle: middle, and first and last decile [kWh].
    hours : float
        Middle length of a cycle [h].
    money : Decimal or None
        Mean cost of its latest cycles at their hours; None without a tariff.
    rest_kwh_year : Decimal
        Of its rest [kWh].
    kwh_year, money_year : Decimal, Decimal or None
        Of the loads asked for and its rest.
    """

    name: str
    cycles_per_week: float
    kwh: float
    kwh_low: float
    kwh_high: float
    hours: float
    money: Decimal | None
    rest_kwh_year: Decimal
    kwh_year: Decimal
    money_year: Decimal | None


def per_load(app: App, home: Home, loads_per_week: Decimal | None) -> tuple[PerLoad, ...]:
    """Return every machine with cycles by the load; loads a week as asked for all alike, else as each log has them."""
    found = []
    for machine in home.appliances:
        try:
            record = machine_record(app, home, machine.id)
            standing = standby_profile(app, home, machine)
        except NotKnowable:
            continue
        whole = record.found.whole
        if len(whole) < FEWEST_CYCLES:
            continue
        energy = np.array([record.features(c).energy_kwh for c in whole])
        costs = [cost_between(app, home, record, c.start, c.end) for c in whole[-PRICED:]]
        money = (
            None if any(c is None for c in costs) else sum((c for c in costs if c is not None), Decimal(0)) / len(costs)
        )
        per_week = 7 * len(whole) / record.days
        loads = (exact(per_week) if loads_per_week is None else loads_per_week) * WEEKS_A_YEAR
        rest_money = standing.money_per_year
        found.append(
            PerLoad(
                name=machine.name,
                cycles_per_week=per_week,
                kwh=float(np.median(energy)),
                kwh_low=float(np.quantile(energy, 0.1)),
                kwh_high=float(np.quantile(energy, 0.9)),
                hours=float(np.median([c.end - c.start for c in whole])) * record.step_s / S_PER_H,
                money=money,
                rest_kwh_year=standing.kwh_per_year,
                kwh_year=exact(float(energy.mean())) * loads + standing.kwh_per_year,
                money_year=None if money is None or rest_money is None else money * loads + rest_money,
            )
        )
    return tuple(found)
