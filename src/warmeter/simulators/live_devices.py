"""The devices of a home as they speak and listen: each in its rhythm, with batteries, delays, losses and faults."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from warmeter.core.home.devices import Device
from warmeter.core.link.usual_topics import told_quantities, usual_topic
from warmeter.core.quantity import QUANTITIES
from warmeter.core.units import MS_PER_DAY, MS_PER_S
from warmeter.simulators.live_house import LiveHouse

FaultKind = Literal["dead", "dead_spot", "deaf", "wet", "open", "stuck", "flood", "restart", "new_name"]
FAULT_WORDS: dict[FaultKind, str] = {
    "dead": "battery empty: it is silent",
    "dead_spot": "a dead spot: half of what it sends is lost",
    "deaf": "deaf: what it is told is lost",
    "wet": "it feels water",
    "open": "it stands open",
    "stuck": "it tells the same value on and on",
    "flood": "it floods the link",
    "restart": "it starts anew every few minutes",
    "new_name": "after a new battery it has another name",
}
MAINS_S, BATTERY_S, SLOW_S, POWER_S = 60, 300, 3600, 10
LOST_BY_INFRARED = 0.06
SHORTEST_DELAY_S, LONGEST_DELAY_S = 0.4, 2.5
BATTERY_PCT_A_DAY = 0.35
FLOOD_MESSAGES = 400
RESTART_EVERY_S = 240
_SLOW = ("battery", "is_reachable")


@dataclass(frozen=True, slots=True, kw_only=True)
class SentMessage:
    """A message of a device: when it was sent [ms, home], its topic, what it says."""

    at_ms: int
    topic: str
    payload: str


@dataclass(slots=True)
class _Told:
    due_ms: int = 0
    said: str = ""
    said_ms: int = 0


@dataclass(slots=True)
class DeviceState:
    """What a device remembers: its setpoint, whether it is on, how far a blind is down, its battery, its own error."""

    setpoint_c: float = 18.0
    is_cooling: bool = False
    is_on: bool = False
    share: float = 0.0
    battery_pct: float = 90.0
    offset_k: float = 0.0
    told: dict[str, _Told] = field(default_factory=dict)
    waits: list[tuple[int, str, str]] = field(default_factory=list)


class LiveDevices:
    """All devices of a home, and its appliances' plugs, over the house that they hang in."""

    def __init__(self, house: LiveHouse, seed: int = 1) -> None:
        self.house, self.home = house, house.home
        self._rng = np.random.default_rng(seed + 1000)
        self.faults: dict[FaultKind, set[str]] = {kind: set() for kind in FAULT_WORDS}
        self.states = {
            device.id: DeviceState(
                battery_pct=float(device.battery_pct or self._rng.uniform(35, 100)),
                offset_k=float(self._rng.normal(0, 0.15)),
                is_on=device.kind == "water_valve",
            )
            for device in self.home.devices
        }
        for appliance in self.home.appliances:
            self.states[appliance.id] = DeviceState(is_on=True)
        self.states["home"] = DeviceState()

    def take_up(
        self, rooms_c: Mapping[str, float], obeyed: Iterable[tuple[str, str]], setpoints_c: Mapping[str, float]
    ) -> None:
        """Go on from where devices were: rooms [°C], commands that were obeyed (topic, payload), setpoints by device [°C]."""
        self.house.take_up(rooms_c)
        for topic, payload in obeyed:
            words = topic.split("/")
            if len(words) == 5 and words[2] in self.states:
                self._do(words[2], words[4], payload)
        for device_id, setpoint_c in setpoints_c.items():
            if device_id in self.states:
                self._do(device_id, "cooling" if self.states[device_id].is_cooling else "setpoint", f"{setpoint_c}")

    def hear(self, topic: str, payload: str, at_ms: int) -> None:
        """Take a command that came under ``homes/<home>/<target>/do/<what>``, at an instant of the home's clock."""
        words = topic.split("/")
        if len(words) != 5 or words[3] != "do" or words[2] not in self.states:
            return
        device = next((d for d in self.home.devices if d.id == words[2]), None)
        is_lost = device is not None and device.kind == "infrared_sender" and self._rng.random() < LOST_BY_INFRARED
        if is_lost or words[2] in self.faults["deaf"] or words[2] in self.faults["dead"]:
            return
        delay_s = self._rng.uniform(SHORTEST_DELAY_S, LONGEST_DELAY_S)
        self.states[words[2]].waits.append((at_ms + round(delay_s * MS_PER_S), words[4], payload))

    def advance(self, to_ms: int, longest_rhythm_s: float = 0.0) -> list[SentMessage]:
        """Go on to an instant of the home's clock; return what was sent on the way, in order.

        Parameters
        ----------
        longest_rhythm_s : float
            Nothing is told more often than this [s, home]: for a clock that runs fast.
        """
        self._obey(to_ms)
        self.house.open_windows = {
            d.room_id for d in self.home.devices if d.id in self.faults["open"] and d.room_id is not None
        }
        self.house.advance(to_ms)
        found: list[SentMessage] = []
        for device in self.home.devices:
            if device.is_in_service and device.id not in self.faults["dead"]:
                found += self._of_device(device, to_ms, longest_rhythm_s)
        for appliance in self.home.appliances:
            if appliance.id in self.faults["dead"]:
                continue
            power = f"{self.house.machine_w(appliance.id):.1f}"
            found += self._tell(appliance.id, "electric_w", power, to_ms, max(POWER_S, longest_rhythm_s))
        outdoor = f"{self.house.outdoor_c(to_ms):.1f}"
        found += self._tell("home", "outdoor_temperature", outdoor, to_ms, max(BATTERY_S, longest_rhythm_s))
        found += self._tell(
            "home", "grid_import_w", f"{self.house.meter_w():.0f}", to_ms, max(POWER_S, longest_rhythm_s)
        )
        return found

    def _obey(self, to_ms: int) -> None:
        for target_id, state in self.states.items():
            for wait in [w for w in state.waits if w[0] <= to_ms]:
                state.waits.remove(wait)
                self._do(target_id, wait[1], wait[2])

    def _do(self, target_id: str, does: str, payload: str) -> None:
        state = self.states[target_id]
        device = next((d for d in self.home.devices if d.id == target_id), None)
        if does == "switch":
            state.is_on = payload == "on"
        elif does == "share":
            state.share = min(max(float(payload) / 100, 0.0), 1.0)
        elif does in ("setpoint", "cooling"):
            state.setpoint_c, state.is_cooling = min(max(float(payload), 5.0), 35.0), does == "cooling"
        heater = None if device is None or device.drives_id is None else self.house.heaters.get(device.drives_id)
        if heater is not None:
            heater.setpoint_c, heater.is_cooling = state.setpoint_c, state.is_cooling
            if does == "switch":
                heater.is_switched = state.is_on

    def _of_device(self, device: Device, to_ms: int, longest_s: float) -> Iterable[SentMessage]:
        found: list[SentMessage] = []
        for quantity in told_quantities(device):
            value = self._value(device, quantity, to_ms)
            if value is None:
                continue
            usual = BATTERY_S if "battery" in device.power else MAINS_S
            if quantity in _SLOW:
                usual = SLOW_S
            elif quantity == "electric_w":
                usual = POWER_S
            found += self._tell(device.id, quantity, value, to_ms, max(usual, longest_s))
        return found

    def _tell(self, source_id: str, quantity: str, value: str, to_ms: int, rhythm_s: float) -> list[SentMessage]:
        """Return a message if it is due by its rhythm, or if a state has changed; faults keep their share."""
        told = self.states[source_id].told.setdefault(quantity, _Told())
        has_states = bool(QUANTITIES[quantity].states) or quantity == "setpoint"
        if to_ms < told.due_ms and not (has_states and value != told.said):
            return []
        if source_id in self.faults["stuck"] and told.said:
            value = told.said
        told.due_ms = to_ms + round(rhythm_s * self._rng.uniform(0.9, 1.1) * MS_PER_S)
        told.said, told.said_ms = value, to_ms
        if source_id in self.faults["dead_spot"] and self._rng.random() < 0.5:
            return []
        name = f"{source_id}-n" if source_id in self.faults["new_name"] else source_id
        message = SentMessage(at_ms=to_ms, topic=usual_topic(self.home.id, name, quantity), payload=value)
        return [message] * (FLOOD_MESSAGES if source_id in self.faults["flood"] else 1)

    def _value(self, device: Device, quantity: str, to_ms: int) -> str | None:
        """Return what a device tells of a quantity, None for what it does not tell."""
        state, house = self.states[device.id], self.house
        room_id = device.room_id or ""
        if quantity == "room_temperature":
            noisy = house.room_c(room_id) + state.offset_k + self._rng.normal(0, 0.04)
            return f"{noisy:.1f}"
        if quantity == "relative_humidity":
            return f"{house.humidity_pct(room_id) + self._rng.normal(0, 0.5):.0f}"
        if quantity == "electric_w":
            return f"{self._plug_w(device):.1f}"
        if quantity == "battery":
            days = (to_ms - house.started_ms) / MS_PER_DAY
            return f"{max(1.0, state.battery_pct - BATTERY_PCT_A_DAY * days):.0f}"
        numbers = {"setpoint": state.setpoint_c, "blind_position": 100 * state.share}
        if quantity in numbers:
            return f"{numbers[quantity]:.1f}"
        if quantity == "valve_opening":
            heater = house.heaters.get(device.drives_id or "")
            return None if heater is None else f"{100 * heater.share:.0f}"
        is_true = self._is_true(device, quantity, to_ms)
        words = QUANTITIES[quantity].states
        return None if is_true is None or not words else words[int(is_true)]

    def _is_true(self, device: Device, quantity: str, to_ms: int) -> bool | None:
        state = self.states[device.id]
        if quantity == "is_open":
            return device.id in self.faults["open"]
        if quantity == "is_wet":
            return device.id in self.faults["wet"]
        if quantity == "is_on":
            return state.is_on
        if quantity == "is_reachable":
            is_away = device.id in self.faults["restart"] and (to_ms // MS_PER_S) % RESTART_EVERY_S < 20
            return not is_away
        if quantity in ("is_moving", "is_in", "is_in_bed"):
            is_in = self.house.is_present.get(device.room_id or "", False)
            return is_in and (quantity != "is_moving" or self._rng.random() < 0.7)
        if quantity == "is_home":
            return any(self.house.is_present.values())
        return None

    def _plug_w(self, device: Device) -> float:
        """Return a plug's power: of the unit that it bears witness to, of the appliance that it is named after, or the meter's."""
        if device.kind == "meter":
            return self.house.meter_w()
        driver = next((d for d in self.home.devices if d.witness_id == device.id and d.drives_id), None)
        if driver is not None and driver.drives_id is not None:
            return 2.0 + self.house.heater_w(driver.drives_id) / 3.0
        named = next((a for a in self.home.appliances if device.name.startswith(a.name)), None)
        return 1.5 if named is None else self.house.machine_w(named.id)
