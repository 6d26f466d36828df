"""Commands: what every one owes, and what each kind changes, says and refuses."""

import importlib
import pkgutil
import unittest
from collections.abc import Iterator
from dataclasses import fields, is_dataclass, replace
from datetime import date
from typing import Any, get_type_hints

from tests.drawn import drawn_home
from tests.homes import small_home
from warmeter.core import edits
from warmeter.core.edits.block_commands import (
    ChangeBlockSetpoint,
    CopyDay,
    DragBlockStart,
    LayBlock,
    PlanRun,
    SplitBlock,
)
from warmeter.core.edits.calendar_commands import AddPeriod, AddTimetable, ChangeSpecialDay
from warmeter.core.edits.cycle_labels import CycleSpan
from warmeter.core.edits.device_commands import CalibrateDevice, ChangeDevice, ChangeSafetyChain, ReplaceDevice
from warmeter.core.edits.edit import Command, FieldsOf
from warmeter.core.edits.item_commands import AddNote, ChangeItem, PlaceItem, RemovePart
from warmeter.core.edits.level_commands import ChangeLevelCooling, ChangeLevelHeating, ChangeZoneNumbers
from warmeter.core.edits.machine_commands import MoveCycleEnd, SplitCycle, UseSetting
from warmeter.core.edits.opening_commands import AddOpening, MoveOpening
from warmeter.core.edits.plant_commands import ChangeHeaterKind, ChangeSource, RemoveSource
from warmeter.core.edits.room_commands import ChangeRoom, JoinRooms, MoveRoom, OverruleFigure
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.edits.zone_commands import ChangeZone, CountSensors, ToggleFollower
from warmeter.core.errors import WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.timegrid import parse_utc

MONDAY = date(2026, 1, 12)
PLACE = BlockPlace(MONDAY, 1)
RUN = CycleSpan(parse_utc("2026-01-12T10:00:00Z"), parse_utc("2026-01-12T11:00:00Z"))


def command_kinds() -> Iterator[type]:
    """Yield every kind of command of the core."""
    for module in pkgutil.iter_modules(edits.__path__):
        if module.name.endswith("_commands"):
            loaded = importlib.import_module(f"{edits.__name__}.{module.name}")
            for value in vars(loaded).values():
                if isinstance(value, type) and value.__module__ == loaded.__name__ and hasattr(value, "edit"):
                    yield value


class Owed(unittest.TestCase):
    def test_each_command_is_a_frozen_value_whose_parts_fields_are_those_of_the_document(self) -> None:
        kinds = list(command_kinds())
        self.assertGreater(len(kinds), 90)
        for kind in kinds:
            with self.subTest(kind.__name__):
                self.assertTrue(is_dataclass(kind) and kind.__dataclass_params__.frozen)  # type: ignore[attr-defined]
                self.assertTrue(kind.__doc__)
                for hint in get_type_hints(kind, include_extras=True).values():
                    for part in (note for note in getattr(hint, "__metadata__", ()) if isinstance(note, FieldsOf)):
                        self.assertEqual(set(part.names) - {f.name for f in fields(part.part)}, set())


class Done(unittest.TestCase):
    def changed(self, home: Home, after: Home) -> set[str]:
        return {f.name for f in fields(home) if getattr(home, f.name) != getattr(after, f.name)}

    def test_each_changes_its_part_alone_and_says_what_it_did(self) -> None:
        small, drawn = small_home(), drawn_home()
        cases: tuple[tuple[Home, Command, set[str], str, str | None], ...] = (
            (small, ChangeBlockSetpoint(zone_id="z-study", block=PLACE, setpoint_c=21.5), {"zones"}, "21.5 °C", None),
            (
                small,
                LayBlock(zone_id="z-study", level_id="idle", day=MONDAY, start=540, end=600),
                {"zones"},
                "09:00 to 10:00",
                None,
            ),
            (small, SplitBlock(zone_id="z-study", block=PLACE), {"zones"}, "period split at", None),
            (
                small,
                CopyDay(zone_id="z-study", day=MONDAY, to=("sat",), other="2026-02-14"),
                {"zones"},
                "Saturdays, 2026-02-14",
                None,
            ),
            (small, PlanRun(appliance_id="washer", minute=2000), {"appliances"}, "run planned 23:59", None),
            (small, ChangeLevelHeating(level_id="in-use", heating_c=19.0), {"levels"}, "heating 19.0 °C", None),
            (
                small,
                ChangeZoneNumbers(zone_id="z-study", level_id="idle", heating_c=15.0),
                {"zones"},
                "own numbers at Idle",
                None,
            ),
            (small, AddTimetable(zone_id="*", name="Guests"), {"zones"}, "timetable Guests added", None),
            (small, ChangeSpecialDay(on=MONDAY), set(), "2026-01-12 is as its weekday", None),
            (
                small,
                UseSetting(machine_id="washer", tells="finished", threshold_w=5, wait_min=4),
                {"appliances"},
                "has finished: 5 W for 4 min",
                None,
            ),
            (
                small,
                SplitCycle(machine_id="washer", span=RUN, time=630),
                {"appliances"},
                "run split at 12/01 10:30",
                CycleSpan(RUN.start_ms, RUN.start_ms + 1_800_000).text,
            ),
            (drawn, MoveRoom(room_id="den", dx_m=0.5, dy_m=0), {"rooms"}, "Den moved", "den"),
            (drawn, ChangeRoom(room_id="den", values={"name": "Snug"}), {"rooms", "zones"}, "Snug: name", "den"),
            (drawn, OverruleFigure(room_id="den", figure="u_wall", value=0.3), {"rooms"}, "entered by hand", "den"),
            (
                drawn,
                JoinRooms(room_id="den", other_id="study"),
                {"rooms", "heaters", "devices", "zones"},
                "joined to Den",
                "den",
            ),
            (drawn, MoveOpening(id="win", along_m=1.234), {"openings"}, "A window moved", "win"),
            (drawn, ChangeItem(id="air-den", name="Sensor"), {"devices"}, "Sensor changed", "air-den"),
            (drawn, AddNote(id="den", text="damp"), {"notes"}, "A note written", "den"),
            (drawn, ChangeDevice(id="air-den", values={"hold_s": 60.0}), {"devices"}, "changed", "air-den"),
            (drawn, CalibrateDevice(id="air-den", raw_c=20.6, true_c=20.0), {"devices"}, "offset -0.60", "air-den"),
            (drawn, ChangeHeaterKind(id="rad-den", kind="warm_floor"), {"heaters"}, "changed", "rad-den"),
            (drawn, ChangeSource(id="boiler", values={}, litres=100.0), {"sources"}, "changed", "boiler"),
        )
        for home, command, parts, words, selected in cases:
            with self.subTest(type(command).__name__):
                edit = command.edit(home)
                self.assertEqual(self.changed(home, edit.home), parts)
                self.assertIn(words, edit.summary)
                self.assertEqual(edit.selected, selected)

    def test_a_home_in_fahrenheit_is_told_so(self) -> None:
        home = replace(small_home(), temperature_unit="F", country="US")
        edit = ChangeBlockSetpoint(zone_id="z-study", block=PLACE, setpoint_c=20.5).edit(home)
        self.assertIn("own setpoint 68.9 °F", edit.summary)
        split = SplitCycle(machine_id="washer", span=RUN, time=630).edit(home)
        self.assertIn("01/12 10:30", split.summary)

    def test_a_drag_over_the_day_s_end_stays_on_its_date(self) -> None:
        home = small_home()
        for minute, start in ((-30, 1), (24 * 60 + 30, 1319)):
            dragged = DragBlockStart(zone_id="z-study", block=PLACE, minute=minute, strip_day=MONDAY).edit(home).home
            self.assertEqual(dragged.zones[0].timetables[0].usual[1].start_min, start)

    def test_heating_and_cooling_give_way_to_the_one_that_was_moved(self) -> None:
        home = ChangeLevelCooling(level_id="in-use", cooling_c=24.0).edit(small_home()).home
        warmer = ChangeLevelHeating(level_id="in-use", heating_c=23.0).edit(home)
        level = warmer.home.level("in-use")
        self.assertEqual((level.heating_c, level.cooling_c), (23.0, 25.5))
        self.assertIn("and cooling gives way", warmer.summary)

    def test_who_follows_is_all_until_one_is_told_not_to_and_all_again(self) -> None:
        home = drawn_home()
        zone = home.zones[0]
        without = ToggleFollower(id=zone.id, heater_id="rad-den").edit(home).home
        self.assertEqual(without.zones[0].heater_ids, ())
        self.assertIsNone(ToggleFollower(id=zone.id, heater_id="rad-den").edit(without).home.zones[0].heater_ids)

    def test_a_guard_of_its_own_is_set_kept_and_given_back(self) -> None:
        home = drawn_home()
        zone = home.zones[0]
        own = ChangeZone(id=zone.id, values={}, guard_low_c=12.0).edit(home).home
        self.assertEqual(own.guard_of(own.zones[0]).low_c, 12.0)
        kept = ChangeZone(id=zone.id, values={"name": "West"}).edit(own).home
        self.assertEqual(kept.guard_of(kept.zones[0]).low_c, 12.0)
        self.assertIsNone(ChangeZone(id=zone.id, values={}, guard_low_c=None).edit(kept).home.zones[0].guard)


class Refused(unittest.TestCase):
    def test_what_cannot_be_is_refused_with_its_reason(self) -> None:
        small, drawn = small_home(), drawn_home()
        cases: tuple[tuple[Home, Command, str], ...] = (
            (small, ChangeBlockSetpoint(zone_id="cellar", block=PLACE, setpoint_c=20.0), "no zone"),
            (small, SplitBlock(zone_id="z-study"), "names no period"),
            (small, CopyDay(zone_id="z-study", day=MONDAY), "tick the days"),
            (small, AddPeriod(zone_id="*", timetable="Every day"), "first date, the last or both"),
            (
                small,
                MoveCycleEnd(machine_id="washer", span=RUN, edge="end", since_ms=RUN.start_ms, at_min=-1),
                "end after it starts",
            ),
            (small, SplitCycle(machine_id="washer", span=RUN, time=700), "only between"),
            (drawn, AddOpening(kind="window", x_m=60.0, y_m=60.0, storey_id="ground"), "no wall near"),
            (drawn, PlaceItem(what="device:toaster", room_id="den"), "from the list"),
            (drawn, PlaceItem(what="thing:lamp", x_m=60.0, y_m=60.0, storey_id="ground"), "no room at that place"),
            (drawn, OverruleFigure(room_id="den", figure="u_wall", value=90.0), "between 0.02 and 10"),
            (drawn, OverruleFigure(room_id="den", figure="air_1_h", value=60.0), "between 0 and 50"),
            (drawn, RemovePart(id="nobody"), "not there any more"),
            (drawn, RemoveSource(id="boiler"), "hang on"),
            (drawn, ChangeDevice(id="air-den", values={"witness_id": "air-den"}), "its own witness"),
            (drawn, CalibrateDevice(id="air-den"), "type the offset"),
            (drawn, ChangeSafetyChain(id="none"), "not there any more"),
            (drawn, ReplaceDevice(id="air-den", by="new:toaster", on=MONDAY), "from the list"),
            (
                drawn,
                CountSensors(id=drawn.zones[0].id, rule="one", counted=("air-den", "air-study")),
                "several are ticked",
            ),
        )
        for home, command, words in cases:
            with self.subTest(type(command).__name__), self.assertRaises(WarmeterError) as caught:
                command.edit(home)
            told: Any = caught.exception
            self.assertIn(words, str(told))


if __name__ == "__main__":
    unittest.main()
