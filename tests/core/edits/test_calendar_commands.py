"""Commands on named timetables, their dates, and kinds of day."""

import unittest
from datetime import date

from tests.homes import done, small_home
from warmeter.core.edits.block_commands import CopyDay
from warmeter.core.edits.calendar_commands import (
    AddDayKind,
    AddPeriod,
    AddTimetable,
    ChangeSpecialDay,
    ChangeWeekdayKind,
    RemoveDayKind,
    RemovePeriod,
    RemoveTimetable,
    RenameTimetable,
    SwitchTimetable,
)
from warmeter.core.errors import HomeError
from warmeter.core.timetable.calendar import timetable_on, written_on

MONDAY, TUESDAY = date(2026, 1, 12), date(2026, 1, 13)


ZONE = "z-study"


class Calendars(unittest.TestCase):
    def test_a_named_timetable_holds_on_its_dates_and_the_later_entry_wins(self) -> None:
        home = done(
            small_home(),
            AddTimetable(zone_id=ZONE, name="Guests"),
            AddPeriod(zone_id=ZONE, timetable="Guests", from_date=date(2026, 2, 1), to_date=date(2026, 2, 7)),
        )
        zone = home.zones[0]
        named = [
            timetable_on(zone, on).name
            for on in (date(2026, 1, 31), date(2026, 2, 1), date(2026, 2, 7), date(2026, 2, 8))
        ]
        self.assertEqual([name == "Guests" for name in named], [False, True, True, False])
        usual = zone.timetables[0].name
        later = done(
            home, AddPeriod(zone_id=ZONE, timetable=usual, from_date=date(2026, 2, 3), to_date=date(2026, 2, 3))
        )
        self.assertEqual(timetable_on(later.zones[0], date(2026, 2, 3)).name, usual)
        self.assertEqual(
            timetable_on(done(later, RemovePeriod(zone_id=ZONE, index=1)).zones[0], date(2026, 2, 3)).name, "Guests"
        )
        for index in (2, 3):
            with self.subTest(index), self.assertRaisesRegex(HomeError, "not there any more"):
                done(later, RemovePeriod(zone_id=ZONE, index=index))
        with self.assertRaisesRegex(HomeError, "no zone has a timetable called"):
            done(home, AddPeriod(zone_id="*", timetable="Nobody", from_date=MONDAY))

    def test_switched_until_switched_back(self) -> None:
        home = done(small_home(), AddTimetable(zone_id=ZONE, name="Away"))
        away = done(home, SwitchTimetable(zone_id="*", day=MONDAY, timetable="Away"))
        self.assertEqual(timetable_on(away.zones[0], date(2027, 1, 1)).name, "Away")
        back = done(away, SwitchTimetable(zone_id="*", day=TUESDAY))
        names = [timetable_on(back.zones[0], on).name for on in (MONDAY, TUESDAY)]
        self.assertEqual(names, ["Away", home.zones[0].timetables[0].name])
        undone = done(away, SwitchTimetable(zone_id=ZONE, day=MONDAY))
        self.assertEqual(undone.zones[0].calendar, ())
        with self.assertRaises(HomeError):
            done(home, SwitchTimetable(zone_id="*", day=MONDAY, timetable="Nobody"))

    def test_a_timetable_is_renamed_and_goes_with_its_dates_but_never_the_last(self) -> None:
        home = done(
            small_home(),
            AddTimetable(zone_id=ZONE, name="Guests"),
            AddPeriod(zone_id=ZONE, timetable="Guests", from_date=MONDAY),
        )
        first, second = home.zones[0].timetables
        renamed = done(home, RenameTimetable(zone_id=ZONE, timetable_id=second.id, name="Visitors"))
        self.assertEqual([t.name for t in renamed.zones[0].timetables], [first.name, "Visitors"])
        gone = done(home, RemoveTimetable(zone_id=ZONE, timetable_id=second.id))
        self.assertEqual((len(gone.zones[0].timetables), gone.zones[0].calendar), (1, ()))
        with self.assertRaisesRegex(HomeError, "the only timetable of Study"):
            done(gone, RemoveTimetable(zone_id=ZONE, timetable_id=first.id))

    def test_kinds_of_day(self) -> None:
        home = done(small_home(), AddDayKind(name="Fasting"))
        kind = home.day_kinds[-1]
        home = done(
            home,
            ChangeWeekdayKind(weekday=4, kind_id=kind.id),
            ChangeSpecialDay(on=TUESDAY, kind_id=kind.id, note="agreed"),
            ChangeSpecialDay(on=MONDAY, kind_id=kind.id),
            CopyDay(zone_id=ZONE, day=MONDAY, to=(kind.id,)),
        )
        self.assertEqual([k.weekdays for k in home.day_kinds if k.id == kind.id], [(4,)])
        self.assertTrue(all(4 not in k.weekdays for k in home.day_kinds if k.id != kind.id))
        self.assertEqual([(s.on, s.note) for s in home.special_days], [(MONDAY, ""), (TUESDAY, "agreed")])
        self.assertEqual(written_on(home, home.zones[0], TUESDAY).key, kind.id)
        as_usual = done(home, ChangeSpecialDay(on=TUESDAY))
        self.assertEqual([s.on for s in as_usual.special_days], [MONDAY])
        gone = done(home, RemoveDayKind(kind_id=kind.id))
        self.assertEqual((gone.special_days, gone.zones[0].timetables[0].days), ((), ()))
        self.assertNotIn(kind.id, [k.id for k in gone.day_kinds])
        with self.assertRaises(HomeError):
            done(gone, RemoveDayKind(kind_id=kind.id))


if __name__ == "__main__":
    unittest.main()
