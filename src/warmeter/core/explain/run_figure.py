"""What a machine's run costs, with its working."""

from collections.abc import Sequence

import numpy as np

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.errors import NotKnowable
from warmeter.core.figure import Figure, Input, Sensitivity
from warmeter.core.forecast.day_forecast import DayForecast
from warmeter.core.tariff.cheapest_start import RunSchedule

Runs = Sequence[tuple[MachineRecord, RunSchedule]]


def run_figure(forecast: DayForecast, runs: Runs, appliance_id: str) -> Figure:
    """Return what a machine's run costs with its working; ``NotKnowable`` if it cannot be priced."""
    found = next(((r, p) for r, p in runs if r.appliance.id == appliance_id), None)
    if found is None:
        raise NotKnowable("This run cannot be priced.", "Import the appliance's log and type a tariff.")
    record, schedule = found
    energies = [record.features(cycle).energy_kwh for cycle in record.found.whole]
    spread = (min(energies) / float(np.median(energies)), max(energies) / float(np.median(energies)))
    value, currency = float(schedule.planned.cost), forecast.home.currency
    return Figure(
        key=f"run.{appliance_id}",
        title=f"{record.appliance.name}, one run",
        unit=currency,
        value=value,
        low=value * spread[0],
        high=value * spread[1],
        decimals=2,
        formula="cost = Σ minute energy · price then",
        substituted=f"= {schedule.profile_kwh.sum():.2f} kWh over {schedule.profile_kwh.size} min",
        method="I8 cheapest window",
        inputs=(
            Input(
                symbol="E",
                name="typical run",
                value=float(schedule.profile_kwh.sum()),
                unit="kWh",
                decimals=2,
                origin="measured",
            ),
            Input(
                symbol="n",
                name="whole runs recorded",
                value=float(len(energies)),
                unit="",
                decimals=0,
                origin="measured",
            ),
        ),
        note=f"The profile is that of the run of middle energy; the range is that of all {len(energies)} runs recorded.",
        sensitivities=(
            Sensitivity(
                assumption=f"cheapest start, {_clock(schedule.cheapest.start_min)}",
                change=float(schedule.cheapest.cost) - value,
            ),
            Sensitivity(
                assumption=f"most expensive start, {_clock(schedule.dearest.start_min)}",
                change=float(schedule.dearest.cost) - value,
            ),
        ),
    )


def _clock(minute: int) -> str:
    return f"{minute // 60 % 24:02d}:{minute % 60:02d}"
