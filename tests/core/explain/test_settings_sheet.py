"""The sheet of settings: starts on the device's own steps, never later than asked, and what that costs."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from tests.forecasts import surveyed_forecast
from tests.homes import small_home, with_day
from warmeter.core.explain.settings_sheet import one_a_zone, sheet_of
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import ChangePoint


def with_step(home: Home, step_min: int) -> Home:
    return replace(home, heaters=tuple(replace(heater, step_min=step_min) for heater in home.heaters))


class Starts(unittest.TestCase):
    def test_a_start_is_rounded_earlier_to_the_device_s_step(self) -> None:
        for step in (1, 10, 60):
            with self.subTest(step=step):
                (start,) = sheet_of(surveyed_forecast(with_step(small_home(), step)), []).starts
                assert start.start_min is not None and start.exact_min is not None
                exact = 420 - start.exact_min
                self.assertEqual(start.start_min % step, 0)
                self.assertTrue(start.start_min <= exact + 0.5)
                self.assertLess(exact - start.start_min, step + 0.5)
                self.assertFalse(start.day_before)
                self.assertEqual(start.typed.setpoint, 20.0)

    def test_an_hour_s_rounding_costs_at_least_as_much_as_a_minute_s(self) -> None:
        flat = small_home()
        flat = replace(flat, tariffs=(replace(flat.tariffs[0], rates=flat.tariffs[0].rates[1:]),))
        costs = [sheet_of(surveyed_forecast(with_step(flat, step)), []).starts[0].rounding_cost for step in (1, 60)]
        assert costs[0] is not None and costs[1] is not None
        self.assertLessEqual(costs[0], costs[1] + 1e-9)
        unpriced = sheet_of(surveyed_forecast(replace(flat, tariffs=())), []).starts[0]
        self.assertIsNone(unpriced.rounding_cost)

    def test_a_block_soon_after_midnight_starts_on_the_evening_before(self) -> None:
        early = with_day(
            small_home(), ChangePoint(start_min=30, level_id="in-use"), ChangePoint(start_min=1080, level_id="asleep")
        )
        (start,) = sheet_of(surveyed_forecast(early), []).starts
        self.assertTrue(start.day_before)
        self.assertGreater(start.start_min or 0, 1080)

    def test_a_heater_too_small_has_no_start_and_stands_before_all_others_of_its_zone(self) -> None:
        weak = replace(small_home(), heaters=(replace(small_home().heaters[0], rated_heat_w=500.0),))
        (none,) = sheet_of(surveyed_forecast(weak), []).starts
        self.assertIsNone(none.start_min)
        (some,) = sheet_of(surveyed_forecast(small_home()), []).starts
        for pair in ((none, some), (some, none)):
            self.assertEqual(one_a_zone(pair), (none,))
        earlier = replace(some, start_min=(some.start_min or 0) - 10)
        self.assertEqual(one_a_zone((some, earlier)), (earlier,))
        evening = replace(some, day_before=True, start_min=1400)
        self.assertEqual(one_a_zone((earlier, evening)), (evening,))

    def test_a_saving_is_that_of_its_carrier_and_has_money_only_where_that_has_a_price(self) -> None:
        (electric,) = sheet_of(surveyed_forecast(small_home()), []).savings
        self.assertEqual(electric.carrier, "electricity")
        self.assertIsNotNone(electric.cost)
        # The tariff prices electricity; the boiler burns gas, whose price nobody has typed.
        gas_home = replace(drawn_home(), tariffs=small_home().tariffs)
        (gas,) = sheet_of(surveyed_forecast(gas_home), []).savings
        self.assertEqual((gas.carrier, gas.cost), ("gas", None))
        heaters = (replace(gas_home.heaters[0], source_id="mains", kind="electric_panel"), gas_home.heaters[1])
        mains = replace(small_home().sources[0], id="mains")
        both = replace(gas_home, sources=(*gas_home.sources, mains), heaters=heaters)
        found = {saving.carrier: saving.cost for saving in sheet_of(surveyed_forecast(both), []).savings}
        self.assertEqual(set(found), {"electricity", "gas"})
        self.assertIsNone(found["gas"])
        self.assertIsNotNone(found["electricity"])

    def test_rooms_held_all_day_have_nothing_to_type(self) -> None:
        sheet = sheet_of(surveyed_forecast(drawn_home()), [])
        self.assertEqual((sheet.starts, sheet.finishes, sheet.runs), ((), (), ()))


if __name__ == "__main__":
    unittest.main()
