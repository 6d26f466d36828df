"""What a tub's or tank's log of power and temperature tells: heat it stores, heat it loses."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.units import S_PER_H
from warmeter.core.water.store import WATER_J_KG_K, WATER_KG_L, WarmWater

WINDOW_S = 3600.0
FEWEST_WINDOWS = 24
LEAST_WARMING_K = 1.0
HEATING_SHARE = 0.5  # of its strongest power: below, only the pump runs
TWO_SIDED_95 = 2.0
CIRCULATING_W = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterFit:
    """A store learnt from its log.

    Parameters
    ----------
    store : WarmWater
        As much water as the heat stored amounts to, and its loss.
    loss_low_w_k, loss_high_w_k, litres_low, litres_high : float
        Ends of their 95 % ranges.
    heating_w, circulating_w, standby_w : float
        Usual power of each of its states; 0 where it has none [W].
    hours_heating, hours_circulating, hours : float
        Time in each, and heard in all [h].
    pump_share : float
        Share of the pump's power that warms the water.
    rmse_k : float
        Error of an hour's warming [K].
    """

    store: WarmWater
    loss_low_w_k: float
    loss_high_w_k: float
    litres_low: float
    litres_high: float
    heating_w: float
    circulating_w: float
    standby_w: float
    hours_heating: float
    hours_circulating: float
    hours: float
    pump_share: float
    rmse_k: float

    @property
    def heat_w(self) -> float:
        """Power that warms the water while it heats: of the pump running along, its share alone [W]."""
        return self.heating_w - self.circulating_w * (1 - self.pump_share)

    def rate_k_h(self, water_c: float, ambient_c: float) -> float:
        """Return how fast it warms at a temperature [K/h]."""
        return S_PER_H * (self.heat_w - self.store.standing_w(water_c, ambient_c)) / self.store.heat_capacity_j_k


def learn_water(power_w: Floats, water_c: Floats, ambient_c: Floats, step_s: float) -> WaterFit:
    """Return what a log of power, water and surroundings teaches.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over each step, NaN where not heard [W].
    water_c, ambient_c : (step + 1,) float arrays
        Temperatures at the steps' ends, NaN where not heard [°C].
    step_s : float
        Length of a step, 1 to 3600 [s].

    Raises
    ------
    NotKnowable
        If fewer than 24 whole hours were heard, nothing was heated, or the log holds no heat capacity or loss.

    Notes
    -----
    Hour by hour Δθ = a Q_heat + c Q_pump − b Σ(θ − θ_a)Δt, by least squares; C = 1/a, UA = b/a. One mixed mass:
    a cover taken off or a layer of warm water over cold breaks it. docs/methods L4, L5.
    """
    states = _states(power_w)
    design, warming = _hours(states, power_w, water_c, ambient_c, step_s)
    found, *_ = np.linalg.lstsq(design, warming, rcond=None)
    away = warming - design @ found
    variance = float((away**2).sum()) / max(warming.size - design.shape[1], 1)
    covariance = variance * np.linalg.pinv(design.T @ design)
    a, b = float(found[0]), float(found[1])
    if a <= 0 or b <= 0:
        raise NotKnowable(
            "The log contradicts one mixed mass that warms by its heater and loses to its surroundings.",
            "See that the temperature is that of the mixed water, and record longer.",
        )
    loss, litres = b / a, 1 / a / (WATER_J_KG_K * WATER_KG_L)
    spread_a = TWO_SIDED_95 * float(np.sqrt(covariance[0, 0])) / a
    squared = covariance[1, 1] / b**2 + covariance[0, 0] / a**2 - 2 * covariance[0, 1] / (a * b)
    spread_loss = TWO_SIDED_95 * float(np.sqrt(max(squared, 0.0)))
    hour = step_s / S_PER_H
    return WaterFit(
        store=WarmWater(volume_l=litres, loss_w_k=loss),
        loss_low_w_k=max(0.0, loss * (1 - spread_loss)),
        loss_high_w_k=loss * (1 + spread_loss),
        litres_low=litres / (1 + spread_a),
        litres_high=litres / max(1 - spread_a, 0.1),
        heating_w=float(np.median(power_w[states.heats])),
        circulating_w=states.pump_w,
        standby_w=states.rest_w,
        hours_heating=float(states.heats.sum()) * hour,
        hours_circulating=float(states.pumps.sum()) * hour,
        hours=float(np.isfinite(power_w).sum()) * hour,
        pump_share=float(np.clip(found[2] / a, 0.0, 1.0)) if found.size > 2 else 0.0,
        rmse_k=float(np.sqrt(variance)),
    )


@dataclass(frozen=True, slots=True)
class _States:
    """Which steps heat and which only circulate, and what rest and pump draw [W]."""

    heats: Flags
    pumps: Flags
    rest_w: float
    pump_w: float


def _states(power_w: Floats) -> _States:
    is_heard = bool(np.isfinite(power_w).any())
    rest, top = (float(np.nanquantile(power_w, q)) if is_heard else 0.0 for q in (0.05, 0.99))
    heats = power_w > max(HEATING_SHARE * top, CIRCULATING_W)
    pumps = ~heats & (power_w > rest + CIRCULATING_W)
    return _States(heats, pumps, rest, float(np.median(power_w[pumps])) if pumps.any() else 0.0)


def _hours(
    states: _States, power_w: Floats, water_c: Floats, ambient_c: Floats, step_s: float
) -> tuple[Floats, Floats]:
    """Return each heard hour's heat, loss and pumping as columns, and its warming [K]."""
    per = max(1, round(WINDOW_S / step_s))
    windows = power_w.size // per
    # The pump runs along with the heater, and only a share of its power warms the water.
    parts = (
        np.where(states.heats, power_w - states.pump_w, 0.0),
        0.5 * (water_c[:-1] + water_c[1:] - ambient_c[:-1] - ambient_c[1:]),
        np.where(states.heats, states.pump_w, np.where(states.pumps, power_w, 0.0)),
    )
    heat, excess, pump = (
        np.where(np.isnan(power_w), np.nan, p)[: windows * per].reshape(windows, per).sum(axis=1) * step_s
        for p in parts
    )
    warming = water_c[per : windows * per + 1 : per] - water_c[: windows * per : per]
    known = np.isfinite(heat + pump + excess + warming)
    if known.sum() < FEWEST_WINDOWS:
        raise NotKnowable(
            f"Only {int(known.sum())} whole hours of power and temperature were received together.",
            "Record both for two days or more, with a heating and a cooling in them.",
        )
    if heat[known].sum() == 0 or np.ptp(warming[known]) < LEAST_WARMING_K / 4:
        raise NotKnowable(
            "The water was neither heated nor did it cool clearly.",
            "Record a heating of a few kelvins and the hours after it.",
        )
    columns = [heat[known], -excess[known], *([pump[known]] if pump[known].sum() > 0 else [])]
    return np.column_stack(columns), warming[known]
