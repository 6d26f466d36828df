"""The process that plays the devices of homes that ask for it, over the same links as real ones."""

import json
import logging
import time
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from warmeter.core.errors import WarmeterError
from warmeter.core.home.device_kinds import DEVICE_TRAITS
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.live.command_run import payload_of
from warmeter.core.live.home_clock import HomeClock
from warmeter.links.mqtt_link import MqttLink
from warmeter.service.app import App
from warmeter.service.live.latest_values import latest_values
from warmeter.service.live.places import broker_address
from warmeter.service.logfile import note
from warmeter.service.opening import opened_app
from warmeter.simulators.live_devices import FAULT_WORDS, FaultKind, LiveDevices
from warmeter.simulators.live_house import LiveHouse
from warmeter.simulators.mail_server import mails_in
from warmeter.store.engine import DatabaseAway, DatabaseBusy
from warmeter.store.homes import HomeNotFound, HomeUnreadable

STAND_IN = "warmeter.service.live.stand_in:run_stand_in"
BENCH_EVENT, MACHINE_EVENT, PLAYED_EVENT = "bench fault", "bench start", "devices played"
MAILBOX = "mailbox"  # where the stand-in for a mail server lays what it takes
BenchFault = FaultKind
BENCH_WORDS: Mapping[BenchFault, str] = FAULT_WORDS
STEP_S, ASK_S = 0.25, 1.0
PLAIN = "{value}"  # the template that played devices understand
SPOKEN_S = 1.0  # of the machine's clock: nothing is told more often


@dataclass(slots=True)
class _Played:
    home: Home
    devices: LiveDevices
    link: MqttLink
    started: int
    faults_seen: int = 0


class StandInHomes:
    """The homes whose devices are played."""

    def __init__(self, app: App, folder: Path) -> None:
        self._app, self._folder = app, folder
        self._played: dict[str, _Played] = {}
        self._clocks: dict[str, HomeClock] = {}
        self._asked_s = 0.0

    def step(self) -> None:
        """Look whom to play, and let each go on to its present."""
        if time.monotonic() - self._asked_s >= ASK_S:
            self._asked_s = time.monotonic()
            self._ask()
        for home_id, played in self._played.items():
            clock = self._clocks[home_id]
            now_ms = clock.home_at(self._app.now_ms())
            for message in played.link.heard(0.0):
                played.devices.hear(message.topic, message.payload.decode(errors="replace"), now_ms)
                played.link.acknowledge([message])
            for sent in played.devices.advance(now_ms, clock.speed * SPOKEN_S):
                played.link.publish(sent.topic, sent.payload)

    def _ask(self) -> None:
        wanted = {live.home_id: live.clock for live in self._app.live_homes.all() if is_played(self._app, live.home_id)}
        for home_id in set(self._played) - set(wanted):
            self._played.pop(home_id).link.stop()
        self._clocks = wanted
        for home_id, clock in wanted.items():
            if home_id not in self._played:
                self._begin(home_id, clock)
            if home_id in self._played:
                self._take_bench(home_id, self._played[home_id])
        self._clocks = {home_id: clock for home_id, clock in wanted.items() if home_id in self._played}

    def _begin(self, home_id: str, clock: HomeClock) -> None:
        address = broker_address(self._folder, home_id)
        if address is None:
            return
        home, _ = self._app.homes.load(home_id)
        listens = (f"homes/{home_id}/+/do/+",)
        link = MqttLink(address, f"devices-of-{home_id}", listens, self._app.now_ms)
        house = LiveHouse(home, clock.home_at(self._app.now_ms()))
        devices = LiveDevices(house)
        take_up(self._app, home, devices)
        self._played[home_id] = _Played(home=home, devices=devices, link=link, started=0)
        link.start()

    def _take_bench(self, home_id: str, played: _Played) -> None:
        """Take the faults that are set on the bench, and appliances that are started there."""
        for faulty in played.devices.faults.values():
            faulty.clear()
        for kind, device_id in bench_faults(self._app, home_id):
            for known in FAULT_WORDS:
                if known == kind:
                    played.devices.faults[known].add(device_id)
        starts = self._app.events.of_kind(home_id, MACHINE_EVENT)
        for event in starts[played.started :]:
            if played.started or event is starts[-1]:
                played.devices.house.start_machine(event.subject)
        played.started = len(starts)


def take_up(app: App, home: Home, devices: LiveDevices) -> None:
    """Let devices that were played before go on from what they told last, and from the commands that they obeyed."""
    values = latest_values(app, home)
    rooms_c = {room.id: found.value for room in home.rooms if (found := values.of("room_temperature", room.id))}
    setpoints_c = {subject: each.value for (quantity, subject), each in values.values.items() if quantity == "setpoint"}
    mappings = {mapping.id: mapping for mapping in home.command_mappings}
    obeyed = [
        (mappings[command.run.mapping_id].topic, payload_of(mappings[command.run.mapping_id], command.run.value))
        for command in sorted(app.live_commands.newest(home.id).values(), key=lambda each: each.at_ms)
        if command.run.answered_ms is not None
        and command.does != "text"
        and command.run.mapping_id in mappings
        and mappings[command.run.mapping_id].template == PLAIN
    ]
    devices.take_up(rooms_c, obeyed, setpoints_c)


def fault_choices(device: Device) -> tuple[FaultKind, ...]:
    """Return the faults that a device can have on the bench."""
    found: list[FaultKind] = ["dead", "dead_spot", "stuck", "restart", "new_name", "flood"]
    if DEVICE_TRAITS[device.kind].is_commanded:
        found.insert(0, "deaf")
    if device.kind == "leak_sensor":
        found.insert(0, "wet")
    if device.kind == "contact":
        found.insert(0, "open")
    return tuple(found)


def mails_taken(folder: Path, most: int) -> list[tuple[str, str, str]]:
    """Return (to, subject, text) of the last mails that the stand-in for a mail server took, the newest first."""
    return mails_in(folder)[:most]


def is_played(app: App, home_id: str) -> bool:
    """Return whether a home's devices are played."""
    events = app.events.of_kind(home_id, PLAYED_EVENT)
    return bool(events) and events[-1].detail == "on"


def bench_faults(app: App, home_id: str) -> set[tuple[str, str]]:
    """Return the faults that are set on the bench, as (kind, device)."""
    found: set[tuple[str, str]] = set()
    for event in app.events.of_kind(home_id, BENCH_EVENT):
        said = json.loads(event.detail)
        key = (str(said["fault"]), event.subject)
        if said["on"]:
            found.add(key)
        else:
            found.discard(key)
    return found


def run_stand_in(folder: Path, database_port: int) -> None:
    """Play devices until the server ends."""
    app = opened_app(folder, database_port)
    homes = StandInHomes(app, folder)
    while True:
        try:
            homes.step()
        except (DatabaseAway, DatabaseBusy):
            time.sleep(ASK_S)
        except (WarmeterError, HomeUnreadable, HomeNotFound, OSError) as error:
            note("devices not played", level=logging.ERROR, error=error)
            time.sleep(ASK_S)
        time.sleep(STEP_S)
