"""Sentences carry their numbers, so that a home reads them in its own unit."""

import copy
import pickle
import unittest

from warmeter.core.sentence import (
    Measure,
    Sentence,
    begun_small,
    celsius,
    in_unit,
    joined,
    kelvin,
    kelvin_hours,
    parts_of,
    sentence,
)
from warmeter.core.units import Units, celsius_to
from warmeter.core.wording import MINUS


class InUnits(unittest.TestCase):
    def test_a_sentence_in_another_unit_names_the_same_setting(self) -> None:
        for said, in_celsius, in_fahrenheit in (
            (sentence("set to {}", celsius(20)), "set to 20 °C", "set to 68 °F"),
            (sentence("set to {}", celsius(21)), "set to 21 °C", "set to 69.8 °F"),
            (sentence("below {}", celsius(-5)), f"below {MINUS}5 °C", "below 23 °F"),
            (sentence("{} under", kelvin(2, 1)), "2.0 K under", "3.6 °F under"),
            (sentence("{} is far", kelvin(10)), "10 K is far", "18 °F is far"),
            (sentence("{}", celsius(16, until=18)), "16 to 18 °C", "61 to 64 °F"),
            (sentence("{} short, 40 W/K", kelvin_hours(3.1, 1)), "3.1 K·h short, 40 W/K", "5.6 °F·h short, 40 W/K"),
            (sentence("{} of it", Measure(40.25, "%")), "40.25 % of it", "40.25 % of it"),
            (sentence("{} outdoors", celsius(None)), "– °C outdoors", "– °F outdoors"),
        ):
            with self.subTest(in_celsius):
                self.assertEqual(said, in_celsius)
                self.assertEqual(said.in_unit(Units("C")), in_celsius)
                self.assertEqual(said.in_unit(Units("F")), in_fahrenheit)

    def test_a_whole_number_never_stands_for_a_setting_that_is_not_whole(self) -> None:
        for tenth in range(-300, 600):
            value = tenth / 10
            shown = float(sentence("{}", celsius(value)).in_unit(Units("F")).split()[0].replace(MINUS, "-"))
            self.assertLess(abs(shown - celsius_to(value, "F")), 0.0501, value)

    def test_words_of_a_person_are_never_converted(self) -> None:
        self.assertEqual(in_unit("boost to 23 °C", Units("F")), "boost to 23 °C")
        self.assertEqual(sentence("its “{}”", "holds 16 °C").in_unit(Units("F")), "its “holds 16 °C”")


class Parts(unittest.TestCase):
    def test_a_sentence_within_another_keeps_its_numbers(self) -> None:
        inner = sentence("{} falls to {}", "Hall", celsius(10))
        for whole in (
            sentence("Then {}.", inner),
            "Then " + inner + ".",
            joined("", ["Then ", inner, "."]),
            copy.deepcopy(sentence("Then {}.", inner)),
            pickle.loads(pickle.dumps(sentence("Then {}.", inner))),
        ):
            self.assertEqual(whole, "Then Hall falls to 10 °C.")
            self.assertEqual(whole.in_unit(Units("F")), "Then Hall falls to 50 °F.")

    def test_a_list_has_something_between_its_sentences_only(self) -> None:
        self.assertEqual(joined("; ", ["a", sentence("{}", kelvin(1)), "b"]).in_unit(Units("F")), "a; 1.8 °F; b")
        self.assertEqual(joined("; ", []), "")

    def test_values_are_formatted_as_the_pattern_says(self) -> None:
        self.assertEqual(sentence("{:.1f} of {!r}, {{so}}", 2.04, "Hall"), "2.0 of 'Hall', {so}")

    def test_behind_a_colon_it_begins_small(self) -> None:
        self.assertEqual(begun_small(sentence("Take {}", celsius(5))).in_unit(Units("F")), "take 41 °F")
        self.assertEqual(begun_small(Sentence((celsius(5), " is cold"))), "5 °C is cold")

    def test_places_and_values_are_as_many(self) -> None:
        for pattern, values in (("{} and {}", (1,)), ("{}", (1, 2)), ("none", (1,))):
            with self.subTest(pattern), self.assertRaises(ValueError):
                sentence(pattern, *values)

    def test_a_text_is_one_part(self) -> None:
        self.assertEqual(parts_of("16 °C"), ("16 °C",))


if __name__ == "__main__":
    unittest.main()
