"""A stand-in for a room with blinds, other in form than the model: a wall in slices, furniture, people, clouds.

The sun falls on furniture, floor and air in shares of its own; blinds warm up and give a part of what they take to the
air; people come by the hour; the sun's log is that of another roof, a few percent off.
"""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.thermal.survey import RoomRc

STEP_S, FINE_S, DAY_STEPS = 600.0, 60, 144
WINDOW_W_M2 = 620.0  # at the middle of a clear afternoon, on a west window
# Air, furniture, floor, and a wall in three slices, from inside to outside [J/K].
_STORES = np.array([1.2e5, 9e5, 3e6, 1.5e6, 1.5e6, 1.5e6])
_FURNITURE_W_K, _FLOOR_W_K, _WALL_FILM_W_K, _OUTER_FILM_W_K = 60.0, 90.0, 110.0, 250.0
# Of the sun that comes in: to the air, furniture and floor. A blind gives a tenth of what it takes to the air, which a
# share let through counts as its own.
_SUN_TO = np.array([0.15, 0.3, 0.55])


@dataclass(frozen=True, slots=True, kw_only=True)
class SunnyRoom:
    """A made-up room's log by ten minutes, its truth, and what a survey would say of it.

    ``room_c`` and ``outdoor_c`` have one value more than the rest; ``up_w`` is the sun through its glass as a survey
    and the sun's log reckon it, ``down`` how far the blind is down; ``lets`` is true.
    """

    room_c: Floats
    outdoor_c: Floats
    up_w: Floats
    down: Floats
    day: Ints
    lets: float
    surveyed: RoomRc
    free_c: Floats


def sunny_room(seed: int, days: int = 20) -> SunnyRoom:
    """Return a room with a blind that somebody moves on some days, over some summer days.

    ``free_c`` is its course had the blind never been down.
    """
    rng = np.random.default_rng(seed)
    lets = float(rng.uniform(0.1, 0.75))
    glass_m2 = float(rng.uniform(2.0, 5.0))
    minutes = np.arange(days * DAY_STEPS * 10)
    hour, day = minutes / 60 % 24, minutes // 1440
    clear = np.repeat(rng.choice((1.0, 0.75, 0.3), days, p=(0.5, 0.3, 0.2)), 1440)
    flicker = np.repeat(rng.uniform(0.8, 1.05, days * 24), 60)
    shape = np.clip(np.sin(np.pi * (hour - 11.5) / 9.0), 0, 1) * ((hour > 11.5) & (hour < 20.5))
    sun = WINDOW_W_M2 * glass_m2 * 0.5 * (0.9 * shape + 0.1 * np.clip(np.sin(np.pi * (hour - 6) / 14), 0, 1))
    sun = sun * clear * flicker
    drawn = rng.random(days) < 0.5
    begin, share = rng.uniform(11, 14, days), rng.choice((1.0, 1.0, 0.7), days)
    down = np.where(drawn[day] & (hour > begin[day]) & (hour < 21), share[day], 0.0)
    outdoor = 22 + 6 * np.sin(2 * np.pi * (hour - 9.5) / 24) + np.repeat(rng.normal(0, 1.5, days), 1440)
    evening = np.where((hour > 17) & (hour < 23), rng.uniform(80, 250), 40.0)
    people = evening * np.repeat(rng.uniform(0.6, 1.4, days), 1440)
    loss, wall_r = float(rng.uniform(15, 40)), float(rng.uniform(0.02, 0.06))
    room_c = _stepped(sun, down, lets, outdoor, people, loss, wall_r)
    free = _stepped(sun, np.zeros_like(down), lets, outdoor, people, loss, wall_r)
    store = _STORES.sum() - _STORES[0]
    off = rng.uniform(0.75, 1.3, 3)
    surveyed = RoomRc(
        air_out_w_k=loss * off[0],
        air_fabric_w_k=320.0 * off[2],
        fabric_out_w_k=off[0] / (3 * wall_r),
        air_j_k=_STORES[0] + _STORES[1],
        fabric_j_k=store * off[1],
    )
    every = slice(None, None, 10)
    read = room_c[every] + np.append(0, rng.normal(0, 0.06, days * DAY_STEPS))
    return SunnyRoom(
        room_c=np.round(read, 1),
        outdoor_c=np.append(outdoor[every], outdoor[-1]),
        up_w=_by_step(sun) * rng.uniform(0.8, 1.25) * rng.uniform(0.93, 1.07, days * DAY_STEPS),
        down=_by_step(down),
        day=day[every].astype(np.int64),
        lets=lets,
        surveyed=surveyed,
        free_c=free[every],
    )


def _by_step(values: Floats) -> Floats:
    return np.asarray(values.reshape(-1, int(STEP_S / FINE_S)).mean(axis=1), dtype=np.float64)


def _stepped(
    sun: Floats, down: Floats, lets: float, outdoor: Floats, people: Floats, loss: float, wall_r: float
) -> Floats:
    """Return the air's temperature by minute, by plain steps of a minute, shape (minute + 1,) [°C]."""
    into = sun * (1 - down * (1 - lets))
    temperature = np.full(6, 25.0)
    found = np.empty(sun.size + 1)
    found[0] = temperature[0]
    for k in range(sun.size):
        air, furniture, floor, *wall = temperature
        to_furniture, to_floor = _FURNITURE_W_K * (air - furniture), _FLOOR_W_K * (air - floor)
        to_wall = _WALL_FILM_W_K * (air - wall[0])
        inner, outer = (wall[0] - wall[1]) / wall_r, (wall[1] - wall[2]) / wall_r
        out = _OUTER_FILM_W_K * (wall[2] - outdoor[k])
        flows = np.array(
            [
                loss * (outdoor[k] - air) + people[k] - to_furniture - to_floor - to_wall + _SUN_TO[0] * into[k],
                to_furniture + _SUN_TO[1] * into[k],
                to_floor + _SUN_TO[2] * into[k],
                to_wall - inner,
                inner - outer,
                outer - out,
            ]
        )
        temperature = temperature + flows * FINE_S / _STORES
        found[k + 1] = temperature[0]
    return found
