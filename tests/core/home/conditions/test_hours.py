"""Between two times of day."""

import unittest

from tests.rules_at_work import AtWork, H, scope
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.truth.truth import FALSE, TRUE


class HoursOfTheDay(AtWork):
    def test_hours_over_midnight_belong_to_the_day_they_begin_on(self) -> None:
        night = Hours(from_min=22 * 60, until_min=6 * 60, weekdays=(2,))  # 14 January 2026 is a Wednesday
        self.assertEqual(self.told(night, scope(48)), [(0, FALSE), (10 * H, TRUE), (18 * H, FALSE)])


if __name__ == "__main__":
    unittest.main()
