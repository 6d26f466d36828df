"""One home that cannot be read never harms the others; what cannot be opened again is not stored; homes go and come back."""

import re
import unittest
from dataclasses import replace
from unittest import mock

import zstandard
from sqlalchemy import update

from tests.edited import save_change
from tests.homes import becoming, small_home
from tests.web.test_pages import ANN, Case
from warmeter.core.errors import WarmeterError
from warmeter.core.home.devices import Device, Identity
from warmeter.core.units import MS_PER_DAY
from warmeter.service.homes import editing, keeping
from warmeter.store.homes import Change, HomeNotFound, HomeStore, HomeUnreadable
from warmeter.store.tables import REVISION

PAGES = ("survey", "heating", "zones", "timetable", "warmup", "signatures", "rules", "sheet", "revisions")


class Cache(Case):
    def words(self, path: str) -> str:
        """Return a page's words, each run of spaces one."""
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, 200)
        return re.sub(r"\s+", " ", re.sub(r"<[^>]*>", " ", answer.text))


class Unreadable(Cache):
    def setUp(self) -> None:
        super().setUp()
        editing.create_home(self.app, replace(small_home(), id="other", name="Other house"), ANN)

    def damage(self, document: bytes) -> None:
        """Lay something that cannot be read in the newest revision of the first home, the second of it."""
        home, base = self.app.homes.load("home1")
        again = replace(home, name="Spoilt house")
        self.app.homes.save(again, Change(base=base, author="Ann", summary="named", at_ms=self.app.now_ms()))
        here = (REVISION.c.home_id == "home1") & (REVISION.c.number == 2)
        with self.app.engine.begin() as connection:
            connection.execute(update(REVISION).where(here).values(document=document))

    def test_each_kind_of_damage_leaves_the_list_and_the_other_home_open(self) -> None:
        for damage, words in (
            (b"no bytes of any archive", "its bytes are damaged"),
            (zstandard.compress(b'{"id": "home1", "format": "warmeter-home/99"}'), "warmeter-home/99"),
            (zstandard.compress(b'{"id": 7, "format": "warmeter-home/7"}'), "id"),
            (zstandard.compress(b"[]"), ""),
        ):
            with self.subTest(damage[:20]):
                self.setUp()
                self.damage(damage)
                page = self.words("/")
                self.assertIn("Spoilt house cannot be read", page)
                self.assertIn("Other house", page)
                self.assertIn(words, page)
                for name in PAGES:
                    self.assertEqual(self.client.get(f"/homes/other/{name}").status_code, 200)
                    self.assertEqual(self.client.get(f"/homes/home1/{name}").status_code, 422, name)
                self.assertEqual(self.client.get("/homes/home1/stored").status_code, 200)

    def test_its_earlier_revision_is_a_press_away_and_nothing_after_it_is_lost(self) -> None:
        self.damage(b"damaged")
        page = self.words("/homes/home1/unreadable")
        self.assertIn("Earlier revisions that can be read", page)
        answer = self.client.post("/homes/home1/go-back", data={"number": "1"}, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)
        home, number = self.app.homes.load("home1")
        self.assertEqual((home.name, number), (small_home().name, 3))
        self.assertEqual([r.number for r in self.app.homes.revisions("home1")], [3, 2, 1])
        self.assertEqual(self.client.get("/homes/home1/unreadable", follow_redirects=False).status_code, 303)
        with self.assertRaises(HomeUnreadable):
            keeping.go_back(self.app, "home1", 2, ANN)


class ReadBack(Case):
    def test_what_could_not_be_opened_again_is_refused_with_its_place(self) -> None:
        home, base = self.app.homes.load("home1")
        long = Device(id="d", name="D", kind="contact", identities=(Identity(address="a" * 500),))
        for wrong in (
            replace(home, devices=(long,)),
            replace(home, rooms=tuple(replace(r, name="n" * 81) for r in home.rooms)),
            replace(home, rooms=tuple(replace(r, height_m=-1.0) for r in home.rooms)),
        ):
            with self.assertRaisesRegex(WarmeterError, "nothing was changed"):
                save_change(self.app, "home1", base, ANN, "wrong", becoming(wrong))
        self.assertEqual(self.app.homes.load("home1"), (home, base))

    def test_ids_that_cannot_stand_in_an_address_and_zones_that_do_not_exist_are_refused(self) -> None:
        home = small_home()
        for odd in ("a/b", "a?b", "a#b", "100%", "a\x00b", "a\nb", " a", ".."):
            with self.assertRaises(WarmeterError):
                replace(home, id=odd)
        with self.assertRaisesRegex(WarmeterError, "not a time zone"):
            replace(home, time_zone="Europe/Nowhere")
        text = self.client.get("/homes/home1/home.json").text.replace('"Europe/London"', '"Europe/Nowhere"')
        answer = self.client.post("/homes/bring-in", files={"file": ("h.json", text)})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("not a time zone", answer.text)


class TakenAway(Cache):
    def test_a_home_goes_by_its_name_comes_back_and_is_gone_after_thirty_days(self) -> None:
        self.with_logs()
        name = self.app.homes.load("home1")[0].name
        wrong = self.client.post("/homes/home1/take-away", data={"name": "Another"})
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("just as it stands", wrong.text)
        self.client.post("/homes/home1/take-away", data={"name": name})
        self.assertEqual(self.client.get("/homes/home1/survey").status_code, 404)
        self.assertIn("gone for good in 30 days", self.words("/"))
        self.client.post("/homes/home1/bring-back")
        self.assertEqual(self.client.get("/homes/home1/survey").status_code, 200)
        self.client.post("/homes/home1/take-away", data={"name": name})
        self.app.homes.take_away("home1", self.app.now_ms() - 31 * MS_PER_DAY)
        self.assertEqual(keeping.remove_old(self.app), [name])
        self.assertEqual(self.app.homes.all_lines(), [])
        self.assertEqual(self.app.readings.series("home1"), [])
        with self.assertRaises(HomeNotFound):
            self.app.homes.take_away("home1", None)


class Archives(Cache):
    def test_a_home_is_saved_whole_taken_away_for_good_and_brought_in_again(self) -> None:
        self.with_logs()
        answer = self.client.get("/homes/home1/archive.zip")
        self.assertEqual(answer.headers["content-disposition"], 'attachment; filename="home1.zip"')
        self.assertIn("/homes/home1/archive.zip", self.client.get("/homes/home1/take-away").text)
        keeping.take_away(self.app, "home1", "Reed House")
        self.app.homes.remove_for_good(self.app.now_ms() + 1)
        back = self.client.post("/homes/bring-in", files={"file": ("home1.zip", answer.content)})
        self.assertIn("Reed House is imported with its revisions, readings and results", back.text)
        self.assertEqual(len(self.app.homes.revisions("home1")), 3)
        self.assertIn("room.csv", self.client.get("/homes/home1/survey/record").text)

    def test_what_is_no_archive_is_refused_in_words(self) -> None:
        answer = self.client.post("/homes/bring-in", files={"file": ("x.zip", b"PK\x03\x04" + b"x" * 99)})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("this file is no warmeter-archive, or it is cut off", answer.text)


class Listed(Cache):
    def test_a_home_that_was_listed_is_opened_again_only_when_it_was_changed(self) -> None:
        self.words("/")
        with mock.patch.object(HomeStore, "stored", side_effect=AssertionError("a home was opened")):
            self.assertIn("Reed House", self.words("/"))
        save_change(self.app, "home1", 1, ANN, "named", lambda home: replace(home, name="New House"))
        self.assertIn("New House", self.words("/"))

    def test_many_homes_are_listed_fifty_at_a_time(self) -> None:
        for k in range(60):
            editing.create_home(self.app, replace(small_home(), id=f"h{k}", name=f"House {k:02}"), ANN)
        first, second = self.words("/"), self.words("/?page=1")
        self.assertIn("61 homes", first)
        self.assertIn("House 49", first)
        self.assertNotIn("House 50", first)
        self.assertIn("House 50", second)
        self.assertIn("Reed House", second)
        self.assertEqual(self.words("/?page=99"), second)


if __name__ == "__main__":
    unittest.main()
