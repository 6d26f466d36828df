"""Split units: capacity, COP and part load."""

import unittest

from warmeter.core.emitters.split_unit import SplitRating, split_output
from warmeter.core.errors import OutOfRange


class Units(unittest.TestCase):
    rating = SplitRating(
        capacity_w=3500, efficiency=3.4, rated_outdoor_c=35, capacity_slope_1_k=-0.007, efficiency_slope_1_k=-0.025
    )

    def test_at_its_rating_a_unit_gives_its_plate(self) -> None:
        got = split_output(self.rating, outdoor_c=35, load_w=3500)
        self.assertAlmostEqual(got.delivered_w, 3500)
        self.assertAlmostEqual(got.power_w, 3500 / 3.4)

    def test_what_is_delivered_and_unmet_add_up_to_the_load(self) -> None:
        for outdoor in (25, 35, 45):
            for load in (0.0, 900.0, 6000.0):
                got = split_output(self.rating, outdoor_c=outdoor, load_w=load)
                self.assertAlmostEqual(got.delivered_w + got.unmet_w, load)
                self.assertGreaterEqual(got.power_w, 0)

    def test_far_from_its_rating_it_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            split_output(self.rating, outdoor_c=120, load_w=100)


if __name__ == "__main__":
    unittest.main()
