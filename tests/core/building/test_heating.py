"""What a room's heaters and its source give, against their plates."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from warmeter.core.building.heating import (
    full_heat_w,
    heater_output_w,
    heating_of,
    source_summary,
    split_cooling,
    valve_work,
)
from warmeter.core.building.losses import loss_of
from warmeter.core.emitters.radiator import WaterTemperatures, output_w
from warmeter.core.home.plant import Heater, SplitUnit


class Heaters(unittest.TestCase):
    def test_a_radiator_gives_less_at_the_real_flow_and_needs_the_flow_that_gives_the_loss(self) -> None:
        home = drawn_home()
        h = heating_of(home, home.room("den"))
        self.assertAlmostEqual(h.output_w, output_w(2500, WaterTemperatures(60, 50, 20)))
        assert h.flow_needed_c is not None
        at = WaterTemperatures(h.flow_needed_c, h.flow_needed_c - 10, 20)
        self.assertAlmostEqual(output_w(2500, at), h.loss.safe_w, delta=1.0)
        assert h.copes_to_c is not None
        self.assertAlmostEqual(loss_of(home, home.room("den"), h.copes_to_c).safe_w, h.output_w, delta=1.0)
        self.assertAlmostEqual(h.settles_c, 20.0)

    def test_a_short_heater_says_where_the_room_settles_and_which_flow_would_do(self) -> None:
        home = drawn_home()
        weak = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=700.0), home.heaters[1]))
        h = heating_of(weak, weak.room("den"))
        self.assertLess(h.settles_c, 20.0)
        self.assertTrue(h.flow_needed_c is not None and h.flow_needed_c > 60.0)
        rooms = tuple(heating_of(weak, r) for r in weak.rooms)
        found = source_summary(weak, weak.sources[0], rooms)
        self.assertEqual(found.held_by, weak.room("den"))
        self.assertEqual(found.lowest_flow_c, h.flow_needed_c)
        self.assertAlmostEqual(found.load_w, sum(r.loss.plant_w for r in rooms))
        tiny = source_summary(weak, replace(weak.sources[0], most_w=100.0), rooms)
        self.assertFalse(tiny.is_within)

    def test_balanced_radiators_carry_the_load_between_them(self) -> None:
        home = drawn_home()
        second = replace(home.heaters[0], id="rad-2", name="Second", rated_heat_w=1250.0)
        two = replace(home, heaters=(*home.heaters, second))
        h = heating_of(two, two.room("den"))
        self.assertAlmostEqual(sum(b.load_w for b in h.balance), h.loss.safe_w)
        self.assertAlmostEqual(h.balance[0].load_w, 2 * h.balance[1].load_w)
        for b in h.balance:
            assert b.return_c is not None and b.litres_h is not None
            device_schedule = b.litres_h * 0.99 / 3600 * 4186 * (60 - b.return_c)
            self.assertAlmostEqual(device_schedule, b.load_w, places=6)

    def test_a_valves_droop_is_where_its_heat_meets_the_loss(self) -> None:
        home = drawn_home(heaters=tuple(replace(h, band_k=2.0) for h in drawn_home().heaters))
        work = valve_work(home, home.heaters[0])
        assert work is not None
        droop = work.droop_k
        loss, full = loss_of(home, home.room("den")), heating_of(home, home.room("den")).output_w
        settled = 20.0 - droop
        opening = (21.0 - settled) / 2.0
        self.assertAlmostEqual(opening * full, loss.safe_w / 25.0 * (settled + 5.0), places=6)
        self.assertAlmostEqual(work.opening, opening)
        self.assertAlmostEqual(work.oversize, full / loss.safe_w)
        self.assertLess(work.mild_opening, work.opening)
        weak = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=300.0), home.heaters[1]))
        self.assertIsNone(valve_work(weak, weak.heaters[0]))
        self.assertIsNone(valve_work(home, replace(home.heaters[0], kind="electric_panel")))

    def test_plate_floor_and_split_unit_each_by_its_own_law(self) -> None:
        home = drawn_home()
        base = home.heaters[0]
        plain = replace(home, sources=(replace(home.sources[0], flow_c=None),))
        self.assertEqual(heater_output_w(plain, base, outdoor_c=-5), 2500.0)
        floor = replace(base, kind="warm_floor", rated_heat_w=9000.0)
        self.assertAlmostEqual(heater_output_w(home, floor, outdoor_c=-5), 12 * 100, delta=2)
        split = replace(base, kind="split_unit", split=SplitUnit(heat_slope_1_k=0.02), rated_heat_w=3000.0)
        self.assertAlmostEqual(heater_output_w(home, split, outdoor_c=-5), 3000 * (1 - 0.02 * 12))
        self.assertEqual(full_heat_w(replace(home, heaters=()), "den"), 1.0)
        self.assertIsNone(split_cooling(split))
        cold = split_cooling(replace(split, split=SplitUnit(cooling_w=2000.0)))
        assert cold is not None
        self.assertEqual((cold.capacity_w, cold.rated_outdoor_c), (2000.0, 35.0))

    def test_a_room_with_a_split_unit_copes_by_its_falling_capacity(self) -> None:
        home = drawn_home()
        split = Heater(
            id="s",
            room_id="den",
            name="Split",
            kind="split_unit",
            source_id="boiler",
            rated_heat_w=1700.0,
            split=SplitUnit(),
        )
        cooled = replace(home, heaters=(split, home.heaters[1]))
        h = heating_of(cooled, cooled.room("den"))
        assert h.copes_to_c is not None
        self.assertAlmostEqual(
            loss_of(cooled, cooled.room("den"), h.copes_to_c).safe_w, 1700 * (1 + 0.02 * (h.copes_to_c - 7)), delta=1.0
        )


if __name__ == "__main__":
    unittest.main()
