"""Commands on blocks, days, calendars and levels: read off the change points that they leave."""

import unittest
from datetime import date

from tests.drawn import drawn_home
from tests.homes import done, small_home
from warmeter.core.edits.block_commands import (
    ChangeBlockLevel,
    ChangeBlockSetpoint,
    ClearDay,
    CopyDay,
    CopyTimetable,
    HandBackDay,
    LayBlock,
    MergeBlock,
    MoveBlockStart,
    SplitBlock,
    UseSetpointEverywhere,
)
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.timetable.calendar import written_on

MONDAY, TUESDAY = date(2026, 1, 12), date(2026, 1, 13)
ZONE = "z-study"


def day(home: Home, on: date = MONDAY, zone_id: str = ZONE) -> list[tuple[int, str, float | None]]:
    """Return the change points in force on a date: start, level, own setpoint."""
    written = written_on(home, home.zone_of_id(zone_id), on)
    return [(p.start_min, p.level_id, p.own_setpoint_c) for p in written.points]


USUAL = [(0, "asleep", None), (420, "in-use", None), (1320, "asleep", None)]


class Blocks(unittest.TestCase):
    def test_a_start_is_moved_and_stays_between_its_neighbours(self) -> None:
        place = BlockPlace(MONDAY, 1)
        home = done(small_home(), MoveBlockStart(zone_id=ZONE, block=place, start=450))
        self.assertEqual(day(home), [(0, "asleep", None), (450, "in-use", None), (1320, "asleep", None)])
        self.assertEqual(day(home, TUESDAY), day(home), "the usual day is that of every date")

    def test_scope_says_whose_day_is_written(self) -> None:
        place = BlockPlace(MONDAY, 1)
        one = done(small_home(), MoveBlockStart(zone_id=ZONE, block=place, start=450, scope="date"))
        self.assertEqual((day(one)[1][0], day(one, date(2026, 1, 19))[1][0]), (450, 420))
        mondays = done(small_home(), MoveBlockStart(zone_id=ZONE, block=place, start=450, scope="weekday"))
        self.assertEqual([day(mondays, on)[1][0] for on in (MONDAY, date(2026, 1, 19), TUESDAY)], [450, 450, 420])
        timetable = mondays.zones[0].timetables[0]
        back = done(mondays, HandBackDay(zone_id=ZONE, timetable_id=timetable.id, key="mon"))
        self.assertEqual(day(back), USUAL)
        with self.assertRaisesRegex(HomeError, "not written apart"):
            done(back, HandBackDay(zone_id=ZONE, timetable_id=timetable.id, key="mon"))

    def test_level_and_setpoint_of_a_block(self) -> None:
        place = BlockPlace(MONDAY, 1)
        own = done(small_home(), ChangeBlockSetpoint(zone_id=ZONE, block=place, setpoint_c=21.5))
        self.assertEqual(day(own)[1], (420, "in-use", 21.5))
        same = done(own, ChangeBlockSetpoint(zone_id=ZONE, block=place, setpoint_c=20.0))
        self.assertEqual(day(same), USUAL, "equal to its level's it is none of its own")
        everywhere = done(own, UseSetpointEverywhere(zone_id=ZONE, block=place))
        self.assertEqual(day(everywhere), USUAL)
        self.assertEqual(everywhere.heating_c(everywhere.zones[0], "in-use"), 21.5)
        self.assertEqual(everywhere.level("in-use").heating_c, 20.0, "of this zone alone")
        other = done(own, ChangeBlockLevel(zone_id=ZONE, block=place, level_id="idle"))
        self.assertEqual(day(other)[1][:2], (420, "idle"))
        for index in (-1, 3):
            with self.subTest(index), self.assertRaises(HomeError):
                done(own, UseSetpointEverywhere(zone_id=ZONE, block=BlockPlace(MONDAY, index)))

    def test_split_and_merged_is_as_before(self) -> None:
        split = done(small_home(), SplitBlock(zone_id=ZONE, minute=600, strip_day=MONDAY))
        self.assertEqual(
            [point[:2] for point in day(split)], [(0, "asleep"), (420, "in-use"), (600, "in-use"), (1320, "asleep")]
        )
        self.assertEqual(day(done(split, MergeBlock(zone_id=ZONE, block=BlockPlace(MONDAY, 2)))), USUAL)

    def test_a_laid_block_leaves_what_held_at_its_end(self) -> None:
        laid = done(small_home(), LayBlock(zone_id=ZONE, level_id="idle", day=MONDAY, start=540, end=600))
        self.assertEqual(
            day(laid),
            [
                (0, "asleep", None),
                (420, "in-use", None),
                (540, "idle", None),
                (600, "in-use", None),
                (1320, "asleep", None),
            ],
        )
        over = done(
            small_home(), LayBlock(zone_id=ZONE, level_id="idle", day=MONDAY, start=1380, end=120, scope="date")
        )
        self.assertEqual(day(over)[-1], (1380, "idle", None))
        following = day(over, TUESDAY)
        self.assertEqual((following[0][0], following[0][1]), (120, "asleep"))
        self.assertEqual(day(over, date(2026, 1, 14)), USUAL, "a date's period leaves every other date as it was")
        mondays = done(
            small_home(), LayBlock(zone_id=ZONE, level_id="idle", day=MONDAY, start=1380, end=120, scope="weekday")
        )
        self.assertEqual([day(mondays, on)[0][0] for on in (MONDAY, TUESDAY, date(2026, 1, 14))], [0, 120, 0])
        every = done(small_home(), LayBlock(zone_id=ZONE, level_id="idle", day=MONDAY, start=1380, end=120))
        self.assertEqual((day(every, date(2026, 1, 14))[0][0], day(every, date(2026, 1, 14))[-1][0]), (120, 1380))

    def test_a_block_to_midnight_leaves_the_next_day_what_held_before_it(self) -> None:
        late = done(
            small_home(),
            ClearDay(zone_id=ZONE, day=MONDAY),
            MoveBlockStart(zone_id=ZONE, block=BlockPlace(MONDAY, 0), start=60),
        )
        laid = done(late, LayBlock(zone_id=ZONE, level_id="in-use", day=MONDAY, start=1380, end=0, scope="date"))
        self.assertEqual([point[:2] for point in day(laid)], [(60, "asleep"), (1380, "in-use")])
        self.assertEqual([point[:2] for point in day(laid, TUESDAY)][:2], [(0, "asleep"), (60, "asleep")])
        twice = done(
            small_home(), LayBlock(zone_id=ZONE, level_id="in-use", day=MONDAY, start=1380, end=0, scope="date")
        )
        self.assertEqual(day(twice, TUESDAY), USUAL, "it began at 00:00 by itself")

    def test_a_day_is_copied_cleared_and_handed_on_to_other_zones(self) -> None:
        home = done(small_home(), ClearDay(zone_id=ZONE, day=MONDAY, scope="date"))
        self.assertEqual((day(home), day(home, TUESDAY)), ([(0, "asleep", None)], USUAL))
        copied = done(home, CopyDay(zone_id=ZONE, day=MONDAY, to=("sat",), other="2026-02-14"))
        self.assertEqual(day(copied, date(2026, 1, 17)), [(0, "asleep", None)])
        self.assertEqual(day(copied, date(2026, 2, 14)), [(0, "asleep", None)])
        for wrong in ("2026-02-30", "someday"):
            with self.subTest(wrong), self.assertRaises(HomeError):
                done(home, CopyDay(zone_id=ZONE, day=MONDAY, other=wrong))
        drawn = done(
            drawn_home(), LayBlock(zone_id="z-den", level_id="in-use", day=MONDAY, start=60, end=120, setpoint_c=18.0)
        )
        both = done(drawn, CopyTimetable(zone_id="z-den", day=MONDAY, to_zones=("z-study",)))
        self.assertEqual(day(both, zone_id="z-study"), day(both, zone_id="z-den"))
        self.assertNotEqual(day(drawn, zone_id="z-study"), day(drawn, zone_id="z-den"))


if __name__ == "__main__":
    unittest.main()
