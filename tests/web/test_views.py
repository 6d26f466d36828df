"""Views of a fit and a machine: ready strings that say what the numbers say."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.thermal.test_identify import made_log
from tests.drawn import drawn_home
from tests.forecasts import surveyed_forecast
from tests.homes import small_home
from warmeter.core.building.losses import prior_of, surveyed_room
from warmeter.core.explain.settings_sheet import sheet_of
from warmeter.core.forecast.setback_leads import setback_leads
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.identify import fit_room
from warmeter.core.thermal.room_fit import Estimate, RoomFit, RoomLog, StoredFit, narrowed_by, range_of, total_of
from warmeter.core.timegrid import LocalClock
from warmeter.core.warmup.lead import Lead
from warmeter.web import format as show
from warmeter.web.sheet.view import sheet_view
from warmeter.web.warmup.view import _lead_cell, _means, estimate_rows, fit_strip, sentence_of

LONDON = LocalClock("Europe/London")


class SheetWords(unittest.TestCase):
    def test_a_saving_without_a_price_is_told_in_its_carrier_and_never_as_no_money(self) -> None:
        gas_home = replace(drawn_home(), tariffs=small_home().tariffs)
        forecast = surveyed_forecast(gas_home)
        (words,) = sheet_view(sheet_of(forecast, []), forecast).savings
        self.assertIn("kWh of gas", words)
        self.assertIn("gas has no price yet", words)
        self.assertNotIn("£", words)

    def test_money_and_energy_that_go_different_ways_are_told_apart(self) -> None:
        # Cheap hours at night: heat saved then is bought back in the morning at three times the price.
        forecast = surveyed_forecast(small_home())
        (words,) = sheet_view(sheet_of(forecast, []), forecast).savings
        (saving,) = sheet_of(forecast, []).savings
        assert saving.cost is not None
        self.assertTrue(saving.cost.value < 0 < saving.kwh.value)
        low, high = show.money(-saving.cost.high, "GBP"), show.money(-saving.cost.low, "GBP")
        self.assertIn(f"cost {show.money(-saving.cost.value, 'GBP')} on a day like this ({low} to {high})", words)
        self.assertIn(f", though they save {saving.kwh.value:.1f} kWh of electricity, against", words)

    def test_what_saves_both_is_told_in_one_breath(self) -> None:
        home = small_home()
        flat = replace(home, tariffs=(replace(home.tariffs[0], rates=home.tariffs[0].rates[1:]),))
        forecast = surveyed_forecast(flat)
        (words,) = sheet_view(sheet_of(forecast, []), forecast).savings
        self.assertRegex(
            words, r"^The setbacks save £\d\.\d\d on a day like this \(.*\) and \d\.\d kWh of electricity, ag"
        )


class FitViews(unittest.TestCase):
    home: Home
    room: Room
    heater: Heater
    log: RoomLog
    fit: RoomFit

    @classmethod
    def setUpClass(cls) -> None:
        cls.home = small_home()
        cls.room = cls.home.rooms[0]
        cls.heater = cls.home.heaters[0]
        cls.log = made_log(6)
        prior = prior_of(cls.home, cls.room)
        cls.fit = fit_room(cls.log, prior, full_heat_w=2200.0)

    def with_watts(self, rated_heat_w: float) -> Home:
        """Return the home with another heater."""
        return replace(self.home, heaters=(replace(self.heater, rated_heat_w=rated_heat_w),))

    def test_rows_with_watts_and_without(self) -> None:
        names = [row.name for row in estimate_rows(self.fit, self.home, self.room)]
        self.assertEqual(names[0], "Heat loss")
        without = [row.unit for row in estimate_rows(replace(self.fit, watts_known=False), self.home, self.room)]
        self.assertTrue(set(without) <= {"h", "min"})

    def test_a_survey_outside_the_range_is_marked_apart(self) -> None:
        rows = {row.name: row for row in estimate_rows(self.fit, self.home, self.room)}
        survey = surveyed_room(self.home, self.room).loss_w_k
        loss = self.fit.loss_w_k
        self.assertEqual(rows["Heat loss"].is_apart, not loss.low <= survey <= loss.high)
        same = replace(self.fit, loss_w_k=Estimate(value=survey, low=survey - 1, high=survey + 1))
        self.assertFalse(estimate_rows(same, self.home, self.room)[0].is_apart)

    def test_the_sentence_tells_a_model_that_is_not_fit_for_use(self) -> None:
        self.assertNotIn("not fit", sentence_of(self.fit))
        bad = replace(self.fit, held_back_rmse_k=2.0, mean_rmse_k=1.0)
        self.assertIn("Nothing is worked out", sentence_of(bad))
        self.assertFalse(bad.is_fit_for_use)

    def test_lead_cells(self) -> None:
        lead = Lead(best=85.0, low=70.0, high=None, cautious=95.0, late_share=0.1)
        self.assertEqual(_lead_cell(lead), ("85", "70, or not reached in time"))
        self.assertEqual(_lead_cell(replace(lead, best=None)), ("not reached in time", ""))
        weak = replace(lead, best=None, reach_c=17.24)
        self.assertEqual(_lead_cell(weak), ("too small", ""))
        self.assertEqual(show.lead_time(weak, self.home), "too small, holds 17.2")

    def test_leads_without_watts_do_not_hang_on_the_typed_watts(self) -> None:
        blind = replace(self.fit, watts_known=False, full_heat_w=2200.0)
        tables = [setback_leads(blind, self.heater, self.with_watts(w), 20.0) for w in (900.0, 9000.0)]
        self.assertEqual(tables[0], tables[1])
        typed = [setback_leads(self.fit, self.heater, self.with_watts(w), 20.0) for w in (2000.0, 4000.0)]
        self.assertNotEqual(typed[0], typed[1])

    def test_the_strip_draws_no_more_points_than_pixels_and_keeps_gaps(self) -> None:
        stored = StoredFit(fit=self.fit, log_start_ms=1_767_571_200_000, step_s=300.0, at_ms=0, revision=1)
        drawn = fit_strip(self.log, stored, self.home, LONDON, 792)
        line = next(m for m in drawn.marks if m.attributes.get("class") == "wm-temp")
        self.assertGreaterEqual(line.attributes["d"].count("M"), 2, "the gap parts the line")
        self.assertLess(line.attributes["d"].count("L"), 700)

    def test_means_over_half_heard_stretches_are_gaps(self) -> None:
        values = np.array([1.0, 3.0, np.nan, np.nan, 5.0, np.nan, 7.0])
        np.testing.assert_array_equal(_means(values, 2), [2.0, np.nan, 5.0])


class Totals(unittest.TestCase):
    def test_rooms_that_err_each_in_their_own_way_even_out(self) -> None:
        rng = np.random.default_rng(8)
        parts = [range_of(np.append(3.0, rng.normal(3.0, 1.0, 4000))) for _ in range(9)]
        total = total_of(parts)
        self.assertEqual(total.value, 27.0)
        self.assertAlmostEqual(total.high - total.low, 2 * 1.96 * 3.0, delta=0.4)

    def test_what_they_have_in_common_adds_up(self) -> None:
        shared = np.append(3.0, np.random.default_rng(8).normal(3.0, 1.0, 4000))
        total = total_of([range_of(shared)] * 4)
        self.assertAlmostEqual(total.high - total.low, 4 * 2 * 1.96, delta=0.6)

    def test_the_widest_room_narrows_most(self) -> None:
        rng = np.random.default_rng(2)
        parts = [range_of(np.append(5.0, rng.normal(5.0, sd, 4000))) for sd in (0.5, 3.0, 1.0)]
        narrowed = narrowed_by(parts)
        self.assertEqual(int(np.argmax(narrowed)), 1)
        before, after = np.sqrt(0.25 + 9 + 1), np.sqrt(0.25 + 1)
        self.assertAlmostEqual(narrowed[1], 1.96 * (before - after), delta=0.3)

    def test_nothing_sums_to_nought(self) -> None:
        self.assertEqual(total_of([]).value, 0)
