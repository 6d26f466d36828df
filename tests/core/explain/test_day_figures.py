"""A day's figures against what their own givens say, on surveyed rooms in steady cold."""

import unittest
from dataclasses import replace
from decimal import Decimal

import numpy as np

from tests.drawn import drawn_home
from tests.figures import decimals_by_unit
from tests.forecasts import surveyed_forecast
from tests.homes import small_home
from warmeter.core.errors import NotKnowable
from warmeter.core.explain.day_figures import figure_of_day
from warmeter.core.explain.lead_figure import loss_and_store
from warmeter.core.figure import Figure
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Source, SplitUnit

FORECAST = surveyed_forecast(small_home())


def figure(key: str) -> Figure:
    return figure_of_day(FORECAST, [], key)


def given(of: Figure, symbol: str) -> float:
    return next(each.value for each in of.inputs if each.symbol == symbol)


def electric_pair() -> Home:
    """Return the drawn home with a direct heater in each room at the two rates."""
    home = drawn_home()
    return replace(
        home,
        sources=(Source(id="boiler", name="Mains", kind="direct"),),
        heaters=tuple(replace(heater, kind="electric_panel") for heater in home.heaters),
        tariffs=small_home().tariffs,
    )


class Money(unittest.TestCase):
    def test_a_colder_day_costs_its_loss_more_at_the_mean_price(self) -> None:
        cost, room = figure("cost"), FORECAST.rooms[0]
        loss, _ = loss_and_store(room)
        assert room.costed.cost is not None
        price = room.costed.cost.value / room.costed.drawn_kwh.value
        colder, higher = cost.sensitivities
        self.assertAlmostEqual(colder.change, 3 * loss * 24 / 1000 * price, places=6)
        self.assertAlmostEqual(higher.change, 0.1 * (cost.value or 0), places=6)
        self.assertAlmostEqual(sum(each.value for each in cost.inputs), room.costed.drawn_kwh.value, places=2)
        self.assertIn("kWh · 0.10", cost.substituted)

    def test_of_two_surveyed_rooms_the_one_that_costs_more_doubt_is_to_be_measured_next(self) -> None:
        forecast = surveyed_forecast(electric_pair())
        doubt = {r.room.name: r.costed.cost.high - r.costed.cost.low for r in forecast.rooms if r.costed.cost}
        wider = max(doubt, key=lambda name: doubt[name])
        note = figure_of_day(forecast, [], "cost").note
        self.assertIn(f"Measure {wider} next: it is only surveyed", note)
        self.assertNotIn("Measure", figure("cost").note, "one room alone is no choice")

    def test_money_is_refused_with_what_is_missing(self) -> None:
        no_tariff = surveyed_forecast(replace(small_home(), tariffs=()))
        no_fuel_price = surveyed_forecast(drawn_home())
        for forecast, words in ((no_tariff, "no prices"), (no_fuel_price, "Gas has no price, so the heat of Den")):
            for key in ("cost", "saving"):
                with self.subTest(words, key=key), self.assertRaisesRegex(NotKnowable, words):
                    figure_of_day(forecast, [], key)

    def test_saving_stands_beside_the_closed_form_of_its_longest_setback(self) -> None:
        saving, room = figure("saving"), FORECAST.rooms[0]
        (hand,) = saving.alternatives
        # 00:00 to 07:00 and 22:00 to 24:00 are one night.
        self.assertEqual(hand.title, "Study by hand, 9.0 h at 16.0 °C")
        assert room.saving.held.cost is not None and room.saving.written.cost is not None
        self.assertAlmostEqual(
            saving.value or 0, room.saving.held.cost.value - room.saving.written.cost.value, places=6
        )
        self.assertAlmostEqual(given(saving, "ΔE"), room.saving.saved_kwh.value)


class Decimals(unittest.TestCase):
    def test_each_unit_has_its_own(self) -> None:
        for key, expected in (
            ("cost", {("GBP", 2), ("kWh", 2)}),
            ("electricity", {("kWh", 1), ("", 2)}),
            ("shortfall", {("K·h", 1)}),
            ("saving", {("GBP a day", 2), ("kWh", 2), ("kWh heat", 2)}),
        ):
            with self.subTest(key):
                self.assertEqual(decimals_by_unit(figure(key)), expected)
        gas = figure_of_day(surveyed_forecast(drawn_home()), [], "fuel.boiler")
        self.assertEqual(decimals_by_unit(gas), {("m³", 2), ("kWh", 1), ("", 3), ("kWh/m³", 2)})


class Energy(unittest.TestCase):
    def test_the_plain_balance_stands_beside_the_electricity(self) -> None:
        electricity, room = figure("electricity"), FORECAST.rooms[0]
        loss, _ = loss_and_store(room)
        excess = float(room.predicted_c.mean()) - 2.0
        balance = (loss * excess - float(room.model.gain_w[0])) * 24 / 1000
        self.assertAlmostEqual(electricity.alternatives[0].value or 0, balance, places=6)
        self.assertEqual(given(electricity, "COP"), 1.0)
        self.assertAlmostEqual(electricity.value or 0, given(electricity, "Q"))

    def test_a_split_unit_draws_its_heat_over_its_cop_at_that_cold(self) -> None:
        home = small_home()
        unit = replace(home.heaters[0], kind="split_unit", split=SplitUnit(cop=4.0, cop_slope_1_k=0.02))
        electricity = figure_of_day(surveyed_forecast(replace(home, heaters=(unit,))), [], "electricity")
        # 5 K under the rating point: 4.0 less 2 % a kelvin.
        self.assertAlmostEqual(given(electricity, "COP"), 4.0 * (1 - 5 * 0.02), delta=0.15)

    def test_a_fuel_s_figure_is_heat_over_efficiency_and_energy_content(self) -> None:
        forecast = surveyed_forecast(drawn_home())
        gas = figure_of_day(forecast, [], "fuel.boiler")
        self.assertAlmostEqual(gas.value or 0, given(gas, "Q") / (given(gas, "η") * given(gas, "e")), places=6)
        self.assertEqual((given(gas, "e"), gas.unit, gas.title), (11.0, "m³", "Gas for heating, Boiler"))
        self.assertEqual(next(each for each in gas.inputs if each.symbol == "e").origin, "assumed")
        home = drawn_home()
        typed = replace(home, sources=(replace(home.sources[0], fuel_kwh=10.0, fuel_price=Decimal("1")),))
        priced = figure_of_day(surveyed_forecast(typed), [], "fuel.boiler")
        self.assertEqual(next(each for each in priced.inputs if each.symbol == "e").origin, "typed")
        with self.assertRaisesRegex(NotKnowable, "No room of this home is heated by electricity"):
            figure_of_day(forecast, [], "electricity")
        with self.assertRaises(NotKnowable):
            figure("fuel.mains")

    def test_degree_hours_and_hours_beyond_the_wanted(self) -> None:
        shortfall, room = figure("shortfall"), FORECAST.rooms[0]
        gap = room.wanted_c - room.predicted_c
        self.assertAlmostEqual(shortfall.value or 0, float(np.maximum(gap, 0).sum()) / 60, places=6)
        self.assertEqual(shortfall.substituted, f"Study {shortfall.value:.1f}")
        with self.assertRaisesRegex(NotKnowable, "Nothing cools"):
            figure("over")

    def test_over_the_cooling_limit_is_counted_where_something_cools(self) -> None:
        home = small_home()
        weak = replace(home.heaters[0], kind="split_unit", split=SplitUnit(cooling_w=300.0))
        hot = replace(home, heaters=(weak,), levels=tuple(replace(level, cooling_c=24.0) for level in home.levels))
        forecast = surveyed_forecast(hot, outdoor_c=38.0)
        over = figure_of_day(forecast, [], "over")
        excess = np.maximum(forecast.rooms[0].predicted_c - 24.0, 0.0).sum() / 60
        self.assertAlmostEqual(over.value or 0, float(excess), places=6)
        self.assertGreater(over.value or 0, 5.0)


if __name__ == "__main__":
    unittest.main()
