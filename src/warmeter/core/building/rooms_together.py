"""A home's rooms run together once, so that each room's own run knows what its shared walls bring."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.compiled import compile_home
from warmeter.core.building.groupings import Week, ZoneGroup, run_rooms
from warmeter.core.building.losses import prior_of
from warmeter.core.building.neighbours import beside_c, hourly_c
from warmeter.core.building.room_envelope import shared_w_k
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.survey import RoomRc

UNHEATED_C = (15.0, 15.0)  # air and fabric of a room that nothing heats, at the start of a stretch
NOTHING_ASKED_C = -60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomTogether:
    """A room's best estimate for a run of all: its stores, gains [W] by step, what is asked [°C] by step, and its air
    and fabric at the start [°C]. ``is_learnt`` says that a log taught it, its usual exchange with the others included."""

    rc: RoomRc
    gain_w: Floats
    asked_c: Floats
    start_c: tuple[float, float]
    is_learnt: bool


def beside_w_k(home: Home, room: Room) -> float:
    """Return the conductance of all that a room shares with other heated rooms [W/K]."""
    return sum(shared_w_k(home, room).values()) if room.condition == "heated" else 0.0


def temperatures_beside(
    home: Home, rooms: Mapping[str, RoomTogether], outdoor_c: Floats, step_min: int
) -> dict[str, Floats]:
    """Return the temperature beside each of some rooms, hour by hour, shape (step,) [°C].

    Parameters
    ----------
    rooms : mapping
        By room id; heated rooms that are not there are run with usual gains and unheated.
    outdoor_c : (step,) float array
        At the beginning of each step [°C].

    Notes
    -----
    One run of the best estimates, each room on its own thermostat, without warm-ups: what a warm-up of an hour or two
    does to the other side of a wall is little. A room that a log taught has its usual exchange in its gains already:
    for it only the departures from the stretch's mean count.
    """
    steps = outdoor_c.size
    shared = {key: shared_w_k(home, home.room(key)) for key in rooms if home.room(key).condition == "heated"}
    shared = {key: walls for key, walls in shared.items() if walls}
    if not shared:
        return {}
    try:
        compiled = compile_home(home, {key: room.rc for key, room in rooms.items()})
    except HomeError:
        return {}
    gain, starts, zones = [], [], []
    for place, key in enumerate(compiled.room_ids):
        known = rooms.get(key)
        if known is None:
            gain.append(np.full(steps, prior_of(home, home.room(key)).gain_w))
            starts.append(UNHEATED_C)
            continue
        gain.append(known.gain_w)
        starts.append(known.start_c)
        zones.append(ZoneGroup(name=key, rooms=(place,), setpoint_c=known.asked_c, weights=(1.0,)))
    week = Week(
        outdoor_c=outdoor_c,
        gain_w=np.ascontiguousarray(gain),
        needs_c=np.full((len(compiled.room_ids), steps), np.nan),
        price=None,
    )
    run = run_rooms(compiled, week, tuple(zones), start_c=np.array(starts), step_s=60.0 * step_min)
    found = {}
    for key, walls in shared.items():
        beside = beside_c(walls, run, compiled.room_ids)
        if rooms[key].is_learnt:
            own = run.fabric_c[compiled.room_ids.index(key)]
            beside = beside - float((beside - own).mean())
        found[key] = hourly_c(beside, 60 // step_min)
    return found
