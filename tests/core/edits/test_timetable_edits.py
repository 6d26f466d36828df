"""Edits of written days, blocks, calendars and levels: whose days they change."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from tests.drawn import drawn_home
from tests.homes import small_home, with_day
from warmeter.core.edits import level_edits, timetable_edits
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.presets import FIRST_KINDS
from warmeter.core.home.timetables import ChangePoint, Period
from warmeter.core.home.zones import LevelNumbers
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import timetable_on, written_on
from warmeter.core.timetable.day import blocks_of

MONDAY = date(2026, 1, 12)


LONDON = LocalClock("Europe/London")


def home_with_kinds() -> Home:
    """Return the small home with workdays and days off."""
    return replace(small_home(), day_kinds=FIRST_KINDS)


def starts(home: Home, on: date) -> list[tuple[int, str]]:
    """Return (minute, level) of the day written for a date."""
    return [(p.start_min, p.level_id) for p in written_on(home, home.zones[0], on).points]


class Edits(unittest.TestCase):
    def setUp(self) -> None:
        self.home = home_with_kinds()

    def test_an_edit_changes_all_such_days_a_weekday_or_a_date(self) -> None:
        place = BlockPlace(MONDAY, 1)
        for scope, same, other in (
            ("written", date(2026, 1, 13), None),
            ("weekday", date(2026, 1, 19), date(2026, 1, 13)),
            ("date", MONDAY, date(2026, 1, 19)),
        ):
            moved = timetable_edits.moved_start(self.home, "z-study", place, 480, scope)  # type: ignore[arg-type]
            self.assertIn((480, "in-use"), starts(moved, MONDAY))
            self.assertIn((480, "in-use"), starts(moved, same), scope)
            if other is not None:
                self.assertIn((420, "in-use"), starts(moved, other), scope)
        once = timetable_edits.moved_start(self.home, "z-study", place, 480, "date")
        twice = timetable_edits.moved_start(once, "z-study", place, 500, "written")
        self.assertIn((500, "in-use"), starts(twice, MONDAY))
        self.assertIn((420, "in-use"), starts(twice, date(2026, 1, 13)), "the date stays written apart")

    def test_a_block_over_midnight_leaves_the_next_mornings_to_itself(self) -> None:
        home = with_day(
            self.home, ChangePoint(start_min=30, level_id="asleep"), ChangePoint(start_min=420, level_id="in-use")
        )
        point = ChangePoint(start_min=1320, level_id="idle")
        laid = timetable_edits.with_new_block(home, "z-study", MONDAY, point, 60)
        clock_day = [
            b.level_name for b in blocks_of(laid, laid.zones[0], LONDON.day(MONDAY + timedelta(days=1)), LONDON)
        ]
        self.assertEqual(clock_day[:2], ["Idle", "Asleep"])
        self.assertEqual(starts(laid, MONDAY), [(60, "asleep"), (420, "in-use"), (1320, "idle")])
        to_midnight = timetable_edits.with_new_block(home, "z-study", MONDAY, point, 1440)
        self.assertEqual(
            starts(to_midnight, MONDAY),
            [(0, "in-use"), (30, "asleep"), (420, "in-use"), (1320, "idle")],
            "what held before goes on from 00:00 to 00:30",
        )
        only = timetable_edits.with_new_block(home, "z-study", MONDAY, point, 60, "date")
        tuesday = MONDAY + timedelta(days=1)
        blocks = blocks_of(only, only.zones[0], LONDON.day(tuesday), LONDON)
        self.assertEqual([(b.start_min, b.level_name) for b in blocks][:2], [(0, "Idle"), (60, "Asleep")])
        self.assertEqual(starts(only, tuesday)[0], (60, "asleep"))

    def test_days_and_zones_are_copied_cleared_and_handed_back(self) -> None:
        copied = timetable_edits.copied_day(self.home, "z-study", MONDAY, ("sat", "day-off", "2026-02-01"))
        self.assertEqual(len(copied.zones[0].timetables[0].days), 3)
        with self.assertRaises(HomeError):
            timetable_edits.copied_day(self.home, "z-study", MONDAY, ("someday",))
        cleared = timetable_edits.cleared(copied, "z-study", date(2026, 1, 17))
        self.assertEqual(starts(cleared, date(2026, 1, 17)), [(0, "asleep")])
        back = timetable_edits.handed_back(cleared, "z-study", "tt1", "sat")
        self.assertEqual(written_on(back, back.zones[0], date(2026, 1, 17)).key, "day-off")
        with self.assertRaises(HomeError):
            timetable_edits.handed_back(back, "z-study", "tt1", "sun")
        two = drawn_home()
        edited = timetable_edits.set_level(two, two.zones[0].id, BlockPlace(MONDAY, 0), "in-use", 22.5)
        both = timetable_edits.copied_zone(edited, two.zones[0].id, (two.zones[1].id,), MONDAY)
        self.assertEqual(both.zones[1].timetables[0].usual, edited.zones[0].timetables[0].usual)
        self.assertNotEqual(both.zones[1].timetables[0].id, edited.zones[0].timetables[0].id)

    def test_a_block_s_own_setpoint_becomes_its_level_s_in_this_zone_only(self) -> None:
        home = timetable_edits.own_setpoint(self.home, "z-study", BlockPlace(MONDAY, 1), 21.5)
        every = timetable_edits.own_for_everywhere(home, "z-study", BlockPlace(MONDAY, 1))
        self.assertEqual(every.heating_c(every.zones[0], "in-use"), 21.5)
        self.assertEqual(every.level("in-use").heating_c, 20.0)
        self.assertIsNone(every.zones[0].timetables[0].usual[1].own_setpoint_c)
        bare = timetable_edits.with_numbers(every, "z-study", LevelNumbers(level_id="in-use"))
        self.assertEqual(bare.zones[0].numbers, ())

    def test_named_timetables_hold_by_dates_and_by_a_switch(self) -> None:
        home = timetable_edits.with_new_timetable(self.home, "z-study", "Guests", "tt1")
        guests = home.zones[0].timetables[1].id
        dated = timetable_edits.with_period(
            home, "z-study", Period(timetable_id=guests, from_date=MONDAY, to_date=MONDAY)
        )
        self.assertEqual(timetable_on(dated.zones[0], MONDAY).name, "Guests")
        on = timetable_edits.switched(dated, ("z-study",), "Guests", date(2026, 2, 1))
        self.assertEqual(timetable_on(on.zones[0], date(2026, 6, 1)).name, "Guests")
        off = timetable_edits.switched(on, ("z-study",), "", date(2026, 2, 5))
        names = [timetable_on(off.zones[0], date(2026, 2, d)).name for d in (1, 4, 5)]
        self.assertEqual(names, ["Guests", "Guests", "Every day"])
        same_day = timetable_edits.switched(on, ("z-study",), "", date(2026, 2, 1))
        self.assertEqual(len(same_day.zones[0].calendar), 1, "a switch that held on no day leaves nothing")
        gone = timetable_edits.without_timetable(dated, "z-study", guests)
        self.assertEqual((len(gone.zones[0].timetables), gone.zones[0].calendar), (1, ()))
        with self.assertRaises(HomeError):
            timetable_edits.without_timetable(gone, "z-study", "tt1")

    def test_a_weekday_is_of_one_kind_and_a_kind_takes_its_days_along(self) -> None:
        moved = timetable_edits.with_weekday_of(self.home, 4, "day-off")
        self.assertEqual([k.weekdays for k in moved.day_kinds], [(0, 1, 2, 3), (4, 5, 6)])
        special = timetable_edits.with_special_day(moved, MONDAY, "day-off", "fair")
        special = timetable_edits.with_special_day(special, MONDAY, "workday")
        self.assertEqual([(s.on, s.kind_id) for s in special.special_days], [(MONDAY, "workday")])
        written = timetable_edits.copied_day(special, "z-study", MONDAY, ("workday",))
        gone = timetable_edits.without_kind(written, "workday")
        self.assertEqual((gone.special_days, gone.zones[0].timetables[0].days), ((), ()))

    def test_levels_keep_apart_and_go_only_when_unused(self) -> None:
        home = replace(self.home, levels=tuple(replace(x, cooling_c=26.0) for x in self.home.levels))
        self.assertEqual(level_edits.apart(home, 24.5, 26.0, "heat"), (24.5, 27.0))
        self.assertEqual(level_edits.apart(home, 24.5, 26.0, "cool"), (23.5, 26.0))
        with self.assertRaises(HomeError):
            level_edits.without_level(home, "in-use")
        more = level_edits.with_new_level(home, "Yoga")
        self.assertEqual(level_edits.level_moved(more, more.levels[-1].id, -1).levels[-2].name, "Yoga")
        self.assertEqual(level_edits.without_level(more, more.levels[-1].id), home)


if __name__ == "__main__":
    unittest.main()
