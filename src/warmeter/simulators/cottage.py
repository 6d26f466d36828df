"""A month in the made-up cottage by the river: rooms, openings, people, machines and buttons, as logs.

Nothing acts on it but the timetables' thermostats and its people, who leave windows open, forget the dryer, and have
guests at weekends: what rules are replayed on.
"""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.timetable.series import asked_series_c
from warmeter.core.units import J_PER_KWH, MIN_PER_DAY, MS_PER_MIN, S_PER_MIN
from warmeter.simulators.demo import DemoLog
from warmeter.simulators.machines.labelled import labelled_log

START_MS = 1_768_518_000_000  # 2026-01-16 00:00 in Prague
DAYS = 30
MINUTES = DAYS * MIN_PER_DAY
STEP_MIN = 5
SEED, METER_SEED = 1887, 1888
METER_MIN = 15


@dataclass(frozen=True, slots=True, kw_only=True)
class CottageRoom:
    """A room of two stores: air and fabric; conductances in W/K, stores in J/K, watts of its heater."""

    name: str
    zone_id: str
    loss_w_k: float
    inner_w_k: float
    air_j_k: float
    mass_j_k: float
    heat_w: float
    noise_k: float = 0.06


ROOMS: dict[str, CottageRoom] = {
    "wc-parlour": CottageRoom(name="Parlour", zone_id="wc-z-parlour", loss_w_k=42, inner_w_k=220, air_j_k=160e3, mass_j_k=6.0e6, heat_w=2500),
    "wc-kitchen": CottageRoom(name="Kitchen", zone_id="wc-z-kitchen", loss_w_k=33, inner_w_k=170, air_j_k=120e3, mass_j_k=4.5e6, heat_w=2000),
    "wc-tub": CottageRoom(name="Tub room", zone_id="wc-z-tub", loss_w_k=34, inner_w_k=150, air_j_k=100e3, mass_j_k=4.0e6, heat_w=2000),
    "wc-guest": CottageRoom(name="Guest room", zone_id="wc-z-guest", loss_w_k=36, inner_w_k=200, air_j_k=150e3, mass_j_k=4.8e6, heat_w=2000),
    "wc-box": CottageRoom(name="Box room", zone_id="wc-z-box", loss_w_k=27, inner_w_k=120, air_j_k=90e3, mass_j_k=3.0e6, heat_w=1000),
}  # fmt: skip
OPENINGS = {
    "Parlour door": ("wc-parlour", 70.0),
    "Kitchen window": ("wc-kitchen", 45.0),
    "Guest window": ("wc-guest", 40.0),
}


def cottage_logs(home: Home) -> tuple[DemoLog, ...]:
    """Return the cottage's logs: climate every 5 min, what opens and moves on change, machines every minute."""
    rng = np.random.default_rng(SEED)
    outdoor, damp = _weather(rng)
    present = _people(rng)
    opened = {name: _openings(rng, name, present) for name in OPENINGS}
    rooms = _rooms(home, outdoor, opened, present)
    climate, events = _climate(rng, outdoor, damp, rooms), _events(rng, opened, present)
    return (climate, events, _machines(), _meter(rooms, present))


def _weather(rng: np.random.Generator) -> tuple[Floats, Floats]:
    """Return outdoor temperature [°C] and humidity [%] by minute: a thaw, then a week of hard frost."""
    hour = np.arange(MINUTES) / 60
    spells = np.interp(np.arange(MINUTES) / MIN_PER_DAY, [0, 5, 9, 14, 18, 22, 26, 30], [3, 1, -4, -11, -9, 0, 4, 2])
    slow = np.convolve(rng.normal(0, 1, MINUTES + 720), np.ones(720) / 720, mode="valid")[:MINUTES]
    outdoor = spells + 2.6 * np.cos(2 * np.pi * (hour % 24 - 14) / 24) + 18 * slow
    damp = np.clip(84 - 9 * np.cos(2 * np.pi * (hour % 24 - 14) / 24) + 60 * slow, 40, 99)
    return outdoor, damp


def _people(rng: np.random.Generator) -> dict[str, Flags]:
    """Return where somebody is by minute; guests come from Friday evening to Sunday afternoon."""
    minute, day = np.arange(MINUTES) % MIN_PER_DAY, np.arange(MINUTES) // MIN_PER_DAY
    weekday = (day + 4) % 7  # the 16th is a Friday
    late = np.repeat(rng.integers(-40, 40, DAYS), 1440)
    guests = ((weekday == 4) & (minute > 1080)) | (weekday == 5) | ((weekday == 6) & (minute < 960))
    guests &= np.isin(day // 7, (0, 2, 3))
    kitchen = _within(minute, 400 + late, 500 + late) | _within(minute, 1060 + late, 1190 + late)
    parlour = _within(minute, 1150 + late, 1370 + late) | (guests & _within(minute, 560, 1380))
    kitchen |= guests & (_within(minute, 480, 570) | _within(minute, 740, 830))
    tub = _within(minute, 1260, 1310) & np.isin(weekday, (2, 4, 5))
    guest = guests & (_within(minute, 0, 520) | _within(minute, 1380, 1440))
    away = np.isin(day, (11, 12, 13))  # three days nobody is there at all
    found = {"wc-kitchen": kitchen, "wc-parlour": parlour, "wc-tub": tub, "wc-guest": guest}
    return {key: where & ~away for key, where in found.items()}


def _within(minute: Ints, low: int | Ints, high: int | Ints) -> Flags:
    return np.asarray((minute >= low) & (minute < high), dtype=bool)


def _openings(rng: np.random.Generator, name: str, present: dict[str, Flags]) -> Flags:
    """Return when an opening stands open, by half minute: passing through, airing, and now and then forgotten."""
    room = OPENINGS[name][0]
    is_in = np.repeat(present[room], 2)
    found = np.zeros(2 * MINUTES, dtype=bool)
    for day in range(DAYS):
        places = np.flatnonzero(is_in[day * 2880 : (day + 1) * 2880]) + day * 2880
        if places.size < 20:
            continue
        passing = 5 if "door" in name else 1
        for _ in range(rng.poisson(passing)):
            _open(found, int(rng.choice(places)), int(rng.integers(1, 4)))
        if rng.random() < 0.8:
            _open(found, int(rng.choice(places)), 2 * int(rng.integers(5, 14)))
        if rng.random() < 0.12:
            _open(found, int(rng.choice(places)), 2 * int(rng.integers(35, 90)))
        if rng.random() < 0.25:
            # The wind pushes it: it bounces for a while before somebody shuts it.
            at = int(rng.choice(places))
            for k in range(int(rng.integers(2, 5))):
                _open(found, at + 3 * k, 1)
    return found


def _open(flags: Flags, at: int, length: int) -> None:
    flags[at : at + length] = True


def _rooms(
    home: Home, outdoor: Floats, opened: dict[str, Flags], present: dict[str, Flags]
) -> dict[str, tuple[Floats, Floats]]:
    """Return each room's air temperature [°C] and heat [W] by minute, all rooms stepped together."""
    clock, first, keys = LocalClock(home.time_zone), LocalClock(home.time_zone).local(START_MS).date(), list(ROOMS)
    asked = np.stack([asked_series_c(home, home.zone_of_id(ROOMS[k].zone_id), clock, first, DAYS, 1) for k in keys])
    loss, inner, air_j, mass_j, full = (
        np.array([getattr(ROOMS[k], name) for k in keys], dtype=float)
        for name in ("loss_w_k", "inner_w_k", "air_j_k", "mass_j_k", "heat_w")
    )
    through, nobody = np.zeros((len(keys), MINUTES)), np.zeros(MINUTES, dtype=bool)
    for name, (where, w_k) in OPENINGS.items():
        through[keys.index(where)] += w_k * opened[name].reshape(-1, 2).mean(axis=1)
    gain = np.stack([90.0 * present.get(k, nobody) + 25.0 for k in keys])
    air, mass, is_on = asked[:, 0].copy(), asked[:, 0] - 0.5, np.zeros(len(keys), dtype=bool)
    temperature, heat = np.empty((len(keys), MINUTES)), np.empty((len(keys), MINUTES))
    for k in range(MINUTES):
        is_on = air < asked[:, k] + np.where(is_on, 0.2, -0.2)
        heat[:, k] = np.where(is_on, full, 0.0)
        flow = inner * (air - mass)
        air = air + 60 * (heat[:, k] + gain[:, k] - (loss + through[:, k]) * (air - outdoor[k]) - flow) / air_j
        mass = mass + 60 * flow / mass_j
        temperature[:, k] = air
    return {key: (temperature[n], heat[n]) for n, key in enumerate(keys)}


def _climate(
    rng: np.random.Generator, outdoor: Floats, damp: Floats, rooms: dict[str, tuple[Floats, Floats]]
) -> DemoLog:
    """Return the climate log every five minutes, with a night in which the box room's sensor fell silent."""
    every = slice(None, None, STEP_MIN)
    columns = {"Outdoor °C": _text(outdoor[every] + rng.normal(0, 0.1, MINUTES // STEP_MIN), 1)}
    columns["Outdoor humidity %"] = _text(np.clip(damp[every], 0, 100), 0)
    for key, (air, heat) in rooms.items():
        name, noise = ROOMS[key].name, ROOMS[key].noise_k
        columns[f"{name} temperature °C"] = _text(air[every] + rng.normal(0, noise, MINUTES // STEP_MIN), 1)
        if key == "wc-kitchen":
            columns[f"{name} heat W"] = _text(heat.reshape(-1, STEP_MIN).mean(axis=1), 0)
    silent = slice(20 * 288 + 20, 20 * 288 + 120)
    columns["Box room temperature °C"][silent] = [""] * 100
    steam = _steam(rng)
    columns["Tub room humidity %"] = _text(np.clip(steam[every] + rng.normal(0, 0.8, MINUTES // STEP_MIN), 20, 99), 0)
    pipe = 0.72 * rooms["wc-tub"][0][every] + 0.28 * outdoor[every] - 3.0
    columns["Pipe probe temperature °C"] = _text(pipe + rng.normal(0, 0.05, pipe.size), 1)
    return _csv("weir-cottage-climate.csv", columns, STEP_MIN * MS_PER_MIN)


def _steam(rng: np.random.Generator) -> Floats:
    """Return the tub room's humidity by minute: a rise at each bath, dried over hours [%]."""
    minute, day = np.arange(MINUTES) % MIN_PER_DAY, np.arange(MINUTES) // MIN_PER_DAY
    bath = _within(minute, 1255, 1310) & np.isin((day + 4) % 7, (2, 4, 5)) & ~np.isin(day, (11, 12, 13))
    level = np.empty(MINUTES)
    now = 52.0
    for k in range(MINUTES):
        now += (92.0 - now) / 14 if bath[k] else (51.0 + 4 * np.sin(k / 2000) - now) / 110
        level[k] = now
    return level + rng.normal(0, 0.2, MINUTES)


def _events(rng: np.random.Generator, opened: dict[str, Flags], present: dict[str, Flags]) -> DemoLog:
    """Return what reports on change, one line each: openings, leak sensors, people, motion, buttons."""
    rows: list[tuple[int, str, str]] = []

    def told(name: str, flags: Flags, half: int, words: tuple[str, str]) -> None:
        edges = np.flatnonzero(np.diff(flags.astype(np.int8), prepend=-1))
        rows.extend((START_MS + int(k) * half, name, words[int(flags[k])]) for k in edges)
        # A sign of life twice a day.
        rows.extend(
            (START_MS + k * 43_200_000 + 600_000, name, words[int(flags[min(k * 43_200_000 // half, flags.size - 1)])])
            for k in range(2 * DAYS)
        )

    for name, flags in opened.items():
        told(name, flags, 30_000, ("closed", "open"))
    for key, flags in present.items():
        told(f"{ROOMS[key].name} presence", flags, 60_000, ("empty", "occupied"))
    wet = np.zeros(MINUTES, dtype=bool)
    wet[17 * MIN_PER_DAY + 1275 : 17 * MIN_PER_DAY + 1300] = True
    told("Tub leak sensor", wet, 60_000, ("dry", "wet"))
    told("Kitchen leak sensor", np.zeros(MINUTES, dtype=bool), 60_000, ("dry", "wet"))
    stairs = _moving(rng, present["wc-kitchen"] | present["wc-parlour"])
    told("Stairs motion", stairs, 60_000, ("still", "moving"))
    for day in range(DAYS):
        for minute in (1085, 1330):
            if rng.random() < 0.7:
                at = START_MS + (day * MIN_PER_DAY + minute + int(rng.integers(-20, 20))) * MS_PER_MIN
                rows += [(at, "Porch wall switch", "pressed"), (at + 2000, "Porch wall switch", "released")]
    return _sparse("weir-cottage-events.csv", rows)


def _moving(rng: np.random.Generator, somebody: Flags) -> Flags:
    """Return when the motion sensor says that somebody moves, with its own hold of two minutes."""
    seen = somebody & (rng.random(MINUTES) < 0.12)
    return np.asarray(np.convolve(seen, np.ones(2), mode="full")[:MINUTES] > 0, dtype=bool)


MACHINES = {"Washing machine": ("washer", 1931), "Box room dryer": ("dehumidifier", 1932)}


def _machines() -> DemoLog:
    """Return the machines' power every minute."""
    columns = {
        f"{name} power W": _text(labelled_log(kind, seed, 60, days=DAYS, fault="").power_w, 1)
        for name, (kind, seed) in MACHINES.items()
    }
    return _csv("weir-cottage-machines.csv", columns, 60_000)


def _meter(rooms: dict[str, tuple[Floats, Floats]], present: dict[str, Flags]) -> DemoLog:
    """Return the cottage's meter by quarters of an hour: heaters, machines, who is there, and what runs all night."""
    rng = np.random.default_rng(METER_SEED)
    heat = np.sum([heat for _, heat in rooms.values()], axis=0)
    machines = sum(
        np.nan_to_num(labelled_log(kind, seed, 60, days=DAYS, fault="").power_w) for kind, seed in MACHINES.values()
    )
    somebody = np.any(list(present.values()), axis=0)
    whole = heat + machines + np.where(somebody, rng.gamma(1.4, 120, MINUTES), 0.0) + 46
    kwh = whole.reshape(-1, METER_MIN).sum(axis=1) * S_PER_MIN / J_PER_KWH
    return _csv("weir-cottage-meter.csv", {"Grid import kWh": _text(kwh, 3)}, METER_MIN * MS_PER_MIN)


def _text(values: Floats, decimals: int) -> list[str]:
    return ["" if np.isnan(v) else f"{v:.{decimals}f}" for v in values.tolist()]


def _csv(name: str, columns: dict[str, list[str]], step_ms: int) -> DemoLog:
    count = min(len(column) for column in columns.values())
    lines = [",".join(["time UTC", *columns])]
    for k in range(count):
        at = from_ms(START_MS + k * step_ms)
        lines.append(f"{at:%Y-%m-%dT%H:%M:%SZ}," + ",".join(column[k] for column in columns.values()))
    return DemoLog(name, "\n".join(lines) + "\n")


def _sparse(name: str, rows: list[tuple[int, str, str]]) -> DemoLog:
    """Return a log with a column for each sensor and a line for each report."""
    names = list(dict.fromkeys(row[1] for row in rows))
    by_time: dict[int, dict[str, str]] = {}
    for at, sensor, word in rows:
        by_time.setdefault(at, {})[sensor] = word
    lines = [",".join(["time UTC", *names])]
    for at in sorted(by_time):
        said = by_time[at]
        lines.append(f"{from_ms(at):%Y-%m-%dT%H:%M:%SZ}," + ",".join(said.get(n, "") for n in names))
    return DemoLog(name, "\n".join(lines) + "\n")
