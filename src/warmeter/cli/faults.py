"""``warmeter faults``: kills in the middle of what people do, against a ledger of what they were told."""

import argparse
import json
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from warmeter.cli.ledger import READINGS, Ledger
from warmeter.cli.load import Visitor, sent_file
from warmeter.cli.process_tree import children_of, command_of, listens
from warmeter.cli.served import Served
from warmeter.core.units import MIN_PER_DAY, S_PER_DAY
from warmeter.service.homes.demo import demo_home
from warmeter.store.codec import home_to_json
from warmeter.store.dump import DumpError, DumpReader

UP_S = 20.0
DELAY_S = 0.25
KILLED = ("server", "page process", "worker", "template", "database")


class Faults:
    """One run: a server over a folder, a home in it, and what was told of it."""

    def __init__(self, folder: Path, seed: int) -> None:
        self._folder, self._rng = folder, random.Random(seed)  # noqa: S311  (drawn the same each time)
        self._served = Served(folder / "data", "--no-demo", "--processes", "2")
        self._served.start()
        home = replace(demo_home("terrace-nine"), id="faults", name="Name 0")
        answer = sent_file(self._served.address, "/homes/bring-in", "home.json", home_to_json(home))
        if answer.status != 303:
            raise RuntimeError(f"the home was not taken: {answer.status}")
        self._home, self._room = home, home.rooms[0]
        self.ledger = Ledger("faults")
        self._count = 0
        self.slowest_s = dict.fromkeys(KILLED, 0.0)
        self.told = Counter[str]()

    def stop(self) -> None:
        """Stop the server."""
        self._served.stop()

    def round(self) -> list[str]:
        """Do something, kill something meanwhile, see that it comes back; return what is lost, doubled or half."""
        acts: list[Callable[[], bool]] = [
            self._edit,
            self._read_in,
            self._undo,
            self._fit,
            self._archive,
            self._back_up,
        ]
        act, killed = self._rng.choice(acts), self._rng.choice(KILLED)
        self._count += 1
        outcome: list[bool] = []
        thread = threading.Thread(target=lambda: outcome.append(act()))
        thread.start()
        time.sleep(self._rng.random() * DELAY_S)
        begin = time.monotonic()
        self._kill(killed)
        is_up = self._is_up()
        self.slowest_s[killed] = max(self.slowest_s[killed], time.monotonic() - begin)
        thread.join()
        wrong = [] if outcome and outcome[0] else [f"{act.__name__} left what is broken"]
        if not is_up:
            return [*wrong, f"not up again {UP_S:.0f} s after the {killed} was killed"]
        self.told[f"{act.__name__.strip('_')}, {killed} killed"] += 1
        return [f"{act.__name__}, {killed} killed: {each}" for each in [*wrong, *self.broken()]]

    def broken(self) -> list[str]:
        """Return what of the ledger the home does not hold."""
        answer, archive = Visitor(self._served.address).ask("/homes/faults/archive.zip")
        return (
            self.ledger.broken(archive) if answer.status == 200 else [f"its archive is answered with {answer.status}"]
        )

    def idle(self) -> list[str]:
        """Wait until no job waits or runs; return a complaint if some still does."""
        end = time.monotonic() + 120
        while time.monotonic() < end:
            answer, content = Visitor(self._served.address).ask("/health")
            if answer.status == 200 and json.loads(content)["worker"] == "well":
                return []
            time.sleep(0.3)
        return ["a job still waits or runs"]

    def _kill(self, what: str) -> None:
        if what == "server":
            self._served.stop(signal.SIGKILL)
            self._served.start()
            return
        port = int(self._served.address.rpartition(":")[2])
        commands = {pid: command_of(pid) for pid in children_of(self._served.pid)[1:]}
        # The first is the one that the others are forked from.
        template, *forked = [pid for pid, command in commands.items() if "forkserver" in command] or [0]
        found = {
            "database": [pid for pid, command in commands.items() if "mariadbd" in command],
            "page process": [pid for pid in forked if listens(pid, port)],
            "worker": [pid for pid in forked if not listens(pid, port)],
            "template": [template] if template else [],
        }[what]
        if found:
            os.kill(self._rng.choice(found), signal.SIGKILL)
        if what == "template":
            # What was forked from it ends soon after it, and answers until then.
            end = time.monotonic() + UP_S
            while any(Path(f"/proc/{pid}").exists() for pid in forked) and time.monotonic() < end:
                time.sleep(0.05)

    def _is_up(self) -> bool:
        """Return whether pages and saving come back within twenty seconds."""
        end, well = time.monotonic() + UP_S, 0
        while time.monotonic() < end:
            answer, _ = Visitor(self._served.address).ask("/homes/faults/revisions")
            well = well + 1 if answer.status == 200 else 0
            if well == 3:
                return True
            time.sleep(0.05)
        return False

    def _base(self) -> str:
        _, page = Visitor(self._served.address).ask("/homes/faults/survey/record")
        found = re.search(rb'name="base" value="(\d+)"', page)
        return found[1].decode() if found else "0"

    def _edit(self) -> bool:
        name = f"Name {self._count}"
        document = replace(self._home, name=name)
        answer = sent_file(
            self._served.address, "/homes/faults/home.json", "home.json", home_to_json(document), {"base": self._base()}
        )
        if answer.status not in (409, 422, 503):
            self.ledger.note(name, is_told=answer.status == 303)
        elif answer.status == 503:
            self.ledger.note(name, is_told=False)
        return True

    def _read_in(self) -> bool:
        name, start = f"log-{self._count}.csv", 30_000 + self._count * READINGS
        times = [divmod(start + k, MIN_PER_DAY) for k in range(READINGS)]
        lines = [f"{_date(day)} {minute // 60:02}:{minute % 60:02},{18 + self._count % 7}" for day, minute in times]
        text = "\n".join([f"time,{self._room.name} °C", *lines])
        address = self._served.address
        kept = sent_file(address, "/homes/faults/import/upload", name, text.encode())
        if kept.status != 303 or "/import/" not in kept.location or "?" in kept.location:
            return True
        taken = Visitor(address).ask(f"{kept.location}/take", {})[0]
        if taken.status not in (404, 422):
            self.ledger.note(name, is_told=taken.status == 303)
        return True

    def _undo(self) -> bool:
        visitor = Visitor(self._served.address)
        answer, _ = visitor.ask("/homes/faults/undo", {"base": self._base()})
        ask = answer.headers.get("HX-Redirect", "")
        if ask:
            answer, _ = visitor.ask(ask, {})
        if answer.status not in (409, 422):
            self.ledger.note_undo(is_told=answer.status in (204, 303))
        return True

    def _fit(self) -> bool:
        Visitor(self._served.address).ask("/homes/faults/warmup/fit", {"room_id": self._room.id})
        return True

    def _archive(self) -> bool:
        answer, content = Visitor(self._served.address).ask("/homes/faults/archive.zip")
        # One that was cut off is no answer; one that is whole has to be right.
        return answer.status != 200 or not self.ledger.broken(content)

    def _back_up(self) -> bool:
        path = self._folder / f"backup-{self._count}.zip"
        command = [
            sys.executable,
            "-m",
            "warmeter.cli.main",
            "backup",
            str(path),
            "--data-dir",
            str(self._folder / "data"),
        ]
        done = subprocess.run(command, capture_output=True, check=False, timeout=120)  # noqa: S603
        if done.returncode:
            return not path.exists()
        try:
            with DumpReader(path, "warmeter-backup/1") as reader:
                reader.verify()
        except DumpError:
            return False
        finally:
            path.unlink()
        return True


def _date(day: int) -> str:
    """Return a date in 2026."""
    return time.strftime("%Y-%m-%d", time.gmtime(1_767_225_600 + day * S_PER_DAY))


def run(options: argparse.Namespace) -> int:
    """Kill so many times; 1 if anything was lost, doubled or half, or did not come back."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-faults-"))
    wrong: list[str] = []
    try:
        faults = Faults(folder, options.seed)
        try:
            for number in range(1, options.rounds + 1):
                found = faults.round()
                wrong += [f"round {number}: {each}" for each in found]
                for each in found:
                    print(f"round {number}: {each}", flush=True)
                if found and "not up" in found[-1]:
                    break
            wrong += [*faults.idle(), *faults.broken()]
        finally:
            faults.stop()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    ledger = faults.ledger
    print(
        f"{len(ledger.saved)} edits and imports and {ledger.undone} undos were told as done; "
        f"{len(ledger.unknown) + ledger.perhaps_undone} were sent with no answer"
    )
    slowest = ", ".join(f"{killed} {seconds:.1f} s" for killed, seconds in faults.slowest_s.items())
    print(f"{sum(faults.told.values())} kills; up again after at most: {slowest}; {len(wrong)} wrong")
    for what, count in sorted(faults.told.items()):
        print(f"  {what}: {count}")
    return 1 if wrong else 0
