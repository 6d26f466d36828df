"""Requests that no page makes get an answer of their own, never an error of the server's."""

import unittest
from unittest import mock

from tests.web.test_pages import Case
from warmeter.store.engine import DatabaseAway
from warmeter.store.homes import HomeStore

ODD = ("²", "-1", "1e999", "9" * 5000, "nan", "\u202e", "٣", "%00", "")


class Odd(Case):
    def test_any_word_in_any_place_of_an_address_is_answered(self) -> None:
        for page in (
            "timetable?",
            "timetable?pane=week&",
            "survey?",
            "zones?",
            "rules?",
            "sheet?",
            "warmup?",
            "signatures?",
            "sun?",
            "panel?",
            "tasks?",
            "ducts?",
            "devices?",
        ):
            for key in ("w", "day", "low", "zone", "rule", "from", "to", "at", "show", "minute", "slot", "on", "side"):
                for word in ODD:
                    status = self.client.get(f"/homes/home1/{page}{key}={word[:300]}").status_code
                    self.assertLess(status, 500, (page, key, word[:20]))

    def test_a_machine_without_a_name_or_kind_is_refused_at_the_field(self) -> None:
        for fields in ({}, {"name": "Washer"}, {"kind": "washing"}):
            answer = self.client.post("/homes/home1/signatures/new", data={"base": "1", **fields})
            self.assertEqual(answer.status_code, 422, fields)
            self.assertIn("This has to be there", answer.text)

    def test_a_post_from_elsewhere_is_refused_however_it_says_so(self) -> None:
        for headers in (
            {"Origin": "http://["},
            {"Origin": "null"},
            {"Origin": "http://elsewhere.example"},
            {"Referer": "http://elsewhere.example/form"},
            {"Referer": "http://["},
            {"Sec-Fetch-Site": "cross-site"},
        ):
            answer = self.client.post("/homes/home1/undo", data={"base": "1"}, headers=headers)
            self.assertEqual(answer.status_code, 403, headers)
        own = {"Referer": "http://127.0.0.1:8470/homes/home1/survey"}
        self.assertNotEqual(self.client.post("/homes/home1/undo", data={"base": "1"}, headers=own).status_code, 403)

    def test_while_the_database_is_away_pages_say_so_and_try_again(self) -> None:
        gone = DatabaseAway("gone")
        with mock.patch.multiple(HomeStore, load=mock.DEFAULT, revisions=mock.DEFAULT) as methods:
            for method in methods.values():
                method.side_effect = gone
            shown = self.client.get("/homes/home1/survey")
            sent = self.client.post("/homes/home1/undo", data={"base": "1"})
        for answer in (shown, sent):
            self.assertEqual((answer.status_code, answer.headers["retry-after"]), (503, "2"))
            self.assertIn("The database is being restarted", answer.text)
        self.assertEqual(shown.headers["refresh"], "2")
        self.assertNotIn("refresh", sent.headers)
        self.assertNotIn("Everything as it was", sent.text)

    def test_what_is_too_large_gets_a_page_that_says_the_limit(self) -> None:
        large = "x" * (17 * 1024 * 1024)
        for path, data, limit in (
            ("/homes/home1/undo", {"base": large[:600_000]}, "512 KB"),
            ("/homes/home1/rooms.csv", {"file": large}, "16 MB"),
        ):
            content = {"files": data} if "file" in data else {"data": data}
            answer = self.client.post(path, **content)
            self.assertEqual(answer.status_code, 413, path)
            self.assertIn(f"larger than the {limit}", answer.text)
            self.assertIn("/static/css/", answer.text)
            self.assertIn("default-src 'none'", answer.headers["content-security-policy"])
        answer = self.client.post("/homes/bring-in", files={"file": large})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("larger than 16 MB", answer.text)
        endless = self.client.post("/homes/home1/undo", data={"base": "1"}, headers={"Content-Length": "9" * 5000})
        self.assertEqual(endless.status_code, 413)
        self.assertEqual(self.client.post("/homes/home1/undo", content=iter([b"base=1"])).status_code, 411)

    def test_a_file_of_a_home_is_taken_up_to_its_limit(self) -> None:
        text = self.client.get("/homes/home1/home.json").text
        padded = text.replace("{", "{" + " " * (15 * 1024 * 1024), 1)
        answer = self.client.post("/homes/bring-in", files={"file": ("home.json", padded)}, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)

    def test_files_of_any_content_are_refused_in_words(self) -> None:
        deep = "[" * 50_000 + "]" * 50_000
        for content in (
            deep,
            '{"a":' * 5000 + "1" + "}" * 5000,
            "\x00",
            "[]",
            '{"format": "warmeter-home/1"}',
            "x" * 300_000,
            "zone,kind of day,start,level\n" + "y" * 140_000 + ",a,b,c\n",
        ):
            for path in (
                "/homes/bring-in",
                "/homes/home1/home.json",
                "/homes/home1/rules/read",
                "/homes/home1/rooms.csv",
                "/homes/home1/timetable-file",
            ):
                answer = self.client.post(path, data={"base": "1"}, files={"file": ("f", content)})
                self.assertLess(answer.status_code, 500, (path, content[:20]))
        self.assertEqual(self.app.homes.load("home1")[1], 1)
        self.assertEqual(len(self.app.homes.lines()), 1)


if __name__ == "__main__":
    unittest.main()
