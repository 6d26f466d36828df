"""Heating and cooling kept apart."""

import unittest

from warmeter.core.timetable.pair_gap import HeatCoolPair, PairRule, keep_apart, saves


class Gap(unittest.TestCase):
    rule = PairRule(gap_k=2.0, step_k=0.5, heat_range_c=(5.0, 25.0), cool_range_c=(20.0, 35.0))

    def test_every_pair_moved_apart_is_the_nearest_on_the_grid_that_keeps_the_gap(self) -> None:
        grid = [5 + 0.5 * k for k in range(61)]
        for heat in (18.0, 20.25, 24.0):
            for cool in (20.0, 21.5, 23.0):
                found = keep_apart(HeatCoolPair(heat, cool), self.rule, "heat")
                assert found is not None and found.heat_c is not None and found.cool_c is not None
                fits = [c for c in grid if 20 <= c <= 35 and c - heat >= 2.0 - 1e-9]
                wanted = cool if cool - heat >= 2.0 else min(fits)
                self.assertEqual((found.heat_c, found.cool_c), (heat, wanted))

    def test_no_room_is_no_pair_and_a_lone_side_is_only_clipped(self) -> None:
        tight = PairRule(gap_k=3.0, step_k=0.5, heat_range_c=(20.0, 25.0), cool_range_c=(20.0, 22.0))
        self.assertIsNone(keep_apart(HeatCoolPair(21.0, 22.0), tight, "heat"))
        self.assertEqual(keep_apart(HeatCoolPair(None, 60.0), self.rule, "cool"), HeatCoolPair(None, 35.0))
        self.assertEqual(saves(HeatCoolPair(18.0, None), HeatCoolPair(20.0, 25.0)), (True, None))


if __name__ == "__main__":
    unittest.main()
