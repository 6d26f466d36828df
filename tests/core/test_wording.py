"""Numbers, times and dates in words: as the home's country and unit have them."""

import unittest
from datetime import date

from warmeter.core.wording import MINUS, THIN, clock_time, day_long, day_short, in_unit, number


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

    def test_a_sentence_in_another_unit_names_the_same_setting(self) -> None:
        for celsius, fahrenheit in (
            ("set to 20 °C", "set to 68 °F"),
            ("set to 21 °C", "set to 69.8 °F"),
            (f"below {MINUS}5 °C", "below 23 °F"),
            ("2.0 K under", "3.6 °F under"),
            ("16 to 18 °C", "61 to 64 °F"),
            ("3.1 K·h short, 40 W/K", "3.1 K·h short, 40 W/K"),
        ):
            with self.subTest(celsius):
                self.assertEqual(in_unit(celsius, "F"), fahrenheit)
                self.assertEqual(in_unit(celsius, "C"), celsius)


if __name__ == "__main__":
    unittest.main()
