"""Days left out of others, birthdays of devices, a first and last day that are so in part, days of a calendar's file."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from tests.homes import small_home
from warmeter.core.edits.calendar_commands import AddOccasion, RemoveOccasion
from warmeter.core.edits.timetable_edits import BlockPlace, moved_start
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.occasions import Occasion, occasion_days
from warmeter.core.home.timetables import ChangePoint, DayKind, DayProfile
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import written_on
from warmeter.core.timetable.day import blocks_of
from warmeter.core.timetable.occasion_ical import days_of_ical, occasions_ical

FIRST, LAST = date(2026, 1, 1), date(2026, 12, 31)


def calendar(*events: str) -> bytes:
    """Return an iCalendar file of events, each as lines."""
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:test"]
    for event in events:
        lines += ["BEGIN:VEVENT", *event.split("\n"), "END:VEVENT"]
    return ("\r\n".join([*lines, "END:VCALENDAR"]) + "\r\n").encode()


def read(*events: str, zone: str = "Europe/London", words: str = "") -> list[date]:
    return list(days_of_ical(calendar(*events), zone, FIRST, LAST, words).dates)


class LeftOut(unittest.TestCase):
    def test_school_but_not_on_holidays_but_on_the_one_that_is_made_up_for(self) -> None:
        made_up = Occasion(id="m", name="Made up", dates=(date(2026, 4, 7),))
        easter = Occasion(
            id="e", name="Easter", from_date=date(2026, 4, 3), to_date=date(2026, 4, 10), except_ids=("m",)
        )
        school = Occasion(id="s", name="School", weekdays=(0, 1, 2, 3, 4), except_ids=("e",))
        found = occasion_days((made_up, easter, school), school, date(2026, 3, 30), date(2026, 4, 14))
        self.assertEqual([d.day for d in found], [30, 31, 1, 2, 7, 13, 14])

    def test_what_leaves_out_itself_or_what_is_not_there_is_refused_with_its_name(self) -> None:
        a = Occasion(id="a", name="First", weekdays=(0,), except_ids=("b",))
        b = Occasion(id="b", name="Second", weekdays=(0,), except_ids=("a",))
        for occasions, words in (((a, b), "leaves out itself"), ((a,), "not there")):
            with self.assertRaisesRegex(HomeError, words):
                replace(small_home(), occasions=occasions)

    def test_what_is_removed_is_left_out_of_nothing_any_more(self) -> None:
        home = AddOccasion(name="Holidays", dates="2026-04-06").edit(small_home()).home
        home = AddOccasion(name="School", on="workdays", except_id=home.occasions[0].id).edit(home).home
        self.assertEqual(home.occasions[1].except_ids, (home.occasions[0].id,))
        left = RemoveOccasion(id=home.occasions[0].id).edit(home).home
        self.assertEqual(left.occasions[0].except_ids, ())


class Birthdays(unittest.TestCase):
    def test_every_so_many_months_on_the_last_of_a_short_month(self) -> None:
        filters = Occasion(id="f", name="Filter", kind="upkeep", from_date=date(2025, 8, 31), every_months=3)
        found = occasion_days((filters,), filters, date(2025, 8, 1), date(2026, 12, 31))
        self.assertEqual(
            [str(d) for d in found],
            ["2025-08-31", "2025-11-30", "2026-02-28", "2026-05-31", "2026-08-31", "2026-11-30"],
        )
        leap = Occasion(id="b", name="Battery", from_date=date(2024, 2, 29), every_months=12)
        days = occasion_days((leap,), leap, date(2025, 1, 1), date(2028, 12, 31))
        self.assertEqual([str(d) for d in days], ["2025-02-28", "2026-02-28", "2027-02-28", "2028-02-29"])

    def test_months_need_a_first_date_and_no_weeks(self) -> None:
        for parts in (
            {"weekdays": (0,)},
            {"from_date": FIRST, "weekdays": (0,)},
            {"from_date": FIRST, "every_weeks": 2},
        ):
            with self.assertRaisesRegex(HomeError, "months"):
                Occasion(id="o", name="Odd", every_months=6, **parts)

    def test_a_device_that_is_not_there_has_no_upkeep(self) -> None:
        battery = Occasion(id="b", name="Battery", from_date=FIRST, every_months=24, about_id="gone")
        with self.assertRaises(HomeError):
            replace(small_home(), occasions=(battery,))


class LeavingAndComingBack(unittest.TestCase):
    def away(self, **parts: object) -> Home:
        """Return a home whose zone is at one level while away, from Monday to Friday."""
        home = small_home()
        zone = home.zones[0]
        away = DayKind(id="away", name="Away")
        cold = DayProfile(of="away", points=(ChangePoint(start_min=0, level_id="asleep"),))
        usual = (ChangePoint(start_min=360, level_id="in-use"), ChangePoint(start_min=1320, level_id="asleep"))
        levels = {level.id for level in home.levels}
        points = tuple(replace(p, level_id=p.level_id if p.level_id in levels else home.levels[0].id) for p in usual)
        timetable = replace(zone.timetables[0], usual=points, days=(cold,))
        stay = Occasion(
            id="o",
            name="Away",
            kind="away",
            from_date=date(2026, 2, 2),
            to_date=date(2026, 2, 6),
            kind_id="away",
            **parts,  # type: ignore[arg-type]
        )
        return replace(
            home,
            day_kinds=(*home.day_kinds, away),
            zones=(replace(zone, timetables=(timetable,), calendar=()), *home.zones[1:]),
            occasions=(stay,),
            special_days=(),
        )

    def starts(self, home: Home, on: date) -> list[tuple[int, str]]:
        return [(p.start_min, p.level_id) for p in written_on(home, home.zones[0], on).points]

    def test_before_leaving_and_after_coming_back_it_is_the_usual_day(self) -> None:
        home = self.away(leave_min=600, back_min=1080)
        in_use = home.zones[0].timetables[0].usual[0].level_id
        self.assertEqual(self.starts(home, date(2026, 2, 2)), [(360, in_use), (600, "asleep")])
        self.assertEqual(self.starts(home, date(2026, 2, 4)), [(0, "asleep")])
        self.assertEqual(self.starts(home, date(2026, 2, 6)), [(0, "asleep"), (1080, in_use), (1320, "asleep")])
        self.assertEqual(self.starts(home, date(2026, 2, 7))[0], (360, in_use))

    def test_the_return_is_a_rising_block_for_which_it_is_warmed_up(self) -> None:
        home, clock = self.away(back_min=1080), LocalClock("Europe/London")
        blocks = blocks_of(home, home.zones[0], clock.day(date(2026, 2, 6)), clock)
        back = next(b for b in blocks if b.from_ms == clock.instant(date(2026, 2, 6), 1080))
        self.assertGreater(back.setpoint_c, blocks[0].setpoint_c)

    def test_an_edit_of_the_day_of_return_is_of_that_date_alone(self) -> None:
        home = self.away(back_min=1080)
        on = date(2026, 2, 6)
        changed = moved_start(home, home.zones[0].id, BlockPlace(on=on, index=1), 1020)
        self.assertEqual(self.starts(changed, on)[1][0], 1020)
        for day in (4, 5):
            self.assertEqual(self.starts(changed, date(2026, 2, day)), self.starts(home, date(2026, 2, day)))
        self.assertEqual(self.starts(changed, date(2026, 2, 7)), self.starts(home, date(2026, 2, 7)))

    def test_a_day_of_return_that_others_leave_out_is_still_written(self) -> None:
        home = self.away(back_min=1080)
        school = Occasion(id="s", name="School", weekdays=(0, 1, 2, 3, 4), except_ids=("o",))
        with_school = replace(home, occasions=(*home.occasions, school))
        on = date(2026, 2, 6)
        self.assertEqual(self.starts(with_school, on), self.starts(home, on))

    def test_hours_away_on_one_day_lie_between_leaving_and_coming_back(self) -> None:
        home = self.away()
        on = date(2026, 2, 4)
        day = replace(home.occasions[0], from_date=on, to_date=on, leave_min=600, back_min=1080)
        found = self.starts(replace(home, occasions=(day,)), on)
        self.assertEqual([start for start, _ in found], [360, 600, 1080, 1320])
        with self.assertRaisesRegex(HomeError, "come back after it leaves"):
            replace(day, leave_min=1080, back_min=600)

    def test_a_time_without_its_date_is_refused(self) -> None:
        with self.assertRaisesRegex(HomeError, "on which date"):
            Occasion(id="o", name="Away", from_date=FIRST, back_min=600)


class CalendarFiles(unittest.TestCase):
    def test_a_weekly_event_without_the_days_that_it_leaves_out(self) -> None:
        found = read(
            "UID:1\nSUMMARY:Home office\nDTSTART:20260113T080000Z\nDTEND:20260113T160000Z\n"
            "RRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,FR;UNTIL=20260430T235959Z\nEXDATE:20260127T080000Z"
        )
        monday, wanted = date(2026, 1, 12), []
        for k in range(109):
            day = monday + timedelta(days=k)
            if k // 7 % 2 == 0 and day.weekday() in (1, 4) and day <= date(2026, 4, 30) and day != date(2026, 1, 27):
                wanted.append(day)
        self.assertEqual(found, wanted)

    def test_one_that_was_moved_counts_where_it_was_moved_to_and_a_cancelled_one_not_at_all(self) -> None:
        weekly = "UID:1\nSUMMARY:Home\nDTSTART;VALUE=DATE:20260105\nRRULE:FREQ=WEEKLY;COUNT=3"
        moved = "UID:1\nSUMMARY:Home\nRECURRENCE-ID;VALUE=DATE:20260112\nDTSTART;VALUE=DATE:20260114"
        gone = "UID:2\nSUMMARY:Home\nSTATUS:CANCELLED\nDTSTART;VALUE=DATE:20260301"
        self.assertEqual(read(weekly, moved, gone), [date(2026, 1, 5), date(2026, 1, 14), date(2026, 1, 19)])

    def test_the_day_is_that_of_the_homes_clock_and_midnight_is_no_day_more(self) -> None:
        late = "UID:1\nSUMMARY:x\nDTSTART:20260701T233000Z\nDTEND:20260702T003000Z"
        self.assertEqual(read(late), [date(2026, 7, 2)])
        self.assertEqual(read(late, zone="America/New_York"), [date(2026, 7, 1)])
        trip = "UID:1\nSUMMARY:x\nDTSTART;VALUE=DATE:20260302\nDTEND;VALUE=DATE:20260305"
        self.assertEqual(read(trip), [date(2026, 3, 2), date(2026, 3, 3), date(2026, 3, 4)])
        until = "UID:1\nSUMMARY:x\nDTSTART:20260302T200000Z\nDTEND:20260303T000000Z"
        self.assertEqual(read(until), [date(2026, 3, 2)])

    def test_only_events_with_the_words_and_only_so_many_days(self) -> None:
        one = "UID:1\nSUMMARY:Working from HOME\nDTSTART;VALUE=DATE:20260302"
        other = "UID:2\nSUMMARY:Dentist\nDTSTART;VALUE=DATE:20260303"
        self.assertEqual(read(one, other, words="home"), [date(2026, 3, 2)])
        with self.assertRaisesRegex(HomeError, "no event with “choir”"):
            read(one, other, words="choir")
        daily = "UID:1\nSUMMARY:x\nDTSTART;VALUE=DATE:20200101\nRRULE:FREQ=DAILY"
        with self.assertRaisesRegex(HomeError, "365 days, more than 200"):
            read(daily)

    def test_an_event_of_decades_still_comes_and_one_of_every_second_is_refused(self) -> None:
        old = "UID:1\nSUMMARY:x\nDTSTART;VALUE=DATE:19850101\nRRULE:FREQ=DAILY;BYMONTH=3;BYMONTHDAY=2,3"
        self.assertEqual(read(old), [date(2026, 3, 2), date(2026, 3, 3)])
        daily = "UID:1\nSUMMARY:x\nDTSTART;VALUE=DATE:19850101\nRRULE:FREQ=DAILY;UNTIL=20260105"
        self.assertEqual(read(daily), [date(2026, 1, d) for d in range(1, 6)])
        with self.assertRaisesRegex(HomeError, "more than 200000 times"):
            read("UID:1\nSUMMARY:x\nDTSTART:20251231T000000Z\nRRULE:FREQ=SECONDLY")

    def test_what_is_no_calendar_is_refused_and_an_odd_event_is_counted(self) -> None:
        for data in (b"", b"time,value\n1,2\n", b"\xff\xfe\x00", b"BEGIN:VCALENDAR\r\nEND:VEVENT\r\n"):
            with self.assertRaises(HomeError):
                days_of_ical(data, "Europe/London", FIRST, LAST)
        good = "UID:1\nSUMMARY:x\nDTSTART;VALUE=DATE:20260302"
        found = days_of_ical(calendar(good, "UID:2\nSUMMARY:y"), "Europe/London", FIRST, LAST)
        self.assertEqual((found.dates, found.events, found.unread), ((date(2026, 3, 2),), 1, 1))

    def test_days_that_go_out_come_in_as_they_were(self) -> None:
        paper = Occasion(
            id="p", name="Paper", kind="collection", from_date=date(2026, 1, 8), weekdays=(3,), every_weeks=2
        )
        away = Occasion(id="a", name="Away", kind="away", from_date=date(2026, 7, 1), to_date=date(2026, 7, 14))
        home = replace(small_home(), occasions=(paper, away))
        data = occasions_ical(home, FIRST, LAST)
        for occasion in home.occasions:
            found = days_of_ical(data, "Europe/London", FIRST, LAST, occasion.name)
            self.assertEqual(list(found.dates), occasion_days(home.occasions, occasion, FIRST, LAST))
        self.assertEqual(data.count(b"BEGIN:VEVENT"), 26 + 1)


if __name__ == "__main__":
    unittest.main()
