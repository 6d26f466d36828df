"""What a long silence parts: a room and a machine are learnt from the newest stretch that was heard, never from its span."""

import unittest

import numpy as np

from tests.homes import small_home
from tests.served import fresh_app
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.timegrid import parse_utc
from warmeter.service.app import App, Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.service.readings.room_logs import (
    LONGEST_DAYS,
    days_left_out,
    heard_stretch,
    instants,
    means,
    room_log,
    series_of,
)
from warmeter.service.signatures.machines import power_of

ANN = Person("Ann")
HEAD = "time,Study temperature [°C],Outdoor temperature [°C],Study heater power [W],Washer power [W]"


class Stretches(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, small_home(), ANN)

    def take(self, *days: str, hours: int = 24) -> None:
        """Read in days of hours, each with a temperature of its hour."""
        rows = [f"{day}T{h:02d}:00:00Z,{10 + h},{h},{100 * h},{h}" for day in days for h in range(hours)]
        home, _ = self.app.homes.load("home1")
        upload = logs.keep_upload(self.app, "log.csv", ["\n".join([HEAD, *rows]).encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)

    def assert_left_out(self, app: App, home: Home, room: Room, *, before: int, after: int) -> None:
        found = days_left_out(app, home, room)
        self.assertEqual((found.before, found.after), (before, after))

    def stretch(self) -> tuple[int, int]:
        return heard_stretch(self.app, series_of(self.app, "home1", "room_temperature", "study"))

    def test_days_a_lifetime_apart_are_no_log_of_a_lifetime(self) -> None:
        self.take("1990-01-05", "1990-01-06", "2026-01-05", "2026-01-06", "2026-01-07")
        self.assertEqual(self.stretch(), (parse_utc("2026-01-05T00:00:00Z"), parse_utc("2026-01-07T23:00:00Z")))
        home, _ = self.app.homes.load("home1")
        power, start_ms, step_s = power_of(self.app, home, home.appliances[0])
        self.assertEqual((start_ms, step_s, power.size), (parse_utc("2026-01-05T00:00:00Z"), 3600.0, 72))
        self.assertEqual(room_log(self.app, home, home.rooms[0]).log.heat_w.size, 71)

    def test_one_day_of_a_clock_set_wrong_is_not_the_newest_log(self) -> None:
        self.take(*(f"2026-01-{d:02d}" for d in range(5, 25)))
        self.take("2026-12-24", hours=2)
        first, last = self.stretch()
        self.assertEqual(first, parse_utc("2026-01-05T00:00:00Z"))
        self.assertLess(last, parse_utc("2026-01-25T00:00:00Z"))

    def test_a_silence_of_weeks_parts_nothing(self) -> None:
        self.take("2025-11-20", "2026-01-05")
        self.assertEqual(self.stretch()[0], parse_utc("2025-11-20T00:00:00Z"))

    def test_many_short_stretches_leave_the_newest_of_the_longest(self) -> None:
        self.take(*(f"{year}-01-05" for year in range(2000, 2026)))
        self.assertEqual(self.stretch()[0], parse_utc("2025-01-05T00:00:00Z"))

    def test_a_room_is_learnt_from_a_year_at_most(self) -> None:
        months = [
            f"{year}-{month:02d}-{day:02d}" for year in (2023, 2024, 2025) for month in range(1, 13) for day in (5, 20)
        ]
        self.take(*months, hours=1)
        home, _ = self.app.homes.load("home1")
        logged = room_log(self.app, home, home.rooms[0])
        days = logged.log.heat_w.size * logged.log.step_s / 86_400
        self.assertAlmostEqual(days, LONGEST_DAYS, delta=1)

    def test_days_before_and_after_what_is_learnt_from_are_counted(self) -> None:
        home, room = small_home(), small_home().rooms[0]
        self.take("1990-01-05", "1990-01-06", *(f"2026-01-{d:02d}" for d in range(5, 25)))
        self.assert_left_out(self.app, home, room, before=2, after=0)
        self.take("2026-12-24", hours=2)
        self.assert_left_out(self.app, home, room, before=2, after=1)

    def test_a_short_log_is_learnt_from_whole(self) -> None:
        self.take("2025-11-20", "2026-01-05")
        self.assert_left_out(self.app, small_home(), small_home().rooms[0], before=0, after=0)

    def test_where_the_first_series_is_silent_the_next_speaks(self) -> None:
        self.take("2026-01-05", "2026-01-06")
        home, _ = self.app.homes.load("home1")
        rows = [f"2026-01-07T{h:02d}:00:00Z,{h}" for h in range(24)]
        upload = logs.keep_upload(self.app, "washer.csv", ["\n".join(["time,Washer power [W]", *rows]).encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)
        start = parse_utc("2026-01-04T22:00:00Z")
        heat = series_of(self.app, "home1", "heat_w", "study")
        power = series_of(self.app, "home1", "electric_w", "washer")
        found = means(self.app, [*heat, *power], start, 3600.0, 76)
        np.testing.assert_allclose(found[2:50], [100.0 * (k % 24) for k in range(48)])
        np.testing.assert_allclose(found[50:74], range(24))
        self.assertTrue(np.isnan(found[[0, 1, 74, 75]]).all())
        room = series_of(self.app, "home1", "room_temperature", "study")
        outdoor = series_of(self.app, "home1", "outdoor_temperature", "")
        at = start + np.arange(60) * 3_600_000
        first = instants(self.app, home, [*room, *outdoor], at)
        np.testing.assert_allclose(first[2:50], [10 + k % 24 for k in range(48)])


if __name__ == "__main__":
    unittest.main()
