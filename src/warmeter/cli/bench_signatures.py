"""Speeds of power signatures: cycles, the map of settings, a month of seconds read in and drawn at any zoom."""

import io
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import partial
from multiprocessing import get_context
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from warmeter.cli.bench_tools import cpu_seconds, peak_over_idle_mb, private_bench
from warmeter.core.arrays import Floats
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.signature.cycles import activity
from warmeter.core.signature.recommending import grids
from warmeter.core.signature.tuner import asked_of, error_map
from warmeter.core.timegrid import from_ms
from warmeter.core.units import MIN_PER_DAY
from warmeter.service.app import App, Person
from warmeter.service.readings import logs
from warmeter.service.signatures.machines import machine_record
from warmeter.simulators.machines.labelled import labelled_log
from warmeter.simulators.many_rooms import many_rooms
from warmeter.web.signatures.view import Asked, signature_view

START_MS = 1_767_225_600_000
PLAIN_STEPS, PLAIN_SETTINGS, PLAIN_LINES = 100_000, 20, 50_000
ZOOMS = 60
NOTHING = Asked(tells="finished", cycle="", start_ms=None, end_ms=None, try_w=None, try_min=None, hysteresis_w=0.0)


def plain_cycles(power_w: Floats, on_w: float, need_off: int) -> list[tuple[int, int]]:
    """Find runs with an array test and a plain loop over its edges and samples, as one writes it first."""
    found, start, quiet = [], -1, 0
    for k, is_on in enumerate((power_w > on_w).tolist()):
        if is_on:
            start, quiet = (k if start < 0 else start), 0
        elif start >= 0:
            quiet += 1
            if quiet >= need_off:
                found.append((start, k - quiet + 1))
                start = -1
    return found


def _cycles() -> None:
    for words, days, step, asked in (("a year of minutes", 365, 60, 0.2), ("a month of seconds", 30, 1, 1.0)):
        for kind in ("washer", "fridge"):
            power = labelled_log(kind, 3, step, days=days).power_w
            taken = cpu_seconds(partial(activity, power, float(step)))
            part = power[:PLAIN_STEPS]
            plain = cpu_seconds(partial(plain_cycles, part, 5.0, 5)) * power.size / part.size
            print(
                f"runs of {words}, {kind}, learnt and found: {taken:.2f} s (asked: {asked} s); "
                f"a plain loop with thresholds given {plain:.2f} s, ratio {plain / taken:.1f}"
            )


def _map() -> None:
    power = labelled_log("washer", 3, 60, days=365).power_w
    found = activity(power, 60.0)
    day = np.arange(power.size) // MIN_PER_DAY
    thresholds, waits = grids(found, "finished", 60.0)
    asked = asked_of("finished", found, day, power, 60.0)
    taken = cpu_seconds(lambda: error_map(power, 60.0, asked, thresholds, waits))

    def plain() -> None:
        for k in range(PLAIN_SETTINGS):
            plain_cycles(power, float(thresholds[k]), 5)

    slow = cpu_seconds(plain, 1) * thresholds.size * waits.size / PLAIN_SETTINGS
    print(
        f"map of {thresholds.size * waits.size} settings over a year of minutes: {taken:.2f} s (asked: 1 s); "
        f"plain loops {slow:.0f} s (from {PLAIN_SETTINGS} settings), ratio {slow / taken:.0f}"
    )


def _month_lines() -> Iterator[str]:
    yield "time,Washer power W\n"
    for k, watts in enumerate(labelled_log("washer", 3, 1, days=30).power_w.tolist()):
        if watts == watts:
            yield f"{from_ms(START_MS + k * 1000):%Y-%m-%d %H:%M:%S},{watts:.1f}\n"


def _washer_home() -> Home:
    return replace(many_rooms(), appliances=(Appliance(id="washer", name="Washer", kind="washer"),))


def _take(path: str) -> tuple[float, float, float, float]:
    """Read a file in and draw it at random zooms; return time [s] and memory [MB] of the import, zooms' p95 [s]."""
    with private_bench() as app:
        home = _washer_home()
        app.homes.create(home, author="bench", at_ms=app.now_ms(), summary="made")
        with Path(path).open("rb") as file:
            upload = logs.keep_upload(app, "month.csv", iter(lambda: file.read(1 << 20), b""))
        schedule = logs.proposal(app, home, upload).suggested
        start = time.perf_counter()
        memory = peak_over_idle_mb(lambda: logs.take(app, home.id, upload, schedule, Person("bench")))
        return time.perf_counter() - start, memory, *_zooms(app, home)


def _zooms(app: App, home: Home) -> tuple[float, float]:
    start = time.perf_counter()
    record = machine_record(app, home, "washer")
    signature_view(app, record, home, NOTHING, width=1080)
    first = time.perf_counter() - start
    rng, taken = np.random.default_rng(1), []
    whole = record.at_ms(record.power_w.size) - record.start_ms
    for _ in range(ZOOMS):
        length = int(np.exp(rng.uniform(np.log(300_000), np.log(whole))))
        begin = record.start_ms + int(rng.uniform(0, whole - length))
        start = time.perf_counter()
        shown = replace(NOTHING, start_ms=begin, end_ms=begin + length)
        page = signature_view(app, machine_record(app, home, "washer"), home, shown, width=1080)
        io.StringIO().write(page.strip.svg)
        taken.append(time.perf_counter() - start)
    return first, float(np.quantile(taken, 0.95))


def _month() -> None:
    with TemporaryDirectory() as folder:
        path = Path(folder) / "month.csv"
        with path.open("w", encoding="utf-8") as file:
            file.writelines(_month_lines())
        head = list(_month_lines_head(path))
        plain = cpu_seconds(lambda: np.genfromtxt(head, delimiter=",", dtype=None, encoding="utf-8"), 1)
        with path.open(encoding="utf-8") as file:
            lines = sum(1 for _ in file)
        plain *= lines / PLAIN_LINES
        with ProcessPoolExecutor(max_workers=1, mp_context=get_context("spawn")) as pool:
            seconds, memory, first, zoom = pool.submit(_take, str(path)).result()
    print(
        f"a month of seconds ({lines:,} lines) imported: {seconds:.1f} s (asked: 20 s), {memory:.0f} MB above idle "
        f"(asked: 400 MB); NumPy's genfromtxt {plain:.0f} s (from {PLAIN_LINES} lines), ratio {plain / seconds:.1f}"
    )
    print(f"first look at it, with 2,000 settings judged: {first:.1f} s")
    print(f"any zoom of it: p95 {1000 * zoom:.0f} ms (asked: 100 ms)")


def _month_lines_head(path: Path) -> Iterator[str]:
    with path.open(encoding="utf-8") as file:
        next(file)
        for _ in range(PLAIN_LINES):
            yield next(file)


def signatures() -> None:
    """Print all of it."""
    _cycles()
    _map()
    _month()
