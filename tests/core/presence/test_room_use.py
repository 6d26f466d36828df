"""Rooms in use, their profile, and the wait that costs least, against walks and sums by hand."""

import unittest
from math import sqrt

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from warmeter.core.errors import OutOfRange
from warmeter.core.presence.idle_time import IdlePrices, idle_time
from warmeter.core.presence.room_days import timetable_misses, used_days
from warmeter.core.presence.room_use import RoomSensor, room_use
from warmeter.core.presence.share_interval import share_interval
from warmeter.core.presence.usage_profile import ProfileSettings, UsedDay, usage_profile
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN

S, MIN = 1000, 60_000


def sensor(
    rows: list[tuple[int, int]], *, hold_s: int = 60, sends_off: bool = True, stale_s: int | None = None
) -> RoomSensor:
    return RoomSensor(
        at_ms=np.array([t * S for t, _ in rows], dtype=np.int64),
        says=np.array([word for _, word in rows], dtype=np.int8),
        hold_ms=hold_s * S,
        sends_off=sends_off,
        stale_ms=None if stale_s is None else stale_s * S,
    )


class Use(unittest.TestCase):
    def test_nothing_in_a_room_is_not_known(self) -> None:
        self.assertEqual(room_use([], 0, 0, 1000).value.tolist(), [UNKNOWN])

    @given(
        st.lists(st.tuples(st.integers(0, 150), st.sampled_from([TRUE, FALSE, UNKNOWN])), max_size=12),
        st.booleans(),
        st.integers(0, 40),
        st.one_of(st.none(), st.integers(1, 60)),
    )
    def test_a_walk_from_second_to_second_says_the_same(
        self, rows: list[tuple[int, int]], sends_off: bool, idle_s: int, stale_s: int | None
    ) -> None:
        rows = sorted(rows, key=lambda r: r[0])
        own = sensor(rows, hold_s=7, sends_off=sends_off, stale_s=stale_s)
        found = room_use([own], idle_s * S, 0, 200 * S)
        is_on, used_until, last = False, -1, 0
        for second in range(200):
            for t, word in rows:
                if t != second:
                    continue
                last = second
                if word == TRUE:
                    if not sends_off:
                        used_until = max(used_until, second + 7 + idle_s)
                    is_on = sends_off
                elif word == FALSE and is_on:
                    is_on, used_until = False, second + idle_s
            used = is_on or second < used_until
            silent = stale_s is not None and second >= last + stale_s
            expected = UNKNOWN if silent else TRUE if used else FALSE
            self.assertEqual(int(found.at(np.array([second * S]))[0]), expected, second)


class Profile(unittest.TestCase):
    def test_four_of_four_mornings_are_proposed_and_two_of_four_are_not(self) -> None:
        # Wilson at 95 %: 4 of 4 has a lower end of 4/(4 + 1.96²) = 0.51, 2 of 4 one of 0.15.
        self.assertAlmostEqual(share_interval(1.0, 4)[0], 4 / (4 + 1.96**2))
        always = [UsedDay(weekday=0, used_min=((480, 540),), known_min=((0, 1440),)) for _ in range(4)]
        seldom = [UsedDay(weekday=1, used_min=((480, 540),) if k < 2 else (), known_min=((0, 1440),)) for k in range(4)]
        found = usage_profile([*always, *seldom], {"mon": (0,), "tue": (1,)}, ProfileSettings())
        self.assertEqual(found["mon"].blocks_min, ((480, 540),))
        self.assertEqual(found["tue"].blocks_min, ())
        self.assertAlmostEqual(
            float(found["tue"].low[32]), 0.5 + (0.0 - 1.96 * sqrt(0.25 / 4 + 1.96**2 / 64)) / (1 + 1.96**2 / 4)
        )

    def test_a_morning_without_a_log_is_no_morning_without_anybody(self) -> None:
        days = [UsedDay(weekday=0, used_min=((480, 540),), known_min=((0, 1440),)) for _ in range(4)]
        blind = [UsedDay(weekday=0, used_min=(), known_min=((0, 480), (540, 1440))) for _ in range(4)]
        found = usage_profile([*days, *blind], {"mon": (0,)}, ProfileSettings())
        self.assertEqual(found["mon"].days[32:36].tolist(), [4, 4, 4, 4])
        self.assertEqual(found["mon"].share[32], 1.0)

    def test_days_are_cut_by_the_home_s_clock_also_where_it_changes(self) -> None:
        clock = LocalClock("Europe/London")
        start = parse_utc("2026-03-28T00:00:00Z")
        minutes = start + np.arange(3 * 1440, dtype=np.int64) * MIN
        use = np.full(minutes.size, TRUE, dtype=np.int8)
        days = used_days(use, minutes, clock)
        self.assertEqual([d.weekday for d in days], [5, 6, 0, 1])
        # On the Sunday the clock goes from 01:00 to 02:00: that hour is nobody's.
        self.assertEqual(days[1].known_min, ((0.0, 60.0), (120.0, 1440.0)))

    def test_a_timetable_is_cold_where_it_saves_while_somebody_is_there(self) -> None:
        use = np.full(7 * 1440, FALSE, dtype=np.int8)
        use[600:660] = TRUE
        use[1440:2880] = UNKNOWN
        warm = np.zeros(use.size, dtype=bool)
        warm[630:750] = True
        found = timetable_misses(use, warm)
        self.assertAlmostEqual(found.cold_min_week, 30 * 7 / 6)
        self.assertAlmostEqual(found.warm_h_week, 1.5 * 7 / 6)


class Wait(unittest.TestCase):
    PRICES = IdlePrices(wrong_off=0.1, power_w=1000.0, per_kwh=0.36)

    def test_each_wait_is_counted_as_a_walk_from_second_to_second_does(self) -> None:
        rng = np.random.default_rng(3)
        reports, t = [], 0
        while t < 5000:
            t += int(rng.integers(20, 400))
            length = int(rng.integers(10, 90))
            reports += [(t, TRUE), (t + length, FALSE)]
            t += length
        use = np.array([[100, 1700], [2600, 2900], [4000, 4700]])
        end = 6000
        own = sensor(reports)
        waits = (0, 45, 120, 300, 900)
        found = idle_time([own], (use[:, 0] * S, use[:, 1] * S), waits, self.PRICES, end_ms=end * S)
        weeks = end / 604_800
        for row in found.rows:
            on = np.zeros(end, dtype=bool)
            for (a, _), (b, _) in zip(reports[::2], reports[1::2], strict=True):
                on[a : min(end, b + row.wait_s)] = True
            there = np.zeros(end, dtype=bool)
            for a, b in use:
                there[a:b] = True
            offs = [k for k in range(1, end) if on[k - 1] and not on[k]]
            wrong = sum(there[k] for k in offs)
            wasted = int((on & ~there).sum()) / 3600
            self.assertAlmostEqual(row.wrong_offs_week, wrong / weeks)
            self.assertAlmostEqual(row.wasted_h_week, wasted / weeks)
            self.assertAlmostEqual(row.cost_week, (wrong * 0.1 + wasted * 0.36) / weeks)
        self.assertEqual(found.best.cost_week, min(r.cost_week for r in found.rows))

    def test_nothing_to_try_and_no_time_are_refused(self) -> None:
        nothing = np.zeros(0, dtype=np.int64)
        for waits, end in (((), 1000), ((60,), 0)):
            with self.assertRaises(OutOfRange):
                idle_time([], (nothing, nothing), waits, self.PRICES, end_ms=end)


if __name__ == "__main__":
    unittest.main()
