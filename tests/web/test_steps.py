"""Warm-up, signatures, import and jobs as pages: states that a person meets."""

import json
from dataclasses import replace
from typing import ClassVar

from fastapi.testclient import TestClient

from tests.homes import small_home
from tests.served import Held
from tests.web.test_pages import ANN, DAY, Case, Elements
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.store.codec import home_from_json
from warmeter.web.app import create_app


class WarmUp(Case):
    def setUp(self) -> None:
        super().setUp()
        self.with_logs()

    def test_a_fit_that_waits_shows_its_progress_and_can_be_stopped(self) -> None:
        held = replace(self.app, jobs=Held())
        client = TestClient(create_app(held), base_url="http://127.0.0.1:8470")
        page = Elements(client.post("/homes/home1/warmup/fit", data={"room_id": "study"}).text)
        job = page.by_id("job")
        self.assertIn("every", job["hx-trigger"])
        polled = Elements(client.get(job["hx-get"]).text)
        self.assertEqual(next(polled.of("progress"))["value"], "0")
        stopped = client.post(job["hx-get"] + "/stop")
        self.assertIn("Stopped before it began", stopped.text)
        self.assertEqual(client.get(job["hx-get"]).headers.get("hx-refresh"), "true")

    def test_a_log_that_cannot_teach_is_answered_on_the_page(self) -> None:
        home, base = self.app.homes.load("home1")
        editing.undo(self.app, "home1", base, ANN)
        editing.undo(self.app, "home1", base + 1, ANN)
        short = "\n".join(self.room_log.splitlines()[:40])
        upload = logs.keep_upload(self.app, "short.csv", [short.encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)
        page = self.client.post("/homes/home1/warmup/fit", data={"room_id": "study"}).text
        self.assertIn("at least 48 h", page)

    def test_a_fit_made_on_an_older_revision_says_so(self) -> None:
        self.client.post("/homes/home1/warmup/fit", data={"room_id": "study"})
        self.assertNotIn("changed since", self.client.get("/homes/home1/warmup").text)
        self.client.post("/homes/home1/levels/in-use", data={"base": "3", "name": "In use", "heating_c": "19"})
        self.assertIn("changed since", self.client.get("/homes/home1/warmup").text)

    def test_leads_in_the_table_grow_to_the_left_and_downwards(self) -> None:
        self.client.post("/homes/home1/warmup/fit", data={"room_id": "study"})
        page = self.client.get("/homes/home1/warmup").text
        table = page[page.index('class="wm-matrix"') :]
        rows = [
            [int(c.split("<small>")[0]) for c in row.split("<td>")[1:]]
            for row in table[: table.index("</table>")].split("<tr>")[2:]
        ]
        self.assertEqual(len(rows), 3)
        for row in rows:
            self.assertEqual(row, sorted(row, reverse=True))
        for column in zip(*rows, strict=True):
            self.assertEqual(list(column), sorted(column))

    def test_another_homes_job_is_not_shown(self) -> None:
        other = replace(small_home(), id="home2")
        editing.create_home(self.app, other, ANN)
        job_id = self.app.work.enqueue("home1", "fit", "study", 3, 0)
        answer = self.client.get(f"/homes/home2/jobs/{job_id}")
        self.assertEqual((answer.text, answer.headers.get("hx-refresh")), ("", "true"))
        self.client.post(f"/homes/home2/jobs/{job_id}/stop")
        job = self.app.work.job(job_id)
        self.assertEqual(job.is_stop_asked if job else None, 0)


class Importing(Case):
    FIELDS: ClassVar[dict[str, str]] = {
        "decimal": ".",
        "clock": "home",
        "date_format": "year-month-day",
        "repeated_hour": "ask",
        "offset_min": "0",
    }

    def path(self, content: str) -> str:
        answer = self.client.post(
            "/homes/home1/import/upload",
            files={"file": ("log.csv", content.encode(), "text/csv")},
            follow_redirects=False,
        )
        return str(answer.headers["location"])

    def test_a_column_nobody_guessed_is_mapped_in_one_step_with_what_goes_with_it(self) -> None:
        lines = [
            f"2026-01-05 {h:02d}:{m:02d},{20 + h % 2},{500 * (h % 2)}"
            for h in range(6)
            for m in (0, 10, 20, 30, 40, 50)
        ]
        path = self.path("\n".join(["zeit,q1,q2", *lines]))
        mapped = {
            "c1_quantity": "room_temperature",
            "c2_quantity": "electric_w",
            "c2_unit": "°C",
            "c2_kind": "instant",
            "c2_subject": "study",
        }
        self.client.post(f"{path}/take", data=self.FIELDS | mapped)
        found = {s.record.quantity: s.record for s in self.app.readings.series("home1")}
        self.assertEqual(found["room_temperature"].subject, "study")
        power = found["electric_w"]
        self.assertEqual((power.subject, power.unit, power.kind, power.stamp), ("washer", "W", "mean", "start"))

    def test_an_energy_unit_becomes_a_sum(self) -> None:
        path = self.path(self.room_log)
        mapped = {"c2_quantity": "heat_w", "c2_unit": "Wh", "c2_kind": "mean", "c2_stamp": "end", "c2_subject": "study"}
        self.client.post(f"{path}/take", data=self.FIELDS | mapped)
        heat = next(s.record for s in self.app.readings.series("home1") if s.record.quantity == "heat_w")
        self.assertEqual((heat.kind, heat.stamp, heat.unit), ("sum", "end", "Wh"))

    def test_a_file_is_taken_once_and_then_waits_no_more(self) -> None:
        path = self.path(self.room_log)
        self.client.post(f"{path}/take", data=self.FIELDS)
        self.assertEqual(self.app.homes.load("home1")[1], 2)
        answer = self.client.post(f"{path}/take", data=self.FIELDS)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("choose it again", answer.text)

    def test_what_was_edited_while_a_file_waited_stays_when_it_is_taken(self) -> None:
        path = self.path(self.room_log)
        self.client.post("/homes/home1/levels/in-use", data={"base": "1", "name": "In use", "heating_c": "19"})
        answer = self.client.post(f"{path}/take", data=self.FIELDS)
        self.assertIn("readings imported", answer.text)
        self.assertEqual(self.app.homes.load("home1")[0].level("in-use").heating_c, 19.0)

    def test_the_same_file_again_says_that_nothing_was_added(self) -> None:
        for _ in range(2):
            answer = self.client.post(f"{self.path(self.room_log)}/take", data=self.FIELDS)
        self.assertIn("nothing was added", answer.text)

    def test_a_repeated_hour_asks_on_the_page_and_takes_what_was_chosen(self) -> None:
        lines = ["time,Study temperature °C"] + [
            f"2026-10-25 0{h}:{m:02d},20.{h}" for h in (0, 1, 2, 3) for m in (0, 30)
        ]
        path = self.path("\n".join(lines))
        self.assertIn("Choose which coming of the repeated hour", self.client.get(path).text)
        chosen = {**self.FIELDS, "repeated_hour": "first"}
        self.assertNotIn("Choose which coming", self.client.post(path, data=chosen).text)
        self.client.post(f"{path}/take", data=chosen)
        series = self.app.readings.series("home1")[0]
        self.assertEqual(self.app.readings.readings(series.id).value.size, 8)

    def test_faults_are_listed_by_line_with_reasons(self) -> None:
        lines = self.room_log.splitlines()
        lines[5] = "2026-01-05 99:99,20,0,3"
        lines[9] = lines[9].replace(lines[9].split(",")[1], "201.5")
        page = self.get(self.path("\n".join(lines)))
        text = " ".join(page.texts)
        self.assertIn("no time of day", text)
        self.assertIn("cannot be a room temperature", text)

    def test_an_import_is_taken_back_from_the_survey(self) -> None:
        self.client.post(f"{self.path(self.room_log)}/take", data=self.FIELDS)
        number = self.app.readings.imports("home1")[0].id
        for path in ("/homes/home1/undo", f"/homes/home1/imports/{number}/back"):
            asked = self.client.post(path, data={"base": "2"}) if "undo" in path else self.client.get(path)
            self.assertIn("Take 3\u2009024 readings back?", asked.text)
        self.assertEqual(len(self.app.readings.series("home1")), 3, "asking takes nothing")
        answer = self.client.post(f"/homes/home1/imports/{number}/back")
        self.assertIn("3\u2009024 readings taken back", answer.text)
        self.assertEqual(self.app.readings.series("home1"), [])
        self.assertIn("is not there any more", self.client.post(f"/homes/home1/imports/{number}/back").text)
        answer = self.client.post(f"/homes/home1/imports/{number}/again")
        self.assertIn("3\u2009024 readings brought back", answer.text)
        self.assertEqual(len(self.app.readings.series("home1")), 3)


class Records(Case):
    def test_the_exported_home_is_the_home(self) -> None:
        answer = self.client.get("/homes/home1/home.json")
        self.assertEqual(home_from_json(answer.content), small_home())
        self.assertEqual(json.loads(answer.content)["format"], "warmeter-home/13")
        self.assertIn("attachment", answer.headers["content-disposition"])

    def test_the_saved_strip_stands_alone(self) -> None:
        self.with_logs()
        answer = self.client.get(f"/homes/home1/strip.svg?day={DAY}")
        self.assertEqual(answer.headers["content-type"], "image/svg+xml")
        self.assertNotIn("var(--", answer.text)
        self.assertNotIn('wm-hnd"', answer.text)
        self.assertIn("<pattern", answer.text)

    def test_revisions_are_listed_with_who_and_what(self) -> None:
        self.client.post("/homes/home1/levels/in-use", data={"base": "1", "name": "In use", "heating_c": "19"})
        page = self.get("/homes/home1/survey/record")
        self.assertIn("In use is 19.0 °C", page.texts)
        self.assertIn("Ann", page.texts)

    def test_undo_without_anything_to_undo_is_told(self) -> None:
        answer = self.client.post("/homes/home1/undo", data={"base": "1"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("nothing to undo", answer.text)

    def test_the_spine_tells_honestly_how_far_each_step_is(self) -> None:
        before = " ".join(self.get("/homes/home1/survey").texts)
        self.assertIn("0 of 1 drawn, 0 logged", before)
        self.with_logs()
        after = " ".join(self.get("/homes/home1/survey").texts)
        for words in ("0 of 1 drawn, 1 logged", "0 of 1 rooms fitted", "1 of 1 logged", "priced to 31/12"):
            self.assertIn(words, after)
