"""The plan of the day through the application: wants, the job, pins, clashes, files out."""

import json
from datetime import date
from typing import Any

from tests.web.test_pages import plain_spaces
from tests.web.test_tariff import LONDON, TariffCase, meter_csv
from warmeter.core.edits.calendar_commands import ChangeDayWeather
from warmeter.core.home.day_plans import PlannedDay
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.timetable.calendar import written_on
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.jobs.kinds import run_job

DAY = "2026-01-13"
ON = date(2026, 1, 13)
ANN = Person("Ann")


class PlanCase(TariffCase):
    def want(self, command: str, status: int = 200, **fields: Any) -> str:
        """Do a command on the plan of the day and return the page."""
        _, base = self.app.homes.load("home1")
        said = {key: str(value) for key, value in fields.items()}
        answer = self.client.post(f"/homes/home1/day-plan/{command}?day={DAY}", data={"base": str(base), **said})
        self.assertEqual(answer.status_code, status, answer.text[:600])
        return plain_spaces(answer.text)

    def plan(self) -> str:
        """Make the plan and return its page."""
        self.client.post(f"/homes/home1/day-plan/make?day={DAY}")
        job = self.app.work.latest("home1", DAY)
        assert job is not None
        run_job(self.app, job.id)
        return self.page(f"?day={DAY}", route="day-plan")

    def planned(self) -> PlannedDay:
        """Return the plan that is kept."""
        return next(each for each in self.app.homes.load("home1")[0].planned_days if each.on == date(2026, 1, 13))


class Planning(PlanCase):
    def test_a_run_goes_where_it_is_cheapest_and_says_what_holds_it(self) -> None:
        self.assertIn("What is wanted on this day?", self.page(f"?day={DAY}", route="day-plan"))
        self.want("run", appliance_id="washer", kwh="1.2", minutes="90", earliest="05:00", latest="22:00")
        page = self.plan()
        # Night at 0.10 ends at 06:00: an hour of it fits; 4 quarters of 0.2 kWh at 0.10, 2 at 0.30.
        self.assertIn("£0.20", page.replace("\u2009", ""))
        self.assertIn("Least cost proven", page)
        self.assertIn("What each constraint costs", page)
        self.assertIn("Washer not before its time", page)
        planned = self.planned()
        self.assertEqual((planned.parts[0].slot, planned.gap), (20, 0.0))
        self.assertEqual(self.planned().rules[0].kind, "earliest")
        self.assertAlmostEqual(self.planned().rules[0].saves or 0, 0.08)

    def test_a_pin_is_priced_at_once_and_stays_when_planned_again(self) -> None:
        self.want("run", appliance_id="washer", kwh="1.2", minutes="60")
        self.plan()
        run_id = self.app.homes.load("home1")[0].wanted_runs[0].id
        page = self.want("pin", id=run_id, minute=12 * 60)
        self.assertIn("12:00 to 13:00", page)
        self.assertIn(f"{1.2 * 0.30:.2f}", page)
        self.assertIn("It is pinned", page)
        self.plan()
        self.assertEqual(self.planned().parts[0].slot, 48)
        self.want("pin", id=run_id, minute="")
        self.plan()
        self.assertEqual(self.planned().parts[0].slot, 0)

    def test_charge_hours_store_battery_and_fuse_go_together_and_the_checker_takes_it(self) -> None:
        self.import_log(meter_csv(date(2025, 12, 20), date(2026, 1, 12)))
        self.want("charge", name="Car", kwh="6", earliest="00:00", latest="09:00", steps="1.4, 3.7")
        self.want("hours", name="Pump", power_w="400", hours="3", least_min="60")
        self.want(
            "store",
            name="Hot water",
            litres="150",
            power_w="2000",
            usual_c="50",
            ready_c="52",
            low_c="42",
            high_c="65",
            ready_min="06:30",
            hygiene_c="60",
        )
        self.want(
            "practice",
            step="15",
            days="1",
            main_fuse_a="25",
            main_volts_v="230",
            main_phases="1",
            battery_kwh="4",
            battery_kw="2",
            quiet_from="22:00",
            quiet_to="07:00",
        )
        page = self.plan()
        for words in (
            "Car",
            "Pump",
            "Hot water",
            "Battery",
            "main fuse",
            "Plan against habit",
            "like days of the meter",
        ):
            self.assertIn(words, page)
        planned = self.planned()
        self.assertLess(planned.cost, planned.habit_cost)
        self.assertEqual({rule.kind for rule in planned.rules} & {"hygiene", "amount"}, {"hygiene", "amount"})
        rows = self.client.get(f"/homes/home1/day-plan.csv?day={DAY}").text.splitlines()
        self.assertEqual(len(rows), 97)
        answer = json.loads(self.client.get(f"/homes/home1/day-plan.json?day={DAY}").text)
        car = next(part for part in answer["parts"] if part["name"] == "Car")
        self.assertGreaterEqual(sum(car["kwh"]), 6 - 1e-6)
        self.assertEqual(set(answer["price_level"]) <= {0, 1, 2}, True)

    def test_an_imported_sun_forecast_draws_the_run_and_is_no_reading_of_the_home(self) -> None:
        self.import_log(meter_csv(date(2025, 12, 20), date(2026, 1, 12), "0.05"))
        heard = self.app.heard_until_ms("home1")
        begin = LONDON.instant(ON, 0)
        rows = [
            f"{from_ms(begin + hour * 3_600_000):%Y-%m-%dT%H:%M:%SZ},{2500 if 11 <= hour < 14 else 0}"
            for hour in range(24)
        ]
        self.import_log("\n".join(["time,PV forecast W", *rows]) + "\n")
        self.assertEqual(self.app.heard_until_ms("home1"), heard)
        self.want("run", appliance_id="washer", kwh="2", minutes="60")
        page = self.plan()
        self.assertIn("Sun is as the imported forecast has it", page)
        # All of it from the sun, that earns nothing when it is sold.
        self.assertEqual(self.planned().parts[0].slot, 44)

    def test_a_cellar_kept_dry_and_a_car_are_left_out_by_rank_above_the_fuse(self) -> None:
        self.want("practice", step="60", days="1", main_fuse_a="20", main_volts_v="230", main_phases="1")
        self.want("charge", name="Car", kwh="6", earliest="00:00", latest="24:00", steps="1.4, 3.7", shed_rank="1")
        self.want(
            "band", name="Cellar", power_w="400", low_pct="45", high_pct="60", begin_pct="55", rise_pct="0.5",
            fall_pct="3.5", shed_rank="2",
        )  # fmt: skip
        page = self.plan()
        for words in ("Cellar", "humidity", "Left out first", "Above 4.6 kW", "1. Car", "2. Cellar", "4.1 kW together"):
            self.assertIn(words, page)
        kinds = {(rule.kind, rule.key) for rule in self.planned().rules}
        band = self.app.homes.load("home1")[0].humidity_bands[0]
        self.assertLessEqual({("damp", band.id), ("dry", band.id)}, kinds)
        # A day brings 12 %, an hour takes 4: three hours of 0.4 kW; 6 kWh are 3.7 and twice 1.4 in whole hours; all at 0.10.
        self.assertAlmostEqual(self.planned().cost, (1.2 + 6.5) * 0.10, places=3)
        answer = json.loads(self.client.get(f"/homes/home1/day-plan.json?day={DAY}").text)
        self.assertEqual([p["kw"] for p in answer["left_out_first"]["parts"]], [3.7, 0.4])
        self.want("band", 422, name="Loft", power_w="400", low_pct="70", high_pct="60")
        self.want("remove", id=band.id)
        self.assertEqual(self.app.homes.load("home1")[0].humidity_bands, ())

    def test_a_charge_without_a_power_is_refused_in_words(self) -> None:
        for steps in ("", ",", "fast"):
            self.assertIn(
                "write the powers of charging in kW", self.want("charge", 422, name="Car", kwh="6", steps=steps)
            )

    def test_the_day_after_says_what_was_moved_and_what_that_cost(self) -> None:
        self.import_log(meter_csv(date(2025, 12, 20), date(2026, 1, 12)))
        self.want("run", appliance_id="washer", kwh="1.2", minutes="60")
        self.assertNotIn("The day after", self.plan())
        begin = LONDON.instant(date(2026, 1, 13), 0)
        rows, plug = ["time,Grid import kWh"], ["time,Washer power W"]
        for slot in range(96):
            time = f"{from_ms(begin + slot * 900_000):%Y-%m-%dT%H:%M:%SZ}"
            runs = 48 <= slot < 52
            plug.append(f"{time},{1200 if runs else 0}")
            if slot % 2 == 0:
                rows.append(f"{time},{0.5 + 0.6 * runs + 0.3 * (slot == 0)}")
        self.import_log("\n".join(rows) + "\n")
        self.import_log("\n".join(plug) + "\n")
        page = self.page(f"?day={DAY}", route="day-plan").replace("\u2009", "")
        self.assertIn("planned at 00:00, ran at 12:00", page)
        self.assertIn("24.0 kWh expected, 24.3 used", page)
        # 1.2 kWh at 0.30 instead of 0.10, and 0.3 kWh more at night.
        for money in ("+£0.24", "+£0.03", "£6.39</span> was, £6.12 planned", "+£0.27"):
            self.assertIn(money, page)

    def test_where_nothing_fits_the_clash_is_said_and_can_be_given_up(self) -> None:
        fuse: dict[str, Any] = {
            "step": "15",
            "days": "1",
            "main_fuse_a": "6",
            "main_volts_v": "230",
            "main_phases": "1",
        }
        self.want("practice", **fuse)
        self.want("run", appliance_id="washer", kwh="2", minutes="60", earliest="08:00", latest="09:00")
        page = self.plan()
        self.assertIn("Nothing fits: ", page)
        self.assertIn("main fuse", page)
        self.assertTrue(self.planned().is_infeasible)
        self.want("practice", **{**fuse, "main_fuse_a": ""})
        self.assertNotIn("Nothing fits", self.plan())

    def test_what_cannot_be_wanted_is_refused_and_what_does_not_fit_is_left_out_by_name(self) -> None:
        self.want("run", 422, appliance_id="washer", kwh="much", minutes="60")
        self.want("run", 422, appliance_id="nobody")
        self.want("charge", 422, name="Car", kwh="6", steps="fast")
        self.want("store", 422, name="Tub", low_c="50", ready_c="40")
        self.want("practice", 422, battery_kwh="0")
        page = self.want("charge", name="Car", kwh="60", earliest="08:00", latest="09:00")
        self.assertIn("Car can take 3.7 kWh", page)
        self.want("run", appliance_id="washer", kwh="1", minutes="120", earliest="08:00", latest="09:00")
        self.assertIn("does not fit between", self.page(f"?day={DAY}", route="day-plan"))
        page = self.plan()
        self.assertIn("Nothing is wanted on that day", page)
        self.put()
        self.assertIn("no tariff", self.page(f"?day={DAY}", route="day-plan"))

    def test_a_room_is_warmed_ahead_held_against_simulation_and_taken_into_the_timetable(self) -> None:
        editing.edit_home(self.app, "home1", 1, ANN, ChangeDayWeather(on=ON, low_c=-3.0, high_c=4.0))
        self.want("zone", zone_id="z-study", planned="on", beyond_k="2", most_changes="8")
        page = self.plan()
        for words in ("Rooms warmed ahead", "as written", "promised", "simulated", "Take into the timetable"):
            self.assertIn(words, page)
        found = self.planned().preheats[0]
        self.assertTrue(found.blocks)
        self.assertLess(found.simulated.cost, found.written.cost)
        self.assertLess(found.simulated.off_k, found.promised.off_k + 0.3)
        clock = LocalClock("Europe/London")
        # Warmth is bought at night, before six, for the dear morning.
        self.assertTrue(all(block.from_ms < clock.instant(ON, 360) for block in found.blocks[:1]))

        def written() -> list[str | None]:
            home, _ = self.app.homes.load("home1")
            day = written_on(home, home.zones[0], ON)
            return [
                f"{point.start_min // 60:02d}:{point.start_min % 60:02d}" for point in day.points if point.is_preheat
            ]

        self.assertEqual(written(), [])
        self.assertIn("They stand in the timetable", self.want("take"))
        first = clock.local(found.blocks[0].from_ms)
        self.assertEqual(written()[0], f"{first:%H:%M}")
        self.assertIn("pre-heat", self.page(f"?day={DAY}", route="timetable"))
        self.assertIn("Take into the timetable", self.want("lift"))
        self.assertEqual(written(), [])
        self.want("zone", 422, zone_id="z-study", planned="on", beyond_k="20", most_changes="8")
        self.want("zone", zone_id="z-study", beyond_k="2", most_changes="8")
        self.assertEqual(self.app.homes.load("home1")[0].plan_practice.preheats, ())

    def test_calendar_and_delay_sheet(self) -> None:
        answer = self.client.get(f"/homes/home1/day-plan.ics?day={DAY}")
        self.assertEqual(answer.status_code, 422, "there is no plan yet")
        self.want("run", appliance_id="washer", kwh="1.2", minutes="60", earliest="03:00")
        self.plan()
        text = self.client.get(f"/homes/home1/day-plan.ics?day={DAY}").text
        self.assertIn("DTSTART:20260113T030000Z", text)
        sheet = self.page(f"/delays?day={DAY}", route="day-plan")
        self.assertIn("starts Tue 03:00", sheet)
        self.assertIn("4 h", sheet)
