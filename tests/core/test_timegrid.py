"""Local days of 23, 23.5, 24, 24.5 and 25 hours, skipped and repeated times."""

import unittest
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import TimeError
from warmeter.core.timegrid import LocalClock, from_ms, parse_utc, to_ms, weekday_of_epoch_days


class Days(unittest.TestCase):
    def test_length_of_days_at_clock_changes(self) -> None:
        for zone, on, hours in (
            ("Europe/London", date(2026, 3, 29), 23.0),
            ("Europe/London", date(2026, 10, 25), 25.0),
            ("Australia/Lord_Howe", date(2026, 10, 4), 23.5),
            ("Australia/Lord_Howe", date(2026, 4, 5), 24.5),
            ("America/Santiago", date(2026, 9, 6), 23.0),
            ("UTC", date(2026, 3, 29), 24.0),
        ):
            with self.subTest(zone=zone, on=on):
                self.assertEqual(LocalClock(zone).day(on).hours, hours)

    def test_days_join_without_gap_or_overlap(self) -> None:
        for zone in ("Europe/London", "Australia/Lord_Howe", "America/Santiago"):
            clock = LocalClock(zone)
            for k in range(366):
                on = date(2026, 1, 1) + timedelta(days=k)
                self.assertEqual(clock.day(on).end_ms, clock.day(on + timedelta(days=1)).start_ms, (zone, on))

    def test_a_skipped_time_is_the_moment_of_the_jump(self) -> None:
        clock = LocalClock("Europe/London")
        self.assertEqual(clock.instant(date(2026, 3, 29), 90), to_ms(datetime(2026, 3, 29, 1, 0, tzinfo=UTC)))

    def test_a_repeated_time_is_its_first_coming(self) -> None:
        clock = LocalClock("Europe/London")
        self.assertEqual(clock.instant(date(2026, 10, 25), 90), to_ms(datetime(2026, 10, 25, 0, 30, tzinfo=UTC)))
        self.assertEqual(len(clock.instants_of(datetime(2026, 10, 25, 1, 30))), 2)

    def test_midnight_that_does_not_exist_begins_the_day_at_one(self) -> None:
        clock = LocalClock("America/Santiago")
        start = clock.local(clock.day(date(2026, 9, 6)).start_ms)
        self.assertEqual((start.hour, start.minute), (1, 0))

    def test_unknown_zone_is_refused_with_an_example(self) -> None:
        for name in ("Mars/Olympus", "", "../etc/passwd"):
            with self.assertRaisesRegex(TimeError, "Europe/London"):
                LocalClock(name)

    def test_a_time_without_offset_is_refused(self) -> None:
        with self.assertRaises(TimeError):
            parse_utc("2026-01-01T00:00:00")


class Offsets(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(
        st.sampled_from(
            ["Europe/London", "Australia/Lord_Howe", "America/Santiago", "Asia/Kathmandu", "Africa/Casablanca"]
        ),
        st.integers(1_500_000_000, 1_900_000_000),
        st.integers(1, 400),
    )
    def test_many_offsets_equal_one_by_one(self, zone: str, start_s: int, step_min: int) -> None:
        at = start_s * 1000 + np.arange(300, dtype=np.int64) * step_min * 60_000
        local = [from_ms(int(t)).astimezone(ZoneInfo(zone)) for t in at]
        expected = [(t.utcoffset() or timedelta()) // timedelta(minutes=1) for t in local]
        self.assertEqual(LocalClock(zone).offsets_min(at).tolist(), expected)

    def test_weekdays(self) -> None:
        self.assertEqual(
            weekday_of_epoch_days(np.array([0, 4])).tolist(), [date(1970, 1, 1).weekday(), date(1970, 1, 5).weekday()]
        )
