"""The evening before a day of a kind."""

import unittest

from tests.rules_at_work import AtWork, H, scope
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.evening import Evening
from warmeter.core.truth.truth import FALSE, TRUE


class Evenings(AtWork):
    def test_an_evening_lasts_past_midnight(self) -> None:
        evening = Evening(which="clock", clock_min=21 * 60, until_min=60)
        self.assertEqual(self.told(evening, scope(24)), [(0, FALSE), (9 * H, TRUE), (13 * H, FALSE)])
        with self.assertRaises(HomeError):
            Evening(which="first")


if __name__ == "__main__":
    unittest.main()
