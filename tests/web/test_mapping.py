"""The mapping of a log as a page: what is sure stands there, what is not is asked, nothing is imported in silence."""

from collections.abc import Mapping
from typing import ClassVar

from tests.web.test_pages import ANN, Case
from warmeter.service.readings import logs


def lines_of(heading: str, *rows: str) -> str:
    """Return a table of hourly lines from the morning of 5 January, each with the cells given."""
    return "\n".join([f"time,{heading}", *(f"2026-01-05 {6 + k:02d}:00,{row}" for k, row in enumerate(rows))])


class Asked(Case):
    FORM: ClassVar[Mapping[str, str]] = {"decimal": ".", "clock": "home", "date_format": "year-month-day"}

    def path(self, content: str, query: str = "") -> str:
        answer = self.client.post(
            f"/homes/home1/import/upload{query}",
            files={"file": ("log.csv", content.encode(), "text/csv")},
            follow_redirects=False,
        )
        return str(answer.headers["location"])

    def series(self) -> dict[tuple[str, str], int]:
        extents = self.app.readings.extents("home1")
        return {(s.record.quantity, s.record.subject): extents[s.id].count for s in self.app.readings.series("home1")}

    def test_what_is_not_sure_is_not_imported_until_it_is_said(self) -> None:
        path = self.path(lines_of("Study temperature °C,Attic °C", "19.0,9.0", "19.2,9.1", "19.1,9.3"))
        page = self.get(path)
        self.assertIn("Not sure, so left open", page.texts)
        self.client.post(f"{path}/take", data=self.FORM)
        self.assertEqual(self.series(), {("room_temperature", "study"): 3})

    def test_what_is_likely_is_taken_by_one_button(self) -> None:
        path = self.path(lines_of("Study,Outdoor °C", "19.0,4.0", "19.2,4.1", "19.1,4.2"))
        self.assertIsNotNone(self.get(path).by_id("accept-all"))
        said = self.client.post(path, data={**self.FORM, "accept": "all"})
        self.assertIn("Import 6 readings", " ".join(said.text.split()))

    def test_a_column_without_an_owner_is_told_and_the_others_are_imported(self) -> None:
        path = self.path(lines_of("Study temperature °C,Battery %", "19.0,80", "19.2,80", "19.1,79"))
        said = self.client.post(path, data={**self.FORM, "accept": "2"})
        self.assertIn("Choose whose readings these are", said.text)
        self.assertIn("Import 3 readings", " ".join(said.text.split()))

    def test_a_date_that_can_be_two_is_chosen_before_anything_is_imported(self) -> None:
        path = self.path(
            "date,time,Study temperature °C\n" + "\n".join(f"03/04/2026,{h:02d}:00,19.{h}" for h in range(8))
        )
        page = self.get(path)
        self.assertIn("disabled", page.by_id("take"))
        form = {**self.FORM, "date_format": ""}
        self.client.post(f"{path}/take", data=form)
        self.assertEqual(self.series(), {})
        self.client.post(f"{path}/take", data={**form, "date_format": "month/day/year"})
        (series,) = self.app.readings.series("home1")
        self.assertEqual(self.app.clock(self.home()).local(self.app.readings.span(series.id)[0]).month, 3)

    def test_after_an_import_one_stands_where_one_came_from(self) -> None:
        log = lines_of("Study temperature °C", "19.0", "19.2", "19.1")
        path = self.path(log, "?back=/homes/home1/warmup")
        form = {**self.FORM, "back": "/homes/home1/warmup"}
        self.assertIn('value="/homes/home1/warmup"', self.client.get(path).text)
        answer = self.client.post(f"{path.split('?')[0]}/take", data=form, follow_redirects=False)
        self.assertTrue(answer.headers["location"].startswith("/homes/home1/warmup?notice="))
        for elsewhere in ("https://example.org/homes/home1/", "//example.org", "/homes/home2/survey"):
            again = self.path(log)
            answer = self.client.post(f"{again}/take", data={**form, "back": elsewhere}, follow_redirects=False)
            self.assertTrue(answer.headers["location"].startswith("/homes/home1/survey"), elsewhere)

    def test_months_of_a_bill_are_imported_as_what_the_counter_went_on(self) -> None:
        path = self.path("month,Grid import kWh\nJan 2026,310\nFeb 2026,280\nMar 2026,300\n")
        self.client.post(f"{path}/take", data={**self.FORM, "accept": "all"})
        (series,) = self.app.readings.series("home1")
        self.assertEqual(series.record.kind, "counter")
        self.get("/homes/home1/signatures")


class Now(Case):
    """What counts as now: the last reading of the climate, or what a person sets."""

    def test_a_machines_newer_log_does_not_make_the_timetable_blind(self) -> None:
        self.with_logs()
        before = self.app.as_of_ms("home1")
        home, _ = self.app.homes.load("home1")
        rows = "\n".join(f"2026-03-02 {h:02d}:00,{5 * h}" for h in range(24))
        upload = logs.keep_upload(self.app, "plug.csv", [f"time,Washer power W\n{rows}".encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)
        self.assertEqual(self.app.as_of_ms("home1"), before)
        last = self.app.clock(home).local(self.app.heard_until_ms("home1"))
        self.assertEqual((last.month, last.day, last.hour), (3, 2, 23))
        told = self.app.clock(home).local(before)
        self.assertIn(f"as of {told:%d/%m, %H:%M}", self.client.get("/homes/home1/timetable").text)

    def test_what_counts_as_now_is_set_on_its_page_and_left_to_the_log_again(self) -> None:
        self.with_logs()
        before = self.app.as_of_ms("home1")
        self.assertIn("its climate", self.client.get("/homes/home1/as-of").text)
        form = {"on": "2026-01-10", "at": "1 pm", "back": "/homes/home1/timetable"}
        answer = self.client.post("/homes/home1/as-of", data=form, follow_redirects=False)
        self.assertEqual(answer.headers["location"], "/homes/home1/timetable")
        self.assertIn("as of 10/01, 13:00", self.client.get("/homes/home1/zones").text)
        self.client.post("/homes/home1/as-of", data={})
        self.assertEqual(self.app.as_of_ms("home1"), before)

    def test_the_design_temperature_says_where_it_comes_from(self) -> None:
        self.with_logs()
        page = self.client.get("/homes/home1/survey").text
        self.assertIn("assumed, nobody has said", page)
        self.assertIn("coldest day had a mean of", page)
        base = self.app.homes.load("home1")[1]
        self.client.post("/homes/home1/plan/design", data={"base": base, "outdoor_c": "-9"})
        self.assertEqual(self.app.homes.load("home1")[0].design.outdoor_from, "typed")
