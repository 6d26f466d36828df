"""Warm floors: output and surface limits."""

import unittest

from warmeter.core.emitters.warm_floor import check_floor, flux_w_m2, surface_c
from warmeter.core.errors import OutOfRange


class Floors(unittest.TestCase):
    def test_the_limits_give_about_a_hundred_watts_a_square_metre(self) -> None:
        for limit, room, flux in ((29, 20, 100), (33, 24, 100), (35, 20, 175)):
            self.assertAlmostEqual(flux_w_m2(limit, room), flux, delta=1)
            self.assertAlmostEqual(surface_c(flux_w_m2(limit, room), room), limit)

    def test_a_cover_that_bears_less_leaves_more_over(self) -> None:
        stone = check_floor(1500.0, area_m2=14.0, room_c=20.0)
        timber = check_floor(1500.0, area_m2=14.0, room_c=20.0, limit_c=27.0)
        self.assertGreater(timber.shortfall_w, stone.shortfall_w)
        self.assertFalse(timber.is_within)
        with self.assertRaises(OutOfRange):
            check_floor(500.0, area_m2=0.0, room_c=20.0)


if __name__ == "__main__":
    unittest.main()
