"""Changes by hand: how long they hold, and habits in them."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

import numpy as np

from tests.homes import small_home, with_day
from warmeter.core.claims.arbiter import Claim
from warmeter.core.errors import HomeError
from warmeter.core.home.timetables import ChangePoint, DayKind, HandRule
from warmeter.core.home.zones import GuardLimits
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_of
from warmeter.core.timetable.manual_overrides import (
    HandChange,
    HandEnd,
    habits_of,
    hand_change,
    hand_range_c,
    next_change_ms,
    stepped_c,
)
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN
from warmeter.core.warmup.prediction import HeatingStretch, RoomModel, predict_day

LONDON = LocalClock("Europe/London")


ROOM = RoomRc(
    air_out_w_k=25.0,
    air_fabric_w_k=180.0,
    fabric_out_w_k=22.0,
    air_j_k=4e5,
    fabric_j_k=5e6,
    emitter_lag_s=600.0,
    convective=0.7,
)


PANEL = OnOff(full_heat_w=2500.0, band_k=0.4, min_on_steps=1, min_off_steps=1)


class ByHand(unittest.TestCase):
    def setUp(self) -> None:
        self.home = small_home("Europe/London")
        self.zone = self.home.zones[0]
        self.at = LONDON.instant(date(2026, 1, 12), 600)

    def change(self, end: HandEnd, value: float = 22.0, **rule: object) -> HandChange:
        zone = replace(self.zone, hand=HandRule(**rule))  # type: ignore[arg-type]
        return hand_change(self.home, zone, LONDON, at_ms=self.at, value_c=value, end=end)

    def test_it_ends_as_asked_but_never_after_its_longest_length(self) -> None:
        hour = MS_PER_H
        for end, rule, expected in (
            (HandEnd(kind="for", minutes=90), {}, 1.5 * hour),
            (HandEnd(kind="for", minutes=900), {"longest_h": 2.0}, 2 * hour),
            (HandEnd(kind="until", at_ms=self.at + 3 * hour), {}, 3 * hour),
            (HandEnd(kind="next"), {"longest_h": 20.0}, 12 * hour),
            (HandEnd(kind="empty", minutes=30), {"longest_h": 4.0}, 4 * hour),
        ):
            self.assertEqual((self.change(end, **rule).until_ms or 0) - self.at, expected, (end, rule))
        self.assertEqual(self.change(HandEnd(kind="empty", minutes=30)).empty_ms, 30 * MS_PER_MIN)
        self.assertEqual(self.change(HandEnd(kind="for", minutes=5), empty_min=20).empty_ms, 20 * MS_PER_MIN)

    def test_it_stays_in_its_range_and_steps_do_not_add_up_beyond_it(self) -> None:
        with self.assertRaises(HomeError):
            self.change(HandEnd(kind="for", minutes=60), value=27.0, high_c=24.0)
        with self.assertRaises(HomeError):
            self.change(HandEnd(kind="until", at_ms=self.at))
        zone = replace(self.zone, hand=HandRule(low_c=16.0, high_c=21.0, step_k=0.5))
        asked = 20.0
        for _ in range(9):
            asked = stepped_c(self.home, zone, asked, 1)
        self.assertEqual(asked, 21.0)
        self.assertEqual(stepped_c(self.home, zone, 16.2, -3), 16.0)
        guarded = replace(zone, guard=GuardLimits(low_c=17.0, high_c=20.0))
        self.assertEqual(hand_range_c(self.home, guarded), (17.0, 20.0))

    def test_the_next_change_is_the_next_that_asks_something_else(self) -> None:
        nights = with_day(
            self.home,
            ChangePoint(start_min=0, level_id="asleep"),
            ChangePoint(start_min=420, level_id="asleep"),
            ChangePoint(start_min=600, level_id="in-use"),
        )
        found = next_change_ms(nights, nights.zones[0], LONDON, LONDON.instant(date(2026, 1, 12), 60))
        self.assertEqual(found, LONDON.instant(date(2026, 1, 12), 600))
        always = with_day(self.home, ChangePoint(start_min=0, level_id="idle"))
        self.assertIsNone(next_change_ms(always, always.zones[0], LONDON, self.at))

    def test_the_same_change_on_three_days_is_a_habit_and_two_are_none(self) -> None:
        kinds = (DayKind(id="work", name="Workday", weekdays=(0, 1, 2, 3, 4)),)
        home = replace(self.home, day_kinds=kinds)

        def changes(dates: list[date], minute: int, value: float) -> list[HandChange]:
            return [
                HandChange(
                    zone_id="z-study",
                    at_ms=LONDON.instant(on, minute + 7 * k),
                    value_c=value,
                    until_ms=LONDON.instant(on, minute + 120),
                    was_c=17.0,
                )
                for k, on in enumerate(dates)
            ]

        monday = date(2026, 1, 12)
        week = [monday + timedelta(days=k) for k in range(3)]
        as_of = LONDON.instant(date(2026, 1, 17), 0)
        (habit,) = habits_of(home, LONDON, changes(week, 960, 21.0), as_of)
        self.assertEqual((habit.kind_id, habit.start_min, habit.end_min, habit.setpoint_c), ("work", 965, 1080, 21.0))
        self.assertEqual((len(habit.changes), habit.days_seen), (3, 20))
        self.assertEqual(habits_of(home, LONDON, changes(week[:2], 960, 21.0), as_of), [])
        apart = changes(week[:1], 600, 21.0) + changes(week[1:2], 780, 21.0) + changes(week[2:], 960, 21.0)
        self.assertEqual(habits_of(home, LONDON, apart, as_of), [])
        mixed = changes(week[:2], 960, 21.0) + changes(week[2:], 960, 14.0)
        self.assertEqual(habits_of(home, LONDON, mixed, as_of), [])
        self.assertEqual(habits_of(home, LONDON, changes(week, 960, 21.0), as_of + 60 * MS_PER_DAY), [])

    def test_a_claim_by_hand_in_the_prediction_is_asked_like_any_other(self) -> None:
        day = LONDON.day(date(2026, 1, 12))
        model = RoomModel(
            step=compile_rooms([ROOM], 2500.0, 60.0), gain_w=np.zeros(1), sun_m2=np.zeros(1), control=PANEL
        )
        stretch = HeatingStretch(
            start_ms=day.start_ms,
            outdoor_c=np.full(1441, 3.0),
            offsets_k=np.zeros(1),
            certain=0,
            clear_sky_w_m2=np.zeros(1440),
            start_c=np.full((1, 3), 17.0),
        )
        by_hand = Claim(
            kind="by_hand",
            value=22.0,
            from_ms=day.start_ms + 600 * MS_PER_MIN,
            until_ms=day.start_ms + 660 * MS_PER_MIN,
        )
        blocks = blocks_of(self.home, self.zone, day, LONDON)
        found = predict_day(self.home, self.zone, model, stretch, blocks, others=[by_hand])
        self.assertEqual((found.wanted_c[599], found.wanted_c[600], found.wanted_c[660]), (20.0, 22.0, 20.0))
        self.assertEqual(found.setpoint_c[630], 22.0)


if __name__ == "__main__":
    unittest.main()
