"""A lead's working: worked again by hand from the givens that it shows."""

import math
import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from tests.figures import decimals_by_unit
from tests.forecasts import surveyed_forecast
from tests.homes import small_home
from warmeter.core.errors import NotKnowable
from warmeter.core.explain.lead_figure import lead_figure, loss_and_store, origin_of
from warmeter.core.figure import Figure

FORECAST = surveyed_forecast(small_home())


def given(figure: Figure, symbol: str) -> float:
    return next(each.value for each in figure.inputs if each.symbol == symbol)


class ALead(unittest.TestCase):
    def test_decimals_are_those_of_the_unit(self) -> None:
        figure = lead_figure(FORECAST, "z-study", 1)
        self.assertEqual(decimals_by_unit(figure), {("W/K", 1), ("Wh/K", 0), ("°C", 1), ("W", 0), ("min", 0)})

    def test_the_hand_calculations_follow_from_the_givens(self) -> None:
        figure = lead_figure(FORECAST, "z-study", 1)
        loss, store = given(figure, "H"), 3600 * given(figure, "C")
        start, target = given(figure, "θ₀"), given(figure, "θset")
        end = given(figure, "θe") + (given(figure, "P") + given(figure, "G")) / loss
        hand, coldest = figure.alternatives
        self.assertAlmostEqual(hand.value or 0, store / loss * math.log((end - start) / (end - target)) / 60, places=6)
        self.assertAlmostEqual(coldest.value or 0, end - (end - target) * math.exp(12 * 3600 * loss / store), places=6)
        self.assertEqual((target, given(figure, "θe"), given(figure, "P")), (20.0, 2.0, 2000.0))
        self.assertEqual({each.origin for each in figure.inputs}, {"surveyed", "forecast", "typed"})
        self.assertEqual((figure.key, figure.unit), ("lead.z-study.1", "min"))

    def test_what_it_would_change_is_the_closed_form_s_share_of_the_simulated_lead(self) -> None:
        figure = lead_figure(FORECAST, "z-study", 1)
        loss, store = given(figure, "H"), 3600 * given(figure, "C")
        power = given(figure, "P") + given(figure, "G")

        def lead_min(power_w: float, start_c: float, outdoor_c: float) -> float:
            end = outdoor_c + power_w / loss
            return store / loss * math.log((end - start_c) / (end - given(figure, "θset"))) / 60

        start = given(figure, "θ₀")
        base, best = lead_min(power, start, 2.0), figure.value or 0
        expected = {
            "outdoor 3 K colder": lead_min(power, start, -1.0),
            "room 1 K colder at the start": lead_min(power, start - 1, 2.0),
            "heater gives 15 % less": lead_min(0.85 * power, start, 2.0),
        }
        self.assertEqual({each.assumption for each in figure.sensitivities}, set(expected))
        for each in figure.sensitivities:
            self.assertAlmostEqual(each.change, (expected[each.assumption] - base) * best / base, places=6)
        changes = [each.change for each in figure.sensitivities]
        self.assertEqual(changes, sorted(changes, reverse=True))

    def test_a_heater_too_small_says_what_it_would_hold(self) -> None:
        home = small_home()
        weak = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=500.0),))
        figure = lead_figure(surveyed_forecast(weak), "z-study", 1)
        self.assertIsNone(figure.value)
        self.assertIn("The heater is too small", figure.note)
        self.assertEqual([each.key for each in figure.alternatives], ["hand"], "no start is cold enough to mend")
        self.assertIsNone(figure.alternatives[0].value)
        self.assertIn("does not pass 20.0 °C", figure.alternatives[0].substituted)

    def test_too_late_is_not_too_small(self) -> None:
        # 1.0 kW would hold some 21 °C: enough for ever, not enough in half a day from 16 °C.
        home = small_home()
        slow = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=850.0),))
        figure = lead_figure(surveyed_forecast(slow), "z-study", 1)
        self.assertIsNone(figure.value)
        self.assertIn("Even 12 h of full heat do not reach it in time", figure.note)

    def test_a_block_that_needs_none_is_refused(self) -> None:
        for zone_id, index in (("z-study", 0), ("z-study", 2), ("z-study", -1), ("z-study", 9), ("z-attic", 1)):
            with self.subTest(zone_id=zone_id, index=index), self.assertRaises(NotKnowable):
                lead_figure(FORECAST, zone_id, index)

    def test_loss_and_store_of_a_room_without_a_fit_are_the_survey_s(self) -> None:
        room = surveyed_forecast(drawn_home()).rooms[0]
        rc = room.surveyed
        self.assertEqual(loss_and_store(room), (rc.loss_w_k, rc.air_j_k + rc.fabric_j_k))
        self.assertEqual(origin_of(room), "surveyed")


if __name__ == "__main__":
    unittest.main()
