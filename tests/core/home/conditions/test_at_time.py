"""At a time of day."""

import unittest

from tests.rules_at_work import MIN, AtWork, H, scope
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.timegrid import parse_utc


class ClockTime(AtWork):
    def test_a_time_that_the_clock_skips_is_the_first_instant_after(self) -> None:
        start = parse_utc("2026-03-29T00:00:00Z")
        log = scope(start_ms=start, end_ms=start + 6 * H * 1000)
        truth = ConditionEvaluator(log).truth(AtTime(at_min=90), 60)
        # 01:30 does not exist in London that night; the clock goes from 01:00 to 02:00 at 01:00 UTC.
        self.assertEqual(((truth.stretches()[0] - start) // 1000).tolist(), [H])

    def test_a_time_that_comes_twice_counts_once(self) -> None:
        start = parse_utc("2026-10-24T23:00:00Z")
        log = scope(start_ms=start, end_ms=start + 6 * H * 1000)
        truth = ConditionEvaluator(log).truth(AtTime(at_min=90), 60)
        self.assertEqual(((truth.stretches()[0] - start) // 1000).tolist(), [90 * MIN])


if __name__ == "__main__":
    unittest.main()
