"""What a rule tells, in words."""

import unittest

from warmeter.core.rule.notifications import notices, quiet_by_clock
from warmeter.core.timegrid import LocalClock, parse_utc


class RuleWording(unittest.TestCase):
    def test_quiet_hours_follow_the_clock_over_its_change(self) -> None:
        quiet = quiet_by_clock(LocalClock("Europe/London"), 22 * 60, 7 * 60)
        # The night of 29 March is an hour shorter: seven o'clock is 06:00 UTC.
        self.assertEqual(quiet(parse_utc("2026-03-28T23:00:00Z")), parse_utc("2026-03-29T06:00:00Z"))
        self.assertIsNone(quiet(parse_utc("2026-03-29T06:00:00Z")))

    def test_told_once_or_again_until_it_is_over(self) -> None:
        def none(_: int) -> None:
            return None

        self.assertEqual(notices([(0, 100)], after=10, repeat=None, most=9, quiet=none, end=999), [10])
        self.assertEqual(notices([(0, 100)], after=10, repeat=45, most=9, quiet=none, end=999), [10, 55, 100])
        self.assertEqual(
            notices([(0, 100)], after=10, repeat=45, most=9, quiet=none, end=999, is_closed=False), [10, 55]
        )


if __name__ == "__main__":
    unittest.main()
