"""People from nothing: who lives here, what tells of them, a log, the day, rooms used as a timetable, the wait taken."""

import re
import unittest
from dataclasses import replace
from datetime import date

from fastapi.testclient import TestClient

from tests.served import fresh_app
from tests.web.test_pages import plain_spaces
from warmeter.service.app import App, Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.simulators.ferry_house import ferry_house
from warmeter.web.app import create_app

ANN = Person("Ann")


class People(unittest.TestCase):
    app: App
    client: TestClient

    @classmethod
    def setUpClass(cls) -> None:
        cls.app = fresh_app()
        cls.client = TestClient(create_app(cls.app), base_url="http://127.0.0.1")
        home, log = ferry_house()
        whole = replace(home, id="ferry")
        editing.create_home(cls.app, whole, ANN)
        upload = logs.keep_upload(cls.app, "people.csv", [log.encode()])
        logs.take(cls.app, "ferry", upload, logs.proposal(cls.app, whole, upload).suggested, ANN)
        bare = replace(home, id="bare", people=(), devices=(), appliances=())
        editing.create_home(cls.app, bare, ANN)

    def page(self, home: str = "ferry", **query: str) -> str:
        answer = self.client.get(f"/homes/{home}/people", params=query)
        self.assertEqual(answer.status_code, 200)
        return plain_spaces(answer.text)

    def do(self, command: str, home: str = "ferry", **fields: object) -> str:
        data = {"base": str(self.app.homes.load(home)[1]), **fields}
        answer = self.client.post(f"/homes/{home}/people/{command}", data=data)
        self.assertEqual(answer.status_code, 200, answer.text[:500])
        return plain_spaces(answer.text)

    def test_from_nothing_a_person_with_a_telephone_is_found_in_a_log_by_name(self) -> None:
        self.assertIn("Is anybody there?", self.page("bare"))
        self.do("add", "bare", name="Ilse")
        person = self.app.homes.load("bare")[0].people[0]
        self.do("witness", "bare", id=person.id, kind="telephone")
        home = self.app.homes.load("bare")[0]
        self.assertEqual([d.name for d in home.devices], ["Ilse telephone"])
        csv = "time (UTC),Ilse telephone\n" + "".join(
            f"2026-01-{5 + k // 48:02d}T{k // 2 % 24:02d}:{30 * (k % 2):02d}:00Z,{'away' if 16 <= k % 48 < 34 else 'home'}\n"
            for k in range(48 * 4)
        )
        upload = logs.keep_upload(self.app, "phone.csv", [csv.encode()])
        proposal = logs.proposal(self.app, home, upload)
        self.assertEqual([c.subject for c in proposal.suggested.taken], [home.devices[0].id])
        logs.take(self.app, "bare", upload, proposal.suggested, ANN)
        shown = self.page("bare")
        self.assertIn("Trust learnt", shown)
        self.assertIn("as usual, 0.90", shown)
        self.assertIn("told 30 min before", self.page("bare", part="who"))

    def test_the_day_shows_each_witness_and_what_its_word_is_worth(self) -> None:
        shown = self.page()
        for words in ("Orla", "Bram", "door and motion", "mattress", "never says out", "Somebody seen"):
            self.assertIn(words, shown)
        before = self.page(on="2026-01-20")
        self.assertIn("20/01", before)
        self.assertIn("01/02", self.page(on="2031-01-01"))

    def test_a_witness_is_typed_kept_private_and_taken_back(self) -> None:
        home = self.app.homes.load("ferry")[0]
        orla = home.people[0]
        phone = orla.witnesses[0]
        self.do("witness-set", id=orla.id, witness_id=phone.id, hold_in_min="90", trust_in="0.7")
        self.do("witness-private", id=orla.id, witness_id=phone.id, is_private="on")
        changed = self.app.homes.load("ferry")[0].people[0].witnesses[0]
        self.assertEqual((changed.hold_in_s, changed.trust_in, changed.is_private), (5400, 0.7, True))
        self.assertIn("typed 0.70", self.page())
        file = self.client.get("/homes/ferry/home.json").text
        self.assertNotIn("Orla telephone", file)
        self.assertNotIn(phone.id, file)
        self.assertIn("Bram telephone", file)
        self.do("witness-remove", id=orla.id, witness_id=phone.id)
        self.assertNotIn(phone.id, [w.id for w in self.app.homes.load("ferry")[0].people[0].witnesses])
        editing.undo(self.app, "ferry", self.app.homes.load("ferry")[1], ANN)
        self.assertIn(phone.id, [w.id for w in self.app.homes.load("ferry")[0].people[0].witnesses])

    def test_a_number_out_of_range_is_refused_and_nothing_changes(self) -> None:
        home, revision = self.app.homes.load("ferry")
        answer = self.client.post(
            "/homes/ferry/people/witness-set",
            data={
                "base": str(revision),
                "id": home.people[0].id,
                "witness_id": home.people[0].witnesses[1].id,
                "trust_in": "3",
            },
        )
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.app.homes.load("ferry")[1], revision)

    def test_a_profile_is_written_as_the_kind_of_day_that_it_is_of(self) -> None:
        shown = self.page(part="use", room="study")
        self.assertIn("The timetable that follows", shown)
        self.assertIn("min cold while there", shown)
        self.do(
            "profile",
            zone_id="zo-study",
            of="workday",
            used_level_id="lv-in-use",
            else_level_id="lv-idle",
            stretches="465-495 1200-1440",
            on="2026-02-01",
        )
        zone = self.app.homes.load("ferry")[0].zone_of_id("zo-study")
        profile = zone.timetables[0].profile("workday")
        self.assertEqual(
            [(p.start_min, p.level_id) for p in (profile.points if profile is not None else ())],
            [(0, "lv-idle"), (465, "lv-in-use"), (495, "lv-idle"), (1200, "lv-in-use")],
        )

    def test_holidays_and_collection_days_are_added_and_rules_can_look_at_them(self) -> None:
        def add(command: str, **fields: str) -> str:
            data = {"base": str(self.app.homes.load("ferry")[1]), **fields}
            answer = self.client.post(
                "/homes/ferry/timetable/" + command, params={"day": "2026-03-30", "pane": "dates"}, data=data
            )
            self.assertEqual(answer.status_code, 200, answer.text[:300])
            return plain_spaces(answer.text)

        shown = add("public-holidays")
        self.assertIn("Public holidays", shown)
        home = self.app.homes.load("ferry")[0]
        self.assertIn(date(2026, 4, 25), home.occasions[0].dates)
        self.assertEqual(home.occasions[0].kind_id, "day-off")
        shown = add(
            "occasion", name="Paper collection", what="collection", on="3", every_weeks="2", from_date="2026-01-08"
        )
        self.assertIn("Thu, every 2 weeks", shown)
        self.assertIn("The next that differ, and what wins", shown)
        rules = {"base": str(self.app.homes.load("ferry")[1]), "name": "Bins out"}
        self.client.post("/homes/ferry/rules/add", data=rules)
        self.assertIn("Paper collection", self.client.get("/homes/ferry/rules").text)
        for occasion in self.app.homes.load("ferry")[0].occasions:
            add("occasion-away", id=occasion.id)
        self.assertEqual(self.app.homes.load("ferry")[0].occasions, ())

    def test_days_of_a_calendar_come_in_and_go_out_and_what_is_none_changes_nothing(self) -> None:
        editing.create_home(self.app, replace(ferry_house()[0], id="calendar"), ANN)

        def read(data: bytes, **fields: str) -> str:
            answer = self.client.post(
                "/homes/calendar/occasions-file",
                data={"base": str(self.app.homes.load("calendar")[1]), "name": "Work at home", "what": "work_at_home"}
                | fields,
                files={"file": ("mine.ics", data, "text/calendar")},
            )
            self.assertEqual(answer.status_code, 200)
            return plain_spaces(answer.text)

        before = self.app.homes.load("calendar")
        self.assertIn("this is no iCalendar file", read(b"time,value"))
        self.assertEqual(self.app.homes.load("calendar"), before)
        lines = "BEGIN:VCALENDAR VERSION:2.0 PRODID:x BEGIN:VEVENT UID:1 SUMMARY:Desk DTSTART;VALUE=DATE:20260303 "
        data = (lines + "RRULE:FREQ=WEEKLY;COUNT=3 END:VEVENT END:VCALENDAR ").replace(" ", "\r\n").encode()
        self.assertIn("with “choir” in its name", read(data, words="choir"))
        shown = read(data, words="desk", kind_id="day-off")
        self.assertIn("3 days of 1 event added", shown)
        home = self.app.homes.load("calendar")[0]
        self.assertEqual(home.occasions[-1].dates, (date(2026, 3, 3), date(2026, 3, 10), date(2026, 3, 17)))
        self.assertIn("On the year", shown)
        saved = self.client.get("/homes/calendar/days.ics")
        self.assertIn("text/calendar", saved.headers["content-type"])
        self.assertEqual(saved.text.count("SUMMARY:Work at home"), 3)

    def test_ways_stand_side_by_side_with_what_they_ask_of_people(self) -> None:
        shown = self.page(part="ways", power_w="1000")
        for words in ("all together, as set now", "door and motion", "the clock", "carry it, keep it charged"):
            self.assertIn(words, shown)

    def test_ways_to_be_warm_on_arrival_have_their_price_and_say_what_they_rest_on(self) -> None:
        shown = self.page(part="arrival", room="parlour", assurance="80")
        for words in ("Kept warm all along", "By the usual hour", "On arrival only", "not fitted", "as typed above"):
            self.assertIn(words, shown)
        self.assertRegex(shown, r"From \d+(\.\d)? °?C? ?.*it takes \d+ min")
        self.assertRegex(shown, r"costs \d+\.\d kWh, €\d+\.\d\d a week more")
        # Colder outdoors, the room takes longer and more.
        cold = self.page(part="arrival", room="parlour", assurance="80", outdoor_c="-8")
        heat = [float(re.findall(r'<td class="wm-num">(\d+\.\d)</td>', page)[2]) for page in (shown, cold)]
        self.assertGreater(heat[1], heat[0])

    def test_who_never_came_home_or_has_no_heater_is_told_what_is_missing(self) -> None:
        editing.create_home(self.app, replace(ferry_house()[0], id="unheard"), ANN)
        self.assertTrue("Nothing to warm up yet" in self.page("unheard", part="arrival"))
        odd = self.page(part="arrival", room="nowhere", assurance="12", outdoor_c="mild", used="gone")
        self.assertIn("Warm on arrival?", odd)
        self.assertIn("is no colder than", self.page(part="arrival", used="lv-idle", between="lv-in-use"))

    def test_a_wait_is_proposed_with_its_price_and_taken(self) -> None:
        shown = self.page(part="wait", room="kitchen", power_w="1200")
        self.assertIn("after the sensor’s off", shown)
        self.assertIn("wrong offs and", shown)
        self.do("idle", room_id="kitchen", idle_s="360")
        self.assertEqual(self.app.homes.load("ferry")[0].room("kitchen").idle_s, 360)
        self.assertIn("in force, 6 min", self.page(part="wait", room="kitchen"))
        self.assertIn("Nothing but its own motion tells of Hall", self.page(part="wait", room="hall"))


if __name__ == "__main__":
    unittest.main()
