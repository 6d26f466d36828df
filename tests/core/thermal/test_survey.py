"""A room's numbers from its survey."""

import unittest

from warmeter.core.errors import OutOfRange
from warmeter.core.thermal.survey import Element, room_from_survey


class Survey(unittest.TestCase):
    def test_surveyed_loss_is_the_sum_of_its_parts(self) -> None:
        room = room_from_survey(
            floor_area_m2=20,
            volume_m3=50,
            air_change_1_h=0.5,
            windows=[Element(name="w", area_m2=3, u_w_m2k=1.5)],
            opaque=[Element(name="o", area_m2=30, u_w_m2k=0.4)],
            mass_class="heavy",
        )
        self.assertAlmostEqual(room.loss_w_k, 0.34 * 0.5 * 50 + 3 * 1.5 + 30 * 0.4)

    def test_an_envelope_that_loses_too_much_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            room_from_survey(
                floor_area_m2=2,
                volume_m3=5,
                air_change_1_h=0.5,
                windows=[],
                opaque=[Element(name="o", area_m2=100, u_w_m2k=5)],
                mass_class="light",
            )

    def test_doubtful_elements_are_refused(self) -> None:
        for area, u in ((-1.0, 1.0), (1.0, 0.0), (1.0, 50.0)):
            with self.assertRaises(OutOfRange):
                Element(name="x", area_m2=area, u_w_m2k=u)


if __name__ == "__main__":
    unittest.main()
