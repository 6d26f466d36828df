"""Numbers, times and dates in words: as the home's country and unit have them."""

import unittest
from datetime import date

from warmeter.core.wording import MINUS, THIN, clock_time, day_long, day_short, number


class Wording(unittest.TestCase):
    def test_numbers(self) -> None:
        for value, decimals, is_signed, text in (
            (None, 1, False, "–"),
            (1234567.0, 0, False, f"1{THIN}234{THIN}567"),
            (-0.04, 1, True, "0.0"),
            (-0.06, 1, True, f"{MINUS}0.1"),
            (2.5, 1, True, "+2.5"),
            (2.5, 1, False, "2.5"),
        ):
            with self.subTest(value=value):
                self.assertEqual(number(value, decimals, is_signed=is_signed), text)

    def test_times_and_dates(self) -> None:
        self.assertEqual([clock_time(m) for m in (0, 405, 1440)], ["00:00", "06:45", "24:00"])
        on = date(2026, 2, 3)
        self.assertEqual([day_short(on, c) for c in ("GB", "US", "SE")], ["03/02", "02/03", "02-03"])
        self.assertEqual(
            [day_long(on, c) for c in ("GB", "US", "SE")], ["Tue 3 Feb 2026", "Tue Feb 3, 2026", "Tue 2026 Feb 3"]
        )


if __name__ == "__main__":
    unittest.main()
