"""The day after: a kept plan held against the readings of its day."""

from collections.abc import Sequence

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.fuel import burns_fuel
from warmeter.core.day_plan.check import load_of
from warmeter.core.day_plan.day_after import MOST_REASONS, DayAfter, UsedPart, day_after
from warmeter.core.day_plan.problem import DayPlan
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy, metered_energy
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.day_plan.planning import PlanInputs
from warmeter.service.readings.room_logs import series_of
from warmeter.service.tariffs.bills import carrier_meter


def has_passed(app: App, home: Home, inputs: PlanInputs) -> bool:
    """Return whether the plan's days are over; the last reading of a day may be stamped with its beginning."""
    end_ms = int(inputs.time.start_ms[-1]) + inputs.time.step_min * MS_PER_MIN
    return app.heard_until_ms(home.id) >= end_ms - MS_PER_H


def day_after_of(app: App, home: Home, inputs: PlanInputs, plan: DayPlan) -> DayAfter:
    """Return what a day came to against its plan; what the meter cannot count is taken as planned.

    Raises
    ------
    NotKnowable
        Where nothing of the day was measured.
    """
    edges = np.append(inputs.time.start_ms, inputs.time.start_ms[-1] + inputs.time.step_min * MS_PER_MIN)
    problem = inputs.problem
    parts: list[UsedPart] = []
    for machine in home.appliances:
        keys = [run.id for run in home.wanted_runs if run.appliance_id == machine.id and run.id in plan.starts]
        if keys:
            planned = np.sum([load_of(problem, plan, key) for key in keys], axis=0)
            parts += _measured(app, home, machine.name, "electric_w", machine.id, planned, edges)
    for room in problem.rooms:
        heater = home.heater_of(room.key)
        if heater is not None:
            source = home.source(heater.source_id)
            if source.kind == "direct" and not burns_fuel(heater, source):
                planned = np.array(load_of(problem, plan, room.key))
                parts += _measured(app, home, room.name, "heat_w", room.key, planned, edges)
    meter = carrier_meter(app, home, "electricity").metered
    net = _by_slot([meter.bought], edges)
    sold = None if meter.sold is None else _by_slot([meter.sold], edges)
    net = net if sold is None else net - sold
    for key in inputs.elsewhere:
        net = net + np.array(load_of(problem, plan, key))
    sun = _by_slot(_energies(app, home, "sun_power_w", "", edges), edges)
    if not parts and np.isnan(net).all():
        raise NotKnowable("Nothing of that day was measured.", "Import the log of the meter, or of the plugs.")
    # What moved least joins what else ran, so that the reasons stay few.
    parts.sort(key=lambda part: -float(np.nansum(np.abs(part.used_kwh - part.planned_kwh))))
    return day_after(problem, plan, parts[: MOST_REASONS - 2], sun_kwh=sun, net_kwh=net)


def _energies(app: App, home: Home, quantity: str, place: str, edges: Floats) -> list[MeteredEnergy]:
    begin, end = int(edges[0]) - MS_PER_DAY, int(edges[-1]) + MS_PER_DAY
    found = series_of(app, home.id, quantity, place)[:1]
    return [metered_energy(s.record, app.readings.readings(s.id, begin, end)) for s in found]


def _measured(
    app: App, home: Home, name: str, quantity: str, place: str, planned: Floats, edges: Floats
) -> list[UsedPart]:
    """Return a part with what it drew; none where nothing of it was heard."""
    used = _by_slot(_energies(app, home, quantity, place, edges), edges)
    return [] if np.isnan(used).all() else [UsedPart(name=name, planned_kwh=planned, used_kwh=used)]


def _by_slot(found: Sequence[MeteredEnergy], edges: Floats) -> Floats:
    """Return energy by slot, NaN where it is not known [kWh]."""
    if not found:
        return np.full(edges.size - 1, np.nan)
    amount, known = found[0].between(edges.astype(np.int64))
    return np.where(known, amount / MILLION, np.nan)
