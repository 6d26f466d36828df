"""Homes, revisions and undo on a real MariaDB."""

import threading
import unittest
from dataclasses import replace
from unittest import mock

from sqlalchemy import text

from tests.edited import save_change
from tests.homes import becoming, small_home
from tests.logs import room_csv
from tests.served import NOW_MS, fresh_app
from warmeter.core.home.document import Home
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.store.engine import migrate
from warmeter.store.homes import FOLD_MS, Change, HomeNotFound, HomeStore, NothingToUndo, RevisionConflict

ANN, BEN = Person("Ann", "w1"), Person("Ben", "w2")


class Revisions(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, small_home(), ANN)

    def rename(self, name: str, base: int, person: Person = ANN, fold: str = "") -> int:
        return save_change(self.app, "home1", base, person, f"named {name}", lambda h: replace(h, name=name), fold)

    def test_every_change_is_a_revision_with_author_and_sentence(self) -> None:
        self.assertEqual(self.rename("Two", 1), 2)
        newest = self.app.homes.revisions("home1")[0]
        self.assertEqual((newest.number, newest.parent, newest.author, newest.summary), (2, 1, "Ann", "named Two"))
        self.assertEqual(self.app.homes.load("home1", 1)[0].name, "Reed House")

    def test_a_later_writer_is_told(self) -> None:
        self.rename("Two", 1)
        with self.assertRaises(RevisionConflict) as caught:
            self.rename("Mine", 1, BEN)
        self.assertEqual(caught.exception.latest, 2)
        self.assertEqual(self.app.homes.load("home1")[0].name, "Two")

    def test_two_at_once_never_both_win(self) -> None:
        outcomes: list[str] = []

        def write(name: str) -> None:
            try:
                self.rename(name, 1)
                outcomes.append("saved")
            except RevisionConflict:
                outcomes.append("told")

        threads = [threading.Thread(target=write, args=(f"N{k}",)) for k in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(outcomes), ["saved"] + ["told"] * 5)

    def test_quick_edits_of_one_field_fold_and_still_move_the_counter(self) -> None:
        self.rename("A", 1, fold="name")
        self.rename("B", 2, fold="name")
        revisions = self.app.homes.revisions("home1")
        self.assertEqual([(r.number, r.parent) for r in revisions], [(3, 1), (1, 0)])
        with self.assertRaises(RevisionConflict):
            self.rename("stale", 2)

    def test_edits_of_another_window_or_later_do_not_fold(self) -> None:
        self.rename("A", 1, fold="name")
        self.rename("B", 2, BEN, fold="name")
        self.assertEqual(len(self.app.homes.revisions("home1")), 3)
        late = Change(base=3, author="Ben", summary="late", at_ms=NOW_MS + FOLD_MS + 1, fold="w2:name")
        self.app.homes.save(replace(self.app.homes.load("home1")[0], name="C"), late)
        self.assertEqual(len(self.app.homes.revisions("home1")), 4)

    def test_undo_appends_and_walks_back(self) -> None:
        self.rename("Two", 1)
        self.rename("Three", 2)
        names = []
        for base in (3, 4):
            editing.undo(self.app, "home1", base, BEN)
            names.append(self.app.homes.load("home1")[0].name)
        self.assertEqual(names, ["Two", "Reed House"])
        newest = self.app.homes.revisions("home1")[0]
        self.assertEqual((newest.number, newest.undoes), (5, 2))
        self.assertIn("by Ann", newest.summary)
        with self.assertRaises(NothingToUndo):
            editing.undo(self.app, "home1", 5, BEN)

    def test_a_change_that_changes_nothing_is_none(self) -> None:
        self.assertEqual(self.rename("Reed House", 1), 1)

    def test_names_in_any_script_and_equal_but_for_accents_stay_apart(self) -> None:
        for k, name in enumerate(("Küche", "Kuche", "部屋", "<b>😀</b>", "O'Neill; DROP TABLE home")):
            self.app.homes.create(replace(small_home(), id=f"n{k}", name=name), author="x", at_ms=1, summary="s")
        self.assertEqual(len({line.name for line in self.app.homes.lines()}), 6)
        self.assertEqual(self.app.homes.load("n3")[0].name, "<b>😀</b>")

    def test_no_such_home_or_revision(self) -> None:
        for home_id, number in (("nope", None), ("home1", 99)):
            with self.assertRaises(HomeNotFound):
                self.app.homes.load(home_id, number)

    def test_migrating_twice_changes_nothing(self) -> None:
        migrate(self.app.engine)
        with self.app.engine.connect() as connection:
            collation = connection.execute(text("SELECT @@collation_database")).scalar()
        self.assertEqual(collation, "utf8mb4_bin")


class ReadMeanwhile(unittest.TestCase):
    def test_a_home_is_there_at_every_instant_of_a_series_of_edits_that_become_one(self) -> None:
        app, ending = fresh_app(), threading.Event()
        editing.create_home(app, small_home(), ANN)

        def edit() -> None:
            base = 1
            for k in range(150):
                change = replace(small_home(), name=f"House {k}")
                base = save_change(app, "home1", base, ANN, "named", becoming(change), "name")
            ending.set()

        thread = threading.Thread(target=edit)
        thread.start()
        try:
            while not ending.is_set():
                home, number = app.homes.load("home1")
                self.assertEqual(home.name, f"House {number - 2}" if number > 1 else "Reed House")
        finally:
            thread.join()


class Imports(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        self.home: Home = small_home()
        editing.create_home(self.app, self.home, ANN)

    def take(self, content: str, name: str = "log.csv"):  # type: ignore[no-untyped-def]
        upload = logs.keep_upload(self.app, name, [content.encode()])
        plan = logs.proposal(self.app, self.home, upload).suggested
        return logs.take(self.app, "home1", upload, plan, ANN)

    def values(self) -> dict[str, list[float]]:
        return {
            s.record.quantity: self.app.readings.readings(s.id).value.tolist()
            for s in self.app.readings.series("home1")
        }

    def test_readings_come_back_exactly(self) -> None:
        self.take("time,Study °C\n2026-01-05 23:50,20.1\n2026-01-06 00:10,0.30000000000000004\n")
        self.assertEqual(self.values(), {"room_temperature": [20.1, 0.30000000000000004]})

    def test_the_same_file_again_adds_nothing_and_is_no_revision(self) -> None:
        content = room_csv(2)
        first = self.take(content)
        before = self.values()
        again = self.take(content)
        self.assertEqual((again.added, again.equal), (0, first.added))
        self.assertEqual(self.values(), before)
        self.assertEqual(self.app.homes.load("home1")[1], 2)
        self.assertEqual(len(self.app.readings.imports("home1")), 1)

    def test_another_files_half_of_a_day_stays(self) -> None:
        lines = room_csv(1).splitlines()
        self.take("\n".join([lines[0], *lines[1:73]]))
        self.take("\n".join([lines[0], *lines[60:]]))
        self.assertEqual({len(v) for v in self.values().values()}, {144})

    def test_a_different_value_is_counted_and_what_was_there_is_kept(self) -> None:
        self.take("time,Study °C\n2026-01-05 00:00,20.1\n2026-01-05 00:10,20.2\n")
        merged = self.take("time,Study °C\n2026-01-05 00:00,25.0\n2026-01-05 00:10,20.2\n2026-01-05 00:20,20.3\n")
        self.assertEqual((merged.added, merged.equal, merged.different), (1, 1, 1))
        self.assertEqual(self.values()["room_temperature"], [20.1, 20.2, 20.3])

    def test_taking_back_removes_exactly_an_imports_values(self) -> None:
        lines = room_csv(2).splitlines()
        self.take("\n".join([lines[0], *lines[1:100]]))
        before = self.values()
        second = self.take("\n".join([lines[0], *lines[50:]]))
        removed = logs.take_back(self.app, "home1", second.import_id, BEN)
        self.assertEqual(removed, second.added)
        self.assertEqual(self.values(), before)
        with self.assertRaises(ValueError):
            logs.take_back(self.app, "home1", second.import_id, BEN)

    def test_undo_takes_an_import_back(self) -> None:
        self.take(room_csv(1))
        editing.undo(self.app, "home1", 2, BEN)
        self.assertEqual(self.values(), {})
        self.assertTrue(self.app.readings.imports("home1")[0].is_taken_back)

    def test_an_import_that_was_undone_is_done_again(self) -> None:
        self.take(room_csv(1))
        before = self.values()
        editing.undo(self.app, "home1", 2, BEN)
        editing.redo(self.app, "home1", 3, BEN)
        self.assertEqual(self.values(), before)
        editing.undo(self.app, "home1", 4, BEN)
        self.assertEqual(self.values(), {})
        editing.redo(self.app, "home1", 5, BEN)
        self.assertEqual(self.values(), before)
        with self.assertRaisesRegex(ValueError, "not taken back"):
            logs.bring_back(self.app, "home1", self.app.readings.imports("home1")[0].id, BEN)

    def test_what_came_meanwhile_stays_when_an_import_is_brought_back(self) -> None:
        first = self.take("time,Study °C\n2026-01-05 00:00,20.1\n2026-01-05 00:10,20.2\n")
        logs.take_back(self.app, "home1", first.import_id, BEN)
        self.take("time,Study °C\n2026-01-05 00:10,25.0\n2026-01-05 00:20,25.0\n")
        merged = logs.bring_back(self.app, "home1", first.import_id, BEN)
        self.assertEqual((merged.added, merged.different), (1, 1))
        self.assertEqual(self.values()["room_temperature"], [20.1, 25.0, 25.0])

    def test_an_import_taken_back_from_below_leaves_the_edits_above_it(self) -> None:
        first = self.take(room_csv(1))
        renamed = save_change(self.app, "home1", 2, ANN, "Renamed", lambda home: replace(home, name="New"))
        logs.take_back(self.app, "home1", first.import_id, BEN)
        self.assertEqual(self.app.homes.load("home1")[0].name, "New")
        editing.undo(self.app, "home1", renamed + 1, BEN)
        self.assertEqual(self.app.homes.load("home1")[0].name, self.home.name)
        editing.redo(self.app, "home1", renamed + 2, BEN)
        self.assertEqual((self.app.homes.load("home1")[0].name, self.values()), ("New", {}))

    def test_an_edit_made_before_an_import_ended_is_saved_on_top_of_it(self) -> None:
        self.take(room_csv(1))
        saved = save_change(self.app, "home1", 1, ANN, "Renamed", lambda home: replace(home, name="New"))
        self.assertEqual((saved, self.app.homes.load("home1")[0].name), (3, "New"))
        with self.assertRaises(RevisionConflict):
            save_change(self.app, "home1", 1, BEN, "Renamed", lambda home: replace(home, name="Other"))

    def test_none_or_all_of_it_when_the_last_step_fails(self) -> None:
        upload = logs.keep_upload(self.app, "log.csv", [room_csv(2).encode()])
        plan = logs.proposal(self.app, self.home, upload).suggested
        with mock.patch.object(HomeStore, "save", side_effect=RevisionConflict(1)), self.assertRaises(RevisionConflict):
            logs.take(self.app, "home1", upload, plan, ANN)
        self.assertEqual(self.values(), {})
        self.assertEqual(self.app.readings.imports("home1"), [])
        self.assertEqual(logs.find_upload(self.app, upload.token).digest, upload.digest, "the file still waits")

    def test_as_of_is_the_last_reading_unless_set(self) -> None:
        self.assertEqual(self.app.as_of_ms("home1"), NOW_MS // 60_000 * 60_000)
        self.take("time,Study °C\n2026-01-05 00:00,20.1\n2026-01-05 00:10,20.2\n")
        self.assertEqual(self.app.as_of_ms("home1"), 1_767_571_800_000)
        self.app.homes.set_as_of("home1", 5)
        self.assertEqual(self.app.as_of_ms("home1"), 5)

    def test_files_that_are_none_are_refused_and_leave_nothing(self) -> None:
        before = set(self.app.uploads.glob("*"))
        for content, why in (
            ([], "empty"),
            ([b"time,Study\n", *[b"x" * 2**18] * 5], "line 2 is longer than 1 MB"),
            ([b"\n" * 10**6] * 11, "10 million lines"),
            ([b"PK\x00\x01"], "no text table"),
        ):
            with self.assertRaisesRegex(ValueError, why):
                logs.keep_upload(self.app, "x.csv", content)
        with mock.patch.object(logs, "LOG_BYTES", 1000), self.assertRaisesRegex(ValueError, "taken up to 1 GB"):
            logs.keep_upload(self.app, "x.csv", [b"2026-01-05 00:00,20.1\n"] * 50)
        self.assertEqual(set(self.app.uploads.glob("*")), before)
        for token in ("../../etc/passwd", "0" * 16):
            with self.assertRaisesRegex(ValueError, "choose it again"):
                logs.find_upload(self.app, token)

    def test_latin_letters_are_read(self) -> None:
        upload = logs.keep_upload(self.app, "x.csv", ["time,Außen\n".encode("cp1252")])
        self.assertEqual(list(logs.lines_of(self.app, upload)), ["time,Außen"])
