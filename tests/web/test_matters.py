"""The page of what matters: its lines, what is put aside, the status line everywhere, and what changed since."""

import csv
import io
from dataclasses import replace
from datetime import date

from fastapi.testclient import TestClient
from sqlalchemy import event, update

from tests.homes import small_home
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.document import Home
from warmeter.service.homes import editing
from warmeter.service.matters.ahead import keep_summaries
from warmeter.service.matters.summary import open_lines, read_summary
from warmeter.store.matters import Visit
from warmeter.store.tables import REVISION
from warmeter.web.app import create_app

LEAK = Device(id="leak", name="Sink leak sensor", kind="leak_sensor", power="battery", room_id="study")
PATH = SafetyChain(id="ch", name="Water at the sink", kind="leak", device_ids=("leak",))


class MattersPages(Case):
    @classmethod
    def home(cls) -> Home:
        """Return a home with an alarm path on one battery."""
        return replace(small_home(), devices=(LEAK,), safety_chains=(PATH,))

    def page(self, path: str = "matters") -> str:
        """Return a page of the home, its spaces plain."""
        answer = self.client.get(f"/homes/home1/{path}")
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        return plain_spaces(answer.text)

    def put_aside(self, status: int = 200, **fields: object) -> str:
        _, base = self.app.homes.load("home1")
        return str(self.post("/homes/home1/matters/put-aside", status, base=base, **fields).text)

    def test_danger_stands_first_on_the_page_and_in_the_status_line_of_every_page(self) -> None:
        page = self.page()
        self.assertLess(page.index("rests on the one battery"), page.index("waits for a log of its power"))
        for path in ("survey", "rules", "matters"):
            status = self.page(path).split('id="worst"')[1][:300]
            self.assertIn("Water at the sink rests on the one battery", status, path)
            self.assertIn("is-danger", self.page(path).split('id="status"')[1], path)

    def test_the_count_is_that_of_the_list(self) -> None:
        page = self.page()
        rows = page.count("<tr class") - page.count("is-put")
        home, _ = self.app.homes.load("home1")
        self.assertEqual(open_lines(self.app, home).open, rows)
        self.assertIn(f"{rows} open", page)

    def test_put_aside_with_reason_name_and_date_and_taken_up_again(self) -> None:
        before = open_lines(self.app, self.app.homes.load("home1")[0]).open
        self.client.cookies.set("wm_name", "Ann")
        key = "alarm path on one battery:ch"
        part = plain_spaces(self.put_aside(key=key, reason="a second sensor is on its way", until="2026-12-01"))
        self.assertIn("a second sensor is on its way", part)
        home, _ = self.app.homes.load("home1")
        (said,) = home.put_aside
        self.assertEqual((said.by, said.until), ("Ann", date(2026, 12, 1)))
        stands = open_lines(self.app, home)
        self.assertEqual((stands.open, stands.aside), (before - 1, 1))
        self.assertNotIn("rests on the one battery", self.page("survey").split('id="worst"')[1][:300])
        _, base = self.app.homes.load("home1")
        self.post("/homes/home1/matters/take-up", base=base, key=key)
        self.assertEqual(open_lines(self.app, self.app.homes.load("home1")[0]).open, before)

    def test_a_reason_is_asked_and_the_date_must_lie_ahead(self) -> None:
        key = "alarm path on one battery:ch"
        self.put_aside(422, key=key, reason="")
        self.put_aside(422, key=key, reason="later", until="2020-01-01")
        self.assertEqual(self.app.homes.load("home1")[0].put_aside, ())

    def test_what_was_put_aside_comes_back_on_its_date(self) -> None:
        self.put_aside(key="alarm path on one battery:ch", reason="next week", until="2026-01-28")
        home, _ = self.app.homes.load("home1")
        self.assertEqual(open_lines(self.app, home).aside, 1)
        self.app.homes.set_as_of("home1", 1_769_644_800_000)  # 29 January 2026
        self.assertEqual(open_lines(self.app, home).aside, 0)

    def test_every_amount_opens_its_working_and_every_line_leads_to_its_place(self) -> None:
        self.with_logs()
        page = self.page()
        self.assertIn("a year in sight", page)
        keys = [part.split('"')[0] for part in self.client.get("/homes/home1/matters").text.split("working?key=")[1:]]
        self.assertTrue(keys)
        for key in keys:
            working = self.client.get(f"/homes/home1/matters/working?key={key}")
            self.assertEqual(working.status_code, 200)
            self.assertIn("Method:", working.text)
        self.assertEqual(self.client.get("/homes/home1/matters/working?key=nothing").status_code, 422)
        for link in {part.split('"')[0] for part in page.split('class="wm-go" href="')[1:]}:
            self.assertEqual(self.client.get(link.replace("&amp;", "&")).status_code, 200, link)

    def test_a_line_leads_away_and_the_page_leads_back(self) -> None:
        url = self.page().split('class="wm-go" href="')[1].split('"')[0].replace("&amp;", "&")
        page = self.client.get(url).text
        self.assertIn('id="way-back" href="/homes/home1/matters"', page)
        for other in ("//evil.example/", "/homes/another/matters", "https://evil.example/homes/home1/"):
            page = self.client.get("/homes/home1/tariff", params={"back": other}).text
            self.assertNotIn("way-back", page)

    def test_the_list_as_csv_holds_every_line_with_its_range(self) -> None:
        self.with_logs()
        rows = list(csv.DictReader(io.StringIO(self.client.get("/homes/home1/matters.csv").text)))
        self.assertEqual(rows[0]["kind"], "danger")
        for row in rows:
            if row["GBP a year"]:
                self.assertLessEqual(float(row["low"]), float(row["GBP a year"]))
                self.assertLessEqual(float(row["GBP a year"]), float(row["high"]))

    def test_a_home_that_was_never_opened_stands_in_the_list_with_its_waits(self) -> None:
        self.with_logs()
        broken = replace(small_home(), id="broken", name="Broken")
        editing.create_home(self.app, broken, ANN)
        with self.app.engine.begin() as connection:
            connection.execute(update(REVISION).where(REVISION.c.home_id == "broken").values(document=b"spoilt"))
        self.assertIsNone(self.app.matters.kept(["home1"]).get("home1"))
        keep_summaries(self.app)
        kept = read_summary(self.app.matters.kept(["home1"]).get("home1"))
        home, _ = self.app.homes.load("home1")
        assert kept is not None
        self.assertEqual(kept.open, open_lines(self.app, home).open)
        self.assertIn(str(kept.waits), plain_spaces(self.client.get("/").text))

    def test_since_the_last_visit(self) -> None:
        first = self.client.post("/homes/home1/matters/seen")
        self.assertIn("for the first time", first.text)
        browser = first.cookies["wm_browser"]
        visit = self.app.matters.visit("home1", browser)
        assert visit is not None
        earlier = Visit(seen_ms=visit.seen_ms - 3_600_000, seen=visit.seen, last_ms=None, last=None)
        self.app.matters.keep_visit("home1", browser, earlier)
        self.put_aside(key="alarm path on one battery:ch", reason="seen to")
        second = plain_spaces(self.client.post("/homes/home1/matters/seen").text)
        self.assertIn("gone", second)
        self.assertIn("rests on the one battery", second)
        third = plain_spaces(self.client.post("/homes/home1/matters/seen").text)
        self.assertIn("gone", third, "looks within half an hour are one visit")

    def test_an_empty_home_says_what_to_begin_with(self) -> None:
        empty = Home(
            id="empty", name="Empty", place=self.home().place, time_zone="Europe/London", country="GB", currency="GBP"
        )
        editing.create_home(self.app, empty, ANN)
        page = plain_spaces(self.client.get("/homes/empty/matters").text)
        self.assertIn("There is no price of electricity", page)

    def test_a_second_process_tells_the_same(self) -> None:
        self.with_logs()
        self.client.post("/homes/home1/matters/seen")
        other = TestClient(create_app(self.app), base_url="http://127.0.0.1:8470")
        told = [
            plain_spaces(client.get("/homes/home1/survey").text).split('id="worst"')[1][:300]
            for client in (self.client, other)
        ]
        self.assertEqual(*told)


class HomesListed(Case):
    def queries(self, path: str) -> int:
        """Return how many statements a page sends to the database."""
        sent: list[str] = []

        def count(_: object, __: object, statement: str, *___: object) -> None:
            sent.append(statement)

        event.listen(self.app.engine, "before_cursor_execute", count)
        try:
            self.assertEqual(self.client.get(path).status_code, 200)
        finally:
            event.remove(self.app.engine, "before_cursor_execute", count)
        return len(sent)

    def test_the_list_asks_the_database_as_often_for_many_homes_as_for_few(self) -> None:
        self.client.get("/")  # what lists say of a new home is kept at the first look
        few = self.queries("/")
        for number in range(12):
            editing.create_home(self.app, replace(small_home(), id=f"more{number}", name=f"House {number}"), ANN)
            self.client.post(f"/homes/more{number}/matters/seen")
        self.client.get("/")
        self.assertEqual(self.queries("/"), few)

    def test_a_home_tells_its_worst_line_what_waits_and_its_year(self) -> None:
        self.with_logs()
        self.client.post("/homes/home1/matters/seen")
        page = plain_spaces(self.client.get("/").text)
        self.assertIn("wm-yearrow", page)
        self.assertIn("a year in sight", page)
        self.assertIn("Study has a log that no fit has read", page)

    def test_an_example_is_copied_with_an_id_of_its_own(self) -> None:
        for _ in range(2):
            answer = self.client.post("/homes/example", data={"example": "terrace-nine"}, follow_redirects=False)
            self.assertEqual(answer.status_code, 303)
            self.assertEqual(self.client.get(answer.headers["location"]).status_code, 200)
        names = [line.name for line in self.app.homes.lines()]
        self.assertEqual(sum(name.startswith("Terrace Nine") for name in names), 2)
        self.assertEqual(self.client.post("/homes/example", data={"example": "../x"}).status_code, 422)
