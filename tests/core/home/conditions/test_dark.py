"""Dark or light outdoors, by the sun."""

import unittest

from tests.rules_at_work import AtWork, H, scope
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.truth.truth import FALSE, TRUE


class Darkness(AtWork):
    def test_it_is_dark_at_midnight_and_light_at_noon(self) -> None:
        dark = self.told(Dark(), scope(24))
        self.assertEqual([value for _, value in dark], [FALSE, TRUE, FALSE])
        # 52° north in mid January: the sun sets soon after four.
        self.assertTrue(4 * H < dark[1][0] < 4.5 * H, dark)


if __name__ == "__main__":
    unittest.main()
