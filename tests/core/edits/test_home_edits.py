"""Edits of a home as values: what each changes, and that it changes nothing else."""

import unittest
from collections.abc import Callable
from dataclasses import fields, replace
from datetime import date

from tests.homes import small_home
from warmeter.core.edits import home_edits, ids, timetable_edits
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.errors import HomeError
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Described, Room

PLACE = BlockPlace(date(2026, 1, 12), 1)


class Edits(unittest.TestCase):
    def changed(self, after: object) -> set[str]:
        before = small_home()
        return {f.name for f in fields(before) if getattr(before, f.name) != getattr(after, f.name)}

    def test_each_edit_touches_only_its_own_part(self) -> None:
        home = small_home()
        for name, after, parts in (
            ("start", timetable_edits.moved_start(home, "z-study", PLACE, 400), {"zones"}),
            ("own", timetable_edits.own_setpoint(home, "z-study", PLACE, 21.0), {"zones"}),
            ("level", timetable_edits.set_level(home, "z-study", PLACE, "idle", None), {"zones"}),
            ("split", timetable_edits.split(home, "z-study", PLACE.on, 600), {"zones"}),
            ("merge", timetable_edits.merged(home, "z-study", PLACE), {"zones"}),
            ("run", home_edits.planned_run(home, "washer", 90), {"appliances"}),
            ("machine", home_edits.with_machine(home, "Kiln"), {"appliances"}),
            ("level value", home_edits.with_level(home, replace(home.levels[0], heating_c=19.0)), {"levels"}),
        ):
            with self.subTest(name):
                self.assertEqual(self.changed(after), parts)

    def test_a_setpoint_equal_to_its_levels_is_no_own_one(self) -> None:
        after = timetable_edits.own_setpoint(
            timetable_edits.own_setpoint(small_home(), "z-study", PLACE, 21.0), "z-study", PLACE, 20.0
        )
        self.assertEqual(after, small_home())

    def test_a_room_added_where_levels_have_other_names_starts_at_the_first(self) -> None:
        home = small_home()
        renamed = replace(home, levels=tuple(replace(level, name=f"{level.name} 2") for level in home.levels))
        room = Room(
            id="den",
            name="Den",
            described=Described(floor_area_m2=9.0),
            height_m=2.4,
            built="2016_on",
            mass_class="light",
        )
        heater = Heater(id="h2", room_id="den", name="Den", kind="fan_unit", source_id="mains", rated_heat_w=500.0)
        zone = home_edits.with_room(renamed, room, heater).zone_of_room("den")
        assert zone is not None
        self.assertEqual({point.level_id for point in zone.all_points}, {"in-use"})

    def test_ids_are_short_and_never_twice(self) -> None:
        made = {ids.new_id() for _ in range(2000)}
        self.assertEqual(({len(i) for i in made}, len(made)), ({8}, 2000))

    def test_edits_of_what_is_not_there_are_refused(self) -> None:
        home = small_home()
        works: tuple[Callable[[], object], ...] = (
            lambda: timetable_edits.own_setpoint(home, "z-study", BlockPlace(PLACE.on, 9), 20.0),
            lambda: home_edits.planned_run(home, "none", 1),
            lambda: timetable_edits.set_level(home, "z-study", PLACE, "none", None),
            lambda: timetable_edits.moved_start(home, "none", PLACE, 5),
        )
        for work in works:
            with self.assertRaises(HomeError):
                work()
