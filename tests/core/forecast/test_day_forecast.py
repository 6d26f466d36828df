"""A day's forecast and its sums against the steady heat balance, the tariff and the fuel's own numbers."""

import unittest
from dataclasses import replace
from decimal import Decimal

import numpy as np

from tests.drawn import drawn_home
from tests.forecasts import surveyed_forecast
from tests.homes import small_home, with_day
from warmeter.core.explain.lead_figure import loss_and_store
from warmeter.core.forecast.day_forecast import cost_with_leads, totals_of
from warmeter.core.home.plant import SplitUnit
from warmeter.core.home.tariffs import Rate
from warmeter.core.home.timetables import ChangePoint

HELD = with_day(small_home(), ChangePoint(start_min=0, level_id="in-use"))


class ADay(unittest.TestCase):
    def test_a_held_room_in_steady_cold_takes_what_it_loses(self) -> None:
        # As held for days: what walls still give or take on a first day is not in the balance.
        for outdoor_c in (-6.0, 2.0, 9.0):
            with self.subTest(outdoor_c=outdoor_c):
                room = surveyed_forecast(HELD, outdoor_c, spread_k=0.0).rooms[0]
                loss, _ = loss_and_store(room)
                rc = room.surveyed
                # Of the heat that the heater radiates into the walls a part leaves without having warmed the air.
                away = (1 - rc.convective) * rc.fabric_out_w_k / (rc.air_fabric_w_k + rc.fabric_out_w_k)
                mean_c = float(room.predicted_c.mean())
                steady = (loss * (mean_c - outdoor_c) - float(room.model.gain_w[0])) / (1 - away) * 24 / 1000
                self.assertAlmostEqual(room.saving.held.heat_kwh.value / steady, 1.0, delta=0.02)
                self.assertAlmostEqual(float(room.predicted_c.mean()), 20.0, delta=0.3)
                self.assertAlmostEqual(float(room.heat_w.sum()) / 60_000, room.costed.heat_kwh.value, places=6)

    def test_a_direct_heater_draws_its_heat_and_pays_each_rate_for_its_hours(self) -> None:
        room = surveyed_forecast(HELD).rooms[0]
        self.assertAlmostEqual(room.costed.drawn_kwh.value, room.costed.heat_kwh.value, places=9)
        night = float(room.heat_w[:360].sum()) / 60_000
        day = float(room.heat_w[360:].sum()) / 60_000
        assert room.costed.cost is not None
        self.assertAlmostEqual(room.costed.cost.value, 0.10 * night + 0.30 * day, places=6)
        self.assertEqual([line.name for line in room.costed.by_rate], ["night", "day"])
        self.assertAlmostEqual(float(room.costed.by_rate[0].kwh), night, places=3)

    def test_what_the_setpoint_is_short_of_is_counted_and_the_range_holds_the_best(self) -> None:
        room = surveyed_forecast(small_home()).rooms[0]
        short = np.maximum(0.0, room.wanted_c - room.predicted_c).sum() / 60
        self.assertAlmostEqual(room.underheating_kh.value, float(short), places=6)
        for estimate in (room.underheating_kh, room.costed.drawn_kwh, room.saving.saved_kwh):
            self.assertTrue(estimate.low <= estimate.value <= estimate.high)
        self.assertTrue(np.isnan(room.measured_c).all())

    def test_a_setback_saves_energy_and_a_held_day_saves_nothing(self) -> None:
        self.assertGreater(surveyed_forecast(small_home()).rooms[0].saving.saved_kwh.value, 0.5)
        self.assertAlmostEqual(surveyed_forecast(HELD).rooms[0].saving.saved_kwh.value, 0.0, places=9)

    def test_starting_earlier_costs_more(self) -> None:
        home = small_home()
        flat = replace(home.tariffs[0], rates=(Rate(name="all day", price_per_unit=Decimal("0.30")),))
        forecast = surveyed_forecast(replace(home, tariffs=(flat,)))
        room = forecast.rooms[0]
        costs = [cost_with_leads(forecast, room, {room.leads[0].block.from_ms: lead}) for lead in (30.0, 120.0, 240.0)]
        assert costs[0] is not None and costs[1] is not None and costs[2] is not None
        self.assertLess(costs[0], costs[1])
        self.assertLess(costs[1], costs[2])
        unpriced = replace(forecast, prices=None)
        self.assertIsNone(cost_with_leads(unpriced, room, {}))


class Sums(unittest.TestCase):
    def test_without_prices_there_is_no_money_and_the_reason_is_told(self) -> None:
        forecast = surveyed_forecast(replace(small_home(), tariffs=()))
        totals = totals_of(forecast)
        self.assertEqual((totals.cost, totals.saved_cost, forecast.price_note), (None, None, "no tariff yet"))
        assert totals.electric_kwh is not None
        self.assertAlmostEqual(totals.electric_kwh.value, forecast.rooms[0].costed.drawn_kwh.value)

    def test_rooms_of_one_boiler_burn_together_in_the_unit_in_which_it_is_bought(self) -> None:
        home = drawn_home()
        forecast = surveyed_forecast(home)
        totals = totals_of(forecast)
        self.assertIsNone(totals.electric_kwh)
        self.assertIsNone(totals.cost, "gas has no price yet")
        (gas,) = totals.fuels
        drawn = sum(room.costed.drawn_kwh.value for room in forecast.rooms)
        heat = sum(room.costed.heat_kwh.value for room in forecast.rooms)
        self.assertAlmostEqual(gas.drawn_kwh.value, drawn, places=6)
        self.assertAlmostEqual(heat / drawn, 0.9, places=6)
        self.assertEqual((gas.name, gas.unit), ("gas", "m³"))
        self.assertAlmostEqual(gas.amount.value, drawn / 11.0, places=6)
        priced = replace(home, sources=(replace(home.sources[0], fuel_price=Decimal("1.10"), fuel_kwh=10.0),))
        paid = totals_of(surveyed_forecast(priced))
        assert paid.cost is not None
        self.assertAlmostEqual(paid.fuels[0].amount.value, drawn / 10.0, places=6)
        self.assertAlmostEqual(paid.cost.value, 1.10 * drawn / 10.0, places=6)

    def test_rooms_side_by_side_warm_each_other(self) -> None:
        home = drawn_home()
        cold = replace(home, levels=(*home.levels, replace(home.levels[0], id="low", name="Low", heating_c=14.0)))
        cold = replace(
            cold,
            zones=tuple(
                replace(
                    zone,
                    timetables=tuple(
                        replace(t, usual=(ChangePoint(start_min=0, level_id="low"),)) for t in zone.timetables
                    ),
                )
                if zone.id == "z-study"
                else zone
                for zone in home.zones
            ),
        )
        alike, beside_cold = surveyed_forecast(home).rooms[0], surveyed_forecast(cold).rooms[0]
        self.assertEqual(alike.room.id, "den")
        self.assertGreater(beside_cold.costed.heat_kwh.value, 1.01 * alike.costed.heat_kwh.value)

    def test_a_unit_that_cools_has_a_limit_to_be_over(self) -> None:
        self.assertIsNone(totals_of(surveyed_forecast(small_home())).overheating_kh)
        home = small_home()
        unit = replace(home.heaters[0], kind="split_unit", split=SplitUnit(cooling_w=2500.0))
        cooling = replace(home, heaters=(unit,), levels=tuple(replace(level, cooling_c=24.0) for level in home.levels))
        over = totals_of(surveyed_forecast(cooling, outdoor_c=32.0)).overheating_kh
        assert over is not None
        self.assertGreaterEqual(over.value, 0.0)
        room = surveyed_forecast(cooling, outdoor_c=32.0).rooms[0]
        self.assertLess(float(room.heat_w.min()), 0.0)
        self.assertGreater(room.costed.cold_kwh.value, 1.0)
        self.assertLess(float(room.predicted_c[-60:].max()), 25.0)


if __name__ == "__main__":
    unittest.main()
