"""A room of one store against its closed form."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import OutOfRange
from warmeter.core.thermal.single_rc import SingleRc


class SingleStore(unittest.TestCase):
    def test_room_cools_to_outdoor_temperature_without_heat(self) -> None:
        room = SingleRc(resistance_k_w=0.02, capacity_j_k=5e6)
        self.assertAlmostEqual(room.temperature_c(start_c=20, power_w=0, outdoor_c=3, after_s=1e8), 3.0)

    @settings(deadline=None, derandomize=True)
    @given(st.floats(0.005, 0.1), st.floats(1e5, 1e8), st.floats(-500, 4000), st.floats(-15, 30), st.floats(0, 1e5))
    def test_two_half_steps_are_one_step(self, r: float, c: float, p: float, out: float, t: float) -> None:
        room = SingleRc(resistance_k_w=r, capacity_j_k=c)
        middle = room.temperature_c(start_c=18, power_w=p, outdoor_c=out, after_s=t / 2)
        twice = room.temperature_c(start_c=middle, power_w=p, outdoor_c=out, after_s=t / 2)
        self.assertAlmostEqual(twice, room.temperature_c(start_c=18, power_w=p, outdoor_c=out, after_s=t), places=6)

    def test_no_store_or_resistance_below_zero(self) -> None:
        for r, c in ((0, 1e6), (0.02, 0), (-1, 1e6), (float("nan"), 1e6)):
            with self.assertRaises(OutOfRange):
                SingleRc(resistance_k_w=r, capacity_j_k=c)


if __name__ == "__main__":
    unittest.main()
