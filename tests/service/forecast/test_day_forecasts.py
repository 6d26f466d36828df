"""A home's day from its readings: weather, prices, states, savings, machines and the sheet."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

import numpy as np

from tests.homes import small_home, with_day
from tests.logs import START_MS, machine_csv, room_csv
from tests.served import fresh_app
from warmeter.core.appliance.machine_settings import rounded_setting
from warmeter.core.errors import NotKnowable
from warmeter.core.explain.day_figures import figure_of_day
from warmeter.core.explain.settings_sheet import one_a_zone, sheet_of
from warmeter.core.forecast.day_forecast import DayForecast, cost_with_leads, totals_of
from warmeter.core.forecast.from_now import expected_from
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Source
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.signature.tuner import Setting
from warmeter.core.timegrid import from_ms
from warmeter.service.app import Person
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.gaps import day_gaps
from warmeter.service.forecast.outdoor_forecast import TypedWeather
from warmeter.service.forecast.run_schedules import run_schedule
from warmeter.service.homes import editing
from warmeter.service.jobs.kinds import run_job
from warmeter.service.readings import logs
from warmeter.service.readings.room_logs import room_log
from warmeter.service.signatures.machines import cost_between, machine_record

ANN, TOMORROW = Person("Ann"), date(2026, 1, 12)


class WithHome(unittest.TestCase):
    room_text, machine_text = room_csv(7), machine_csv(5)

    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, small_home(), ANN)

    def home(self) -> tuple[Home, int]:
        return self.app.homes.load("home1")

    def read_in(self, text: str) -> None:
        home, _ = self.home()
        upload = logs.keep_upload(self.app, "x.csv", [text.encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)

    def forecast(self, on: date = TOMORROW, typed: TypedWeather | None = None, home: Home | None = None) -> DayForecast:
        stored, revision = self.home()
        return day_forecast(self.app, home or stored, revision, on, typed)


class Weather(WithHome):
    def test_without_any_it_says_what_to_type(self) -> None:
        with self.assertRaisesRegex(NotKnowable, "Type the lowest and highest"):
            self.forecast()

    def test_typed_temperatures_serve_without_any_log(self) -> None:
        forecast = self.forecast(typed=TypedWeather(-3.0, 5.0))
        self.assertEqual(forecast.outdoor.origin, "typed")
        self.assertAlmostEqual(float(forecast.outdoor_expected_c.min()), -3.0, places=6)
        self.assertIsNone(forecast.rooms[0].fit)
        self.assertGreater(forecast.rooms[0].leads[0].lead.best or 0, 0)

    def test_like_yesterday_repeats_the_last_day_minute_by_minute(self) -> None:
        self.read_in(self.room_text)
        forecast = self.forecast()
        self.assertEqual(forecast.outdoor.origin, "like yesterday")
        before = self.forecast(date(2026, 1, 11))
        seen = ~np.isnan(before.outdoor_measured_c)
        np.testing.assert_allclose(
            forecast.outdoor_expected_c[seen][:1400], before.outdoor_measured_c[seen][:1400], atol=1e-9
        )

    def test_a_forecast_that_was_read_in_comes_first(self) -> None:
        self.read_in(self.room_text)
        hours = [f"{from_ms(START_MS + k * 3_600_000):%Y-%m-%d %H:%M},{5 + k % 3}" for k in range(9 * 24)]
        self.read_in("time,Outdoor forecast °C\n" + "\n".join(hours) + "\n")
        home, _ = self.home()
        self.app.homes.set_as_of(home.id, START_MS + 7 * 86_400_000)
        forecast = self.forecast()
        self.assertEqual(forecast.outdoor.origin, "forecast imported")
        self.assertAlmostEqual(float(forecast.outdoor_expected_c[120]), 7.0, places=6)

    def test_a_forecast_that_begins_after_the_log_ends_leaves_no_hole(self) -> None:
        self.read_in(self.room_text)
        hours = [f"{from_ms(START_MS + (170 + k) * 3_600_000):%Y-%m-%d %H:%M},9" for k in range(40)]
        self.read_in("time,Outdoor forecast °C\n" + "\n".join(hours) + "\n")
        self.app.homes.set_as_of("home1", START_MS + 172 * 3_600_000)
        forecast = self.forecast()
        self.assertEqual(forecast.outdoor.origin, "forecast imported")
        # Log and forecast both stand at this: nothing between may fall to a number that nobody gave.
        self.assertGreaterEqual(float(forecast.rooms[0].stretch.outdoor_c[-1440:].min()), 9.0 - 1e-9)

    def test_what_was_measured_is_certain(self) -> None:
        self.read_in(self.room_text)
        forecast = self.forecast(date(2026, 1, 9))
        self.assertFalse(np.isnan(forecast.outdoor_measured_c).any())
        self.assertFalse(np.isnan(forecast.rooms[0].measured_c).any())
        self.assertEqual(forecast.rooms[0].stretch.certain, forecast.rooms[0].stretch.minutes + 1)


class Days(WithHome):
    def setUp(self) -> None:
        super().setUp()
        self.read_in(self.room_text)

    def test_the_wall_clock_is_followed_on_days_of_23_and_25_hours(self) -> None:
        for on, minutes, start in (
            (date(2026, 3, 29), 1380, 360),
            (date(2026, 10, 25), 1500, 480),
            (date(2026, 1, 12), 1440, 420),
        ):
            forecast = self.forecast(on, TypedWeather(0.0, 8.0))
            block = forecast.rooms[0].blocks[1]
            self.assertEqual(forecast.minutes, minutes)
            self.assertEqual((block.from_ms - forecast.day.start_ms) // 60_000, start)

    def test_costs_are_the_sum_over_rates_and_none_without_a_tariff(self) -> None:
        room = self.forecast().rooms[0]
        assert room.costed.cost is not None
        self.assertAlmostEqual(
            float(sum(cost for _, _, cost, _ in room.costed.by_rate)), room.costed.cost.value, places=4
        )
        self.assertAlmostEqual(
            float(sum(kwh for _, kwh, _, _ in room.costed.by_rate)), room.costed.drawn_kwh.value, places=4
        )
        bare = self.forecast(home=replace(self.home()[0], tariffs=())).rooms[0]
        self.assertIsNone(bare.costed.cost)
        self.assertIsNone(bare.saving.saved_cost)

    def test_a_heat_pump_needs_less_electricity_for_the_same_heat(self) -> None:
        home = self.home()[0]
        pump = replace(home, sources=(Source(id="mains", name="Pump", kind="heat_pump", cop_points=((0.0, 3.0),)),))
        direct, pumped = self.forecast(home=home).rooms[0].costed, self.forecast(home=pump).rooms[0].costed
        self.assertAlmostEqual(direct.heat_kwh.value, pumped.heat_kwh.value)
        self.assertAlmostEqual(direct.drawn_kwh.value, 3 * pumped.drawn_kwh.value)

    def boiler(self, price: Decimal | None) -> DayForecast:
        """Return the day with the home's heat from a gas boiler of 90 %, at a price a cubic metre of 11 kWh."""
        home, _ = self.home()
        source = replace(home.sources[0], kind="boiler", cop_points=(), efficiency=0.9, fuel_price=price)
        return self.forecast(home=replace(home, sources=(source, *home.sources[1:])))

    def test_gas_costs_what_gas_costs_whatever_the_tariff_says(self) -> None:
        room = self.boiler(Decimal("0.99")).rooms[0].costed
        self.assertEqual(room.fuel, "gas")
        self.assertAlmostEqual(room.drawn_kwh.value, room.heat_kwh.value / 0.9, places=6)
        self.assertAlmostEqual(room.cost.value if room.cost else 0, room.drawn_kwh.value * 0.09, places=6)
        self.assertEqual([row[0] for row in room.by_rate], ["gas"])
        totals = totals_of(self.boiler(Decimal("0.99")))
        self.assertIsNone(totals.electric_kwh)
        self.assertAlmostEqual(totals.cost.value if totals.cost else 0, room.cost.value if room.cost else 1, places=6)

    def test_gas_is_told_in_cubic_metres_by_what_a_cubic_metre_holds(self) -> None:
        forecast = self.boiler(None)
        (use,) = totals_of(forecast).fuels
        self.assertEqual((use.name, use.unit), ("gas", "m³"))
        self.assertAlmostEqual(use.amount.value, forecast.rooms[0].costed.heat_kwh.value / 0.9 / 11.0, places=6)
        shown = figure_of_day(forecast, (), f"fuel.{use.source.id}")
        self.assertEqual((shown.unit, shown.value), ("m³", use.amount.value))
        with self.assertRaisesRegex(NotKnowable, "burns nothing"):
            figure_of_day(self.forecast(), (), "fuel.mains")

    def test_a_lead_that_no_start_can_keep_says_that_the_heater_is_too_small(self) -> None:
        home, _ = self.home()
        weak = replace(home, heaters=tuple(replace(h, rated_heat_w=150.0) for h in home.heaters))
        typed = TypedWeather(-12.0, -8.0)
        forecast = self.forecast(typed=typed, home=weak)
        leads = [x.lead for x in forecast.rooms[0].leads]
        self.assertTrue(leads and all(x.best is None and x.reach_c is not None and x.reach_c < 16 for x in leads))
        self.assertTrue(all(s.start_min is None and s.lead.reach_c is not None for s in sheet_of(forecast, ()).starts))
        _, (room, *_) = day_gaps(self.app, weak, 1, forecast.day.date, typed)
        assert room.strategy is not None
        self.assertIn("heater is too small", room.strategy.reason)
        self.assertTrue(any(g.setback.lead is not None and g.setback.lead.reach_c is not None for g in room.gaps))

    def test_what_has_no_price_has_no_money(self) -> None:
        forecast = self.boiler(None)
        self.assertIsNone(forecast.rooms[0].costed.cost)
        self.assertIsNone(totals_of(forecast).cost)
        self.assertIsNone(cost_with_leads(forecast, forecast.rooms[0], {}))
        with self.assertRaisesRegex(NotKnowable, "Gas has no price"):
            figure_of_day(forecast, (), "cost")
        with self.assertRaisesRegex(NotKnowable, "No room of this home is heated by electricity"):
            figure_of_day(forecast, (), "electricity")

    def test_a_room_predicted_under_its_guard_limit_is_a_danger(self) -> None:
        home, _ = self.home()
        weak = replace(home, heaters=tuple(replace(h, rated_heat_w=150.0) for h in home.heaters))
        cold = TypedWeather(-22.0, -18.0)
        room = self.forecast(typed=cold, home=weak).rooms[0]
        under, small = room.under, room.too_small
        assert under is not None and small is not None
        self.assertLess(under.lowest_c, home.guard.low_c)
        self.assertLess(small.reach_c, small.wanted_c)
        mild = self.forecast(typed=TypedWeather(5.0, 9.0)).rooms[0]
        self.assertEqual((mild.under, mild.too_small), (None, None))

    def test_ranges_hold_the_best_and_narrow_with_a_fit(self) -> None:
        wide = self.forecast().rooms[0].costed.drawn_kwh
        run_job(self.app, self.app.work.enqueue("home1", "fit", "study", 2, 0))
        room = self.forecast().rooms[0]
        narrow = room.costed.drawn_kwh
        self.assertTrue(narrow.low <= narrow.value <= narrow.high)
        self.assertLess(narrow.high - narrow.low, wide.high - wide.low)
        self.assertIsNotNone(room.fit)

    def test_an_earlier_start_costs_more_and_a_setback_saves_energy(self) -> None:
        home = self.home()[0]
        flat = replace(home, tariffs=(replace(home.tariffs[0], rates=home.tariffs[0].rates[1:]),))
        forecast = self.forecast(home=flat)
        room = forecast.rooms[0]
        start = room.blocks[1].from_ms
        late, early = (cost_with_leads(forecast, room, {start: minutes}) for minutes in (30, 180))
        assert late is not None and early is not None
        self.assertGreater(early, late)
        self.assertGreater(room.saving.saved_kwh.value, 0)

    def test_no_setback_saves_nothing(self) -> None:
        flat = replace(self.home()[0])
        flat = with_day(flat, ChangePoint(start_min=0, level_id="in-use"))
        room = self.forecast(home=flat).rooms[0]
        self.assertEqual(room.leads, ())
        self.assertAlmostEqual(room.saving.saved_kwh.value, 0.0, places=9)

    def test_a_room_without_logs_of_its_own_says_what_is_missing(self) -> None:
        home = self.home()[0]
        other = replace(home.rooms[0], id="den", name="Den")
        with self.assertRaisesRegex(NotKnowable, "No room temperature and no heat of Den"):
            room_log(self.app, replace(home, rooms=(*home.rooms, other)), other)


class Sheets(WithHome):
    def setUp(self) -> None:
        super().setUp()
        self.read_in(self.room_text)
        self.read_in(self.machine_text)

    def test_starts_are_rounded_earlier_and_settings_to_the_devices_steps(self) -> None:
        forecast = self.forecast()
        record = machine_record(self.app, forecast.home, "washer")
        plan = run_schedule(self.app, forecast.home, record, TOMORROW)
        sheet = sheet_of(forecast, [(record, plan)])
        start = sheet.starts[0]
        self.assertEqual((start.start_min or 0) % 15, 0)
        self.assertLessEqual(start.start_min or 0, 420 - (start.exact_min or 0))
        self.assertIsNotNone(start.rounding_cost)
        finish = sheet.finishes[0]
        self.assertEqual((finish.sentence.verdict.missed, finish.sentence.verdict.false), (0, 0))
        self.assertEqual(finish.sentence.setting.wait_s % 60, 0)
        self.assertGreaterEqual(finish.sentence.setting.wait_s, finish.exact.wait_s)
        self.assertGreaterEqual(sheet.runs[0].saved, Decimal(0))

    def test_a_zone_of_several_rooms_starts_with_the_room_that_needs_it_first(self) -> None:
        quick = replace(sheet_of(self.forecast(), []).starts[0], start_min=345, day_before=False)
        slow, evening = replace(quick, start_min=300), replace(quick, start_min=1410, day_before=True)
        hopeless = replace(quick, start_min=None)
        self.assertEqual(one_a_zone([quick, slow]), (slow,))
        self.assertEqual(one_a_zone([evening, slow, quick]), (evening,), "half past eleven of the evening before")
        self.assertEqual(one_a_zone([slow, evening, hopeless]), (hopeless,), "a room that cannot be warm is told first")
        later = replace(quick, block=replace(quick.block, from_ms=quick.block.from_ms + 3_600_000))
        self.assertEqual(one_a_zone([quick, later]), (quick, later), "each period has its own start")

    def test_the_cheapest_start_lies_in_the_cheap_hours_and_within_the_window(self) -> None:
        home = self.home()[0]
        record = machine_record(self.app, home, "washer")
        plan = run_schedule(self.app, home, record, TOMORROW)
        self.assertLess(plan.cheapest.start_min, 360)
        self.assertEqual(plan.planned.start_min if plan.planned else None, 1080)
        assert record.typical is not None
        self.assertAlmostEqual(float(plan.profile_kwh.sum()), record.features(record.typical).energy_kwh, places=6)
        evening = replace(home, appliances=(replace(home.appliances[0], earliest_min=1200, latest_end_min=1800),))
        late = run_schedule(self.app, evening, machine_record(self.app, evening, "washer"), TOMORROW)
        self.assertEqual(late.cheapest.start_min, 1440, "after midnight it is cheap again")
        narrow = replace(home, appliances=(replace(home.appliances[0], earliest_min=600, latest_end_min=630),))
        with self.assertRaisesRegex(NotKnowable, "does not fit"):
            run_schedule(self.app, narrow, machine_record(self.app, narrow, "washer"), TOMORROW)

    def test_what_starts_by_itself_is_given_no_start(self) -> None:
        self.read_in(self.machine_text)
        stored, _ = self.home()
        for kind in ("fridge", "tub", "pump"):
            home = replace(stored, appliances=tuple(replace(a, kind=kind) for a in stored.appliances))
            with self.subTest(kind), self.assertRaisesRegex(NotKnowable, "by itself"):
                run_schedule(self.app, home, machine_record(self.app, home, home.appliances[0].id), TOMORROW)

    def test_run_costs_add_up_to_price_times_energy_at_a_flat_tariff(self) -> None:
        home = self.home()[0]
        flat = replace(
            home,
            tariffs=(
                replace(home.tariffs[0], rates=(replace(home.tariffs[0].rates[1], price_per_unit=Decimal("0.25")),)),
            ),
        )
        record = machine_record(self.app, flat, "washer")
        for cycle in record.found.cycles:
            cost = cost_between(self.app, flat, record, cycle.start, cycle.end)
            self.assertAlmostEqual(float(cost or 0), 0.25 * record.features(cycle).energy_kwh, places=9)

    def test_rounding(self) -> None:
        rounded = rounded_setting(Setting(threshold_w=6.4, wait_s=301.0), 0.5, 1.0)
        self.assertEqual((rounded.threshold_w, rounded.wait_s), (6.5, 360.0))
        self.assertEqual(rounded_setting(Setting(threshold_w=0.1, wait_s=1.0), 1.0, 0.5).threshold_w, 1.0)


class FromNow(WithHome):
    def test_a_room_that_is_as_it_was_expected_goes_on_as_expected(self) -> None:
        room = self.forecast(typed=TypedWeather(-3.0, 5.0)).rooms[0]
        for minute in (0, 300, 900):
            ahead = expected_from(room, minute, float(room.predicted_c[minute]))
            self.assertEqual(ahead.size, room.predicted_c.size - minute)
            # The heater's switching may fall otherwise within its band.
            self.assertLess(float(np.abs(ahead - room.predicted_c[minute:]).max()), room.model.control.band_k + 0.3)

    def test_a_warmer_room_stays_warmer_and_comes_nearer(self) -> None:
        room = self.forecast(typed=TypedWeather(-3.0, 5.0)).rooms[0]
        # Nothing heats in the hours after the evening's setback begins.
        rests = int(np.flatnonzero(room.heat_w > 0)[-1]) + 1
        start = float(room.predicted_c[rests])
        as_is, warmer = expected_from(room, rests, start), expected_from(room, rests, start + 1.0)
        over = warmer - as_is
        self.assertAlmostEqual(float(over[0]), 1.0)
        self.assertAlmostEqual(float(warmer[0]), start + 1.0)
        self.assertTrue(bool((np.diff(over) <= 1e-9).all()))
        self.assertTrue(bool((over >= 0).all()))
