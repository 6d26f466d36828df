"""Who looks after a home: one at a time, and whoever comes after one that died need not wait for its lease."""

import os
import subprocess
import sys
import unittest

from tests.served import fresh_app
from warmeter.core.live.home_clock import HomeClock
from warmeter.service.app import Person, system_now_ms
from warmeter.service.homes.demo import demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.live.process import LiveHomes, holder_name
from warmeter.service.live.runner import LEASE_MS
from warmeter.service.live.setting_up import linked

HOME = "weir-cottage"


class Holding(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        create_home(self.app, linked(demo_home(HOME)), Person("Ada"), "made")
        self.app.live_homes.set_clock(HOME, HomeClock())

    def held_by(self, pid: int) -> str:
        """Let a process hold the home, let another one of this machine step in, and return who holds it then."""
        before = holder_name(pid)
        now_ms = system_now_ms()
        self.assertTrue(self.app.live_homes.lease(HOME, before, now_ms, now_ms + LEASE_MS))
        LiveHomes(self.app, self.app.uploads.parent, "next").step()
        live = self.app.live_homes.find(HOME)
        assert live is not None
        return "before" if live.holder == before else live.holder

    def test_one_that_lives_keeps_it(self) -> None:
        self.assertEqual(self.held_by(os.getpid()), "before")

    def test_one_that_has_ended_leaves_it_at_once(self) -> None:
        ended = subprocess.Popen([sys.executable, "-c", ""])
        ended.wait()
        self.assertEqual(self.held_by(ended.pid), "next")


if __name__ == "__main__":
    unittest.main()
