"""COP by outdoor temperature."""

import unittest

import numpy as np

from warmeter.core.errors import HomeError
from warmeter.core.thermal.heat_pump import cop_at


class HeatPump(unittest.TestCase):
    def test_cop_runs_straight_between_points_and_holds_beyond(self) -> None:
        points = [(-7.0, 2.0), (7.0, 4.0)]
        np.testing.assert_allclose(cop_at(points, np.array([-20.0, -7, 0, 7, 20])), [2, 2, 3, 4, 4])

    def test_points_must_rise(self) -> None:
        for points in ([], [(7.0, 3.0), (2.0, 2.0)]):
            with self.assertRaises(HomeError):
                cop_at(points, np.zeros(1))


if __name__ == "__main__":
    unittest.main()
