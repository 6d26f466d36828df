"""How well a fit agrees with stand-in houses: seeds by the hundred (``./warmeter agree``)."""

from dataclasses import dataclass, replace
from typing import Any, Literal, Protocol

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.thermal.identify import fit_room
from warmeter.core.thermal.room_fit import Prior, RoomFit, RoomLog, prior_of_room
from warmeter.core.thermal.simulate import BoundaryConditions, OnOff, compile_rooms, controlled_run, tracked_state
from warmeter.core.thermal.survey import Element, RoomRc, room_from_survey
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN
from warmeter.core.warmup.lead import simulated_lead
from warmeter.core.weather.sun import clear_sky_on_wall_w_m2, sun_position
from warmeter.simulators.house import (
    LATITUDE_DEG,
    LONGITUDE_DEG,
    House,
    HouseParameters,
    HouseRun,
    ThermostatSettings,
    Weather,
    daily_setpoints,
    people_w,
    random_plan,
    sensed,
    winter_weather,
)
from warmeter.simulators.layered_house import (
    LayeredHouse,
    LayeredParameters,
    LayeredRun,
    Surroundings,
    layered_people_w,
    layered_surroundings,
    random_layered_plan,
    with_gains,
)

Family = Literal["stores", "layers"]

START_MS = 1_767_571_200_000  # 2026-01-05 00:00 UTC, a Monday
LOG_DAYS, HELD_DAYS, EVERY_MIN = 14, 4, 5
FAMILIES: tuple[Family, ...] = ("stores", "layers")
_LOW_C, _TARGET_C = 16.0, 20.0  # asked of the held-out mornings, due at 07:00, free from 22:00


class SurveyedParameters(Protocol):
    """What a surveyor can put down of a stand-in room."""

    @property
    def floor_area_m2(self) -> float: ...
    @property
    def height_m(self) -> float: ...
    @property
    def window_w_k(self) -> float: ...
    @property
    def wall_w_k(self) -> float: ...
    @property
    def full_heat_w(self) -> float: ...
    @property
    def neighbour_w_k(self) -> float: ...
    @property
    def loss_w_k(self) -> float: ...


class TimedHouse(Protocol):
    """A stand-in whose mornings can be timed."""

    @property
    def parameters(self) -> SurveyedParameters: ...
    def lead_min(self, run: Any, *, free_from: int, due: int, floor_c: float, target_c: float) -> float | None: ...


class LoggedRun(Protocol):
    """What a stand-in run leaves for a log."""

    @property
    def weather(self) -> Weather: ...
    @property
    def air_c(self) -> Floats: ...
    @property
    def emitter_c(self) -> Floats: ...
    @property
    def heat_w(self) -> Floats: ...
    @property
    def unlogged_share(self) -> float: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class SeedResult:
    """One seed: truth against fit, and leads of the held-out mornings [min]."""

    seed: int
    true_loss_w_k: float
    fit: RoomFit
    unlogged_share: float
    true_leads: tuple[float | None, ...]
    fitted_leads: tuple[float | None, ...]

    @property
    def loss_error(self) -> float:
        """Relative error of the steady loss."""
        return self.fit.loss_w_k.value / self.true_loss_w_k - 1

    @property
    def holds_truth(self) -> bool:
        """Whether the 95 % range holds the true loss."""
        return self.fit.loss_w_k.low <= self.true_loss_w_k <= self.fit.loss_w_k.high

    @property
    def leads_within_15(self) -> list[bool]:
        """Whether each held-out morning's lead lies within 15 minutes of the stand-in's."""
        return [
            fitted is not None and abs(fitted - true) <= 15
            for true, fitted in zip(self.true_leads, self.fitted_leads, strict=True)
            if true is not None
        ]


def survey_of(rng: np.random.Generator, parameters: SurveyedParameters) -> RoomRc:
    """Return what a surveyor would put down: losses within 30 %, the class of the mass guessed."""
    area = parameters.floor_area_m2
    off = float(np.clip(rng.normal(1.0, 0.25), 0.6, 1.6))
    windows = [
        Element(
            name="windows", area_m2=0.15 * area, u_w_m2k=min(10.0, off * parameters.window_w_k * 0.6 / (0.15 * area))
        )
    ]
    opaque = [Element(name="walls", area_m2=area, u_w_m2k=max(0.05, min(off * parameters.wall_w_k / area, 6.0)))]
    change = off * parameters.window_w_k * 0.4 / (0.34 * area * parameters.height_m)
    surveyed = room_from_survey(
        floor_area_m2=area,
        volume_m3=area * parameters.height_m,
        air_change_1_h=change,
        windows=windows,
        opaque=opaque,
        mass_class=rng.choice(["light", "medium", "heavy"]),
    )
    # As of any panel or radiator whose maker says no more.
    return replace(surveyed, convective=0.7, emitter_lag_s=600.0)


def prior_of_plan(rng: np.random.Generator, parameters: SurveyedParameters) -> Prior:
    """Return what is known of a stand-in room before its log: the survey, its walls to neighbours taken as at 18 °C."""
    prior = prior_of_room(survey_of(rng, parameters), parameters.floor_area_m2)
    return replace(prior, neighbour_w_k=parameters.neighbour_w_k, neighbour_c=18.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class StoresScene:
    """A house of the first family with all that acts on it."""

    rng: np.random.Generator
    parameters: HouseParameters
    weather: Weather
    setpoint_c: Floats
    gain_w: Floats

    def run(self) -> HouseRun:
        """Run the thermostat through it."""
        return House(self.parameters).run(self.weather, ThermostatSettings(setpoint_c=self.setpoint_c), self.gain_w)

    def house(self) -> House:
        """Return the house alone."""
        return House(self.parameters)

    def under(self, outdoor_c: Floats) -> "StoresScene":
        """Return the scene under another outdoor temperature."""
        return replace(self, weather=replace(self.weather, outdoor_c=outdoor_c))

    def with_heat(self, gain_w: Floats) -> "StoresScene":
        """Return the scene with more heat that nobody logs."""
        return replace(self, gain_w=self.gain_w + gain_w)

    def beside(self, neighbour_c: float, link_w_k: float) -> "StoresScene":
        """Return the scene beside a neighbour of some temperature behind so good a link."""
        return replace(self, parameters=replace(self.parameters, neighbour_c=neighbour_c, neighbour_w_k=link_w_k))


@dataclass(frozen=True, slots=True, kw_only=True)
class LayeredScene:
    """A house of the second family with all that acts on it."""

    rng: np.random.Generator
    parameters: LayeredParameters
    around: Surroundings
    setpoint_c: Floats
    gain_w: Floats

    def run(self) -> LayeredRun:
        """Run the thermostat through it."""
        return LayeredHouse(self.parameters).run(self.around, self.setpoint_c, self.gain_w)

    def house(self) -> LayeredHouse:
        """Return the house alone."""
        return LayeredHouse(self.parameters)

    def under(self, outdoor_c: Floats) -> "LayeredScene":
        """Return the scene under another outdoor temperature."""
        weather = replace(self.around.weather, outdoor_c=outdoor_c)
        return replace(self, around=replace(self.around, weather=weather))

    def with_heat(self, gain_w: Floats) -> "LayeredScene":
        """Return the scene with more heat that nobody logs."""
        return replace(self, gain_w=self.gain_w + gain_w)

    def beside(self, neighbour_c: float, link_w_k: float) -> "LayeredScene":
        """Return the scene beside a neighbour of some temperature behind so good a link."""
        parameters = replace(
            self.parameters, neighbour_c=neighbour_c, partition_w_k=link_w_k, partition_m2=self.parameters.floor_area_m2
        )
        return replace(self, parameters=parameters)


Scene = StoresScene | LayeredScene


def scene_of(seed: int, family: Family, log_days: int = LOG_DAYS, gains: float = 1.0) -> Scene:
    """Return a seed's house under its weather, timetable and people for the logged and the held days.

    ``gains`` multiplies people and machines of the second family.
    """
    return _stores_scene(seed, log_days) if family == "stores" else _layered_scene(seed, log_days, gains)


def _stores_scene(seed: int, log_days: int) -> StoresScene:
    rng = np.random.default_rng(seed)
    parameters = random_plan(rng)
    days = log_days + HELD_DAYS
    weather = winter_weather(rng, START_MS, days, mean_c=float(rng.uniform(0, 7)))
    setpoints = daily_setpoints(
        days,
        up_min=360 + 15 * int(rng.integers(0, 5)),
        down_min=1290 + 15 * int(rng.integers(0, 5)),
        high_c=float(rng.choice([19.5, 20.0, 20.5, 21.0])),
        low_c=float(rng.choice([15.5, 16.0, 16.5, 17.0])),
    )
    scene = StoresScene(
        rng=rng, parameters=parameters, weather=weather, setpoint_c=setpoints, gain_w=people_w(rng, parameters, days)
    )
    # Scale what nobody logs to between a tenth and a fifth of all heat.
    people_scale = float(rng.uniform(0.10, 0.20)) / max(scene.run().unlogged_share, 1e-6)
    brighter = replace(weather, sun_w_m2=weather.sun_w_m2 * min(people_scale, 1.5))
    return replace(scene, weather=brighter, gain_w=scene.gain_w * people_scale)


def _layered_scene(seed: int, log_days: int, gains: float) -> LayeredScene:
    rng = np.random.default_rng(seed)
    parameters = with_gains(random_layered_plan(rng), gains)
    days = log_days + HELD_DAYS
    around = layered_surroundings(rng, START_MS, days, float(rng.uniform(-1, 7)))
    setpoints = daily_setpoints(
        days,
        up_min=330 + 15 * int(rng.integers(0, 9)),
        down_min=1260 + 15 * int(rng.integers(0, 9)),
        high_c=float(rng.choice([19.5, 20.0, 20.5, 21.0])),
        low_c=float(rng.choice([15.0, 16.0, 17.0])),
    )
    people = layered_people_w(rng, parameters, days)
    return LayeredScene(rng=rng, parameters=parameters, around=around, setpoint_c=setpoints, gain_w=people)


def log_of_run(rng: np.random.Generator, run: LoggedRun, days: int) -> RoomLog:
    """Return the log that a sensor, a heat meter and a weather station leave, with a gap."""
    steps = days * MIN_PER_DAY // EVERY_MIN
    room = sensed(rng, run.air_c[: days * MIN_PER_DAY + 1], EVERY_MIN)
    gap = int(rng.integers(steps // 4, 3 * steps // 4))
    room[gap : gap + 5 * 60 // EVERY_MIN] = np.nan
    return RoomLog(
        step_s=EVERY_MIN * 60.0,
        room_c=room,
        outdoor_c=sensed(rng, run.weather.outdoor_c[: days * MIN_PER_DAY + 1], EVERY_MIN),
        heat_w=run.heat_w[: days * MIN_PER_DAY].reshape(steps, EVERY_MIN).mean(axis=1),
        clear_sky_w_m2=run.weather.clear_w_m2[: days * MIN_PER_DAY].reshape(steps, EVERY_MIN).mean(axis=1),
        day=np.arange(steps) * EVERY_MIN // MIN_PER_DAY,
        windows_w_m2=_south_w_m2(days).reshape(steps, EVERY_MIN).mean(axis=1),
    )


def _south_w_m2(days: int) -> Floats:
    """Return the clear-sky sun on a south wall by minute: what a survey that knows the window's bearing expects."""
    at_ms = START_MS + np.arange(days * MIN_PER_DAY, dtype=np.int64) * MS_PER_MIN
    elevation, azimuth = sun_position(at_ms, latitude_deg=LATITUDE_DEG, longitude_deg=LONGITUDE_DEG)
    return clear_sky_on_wall_w_m2(elevation, azimuth, 180.0)


def judge_seed(seed: int, family: Family = "stores", log_days: int = LOG_DAYS, gains: float = 1.0) -> SeedResult:
    """Fit a seed's first days and time its next four mornings."""
    scene = scene_of(seed, family, log_days, gains)
    rng, run = scene.rng, scene.run()
    house: TimedHouse = scene.house()
    log = log_of_run(rng, run, log_days)
    prior = prior_of_plan(rng, house.parameters)
    fit = fit_room(log, prior, full_heat_w=house.parameters.full_heat_w, plate_w=house.parameters.full_heat_w)
    whole = log_of_run(np.random.default_rng(seed + 1_000_000), run, log_days + HELD_DAYS)
    true, fitted = [], []
    for day in range(log_days, log_days + HELD_DAYS):
        due, free_from = day * MIN_PER_DAY + 420, day * MIN_PER_DAY - 120
        true.append(house.lead_min(run, free_from=free_from, due=due, floor_c=_LOW_C, target_c=_TARGET_C))
        fitted.append(_fitted_lead(fit, whole, run, house.parameters, free_from, due))
    return SeedResult(
        seed=seed,
        true_loss_w_k=house.parameters.loss_w_k,
        fit=fit,
        unlogged_share=run.unlogged_share,
        true_leads=tuple(true),
        fitted_leads=tuple(fitted),
    )


def _fitted_lead(
    fit: RoomFit, log: RoomLog, run: LoggedRun, parameters: SurveyedParameters, free_from: int, due: int
) -> float | None:
    """Return the lead that the fit gives from the evening's state and the coming temperatures."""
    coarse = compile_rooms(fit.rooms, parameters.full_heat_w, log.step_s)
    begin, end = (free_from - 2 * MIN_PER_DAY) // EVERY_MIN, free_from // EVERY_MIN
    part = log.part(begin, end)
    gains = np.asarray(fit.gains_w)[:, None] + np.asarray(fit.suns_m2)[:, None] * part.clear_sky_w_m2[None, :]
    first = part.room_c[~np.isnan(part.room_c)][0]
    state = tracked_state(
        coarse,
        outdoor_c=part.outdoor_c,
        heat_w=part.heat_w,
        gain_w=gains,
        measured_c=part.room_c,
        start_c=np.full((len(fit.rooms), 3), first),
    )
    step = compile_rooms(fit.rooms, parameters.full_heat_w, 60.0)
    stretch = slice(free_from, due)
    minutes = due - free_from
    sun = np.asarray(fit.suns_m2)[:, None] * run.weather.clear_w_m2[stretch][None, :]
    boundary = BoundaryConditions(
        outdoor_c=np.repeat(run.weather.outdoor_c[free_from : due + 1][None, :], len(fit.rooms), axis=0),
        gain_w=np.asarray(fit.gains_w)[:, None] + sun,
        setpoint_c=np.full(minutes, _LOW_C),
        start_c=state,
    )
    control = OnOff(full_heat_w=parameters.full_heat_w, band_k=0.4, min_on_steps=1, min_off_steps=1)
    night = controlled_run(step, boundary, control)
    return simulated_lead(step, boundary, night, control, target_c=_TARGET_C, due=minutes).best
