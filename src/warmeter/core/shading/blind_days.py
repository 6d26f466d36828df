"""What blinds spare on a log's own days, by the way in which the room answers to a watt of sun."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.stats import norm

from warmeter.core.arrays import Floats, Ints
from warmeter.core.thermal.network import ExactStep
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.thermal.simulate import NODES, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import J_PER_KWH, S_PER_H

BlindUse = Literal["as_logged", "never", "in_the_sun"]
OUT, HEAT, GAIN = 0, 1, 2  # inputs of a room
RANGE_PCT, TWO_SIDED, GOLDEN_SECTION = (2.5, 97.5), 1.96, 0.6180339887
# Glass, frames and what stands outside are as surveyed within three tenths.
AS_RECKONED = Estimate(value=1.0, low=0.7, high=1.3)


@dataclass(frozen=True, slots=True, kw_only=True)
class BlindLog:
    """A room's days on one even grid, whole ones from midnight on, all heard.

    Parameters
    ----------
    step_s : float
        Length of a step [s].
    room_c, outdoor_c : (step + 1,) float arrays
        Measured temperatures [°C].
    heat_w : (step,) float array
        Heat given [W].
    up_w : (window, step) float array
        The sun's heat through each window with its blind up [W].
    down, is_sunlit : (window, step) float arrays
        How far each blind is down, and whether the beam stands on its window, 0 to 1.
    lets : (window,) float array
        Share that each blind lets through when it is wholly down.
    day : (step,) int array
        Local day, from 0 on.
    """

    step_s: float
    room_c: Floats
    outdoor_c: Floats
    heat_w: Floats
    up_w: Floats
    down: Floats
    is_sunlit: Floats
    lets: Floats
    day: Ints

    @property
    def days(self) -> int:
        """How many days it has."""
        return int(self.day[-1]) + 1

    def by_day_kwh(self, watts: Floats) -> Floats:
        """Return a power's energy by day, shape (day,) [kWh]."""
        joules = np.bincount(self.day, weights=watts, minlength=self.days) * self.step_s
        return np.asarray(joules / J_PER_KWH, dtype=np.float64)

    def gain_w(self, use: BlindUse) -> Floats:
        """Return the sun's heat with blinds as logged, never down, or down wherever the beam stands, shape (step,) [W]."""
        down = {"as_logged": self.down, "never": np.zeros_like(self.down), "in_the_sun": self.is_sunlit}[use]
        gains = self.up_w * (1 - down * (1 - self.lets[:, None]))
        return np.asarray(gains.sum(axis=0), dtype=np.float64)


def air_responses(step: ExactStep, given: Floats, start: Floats | None = None) -> Floats:
    """Return how a room's air answers to inputs, by draw and course, shape (draw, course, step + 1) [K].

    Parameters
    ----------
    given : (course, step, input) float array
        Outdoor temperature [°C or K], heat and gains [W], rooms beside; held over each step.
    start : (course, node) float array, optional
        States at the beginning; nought if None.
    """
    draws, (courses, steps, _) = step.state.shape[0], given.shape
    air = np.empty((draws, courses, steps + 1))
    state = np.zeros((draws, courses, NODES)) if start is None else np.tile(start, (draws, 1, 1))
    air[:, :, 0] = state[:, :, 0]
    across, push = step.state.transpose(0, 2, 1), step.held.transpose(0, 2, 1)
    for k in range(steps):
        state = state @ across + given[None, :, k] @ push
        air[:, :, k + 1] = state[:, :, 0]
    return air


@dataclass(frozen=True, slots=True, kw_only=True)
class UseOutcome:
    """What a way of using the blinds makes of the days.

    Parameters
    ----------
    hot_h : Estimate
        Hours over the limit [h].
    warmest_c : Estimate
        Highest temperature [°C].
    cooling_kwh : Estimate
        Heat that holding the limit takes away [kWh].
    sun_kwh : float
        Sun that comes in [kWh].
    """

    use: BlindUse
    hot_h: Estimate
    warmest_c: Estimate
    cooling_kwh: Estimate
    sun_kwh: float


def use_outcomes(
    log: BlindLog, rooms: tuple[RoomRc, ...], full_heat_w: float, limit_c: float, sun: Estimate = AS_RECKONED
) -> list[UseOutcome]:
    """Return what three ways of using the blinds make of a log's own days.

    The room's measured course is moved by what the other sun would have done to it (superposition: what is linear in
    the room needs no knowledge of people, air or heat, which stay as they were).

    Parameters
    ----------
    rooms : tuple of RoomRc
        Draws of the room, the best estimate first.
    limit_c : float
        Over it an hour is hot; cooling holds it [°C].
    sun : Estimate
        The sun that comes in over what windows and sky are reckoned to let in (ratio).

    References
    ----------
    docs/methods, blinds; B5.
    """
    step = compile_rooms(rooms, full_heat_w, log.step_s)
    uses: tuple[BlindUse, ...] = ("as_logged", "never", "in_the_sun")
    given = np.zeros((len(uses), log.day.size, 4))
    for k, use in enumerate(uses):
        given[k, :, GAIN] = log.gain_w(use) - log.gain_w("as_logged")
    scale = sun.value * np.ones(len(rooms))
    # Draws of the sun beside those of the room, spread evenly over its range by the golden section.
    places = (np.arange(1, len(rooms)) * GOLDEN_SECTION) % 1
    scale[1:] += (sun.high - sun.low) / (2 * TWO_SIDED) * norm.ppf(places)
    air = log.room_c + np.maximum(scale, 0.0)[:, None, None] * air_responses(step, given)
    found = []
    for k, use in enumerate(uses):
        own = air[:, k]
        found.append(
            UseOutcome(
                use=use,
                hot_h=_estimate((own[:, 1:] > limit_c).sum(axis=1) * log.step_s / S_PER_H),
                warmest_c=_estimate(own.max(axis=1)),
                cooling_kwh=_estimate(_cooling_kwh(step, own, limit_c, log.step_s)),
                sun_kwh=sun.value * float(log.by_day_kwh(log.gain_w(use)).sum()),
            )
        )
    return found


def _cooling_kwh(step: ExactStep, air_c: Floats, limit_c: float, step_s: float) -> Floats:
    """Return the heat that holds a limit, taken from the air whenever it would be passed, shape (draw,) [kWh]."""
    draws, steps = air_c.shape[0], air_c.shape[1] - 1
    cooled, taken = np.zeros((draws, NODES)), np.zeros(draws)
    push = step.held[:, :, GAIN]
    for k in range(steps):
        left = np.einsum("dij,dj->di", step.state, cooled)
        over = np.maximum(0.0, air_c[:, k + 1] + left[:, 0] - limit_c)
        watts = over / push[:, 0]
        cooled = left - push * watts[:, None]
        taken += watts
    return np.asarray(taken * step_s / J_PER_KWH, dtype=np.float64)


def _estimate(values: Floats) -> Estimate:
    low, high = np.percentile(values, RANGE_PCT).tolist() if values.size > 1 else (float(values[0]),) * 2
    best = float(values[0])
    return Estimate(value=best, low=min(best, low), high=max(best, high))
