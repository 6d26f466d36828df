"""Server processes that die are replaced, also when what they are forked from has died with them."""

import threading
import unittest
from types import SimpleNamespace
from unittest import mock

from warmeter.web.serving import WebProcesses


class Replacing(unittest.TestCase):
    def test_one_that_cannot_be_started_just_now_is_started_at_the_next_look(self) -> None:
        dead = SimpleNamespace(process=SimpleNamespace(is_alive=lambda: False), pid=1, exitcode=255)
        kept = WebProcesses.__new__(WebProcesses)
        kept.processes, kept.should_exit, kept._heard_s = [dead], threading.Event(), {}  # type: ignore[list-item]
        fresh = mock.sentinel.fresh
        for refused in (ConnectionRefusedError(), EOFError()):
            with mock.patch.object(kept, "_started", side_effect=[refused, fresh]):
                kept.processes = [dead]  # type: ignore[list-item]
                kept.keep_subprocess_alive()
                self.assertEqual(kept.processes, [dead])
                kept.keep_subprocess_alive()
                self.assertEqual(kept.processes, [fresh])
        self.assertFalse(kept.should_exit.is_set())


if __name__ == "__main__":
    unittest.main()
