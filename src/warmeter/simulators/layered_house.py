"""A second family of stand-in houses, other in form than anything that is fitted to them.

One room behind a wall of three layers, cut into slices and stepped by finite differences in seconds. Air leaks
in by wind and by the height of warm air, the sun stands on a vertical south window and on the wall outside,
doors to a neighbour are left open, and the house begins unsettled: the wall still remembers another week. Its
truth is its steady loss at the mean leakage of the log, and the time that its air really takes to warm up.
"""

from dataclasses import dataclass, replace

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN
from warmeter.core.weather.sun import sun_position
from warmeter.simulators.house import LATITUDE_DEG, LONGITUDE_DEG, Weather, winter_weather

_SLICES = 3  # of each of the wall's three layers
# Nodes: air, furniture, emitter, partition (room side, middle, far side), then the wall from inside to outside.
_AIR, _FURNITURE, _EMITTER, _PARTITION, _WALL = 0, 1, 2, 3, 6
_NODES = _WALL + 3 * _SLICES
_INSIDE_FILM_W_M2K, _OUTSIDE_FILM_W_M2K = 7.7, 25.0
_AIR_J_M3K = 1206.0
_GLASS_G = 0.55
Layers = tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class LayeredParameters:
    """What one room of the second family is made of.

    The wall's ``layer_r`` and ``layer_j_k`` run from inside to outside: resistances [K/W] without films, stores
    [J/K]. ``leak_w_k`` is the leakage's conductance at the mean of ``leak_shape`` over a run.
    """

    floor_area_m2: float
    height_m: float
    outer_m2: float
    layer_r: Layers
    layer_j_k: Layers
    glass_w_k: float
    leak_w_k: float
    window_m2: float
    wall_sun_m2: float
    furniture_w_k: float
    furniture_j_k: float
    partition_m2: float
    partition_j_k: float
    partition_w_k: float
    neighbour_c: float
    door_w_k: float
    emitter_lag_s: float
    full_heat_w: float
    convective: float
    people_w: float
    base_gain_w: float
    is_proportional: bool
    start_air_c: float
    start_wall_c: float

    @property
    def wall_w_k(self) -> float:
        """Steady loss through the wall with its films [W/K]."""
        films = 1 / (_INSIDE_FILM_W_M2K * self.outer_m2) + 1 / (_OUTSIDE_FILM_W_M2K * self.outer_m2)
        return 1 / (films + sum(self.layer_r))

    @property
    def window_w_k(self) -> float:
        """Loss without a store in its way: glass and leakage [W/K]."""
        return self.glass_w_k + self.leak_w_k

    @property
    def neighbour_w_k(self) -> float:
        """Conductance to the neighbour behind the partition, doors shut [W/K]."""
        return self.partition_w_k

    @property
    def loss_w_k(self) -> float:
        """The truth: steady loss from the room's air to outdoors at mean leakage [W/K]."""
        return self.wall_w_k + self.window_w_k


def _scaled(by: float, shares: Layers) -> Layers:
    first, second, third = shares
    return by * first, by * second, by * third


def random_layered_plan(rng: np.random.Generator) -> LayeredParameters:
    """Return a room: 10 to 40 m2, 1.2 to 4 W/(m2 K) of floor, 100 to 360 kJ/K of wall a m2 of floor."""
    area = float(rng.uniform(10, 40))
    loss = area * float(rng.uniform(1.2, 4.0))
    wall_share, leak_share = float(rng.uniform(0.35, 0.65)), float(rng.uniform(0.12, 0.25))
    outer = area * float(rng.uniform(0.7, 1.4))
    films = 1 / (_INSIDE_FILM_W_M2K * outer) + 1 / (_OUTSIDE_FILM_W_M2K * outer)
    inner = max(1 / (loss * wall_share) - films, 0.3 / (12.0 * outer))
    store = area * float(rng.uniform(100e3, 360e3))
    resistances, stores = {
        "insulated outside": ((0.03, 0.17, 0.80), (0.06, 0.90, 0.04)),
        "insulated inside": ((0.70, 0.25, 0.05), (0.05, 0.85, 0.10)),
        "solid": ((0.08, 0.82, 0.10), (0.08, 0.80, 0.12)),
        "filled cavity": ((0.15, 0.70, 0.15), (0.42, 0.06, 0.52)),
    }[str(rng.choice(["insulated outside", "insulated inside", "solid", "filled cavity"]))]
    return LayeredParameters(
        floor_area_m2=area,
        height_m=float(rng.uniform(2.3, 3.2)),
        outer_m2=outer,
        layer_r=_scaled(inner, resistances),
        layer_j_k=_scaled(store, stores),
        glass_w_k=loss * (1 - wall_share - leak_share),
        leak_w_k=loss * leak_share,
        window_m2=area * float(rng.uniform(0.05, 0.12)),
        wall_sun_m2=0.6 * outer * float(rng.uniform(0.0, 0.6)),
        furniture_w_k=area * float(rng.uniform(3, 8)),
        furniture_j_k=area * float(rng.uniform(10e3, 35e3)),
        partition_m2=area * float(rng.uniform(0.8, 2.0)),
        partition_j_k=area * float(rng.uniform(40e3, 160e3)),
        partition_w_k=area * float(rng.uniform(0.02, 0.12)),
        neighbour_c=float(rng.uniform(16.5, 20.0)),
        door_w_k=float(rng.choice([0.0, 30.0, 60.0, 100.0])),
        emitter_lag_s=float(rng.uniform(120, 1500)),
        full_heat_w=loss * float(rng.uniform(38, 60)),
        convective=float(rng.uniform(0.55, 0.95)),
        people_w=area * float(rng.uniform(3, 8)),
        base_gain_w=area * float(rng.uniform(0.8, 3.0)),
        is_proportional=bool(rng.random() < 0.4),
        start_air_c=float(rng.uniform(15.0, 19.0)),
        start_wall_c=float(rng.uniform(6.0, 18.0)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What acts on a layered room by minute: weather, sun on the south plane, leakage and open doors."""

    weather: Weather
    south_w_m2: Floats
    leak_shape: Floats
    door_open: Floats

    def cut(self, begin: int, end: int) -> "Surroundings":
        """Return minutes [begin, end) of it."""
        weather = Weather(
            outdoor_c=self.weather.outdoor_c[begin : end + 1],
            sun_w_m2=self.weather.sun_w_m2[begin:end],
            clear_w_m2=self.weather.clear_w_m2[begin:end],
        )
        return Surroundings(
            weather=weather,
            south_w_m2=self.south_w_m2[begin:end],
            leak_shape=self.leak_shape[begin:end],
            door_open=self.door_open[begin:end],
        )


def layered_surroundings(rng: np.random.Generator, start_ms: int, days: int, mean_c: float) -> Surroundings:
    """Return made-up surroundings: gusts over slow fronts, beam and diffuse sun behind clouds, doors left open."""
    weather = winter_weather(rng, start_ms, days, mean_c=mean_c)
    minutes = np.arange(days * MIN_PER_DAY)
    elevation, azimuth = sun_position(
        start_ms + minutes.astype(np.int64) * MS_PER_MIN, latitude_deg=LATITUDE_DEG, longitude_deg=LONGITUDE_DEG
    )
    sine = np.maximum(np.sin(np.radians(elevation)), 0.0)
    share = np.divide(weather.sun_w_m2, weather.clear_w_m2, out=np.zeros(minutes.size), where=weather.clear_w_m2 > 1)
    beam = 900.0 * np.exp(-0.13 / np.maximum(sine, 0.03)) * np.clip(1.4 * share - 0.4, 0, 1) * (sine > 0.01)
    cos_incidence = np.maximum(0, np.cos(np.radians(elevation)) * np.cos(np.radians(azimuth - 180)))
    south = beam * cos_incidence + 0.5 * 0.35 * weather.sun_w_m2 + 0.1 * weather.sun_w_m2
    knots = np.exp(np.cumsum(rng.normal(0, 0.35, days * 4 + 2)) * 0.5)
    knots = np.clip(4.0 * knots / np.median(knots), 0.5, 12.0)
    wind = np.interp(minutes / 360, np.arange(knots.size), knots) * np.exp(rng.normal(0, 0.15, minutes.size))
    stack = np.sqrt(np.maximum(19.0 - weather.outdoor_c[:-1], 0.5) / 15.0)
    leak = 0.45 * stack + 0.35 * (wind / 4.0) ** 1.3
    doors = np.zeros(minutes.size)
    for day in range(days):
        for _ in range(int(rng.integers(0, 4))):
            at = day * MIN_PER_DAY + int(rng.uniform(420, 1320))
            doors[at : at + int(rng.uniform(20, 240))] = 1.0
    return Surroundings(weather=weather, south_w_m2=south, leak_shape=leak / leak.mean(), door_open=doors)


@njit(cache=True, nogil=True)
def _march(  # type: ignore[no-untyped-def]
    states,
    heat,
    mode,
    setpoint,
    begin,
    end,
    substeps,
    links,
    stores,
    outdoor,
    south,
    leak,
    door,
    gain,
    neighbour,
    numbers,
):
    """Step minutes [begin, end). ``mode``: 0 on/off, 1 proportional, 2 full heat; ``numbers`` as ``_numbers``."""
    full_w, glass, leak_w_k, door_w_k, window, wall_sun, convective, emitter_w_k = numbers
    nodes = states.shape[1]
    x = states[begin].copy()
    rate = np.empty(nodes)
    is_on = heat[begin - 1] > 0 if begin > 0 else False
    for k in range(begin, end):
        if mode == 0:
            if x[0] <= setpoint[k] - 0.2:
                is_on = True
            elif x[0] >= setpoint[k] + 0.2:
                is_on = False
            heat[k] = full_w if is_on else 0.0
        elif mode == 1:
            heat[k] = full_w * min(1.0, max(0.0, (setpoint[k] + 0.4 - x[0]) / 0.8))
        else:
            heat[k] = full_w
        through = 0.55 * window * south[k]
        for _ in range(substeps):
            for i in range(nodes):
                rate[i] = 0.0
            free = glass + leak_w_k * leak[k]
            rate[0] += free * (outdoor[k] - x[0]) + door_w_k * door[k] * (neighbour[k] - x[0])
            for i, j, w_k in ((0, 1, links[0]), (0, 3, links[1]), (3, 4, links[2]), (4, 5, links[2]), (0, 6, links[4])):
                flow = w_k * (x[i] - x[j])
                rate[i] -= flow
                rate[j] += flow
            rate[5] += links[3] * (neighbour[k] - x[5])
            for i in range(6, nodes - 1):
                flow = links[i - 1] * (x[i] - x[i + 1])
                rate[i] -= flow
                rate[i + 1] += flow
            rate[nodes - 1] += links[nodes - 2] * (outdoor[k] - x[nodes - 1]) + 0.6 * wall_sun * south[k]
            out = emitter_w_k * (x[2] - x[0])
            rate[2] += heat[k] - out
            rate[0] += convective * out
            rate[3] += 0.6 * (1 - convective) * out
            rate[6] += 0.4 * (1 - convective) * out
            rate[0] += 0.6 * gain[k] + 0.1 * through
            rate[1] += 0.2 * gain[k] + 0.25 * through
            rate[3] += 0.2 * gain[k] + 0.65 * through
            for i in range(nodes):
                x[i] += 60.0 / substeps * rate[i] / stores[i]
        for i in range(nodes):
            states[k + 1, i] = x[i]


@dataclass(frozen=True, slots=True, kw_only=True)
class LayeredRun:
    """What really happened, by minute: states (step + 1, node), heat and gains (step,)."""

    around: Surroundings
    states_c: Floats
    heat_w: Floats
    gain_w: Floats
    sun_w: Floats
    neighbour_c: Floats

    @property
    def weather(self) -> Weather:
        """The weather it stood in."""
        return self.around.weather

    @property
    def air_c(self) -> Floats:
        """True air temperature (step + 1,) [°C]."""
        return self.states_c[:, 0]

    @property
    def emitter_c(self) -> Floats:
        """True temperature of the emitter (step + 1,) [°C]."""
        return self.states_c[:, _EMITTER]

    @property
    def unlogged_share(self) -> float:
        """Gains that no log shows, over all heat (ratio)."""
        unlogged = float(self.gain_w.sum() + self.sun_w.sum())
        return unlogged / (unlogged + float(self.heat_w.sum()))


class LayeredHouse:
    """A room of the second family that can be run under its thermostat, or asked how long it takes to warm up."""

    def __init__(self, parameters: LayeredParameters) -> None:
        self.parameters = parameters
        self._links, self._stores = self._bricks()
        self._substeps = self._stable_substeps()

    def _bricks(self) -> tuple[Floats, Floats]:
        p = self.parameters
        half = 1 / (_INSIDE_FILM_W_M2K * p.partition_m2)
        core = 2 / max(1 / p.partition_w_k - 2 * half, 1e-6)
        resistances = np.repeat(np.array(p.layer_r) / _SLICES, _SLICES)
        inside, outside = 1 / (_INSIDE_FILM_W_M2K * p.outer_m2), 1 / (_OUTSIDE_FILM_W_M2K * p.outer_m2)
        between = 0.5 * (resistances[:-1] + resistances[1:])
        links = np.array(
            [
                p.furniture_w_k,
                _INSIDE_FILM_W_M2K * p.partition_m2,
                core,
                1 / half,
                1 / (inside + 0.5 * resistances[0]),
                *(1 / between),
                1 / (outside + 0.5 * resistances[-1]),
            ]
        )
        air = _AIR_J_M3K * p.floor_area_m2 * p.height_m * 1.5
        emitter = p.full_heat_w / 30.0 * p.emitter_lag_s
        layers = np.repeat(np.array(p.layer_j_k) / _SLICES, _SLICES)
        return links, np.array([air, p.furniture_j_k, emitter, *([p.partition_j_k / 3] * 3), *layers])

    def _stable_substeps(self) -> int:
        """Return in how many parts a minute is cut, so that no slice changes by more than half its excess in one."""
        links, p = self._links, self.parameters
        through = np.zeros(_NODES)
        ends = [(_AIR, _FURNITURE), (_AIR, _PARTITION), (3, 4), (4, 5), (_AIR, _WALL)]
        for (a, b), w_k in zip(ends, links[[0, 1, 2, 2, 4]], strict=True):
            through[[a, b]] += w_k
        for i in range(_WALL, _NODES - 1):
            through[[i, i + 1]] += links[i - 1]
        through[[5, _NODES - 1]] += links[[3, _NODES - 2]]
        through[_AIR] += p.glass_w_k + 4 * p.leak_w_k + p.door_w_k + p.full_heat_w / 30.0
        through[_EMITTER] += p.full_heat_w / 30.0
        return max(6, int(np.ceil(60.0 / (0.5 * float((self._stores / through).min())))))

    def _numbers(self) -> tuple[float, ...]:
        p = self.parameters
        return (
            p.full_heat_w,
            p.glass_w_k,
            p.leak_w_k,
            p.door_w_k,
            p.window_m2,
            p.wall_sun_m2,
            p.convective,
            p.full_heat_w / 30.0,
        )

    def _go(
        self, run: LayeredRun, states: Floats, heat: Floats, mode: int, setpoint: Floats, span: tuple[int, int]
    ) -> None:
        _march(
            states,
            heat,
            mode,
            setpoint,
            span[0],
            span[1],
            self._substeps,
            self._links,
            self._stores,
            run.weather.outdoor_c,
            run.around.south_w_m2,
            run.around.leak_shape,
            run.around.door_open,
            run.gain_w,
            run.neighbour_c,
            self._numbers(),
        )

    def run(self, around: Surroundings, setpoint_c: Floats, gain_w: Floats) -> LayeredRun:
        """Run the thermostat through surroundings and gains, from the unsettled start of its plan."""
        steps = setpoint_c.size
        minutes = np.arange(steps)
        states = np.empty((steps + 1, _NODES))
        states[0] = self.parameters.start_air_c
        depth = np.linspace(0, 1, 3 * _SLICES)
        outdoor = around.weather.outdoor_c[0]
        states[0, _WALL:] = self.parameters.start_wall_c + depth**2 * (outdoor - self.parameters.start_wall_c) * 0.7
        run = LayeredRun(
            around=around,
            states_c=states,
            heat_w=np.zeros(steps),
            gain_w=gain_w[:steps],
            sun_w=_GLASS_G * self.parameters.window_m2 * around.south_w_m2[:steps],
            neighbour_c=self.parameters.neighbour_c + 0.8 * np.sin(2 * np.pi * (minutes - 900) / MIN_PER_DAY),
        )
        self._go(run, states, run.heat_w, int(self.parameters.is_proportional), setpoint_c, (0, steps))
        return run

    def lead_min(self, run: LayeredRun, *, free_from: int, due: int, floor_c: float, target_c: float) -> float | None:
        """Return the latest start, in minutes before ``due``, from which full heat reaches the target.

        From minute ``free_from`` on the room only keeps ``floor_c``; None if no start is in time.
        """
        states, heat = run.states_c.copy(), run.heat_w.copy()
        self._go(run, states, heat, 0, np.full(heat.size, floor_c), (free_from, due))
        if states[due, 0] >= target_c:
            return 0.0
        low, high = free_from, due
        if not self._reaches(run, states, low, due, target_c):
            return None
        while high - low > 1:
            middle = (low + high) // 2
            if self._reaches(run, states, middle, due, target_c):
                low = middle
            else:
                high = middle
        return float(due - low)

    def _reaches(self, run: LayeredRun, states: Floats, begin: int, due: int, target_c: float) -> bool:
        tried, heat = states.copy(), run.heat_w.copy()
        self._go(run, tried, heat, 2, heat, (begin, due))
        return bool(tried[begin : due + 1, 0].max() >= target_c)


def layered_people_w(rng: np.random.Generator, parameters: LayeredParameters, days: int) -> Floats:
    """Return gains by minute: a base, people at home in the morning and from the afternoon, cooking in bursts."""
    gain = np.full(days * MIN_PER_DAY, parameters.base_gain_w)
    for day in range(days):
        at = day * MIN_PER_DAY
        is_home = rng.random() < (0.6 if day % 7 in (5, 6) else 0.25)
        spans = [(400, 520), (480 if is_home else 1020, 1380)]
        for begin, end in spans:
            begin, end = int(begin + rng.normal(0, 30)), int(end + rng.normal(0, 30))
            gain[at + begin : at + end] += parameters.people_w * rng.uniform(0.4, 1.3)
        if rng.random() < 0.7:
            begin = at + int(rng.uniform(1050, 1170))
            gain[begin : begin + int(rng.uniform(15, 60))] += 6.0 * parameters.floor_area_m2 * rng.uniform(0.5, 2.0)
    return gain


def with_gains(parameters: LayeredParameters, factor: float) -> LayeredParameters:
    """Return a plan whose people and machines give ``factor`` times as much."""
    return replace(parameters, people_w=parameters.people_w * factor, base_gain_w=parameters.base_gain_w * factor)
