"""The demo homes: a made-up bindery with stand-in logs, and a real building's log as a second example."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from warmeter.core.home.document import Appliance, Home, Place, Tariff
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Described, Room
from warmeter.core.home.zones import ChangePoint, GuardLimits, Level, Zone
from warmeter.core.tariff.structure import Rate
from warmeter.core.timegrid import from_ms
from warmeter.standins.house import (
    LATITUDE_DEG,
    LONGITUDE_DEG,
    Asked,
    House,
    HousePlan,
    people_w,
    sensed,
    winter_weather,
)
from warmeter.standins.machine import machine_log

Floats = NDArray[np.float64]
START_MS = 1_767_657_600_000  # 2026-01-06 00:00 UTC
LOG_MIN = 14 * 1440 + 640  # until Tue 20 Jan 10:40
MACHINE_STEP_S = 20
BINDERY_ID, BUILDING_ID = "sail-loft", "hourly-hall"
BUILDING_LOG = Path(__file__).parent / "data" / "heated-building.csv"

_LEVELS = (
    Level(id="lv-in-use", name="In use", heating_c=20.0),
    Level(id="lv-asleep", name="Asleep", heating_c=16.5),
    Level(id="lv-out", name="Out", heating_c=17.0),
    Level(id="lv-idle", name="Idle", heating_c=15.0),
)
_DAYS: dict[str, tuple[tuple[int, str, float | None], ...]] = {
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
_ROOMS: dict[str, tuple[str, float, float, int, bool, bool, float]] = {
    # name, floor m2, height m, outside walls, roof, ground floor, rated heat W
    "bindery": ("Bindery", 38.0, 3.2, 2, False, True, 4200.0),
    "kitchen": ("Kitchen", 18.0, 2.6, 2, False, False, 1900.0),
    "loft": ("Loft room", 24.0, 2.5, 1, True, False, 2300.0),
}
_TRUTH: dict[str, HousePlan] = {
    "bindery": HousePlan(
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
    "kitchen": HousePlan(
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
    "loft": HousePlan(
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


def _points(room: str) -> tuple[ChangePoint, ...]:
    return tuple(ChangePoint(start_min=s, level_id=level, own_setpoint_c=own) for s, level, own in _DAYS[room])


def _tariff() -> Tariff:
    """Return three rates: cheap nights, dear winter evenings on workdays."""
    evening = Rate(
        name="dear evening",
        months=(11, 12, 1, 2),
        days=("weekday",),
        from_min=960,
        to_min=1200,
        price_per_kwh=Decimal("0.446"),
    )
    night = Rate(name="night", from_min=0, to_min=360, price_per_kwh=Decimal("0.142"))
    return Tariff(
        id="ta-winter",
        name="Harbour three-rate",
        currency="GBP",
        standing_per_day=Decimal("0.52"),
        rates=(evening, night, Rate(name="day", price_per_kwh=Decimal("0.268"))),
        valid_from=date(2025, 10, 1),
        valid_to=date(2026, 3, 31),
        holidays=(date(2025, 12, 25), date(2025, 12, 26), date(2026, 1, 1)),
    )


def _room(key: str) -> Room:
    name, area, height, walls, roof, ground, _ = _ROOMS[key]
    return Room(
        id=f"rm-{key}",
        name=name,
        height_m=height,
        built="1950_1977",
        mass_class="heavy",
        described=Described(floor_area_m2=area, outside_walls=walls, has_roof=roof, has_ground_floor=ground),
    )


def _heater(key: str) -> Heater:
    return Heater(
        id=f"he-{key}",
        room_id=f"rm-{key}",
        name=f"{_ROOMS[key][0]} radiators",
        kind="radiator",
        source_id="so-pump",
        rated_heat_w=_ROOMS[key][6],
    )


def bindery() -> Home:
    """Return the Sail Loft Bindery: three of its rooms, a heat pump, dear winter evenings."""
    cop = ((-7.0, 2.3), (2.0, 2.9), (7.0, 3.5), (12.0, 4.1))
    washer = Appliance(
        id="ap-washer",
        name="Washing machine",
        threshold_w=10.0,
        wait_min=2.0,
        earliest_min=360,
        latest_end_min=1380,
        start_min=1020,
    )
    return Home(
        id=BINDERY_ID,
        name="Sail Loft Bindery",
        zone="Europe/London",
        country="GB",
        currency="GBP",
        place=Place(latitude_deg=LATITUDE_DEG, longitude_deg=LONGITUDE_DEG, label="a cold harbour"),
        guard=GuardLimits(low_c=10.0, high_c=30.0),
        rooms=tuple(_room(key) for key in _ROOMS),
        sources=(Source(id="so-pump", name="Heat pump", kind="heat_pump", cop_points=cop),),
        heaters=tuple(_heater(key) for key in _ROOMS),
        levels=_LEVELS,
        zones=tuple(
            Zone(id=f"zo-{key}", name=row[0], room_ids=(f"rm-{key}",), day=_points(key)) for key, row in _ROOMS.items()
        ),
        tariffs=(_tariff(),),
        appliances=(washer,),
    )


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
    for key, row in _ROOMS.items():
        plan = _TRUTH[key]
        run = House(plan).run(weather, Asked(setpoint_c=_setpoints(key, days)), people_w(rng, plan, days))
        shown = sensed(rng, run.air_c[: LOG_MIN + 1], 5)
        text = [f"{value:.1f}" for value in shown]
        if key == "kitchen":
            text[1500:1586] = [""] * 86
        columns[f"{row[0]} temperature °C"] = text
        heat = run.heat_w[: LOG_MIN + 5].reshape(-1, 5).mean(axis=1)
        columns[f"{row[0]} heat W"] = [f"{value:.0f}" for value in heat[: len(text)]]
    columns["Outdoor °C"] = [f"{value:.1f}" for value in sensed(rng, weather.outdoor_c[: LOG_MIN + 1], 5)]
    times = [from_ms(START_MS + k * 300_000).strftime("%Y-%m-%d %H:%M") for k in range(LOG_MIN // 5 + 1)]
    lines = [",".join(["time", *columns])]
    lines += [",".join(cells) for cells in zip(times, *columns.values(), strict=True)]
    return DemoLog("sail-loft-rooms.csv", "\n".join(lines) + "\n")


def _setpoints(key: str, days: int) -> Floats:
    """Return what the old controls ask by minute: each block from its own start, nothing early."""
    own = {level.id: level.heating_c for level in _LEVELS}
    minute = np.arange(1440)
    day = np.zeros(1440)
    for start, level, setpoint in _DAYS[key]:
        day[minute >= start] = own[level] if setpoint is None else setpoint
    return np.tile(day, days)


def machine_log_csv() -> DemoLog:
    """Return the washing machine's two weeks at 20 s."""
    power, _ = machine_log(np.random.default_rng(1904), 14, MACHINE_STEP_S)
    lines = ["time,Washing machine power W"]
    lines += [
        f"{from_ms(START_MS + k * MACHINE_STEP_S * 1000):%Y-%m-%d %H:%M:%S},{value:.1f}"
        for k, value in enumerate(power)
    ]
    return DemoLog("sail-loft-washing-machine.csv", "\n".join(lines) + "\n")


def building() -> Home:
    """Return a home around the real building's log: its survey is a guess, its heat has no known unit."""
    return Home(
        id=BUILDING_ID,
        name="Measured hall, example",
        place=Place(latitude_deg=55.7, longitude_deg=12.5),
        zone="UTC",
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
        levels=_LEVELS,
        zones=(
            Zone(
                id="zo-hall",
                name="Hall",
                room_ids=("rm-hall",),
                day=(
                    ChangePoint(start_min=0, level_id="lv-out"),
                    ChangePoint(start_min=420, level_id="lv-in-use"),
                    ChangePoint(start_min=1080, level_id="lv-out"),
                ),
            ),
        ),
    )
