"""Times that cannot be meant are left out and told; nothing costs more for a longer span."""

import unittest
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np

from warmeter.core.readings.csvlog import Column, ImportMapping, ReadLog, TakenSeries
from warmeter.core.readings.logtable import read, within_bounds
from warmeter.core.readings.record import Readings, SeriesRecord
from warmeter.core.timegrid import LocalClock

PLAN = ImportMapping(
    delimiter=",",
    decimal=".",
    heading_line=1,
    time_column=0,
    date_format="year-month-day",
    clock="home",
    columns=(
        Column(
            index=1,
            heading="Outdoor",
            quantity="outdoor_temperature",
            unit="°C",
            kind="instant",
            stamp="instant",
            subject="",
        ),
    ),
    latest_ms=int(datetime(2028, 1, 1, tzinfo=UTC).timestamp() * 1000),
)


def taken(zone: str, *times: str, plan: ImportMapping = PLAN) -> ReadLog:
    return read(["time,Outdoor", *(f"{t},{k}" for k, t in enumerate(times))], plan, LocalClock(zone))


class Bounds(unittest.TestCase):
    def test_a_clock_that_was_not_set_is_told_by_its_lines_and_the_rest_is_taken(self) -> None:
        for zone in ("Pacific/Auckland", "Europe/London", "America/Santiago"):
            for odd in (
                "0001-01-01 00:00",
                "1026-01-12 00:00",
                "1970-01-01 00:00",
                "2200-05-01 00:00",
                "9999-12-31 23:59",
            ):
                with self.subTest(zone=zone, odd=odd):
                    found = taken(zone, odd, odd, "2026-01-12 00:00", "2026-01-12 00:05")
                    self.assertEqual(found.series[0].readings.at_ms.size, 2)
                    refusal = found.refusals[0]
                    self.assertEqual((refusal.first, refusal.last, refusal.outcome), (2, 3, "refused"))
                    self.assertIn("lies outside 01 Jan 1990 to 01 Jan 2028", refusal.reason)

    def test_what_is_typed_otherwise_is_taken(self) -> None:
        wide = replace(PLAN, earliest_ms=-(10**12))
        found = taken("Europe/London", "1970-06-01 00:00", "2026-01-12 00:00", plan=wide)
        self.assertEqual(found.series[0].readings.at_ms.size, 2)
        self.assertLessEqual(found.series[0].record.step_s, 366 * 86_400)

    def test_a_file_that_tells_its_own_times_keeps_to_them_too(self) -> None:
        record = SeriesRecord(
            quantity="grid_import_w", unit="Wh", kind="sum", stamp="start", step_s=900, longest_hold_s=2700, subject=""
        )
        at = np.array([-(10**14), 1_768_176_000_000, 10**15])
        series = TakenSeries(record=record, readings=Readings(at, np.ones(3)), heading="import", left_out=0)
        log = ReadLog(series=(series,), refusals=(), lines=3, first_ms=int(at[0]), last_ms=int(at[-1]))
        found = within_bounds(log, PLAN)
        self.assertEqual(found.series[0].readings.at_ms.tolist(), [1_768_176_000_000])
        self.assertEqual((found.first_ms, found.last_ms), (1_768_176_000_000, 1_768_176_000_000))
        self.assertIn("2 intervals", found.refusals[0].reason)


if __name__ == "__main__":
    unittest.main()
