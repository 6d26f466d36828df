"""A server that is killed while something is to be put back: over a real broker and database, with played devices."""

import json
import signal
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from tests.cli.test_commands import WithFolder
from warmeter.cli.served import Served
from warmeter.core.link.usual_topics import presence_topic
from warmeter.core.live.home_clock import HomeClock
from warmeter.core.timegrid import parse_utc
from warmeter.links.broker import PrivateBroker
from warmeter.links.mqtt_link import BrokerAddress, MqttLink
from warmeter.service.app import App, Person, QueuedOnly, system_now_ms
from warmeter.service.homes.demo import demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.live.setting_up import begin_live, linked, play_devices
from warmeter.service.live.stand_in import BENCH_EVENT
from warmeter.service.opening import UPLOADS
from warmeter.service.timetable.manual_overrides import changes_of
from warmeter.store.engine import open_engine
from warmeter.store.live_commands import KeptCommand, KeptFiring
from warmeter.store.server import PrivateServer

SPEED, LONG_S = 60.0, 90.0
MORNING = "2026-01-20T09:00:00Z"  # the parlour is in use
HOME, RULE, WINDOW = "weir-cottage", "wc-r06", "wc-c-parlour"


class KilledWhileLive(WithFolder):
    """The window of a parlour is open, and its heater rests."""

    def setUp(self) -> None:
        super().setUp()
        self.served = Served(self.folder / "d", "--no-demo")
        self.served.start()
        self.addCleanup(lambda: self.served.stop())
        server = PrivateServer(self.folder / "d")
        server.attach()
        engine = open_engine(server.url)
        self.addCleanup(engine.dispose)
        uploads = self.folder / "d" / UPLOADS
        self.app = App(engine=engine, uploads=uploads, jobs=QueuedOnly(), now_ms=system_now_ms)
        made = demo_home(HOME)
        home = linked(replace(made, rules=(made.rule(RULE),), link=replace(made.link, mode="send")))
        create_home(self.app, home, Person("Ada"), "made")
        begin_live(self.app, HOME, HomeClock(real_ms=system_now_ms(), home_ms=parse_utc(MORNING)))
        play_devices(self.app, HOME, is_on=True, speed=SPEED)

    def window(self, *, is_open: bool) -> None:
        detail = json.dumps({"fault": "open", "on": is_open})
        self.app.events.add(HOME, BENCH_EVENT, WINDOW, system_now_ms(), detail, 1)

    def until(self, what: str, is_so: Callable[[], object]) -> None:
        end = time.monotonic() + LONG_S
        while not is_so():
            self.assertLess(time.monotonic(), end, f"not within {LONG_S:.0f} s: {what}")
            threading.Event().wait(0.1)

    def firings(self) -> list[KeptFiring]:
        return self.app.live_commands.firings(HOME, 0)

    def resting(self) -> set[str]:
        """Return what is asked to rest by the rule."""
        return {c.run.target_id for c in self.app.live_commands.last(HOME, 500) if c.kind == "window_lock"}

    def holder(self) -> str:
        """Return who looks after the home, "" while nobody does."""
        live = self.app.live_homes.find(HOME)
        assert live is not None
        return live.holder

    def newest(self, target_id: str) -> KeptCommand:
        return next(c for c in self.app.live_commands.last(HOME, 500) if c.run.target_id == target_id)

    def test_while_the_pages_are_gone_the_home_is_looked_after_until_the_next_takes_over(self) -> None:
        self.until("the window is heard", lambda: WINDOW in {s.record.subject for s in self.app.readings.series(HOME)})
        self.window(is_open=True)
        self.until("the rule fires", self.firings)
        before = self.holder()
        self.served.stop(signal.SIGKILL)
        broker = PrivateBroker(self.folder / "d")
        address = BrokerAddress(host="127.0.0.1", port=broker.port, user=HOME, password=broker.password(HOME))
        device = MqttLink(address, "window", (presence_topic(HOME),), system_now_ms)
        device.start()
        self.addCleanup(device.stop)
        self.assertTrue(device.wait_connected(LONG_S), device.why)
        device.publish(f"homes/{HOME}/{WINDOW}/is_open", "closed")
        self.until("the rule's firing ends", lambda: self.firings()[0].end_ms)
        self.assertEqual(self.holder(), before, "by the process that the killed server left")
        self.served.start()
        self.until("another takes over", lambda: self.holder() not in ("", before))
        self.until("the one before has ended", lambda: not Path(f"/proc/{before.partition('-')[0]}/cmdline").exists())
        said = [message.payload for message in device.heard(1.0)]
        self.assertIn(b"there", said)
        self.assertNotIn(b"gone", said, "somebody listens at any time")

    def test_what_it_owed_is_put_back_by_the_next(self) -> None:
        self.until("the window is heard", lambda: WINDOW in {s.record.subject for s in self.app.readings.series(HOME)})
        self.window(is_open=True)
        self.until("the rule fires", self.firings)
        self.until("the heater is asked to rest", self.resting)
        (target_id,) = self.resting()
        self.served.stop(signal.SIGKILL)
        self.window(is_open=False)
        self.assertIsNone(self.firings()[0].end_ms)
        self.served.start()
        self.until("the rule's firing ends", lambda: self.firings()[0].end_ms)
        self.assertEqual([each.why for each in self.firings()], ["when"])
        self.until("the heater is given back", lambda: self.newest(target_id).kind != "window_lock")
        self.assertEqual(changes_of(self.app, HOME), [], "devices that go on from where they were")
        self.until("it confirms", lambda: self.newest(target_id).run.state == "confirmed")
