"""When a daily count begins anew, where the clock changes and where it does not."""

import unittest
from datetime import UTC, datetime

from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.day_resets import day_start_ms, resets_ms
from warmeter.core.units import MS_PER_DAY, MS_PER_H


def ms(*parts: int) -> int:
    return round(datetime(*parts[:3], *parts[3:], tzinfo=UTC).timestamp() * 1000)  # type: ignore[arg-type, misc]


class DayStart(unittest.TestCase):
    def test_it_is_the_latest_reset_at_or_before(self) -> None:
        clock = LocalClock("UTC")
        for at, wanted in (
            ((2026, 3, 3, 4, 0), (2026, 3, 3, 4, 0)),
            ((2026, 3, 3, 3, 59), (2026, 3, 2, 4, 0)),
            ((2026, 3, 3, 23, 0), (2026, 3, 3, 4, 0)),
        ):
            with self.subTest(at=at):
                self.assertEqual(day_start_ms(clock, ms(*at), 240), ms(*wanted))

    def test_in_every_zone_and_at_every_hour_of_a_year_it_lies_within_25_hours(self) -> None:
        for zone in ("Europe/London", "Australia/Lord_Howe", "America/Santiago", "Pacific/Apia"):
            clock = LocalClock(zone)
            for reset_min in (0, 1, 240, 1439):
                for hour in range(0, 366 * 24, 7):
                    at = ms(2011, 1, 1, 0, 30) + hour * MS_PER_H
                    start = day_start_ms(clock, at, reset_min)
                    # The longest day of the year has 25 hours; Apia left one out, and its count goes on over it.
                    self.assertTrue(0 <= at - start <= MS_PER_DAY + MS_PER_H, (zone, reset_min, hour))

    def test_those_within_a_stretch_rise_and_begin_with_the_one_before_it(self) -> None:
        clock = LocalClock("Europe/London")
        found = resets_ms(clock, ms(2026, 3, 28, 12), ms(2026, 3, 31, 12), 0)
        # Clocks go forward on the 29th: local midnight is an hour earlier in UTC from the 30th on.
        wanted = [(2026, 3, 28, 0), (2026, 3, 29, 0), (2026, 3, 29, 23), (2026, 3, 30, 23)]
        self.assertEqual(found, [ms(*at) for at in wanted])


if __name__ == "__main__":
    unittest.main()
