"""A quantity over, under or between, and a difference of two."""

import unittest
from dataclasses import replace

from tests.rules_at_work import ROOM, AtWork, scope, track
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN


class Comparison(AtWork):
    def test_over_begins_at_the_value_and_ends_by_the_hysteresis(self) -> None:
        values = (54, 55, 53, 52.5, 52, 54, 55.5)
        log = scope(2, tracks={ROOM: track(*((k * 600, v) for k, v in enumerate(values)))})
        over = Compared(of=ROOM, how="over", value=55, hysteresis=3)
        self.assertEqual(self.told(over, log), [(0, FALSE), (600, TRUE), (2400, FALSE), (3600, TRUE)])
        bare = replace(over, hysteresis=0.0)
        self.assertEqual(self.told(bare, log), [(0, FALSE), (600, TRUE), (1200, FALSE), (3600, TRUE)])

    def test_under_and_between(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 22), (600, 19), (1200, 20), (1800, 24))})
        self.assertEqual(
            self.told(Compared(of=ROOM, how="under", value=19, hysteresis=1), log),
            [(0, FALSE), (600, TRUE), (1200, FALSE)],
        )
        self.assertEqual(
            self.told(Compared(of=ROOM, how="between", value=19.5, high=22), log),
            [(0, TRUE), (600, FALSE), (1200, TRUE), (1800, FALSE)],
        )
        with self.assertRaises(HomeError):
            Compared(of=ROOM, how="between", value=20)

    def test_a_difference_is_known_only_where_both_are(self) -> None:
        bath = Signal(quantity="room_temperature", subject_id="bath")
        log = scope(1, tracks={ROOM: track((0, 24), (1200, 21)), bath: track((600, 20))})
        c = Compared(of=ROOM, minus=bath, how="over", value=3)
        self.assertEqual(self.told(c, log), [(0, UNKNOWN), (600, TRUE), (1200, FALSE)])


if __name__ == "__main__":
    unittest.main()
