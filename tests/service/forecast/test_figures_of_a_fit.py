"""Every figure's hand calculation, worked again here from the givens that it shows."""

import math
import unittest

from tests.homes import small_home
from tests.logs import machine_csv, room_csv
from tests.served import fresh_app
from tests.service.forecast.test_day_forecasts import ANN, TOMORROW
from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.errors import NotKnowable
from warmeter.core.explain.day_figures import figure_of_day
from warmeter.core.explain.loss_figure import loss_figure
from warmeter.core.figure import Figure
from warmeter.core.forecast.day_forecast import DayForecast
from warmeter.core.tariff.cheapest_start import RunSchedule
from warmeter.core.thermal.room_fit import RoomFit
from warmeter.service.app import App
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.run_schedules import run_schedule
from warmeter.service.homes import editing
from warmeter.service.jobs.kinds import run_job
from warmeter.service.readings import logs
from warmeter.service.signatures.machines import machine_record


class Worked(unittest.TestCase):
    app: App
    forecast: DayForecast
    runs: list[tuple[MachineRecord, RunSchedule]]
    fit: RoomFit

    @classmethod
    def setUpClass(cls) -> None:
        app = cls.app = fresh_app()
        editing.create_home(app, small_home(), ANN)
        for text in (room_csv(7), machine_csv(5)):
            home, _ = app.homes.load("home1")
            upload = logs.keep_upload(app, "x.csv", [text.encode()])
            logs.take(app, "home1", upload, logs.proposal(app, home, upload).suggested, ANN)
        run_job(app, app.work.enqueue("home1", "fit", "study", 3, 0))
        home, revision = app.homes.load("home1")
        cls.forecast = day_forecast(app, home, revision, TOMORROW)
        record = machine_record(app, home, "washer")
        cls.runs = [(record, run_schedule(app, home, record, TOMORROW))]
        cls.fit = app.work.fits("home1")["study"].fit

    def figure(self, key: str) -> Figure:
        return figure_of_day(self.forecast, self.runs, key)

    def given(self, figure: Figure, symbol: str) -> float:
        return next(g.value for g in figure.inputs if g.symbol == symbol)

    def test_lead_by_hand_follows_from_its_givens(self) -> None:
        figure = self.figure("lead.z-study.1")
        loss, store = self.given(figure, "H"), self.given(figure, "C")
        end = self.given(figure, "θe") + (self.given(figure, "P") + self.given(figure, "G")) / loss
        hours = store / loss * math.log((end - self.given(figure, "θ₀")) / (end - self.given(figure, "θset")))
        self.assertAlmostEqual(figure.alternatives[0].value or 0, 60 * hours, places=6)
        self.assertEqual({g.origin for g in figure.inputs}, {"measured", "forecast", "typed"})

    def test_the_lead_lies_in_its_range_and_what_sways_it_points_the_right_way(self) -> None:
        figure = self.figure("lead.z-study.1")
        self.assertTrue((figure.low or 0) <= (figure.value or 0) <= (figure.high or 1e9))
        self.assertEqual(len(figure.sensitivities), 3)
        self.assertTrue(all(sensitivity.change > 0 for sensitivity in figure.sensitivities))
        self.assertEqual(
            [s.change for s in figure.sensitivities], sorted((s.change for s in figure.sensitivities), reverse=True)
        )

    def test_cost_is_the_sum_of_energy_times_price(self) -> None:
        figure = self.figure("cost")
        price = {rate.name: float(rate.price_per_unit) for rate in self.forecast.home.tariffs[0].rates}
        self.assertAlmostEqual(figure.value or 0, sum(g.value * price[g.name] for g in figure.inputs), places=4)
        self.assertTrue((figure.low or 0) <= (figure.value or 0) <= (figure.high or 0))

    def test_electricity_is_heat_over_cop_and_near_the_plain_balance(self) -> None:
        figure = self.figure("electricity")
        self.assertAlmostEqual(figure.value or 0, self.given(figure, "Q") / self.given(figure, "COP"), places=6)
        # The day begins colder than it ends and gives some of it back: the plain balance is right to about a third.
        self.assertAlmostEqual((figure.alternatives[0].value or 0) / self.given(figure, "Q"), 1.0, delta=0.35)

    def test_shortfall_is_counted_in_kelvin_hours(self) -> None:
        figure = self.figure("shortfall")
        room = self.forecast.rooms[0]
        short = sum(max(0.0, float(w - t)) / 60 for w, t in zip(room.wanted_c, room.predicted_c, strict=True))
        self.assertAlmostEqual(figure.value or 0, short, places=6)

    def test_saving_is_held_less_written_and_its_hand_calculation_is_e3(self) -> None:
        figure, room = self.figure("saving"), self.forecast.rooms[0]
        assert room.saving.held.cost is not None and room.saving.written.cost is not None
        self.assertAlmostEqual(
            figure.value or 0, room.saving.held.cost.value - room.saving.written.cost.value, places=6
        )
        loss = self.fit.loss_w_k.value
        tau = (self.fit.air_j_k.value + self.fit.fabric_j_k.value) / loss
        outdoor = float(self.forecast.outdoor_expected_c.mean())
        x0, xs, full = 20.0 - outdoor, 16.0 - outdoor, 2000.0 / loss
        period = 9 * 3600.0
        cool, reheat = tau * math.log(x0 / xs), tau * math.log((full - xs) / (full - x0))
        if cool + reheat <= period:
            used = loss * xs * (period - cool - reheat) + 2000.0 * reheat
        else:
            decay = math.exp(-period / tau)
            lowest = full * decay / (full - x0 + x0 * decay)
            used = 2000.0 * (period + tau * math.log(lowest))
        self.assertAlmostEqual(figure.alternatives[0].value or 0, (loss * x0 * period - used) / 3.6e6, places=6)

    def test_a_run_costs_its_minutes_at_their_prices(self) -> None:
        figure, (_, plan) = self.figure("run.washer"), self.runs[0]
        start = plan.planned.start_min if plan.planned else 0
        cost = sum(
            float(kwh) * (0.10 if (start + minute) % 1440 < 360 else 0.30)
            for minute, kwh in enumerate(plan.profile_kwh)
        )
        self.assertAlmostEqual(figure.value or 0, cost, places=6)
        cheapest = next(s for s in figure.sensitivities if "cheapest" in s.assumption)
        self.assertLessEqual(cheapest.change, 0)

    def test_loss_stands_beside_the_plain_balance(self) -> None:
        figure = loss_figure(self.fit, "Study")
        balance = self.fit.balance
        self.assertAlmostEqual(
            figure.alternatives[0].value or 0, (balance.mean_heat_w + balance.usual_gain_w) / balance.mean_excess_k
        )
        self.assertEqual(figure.value, self.fit.loss_w_k.value)

    def test_what_there_is_not_is_refused(self) -> None:
        for key in ("lead.z-study.0", "lead.cellar.1", "lead.z-study.x", "run.toaster", "mood", ""):
            with self.subTest(key), self.assertRaises(NotKnowable):
                self.figure(key)
