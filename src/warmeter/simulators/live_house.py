"""A made-up house that is lived in: rooms, plant, people and weather in a closed loop, stepped as its clock goes on."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.compiled import CompiledHome, compile_home
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.shading.room_windows import room_gains, sky_at
from warmeter.core.thermal.network import exact_step
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_MIN, MS_PER_S, S_PER_MIN
from warmeter.core.weather.synthetic import made_up_outdoor_c
from warmeter.simulators.machines.labelled import KINDS

STEP_S = 60
PERSON_W, BASE_W = 80.0, 25.0
OPEN_W_K = 60.0  # a wide open window more than doubles what a room loses
_MACHINES = {"water_heater": "immersion_heater", "other": "", "pump": "sump_pump"}
MACHINE_DAYS = 3.0
SUN_EVERY_MS = 10 * MS_PER_MIN
DULLEST = 0.15  # the share of a clear day's sun that the dullest day has


@dataclass(slots=True, kw_only=True)
class HeaterState:
    """A heater as it stands: what it is set to [°C], or switched to, and the share of its heat that it gives.

    A unit that cools takes as large a share of its cold away.
    """

    setpoint_c: float
    is_switched: bool | None = None
    is_cooling: bool = False
    share: float = 0.0


class LiveHouse:
    """The physics behind a home's devices, from its survey.

    Parameters
    ----------
    home : Home
        Surveyed; rooms without a heater follow the outdoors.
    start_ms : int
        Its clock at the beginning [ms UTC].
    seed : int
        Of all that is left to chance.
    """

    def __init__(self, home: Home, start_ms: int, seed: int = 1) -> None:
        self.home, self.now_ms, self._clock = home, start_ms, LocalClock(home.time_zone)
        self.started_ms = start_ms
        self._rng = np.random.default_rng(seed)
        self.heaters = {h.id: HeaterState(setpoint_c=18.0) for h in home.heaters}
        self.open_windows: set[str] = set()
        self._compiled: CompiledHome | None = None
        try:
            self._compiled = compile_home(home)
        except HomeError:
            self._compiled = None
        rooms = self._compiled.room_ids if self._compiled is not None else ()
        self.room_ids = rooms
        self.state = np.full(3 * len(rooms), 18.0)
        self.state[2::3] = 0.0
        if self._compiled is not None:
            made = exact_step(self._compiled.a[None], self._compiled.b[None], float(STEP_S))
            with_heat = exact_step(self._compiled.a[None], self._compiled.fire[None], float(STEP_S))
            self._ad, self._bd, self._fd = made.state[0], made.held[0], with_heat.held[0]
        self.is_present: dict[str, bool] = {}
        self.machines: dict[str, tuple[int, Floats]] = {}
        self._starts = {a.id: a.kind for a in home.appliances}
        self._seed, self._sunny_day, self._sun_w = seed, -1, np.zeros((0, len(rooms)))

    def take_up(self, rooms_c: Mapping[str, float]) -> None:
        """Go on from rooms as warm as these [°C], air and fabric; of others nothing is known."""
        for place, room_id in enumerate(self.room_ids):
            if room_id in rooms_c:
                self.state[3 * place : 3 * place + 2] = rooms_c[room_id]

    def outdoor_c(self, at_ms: int) -> float:
        """Return the outdoor temperature [°C]."""
        local = self._clock.local(at_ms)
        day = local.timetuple().tm_yday + (local.hour * S_PER_MIN + local.minute) / MIN_PER_DAY
        design = self.home.design
        found = made_up_outdoor_c(
            np.array([day]),
            np.array([float(local.hour * S_PER_MIN + local.minute)]),
            annual_mean_c=design.annual_mean_c,
            coldest_c=design.outdoor_c,
            is_south=self.home.place.latitude_deg < 0,
        )
        return float(found[0])

    def room_c(self, room_id: str) -> float:
        """Return a room's air temperature [°C]; of one that is not heated something between indoors and out."""
        if room_id in self.room_ids:
            return float(self.state[3 * self.room_ids.index(room_id)])
        inside = float(self.state[0::3].mean()) if self.room_ids else 15.0
        return 0.5 * inside + 0.5 * self.outdoor_c(self.now_ms)

    def humidity_pct(self, room_id: str) -> float:
        """Return a room's relative humidity [%]: drier as it is warmer, damper while somebody is in."""
        damp = 6.0 if self.is_present.get(room_id) else 0.0
        return float(np.clip(52.0 + damp - 2.4 * (self.room_c(room_id) - 19.0), 15.0, 98.0))

    def machine_w(self, appliance_id: str) -> float:
        """Return the power of an appliance [W]."""
        begun, power = self._machine(appliance_id)
        second = (self.now_ms - begun) // MS_PER_S
        return float(power[second]) if 0 <= second < power.size else 0.0

    def heater_w(self, heater_id: str) -> float:
        """Return what a heater gives, or takes away where it cools [W]."""
        if self._compiled is None or heater_id not in self._compiled.heater_ids:
            return 0.0
        return abs(self._full_w(heater_id)) * self.heaters[heater_id].share

    def _full_w(self, heater_id: str) -> float:
        """Return what a heater gives at most, below nought while it cools [W]."""
        split = self.home.heater(heater_id).split
        if self.heaters[heater_id].is_cooling and split is not None:
            return -(split.cooling_w or 0.0)
        assert self._compiled is not None
        return float(self._compiled.full_w[self._compiled.heater_ids.index(heater_id)])

    def meter_w(self) -> float:
        """Return what the home draws from the grid [W]: appliances, direct heaters, the rest."""
        drawn = 180.0 + sum(self.machine_w(a.id) for a in self.home.appliances)
        if self._compiled is not None:
            over = self._compiled.efficiency(np.array([self.outdoor_c(self.now_ms)]))[:, 0]
            for (heater, source), ratio in zip(self._compiled.plates, over, strict=True):
                if source.kind in ("direct", "heat_pump"):
                    drawn += self.heater_w(heater.id) / max(float(ratio), 0.1)
        return drawn

    def advance(self, to_ms: int) -> None:
        """Go on to an instant, by steps of a minute; less than one is left for the next time."""
        while self.now_ms + STEP_S * MS_PER_S <= to_ms:
            self._people()
            self._step()
            self.now_ms += STEP_S * MS_PER_S

    def _people(self) -> None:
        """Let people be where the hour has them: kitchen and living by day, bedrooms at night, out in between."""
        local = self._clock.local(self.now_ms)
        minute = local.hour * S_PER_MIN + local.minute
        is_weekday = local.weekday() < 5
        for room in self.home.rooms:
            wanted = {
                "sleeping": minute < 400 or minute >= 1370,
                "living": minute >= 1050 and minute < 1380,
                "kitchen": 395 <= minute < 460 or 1070 <= minute < 1180,
                "bath": 400 <= minute < 430 or 1290 <= minute < 1320,
            }.get(room.use, is_weekday and 480 <= minute < 1020)
            if not is_weekday and room.use in ("living", "kitchen"):
                wanted = 480 <= minute < 1380
            was = self.is_present.get(room.id, False)
            # Nobody keeps to the minute.
            self.is_present[room.id] = wanted if self._rng.random() < (0.08 if wanted != was else 1.0) else was

    def _step(self) -> None:
        compiled = self._compiled
        if compiled is None:
            return
        outdoor = self.outdoor_c(self.now_ms)
        gain = BASE_W + self._sun()
        for place, room_id in enumerate(self.room_ids):
            gain[place] += PERSON_W if self.is_present.get(room_id) else 0.0
            if room_id in self.open_windows:
                gain[place] -= OPEN_W_K * (self.state[3 * place] - outdoor)
        heat = np.zeros(len(compiled.heater_ids))
        for place, heater_id in enumerate(compiled.heater_ids):
            room_c = self.state[3 * compiled.heater_room[place]]
            share = self._share(heater_id, float(room_c), float(compiled.band_k[place]))
            heat[place] = self._full_w(heater_id) * share
        self.state = self._ad @ self.state + self._bd @ np.concatenate([[outdoor], gain]) + self._fd @ heat

    def _sun(self) -> Floats:
        """Return what the sun gives each room through its windows now, their blinds up [W]; each day has its clouds."""
        day, within_ms = divmod(self.now_ms, MS_PER_DAY)
        if day != self._sunny_day:
            sky = sky_at(self.home, day * MS_PER_DAY + np.arange(0, MS_PER_DAY, SUN_EVERY_MS, dtype=np.int64))
            share = np.random.default_rng((self._seed, day)).uniform(DULLEST, 1.0)
            clear = [
                sum(
                    (each.up_w for each in room_gains(self.home, self.home.room(room_id), sky)),
                    np.zeros(sky.beam_w_m2.size),
                )
                for room_id in self.room_ids
            ]
            self._sunny_day, self._sun_w = day, share * np.stack(clear, axis=1)
        return np.asarray(self._sun_w[within_ms // SUN_EVERY_MS])

    def _share(self, heater_id: str, room_c: float, band_k: float) -> float:
        """Return the share of a heater's heat: switched, or by its own thermostat in proportion within its band."""
        state = self.heaters[heater_id]
        if state.is_switched is not None:
            state.share = float(state.is_switched)
        else:
            short_k = room_c - state.setpoint_c if state.is_cooling else state.setpoint_c - room_c
            state.share = float(np.clip(short_k / band_k + 0.5, 0.0, 1.0))
        return state.share

    def _machine(self, appliance_id: str) -> tuple[int, Floats]:
        """Return an appliance's power by second, from an instant on; the next days are drawn as it ends."""
        begun, power = self.machines.get(appliance_id, (self.now_ms, np.zeros(0)))
        if (self.now_ms - begun) // MS_PER_S >= power.size:
            kind = self._starts.get(appliance_id, "")
            life = KINDS.get(_MACHINES.get(kind, kind))
            midnight = self._clock.day(self._clock.local(self.now_ms).date()).start_ms
            seconds = int(MACHINE_DAYS * MIN_PER_DAY * S_PER_MIN)
            power = np.zeros(seconds) if life is None else life.life(self._rng, MACHINE_DAYS, 0.0, "").power_w
            begun = midnight
            self.machines[appliance_id] = (begun, np.asarray(power))
        return self.machines[appliance_id]

    def start_machine(self, appliance_id: str) -> None:
        """Let an appliance begin a run now: the first run of a day like others."""
        kind = self._starts.get(appliance_id, "")
        life = KINDS.get(_MACHINES.get(kind, kind))
        if life is None or not life.has_cycles:
            return
        scenario = life.life(self._rng, MACHINE_DAYS, 0.0, "")
        if not scenario.cycles:
            return
        first = scenario.cycles[0]
        power = np.asarray(scenario.power_w)[int(first.start_s) :]
        self.machines[appliance_id] = (self.now_ms, power)
