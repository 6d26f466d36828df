"""Pages ask for what they show: none that is opened daily reads a series from its first reading to its last."""

from unittest import mock

from tests.web.test_pages import Case
from warmeter.core.readings.record import Readings
from warmeter.core.units import MS_PER_DAY
from warmeter.service.app import Person
from warmeter.service.readings import logs
from warmeter.store.readings import ReadingStore

LONGEST_DAYS = 370  # the ribbon shows a year


class LongLogs(Case):
    def test_no_page_of_every_day_reads_a_log_whole(self) -> None:
        self.with_logs()
        asked: list[tuple[str, int | None, int | None]] = []
        page, real = "", ReadingStore.readings

        def noted(store: ReadingStore, key: int, start_ms: int | None = None, end_ms: int | None = None) -> Readings:
            asked.append((page, start_ms, end_ms))
            return real(store, key, start_ms, end_ms)

        with mock.patch.object(ReadingStore, "readings", noted):
            for page in ("survey/record", "survey", "zones", "timetable", "warmup", "rules", "sheet", "revisions"):
                self.get(f"/homes/home1/{page}?look=1")
        self.assertTrue(asked)
        for name, start_ms, end_ms in asked:
            assert start_ms is not None and end_ms is not None, name
            self.assertLess((end_ms - start_ms) / MS_PER_DAY, LONGEST_DAYS, name)

    def test_the_record_counts_readings_without_opening_them(self) -> None:
        self.with_logs()
        ribbon = "outdoor_temperature"
        series = {s.id: s.record.quantity for s in self.app.readings.series("home1")}
        opened: set[str] = set()
        real = ReadingStore.readings

        def noted(store: ReadingStore, key: int, *span: int | None) -> Readings:
            opened.add(series[key])
            return real(store, key, *span)

        with mock.patch.object(ReadingStore, "readings", noted):
            found = self.get("/homes/home1/survey/record?look=2")
        self.assertLessEqual(opened, {ribbon})
        counts = sorted(self.app.readings.readings(key).at_ms.size for key in series)
        for count in counts:
            self.assertTrue(
                any(f"{count:,}".replace(",", "\u2009") in t or str(count) in t for t in found.texts), count
            )

    def test_the_room_says_which_days_it_is_not_learnt_from(self) -> None:
        home, _ = self.app.homes.load("home1")
        rows = ["time,Study temperature [°C],Outdoor temperature [°C],Study heat [W]"]
        days = ["1995-01-05", *(f"2026-01-{day:02d}" for day in range(5, 25))]
        rows += [f"{day}T{hour:02d}:00:00Z,20,5,400" for day in days for hour in range(24)]
        upload = logs.keep_upload(self.app, "log.csv", ["\n".join(rows).encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, Person("Ann"))
        told = " ".join(self.get("/homes/home1/warmup").texts)
        self.assertIn("1 day of the log before Mon 5 Jan 2026 is not used", told)
        self.assertNotIn("clock that was not set", told)
