"""States of a machine at rest."""

import unittest

import numpy as np

from warmeter.core.signature.standby_states import standby_states


class Standing(unittest.TestCase):
    def test_hours_add_up_and_saving_is_rest_not_drawn(self) -> None:
        watts = np.repeat([0.0, 5.0, 100.0, np.nan], 6)
        found = standby_states(
            3600.0 * np.arange(24, dtype=np.float64),
            watts,
            np.full(24, np.nan),
            floor_w=0.5,
            work_w=50.0,
            longest_hold_s=3600.0,
            end_s=24 * 3600.0,
        )
        self.assertEqual((found.off.hours, found.rest.hours, found.work.hours, found.unknown_h), (6.0, 6.0, 6.0, 6.0))
        self.assertAlmostEqual(found.saved_kwh or 0, 5.0 * 6 / 1000)
        self.assertAlmostEqual(found.rest_kwh_year or 0, 5.0 * 6 / 1000 * 8760 / 18)
        self.assertAlmostEqual(found.never_cut_kwh_year or 0, 5.0 * 12 / 1000 * 8760 / 18)


if __name__ == "__main__":
    unittest.main()
