"""Values as people write them: each reading worked out on paper, and what could be two numbers is asked."""

import unittest
from decimal import Decimal

from warmeter.core.units import Units
from warmeter.web.typed import parse_amount, parse_clock, parse_number, parse_quantity


class Numbers(unittest.TestCase):
    def test_points_commas_and_thousands(self) -> None:
        for text, value in (
            ("21.5", 21.5),
            ("21,5", 21.5),
            (" 1\u2009000 ", 1000),
            ("1 000", 1000),
            ("\u22123", -3),
            ("+4", 4),
            ("1.200,5", 1200.5),
            ("1,200.5", 1200.5),
            ("1,234,567", 1234567),
            ("0,125", 0.125),
            ("12,34", 12.34),
            ("1.200", 1.2),
        ):
            with self.subTest(text):
                self.assertEqual(parse_number(text), value)

    def test_what_could_be_two_numbers_is_asked_and_what_is_none_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "1200 or 1.200"):
            parse_number("1,200")
        for text in ("", "abc", "1,2,3", "1.2.3", "12,34.5", "1e5", "nan", "inf", "--3", "3-"):
            with self.subTest(text), self.assertRaises(ValueError):
                parse_number(text)


class Quantities(unittest.TestCase):
    def test_each_is_taken_to_what_is_stored(self) -> None:
        for text, unit, value in (
            ("2.5", "m", 2.5),
            ("250 cm", "m", 2.5),
            ("12 ft", "m", 3.6576),
            ("6' 4\"", "m", 76 * 0.0254),
            ("6'4", "m", 76 * 0.0254),
            ("6 ft 4 in", "m", 76 * 0.0254),
            ("6\u2032 4\u2033", "m", 76 * 0.0254),
            ("200 sq ft", "m²", 200 * 0.3048**2),
            ("1.5 kW", "W", 1500),
            ("1 000", "W", 1000),
            ("12 500 W", "W", 12500),
            ("1,5 kw", "W", 1500),
            ("5120 BTU/h", "W", 5120 * 1055.05585262 / 3600),
            ("20 min", "min", 20),
            ("1 h 20", "min", 80),
            ("1 h 20 min", "min", 80),
            ("1,5 h", "min", 90),
            ("90 s", "min", 1.5),
            ("2 days", "h", 48),
            ("40 gal", "L", 40 * 3.785411784),
            ("15 %", "%", 15),
            ("7", "", 7),
        ):
            with self.subTest(text):
                self.assertAlmostEqual(parse_quantity(text, unit), value, places=6)

    def test_temperatures_in_the_homes_unit_or_the_one_that_is_written(self) -> None:
        for text, home, celsius in (
            ("20", "C", 20),
            ("68", "F", 20),
            ("68 F", "C", 20),
            ("20 c", "F", 20),
            ("20,5 °C", "F", 20.5),
            ("\u22125°C", "C", -5),
            ("-4 f", "C", -20),
        ):
            with self.subTest(text=text, home=home):
                self.assertAlmostEqual(parse_quantity(text, "°C", Units(home)), celsius)  # type: ignore[arg-type]  # C or F
        self.assertAlmostEqual(parse_quantity("1.8", "°C", Units("F"), is_difference=True), 1)
        self.assertAlmostEqual(parse_quantity("1 K", "°C", Units("F"), is_difference=True), 1)
        self.assertAlmostEqual(parse_quantity("9 F", "K"), 5)

    def test_a_unit_of_something_else_is_refused_and_named(self) -> None:
        for text, unit in (("5 kW", "m"), ("3 ft", "W"), ("20 K", "°C"), ("20 min", "°C"), ("4 x", "min"), ("5 m", "")):
            with self.subTest(text=text, unit=unit), self.assertRaises(ValueError):
                parse_quantity(text, unit)


class Clocks(unittest.TestCase):
    def test_by_twelve_and_by_twenty_four_hours(self) -> None:
        for text, minute in (
            ("6:45", 405),
            ("06.45", 405),
            ("6h45", 405),
            ("7", 420),
            ("1 pm", 780),
            ("1:30pm", 810),
            ("12 am", 0),
            ("12:15 AM", 15),
            ("12 pm", 720),
            ("11:59 p.m.", 1439),
            ("noon", 720),
            ("midnight", 0),
            ("24:00", 1440),
            ("24", 1440),
        ):
            with self.subTest(text):
                self.assertEqual(parse_clock(text), minute)

    def test_what_no_clock_shows_is_refused(self) -> None:
        for text in ("", "25:00", "24:01", "7:60", "13 pm", "0 am", "half past six", "7:5"):
            with self.subTest(text), self.assertRaises(ValueError):
                parse_clock(text)


class Money(unittest.TestCase):
    def test_whole_and_hundredths(self) -> None:
        for text, value in (
            ("0.268", "0.268"),
            ("0,268", "0.268"),
            ("£0.27", "0.27"),
            ("0,31 €/kWh", "0.31"),
            ("26.8 p", "0.268"),
            ("5 c", "0.05"),
            ("5 ct/kWh", "0.05"),
            ("-2 cents", "-0.02"),
            ("1,200.50", "1200.50"),
        ):
            with self.subTest(text):
                self.assertEqual(parse_amount(text), Decimal(value))

    def test_no_amount_is_refused(self) -> None:
        for text in ("", "free", "nan", "1.2.3", "5 kWh"):
            with self.subTest(text), self.assertRaises(ValueError):
                parse_amount(text)


if __name__ == "__main__":
    unittest.main()
