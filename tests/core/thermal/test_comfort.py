"""Degree-hours and hours beyond a limit."""

import unittest

import numpy as np

from warmeter.core.thermal.comfort import degree_hours


class DegreeHours(unittest.TestCase):
    def test_many_rooms_at_once_and_additive(self) -> None:
        theta = np.array([[17.0, 18.5, 19.0], [20.0, 16.0, 18.0]])
        whole = degree_hours(theta, 18.0, 1800.0)
        np.testing.assert_allclose(whole, [0.5, 1.0])
        np.testing.assert_allclose(
            whole, degree_hours(theta[:, :1], 18.0, 1800.0) + degree_hours(theta[:, 1:], 18.0, 1800.0)
        )


if __name__ == "__main__":
    unittest.main()
