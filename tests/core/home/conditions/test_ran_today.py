"""Whether a machine has run today."""

import unittest
from dataclasses import replace

from tests.rules_at_work import POWER, AtWork, H, scope, track
from warmeter.core.home.conditions.ran_today import RanToday
from warmeter.core.home.machines import ToldSetting
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN


class RunToday(AtWork):
    def test_has_run_today_is_forgotten_at_the_reset(self) -> None:
        setting = ToldSetting(tells="ran_today", threshold_w=5, wait_s=0)
        power = track((0, 1), (600, 400), (1200, 1), (6 * H, 1), (12 * H, 1))
        log = scope(20, tracks={POWER: power}, settings={("washer", "ran_today"): setting})
        c = RanToday(appliance_id="washer", counts="ran", least_s=300, reset_min=180)
        self.assertEqual(self.told(c, log, stale_s=8 * H), [(0, FALSE), (900, TRUE), (15 * H, FALSE)])
        self.assertEqual(self.told(replace(c, counts="ended"), log, stale_s=8 * H)[1], (1200, TRUE))
        self.assertEqual(self.told(replace(c, least_s=601), log, stale_s=8 * H), [(0, FALSE)])

    def test_what_was_not_heard_may_have_been_a_run(self) -> None:
        setting = ToldSetting(tells="ran_today", threshold_w=5, wait_s=0)
        log = scope(4, tracks={POWER: track((0, 1), (7200, 1))}, settings={("washer", "ran_today"): setting})
        has_not = RanToday(appliance_id="washer", has=False)
        self.assertEqual(self.told(has_not, log, stale_s=3600), [(0, TRUE), (3600, UNKNOWN)])


if __name__ == "__main__":
    unittest.main()
