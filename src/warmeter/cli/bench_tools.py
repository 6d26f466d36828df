"""What several speed measurements share: a private database, jobs that never run, time and memory."""

import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.request import urlopen

from warmeter.service.app import App, QueuedOnly, system_now_ms
from warmeter.store.engine import migrate, open_engine
from warmeter.store.server import PrivateServer

REPEATS = 3


@contextmanager
def private_bench() -> Iterator[App]:
    """Give an application on a database of its own, gone afterwards."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-bench-"))
    server = PrivateServer(folder / "data")
    try:
        server.start()
        engine = open_engine(server.url)
        migrate(engine)
        yield App(engine=engine, uploads=folder, jobs=QueuedOnly(), now_ms=system_now_ms)
        engine.dispose()
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


def cpu_seconds(work: Callable[[], object], repeats: int = REPEATS) -> float:
    """Return the middle of some runs' CPU time [s]."""
    taken = []
    for _ in range(repeats):
        start = time.process_time()
        work()
        taken.append(time.process_time() - start)
    return sorted(taken)[len(taken) // 2]


def _status_mb(name: str) -> float:
    """Return a figure of this process's memory that the system keeps [MB]."""
    for line in Path("/proc/self/status").read_text(encoding="ascii").splitlines():
        if line.startswith(f"{name}:"):
            return float(line.split()[1]) / 1024
    return float("nan")


def peak_over_idle_mb(work: Callable[[], object]) -> float:
    """Return how much more memory some work held at its most than there was before it [MB]."""
    Path("/proc/self/clear_refs").write_text("5", encoding="ascii")
    before = _status_mb("VmRSS")
    work()
    return _status_mb("VmHWM") - before


def wait_for_fits(address: str) -> None:
    """Wait until the demo's rooms are fitted: the fits run beside the server and change what it shows."""
    for home, wanted in (("sail-loft", "3 of 8 rooms fitted"), ("hourly-hall", "1 of 1 rooms fitted")):
        end = time.monotonic() + 180
        while time.monotonic() < end:
            with urlopen(f"{address}/homes/{home}/survey") as page:  # noqa: S310  (loopback)
                if wanted in page.read().decode():
                    break
            time.sleep(0.5)
