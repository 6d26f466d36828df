"""The process that looks after homes that are linked live; of several, one writes to each home."""

import logging
import os
import secrets
import signal
import socket
import threading
import time
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from types import FrameType

from warmeter.core.errors import WarmeterError
from warmeter.core.link.usual_topics import presence_topic
from warmeter.core.units import MS_PER_S
from warmeter.links.link_port import Publish
from warmeter.links.mqtt_link import MqttLink
from warmeter.service.app import App
from warmeter.service.live.delivery import Delivery, Senders
from warmeter.service.live.intake import patterns_of
from warmeter.service.live.places import broker_address, read_patterns, read_places, write_patterns
from warmeter.service.live.runner import LEASE_MS, HomeRunner
from warmeter.service.live.taking_over import outlive_server, take_over
from warmeter.service.logfile import note
from warmeter.service.opening import opened_app
from warmeter.store.engine import DatabaseAway, DatabaseBusy
from warmeter.store.homes import HomeNotFound, HomeUnreadable

LIVE = "warmeter.service.live.process:run_live"
LOOK_S, TAKE_S, LEASE_EVERY_S, AWAY_S = 0.5, 0.05, 2.0, 0.5
EARLY_S = 2.0
TIMES_LOOK, SLOWEST_LOOK_S = 2.0, 5.0


class LiveHomes:
    """Runners of the homes whose lease this process holds."""

    def __init__(self, app: App, folder: Path, name: str) -> None:
        self._app, self._folder, self._name = app, folder, name
        self._runners: dict[str, HomeRunner] = {}
        self._links: dict[str, MqttLink] = {}
        self._early: dict[str, MqttLink] = {}
        self._patterns: dict[str, tuple[str, ...]] = {}
        self._leased_s = self._look_at_s = 0.0
        self._senders = Senders()

    def listen_early(self) -> None:
        """Hear the homes that were looked after last, before the database answers; what comes is taken in once they begin."""
        for home_id, patterns in read_patterns(self._folder).items():
            link = self._link_to(home_id, patterns)
            if link is not None:
                self._early[home_id] = link
                link.start()
        for link in self._early.values():
            link.wait_connected(EARLY_S)

    def step(self) -> None:
        """Take in what came, and look where it is time to; a lost database is waited for, and nothing is acknowledged."""
        try:
            if time.monotonic() - self._leased_s >= LEASE_EVERY_S:
                self._lease()
                self._leased_s = time.monotonic()
                self._end_early()
            for runner in self._runners.values():
                runner.take_in(TAKE_S / len(self._runners))
            if time.monotonic() >= self._look_at_s:
                begun = time.monotonic()
                self._look()
                took_s = time.monotonic() - begun
                # A look at many rules leaves time to take in what comes meanwhile.
                self._look_at_s = begun + min(max(LOOK_S, TIMES_LOOK * took_s), SLOWEST_LOOK_S)
        except (DatabaseAway, DatabaseBusy):
            time.sleep(AWAY_S)
        if not self._runners:
            time.sleep(LOOK_S)

    def _look(self) -> None:
        for home_id, runner in list(self._runners.items()):
            try:
                self._links[home_id].listen(patterns_of(runner.home))
                self._keep_patterns(home_id, patterns_of(runner.home))
                runner.look()
            except (WarmeterError, HomeUnreadable, HomeNotFound) as error:
                note("home not looked at", level=logging.ERROR, error=error, home=home_id)
                self._let_go(home_id)

    def _lease(self) -> None:
        """Take over homes that nobody looks after, renew what is held, let go of what another took."""
        now_ms = self._app.now_ms()
        for live in self._app.live_homes.all():
            if _is_dead(live.holder):
                self._app.live_homes.release(live.home_id, live.holder)
            is_mine = self._app.live_homes.lease(live.home_id, self._name, now_ms, now_ms + LEASE_MS)
            if is_mine and live.home_id not in self._runners:
                self._begin(live.home_id)
            elif not is_mine and live.home_id in self._runners:
                self._let_go(live.home_id)

    def _begin(self, home_id: str) -> None:
        try:
            home, _ = self._app.homes.load(home_id)
            link = self._early.get(home_id) or self._link_to(home_id, patterns_of(home))
            if link is None:
                return
            self._runners[home_id] = HomeRunner(self._app, home_id, link, self._delivery)
        except (WarmeterError, HomeUnreadable, HomeNotFound) as error:
            note("home not looked after", level=logging.ERROR, error=error, home=home_id)
            return
        self._links[home_id] = link
        if self._early.pop(home_id, None) is None:
            link.start()
        else:
            link.listen(patterns_of(home))
        note("looks after a home", home=home_id)

    def _link_to(self, home_id: str, patterns: tuple[str, ...]) -> MqttLink | None:
        address = broker_address(self._folder)
        if address is None:
            return None
        return MqttLink(address, f"warmeter-{home_id}", patterns, self._app.now_ms, presence_topic(home_id))

    def _end_early(self) -> None:
        """End the links to homes that are not looked after here any more."""
        for link in self._early.values():
            link.stop()
        self._early.clear()

    def _keep_patterns(self, home_id: str, patterns: tuple[str, ...]) -> None:
        if self._patterns.get(home_id) != patterns:
            self._patterns[home_id] = patterns
            write_patterns(self._folder, self._patterns)

    def _let_go(self, home_id: str) -> None:
        self._runners.pop(home_id, None)
        self._patterns.pop(home_id, None)
        link = self._links.pop(home_id, None)
        if link is not None:
            link.stop()

    def _delivery(self, publish: Publish) -> Delivery:
        places = read_places(self._folder)
        return Delivery(
            mail=None if places is None else places.mail,
            publish=publish,
            page_url="" if places is None else places.page_url,
            now_ms=self._app.now_ms,
            senders=self._senders,
        )

    def close(self) -> None:
        """Give every home back, so that whoever comes next need not wait until the lease ends."""
        self._end_early()
        for home_id in list(self._runners):
            self._let_go(home_id)
            with suppress(DatabaseAway, DatabaseBusy):
                self._app.live_homes.release(home_id, self._name)
        self._senders.close()


def holder_name(pid: int) -> str:
    """Return a name for a process of this machine: its number, the machine's mark, and something that no other one has."""
    return f"{pid}-{_machine()}-{secrets.token_hex(4)}"


def _machine() -> str:
    return sha256(socket.gethostname().encode()).hexdigest()[:8]


def _is_dead(holder: str) -> bool:
    """Return whether whoever holds a home was a process of this machine that has ended: its lease need not run out."""
    pid, _, rest = holder.partition("-")
    if not rest.startswith(f"{_machine()}-") or not pid.isdecimal():
        return False
    try:
        return not Path(f"/proc/{pid}/cmdline").read_bytes()  # one that has ended and was not missed yet has none
    except OSError:
        return True


def run_live(folder: Path, database_port: int) -> None:
    """Look after homes until the server ends it, or the next server's process takes over from it."""
    app = opened_app(folder, database_port, ends_with_server=False)
    homes, ending = LiveHomes(app, folder, holder_name(os.getpid())), threading.Event()

    def end(_number: int, _frame: FrameType | None) -> None:
        ending.set()
        raise SystemExit(0)  # where this is raised within what swallows it, the next step ends

    signal.signal(signal.SIGTERM, end)
    try:
        # The broker hands over to who comes later, so that somebody listens at any time.
        homes.listen_early()
        take_over(folder)
        outlive_server(folder)
        while not ending.is_set():
            try:
                homes.step()
            except Exception as error:
                note("live look broke", level=logging.ERROR, error=error)
                time.sleep(LEASE_MS / MS_PER_S / 10)
    finally:
        homes.close()
