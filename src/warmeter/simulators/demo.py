"""Logs of the demo: two weeks of the made-up bindery, and a home around a real building's log."""

from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.home.day_plans import PlanPractice, QuietHours, WantedCharge, WantedHours, WantedRun, WaterStore
from warmeter.core.home.document import Home, Place
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.preheats import PreheatZone
from warmeter.core.home.rooms import Described, Room
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Level, Zone
from warmeter.core.timegrid import from_ms
from warmeter.core.units import J_PER_KWH, MIN_PER_DAY, MS_PER_H
from warmeter.simulators.house import House, HouseParameters, ThermostatSettings, people_w, sensed, winter_weather
from warmeter.simulators.machines.labelled import labelled_log

START_MS = 1_767_657_600_000  # 2026-01-06 00:00 UTC
LOG_MIN = 14 * MIN_PER_DAY + 640  # until Tue 20 Jan 10:40
MACHINES = (("washer", 1904), ("fridge", 1911))
METER_STEP_S, LIT_W = 900, 1.6
MACHINE_STEP_S = 20
BUILDING_ID = "hourly-hall"
BUILDING_LOG = Path(__file__).parent / "data" / "heated-building.csv"

LEVELS = (
    Level(id="lv-in-use", name="In use", heating_c=20.0),
    Level(id="lv-asleep", name="Asleep", heating_c=16.5, is_saving=True),
    Level(id="lv-out", name="Out", heating_c=17.0, is_saving=True),
    Level(id="lv-idle", name="Idle", heating_c=15.0, is_saving=True),
)
# What the old controls of the three logged rooms ask, from which minute on.
DAYS: dict[str, tuple[tuple[int, str, float | None], ...]] = {
    "bindery": ((0, "lv-idle", None), (450, "lv-in-use", 19.0), (1080, "lv-idle", None)),
    "kitchen": (
        (0, "lv-asleep", None),
        (390, "lv-in-use", None),
        (540, "lv-out", None),
        (1050, "lv-in-use", None),
        (1350, "lv-asleep", None),
    ),
    "loft": (
        (0, "lv-asleep", None),
        (405, "lv-in-use", None),
        (510, "lv-out", None),
        (960, "lv-in-use", 21.0),
        (1350, "lv-asleep", None),
    ),
}
_LOGGED = {"bindery": "Bindery", "kitchen": "Kitchen", "loft": "Loft room"}
_TRUTH: dict[str, HouseParameters] = {
    "bindery": HouseParameters(
        floor_area_m2=38,
        height_m=3.2,
        window_w_k=48,
        wall_w_k=44,
        inner_w_k=380,
        neighbour_w_k=4,
        air_j_k=420e3,
        furniture_j_k=800e3,
        wall_j_k=3.6e6,
        inner_j_k=5.2e6,
        emitter_lag_s=840,
        full_heat_w=4200,
        convective=0.7,
        window_m2=4.2,
        people_w=190,
        base_gain_w=60,
        neighbour_c=17.5,
    ),
    "kitchen": HouseParameters(
        floor_area_m2=18,
        height_m=2.6,
        window_w_k=19,
        wall_w_k=20,
        inner_w_k=190,
        neighbour_w_k=3,
        air_j_k=200e3,
        furniture_j_k=420e3,
        wall_j_k=1.7e6,
        inner_j_k=2.2e6,
        emitter_lag_s=720,
        full_heat_w=1900,
        convective=0.7,
        window_m2=2.0,
        people_w=130,
        base_gain_w=40,
        neighbour_c=18.0,
    ),
    "loft": HouseParameters(
        floor_area_m2=24,
        height_m=2.5,
        window_w_k=26,
        wall_w_k=25,
        inner_w_k=230,
        neighbour_w_k=3,
        air_j_k=260e3,
        furniture_j_k=460e3,
        wall_j_k=1.5e6,
        inner_j_k=2.6e6,
        emitter_lag_s=780,
        full_heat_w=2300,
        convective=0.7,
        window_m2=3.0,
        people_w=110,
        base_gain_w=35,
        neighbour_c=18.0,
    ),
}


@dataclass(frozen=True, slots=True)
class DemoLog:
    """A log as a file: name and text."""

    file_name: str
    text: str


def room_log_csv() -> DemoLog:
    """Return the bindery's two weeks: temperatures every 5 min, heat in watts, a gap of 7 h 10 min."""
    rng = np.random.default_rng(1871)
    days = 16
    weather = winter_weather(rng, START_MS, days, mean_c=3.2)
    columns: dict[str, list[str]] = {}
    for key, name in _LOGGED.items():
        parameters = _TRUTH[key]
        run = House(parameters).run(
            weather, ThermostatSettings(setpoint_c=_setpoints(key, days)), people_w(rng, parameters, days)
        )
        shown = sensed(rng, run.air_c[: LOG_MIN + 1], 5)
        text = [f"{value:.1f}" for value in shown]
        if key == "kitchen":
            text[1500:1586] = [""] * 86
        columns[f"{name} temperature °C"] = text
        heat = run.heat_w[: LOG_MIN + 5].reshape(-1, 5).mean(axis=1)
        columns[f"{name} heat W"] = [f"{value:.0f}" for value in heat[: len(text)]]
    columns["Outdoor °C"] = [f"{value:.1f}" for value in sensed(rng, weather.outdoor_c[: LOG_MIN + 1], 5)]
    times = [from_ms(START_MS + k * 300_000).strftime("%Y-%m-%d %H:%M") for k in range(LOG_MIN // 5 + 1)]
    lines = [",".join(["time", *columns])]
    lines += [",".join(cells) for cells in zip(times, *columns.values(), strict=True)]
    return DemoLog("sail-loft-rooms.csv", "\n".join(lines) + "\n")


def _setpoints(key: str, days: int) -> Floats:
    """Return what the old controls ask by minute: each block from its own start, nothing early."""
    own = {level.id: level.heating_c for level in LEVELS}
    minute = np.arange(1440)
    day = np.zeros(1440)
    for start, level, setpoint in DAYS[key]:
        day[minute >= start] = own[level] if setpoint is None else setpoint
    return np.tile(day, days)


def damp_log_csv() -> DemoLog:
    """Return the paper store's two weeks of temperature and humidity, hourly."""
    rng = np.random.default_rng(1923)
    hours = LOG_MIN // 60
    slow = np.convolve(rng.normal(0, 1, hours + 24), np.ones(24) / 24, mode="valid")[:hours]
    air = 15.2 + 0.5 * slow + rng.normal(0, 0.05, hours)
    humidity = 61.0 + 5.0 * slow + rng.normal(0, 0.6, hours)
    lines = ["time,Paper store temperature °C,Paper store humidity %"]
    lines += [f"{from_ms(START_MS + k * MS_PER_H):%Y-%m-%d %H:%M},{air[k]:.1f},{humidity[k]:.0f}" for k in range(hours)]
    return DemoLog("sail-loft-paper-store.csv", "\n".join(lines) + "\n")


def outdoor_log_csv() -> DemoLog:
    """Return the harbour's hourly outdoor temperature from 1 July 2025 until the rooms' log begins."""
    rng = np.random.default_rng(1850)
    begin_ms = 1_751_328_000_000  # 2025-07-01 00:00 UTC
    hours = (START_MS - begin_ms) // MS_PER_H
    at = np.arange(hours)
    season = 9.5 + 8.5 * np.cos(2 * np.pi * (at / 24 - 22) / 365)
    day = 2.8 * np.cos(2 * np.pi * (at % 24 - 15) / 24)
    spells = np.convolve(rng.normal(0, 1, hours + 96), np.ones(96) / 96, mode="valid")[:hours] * 28
    values = season + day + spells + rng.normal(0, 0.2, hours)
    lines = ["time,Outdoor °C"]
    lines += [f"{from_ms(begin_ms + k * MS_PER_H):%Y-%m-%d %H:%M},{values[k]:.1f}" for k in range(hours)]
    return DemoLog("sail-loft-outdoor.csv", "\n".join(lines) + "\n")


def machine_log_csv() -> DemoLog:
    """Return two weeks of the washing machine and the refrigerator at 20 s."""
    power = [_machine_power(kind, seed, MACHINE_STEP_S) for kind, seed in MACHINES]
    lines = ["time,Washing machine power W,Refrigerator power W"]
    for k in range(power[0].size):
        at = from_ms(START_MS + k * MACHINE_STEP_S * 1000)
        cells = ("" if np.isnan(each[k]) else f"{each[k]:.1f}" for each in power)
        lines.append(f"{at:%Y-%m-%d %H:%M:%S},{','.join(cells)}")
    return DemoLog("sail-loft-machines.csv", "\n".join(lines) + "\n")


def meter_log_csv() -> DemoLog:
    """Return two weeks of the home's meter by quarters of an hour: the machines, people, and what runs all night."""
    rng = np.random.default_rng(1923)
    machines = sum(np.nan_to_num(_machine_power(kind, seed, METER_STEP_S)) for kind, seed in MACHINES)
    hour = np.arange(14 * 96) / 4 % 24
    people = np.where((hour > 7) & (hour < 22.5), rng.gamma(1.4, 160, hour.size), rng.gamma(1.2, 6, hour.size))
    kwh = (machines + people + 58) * METER_STEP_S / J_PER_KWH
    lines = ["time,Grid import kWh"]
    lines += [f"{from_ms(START_MS + k * METER_STEP_S * 1000):%Y-%m-%d %H:%M},{v:.3f}" for k, v in enumerate(kwh)]
    return DemoLog("sail-loft-meter.csv", "\n".join(lines) + "\n")


def _machine_power(kind: str, seed: int, step_s: int) -> Floats:
    """Return two weeks of a stand-in machine, means over a step; the washer's display stays lit from the ninth day on."""
    ten = labelled_log(kind, seed, 10, days=14, fault="").power_w
    if kind == "washer":
        lit = np.arange(ten.size) >= 9 * 8640
        ten = np.where(lit & (ten < 1.5), ten + LIT_W, ten)
    means: Floats = ten.reshape(-1, step_s // 10).mean(axis=1)
    return means


def with_wants(home: Home) -> Home:
    """Return the bindery with what is wanted on the day after its logs end: two washes, a bike, hot water, dry paper."""
    on = date(2026, 1, 21)
    cotton = WantedRun(
        id="wr-cotton", appliance_id="ap-washer", on=on, label="cotton", earliest_min=300, latest_end_min=1320
    )
    wool = WantedRun(
        id="wr-wool",
        appliance_id="ap-washer",
        on=on,
        label="wool",
        earliest_min=480,
        latest_end_min=1320,
        after_id="wr-cotton",
        kwh=0.5,
        minutes=50,
    )
    bike = WantedCharge(
        id="wc-bike", name="Cargo bike", on=on, kwh=1.8, earliest_min=0, latest_end_min=510, steps_kw=(0.4, 0.8)
    )
    dry = WantedHours(id="wh-dry", name="Paper dryer", on=on, power_w=320.0, hours=4.0, least_min=60, is_heard=False)
    tank = WaterStore(
        id="ws-tank", name="Hot water", litres=180.0, power_w=2500.0, usual_c=49.0, ready_c=52.0, hygiene_c=60.0
    )
    practice = PlanPractice(
        main_fuse_a=25.0,
        quiet=(QuietHours(from_min=1320, to_min=420, room_id="rm-bedroom"),),
        preheats=(PreheatZone(zone_id="zo-bindery"), PreheatZone(zone_id="zo-bedroom")),
    )
    return replace(
        home,
        wanted_runs=(cotton, wool),
        wanted_charges=(bike,),
        wanted_hours=(dry,),
        water_stores=(tank,),
        plan_practice=practice,
    )


def building() -> Home:
    """Return a home around the real building's log: its survey is a guess, its heat has no known unit."""
    return Home(
        id=BUILDING_ID,
        name="Measured hall, example",
        place=Place(latitude_deg=55.7, longitude_deg=12.5),
        time_zone="UTC",
        country="DK",
        currency="DKK",
        rooms=(
            Room(
                id="rm-hall",
                name="Hall",
                height_m=3.0,
                built="1978_1994",
                mass_class="heavy",
                described=Described(floor_area_m2=600.0, outside_walls=4, has_roof=True, has_ground_floor=True),
            ),
        ),
        sources=(Source(id="so-district", name="Heating water", kind="direct"),),
        heaters=(
            Heater(
                id="he-hall",
                room_id="rm-hall",
                name="Radiators",
                kind="radiator",
                source_id="so-district",
                rated_heat_w=60_000.0,
            ),
        ),
        levels=LEVELS,
        zones=(
            Zone(
                id="zo-hall",
                name="Hall",
                room_ids=("rm-hall",),
                timetables=every_day(
                    "tt-hall",
                    ChangePoint(start_min=420, level_id="lv-in-use"),
                    ChangePoint(start_min=1080, level_id="lv-out"),
                ),
            ),
        ),
    )
