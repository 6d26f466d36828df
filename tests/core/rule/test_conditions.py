"""Conditions whose sensor falls silent: kept, put back, or waited for anew."""

import unittest
from dataclasses import replace

from tests.rules_at_work import SHUT, WINDOW, AtWork, rule, scope, track
from warmeter.core.home.rules import PutBack, RuleLimits


class Silence(AtWork):
    def test_a_sensor_that_dies_while_open_is_kept_or_put_back(self) -> None:
        log = scope(tracks={WINDOW: track((0, 0), (600, 1))})
        one = rule(put_back=PutBack(when=SHUT), limits=RuleLimits(stale_s=1800))
        self.assertEqual(self.fired(one, log), [(600, None, "")])
        safe = replace(one, limits=RuleLimits(stale_s=1800, when_stale="put_back"))
        self.assertEqual(self.fired(safe, log), [(600, 2400, "stale")])

    def test_the_wait_begins_anew_after_silence(self) -> None:
        log = scope(tracks={WINDOW: track((0, 0), (600, 1), (4000, 1), (4900, 1), (5800, 1))})
        one = rule(for_s=2400, limits=RuleLimits(stale_s=1000))
        # Known open from 600 s to 1600 s, then from 4000 s on; 4000 + 2400 = 6400 s.
        self.assertEqual(self.fired(one, log), [(6400, 6400, "done")])


if __name__ == "__main__":
    unittest.main()
