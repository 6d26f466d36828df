"""``warmeter live-agree``: random days followed live, with restarts, wrong clocks and late readings, against the replay of their logs."""

import argparse
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.rule.run import Firing
from warmeter.core.units import MS_PER_DAY, MS_PER_H, S_PER_DAY
from warmeter.service.app import App, Person, QueuedOnly, system_now_ms
from warmeter.service.homes.demo import demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.live.played_home import PlayedHome
from warmeter.service.live.setting_up import linked
from warmeter.simulators.device_clocks import DeviceClocks
from warmeter.simulators.live_devices import FAULT_WORDS
from warmeter.store.engine import migrate, open_engine
from warmeter.store.server import PrivateServer

HOMES = ("sail-loft", "terrace-nine", "weir-cottage")
FIRST_MS = 1_767_225_600_000  # 2026-01-01
SOONEST_LOOK_S, LATEST_LOOK_S = 20.0, 900.0
RESTARTS, FAULTS = 3, 4


@dataclass(frozen=True, slots=True)
class LiveDay:
    """A day followed live: its firings, and which rules were unlike their replay."""

    home: str
    seed: int
    firings: int
    unlike: tuple[str, ...]


def run(options: argparse.Namespace) -> int:
    """Print each day, and 1 where a firing differs from the replay's."""
    cases = [options.seed + k for k in range(options.days)]
    shares = [cases[k :: options.workers] for k in range(options.workers)]
    days: list[LiveDay] = []
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        for found in pool.map(_days, shares):
            days += found
    for day in sorted(days, key=lambda each: each.seed):
        for line in day.unlike:
            print(f"seed {day.seed}, {day.home}: {line}")
    unlike = sum(bool(day.unlike) for day in days)
    firings = sum(day.firings for day in days)
    print(f"{len(days)} days of {len(HOMES)} homes, {firings} firings: {unlike} days unlike their replay")
    return int(unlike > 0)


def _days(seeds: list[int]) -> list[LiveDay]:
    with tempfile.TemporaryDirectory(prefix="warmeter-live-") as folder:
        server = PrivateServer(Path(folder) / "data", is_small=True)
        server.start()
        engine = open_engine(server.url)
        try:
            migrate(engine)
            app = App(engine=engine, uploads=Path(folder) / "uploads", jobs=QueuedOnly(), now_ms=system_now_ms)
            return [_day(app, seed) for seed in seeds]
        finally:
            engine.dispose()
            server.stop()


def _day(app: App, seed: int) -> LiveDay:
    begun = time.monotonic()
    rng = np.random.default_rng(seed)
    name = HOMES[seed % len(HOMES)]
    clocks = _clocks(demo_home(name), rng)
    home = _home(name, seed, clocks)
    create_home(app, home, Person("agree"), "made up")
    start = FIRST_MS + int(rng.integers(0, 300)) * MS_PER_DAY + int(rng.integers(0, 24)) * MS_PER_H
    played = PlayedHome(app, home, start, seed)
    played.clocks = clocks
    restarts = set(rng.uniform(0, S_PER_DAY, RESTARTS).tolist())
    faults = sorted(rng.uniform(0, S_PER_DAY, FAULTS).tolist())
    at = 0.0
    while at < S_PER_DAY:
        step = float(rng.uniform(SOONEST_LOOK_S, LATEST_LOOK_S))
        if any(at <= restart < at + step for restart in restarts):
            played.restart()
        if faults and at <= faults[0] < at + step:
            faults.pop(0)
            _fault(played, rng)
        played.play(step)
        played.look()
        at += step
    live, replayed = played.fired_live(), played.fired_replayed()
    unlike = tuple(
        f"{rule.name}: live {_told(live.get(rule.id, []), start)}, replayed {_told(replayed.get(rule.id, []), start)}"
        for rule in home.rules
        if live.get(rule.id, []) != replayed.get(rule.id, [])
    )
    firings = sum(len(row) for row in replayed.values())
    app.homes.take_away(home.id, played.clock.now_ms)
    took_s = time.monotonic() - begun
    said = f"  seed {seed}, {name}: {firings} firings, {len(unlike)} rules unlike, {took_s:.0f} s"
    print(said, file=sys.stderr, flush=True)
    return LiveDay(name, seed, firings, unlike)


def _clocks(home: Home, rng: np.random.Generator) -> DeviceClocks:
    """Give half of a home's devices their own clocks: most a little off, one in ten so far that it is refused."""
    off_s: dict[str, float] = {}
    for device in home.devices:
        if rng.random() < 0.5:
            is_mad = rng.random() < 0.1
            off_s[device.id] = float(rng.uniform(300.0, 4000.0) if is_mad else rng.uniform(-90.0, 90.0))
    return DeviceClocks(rng, off_s)


def _home(name: str, seed: int, clocks: DeviceClocks) -> Home:
    made = replace(demo_home(name), id=f"live-{seed}")
    home = linked(replace(made, link=replace(made.link, mode="send")))
    mappings = tuple(
        replace(m, payload="json", path="$.v", time_path="$.t") if m.subject_id in clocks.off_s else m
        for m in home.message_mappings
    )
    return replace(home, message_mappings=mappings)


def _fault(played: PlayedHome, rng: np.random.Generator) -> None:
    """Set a fault of some device, or take one back, or start an appliance."""
    home = played.house.home
    kind = list(FAULT_WORDS)[int(rng.integers(0, len(FAULT_WORDS)))]
    device = home.devices[int(rng.integers(0, len(home.devices)))]
    if kind == "flood":
        kind = "open"
    wanted = {"wet": "leak_sensor", "open": "contact"}.get(kind, device.kind)
    device = next((d for d in home.devices if d.kind == wanted), device)
    played.devices.faults[kind] ^= {device.id}
    if home.appliances:
        played.house.start_machine(home.appliances[int(rng.integers(0, len(home.appliances)))].id)


def _told(firings: list[Firing], start_ms: int) -> str:
    rows = [
        f"{(f.at_ms - start_ms) / MS_PER_H:.4f} to {'on' if f.end_ms is None else f'{(f.end_ms - start_ms) / MS_PER_H:.4f} {f.why}'}"
        for f in firings
    ]
    return "; ".join(rows) or "nothing"
