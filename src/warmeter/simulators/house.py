"""A stand-in house, richer than the model that is fitted to it.

One room of six heat stores (air, furniture, two layers of outer wall, inner wall, emitter), a
neighbour room with a rhythm of its own, sun behind clouds through a window, people, a thermostat, and a sensor with noise, 0.1 K steps and a gap. Its truth is its steady loss to
outdoors and the time that its air really takes to warm up.
"""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.thermal.network import Link, RcNetwork, exact_step
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN
from warmeter.core.weather.sun import clear_sky_w_m2, sun_position

STEP_S = 60.0
LATITUDE_DEG, LONGITUDE_DEG = 57.5, -3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseParameters:
    """What one stand-in room is made of; conductances in W/K, stores in J/K, lags in s."""

    floor_area_m2: float
    height_m: float
    window_w_k: float
    wall_w_k: float
    inner_w_k: float
    neighbour_w_k: float
    air_j_k: float
    furniture_j_k: float
    wall_j_k: float
    inner_j_k: float
    emitter_lag_s: float
    full_heat_w: float
    convective: float
    window_m2: float
    people_w: float
    base_gain_w: float
    neighbour_c: float

    @property
    def loss_w_k(self) -> float:
        """The truth: steady loss from the room's air to outdoors [W/K]."""
        return self.window_w_k + self.wall_w_k

    def network(self) -> RcNetwork:
        """Return the room's stores and links; the wall's conductance lies a third inside, a third
        between its layers, a third outside."""
        emitter = self.full_heat_w / 30.0
        third = 3 * self.wall_w_k
        return RcNetwork(
            capacities_j_k={
                "air": self.air_j_k,
                "furniture": self.furniture_j_k,
                "wall_in": self.wall_j_k / 2,
                "wall_out": self.wall_j_k / 2,
                "inner": self.inner_j_k,
                "emitter": emitter * self.emitter_lag_s,
            },
            boundaries=["out", "neighbour"],
            links=[
                Link("air", "out", self.window_w_k),
                Link("air", "furniture", 4.0 * self.floor_area_m2),
                Link("air", "wall_in", third),
                Link("wall_in", "wall_out", third),
                Link("wall_out", "out", third),
                Link("air", "inner", self.inner_w_k),
                Link("air", "neighbour", self.neighbour_w_k),
                Link("emitter", "air", emitter * self.convective),
                Link("emitter", "inner", emitter * (1 - self.convective)),
            ],
        )


def random_plan(rng: np.random.Generator) -> HouseParameters:
    """Return a room drawn from what rooms are like: 10 to 40 m2, 1.2 to 4 W/(m2 K) of floor."""
    area = float(rng.uniform(10, 40))
    loss = area * float(rng.uniform(1.2, 4.0))
    windows = float(rng.uniform(0.35, 0.65))
    return HouseParameters(
        floor_area_m2=area,
        height_m=float(rng.uniform(2.3, 3.2)),
        window_w_k=loss * windows,
        wall_w_k=loss * (1 - windows),
        inner_w_k=area * float(rng.uniform(6, 14)),
        neighbour_w_k=float(rng.uniform(0.02, 0.08)) * loss,
        air_j_k=area * float(rng.uniform(8e3, 16e3)),
        furniture_j_k=area * float(rng.uniform(10e3, 30e3)),
        wall_j_k=area * float(rng.uniform(40e3, 160e3)),
        inner_j_k=area * float(rng.uniform(60e3, 220e3)),
        emitter_lag_s=float(rng.uniform(120, 1500)),
        full_heat_w=loss * float(rng.uniform(36, 55)),
        convective=float(rng.uniform(0.6, 0.9)),
        window_m2=area * float(rng.uniform(0.06, 0.14)),
        people_w=area * float(rng.uniform(2, 5)),
        base_gain_w=area * float(rng.uniform(0.5, 2.5)),
        neighbour_c=float(rng.uniform(16.5, 19.5)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Weather:
    """Outdoor temperature at minutes (step + 1,) and the sun's share of clear sky (step,)."""

    outdoor_c: Floats
    sun_w_m2: Floats
    clear_w_m2: Floats


def winter_weather(rng: np.random.Generator, start_ms: int, days: int, mean_c: float = 4.0) -> Weather:
    """Return made-up winter weather: slow fronts, a daily wave damped by cloud, fine noise."""
    minutes = np.arange(days * MIN_PER_DAY + 1)
    knots = np.empty(days + 2)
    knots[0] = rng.normal(0, 3)
    for k in range(1, knots.size):
        knots[k] = 0.75 * knots[k - 1] + rng.normal(0, 2.2)
    fronts = np.interp(minutes / MIN_PER_DAY, np.arange(knots.size), knots)
    cloud_knots = np.clip(rng.beta(1.3, 1.1, days * 8 + 2), 0.05, 1.0)
    clear_share = np.interp(minutes / 180, np.arange(cloud_knots.size), cloud_knots)
    wave = -(1.0 + 2.5 * clear_share) * np.cos(2 * np.pi * (minutes - 180) / MIN_PER_DAY)
    at_ms = start_ms + minutes.astype(np.int64) * MS_PER_MIN
    elevation, _ = sun_position(at_ms, latitude_deg=LATITUDE_DEG, longitude_deg=LONGITUDE_DEG)
    clear = clear_sky_w_m2(elevation)[:-1]
    return Weather(outdoor_c=mean_c + fronts + wave, sun_w_m2=clear * clear_share[:-1], clear_w_m2=clear)


@dataclass(frozen=True, slots=True, kw_only=True)
class ThermostatSettings:
    """What the thermostat was asked, by minute (step,), and the heater's habits."""

    setpoint_c: Floats
    band_k: float = 0.4


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseRun:
    """What really happened, by minute: states (step + 1, node), heat and gains (step,)."""

    parameters: HouseParameters
    weather: Weather
    states_c: Floats
    heat_w: Floats
    gain_w: Floats
    neighbour_c: Floats

    @property
    def air_c(self) -> Floats:
        """True air temperature (step + 1,) [°C]."""
        return self.states_c[:, 0]

    @property
    def emitter_c(self) -> Floats:
        """True temperature of the emitter (step + 1,) [°C]."""
        return self.states_c[:, 5]

    @property
    def unlogged_share(self) -> float:
        """Gains that no log shows, over all heat (ratio)."""
        return float(self.gain_w.sum() / (self.gain_w.sum() + self.heat_w.sum()))


def people_w(rng: np.random.Generator, parameters: HouseParameters, days: int) -> Floats:
    """Return gains of people and lamps by minute: mornings and evenings, weekends longer."""
    gain = np.full(days * MIN_PER_DAY, float(parameters.base_gain_w))
    for day in range(days):
        begin = day * MIN_PER_DAY
        for centre, length in ((450, 90), (1140, 240 + (180 if day % 7 in (5, 6) else 0))):
            at = begin + int(centre + rng.normal(0, 25)) - length // 2
            gain[max(at, 0) : max(at, 0) + length] += parameters.people_w * rng.uniform(0.6, 1.4)
    return gain


class House:
    """A stand-in room that can be run under a thermostat, or asked how long it takes to warm up."""

    def __init__(self, parameters: HouseParameters) -> None:
        self.parameters = parameters
        a, b = parameters.network().matrices()
        step = exact_step(a, b, STEP_S)
        self._state, self._held = step.state, step.held

    def _inputs(self, outdoor: float, neighbour: float, heat: float, gain: float, sun: float) -> Floats:
        through_glass = 0.55 * self.parameters.window_m2 * sun
        return np.array(
            [
                outdoor,
                neighbour,
                0.6 * gain + 0.2 * through_glass,
                0.4 * gain + 0.4 * through_glass,
                0.0,
                0.0,
                0.4 * through_glass,
                heat,
            ]
        )

    def run(self, weather: Weather, asked: ThermostatSettings, gain_w: Floats, start_c: float = 18.0) -> HouseRun:
        """Run the thermostat through weather and gains."""
        steps = asked.setpoint_c.size
        states, heat = np.empty((steps + 1, 6)), np.zeros(steps)
        states[0] = start_c
        minutes = np.arange(steps)
        neighbour = self.parameters.neighbour_c + 0.8 * np.sin(2 * np.pi * (minutes - 900) / MIN_PER_DAY)
        is_on = False
        for k in range(steps):
            air = states[k, 0]
            if air <= asked.setpoint_c[k] - asked.band_k / 2:
                is_on = True
            elif air >= asked.setpoint_c[k] + asked.band_k / 2:
                is_on = False
            heat[k] = self.parameters.full_heat_w if is_on else 0.0
            inputs = self._inputs(weather.outdoor_c[k], neighbour[k], heat[k], gain_w[k], weather.sun_w_m2[k])
            states[k + 1] = self._state @ states[k] + self._held @ inputs
        sun_gain = 0.55 * self.parameters.window_m2 * weather.sun_w_m2[:steps]
        return HouseRun(
            parameters=self.parameters,
            weather=weather,
            states_c=states,
            heat_w=heat,
            gain_w=gain_w[:steps] + sun_gain,
            neighbour_c=neighbour,
        )

    def lead_min(self, run: HouseRun, *, free_from: int, due: int, floor_c: float, target_c: float) -> float | None:
        """Return the latest start, in minutes before ``due``, from which full heat reaches the target.

        From minute ``free_from`` on the room only keeps ``floor_c``; None if no start is in time.
        """
        states = self._kept(run, free_from, due, floor_c)
        if states[due - free_from, 0] >= target_c:
            return 0.0
        low, high = 0, due - free_from
        if not self._reaches(run, states[low], free_from, due, target_c):
            return None
        while high - low > 1:
            middle = (low + high) // 2
            if self._reaches(run, states[middle], free_from + middle, due, target_c):
                low = middle
            else:
                high = middle
        return float(due - free_from - low)

    def _kept(self, run: HouseRun, begin: int, end: int, floor_c: float) -> Floats:
        states = np.empty((end - begin + 1, 6))
        states[0] = run.states_c[begin]
        is_on = False
        for k in range(begin, end):
            air = states[k - begin, 0]
            is_on = air <= floor_c - 0.2 or (is_on and air < floor_c + 0.2)
            states[k - begin + 1] = self._after(
                run, states[k - begin], k, self.parameters.full_heat_w if is_on else 0.0
            )
        return states

    def _after(self, run: HouseRun, state: Floats, k: int, heat: float) -> Floats:
        sun = run.weather.sun_w_m2[k]
        people = run.gain_w[k] - 0.55 * self.parameters.window_m2 * sun
        inputs = self._inputs(run.weather.outdoor_c[k], run.neighbour_c[k], heat, people, sun)
        return self._state @ state + self._held @ inputs

    def _reaches(self, run: HouseRun, state: Floats, begin: int, end: int, target_c: float) -> bool:
        for k in range(begin, end):
            if state[0] >= target_c:
                return True
            state = self._after(run, state, k, self.parameters.full_heat_w)
        return bool(state[0] >= target_c)


def sensed(rng: np.random.Generator, air_c: Floats, every_min: int) -> Floats:
    """Return what a cheap sensor reports every so many minutes: noise of 0.07 K, 0.1 K steps."""
    return np.round((air_c[::every_min] + rng.normal(0, 0.07, air_c[::every_min].size)) * 10) / 10


def daily_setpoints(days: int, *, up_min: int, down_min: int, high_c: float, low_c: float) -> Floats:
    """Return a thermostat's setpoint by minute: high between two times of day, low else."""
    minute = np.arange(days * MIN_PER_DAY) % MIN_PER_DAY
    return np.where((minute >= up_min) & (minute < down_min), high_c, low_c)
