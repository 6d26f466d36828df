"""``warmeter load``: people who read every page of the demo homes at once, while homes are edited, read in and fitted."""

import argparse
import http.client
import random
import re
import shutil
import statistics
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from html import unescape
from http.cookies import SimpleCookie
from pathlib import Path
from urllib.parse import urlencode, urlsplit

from warmeter.cli.process_tree import memory_mb
from warmeter.cli.served import Served
from warmeter.simulators import demo

VARIANTS = 6  # addresses of one page that differ in what they ask
MOST_PAGES = 300
EDIT_EVERY_S = 5.0
EDITED = "terrace-nine"
_LINK = re.compile(r'href="(/homes/[^"#]+)')
_FILES = re.compile(r"\.(json|csv|ics|svg|txt|zip)\b|/stored|/import/")


@dataclass(frozen=True, slots=True)
class Answer:
    """One request: its page, how long it took [s], its status and size [bytes]."""

    page: str
    took_s: float
    status: int
    size: int = 0
    headers: Mapping[str, str] = field(default_factory=dict)

    @property
    def location(self) -> str:
        """Where it sends the browser."""
        return self.headers.get("Location", "")


@dataclass(slots=True)
class Measured:
    """What was measured: answers by kind, and the server's memory [MB]."""

    pages: list[Answer] = field(default_factory=list)
    edits: list[Answer] = field(default_factory=list)
    memory_mb: list[float] = field(default_factory=list)
    said: list[str] = field(default_factory=list)


class Visitor:
    """One person's connection, kept open."""

    def __init__(self, address: str) -> None:
        self._host = urlsplit(address).netloc
        self._connection = http.client.HTTPConnection(self._host, timeout=120)
        self._cookies: dict[str, str] = {}

    def ask(self, path: str, fields: dict[str, str] | None = None) -> tuple[Answer, bytes]:
        """Return how a page, or a form sent with fields, was answered."""
        method, body = ("GET", None) if fields is None else ("POST", urlencode(fields))
        headers = {} if body is None else {"Content-Type": "application/x-www-form-urlencoded", "HX-Request": "true"}
        if self._cookies:
            headers["Cookie"] = "; ".join(f"{name}={value}" for name, value in self._cookies.items())
        begin = time.perf_counter()
        try:
            self._connection.request(method, path, body, headers)
            answer = self._connection.getresponse()
            content = answer.read()
            cookies = SimpleCookie(answer.headers.get("Set-Cookie", ""))
            self._cookies |= {name: cookie.value for name, cookie in cookies.items()}
            status = answer.status
        except (OSError, http.client.HTTPException):
            self._connection.close()
            return Answer(path, time.perf_counter() - begin, 0), b""
        return Answer(path, time.perf_counter() - begin, status, len(content), answer.headers), content  # type: ignore[arg-type]


def run(options: argparse.Namespace) -> int:
    """Start a demo of its own, crowd it, print what was measured; 1 if anything was not answered as it should be."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-load-"))
    try:
        with Served(folder / "data", *options.served.split()) as served:
            visitor = Visitor(served.address)
            if not options.at_once:
                wait_until_idle(visitor)
            paths = pages_of(visitor)
            print(f"{len(paths)} pages of the demo homes")
            failed = 0
            for users in options.users:
                measured = crowd(
                    served, paths, users, options.seconds, is_busy=not options.only_pages, is_anew=options.anew
                )
                failed += told(measured, users, options.seconds)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    return 1 if failed else 0


def wait_until_idle(visitor: Visitor, most_s: float = 300.0) -> None:
    """Wait until the demo's rooms are fitted."""
    end = time.monotonic() + most_s
    for home in ("sail-loft", "weir-cottage"):
        while b'id="job"' in visitor.ask(f"/homes/{home}/warmup")[1] and time.monotonic() < end:
            time.sleep(0.5)


def pages_of(visitor: Visitor) -> list[str]:
    """Return the addresses that are linked from page to page, at most six of one page that differ in what they ask."""
    seen, waiting, kinds = {"/"}, ["/"], Counter[str]()
    found: list[str] = []
    while waiting and len(found) < MOST_PAGES:
        path = waiting.pop(0)
        answer, content = visitor.ask(path)
        if answer.status != 200:
            continue
        found.append(path)
        for link in _LINK.findall(content.decode()):
            address = unescape(link)
            kind = address.split("?")[0]
            if address in seen or _FILES.search(address) or kinds[kind] >= VARIANTS:
                continue
            seen.add(address)
            kinds[kind] += 1
            waiting.append(address)
    return found


def crowd(
    served: Served, paths: list[str], users: int, seconds: float, *, is_busy: bool, is_anew: bool = False
) -> Measured:
    """Let people read pages one after another for so long; meanwhile edits, an import and a fit unless told otherwise."""
    measured, end = Measured(), time.monotonic() + seconds
    lock = threading.Lock()

    def read(number: int) -> None:
        visitor, rng = Visitor(served.address), random.Random(number)  # noqa: S311  (drawn the same each time)
        mine: list[Answer] = []
        while time.monotonic() < end:
            path = rng.choice(paths)
            # An address that nobody asked for before is drawn anew.
            asked = f"{path}{'&' if '?' in path else '?'}look={number}-{len(mine)}-{users}" if is_anew else path
            mine.append(replace(visitor.ask(asked)[0], page=path))
        with lock:
            measured.pages += mine

    acts: list[Callable[[], None]] = [partial(read, k) for k in range(users)]
    if is_busy:
        acts += [lambda: _edit(served.address, end, measured), lambda: _read_in_and_fit(served.address, measured)]
    acts.append(lambda: _watch_memory(served, end, measured))
    threads = [threading.Thread(target=act) for act in acts]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return measured


def _edit(address: str, end: float, measured: Measured) -> None:
    """Change a level of a home again and again."""
    visitor, value = Visitor(address), 20.0
    while time.monotonic() < end:
        _, page = visitor.ask(f"/homes/{EDITED}/survey/record")
        base = re.search(rb'name="base" value="(\d+)"', page)
        act = re.search(rb'action="(/homes/[^"]+/levels/[^"]+)"', page)
        if base and act:
            value = 40.5 - value
            fields = {"base": base[1].decode(), "name": "In use", "heating_c": f"{value}"}
            measured.edits.append(visitor.ask(act[1].decode(), fields)[0])
        time.sleep(EDIT_EVERY_S)


def _read_in_and_fit(address: str, measured: Measured) -> None:
    """Read in a year of minutes of a machine, and fit a room again."""
    visitor = Visitor(address)
    measured.edits.append(visitor.ask("/homes/sail-loft/warmup/fit", {"room_id": "rm-loft"})[0])
    text = demo.machine_log_csv().text.encode()
    kept = sent_file(address, f"/homes/{EDITED}/import/upload", "load.csv", text)
    measured.edits.append(
        Visitor(address).ask(f"{kept.location}/take", {"c1_quantity": "electric_w", "c1_unit": "W"})[0]
    )


def sent_file(address: str, path: str, name: str, content: bytes, fields: Mapping[str, str] | None = None) -> Answer:
    """Return how a file, with fields, was answered that is sent as a form sends it."""
    edge, parts, begin = "warmeter-file-edge", [], time.perf_counter()
    for key, value in (fields or {}).items():
        parts.append(f'--{edge}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode())
    head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode()
    body = b"".join([*parts, head, content, f"\r\n--{edge}--\r\n".encode()])
    connection = http.client.HTTPConnection(urlsplit(address).netloc, timeout=120)
    try:
        connection.request("POST", path, body, {"Content-Type": f"multipart/form-data; boundary={edge}"})
        answer = connection.getresponse()
        size = len(answer.read())
    except (OSError, http.client.HTTPException):
        return Answer(path, time.perf_counter() - begin, 0)
    finally:
        connection.close()
    return Answer(path, time.perf_counter() - begin, answer.status, size, answer.headers)  # type: ignore[arg-type]


def _watch_memory(served: Served, end: float, measured: Measured) -> None:
    while time.monotonic() < end:
        measured.memory_mb.append(memory_mb(served.pid))
        time.sleep(1.0)


def told(measured: Measured, users: int, seconds: float) -> int:
    """Print what was measured and return how many requests were not answered as they should be."""
    times = sorted(each.took_s * 1000 for each in measured.pages)
    cuts = statistics.quantiles(times, n=100)
    wrong = [a for a in measured.pages if a.status != 200] + [a for a in measured.edits if a.status not in (200, 303)]
    largest = max(measured.pages, key=lambda each: each.size)
    memory = measured.memory_mb
    print(
        f"{users} users: {len(times) / seconds:.1f} pages/s; p50 {cuts[49]:.0f} ms, p95 {cuts[94]:.0f} ms, "
        f"p99 {cuts[98]:.0f} ms, slowest {times[-1]:.0f} ms; {len(wrong)} errors of {len(times) + len(measured.edits)}; "
        f"largest page {largest.size / 1000:.0f} KB; memory {memory[0]:.0f} to {max(memory):.0f} MB"
    )
    if measured.edits:
        saved = sorted(each.took_s * 1000 for each in measured.edits)
        print(
            f"  {len(saved)} edits, one import, one fit meanwhile: median {statistics.median(saved):.0f} ms, slowest {saved[-1]:.0f} ms"
        )
    by_page: dict[str, list[float]] = {}
    for each in measured.pages:
        by_page.setdefault(each.page.split("?")[0], []).append(each.took_s * 1000)
    slowest = sorted(by_page.items(), key=lambda item: -statistics.median(item[1]))[:5]
    print("  slowest pages, median: " + ", ".join(f"{page} {statistics.median(ms):.0f} ms" for page, ms in slowest))
    for each in wrong[:5]:
        print(f"  not answered as it should be: {each.page} ({each.status})")
    return len(wrong)
