"""How well a fit agrees with stand-in houses: seeds by the hundred (``./warmeter agree``)."""

from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.thermal.identify import fit_room
from warmeter.core.thermal.learnt import RoomFit, RoomLog, prior_of_room
from warmeter.core.thermal.simulate import Drive, OnOff, compile_rooms, controlled_run, tracked_state
from warmeter.core.thermal.survey import Element, RoomRc, room_from_survey
from warmeter.core.warmup.lead import simulated_lead
from warmeter.standins.house import (
    Asked,
    House,
    HousePlan,
    HouseRun,
    daily_setpoints,
    people_w,
    random_plan,
    sensed,
    winter_weather,
)

START_MS = 1_767_571_200_000  # 2026-01-05 00:00 UTC, a Monday
LOG_DAYS, HELD_DAYS, EVERY_MIN = 14, 4, 5
_LOW_C, _TARGET_C = 16.0, 20.0  # asked of the held-out mornings, due at 07:00, free from 22:00
_DAY = 1440


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


def survey_of(rng: np.random.Generator, plan: HousePlan) -> RoomRc:
    """Return what a surveyor would put down: losses within 30 %, the class of the mass guessed."""
    area = plan.floor_area_m2
    off = float(np.clip(rng.normal(1.0, 0.25), 0.6, 1.6))
    windows = [
        Element(name="windows", area_m2=0.15 * area, u_w_m2k=min(10.0, off * plan.window_w_k * 0.6 / (0.15 * area)))
    ]
    opaque = [Element(name="walls", area_m2=area, u_w_m2k=max(0.05, min(off * plan.wall_w_k / area, 6.0)))]
    change = off * plan.window_w_k * 0.4 / (0.34 * area * plan.height_m)
    return room_from_survey(
        floor_area_m2=area,
        volume_m3=area * plan.height_m,
        air_change_1_h=change,
        windows=windows,
        opaque=opaque,
        mass_class=rng.choice(["light", "medium", "heavy"]),
    )


def stand_in_run(seed: int) -> tuple[np.random.Generator, House, HouseRun]:
    """Return a seed's house after 18 days under its timetable."""
    rng = np.random.default_rng(seed)
    plan = random_plan(rng)
    days = LOG_DAYS + HELD_DAYS
    weather = winter_weather(rng, START_MS, days, mean_c=float(rng.uniform(0, 7)))
    setpoints = daily_setpoints(
        days,
        up_min=360 + 15 * int(rng.integers(0, 5)),
        down_min=1290 + 15 * int(rng.integers(0, 5)),
        high_c=float(rng.choice([19.5, 20.0, 20.5, 21.0])),
        low_c=float(rng.choice([15.5, 16.0, 16.5, 17.0])),
    )
    gains = people_w(rng, plan, days)
    house = House(plan)
    # Scale what nobody logs to between a tenth and a fifth of all heat.
    run = house.run(weather, Asked(setpoint_c=setpoints), gains)
    wanted = float(rng.uniform(0.10, 0.20))
    people_scale = wanted / max(run.unlogged_share, 1e-6)
    brighter = replace(weather, sun_w_m2=weather.sun_w_m2 * min(people_scale, 1.5))
    run = house.run(brighter, Asked(setpoint_c=setpoints), gains * people_scale)
    return rng, house, run


def log_of_run(rng: np.random.Generator, run: HouseRun, days: int) -> RoomLog:
    """Return the log that a sensor, a heat meter and a weather station leave, with a gap."""
    steps = days * _DAY // EVERY_MIN
    room = sensed(rng, run.air_c[: days * _DAY + 1], EVERY_MIN)
    gap = int(rng.integers(steps // 4, 3 * steps // 4))
    room[gap : gap + 5 * 60 // EVERY_MIN] = np.nan
    return RoomLog(
        step_s=EVERY_MIN * 60.0,
        room_c=room,
        outdoor_c=sensed(rng, run.weather.outdoor_c[: days * _DAY + 1], EVERY_MIN),
        heat_w=run.heat_w[: days * _DAY].reshape(steps, EVERY_MIN).mean(axis=1),
        clear_sky_w_m2=run.weather.clear_w_m2[: days * _DAY].reshape(steps, EVERY_MIN).mean(axis=1),
        day=np.arange(steps) * EVERY_MIN // _DAY,
    )


def judge_seed(seed: int) -> SeedResult:
    """Fit a seed's two weeks and time its next four mornings."""
    rng, house, run = stand_in_run(seed)
    log = log_of_run(rng, run, LOG_DAYS)
    prior = prior_of_room(survey_of(rng, house.plan), house.plan.floor_area_m2)
    fit = fit_room(log, prior, full_heat_w=house.plan.full_heat_w)
    whole = log_of_run(np.random.default_rng(seed + 1_000_000), run, LOG_DAYS + HELD_DAYS)
    true, fitted = [], []
    for day in range(LOG_DAYS, LOG_DAYS + HELD_DAYS):
        due, free_from = day * _DAY + 420, day * _DAY - 120
        true.append(house.lead_min(run, free_from=free_from, due=due, floor_c=_LOW_C, target_c=_TARGET_C))
        fitted.append(_fitted_lead(fit, whole, run, house.plan, free_from, due))
    return SeedResult(
        seed=seed,
        true_loss_w_k=house.plan.loss_w_k,
        fit=fit,
        unlogged_share=run.unlogged_share,
        true_leads=tuple(true),
        fitted_leads=tuple(fitted),
    )


def _fitted_lead(fit: RoomFit, log: RoomLog, run: HouseRun, plan: HousePlan, free_from: int, due: int) -> float | None:
    """Return the lead that the fit gives from the evening's state and the coming temperatures."""
    coarse = compile_rooms(fit.rooms, plan.full_heat_w, log.step_s)
    begin, end = (free_from - 2 * _DAY) // EVERY_MIN, free_from // EVERY_MIN
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
    step = compile_rooms(fit.rooms, plan.full_heat_w, 60.0)
    stretch = slice(free_from, due)
    minutes = due - free_from
    sun = np.asarray(fit.suns_m2)[:, None] * run.weather.clear_w_m2[stretch][None, :]
    drive = Drive(
        outdoor_c=np.repeat(run.weather.outdoor_c[free_from : due + 1][None, :], len(fit.rooms), axis=0),
        gain_w=np.asarray(fit.gains_w)[:, None] + sun,
        setpoint_c=np.full(minutes, _LOW_C),
        start_c=state,
    )
    control = OnOff(full_heat_w=plan.full_heat_w, band_k=0.4, min_on_steps=1, min_off_steps=1)
    night = controlled_run(step, drive, control)
    return simulated_lead(step, drive, night, control, target_c=_TARGET_C, due=minutes).best
