"""Something bothers me: what is refused says so where it was typed and leaves nothing behind."""

import re
from typing import Any

from tests import nuisance_logs
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.service.homes import editing


class Bothered(Case):
    def begun(self, way: str, zone: str = "Europe/London") -> str:
        """Begin a home with a way in and return its id."""
        answer = self.client.post("/bothers", data={"way": way, "zone": zone}, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)
        return str(answer.headers["location"]).split("/")[2]

    def answer(self, home_id: str, way: str, file: str | bytes | None = None, **fields: str) -> Any:
        """Send a way's inputs."""
        _, base = self.app.homes.load(home_id)
        content = b"" if file is None else file.encode() if isinstance(file, str) else file
        return self.client.post(
            f"/homes/{home_id}/bothers/{way}",
            data={"base": str(base), **fields},
            files={"file": ("log.csv" if file is not None else "", content)},
        )

    def refusals(self, text: str) -> list[str]:
        return [plain_spaces(each) for each in re.findall(r'class="wm-wrong"[^>]*>([^<]+)', text)]

    def test_a_clock_that_is_none_becomes_utc(self) -> None:
        for zone in ("", "../../etc/passwd", "Mars/Phobos"):
            self.assertEqual(self.app.homes.load(self.begun("machine", zone))[0].time_zone, "UTC")

    def test_money_and_units_are_those_of_the_browsers_language(self) -> None:
        for tags, told in (
            ("de-DE,de;q=0.9", ("DE", "EUR", "C", "m")),
            ("en-US", ("US", "USD", "F", "ft")),
            ("fr-CH, en;q=0.5", ("CH", "CHF", "C", "m")),
            ("xx", ("GB", "GBP", "C", "m")),
        ):
            answer = self.client.post(
                "/bothers", data={"way": "cold"}, headers={"Accept-Language": tags}, follow_redirects=False
            )
            home, _ = self.app.homes.load(answer.headers["location"].split("/")[2])
            self.assertEqual((home.country, home.currency, home.temperature_unit, home.length_unit), told)
            page = self.client.get(answer.headers["location"]).text
            self.assertIn('value="68"' if told[0] == "US" else 'value="20"', page)

    def test_what_is_wrong_is_said_at_its_field_and_nothing_is_saved(self) -> None:
        home_id = self.begun("machine")
        for way, file, fields, words in (
            ("machine", None, {"kind": "washer"}, "Choose the file"),
            ("machine", "time,power W\n2026-01-01 00:00,3\n", {"kind": "washer", "price": "abc"}, "Write a price"),
            ("machine", "hello\nworld\n", {"kind": "washer"}, "no line begins with a date"),
            ("machine", b"\x00\x01\xff", {"kind": "washer"}, "no text table"),
            (
                "cold",
                "x",
                {"room": "Den", "warm_by": "25:00", "warm_c": "999", "night_c": "16", "heater_w": "0"},
                "06:45",
            ),
            ("water", None, {"room": "Bath", "flow_l_min": "-3"}, "at most 200 L/min"),
            (
                "costs",
                None,
                {
                    "first_on": "2026-01-12",
                    "first_kwh": "10",
                    "last_on": "2026-01-05",
                    "last_kwh": "20",
                    "price": "0.3",
                },
                "must come after the first",
            ),
            (
                "costs",
                None,
                {
                    "first_on": "2026-01-05",
                    "first_kwh": "30",
                    "last_on": "2026-01-12",
                    "last_kwh": "20",
                    "price": "0.3",
                },
                "a counter only rises",
            ),
        ):
            with self.subTest(words):
                answer = self.answer(home_id, way, file, **fields)
                self.assertEqual(answer.status_code, 422)
                self.assertTrue(any(words in each for each in self.refusals(answer.text)), self.refusals(answer.text))
                for name, value in fields.items():
                    if value not in ("washer",):
                        self.assertIn(f'value="{value}"', answer.text, name)
        home, revision = self.app.homes.load(home_id)
        self.assertEqual((revision, home.rooms, home.appliances, home.rules), (1, (), (), ()))

    def test_a_log_that_tells_nothing_says_what_to_record(self) -> None:
        home_id = self.begun("machine")
        lines = "time,power W\n2026-01-01 00:00,3\n2026-01-01 00:01,3\n"
        answer = self.answer(home_id, "machine", lines, kind="washer")
        self.assertEqual(answer.status_code, 200)
        self.assertIn("Record a day or more", plain_spaces(answer.text))

    def test_the_same_nuisance_again_adds_nothing_twice(self) -> None:
        home_id = self.begun("water")
        for _ in range(2):
            self.assertEqual(self.answer(home_id, "water", nuisance_logs.leak_csv(), room="Laundry").status_code, 200)
        home, _ = self.app.homes.load(home_id)
        counts = len(home.rooms), len(home.devices), len(home.safety_chains), len(home.rules)
        self.assertEqual(counts, (1, 1, 1, 1))
        self.assertEqual(len(home.notification_groups), 1)

    def test_the_litres_open_with_what_was_typed_and_what_is_taken_as_usual(self) -> None:
        home_id = self.begun("water")
        said = {"flow_l_min": "6", "there_min": "20", "notice_h": "10"}
        page = self.answer(home_id, "water", room="Laundry", **said)
        query = {"way": "water", "of": page.url.params["of"], **said}
        told = plain_spaces(self.client.get(f"/homes/{home_id}/bothers/working", params=query).text)
        # 6 L/min for 20 + 5 + 5 + 1200 s and half of 10 s; 6 L/min for 36 000 + 5 + 1200 s and half of 10 s.
        works, dead = 0.1 * 1235, 0.1 * 37_210
        expected = 0.95 * works + 0.05 * dead
        for words in (f"{works:.1f} L", f"{dead:.1f} L", f"{expected:.0f}", "assumed", "wet the sensor"):
            self.assertIn(words, told.replace("\u202f", ""))
        self.assertIn("flow_l_min=6", page.text)

    def test_the_room_and_the_valve_of_an_alarm_are_not_asked_twice(self) -> None:
        home_id = self.begun("water")
        page = plain_spaces(self.answer(home_id, "water", room="Laundry", has_valve="on").text)
        self.assertRegex(page, r'<input[^>]*name="room"[^>]*value="Laundry"')
        self.assertRegex(page, r'<input[^>]*name="has_valve"[^>]*checked')

    def test_an_alarm_of_water_leaves_the_quiet_hours_of_other_messages(self) -> None:
        home_id = self.begun("machine")
        told = {"kind": "washer", "tell": "Ines", "quiet_from": "22:00", "quiet_until": "07:00"}
        self.answer(home_id, "machine", nuisance_logs.plug_csv(4), **told)
        self.answer(home_id, "water", room="Laundry", tell="Ines", loudness="alarm")
        home, _ = self.app.homes.load(home_id)
        quiet = {group.name: group.quiet_from_min for group in home.notification_groups}
        self.assertEqual(quiet, {"Ines": 1320, "Ines, water": None})
        leak = next(rule for rule in home.rules if "eak" in rule.name or "ater" in rule.name)
        water = next(group for group in home.notification_groups if group.name == "Ines, water")
        self.assertIn(water.id, [getattr(step, "group_id", "") for step in leak.then])

    def test_a_timetable_that_somebody_wrote_is_never_overwritten(self) -> None:
        before = self.app.homes.load("home1")[0].zones
        told = {"room": "Study", "night_c": "16", "heater_w": "2000"}
        refused = self.answer("home1", "cold", nuisance_logs.cold_room_csv(), warm_by="06:30", warm_c="21", **told)
        self.assertEqual(refused.status_code, 422)
        self.assertTrue(any("does not ask for 21 °C" in each for each in self.refusals(refused.text)))
        self.answer("home1", "cold", nuisance_logs.window_csv(1), warm_by="07:00", warm_c="20", **told)
        self.assertEqual(self.app.homes.load("home1")[0].zones, before)

    def test_a_price_that_is_typed_counts_and_one_that_would_wipe_out_rates_is_refused(self) -> None:
        home_id = self.begun("left-on")
        for price in ("0.30", "0.40"):
            self.answer(home_id, "left-on", nuisance_logs.meter_csv(8), price=price)
            home, _ = self.app.homes.load(home_id)
            self.assertEqual(str(home.tariffs[-1].rates[0].price_per_unit), price)
        answer = self.answer("home1", "left-on", nuisance_logs.meter_csv(8), price="0.40")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("several rates", answer.text)
        self.assertEqual(self.answer("home1", "left-on", nuisance_logs.meter_csv(8)).status_code, 200)

    def test_too_warm_is_asked_and_kept_in_the_address(self) -> None:
        page = plain_spaces(self.client.get("/homes/home1/bothers?way=cold&of=study&trouble=warm").text)
        self.assertRegex(page, r'<option value="warm" selected>too warm')
        self.assertRegex(page, r'id="result">Import its temperature')

    def test_every_step_of_it_can_be_undone(self) -> None:
        home_id = self.begun("window")
        self.answer(home_id, "window", nuisance_logs.window_csv(3), room="Bath", has_contact="yes", heater_w="1500")
        self.assertEqual(len(self.app.homes.load(home_id)[0].rules), 1)
        for _ in range(2):
            _, base = self.app.homes.load(home_id)
            editing.undo(self.app, home_id, base, ANN)
        home, _ = self.app.homes.load(home_id)
        self.assertEqual((home.rooms, home.rules, self.app.readings.bounds(home_id)), ((), (), None))
