"""A backup is everything as it was at one instant; an archive is one home, and comes in under ids of its own."""

import json
import os
import shutil
import stat
import tempfile
import threading
import unittest
import zipfile
from dataclasses import replace
from hashlib import sha256
from pathlib import Path

from sqlalchemy import select, text, update

from tests.edited import save_change
from tests.homes import small_home
from tests.logs import machine_csv, room_csv
from tests.served import NOW_MS, fresh_app
from warmeter.core.units import MS_PER_DAY
from warmeter.service.app import App, Person
from warmeter.service.homes import archiving, editing
from warmeter.service.homes.nightly import NIGHTLY, NightlyBackup
from warmeter.service.jobs.kinds import run_job
from warmeter.service.readings import logs
from warmeter.store.backup import TABLES, restore_backup, write_backup
from warmeter.store.dump import DumpError, DumpReader
from warmeter.store.engine import migrate, open_engine
from warmeter.store.tables import METADATA, REVISION

ANN = Person("Ann")


def read_in(app: App, home_id: str, content: str) -> None:
    """Read a log in as guessed."""
    upload = logs.keep_upload(app, "log.csv", [content.encode()])
    home, _ = app.homes.load(home_id)
    logs.take(app, home_id, upload, logs.proposal(app, home, upload).suggested, ANN)


def lived_in(app: App, *, with_fit: bool = False) -> None:
    """Make a home with logs, an import taken back, an event and an undone edit."""
    editing.create_home(app, small_home(), ANN)
    read_in(app, "home1", room_csv(7))
    read_in(app, "home1", machine_csv(2))
    logs.take_back(app, "home1", app.readings.imports("home1")[0].id, ANN)
    base = app.homes.load("home1")[1]
    base = save_change(app, "home1", base, ANN, "Renamed", lambda home: replace(home, name="New"))
    editing.undo(app, "home1", base, ANN)
    if with_fit:
        run_job(app, app.work.enqueue("home1", "fit", "study", 2, 0))
    app.events.add("home1", "hand", "z-study", 5, "{}", 2)


def content_of(app: App) -> dict[str, list[tuple[object, ...]]]:
    """Return every row of every table."""
    with app.engine.connect() as connection:
        return {
            table.name: [tuple(row) for row in connection.execute(select(table).order_by(*table.primary_key.columns))]
            for table in TABLES
        }


class WithFolder(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        self.folder = Path(tempfile.mkdtemp(prefix="warmeter-backup-"))
        self.addCleanup(shutil.rmtree, self.folder)
        self.path = self.folder / "b.zip"


class Backup(WithFolder):
    def emptied(self) -> None:
        """Leave the run's database without a table."""
        with self.app.engine.begin() as connection:
            for table in reversed(METADATA.sorted_tables):
                connection.execute(text(f"DROP TABLE {table.name}"))
            connection.execute(text("DROP TABLE alembic_version"))
        self.addCleanup(migrate, self.app.engine)

    def test_what_is_restored_is_every_row_as_it_was(self) -> None:
        lived_in(self.app, with_fit=True)
        before = content_of(self.app)
        manifest = write_backup(self.app.engine, self.path, NOW_MS)
        self.assertEqual(manifest.row_count, sum(map(len, before.values())))
        self.emptied()
        restore_backup(self.app.engine, self.path, lambda _: None)
        self.assertEqual(content_of(self.app), before)
        self.assertEqual(stat.S_IMODE(self.path.stat().st_mode), 0o600)

    def test_it_is_of_one_instant_whatever_is_changed_meanwhile(self) -> None:
        lived_in(self.app)
        ending, engine = threading.Event(), open_engine(self.app.engine.url.render_as_string(hide_password=False))
        busy = replace(self.app, engine=engine)

        def edit() -> None:
            while not ending.is_set():
                base = busy.homes.load("home1")[1]
                save_change(
                    busy,
                    "home1",
                    base,
                    ANN,
                    "x",
                    lambda home: replace(home, name=f"{home.name[:3]}{len(home.name) % 2}"),
                )

        thread = threading.Thread(target=edit)
        thread.start()
        try:
            write_backup(self.app.engine, self.path, NOW_MS)
        finally:
            ending.set()
            thread.join()
            engine.dispose()
        self.emptied()
        restore_backup(self.app.engine, self.path, lambda _: None)
        home, number = self.app.homes.load("home1")
        self.assertEqual(number, self.app.homes.revisions("home1")[0].number)
        self.assertEqual(self.app.homes.lines()[0].name, home.name)

    def test_damage_is_told_and_nothing_is_restored(self) -> None:
        lived_in(self.app)
        write_backup(self.app.engine, self.path, NOW_MS)
        data = bytearray(self.path.read_bytes())
        cut, bent, other = (self.folder / f"{k}.zip" for k in range(3))
        cut.write_bytes(data[: len(data) // 2])
        data[len(data) // 3] ^= 0xFF
        bent.write_bytes(data)
        with zipfile.ZipFile(self.path) as old, zipfile.ZipFile(other, "w") as new:
            for name in old.namelist():
                content = old.read(name)
                new.writestr(name, content.replace(b"Ann", b"Eve") if name == "home_revision.jsonl" else content)
        self.emptied()
        for path, why in (
            (cut, "cut off"),
            (bent, "damaged|cut off"),
            (other, "home_revision.jsonl in this file is damaged"),
        ):
            with self.assertRaisesRegex(DumpError, why):
                restore_backup(self.app.engine, path, lambda _: None)
        with self.app.engine.connect() as connection:
            self.assertEqual(connection.execute(text("SHOW TABLES")).all(), [])

    def test_one_of_a_newer_version_and_a_database_with_homes_are_refused(self) -> None:
        lived_in(self.app)
        write_backup(self.app.engine, self.path, NOW_MS)
        with self.assertRaisesRegex(DumpError, "not empty"):
            restore_backup(self.app.engine, self.path, lambda _: None)
        with self.assertRaisesRegex(DumpError, "is there already"):
            write_backup(self.app.engine, self.path, NOW_MS)
        newer = self.folder / "newer.zip"
        with zipfile.ZipFile(self.path) as old, zipfile.ZipFile(newer, "w") as new:
            for name in old.namelist():
                content = old.read(name)
                if name == "manifest.json":
                    content = json.dumps(json.loads(content) | {"schema": "9999"}).encode()
                new.writestr(name, content)
        with self.assertRaisesRegex(DumpError, "newer Warmeter"):
            restore_backup(self.app.engine, newer, lambda _: None)

    def test_a_nightly_one_is_made_when_a_day_has_passed_and_the_oldest_go(self) -> None:
        lived_in(self.app)
        now = [NOW_MS]
        nightly = NightlyBackup(self.app.engine, self.folder, NOW_MS - MS_PER_DAY // 2, 0, lambda: now[0])
        nightly._kept = 3
        self.assertIsNone(nightly.look(), "half a day after the database was made")
        made = []
        for _ in range(5):
            now[0] += MS_PER_DAY
            path = nightly.look()
            assert path is not None
            os.utime(path, (now[0] / 1000, now[0] / 1000))
            self.assertIsNone(nightly.look(), "one a day")
            made.append(path)
        self.assertEqual(sorted((self.folder / "backups").glob(f"{NIGHTLY}*")), made[-3:])


class Archive(WithFolder):
    def stored(self, home_id: str) -> tuple[object, ...]:
        """Return what a person sees of a home: its document but for id and name, history, readings, events, fits."""
        home, number = self.app.homes.load(home_id)
        readings = {
            (s.record.quantity, s.record.subject): self.app.readings.readings(s.id).value.tolist()
            for s in self.app.readings.series(home_id)
        }
        history = [(r.number, r.summary, r.author, r.undoes, r.parent) for r in self.app.homes.revisions(home_id)]
        imports = [(i.file_name, i.added, i.is_taken_back) for i in self.app.readings.imports(home_id)]
        events = [(e.kind, e.subject, e.at_ms, e.detail) for e in self.app.events.of_kind(home_id, "hand")]
        fits = {room: stored.fit.loss_w_k for room, stored in self.app.work.fits(home_id).items()}
        bounds = self.app.readings.bounds(home_id)
        return replace(home, id="x", name="x"), number, readings, history, imports, events, fits, bounds

    def test_it_comes_in_again_as_a_copy_beside_the_home(self) -> None:
        lived_in(self.app, with_fit=True)
        for left in self.app.uploads.glob("archive-*"):
            left.unlink()
        path = archiving.written_archive(self.app, "home1")
        new_id, name = archiving.bring_in_archive(self.app, [path.read_bytes()])
        path.unlink()
        self.assertNotEqual(new_id, "home1")
        self.assertEqual(name, "Reed House (copy)")
        self.assertEqual(self.stored(new_id), self.stored("home1"))
        for revision in self.app.homes.revisions(new_id)[1:]:
            self.assertEqual(self.app.homes.load(new_id, revision.number)[0].id, new_id)
        taken = self.app.readings.imports(new_id)[0]
        logs.bring_back(self.app, new_id, taken.id, ANN)
        self.assertTrue(self.app.readings.imports("home1")[0].is_taken_back, "the first home is left alone")
        self.assertEqual(list(self.app.uploads.glob("archive-*")), [])

    def test_elsewhere_it_keeps_its_id_and_name(self) -> None:
        lived_in(self.app)
        before = self.stored("home1")
        path = archiving.written_archive(self.app, "home1")
        app = fresh_app()
        self.assertEqual(archiving.bring_in_archive(app, [path.read_bytes()]), ("home1", "Reed House"))
        self.assertEqual(self.stored("home1"), before)

    def test_its_documents_and_readings_can_be_read_by_others(self) -> None:
        lived_in(self.app)
        path = archiving.written_archive(self.app, "home1")
        with zipfile.ZipFile(path) as file:
            revision = json.loads(file.read("home_revision.jsonl").splitlines()[0])
            chunk = json.loads(file.read("reading_chunk.jsonl").splitlines()[0])
        self.assertEqual(revision["document"]["json"]["rooms"][0]["name"], "Study")
        self.assertEqual(chunk["count"], len(chunk["data"]["value"]))
        self.assertEqual(chunk["first_ms"], chunk["data"]["at_ms"][0])

    def changed(self, change: object) -> bytes:
        """Return the archive with its rows changed and its digests made to fit."""
        path = archiving.written_archive(self.app, "home1")
        out = self.folder / "changed.zip"
        with DumpReader(path, "warmeter-archive/1") as reader, zipfile.ZipFile(path) as old:
            manifest = json.loads(old.read("manifest.json"))
            self.assertEqual(set(reader.manifest.members), set(manifest["members"]))
            with zipfile.ZipFile(out, "w") as new:
                for name in manifest["members"]:
                    lines = [change(name, json.loads(line)) for line in old.read(name).splitlines()]  # type: ignore[operator]
                    content = b"".join(json.dumps(line).encode() + b"\n" for line in lines)
                    new.writestr(name, content)
                    manifest["members"][name]["sha256"] = sha256(content).hexdigest()
                new.writestr("manifest.json", json.dumps(manifest))
        return out.read_bytes()

    def test_one_with_what_cannot_be_opened_is_refused_and_leaves_nothing(self) -> None:
        lived_in(self.app, with_fit=True)
        before = content_of(self.app)

        def with_value(member: str, column: str, value: object):  # type: ignore[no-untyped-def]
            return lambda name, row: row | {column: value} if name == member else row

        for change in (
            with_value("home_revision.jsonl", "document", {"json": {"format": "x"}}),
            with_value("home_revision.jsonl", "import_id", 99),
            with_value("home_revision.jsonl", "summary", "x" * 500),
            with_value("home_revision.jsonl", "colour", "red"),
            with_value("reading_chunk.jsonl", "series_id", "one"),
            with_value("reading_chunk.jsonl", "data", {"at_ms": [1], "value": ["x"], "import_id": [1]}),
            with_value("reading_chunk.jsonl", "data", {"base64": "%%"}),
            with_value("series.jsonl", "quantity", None),
            with_value("series.jsonl", "colour", "red"),
            with_value("series.jsonl", "unit", ["W"]),
            with_value("series.jsonl", "quantity", "happiness"),
            with_value("series.jsonl", "kind", "guessed"),
            with_value("fit.jsonl", "document", {"json": {}}),
            with_value("home_revision.jsonl", "document", "text"),
            with_value("event.jsonl", "detail", {"x": 1}),
            with_value("event.jsonl", "kind", "by_hand"),
            with_value("job.jsonl", "state", "queued"),
            with_value("home.jsonl", "revision", 77),
        ):
            with self.subTest(str([c.cell_contents for c in change.__closure__])), self.assertRaises(DumpError):
                archiving.bring_in_archive(self.app, [self.changed(change)])
            self.assertEqual(content_of(self.app), before)
        for data in (b"", b"PK\x03\x04", b"x" * 5000):
            with self.assertRaises(DumpError):
                archiving.bring_in_archive(self.app, [data])

    def test_a_home_that_cannot_be_read_is_archived_as_it_is(self) -> None:
        lived_in(self.app)
        with self.app.engine.begin() as connection:
            connection.execute(update(REVISION).where(REVISION.c.number == 1).values(document=b"broken"))
        path = archiving.written_archive(self.app, "home1")
        new_id, _ = archiving.bring_in_archive(self.app, [path.read_bytes()])
        self.assertEqual(self.app.homes.stored(new_id, 1)[0], b"broken")


if __name__ == "__main__":
    unittest.main()
