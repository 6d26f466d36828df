"""``warmeter fuzz``: what no page sends, by every route, for so long; none may break it, hang it or spoil a home."""

import argparse
import http.client
import inspect
import json
import random
import re
import shutil
import tempfile
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlencode, urlsplit

from warmeter.cli.load import Visitor, wait_until_idle
from warmeter.cli.odd_inputs import HEADERS, Files, odd_file, odd_word, whole_files
from warmeter.cli.process_tree import memory_mb
from warmeter.cli.served import Served
from warmeter.service.logfile import NAME
from warmeter.web.app import MODULES
from warmeter.web.form_reader import field_names_of
from warmeter.web.rules.routes import OF_SLOTS

LOOK_S = 1.0
HOMES = ("sail-loft", "terrace-nine", "weir-cottage", "orchard-row", "hourly-hall")
STREAM = "live_stream"  # it answers for as long as somebody listens
_SOURCES = Path(__file__).parents[1] / "web"
_FIELD = re.compile(r'(?:texts\.get|query_params\.get|query\.get)\(\s*"(\w+)"|name="(\w+)"')


@dataclass(frozen=True, slots=True)
class Target:
    """A route: method, path with places to fill, and whether it takes a file."""

    method: str
    path: str
    takes_file: bool


@dataclass(slots=True)
class FuzzReport:
    """What came of it: answers by status, and what should not have been."""

    statuses: Counter[int] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)
    memory_mb: float = 0.0


def targets() -> list[Target]:
    """Return every route of the application."""
    found = []
    for module in MODULES:
        for route in module.router.routes:
            if route.name == STREAM:
                continue
            takes_file = "UploadFile" in str(inspect.signature(route.endpoint))
            methods = route.methods
            found += [Target(method, route.path, takes_file) for method in methods if method != "HEAD"]
    return found


def field_names() -> list[str]:
    """Return every name that the pages' code asks of a form or an address."""
    names: set[str] = set()
    for path in (*_SOURCES.rglob("*.py"), *_SOURCES.rglob("*.html")):
        names |= {one or other for one, other in _FIELD.findall(path.read_text(encoding="utf-8"))}
    for command in _commands().values():
        names |= set(field_names_of(command))
    return sorted(names | {"base", "number", "room_id", "name"})


def _commands() -> dict[str, type]:
    return {name: kind for module in MODULES for name, kind in getattr(module, "COMMANDS", {}).items()}


def command_names() -> list[str]:
    """Return the name of every command on a page: what the places named ``command`` and ``act`` hold."""
    return sorted({*_commands(), *OF_SLOTS, "lay", "end", "forget", "habit"})


def known_ids(address: str) -> list[str]:
    """Return the ids of all parts of the demo homes."""
    visitor, found = Visitor(address), set[str]()
    for home in HOMES:
        found |= {
            text.decode() for text in re.findall(rb'"id": *"([^"]+)"', visitor.ask(f"/homes/{home}/home.json")[1])
        }
    return sorted(found)


class Sender:
    """Draws requests by seed and sends them."""

    def __init__(self, address: str, seed: int, found: FuzzReport, slowest_s: float) -> None:
        self._slowest_s = slowest_s
        self._commands, self._ids, self._tokens = command_names(), known_ids(address), ["0" * 16]
        self._host, self._found = urlsplit(address).netloc, found
        self._rng = random.Random(seed)  # noqa: S311  (drawn the same each time)
        self._targets, self._names = targets(), field_names()
        self._files: Files = whole_files()

    def send_one(self) -> None:
        """Send one request and judge its answer."""
        rng = self._rng
        target = rng.choice(self._targets)
        path = re.sub(r"\{(\w+)[^}]*\}", lambda match: self._part(match[1]), target.path)
        if rng.random() < 0.02:
            path = rng.choice(("/static/%00", "/static/../../etc/passwd", "//", "/homes//", "/%2e%2e/", path + "%00"))
        if target.method == "GET" and rng.random() < 0.8:
            path += "?" + urlencode(self._fields(), errors="replace")
        headers, body = dict(rng.choice(HEADERS)) if rng.random() < 0.15 else {}, None
        if target.method == "POST":
            kind, body = self._body(target)
            headers.setdefault("Content-Type", kind)
            headers.setdefault("HX-Request", "true") if rng.random() < 0.5 else None
        self._judge(target, path, headers, body)

    def _part(self, name: str) -> str:
        rng = self._rng
        if name == "home_id" and rng.random() < 0.9:
            return rng.choice(HOMES)
        usual = {"command": self._commands, "act": self._commands, "token": self._tokens}.get(name, self._ids)
        word = rng.choice(usual) if rng.random() < 0.8 else odd_word(rng)[:200]
        return (
            quote(str(rng.randint(0, 20)) if name in ("import_id", "job_id") else word, safe="", errors="replace")
            or "x"
        )

    def _fields(self) -> dict[str, str]:
        rng = self._rng
        names = rng.sample(self._names, rng.randint(0, 8))
        fields = {name: rng.choice(self._ids) if rng.random() < 0.4 else odd_word(rng) for name in names}
        if rng.random() < 0.7:
            fields["base"] = str(rng.randint(1, 60))
        return fields

    def _body(self, target: Target) -> tuple[str, bytes]:
        fields = self._fields()
        if not (target.takes_file or self._rng.random() < 0.05):
            return "application/x-www-form-urlencoded", urlencode(fields, errors="replace").encode()
        edge = "warmeter-fuzz-edge"
        parts = [
            f'--{edge}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode("utf-8", "replace")
            for name, value in fields.items()
        ]
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{quote(odd_word(self._rng)[:50], errors="replace")}"\r\n\r\n'
        parts.append(head.encode() + odd_file(self._rng, self._files) + b"\r\n")
        return f"multipart/form-data; boundary={edge}", b"".join(parts) + f"--{edge}--\r\n".encode()

    def _judge(self, target: Target, path: str, headers: dict[str, str], body: bytes | None) -> None:
        begin, number = time.perf_counter(), ""
        connection = http.client.HTTPConnection(self._host, timeout=30)
        try:
            connection.putrequest(target.method, path, skip_host="Host" in headers)
            if body is not None and not {"Content-Length", "Transfer-Encoding"} & set(headers):
                headers["Content-Length"] = str(len(body))
            for name, value in headers.items():
                connection.putheader(name, value.encode("latin-1", "replace"))
            connection.endheaders(body)
            answer = connection.getresponse()
            answer.read()
            number = answer.headers.get("X-Request-Id", "")
            token = re.search(r"/import/([0-9a-f]{16})$", answer.headers.get("Location", ""))
            if token:
                self._tokens = [*self._tokens[-20:], token[1]]
            status = answer.status
        except ValueError:
            return  # the client itself does not send this
        except (OSError, http.client.HTTPException) as error:
            # A request that is cut short is hung up on; one that is whole must be answered.
            is_whole = not {"Content-Length", "Transfer-Encoding", "Host"} & set(headers) - {"Content-Length"}
            status = 0
            if is_whole and headers.get("Content-Length") == str(len(body or b"")):
                self._found.wrong.append(f"{target.method} {path[:200]}: no answer ({type(error).__name__})")
        finally:
            connection.close()
        took = time.perf_counter() - begin
        self._found.statuses[status] += 1
        if status >= 500 or (took > self._slowest_s and status):
            self._found.wrong.append(
                f"{target.method} {path[:300]} {str(headers)[:100]} {str(body)[:400]}: {status}, {took:.1f} s {number}"
            )


def run(options: argparse.Namespace) -> int:
    """Fuzz a demo of its own; 1 if anything broke, hung, grew or could not be opened afterwards."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-fuzz-"))
    found = FuzzReport()
    try:
        with Served(folder / "data", "--processes", "2") as served:
            if not options.at_once:
                wait_until_idle(Visitor(served.address))
            end = time.monotonic() + options.seconds

            def send(seed: int) -> None:
                sender = Sender(served.address, seed, found, options.slowest_s)
                try:
                    while time.monotonic() < end:
                        sender.send_one()
                except Exception as error:  # a sender that stopped would look like a calm server
                    found.wrong.append(f"a sender stopped: {type(error).__name__} {error}")
                    raise

            threads = [threading.Thread(target=send, args=(options.seed + k,)) for k in range(options.senders)]
            for thread in threads:
                thread.start()
            while any(thread.is_alive() for thread in threads):
                found.memory_mb = max(found.memory_mb, memory_mb(served.pid))
                time.sleep(LOOK_S)
            found.wrong += unopened(served.address)
            found.wrong = [_with_frames(each, folder / "data" / NAME) for each in found.wrong]
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    count = sum(found.statuses.values())
    if found.memory_mb > options.most_mb:
        found.wrong.append(f"memory grew to {found.memory_mb:.0f} MB")
    print(
        f"{count} requests by {len(targets())} routes in {options.seconds:.0f} s, memory at most {found.memory_mb:.0f} MB"
    )
    print("  answers: " + ", ".join(f"{status or 'hung up'} {n}" for status, n in sorted(found.statuses.items())))
    for each in found.wrong[:20]:
        print(f"  wrong: {each}")
    return 1 if found.wrong else 0


def _with_frames(wrong: str, log: Path) -> str:
    """Return what went wrong with where it arose, as the log has it under the request's number."""
    number = wrong.rpartition(" ")[2]
    if not re.fullmatch(r"[0-9a-f]{12}", number):
        return wrong
    lines = (json.loads(line) for line in log.read_text(encoding="utf-8").splitlines() if number in line)
    broke: dict[str, Any] = next((line for line in lines if "frames" in line), {})
    return f"{wrong} {broke.get('error', '')} {' < '.join(reversed(broke.get('frames', [])[-4:]))}"


def unopened(address: str) -> list[str]:
    """Return the pages of the homes listed that cannot be opened."""
    visitor = Visitor(address)
    wrong = []
    for page in range(20):
        answer, content = visitor.ask(f"/?page={page}")
        links = set(re.findall(rb'href="/homes/([^/"]+)/(?:timetable|survey|unreadable)"', content))
        if answer.status != 200:
            wrong.append(f"the list of homes: {answer.status}")
        for home in {link.decode() for link in links}:
            for name in ("survey", "timetable", "rules", "sheet", "revisions"):
                status = visitor.ask(f"/homes/{home}/{name}")[0].status
                if status != 200:
                    wrong.append(f"/homes/{home}/{name} afterwards: {status}")
        if b'id="homes-after"' not in content:
            break
    return wrong
