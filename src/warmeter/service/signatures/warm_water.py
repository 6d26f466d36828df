"""A tub or tank from its log: what it loses standing, how fast it warms, when to begin."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.saving.simple import exact
from warmeter.core.water.water_fit import WaterFit, learn_water
from warmeter.service.app import App
from warmeter.service.readings.room_logs import heard_stretch, instants, means, series_of
from warmeter.service.signatures.machines import power_series_of

STEP_S = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmUpAsked:
    """What is asked: water from one temperature to another, in surroundings of a third [°C]."""

    now_c: float
    target_c: float
    ambient_c: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterRecord:
    """What a log says of a tub or tank, and what was asked of it.

    Parameters
    ----------
    asked : WarmUpAsked
        As typed; else the water's last temperature and highest, and the surroundings' mean.
    heat_up_s : float or None
        Time to the temperature asked, None if it is never reached [s].
    standing_w : float
        What standing at it loses [W].
    standing_kwh_day : Decimal
        The same over a day [kWh].
    has_ambient_log : bool
        Whether the temperature around it was read in; else the year's mean stands for it.
    last_date : date
        Of the log.
    """

    fit: WaterFit
    asked: WarmUpAsked
    heat_up_s: float | None
    standing_w: float
    standing_kwh_day: Decimal
    has_ambient_log: bool
    last_date: date


def water_record(
    app: App, home: Home, machine: Appliance, asked: tuple[float | None, float | None, float | None]
) -> WaterRecord:
    """Return what a tub's or tank's log says; ``asked`` are water now, target and surroundings, None as the log has it.

    Raises
    ------
    NotKnowable
        If power or water temperature were not read in, or cannot teach.
    """
    water = series_of(app, home.id, "water_temperature", machine.id)
    if not water:
        raise NotKnowable(
            f"No water temperature of {machine.name} has been imported.",
            "Record it with the power for two days or more, and map it to water temperature.",
        )
    power_series = power_series_of(app, home, machine)
    start, last = heard_stretch(app, power_series)
    steps = int((last - start) / 1000 // STEP_S)
    at = start + (np.arange(steps + 1) * STEP_S * 1000).astype(np.int64)
    outdoors = series_of(app, home.id, "outdoor_temperature", "")
    ambient = instants(app, home, outdoors, at) if outdoors else np.full(at.size, home.design.annual_mean_c)
    has_log = bool(outdoors) and bool(np.isfinite(ambient).any())
    if not has_log:
        ambient = np.full(at.size, home.design.annual_mean_c)
    temperature = instants(app, home, water, at)
    fit = learn_water(means(app, power_series, start, STEP_S, steps), temperature, ambient, STEP_S)
    heard = temperature[np.isfinite(temperature)]
    usual = float(heard[-1]), float(heard.max()), float(np.nanmean(ambient))
    now, target, around = (u if a is None else a for a, u in zip(asked, usual, strict=True))
    standing = fit.store.standing_w(target, around)
    return WaterRecord(
        fit=fit,
        asked=WarmUpAsked(now_c=now, target_c=target, ambient_c=around),
        heat_up_s=fit.store.heat_up_s(start_c=now, target_c=target, power_w=fit.heat_w, ambient_c=around),
        standing_w=standing,
        standing_kwh_day=exact(standing) * 24 / 1000,
        has_ambient_log=has_log,
        last_date=app.clock(home).local(last).date(),
    )
