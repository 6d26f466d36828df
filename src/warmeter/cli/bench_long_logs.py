"""Speeds of long logs: mapped, read in, and every page of the home opened for the first time afterwards."""

import json
import shutil
import tempfile
import time
from pathlib import Path

import numpy as np

from warmeter.cli.bench_tools import wait_for_fits
from warmeter.cli.load import Visitor, pages_of, sent_file
from warmeter.cli.process_tree import memory_mb
from warmeter.cli.served import Served
from warmeter.core.home.document import Home
from warmeter.core.units import MIN_PER_DAY
from warmeter.service.homes.demo import demo_home
from warmeter.store.codec import home_to_json

LIKE = "sail-loft"
START = np.datetime64("2023-11-01T00:00:00")
YEAR_MIN = 365 * MIN_PER_DAY
ROWS_AT_ONCE = 50_000
MOST_S = 600.0


def long_logs() -> None:
    """Read in a year of minutes in four columns and three years in ten, each into a home of its own, and open its pages."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-bench-"))
    try:
        with Served(folder / "data") as served:
            wait_for_fits(served.address)
            paths = [path for path in pages_of(Visitor(served.address)) if path.startswith(f"/homes/{LIKE}/")]
            for name, minutes, columns, asked in (
                ("year", YEAR_MIN, 4, " (asked: 3 s and 20 s)"),
                ("three", 3 * YEAR_MIN, 10, ""),
            ):
                _read_in(served, name, minutes, columns, asked)
                _open_pages(served.address, [path.replace(LIKE, name, 1) for path in paths])
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _read_in(served: Served, home_id: str, minutes: int, columns: int, asked: str) -> None:
    home = demo_home(LIKE)
    document = json.loads(home_to_json(home)) | {"id": home_id, "name": f"Loft of {home_id}"}
    sent_file(served.address, "/homes/bring-in", "home.json", json.dumps(document).encode())
    content = _log(home, minutes, columns)
    before_mb, begin = memory_mb(served.pid), time.perf_counter()
    kept = sent_file(served.address, f"/homes/{home_id}/import/upload", "long.csv", content)
    uploaded = time.perf_counter()
    visitor = Visitor(served.address)
    visitor.ask(kept.location)
    mapped = time.perf_counter()
    visitor.ask(f"{kept.location}/take", {})
    most_mb, end = before_mb, time.monotonic() + MOST_S
    while b'id="job"' in visitor.ask(f"/homes/{home_id}/import")[1] and time.monotonic() < end:
        most_mb = max(most_mb, memory_mb(served.pid))
        time.sleep(0.1)
    taken = time.perf_counter()
    print(
        f"log of {minutes:,} minutes in {columns} columns, {len(content) / 1e6:.0f} MB: sent in {uploaded - begin:.1f} s, "
        f"mapped in {mapped - uploaded:.1f} s, imported in {taken - mapped:.1f} s{asked}, "
        f"memory of all processes up by {most_mb - before_mb:.0f} MB"
    )


def _open_pages(address: str, paths: list[str]) -> None:
    """Open each page for the first time since the home's readings came in."""
    visitor = Visitor(address)
    answers = [visitor.ask(path)[0] for path in paths]
    took = sorted(((answer.took_s, answer.page) for answer in answers if answer.status == 200), reverse=True)
    slowest = ", ".join(f"{path} {took_s:.2f} s" for took_s, path in took[:3])
    print(f"  its {len(took)} pages: median {took[len(took) // 2][0]:.2f} s; slowest {slowest} (asked: 1 s)")


def _log(home: Home, minutes: int, columns: int) -> bytes:
    """Return a log of a home's rooms, outdoors and a heater, each minute: days and years as waves, with noise."""
    rng, at = np.random.default_rng(1), np.arange(minutes)
    day, year = np.sin(2 * np.pi * at / MIN_PER_DAY), np.cos(2 * np.pi * at / YEAR_MIN)
    heated = [room for room in home.rooms if home.heater_of(room.id)]
    heads = [f"{room.name} temperature [°C]" for room in home.rooms][: columns - 2]
    heads += ["Outdoor temperature [°C]", f"{heated[0].name} heater power [W]"]
    data = [20 + k / 4 + 0.4 * day + rng.normal(0, 0.05, minutes) for k in range(columns - 2)]
    data += [9 - 8 * year + 4 * day, np.where((at // 17) % 3 == 0, 1200.0, 0.0)]
    times = np.datetime_as_string(START + at * np.timedelta64(60, "s"), unit="s")
    parts = [",".join(["time", *heads[:columns]])]
    for begin in range(0, minutes, ROWS_AT_ONCE):
        span = slice(begin, begin + ROWS_AT_ONCE)
        cells = [[f"{value:.2f}" for value in column[span].tolist()] for column in data]
        parts += [
            f"{stamp}Z,{','.join(row)}"
            for stamp, row in zip(times[span].tolist(), zip(*cells, strict=True), strict=True)
        ]
    return "\n".join(parts).encode()
