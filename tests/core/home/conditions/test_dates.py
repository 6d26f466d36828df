"""Between two dates of the year."""

import unittest

from tests.rules_at_work import AtWork, H, scope
from warmeter.core.home.conditions.dates import Dates
from warmeter.core.truth.truth import FALSE, TRUE


class DatesOfTheYear(AtWork):
    def test_dates_over_the_new_year(self) -> None:
        winter = Dates(from_month=11, from_day=1, until_month=1, until_day=14)
        self.assertEqual(self.told(winter, scope(24)), [(0, TRUE), (12 * H, FALSE)])


if __name__ == "__main__":
    unittest.main()
