"""Change points of a day."""

import unittest

from warmeter.core.errors import HomeError
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.timetable.points import tidy, with_block, with_tail


def one(level: str, minute: int = 0) -> tuple[ChangePoint, ...]:
    return (ChangePoint(start_min=minute, level_id=level),)


class Points(unittest.TestCase):
    night = ChangePoint(start_min=1350, level_id="asleep")

    def test_what_held_at_its_end_holds_again_after_a_block(self) -> None:
        day = (ChangePoint(start_min=420, level_id="in-use"), ChangePoint(start_min=1350, level_id="asleep"))
        laid = with_block(day, self.night, ChangePoint(start_min=600, level_id="idle"), 720)
        self.assertEqual(
            [(p.start_min, p.level_id) for p in laid],
            [(420, "in-use"), (600, "idle"), (720, "in-use"), (1350, "asleep")],
        )
        early = with_block(day, self.night, ChangePoint(start_min=120, level_id="idle"), 180)
        self.assertEqual([(p.start_min, p.level_id) for p in early][:2], [(120, "idle"), (180, "asleep")])
        over = with_block(day, self.night, ChangePoint(start_min=300, level_id="idle"), 1400)
        self.assertEqual([(p.start_min, p.level_id) for p in over], [(300, "idle"), (1400, "asleep")])
        with self.assertRaises(HomeError):
            with_block(day, self.night, ChangePoint(start_min=600, level_id="idle"), 600)

    def test_a_tail_over_midnight_takes_the_beginning_of_the_day(self) -> None:
        day = (ChangePoint(start_min=30, level_id="idle"), ChangePoint(start_min=420, level_id="in-use"))
        self.assertEqual([p.start_min for p in with_tail(day, self.night, 60)], [60, 420])
        self.assertEqual(with_tail(day, self.night, 60)[0].level_id, "idle")
        self.assertEqual(with_tail(day, self.night, 420), day[1:])

    def test_points_that_change_nothing_are_tidied_away(self) -> None:
        day = (*one("idle"), ChangePoint(start_min=60, level_id="idle"), ChangePoint(start_min=90, level_id="in-use"))
        self.assertEqual([p.start_min for p in tidy(day)], [0, 90])


if __name__ == "__main__":
    unittest.main()
