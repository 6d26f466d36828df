"""Standby and always-on: a year of a plug, changes by date, exact money, the night floor and what plugs leave of it."""

import unittest
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from tests.homes import small_home
from tests.logs import START_MS
from tests.served import fresh_app
from warmeter.core.home.machines import MachineKind
from warmeter.core.saving.simple import saving_of, simple_saving
from warmeter.core.saving.standby_switching import CutFacts, cut_or_leave
from warmeter.core.signature.standby_days import daily_standby, standby_steps
from warmeter.core.signature.standby_power import is_cut_at_times
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.water.store import WarmWater
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.service.signatures.per_load import per_load
from warmeter.service.signatures.standby import HomeStandby, cut_facts, home_standby
from warmeter.simulators.machines.labelled import labelled_log
from warmeter.web.signatures.always_on import always_on_view

ANN = Person("Ann")
FIRST = date(2026, 1, 5)


def quarter_hours(power_w: np.ndarray, heading: str) -> str:
    """Return a log by quarters of an hour from ``START_MS`` on; NaN is left empty."""
    lines = [f"time,{heading}"]
    lines += [
        f"{from_ms(START_MS + k * 900_000):%Y-%m-%d %H:%M},{'' if np.isnan(v) else f'{v:.3f}'}"
        for k, v in enumerate(power_w)
    ]
    return "\n".join(lines) + "\n"


class Days(unittest.TestCase):
    def test_a_rise_and_a_fall_are_dated_and_small_wanderings_are_not(self) -> None:
        rng = np.random.default_rng(1)
        daily = np.concatenate([np.full(60, 1.2), np.full(40, 3.4), np.full(50, 2.0)]) + rng.normal(0, 0.02, 150)
        daily[30:34] = np.nan
        steps = standby_steps(daily)
        self.assertEqual([s.day for s in steps], [60, 100])
        np.testing.assert_allclose([(s.before_w, s.after_w) for s in steps], [(1.2, 3.4), (3.4, 2.0)], atol=0.05)
        self.assertEqual(standby_steps(2.0 + rng.normal(0, 0.05, 200)), ())
        self.assertEqual(standby_steps(np.full(4, 1.0)), ())

    def test_a_day_hardly_heard_has_no_rest(self) -> None:
        power = np.full(2 * 96, 3.0)
        power[100:190] = np.nan
        day = np.arange(192) // 96
        np.testing.assert_array_equal(daily_standby(power, 900.0, day), [3.0, np.nan])


class Money(unittest.TestCase):
    def test_no_step_of_a_sum_is_rounded(self) -> None:
        found = simple_saving(
            power_w=1.7, hours_per_day=24, days_per_year=365, price_per_kwh=Decimal("0.26785"), cost=Decimal("17.99")
        )
        self.assertEqual(found.kwh_per_year, Decimal("14.892"))
        self.assertEqual(found.money_per_year, Decimal("14.892") * Decimal("0.26785"))
        self.assertEqual(found.payback_years, Decimal("17.99") / (Decimal("14.892") * Decimal("0.26785")))

    def test_nothing_saved_never_pays_back_and_nonsense_is_refused(self) -> None:
        self.assertIsNone(saving_of(Decimal(0), Decimal("0.3"), Decimal(5)).payback_years)
        self.assertIsNone(saving_of(Decimal(10), Decimal("-0.1"), Decimal(5)).payback_years)
        for wrong in ({"power_w": -1.0}, {"hours_per_day": 25.0}, {"days_per_year": 400.0}, {"cost": Decimal(-1)}):
            usual = {"power_w": 5.0, "hours_per_day": 2.0, "days_per_year": 300.0, "cost": Decimal(5)}
            with self.assertRaises(ValueError):
                simple_saving(**{**usual, **wrong}, price_per_kwh=Decimal("0.3"))  # type: ignore[arg-type]


class Water(unittest.TestCase):
    def test_heating_up_equals_small_steps_of_the_balance(self) -> None:
        tub = WarmWater(volume_l=900, loss_w_k=22.0)
        theta, seconds = 15.0, 0
        while theta < 38.0:
            theta += (3000.0 - 22.0 * (theta - 5.0)) / tub.heat_capacity_j_k * 10
            seconds += 10
        found = tub.heat_up_s(start_c=15.0, target_c=38.0, power_w=3000.0, ambient_c=5.0)
        self.assertAlmostEqual(found or 0, seconds, delta=60)

    def test_limits(self) -> None:
        tank = WarmWater(volume_l=200)
        self.assertEqual(tank.heat_up_s(start_c=60, target_c=50, power_w=0, ambient_c=20), 0.0)
        self.assertIsNone(tank.heat_up_s(start_c=20, target_c=50, power_w=0, ambient_c=20))
        self.assertEqual(tank.steady_c(0.0, 20.0), 20.0)
        leaky = WarmWater(volume_l=200, loss_w_k=50.0)
        self.assertEqual(leaky.steady_c(1000.0, 10.0), 30.0)
        self.assertIsNone(leaky.heat_up_s(start_c=20, target_c=30, power_w=1000, ambient_c=10))
        for wrong in ({"volume_l": 0.0}, {"volume_l": 10.0, "loss_w_k": -1.0}):
            with self.assertRaises(ValueError):
                WarmWater(**wrong)


class CuttingPlugs(unittest.TestCase):
    def test_the_plug_itself_is_counted_all_year_and_money_decides_only_where_it_may(self) -> None:
        for rest_w, facts, better in (
            (3.0, CutFacts(), "cut"),
            (0.4, CutFacts(), "leave"),
            (30.0, CutFacts(must_stay_on=True), "never cut"),
        ):
            found = cut_or_leave(
                rest_w=rest_w, rest_share=Decimal("0.9"), plug_own_w=0.5, price_per_kwh=Decimal("0.30"), facts=facts
            )
            self.assertEqual(found.better, better)
            self.assertAlmostEqual(float(found.leave_kwh), rest_w * 8.76 * 0.9, places=9)
            self.assertAlmostEqual(float(found.saved_money or 0), 0.30 * 8.76 * (0.9 * rest_w - 0.5), places=9)
        free = cut_or_leave(rest_w=3.0, rest_share=Decimal(1), plug_own_w=0.5, price_per_kwh=None, facts=CutFacts())
        self.assertIsNone(free.saved_money)
        with self.assertRaises(ValueError):
            cut_or_leave(rest_w=-1.0, rest_share=Decimal(1), plug_own_w=0.5, price_per_kwh=None, facts=CutFacts())

    def test_what_somebody_says_goes_before_what_is_usual(self) -> None:
        machine = replace(small_home().appliances[0], kind="washer")
        self.assertTrue(cut_facts(machine).locks_door and cut_facts(machine).is_unsafe_early)
        said = cut_facts(replace(machine, locks_door=False, loses_clock=True))
        self.assertEqual((said.locks_door, said.loses_clock, said.is_unsafe_early), (False, True, False))
        self.assertTrue(cut_facts(replace(machine, kind="freezer")).must_stay_on)


class AYear(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        home = small_home()
        editing.create_home(self.app, replace(home, tariffs=(replace(home.tariffs[0], valid_to=None),)), ANN)

    def take(self, content: str) -> None:
        """Read in a log as guessed."""
        home, _ = self.app.homes.load("home1")
        upload = logs.keep_upload(self.app, "x.csv", [content.encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)

    def found(self) -> HomeStandby:
        """Return what the home draws at rest."""
        return home_standby(self.app, self.app.homes.load("home1")[0])

    def test_a_year_of_a_plug_gives_watts_hours_money_and_the_date_of_a_rise(self) -> None:
        power = np.full(365 * 96, 1.2)
        power[200 * 96 :] = 3.4
        for day in range(0, 365, 2):
            power[day * 96 + 40 : day * 96 + 46] = 600.0
        self.take(quarter_hours(power, "Washer power W"))
        line = self.found().machines[0]
        self.assertAlmostEqual(line.now_w, 3.4, places=6)
        self.assertEqual([on for on, _ in line.steps], [FIRST + timedelta(days=200)])
        share = 1 - 183 * 6 / (365 * 96)
        self.assertAlmostEqual(float(line.share), share, delta=0.001)
        self.assertAlmostEqual(float(line.kwh_per_year), 3.4 * 8.76 * share, delta=0.03)
        price = (6 * 0.10 + 18 * 0.30) / 24  # night and day of the home's tariff
        self.assertAlmostEqual(float(line.money_per_year or 0), float(line.kwh_per_year) * price, delta=0.01)

    def test_with_a_year_of_the_meter_money_is_that_of_its_bills(self) -> None:
        self.take(quarter_hours(np.full(400 * 96, 12.0), "Washer power W"))
        self.take(quarter_hours(np.full(400 * 96, 0.1), "Grid import kWh"))
        found = self.found()
        for money in (found.machines[0].money, found.total_money):
            self.assertTrue(money.is_billed)
            self.assertEqual((money.month_on, money.month_days), (date(2027, 1, 1), 31))
            # 3 Wh an interval at 0.10 for 24 of them and 0.30 for 72, each month's lines to the cent.
            a_day = 0.003 * (24 * 0.10 + 72 * 0.30)
            self.assertAlmostEqual(float(money.month or 0), 31 * a_day, delta=0.02)
            self.assertAlmostEqual(float(money.year or 0), 365 * a_day, delta=0.24)

    def test_the_meters_night_less_the_plugs_is_what_nobody_has_measured(self) -> None:
        self.take(quarter_hours(np.full(20 * 96, 12.0), "Washer power W"))
        hours = np.arange(20 * 96) / 4 % 24
        cold = 3.0 + 4.0 * np.sin(
            np.arange(20 * 96) / 96
        )  # the home heats with electricity: its nights must not follow
        self.take(quarter_hours(cold, "Outdoor temperature °C"))
        self.take(quarter_hours(np.where(hours < 6, 0.03, 0.4), "Grid import kWh"))
        meter = self.found().meter
        assert meter is not None
        self.assertAlmostEqual(meter.floor.floor_w or 0, 120.0, places=6)
        self.assertAlmostEqual(meter.unexplained_w or 0, 108.0, places=6)
        self.assertEqual(meter.floor.counted_nights, 20)
        self.assertTrue(meter.floor.never_below)

    def test_a_home_that_heats_with_electricity_has_no_year_of_its_winter_nights(self) -> None:
        rng = np.random.default_rng(31)
        cold = np.repeat(np.append(rng.uniform(-4, 14, 40), np.full(8, 17.0)), 96)
        power = 180.0 + 60.0 * np.maximum(0.0, 15.5 - cold) + rng.normal(0, 25, cold.size)
        self.take(quarter_hours(power / 4000, "Grid import kWh"))
        meter = self.found().meter
        assert meter is not None
        self.assertIsNone(meter.floor_kwh_year)
        self.assertIn("Import the temperature outdoors", meter.standing.why)
        self.take(quarter_hours(cold, "Outdoor temperature °C"))
        meter = self.found().meter
        assert meter is not None
        # A tenth of a night's intervals lie 1.28 standard deviations under its mean.
        self.assertAlmostEqual(meter.standing.floor_w or 0, 180.0 - 1.28 * 25, delta=15.0)
        self.assertGreater(meter.standing.heating_w, 300.0)

    def test_a_meter_with_missing_hours_says_which_and_sums_what_is_there(self) -> None:
        text = quarter_hours(np.full(40 * 96, 0.1), "Grid import kWh").splitlines()
        # Six hours of the third day, and one interval of the tenth.
        cut = [line for k, line in enumerate(text) if not (1 + 2 * 96 + 20 <= k < 1 + 2 * 96 + 44 or k == 1 + 9 * 96)]
        self.take("\n".join(cut) + "\n")
        meter = self.found().meter
        assert meter is not None
        self.assertEqual(meter.missing_intervals, 25)
        self.assertEqual([(b - a) // 60_000 for a, b in meter.missing_ms], [360, 15])
        self.assertAlmostEqual(meter.whole.kwh, 0.1 * (40 * 96 - 25), places=6)
        self.assertAlmostEqual(meter.whole.mean_w or 0, 400.0, places=6)
        self.assertAlmostEqual(sum(m.kwh for m in meter.months), meter.whole.kwh, places=6)
        self.assertLess(meter.whole.coverage, 1.0)

    def test_a_machine_cut_at_night_stands_at_what_it_draws_by_day(self) -> None:
        # Twelve hours cut, ten at rest with 9 W, two at work with 80 W, for thirty days.
        day = np.concatenate([np.zeros(48), np.full(40, 9.0), np.full(8, 80.0)])
        self.take(quarter_hours(np.tile(day, 30), "Washer power W"))
        line = self.found().machines[0]
        assert line.states is not None
        self.assertAlmostEqual(line.now_w, 9.0, places=6)
        self.assertAlmostEqual(float(line.kwh_per_year), 9.0 * 10 * 365 / 1000, places=3)
        self.assertAlmostEqual(line.states.saved_kwh_year or 0, 9.0 * 12 * 365 / 1000, places=3)
        self.assertAlmostEqual(line.states.never_cut_kwh_year or 0, 9.0 * 22 * 365 / 1000, places=3)
        price = (6 * 0.10 + 18 * 0.30) / 24
        self.assertAlmostEqual(float(line.saved_money_year or 0), 9.0 * 12 * 0.365 * price, delta=0.01)

    def test_a_lamp_and_a_kettle_that_are_simply_off_rest_at_nought(self) -> None:
        for watts in (40.0, 2000.0):
            with self.subTest(watts):
                self.assertFalse(is_cut_at_times(np.tile(np.concatenate([np.zeros(80), np.full(16, watts)]), 20)))

    def test_export_is_taken_off_import(self) -> None:
        self.take(quarter_hours(np.full(3 * 96, 0.05), "Grid import kWh"))
        self.take(quarter_hours(np.full(3 * 96, 0.02), "Grid export kWh"))
        meter = self.found().meter
        self.assertAlmostEqual(meter.floor.floor_w or 0 if meter else 0, 120.0, places=6)

    def test_series_of_one_meter_at_several_steps_are_never_added(self) -> None:
        self.take(quarter_hours(np.full(4 * 96, 100.0), "Washer power W"))
        hourly = ["time,Washer power W"]
        hourly += [f"{from_ms(START_MS + k * 3_600_000):%Y-%m-%d %H:%M},100" for k in range(4 * 24)]
        self.take("\n".join(hourly) + "\n")
        self.assertAlmostEqual(self.found().machines[0].rest.level_w, 100.0)

    def test_silent_machines_and_meters_say_what_to_record(self) -> None:
        found = self.found()
        self.assertEqual(found.machines, ())
        self.assertIn("metering plug", found.silent[0][1])
        self.assertIn("interval data", found.meter_why)

    def test_machines_are_compared_by_the_load_with_their_rest_laid_on_it(self) -> None:
        power = np.full(70 * 96, 2.0)
        for day in range(0, 70, 2):
            power[day * 96 + 40 : day * 96 + 44] = 800.0
        self.take(quarter_hours(power, "Washer power W"))
        home = self.app.homes.load("home1")[0]
        own = per_load(self.app, home, None)[0]
        self.assertAlmostEqual(own.cycles_per_week, 3.5, delta=0.06)
        self.assertAlmostEqual(own.kwh, 0.8, places=6)
        self.assertAlmostEqual(float(own.money or 0), 0.8 * 0.30, places=6)
        ten = per_load(self.app, home, Decimal(10))[0]
        loads = 10 * 365 / 7
        self.assertAlmostEqual(float(ten.kwh_year), 0.8 * loads + float(own.rest_kwh_year), places=6)
        self.assertAlmostEqual(float(ten.money_year or 0) - 0.24 * loads, float(own.rest_kwh_year) * 0.25, places=6)

    def test_a_machine_that_never_rests_is_told_so_and_not_summed(self) -> None:
        power = labelled_log("computer", 3, 60, fault="").power_w.reshape(-1, 15).mean(axis=1)
        self.take(quarter_hours(power, "Washer power W"))
        found = self.found()
        self.assertTrue(found.machines[0].never_rests)
        self.assertEqual(found.total_w, 0)

    def test_a_renamed_machine_of_another_kind_is_seen_as_it_is_now(self) -> None:
        self.take(quarter_hours(np.full(10 * 96, 5.0), "Washer power W"))
        self.found()
        home = self.app.homes.load("home1")[0]
        changed = replace(home, appliances=(replace(home.appliances[0], name="Larder", kind="fridge"),))
        now = home_standby(self.app, changed).machines[0].appliance
        self.assertEqual((now.name, now.kind), ("Larder", "fridge"))

    def test_a_refrigerator_is_not_offered_to_a_switch(self) -> None:
        self.take(quarter_hours(np.full(10 * 96, 5.0), "Washer power W"))
        home = self.app.homes.load("home1")[0]
        found = self.found()
        kinds: tuple[tuple[MachineKind, str], ...] = (("washer", "years"), ("fridge", "not to be cut"))
        for kind, words in kinds:
            line = replace(found.machines[0], appliance=replace(home.appliances[0], kind=kind))
            view = always_on_view(
                home,
                LocalClock(home.time_zone),
                replace(found, machines=(line,)),
                (),
                cost=Decimal(20),
                loads_per_week=None,
                wasted=None,
                stretch=None,
                width=900,
            )
            self.assertIn(words, view.rows[0].payback)


if __name__ == "__main__":
    unittest.main()
