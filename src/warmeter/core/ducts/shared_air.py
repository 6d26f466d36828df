"""Rooms on one fan through time: stages, delays, the fan's own hours, one thermostat with the sensors that lead."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.thermal.network import ExactStep, exact_step
from warmeter.core.units import MIN_PER_H, S_PER_MIN

# Air at about 20 °C: heat that warms a cubic metre by a kelvin.
AIR_J_M3K = 1206.0
# Between heating and cooling the plant rests at least so long.
CHANGEOVER_MIN = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedRooms:
    """Rooms on one fan.

    Parameters
    ----------
    a, b : (2 room, 2 room) and (2 room, 1 + room) float arrays
        Air and fabric of every room in turn [1/s]; inputs are the outdoor temperature and each room's heat into air [W].
    air_j_k : (room,) float array
        Heat capacity of each room's air [J/K].
    flow_m3_s : (room,) float array
        Air of each room when the fan runs; 0 without a vent [m³/s].
    gain_w : (room,) float array
        Usual gains [W].
    """

    room_ids: tuple[str, ...]
    a: Floats
    b: Floats
    air_j_k: Floats
    flow_m3_s: Floats
    gain_w: Floats

    @property
    def share(self) -> Floats:
        """Each room's share of the air (ratio)."""
        return np.asarray(self.flow_m3_s / self.flow_m3_s.sum(), dtype=np.float64)

    def with_fan(self) -> Floats:
        """Return the system while the fan mixes: each room gets the mean of what all give back."""
        mixed, share = self.a.copy(), self.share
        for k in range(len(self.room_ids)):
            rate = AIR_J_M3K * self.flow_m3_s[k] / self.air_j_k[k]
            mixed[2 * k, 2 * k] -= rate
            mixed[2 * k, 0::2] += rate * share
        return mixed


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctWish:
    """What is asked by minute: heating setpoint and cooling limit [°C], which rooms lead by which weight.

    ``cooling_c`` is None without cooling; ``weights`` are (room,) and add up to 1.
    """

    heating_c: Floats
    cooling_c: Floats | None
    weights: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctRun:
    """A run by minute: rooms' air (room, minute + 1) [°C], stages on, fan on, heat (negative: cold) [W]."""

    room_c: Floats
    stages: Ints
    fan: Flags
    heat_w: Floats

    @property
    def starts(self) -> int:
        """How often heat or cold began."""
        on = self.heat_w != 0
        return int(on[0]) + int((on[1:] & ~on[:-1]).sum())


def duct_run(rooms: SharedRooms, system: DuctSystem, wish: DuctWish, outdoor_c: Floats, start_c: Floats) -> DuctRun:
    """Return a run of rooms on one fan, minute by minute.

    Parameters
    ----------
    outdoor_c : (minute + 1,) float array
        Outdoor temperature at each minute's ends [°C].
    start_c : (2 room,) float array
        Air and fabric of every room at the start [°C].

    Notes
    -----
    Exact steps of one minute, with and without the fan (docs/methods B5); heat goes to rooms by their share of the air.
    A stage begins when the leading sensors have been under the setpoint by its own gap for its delay; all end together
    at half the hysteresis over it, after the least time on. docs/methods M5, Q7.
    """
    minutes = outdoor_c.size - 1
    still, mixed = (exact_step(a, rooms.b, float(S_PER_MIN)) for a in (rooms.a, rooms.with_fan()))
    state = start_c.astype(np.float64).copy()
    control = _Control(system)
    found = np.empty((len(rooms.room_ids), minutes + 1))
    found[:, 0] = state[0::2]
    stages, fan, heat = np.zeros(minutes, dtype=np.int64), np.zeros(minutes, dtype=bool), np.zeros(minutes)
    share = rooms.share
    for k in range(minutes):
        lead = float(wish.weights @ state[0::2])
        limit = None if wish.cooling_c is None else float(wish.cooling_c[k])
        stages[k], heat[k] = control.decide(lead, float(wish.heating_c[k]), limit)
        fan[k] = control.fan(k, heat[k] != 0)
        step: ExactStep = mixed if fan[k] else still
        inner = rooms.gain_w + share * heat[k]
        here, there = np.concatenate(([outdoor_c[k]], inner)), np.concatenate(([outdoor_c[k + 1]], inner))
        state = step.state @ state + step.now @ here + step.then @ there
        found[:, k + 1] = state[0::2]
    return DuctRun(room_c=found, stages=stages, fan=fan, heat_w=heat)


class _Control:
    """The thermostat of a duct system: which stages run, and the fan."""

    def __init__(self, system: DuctSystem) -> None:
        self.system = system
        self.short_for = [0] * len(system.stages)
        self.on = [False] * len(system.stages)
        self.cooling = False
        self.on_for = self.rested = 0
        self.overrun = self.hour_run = 0
        self.was = 0

    def decide(self, lead_c: float, heating_c: float, cooling_c: float | None) -> tuple[int, float]:
        """Return (stages on, heat [W]) of the next minute; cold is negative and has no stages."""
        system, half = self.system, self.system.hysteresis_k / 2
        short = heating_c - lead_c
        self.on_for = self.on_for + 1 if self.cooling or any(self.on) else 0
        self.rested = 0 if self.cooling or any(self.on) else self.rested + 1
        may_end = self.on_for >= system.least_on_min
        if any(self.on) and short <= -half and may_end:
            self.on = [False] * len(self.on)
            self.was = 1
        if self.cooling and cooling_c is not None and lead_c <= cooling_c - half and may_end:
            self.cooling, self.was = False, -1
        for k, stage in enumerate(system.stages):
            self.short_for[k] = self.short_for[k] + 1 if short >= stage.short_k - 1e-12 else 0
            follows = k == 0 or self.on[k - 1]
            free = not self.cooling and (self.was >= 0 or self.rested >= CHANGEOVER_MIN)
            if not self.on[k] and follows and free and self.short_for[k] > stage.delay_min:
                self.on[k] = True
        if system.cooling_w is not None and cooling_c is not None and not any(self.on):
            free = self.was <= 0 or self.rested >= CHANGEOVER_MIN
            if not self.cooling and free and lead_c >= cooling_c + half:
                self.cooling = True
        if self.cooling:
            return 0, -(system.cooling_w or 0.0)
        return sum(self.on), sum(stage.heat_w for stage, on in zip(system.stages, self.on, strict=True) if on)

    def fan(self, minute: int, is_working: bool) -> bool:
        """Return whether the fan runs in a minute of the run."""
        system = self.system
        if minute % MIN_PER_H == 0:
            self.hour_run = 0
        if is_working:
            self.overrun = round(system.overrun_min)
            runs = True
        elif self.overrun > 0:
            self.overrun -= 1
            runs = True
        else:
            left = MIN_PER_H - minute % MIN_PER_H
            owed = round(system.part_min) - self.hour_run
            runs = system.fan_mode == "always" or (system.fan_mode == "part" and owed >= left)
        self.hour_run += int(runs)
        return runs
