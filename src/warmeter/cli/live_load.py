"""``warmeter live-load``: hundreds of devices over a real broker, processes killed meanwhile; nothing acknowledged is lost."""

import argparse
import json
import os
import random
import shutil
import signal
import statistics
import sys
import tempfile
import threading
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from multiprocessing import get_context
from pathlib import Path

from paho.mqtt.client import Client, MQTTMessage
from paho.mqtt.enums import CallbackAPIVersion, MQTTErrorCode

from warmeter.cli.load import Visitor
from warmeter.cli.process_tree import children_of, command_of, listens, memory_mb, own_memory_mb
from warmeter.cli.served import Served
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.devices import Device, Identity
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping, LinkSettings, MessageMapping, StateWord
from warmeter.core.home.rules import NotificationGroup, PutBack, Rule, Switch, Tell
from warmeter.core.live.home_clock import HomeClock
from warmeter.core.units import MS_PER_S
from warmeter.links.broker import PrivateBroker
from warmeter.service.app import App, Person, QueuedOnly, system_now_ms
from warmeter.service.homes.demo import demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.live.taking_over import FILE as LIVE_LOCK
from warmeter.service.opening import UPLOADS
from warmeter.store.engine import DatabaseAway, open_engine
from warmeter.store.server import PrivateServer

HOME = "live-load"
# Leak sensors, each with a lamp behind a button that switches by turns. One after the other is wet: a rule does not
# fire twice within a minute, and what is sent while nobody listens is heard later.
PAIRS = 12
LEAK_EVERY_S, LEAK_S = 15.0, 6.0
SETTLE_S, BACK_S = 60.0, 30.0
SPEAKERS, MOST_HELD_BACK, MOST_AT_ONCE, PAUSE_S, AWAY_S = 2, 10_000, 200, 0.02, 0.5


@dataclass(slots=True)
class Sent:
    """What devices sent and what was acknowledged to them; how late the page was, and how long it took to draw [s]; presses that came to the lamps."""

    sent: int = 0
    acknowledged: int = 0
    leaks: int = 0
    presses: int = 0
    late_s: list[float] = field(default_factory=list)
    drawn_s: list[float] = field(default_factory=list)
    memory_mb: list[dict[str, float]] = field(default_factory=list)
    kills: list[str] = field(default_factory=list)


def run(options: argparse.Namespace) -> int:
    """Print what was sent, kept, lost and doubled, how late the page was, and the memory; 1 where anything was lost."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-live-load-"))
    served = Served(folder / "data", "--no-demo", "--processes", "2")
    try:
        served.start()
        app = _app(folder / "data")
        home = load_home(options.devices)
        create_home(app, home, Person("load"), "made up")
        app.live_homes.set_clock(HOME, HomeClock())
        return _run(served, app, folder / "data", options)
    finally:
        served.stop()
        shutil.rmtree(folder, ignore_errors=True)


def load_home(count: int) -> Home:
    """Return a home with so many plugs, leak sensors, and lamps behind buttons that switch by turns."""
    base = demo_home("weir-cottage")
    plugs = tuple(
        Device(id=f"p{k:04d}", name=f"Plug {k}", kind="plug", identities=(Identity(address=f"p{k:04d}"),))
        for k in range(count)
    )
    mappings = [
        MessageMapping(
            id="m-battery",
            topic=f"homes/{HOME}/+/battery",
            payload="json",
            path="$.v",
            time_path="$.t",
            quantity="battery",
            address_level=2,
            unit="%",
        )
    ]
    pairs = [_pair(k) for k in range(PAIRS)]
    for pair in pairs:
        mappings += pair.mappings
    return Home(
        id=HOME,
        name="Load",
        place=base.place,
        time_zone=base.time_zone,
        country=base.country,
        currency=base.currency,
        levels=base.levels,
        devices=(*plugs, *(device for pair in pairs for device in pair.devices)),
        notification_groups=(NotificationGroup(id="all", name="Everybody", loudness="alarm"),),
        rules=tuple(pair.rule for pair in pairs),
        link=LinkSettings(mode="send"),
        message_mappings=tuple(mappings),
        command_mappings=tuple(pair.press for pair in pairs),
    )


@dataclass(frozen=True, slots=True)
class Pair:
    """A leak sensor, the lamp that it switches, and how they are reached."""

    devices: tuple[Device, Device]
    mappings: tuple[MessageMapping, MessageMapping]
    press: CommandMapping
    rule: Rule


def _pair(k: int) -> Pair:
    leak = Device(id=f"leak{k}", name=f"Leak sensor {k}", kind="leak_sensor")
    lamp = Device(id=f"lamp{k}", name=f"Lamp {k}", kind="lamp_switch")
    of = Signal(quantity="is_wet", subject_id=leak.id)
    press = CommandMapping(
        id=f"c-{lamp.id}",
        target_id=lamp.id,
        does="switch",
        topic=f"homes/{HOME}/{lamp.id}/do/switch",
        template="{value}",
        is_toggle=True,
        confirm_quantity="is_on",
        within_s=20,
    )
    rule = Rule(
        id=f"wet{k}",
        name=f"Water {k}",
        kind="safety",
        watch=((InState(of=of),),),
        then=(Tell(group_id="all"), Switch(target_ids=(lamp.id,), is_on=True)),
        put_back=PutBack(when=((InState(of=of, is_on=False),),)),
    )
    heard = _words(leak.id, "is_wet", "dry", "wet"), _words(lamp.id, "is_on", "off", "on")
    return Pair((leak, lamp), heard, press, rule)


def _words(subject_id: str, quantity: str, off: str, on: str) -> MessageMapping:
    return MessageMapping(
        id=f"m-{subject_id}",
        topic=f"homes/{HOME}/{subject_id}/{quantity}",
        payload="words",
        words=(StateWord(word=off, value=0), StateWord(word=on, value=1)),
        quantity=quantity,
        subject_id=subject_id,
        unit="1",
        kind="held",
    )


def _app(folder: Path) -> App:
    server = PrivateServer(folder)
    server.attach()
    return App(engine=open_engine(server.url), uploads=folder / UPLOADS, jobs=QueuedOnly(), now_ms=system_now_ms)


def _run(served: Served, app: App, folder: Path, options: argparse.Namespace) -> int:
    # What is sent before anybody ever listened is kept by no broker.
    _wait_listening(app)
    seen = Sent()
    devices = [f"p{k:04d}" for k in range(options.devices)]
    with get_context("spawn").Manager() as shared, ProcessPoolExecutor(SPEAKERS, get_context("spawn")) as pool:
        # Devices are no part of what is measured: processes of their own, each with its share of them.
        ending = shared.Event()
        speaking = [
            pool.submit(_speak, folder, devices[k::SPEAKERS], options.rate / SPEAKERS, f"load-plugs-{k}", ending)
            for k in range(SPEAKERS)
        ]
        threads = [
            threading.Thread(target=_leaks, args=(folder, seen, ending)),
            threading.Thread(target=_watch, args=(served, app, folder, seen, ending)),
        ]
        for thread in threads:
            thread.start()
        _kill_and_wait(served, folder, seen, options)
        ending.set()
        for each in speaking:
            seen.sent += each.result().sent
            seen.acknowledged += each.result().acknowledged
        for thread in threads:
            thread.join()
    kept = _settled(app, seen.acknowledged)
    return _told(app, seen, kept, options)


def _kill_and_wait(served: Served, folder: Path, seen: Sent, options: argparse.Namespace) -> None:
    rng = random.Random(options.seed)  # noqa: S311  (drawn the same each time)
    end = time.monotonic() + options.seconds
    while time.monotonic() < end or len(seen.kills) < options.kills:
        if len(seen.kills) < options.kills:
            time.sleep(rng.uniform(1.0, 6.0))
            seen.kills.append(_kill(served, folder, rng.choice(options.kill)))
            print(f"  {len(seen.kills)} of {options.kills}: {seen.kills[-1]} killed", file=sys.stderr, flush=True)
        else:
            time.sleep(0.5)


def _wait_listening(app: App) -> None:
    """Wait until a writer has taken the home and hears it."""
    end = time.monotonic() + BACK_S
    while time.monotonic() < end:
        live = app.live_homes.find(HOME)
        if live is not None and live.told.get("is_connected"):
            return
        time.sleep(0.1)
    raise RuntimeError("nobody looks after the home")


def _client(folder: Path, name: str) -> Client:
    client = Client(CallbackAPIVersion.VERSION2, client_id=name, clean_session=False)
    client.username_pw_set(HOME, PrivateBroker(folder).password(HOME))
    client.reconnect_delay_set(min_delay=1, max_delay=2)
    client.max_inflight_messages_set(2000)
    client.connect_async("127.0.0.1", PrivateBroker(folder).port)
    return client


def _speak(folder: Path, devices: list[str], rate: float, name: str, ending: threading.Event) -> Sent:
    """Let devices speak so many times a second in all, each message with its own time, until told to end and all are acknowledged."""
    client, seen = _client(folder, name), Sent()

    def acknowledged(*_: object) -> None:
        seen.acknowledged += 1

    client.on_publish = acknowledged
    begun, last = time.monotonic(), dict.fromkeys(devices, 0)
    while not ending.is_set():
        _carry_on(client)
        due = int((time.monotonic() - begun) * rate) - seen.sent
        # While the broker is away only so much is held back, as a device would.
        if seen.sent - seen.acknowledged > MOST_HELD_BACK:
            begun += max(0, due) / rate
            continue
        for _ in range(min(due, MOST_AT_ONCE)):
            device = devices[seen.sent % len(devices)]
            at_ms = max(system_now_ms(), last[device] + 1)
            last[device] = at_ms
            client.publish(f"homes/{HOME}/{device}/battery", json.dumps({"t": at_ms, "v": seen.sent % 100}), qos=1)
            seen.sent += 1
    end = time.monotonic() + SETTLE_S
    while seen.acknowledged < seen.sent and time.monotonic() < end:
        _carry_on(client)
    client.disconnect()
    return seen


def _carry_on(client: Client) -> None:
    """Send and receive, connected anew where the broker has gone: without a thread of its own it costs half as much."""
    if client.loop(PAUSE_S) == MQTTErrorCode.MQTT_ERR_SUCCESS:
        return
    try:
        client.reconnect()
    except OSError:
        time.sleep(AWAY_S)


def _leaks(folder: Path, seen: Sent, ending: threading.Event) -> None:
    """Let one sensor after the other be wet for a while, and each lamp switch by turns with each press."""
    client, is_on = _client(folder, "load-leak"), dict.fromkeys((f"lamp{k}" for k in range(PAIRS)), False)

    def tell(device_id: str, quantity: str, word: str) -> None:
        client.publish(f"homes/{HOME}/{device_id}/{quantity}", word, qos=1)

    def pressed(_client: Client, _data: object, message: MQTTMessage) -> None:
        lamp_id = message.topic.split("/")[2]
        is_on[lamp_id] = not is_on[lamp_id]
        seen.presses += 1
        tell(lamp_id, "is_on", "on" if is_on[lamp_id] else "off")

    def listen(*_: object) -> None:
        client.subscribe(f"homes/{HOME}/+/do/switch", 1)

    client.on_message = pressed
    client.on_connect = listen
    client.loop_start()
    for k in range(PAIRS):
        tell(f"lamp{k}", "is_on", "off")
        tell(f"leak{k}", "is_wet", "dry")
    while not ending.wait(LEAK_EVERY_S - LEAK_S):
        leak_id = f"leak{seen.leaks % PAIRS}"
        tell(leak_id, "is_wet", "wet")
        seen.leaks += 1
        ending.wait(LEAK_S)
        tell(leak_id, "is_wet", "dry")
    time.sleep(BACK_S)
    client.loop_stop()


def _watch(served: Served, app: App, folder: Path, seen: Sent, ending: threading.Event) -> None:
    """Note how old what a page shows is once it is drawn, how long that takes, and the memory of all processes."""
    while not ending.wait(1.0):
        try:
            live = app.live_homes.find(HOME)
        except (DatabaseAway, OSError):
            continue
        if live is not None and live.looked_ms and not seen.kills:
            late_s = (system_now_ms() - live.looked_ms) / MS_PER_S
            answer, _ = Visitor(served.address).ask(f"/homes/{HOME}/live/now")
            seen.late_s.append(late_s + answer.took_s)
            seen.drawn_s.append(answer.took_s)
        seen.memory_mb.append(_memory_mb(served, folder))


def _memory_mb(served: Served, folder: Path) -> dict[str, float]:
    """Return the memory of all processes, and of those that take in what is sent [MB]."""
    found = {
        "database": PrivateServer(folder).pid(),
        "broker": PrivateBroker(folder).pid(),
        "live process": _live_pid(folder),
    }
    each = {name: own_memory_mb(pid) for name, pid in found.items() if pid is not None}
    outside = set(children_of(served.pid))
    return {
        "all": memory_mb(served.pid) + sum(own_memory_mb(p) for p in found.values() if p and p not in outside),
        **each,
    }


def _kill(served: Served, folder: Path, what: str) -> str:
    """Kill a process without warning; of what is not found nothing."""
    if what == "server":
        served.stop(signal.SIGKILL)
        served.start()
        return what
    port = int(served.address.rpartition(":")[2])
    forked = [pid for pid in children_of(served.pid)[1:] if "forkserver" in command_of(pid)][1:]
    found = {
        "database": PrivateServer(folder).pid(),
        "broker": PrivateBroker(folder).pid(),
        "page process": next((pid for pid in forked if listens(pid, port)), None),
        "live process": _live_pid(folder),
    }[what]
    if found is None:
        return f"{what} (not found)"
    os.kill(found, signal.SIGKILL)
    return what


def _live_pid(folder: Path) -> int | None:
    """Return the process that looks after homes, as its lock tells."""
    word = (folder / LIVE_LOCK).read_text()
    return int(word) if word.isdecimal() and Path(f"/proc/{word}").exists() else None


def _settled(app: App, wanted: int) -> int:
    """Return how many readings of the plugs are kept, once all are, or they have grown no more in number for a minute."""
    before, end = -1, time.monotonic() + SETTLE_S
    while time.monotonic() < end:
        found = _kept(app)
        if found >= wanted and found == before:
            break
        if found > before:
            end = time.monotonic() + SETTLE_S
        before = found
        time.sleep(1.0)
    return before


def _kept(app: App) -> int:
    plugs = [s.id for s in app.readings.series(HOME) if s.record.quantity == "battery"]
    return sum(app.readings.readings(series_id).at_ms.size for series_id in plugs)


def _told(app: App, seen: Sent, kept: int, options: argparse.Namespace) -> int:
    firings = app.live_commands.firings(HOME, 0)
    alerts = [a for a in app.live_alerts.last(HOME, 10_000) if a.cause.startswith("rule:")]
    untold = [a for a in alerts if not any(t.state == "told" for t in app.live_alerts.tellings([a.id]))]
    sent = sum(len(c.run.sent_ms) for c in app.live_commands.last(HOME, 10_000))
    lost, doubled = max(0, seen.acknowledged - kept), max(0, kept - seen.sent)
    print(
        f"{options.devices} devices, {seen.sent} readings in {options.seconds:.0f} s: {seen.acknowledged} acknowledged"
    )
    print(f"  kept {kept}: {lost} lost, {doubled} doubled")
    late = sorted(seen.late_s) or [0.0]
    print(
        f"  the page is {statistics.median(late):.1f} s behind in the middle, {late[int(0.95 * len(late))]:.1f} s in 95 %, "
        f"{late[-1]:.1f} s at most, of it {statistics.median(seen.drawn_s or [0.0]):.1f} s to draw it"
    )
    for name in seen.memory_mb[-1] if seen.memory_mb else ():
        of = [each.get(name, 0.0) for each in seen.memory_mb]
        thirds = of[len(of) // 3], of[2 * len(of) // 3]
        print(
            f"  memory of {name}: {of[0]:.0f} MB at first, {thirds[0]:.0f} and {thirds[1]:.0f} at a third and two thirds, "
            f"{of[-1]:.0f} at last, {max(of):.0f} at most"
        )
    print(f"  {seen.leaks} leaks, {len(firings)} found, {len(alerts)} alerts, {len(untold)} of them told to nobody")
    print(f"  lamps: {sent} presses sent, {seen.presses} came")
    if seen.kills:
        counted = sorted(Counter(seen.kills).items())
        print(f"  killed {len(seen.kills)} times: " + ", ".join(f"{what} {count}" for what, count in counted))
    is_swallowed = bool(untold) or len(firings) != seen.leaks
    return int(bool(lost or doubled or is_swallowed or seen.presses > sent))
