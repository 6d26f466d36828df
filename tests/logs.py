"""Small logs as CSV, for tests."""

from collections.abc import Sequence

import numpy as np

from warmeter.core.readings.column_subjects import LogSubject, LogSubjects
from warmeter.core.readings.csvlog import ImportMapping
from warmeter.core.readings.log_proposal import propose_mapping
from warmeter.core.timegrid import from_ms
from warmeter.simulators.house import (
    House,
    HouseParameters,
    ThermostatSettings,
    daily_setpoints,
    people_w,
    sensed,
    winter_weather,
)
from warmeter.simulators.machines.labelled import labelled_log

START_MS = 1_767_571_200_000  # Mon 2026-01-05 00:00 UTC
PLAN = HouseParameters(
    floor_area_m2=20,
    height_m=2.5,
    window_w_k=22,
    wall_w_k=24,
    inner_w_k=200,
    neighbour_w_k=2,
    air_j_k=220e3,
    furniture_j_k=400e3,
    wall_j_k=1.4e6,
    inner_j_k=2.2e6,
    emitter_lag_s=300,
    full_heat_w=2000,
    convective=0.7,
    window_m2=1.8,
    people_w=60,
    base_gain_w=20,
    neighbour_c=18,
)


def suggested(
    lines: Sequence[str], *, rooms: Sequence[tuple[str, str]] = (), machines: Sequence[tuple[str, str]] = ()
) -> ImportMapping:
    """Return how lines would be read in a home of rooms and machines (id, name), what is only likely taken too."""
    subjects = LogSubjects(
        rooms=tuple(LogSubject(id=i, name=name, kind="room") for i, name in rooms),
        machines=tuple(LogSubject(id=i, name=name, kind="machine") for i, name in machines),
    )
    return propose_mapping(lines, subjects).suggested


def room_csv(days: int = 7, name: str = "Study") -> str:
    """Return a room's log every 10 minutes: temperature, heat in watts, outdoors."""
    rng = np.random.default_rng(31)
    weather = winter_weather(rng, START_MS, days + 1, mean_c=3.0)
    setpoints = daily_setpoints(days, up_min=420, down_min=1320, high_c=20.0, low_c=16.0)
    run = House(PLAN).run(weather, ThermostatSettings(setpoint_c=setpoints), people_w(rng, PLAN, days))
    room, outside = sensed(rng, run.air_c, 10), sensed(rng, weather.outdoor_c[: days * 1440 + 1], 10)
    heat = run.heat_w.reshape(-1, 10).mean(axis=1)
    lines = [f"time,{name} temperature °C,{name} heat W,Outdoor °C"]
    for k, watts in enumerate(heat):
        lines.append(f"{from_ms(START_MS + k * 600_000):%Y-%m-%d %H:%M},{room[k]:.1f},{watts:.0f},{outside[k]:.1f}")
    return "\n".join(lines) + "\n"


def machine_csv(days: int = 4, name: str = "Washer") -> str:
    """Return a machine's log every 30 seconds."""
    power = labelled_log("washer", 77, 30, days=days, fault="").power_w
    lines = [f"time,{name} power W"]
    lines += [
        f"{from_ms(START_MS + k * 30_000):%Y-%m-%d %H:%M:%S},{w:.1f}" for k, w in enumerate(power) if not np.isnan(w)
    ]
    return "\n".join(lines) + "\n"
