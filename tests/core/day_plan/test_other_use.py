"""What else runs besides the plan: energies that stay right, and parts that the meter cannot have counted."""

import unittest

import numpy as np

from warmeter.core.day_plan.other_use import other_use


class OtherUses(unittest.TestCase):
    def test_a_part_of_the_meter_is_taken_off_at_its_hours(self) -> None:
        found = other_use(np.array([0.2, 0.9, 0.2, 0.3]), 1.0, {("tank",): np.array([0.0, 0.5, 0.0, 0.0])})
        np.testing.assert_allclose(found.kwh, [0.2, 0.4, 0.2, 0.3])
        self.assertEqual((found.counted, found.elsewhere), (("tank",), ()))

    def test_where_habits_and_like_days_lie_apart_the_days_energy_is_right(self) -> None:
        metered = np.array([0.2, 0.4, 0.4, 0.4])
        found = other_use(metered, 1.0, {("tank",): np.array([0.0, 0.9, 0.0, 0.0])})
        self.assertAlmostEqual(float(found.kwh.sum()), float(metered.sum()) - 0.9)
        self.assertTrue((found.kwh >= 0).all())

    def test_what_is_too_strong_for_the_meter_is_not_on_it(self) -> None:
        metered = np.full(8, 0.2)
        found = other_use(metered, 0.4, {("tank",): np.array([0.75, *[0.0] * 7])})
        np.testing.assert_allclose(found.kwh, metered)
        self.assertEqual((found.counted, found.elsewhere), ((), ("tank",)))

    def test_what_is_nearly_all_that_is_counted_is_not_on_it(self) -> None:
        found = other_use(np.full(4, 0.2), 0.5, {("room",): np.full(4, 0.3), ("tank",): np.full(4, 0.05)})
        np.testing.assert_allclose(found.kwh, np.full(4, 0.15))
        self.assertEqual((found.counted, found.elsewhere), (("tank",), ("room",)))

    def test_a_part_that_draws_nothing_is_neither(self) -> None:
        found = other_use(np.full(4, 0.2), 0.5, {("pump",): np.zeros(4)})
        self.assertEqual((found.counted, found.elsewhere), ((), ()))


if __name__ == "__main__":
    unittest.main()
