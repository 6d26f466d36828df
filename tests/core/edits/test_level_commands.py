"""Commands on levels."""

import unittest
from dataclasses import replace

from tests.homes import done, small_home
from warmeter.core.edits.level_commands import (
    AddLevel,
    ChangeLevel,
    ChangeLevelFan,
    MoveLevelUp,
    RemoveLevel,
    RenameLevel,
    ToggleSaving,
)
from warmeter.core.errors import HomeError


class Levels(unittest.TestCase):
    def test_a_level_s_own_fields(self) -> None:
        home = done(
            small_home(),
            RenameLevel(level_id="idle", name="Resting"),
            ChangeLevelFan(level_id="in-use", fan="high"),
            ToggleSaving(level_id="idle"),
            ChangeLevel(level_id="asleep", values={"name": "Night"}, heating_c=15.5),
        )
        by_id = {level.id: level for level in home.levels}
        self.assertEqual((by_id["idle"].name, by_id["idle"].is_saving, by_id["in-use"].fan), ("Resting", True, "high"))
        self.assertEqual((by_id["asleep"].name, by_id["asleep"].heating_c), ("Night", 15.5))
        self.assertFalse(done(home, ToggleSaving(level_id="idle")).level("idle").is_saving)

    def test_a_new_one_begins_as_the_last_and_the_list_is_ordered(self) -> None:
        home = done(small_home(), AddLevel(name="Guests"))
        added = home.levels[-1]
        self.assertEqual((added.name, added.heating_c), ("Guests", 12.0))
        order = [level.name for level in done(home, MoveLevelUp(level_id=added.id)).levels]
        self.assertEqual(order, ["In use", "Asleep", "Guests", "Idle"])
        first = done(home, MoveLevelUp(level_id="in-use"))
        self.assertEqual(first.levels, home.levels, "the first stays the first")

    def test_one_in_use_stays_and_so_does_the_last(self) -> None:
        self.assertEqual([x.id for x in done(small_home(), RemoveLevel(level_id="idle")).levels], ["in-use", "asleep"])
        with self.assertRaisesRegex(HomeError, "Asleep is still in the timetable of Study"):
            done(small_home(), RemoveLevel(level_id="asleep"))
        lone = replace(small_home(), zones=(), levels=small_home().levels[:1])
        with self.assertRaisesRegex(HomeError, "one level at least"):
            done(lone, RemoveLevel(level_id="in-use"))


if __name__ == "__main__":
    unittest.main()
