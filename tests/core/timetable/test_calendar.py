"""Which day holds on which date, blocks over midnight and over clock changes, and timetables on the road and back."""

import csv
import io
import itertools
import unittest
from dataclasses import replace
from datetime import date, timedelta

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.homes import small_home, with_day
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import WEEKDAYS, ChangePoint, DayKind, DayProfile, Period, SpecialDay, Timetable
from warmeter.core.home.zones import LevelNumbers
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import days_of_key, timetable_on, written_on
from warmeter.core.timetable.compare import points_text, written_differences
from warmeter.core.timetable.day import blocks_between, blocks_of
from warmeter.core.timetable.draft import with_drafts
from warmeter.core.timetable.series import asked_series_c
from warmeter.core.timetable.timetable_csv import csv_rows, read_csv
from warmeter.core.timetable.timetable_file import timetable_file, with_file
from warmeter.core.timetable.week_ical import ical_of, read_ical, week_blocks
from warmeter.core.units import celsius_from
from warmeter.service.timetable.timetable_files import FILE_ADAPTER, looked_at, timetable_csv

MIN = 60_000
ZONES = ("Europe/London", "Australia/Lord_Howe", "America/Santiago")
CHANGES = {
    "Europe/London": (date(2026, 3, 29), date(2026, 10, 25)),
    "Australia/Lord_Howe": (date(2026, 4, 5), date(2026, 10, 4)),
    "America/Santiago": (date(2026, 4, 4), date(2026, 9, 6)),
}
KINDS = (
    DayKind(id="work", name="Workday", weekdays=(0, 1, 2, 3, 4)),
    DayKind(id="off", name="Day off", weekdays=(5, 6)),
)
LEVELS = ("asleep", "in-use", "idle")
POINTS = st.lists(
    st.tuples(st.integers(0, 287), st.sampled_from(LEVELS), st.sampled_from([None, None, 18.5, 22.0])),
    min_size=1,
    max_size=5,
    unique_by=lambda row: row[0],
).map(lambda rows: tuple(ChangePoint(start_min=5 * a, level_id=b, own_setpoint_c=c) for a, b, c in sorted(rows)))
KEYS = st.lists(st.sampled_from([*WEEKDAYS, "work", "off"]), max_size=3, unique=True)


@st.composite
def homes(draw: st.DrawFn) -> Home:
    """Draw a home whose zone has a usual day and days written apart."""
    zone_name = draw(st.sampled_from(ZONES))
    home = replace(small_home(zone_name), day_kinds=KINDS)
    days = tuple(DayProfile(of=key, points=draw(POINTS)) for key in draw(KEYS))
    timetable = Timetable(id="tt1", name="Winter", usual=draw(POINTS), days=days)
    return replace(home, zones=(replace(home.zones[0], timetables=(timetable,)),))


def home_with(*tables: Timetable, calendar: tuple[Period, ...] = (), specials: tuple[SpecialDay, ...] = ()) -> Home:
    home = small_home("Europe/London")
    zone = replace(home.zones[0], timetables=tables, calendar=calendar)
    return replace(home, day_kinds=KINDS, special_days=specials, zones=(zone,))


def one(level: str, minute: int = 0) -> tuple[ChangePoint, ...]:
    return (ChangePoint(start_min=minute, level_id=level),)


class WhichDay(unittest.TestCase):
    def test_the_closest_way_that_a_date_is_written_holds(self) -> None:
        monday = date(2026, 1, 12)
        keys = ("2026-01-12", "off", "mon", "work")
        special = (SpecialDay(on=monday, kind_id="off"),)
        for left in range(len(keys) + 1):
            days = tuple(DayProfile(of=key, points=one("idle", 5 * k)) for k, key in enumerate(keys) if k >= left)
            home = home_with(Timetable(id="tt", name="T", usual=one("in-use"), days=days), specials=special)
            expected = keys[left] if left < 4 else "usual"
            self.assertEqual(written_on(home, home.zones[0], monday).key, expected)
        plain = home_with(
            Timetable(id="tt", name="T", usual=one("in-use"), days=(DayProfile(of="work", points=one("idle")),))
        )
        self.assertEqual(written_on(plain, plain.zones[0], monday).key, "work")
        self.assertEqual(days_of_key(plain, plain.zones[0].timetables[0], "usual"), (5, 6))

    def test_the_last_date_that_holds_wins_and_years_turn(self) -> None:
        tables = tuple(Timetable(id=k, name=k, usual=one("idle")) for k in ("a", "b", "c"))
        calendar = (
            Period(timetable_id="b", from_date=date(2026, 11, 1), to_date=date(2026, 2, 10), every_year=True),
            Period(timetable_id="c", from_date=date(2026, 12, 24), to_date=date(2026, 12, 26)),
        )
        zone = home_with(*tables, calendar=calendar).zones[0]
        for on, expected in (
            (date(2026, 10, 31), "a"),
            (date(2026, 11, 1), "b"),
            (date(2029, 1, 5), "b"),
            (date(2026, 2, 11), "a"),
            (date(2026, 12, 24), "c"),
            (date(2027, 12, 24), "b"),
        ):
            self.assertEqual(timetable_on(zone, on).id, expected, on)

    def test_a_block_over_midnight_is_cut_by_the_next_day_s_block_only(self) -> None:
        usual = (ChangePoint(start_min=390, level_id="in-use"), ChangePoint(start_min=1350, level_id="asleep"))
        days = (DayProfile(of="off", points=one("in-use", 540)),)
        home = home_with(Timetable(id="tt", name="T", usual=usual, days=days))
        saturday = LocalClock("Europe/London").day(date(2026, 1, 17))
        first, second = blocks_of(home, home.zones[0], saturday, LocalClock("Europe/London"))
        self.assertEqual((first.level_name, first.is_carried, first.end_min), ("Asleep", True, 540))
        self.assertEqual((second.level_name, second.on), ("In use", date(2026, 1, 17)))

    def test_a_day_without_points_lets_the_one_before_go_on(self) -> None:
        home = home_with(
            Timetable(id="tt", name="T", usual=one("in-use", 600), days=(DayProfile(of="tue", points=()),))
        )
        clock = LocalClock("Europe/London")
        (only,) = blocks_of(home, home.zones[0], clock.day(date(2026, 1, 13)), clock)
        self.assertEqual((only.on, only.level_name), (date(2026, 1, 12), "In use"))

    def test_a_zone_s_own_number_holds_where_the_block_has_none(self) -> None:
        home = home_with(Timetable(id="tt", name="T", usual=one("in-use")))
        zone = replace(home.zones[0], numbers=(LevelNumbers(level_id="in-use", heating_c=18.5, cooling_c=27.0),))
        home = replace(home, zones=(zone,))
        clock = LocalClock("Europe/London")
        block = blocks_of(home, zone, clock.day(date(2026, 1, 13)), clock)[0]
        self.assertEqual((block.setpoint_c, block.cooling_c), (18.5, 27.0))


class Always(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(homes(), st.integers(0, 364))
    def test_at_any_instant_exactly_one_level_holds(self, home: Home, offset: int) -> None:
        clock = LocalClock(home.time_zone)
        first = date(2026, 1, 1) + timedelta(days=offset)
        start, end = clock.instant(first, 0), clock.instant(first + timedelta(days=7), 0)
        blocks = blocks_between(home, home.zones[0], clock, start, end)
        self.assertEqual((blocks[0].from_ms, blocks[-1].until_ms), (start, end))
        for before, after in itertools.pairwise(blocks):
            self.assertEqual(before.until_ms, after.from_ms)
        self.assertEqual(sum(b.until_ms - b.from_ms for b in blocks), end - start)

    def test_both_clock_changes_in_three_zones(self) -> None:
        for zone_name, changes in CHANGES.items():
            clock = LocalClock(zone_name)
            home = with_day(
                small_home(zone_name),
                *(ChangePoint(start_min=m, level_id=LEVELS[k % 3]) for k, m in enumerate(range(0, 240, 15))),
            )
            for on in changes:
                day = clock.day(on)
                self.assertNotEqual(day.hours, 24, (zone_name, on))
                blocks = blocks_of(home, home.zones[0], day, clock)
                self.assertEqual(sum(b.until_ms - b.from_ms for b in blocks), day.end_ms - day.start_ms)
                for block in blocks[1:]:
                    # A change point takes effect at the first instant that shows its time or a later one.
                    shown = clock.local(block.from_ms)
                    just_before = clock.local(block.from_ms - MIN)
                    self.assertGreaterEqual(shown.hour * 60 + shown.minute, block.start_min)
                    before = just_before.hour * 60 + just_before.minute
                    self.assertTrue(before < block.start_min or just_before.date() < on, (zone_name, on, block))

    @settings(deadline=None, derandomize=True, max_examples=30)
    @given(homes(), st.integers(0, 364))
    def test_the_long_series_is_the_blocks(self, home: Home, offset: int) -> None:
        clock = LocalClock(home.time_zone)
        first = date(2026, 1, 1) + timedelta(days=offset)
        series = asked_series_c(home, home.zones[0], clock, first, 9, 5)
        start, end = clock.instant(first, 0), clock.instant(first + timedelta(days=9), 0)
        blocks = blocks_between(home, home.zones[0], clock, start, end)
        self.assertEqual(series.size, (end - start) // (5 * MIN))
        for k in range(0, series.size, 7):
            at = start + k * 5 * MIN
            block = next(b for b in blocks if b.from_ms <= at < b.until_ms)
            self.assertEqual(series[k], max(block.setpoint_c, home.guard.low_c), k)

    @settings(deadline=None, derandomize=True, max_examples=30)
    @given(homes(), st.integers(0, 50))
    def test_written_as_blocks_from_and_to_the_same_level_is_in_force(self, home: Home, weeks: int) -> None:
        zone, clock = home.zones[0], LocalClock(home.time_zone)
        spans = []
        for weekday, begin, length, point in week_blocks(home, zone.timetables[0]):
            spans.append((1440 * weekday + begin, 1440 * weekday + begin + length, point.level_id))
        monday = date(2026, 1, 5) + timedelta(weeks=weeks)
        blocks = blocks_between(
            home, zone, clock, clock.instant(monday, 0), clock.instant(monday + timedelta(days=7), 0)
        )
        for block in blocks:
            shown = clock.local((block.from_ms + block.until_ms) // 2)
            minute = 1440 * shown.weekday() + 60 * shown.hour + shown.minute + shown.second / 60
            held = {name for a, b, name in spans if any(a <= minute + k * 10_080 < b for k in (0, 1))}
            self.assertEqual(held, {block.level_id})


def lines_of(home: Home) -> list[str]:
    return timetable_csv(home).splitlines()


class Road(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(homes())
    def test_json_and_csv_come_back_as_they_went(self, home: Home) -> None:
        file = FILE_ADAPTER.validate_json(FILE_ADAPTER.dump_json(timetable_file(home)))
        self.assertEqual(with_file(home, file).home, home)
        drafts, found = read_csv(home, lines_of(home))
        taken = with_drafts(home, drafts, found)
        self.assertEqual((taken.home, taken.findings), (home, ()))

    def test_a_table_of_a_home_in_fahrenheit_says_so_and_comes_back(self) -> None:
        own = celsius_from(70.0, "F")
        home = home_with(Timetable(id="tt", name="Every day", usual=(ChangePoint(start_min=0, level_id="in-use"),)))
        warm = replace(home.zones[0].timetables[0].usual[0], own_setpoint_c=own)
        zone = replace(home.zones[0], timetables=(replace(home.zones[0].timetables[0], usual=(warm,)),))
        home = replace(home, zones=(zone,), temperature_unit="F")
        lines = lines_of(home)
        self.assertTrue(lines[0].endswith("setpoint_f,own"), lines[0])
        self.assertTrue(lines[1].endswith(",70,yes"), lines[1])
        drafts, found = read_csv(home, lines)
        self.assertEqual(with_drafts(home, drafts, found).home, home)

    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(homes(), st.integers(0, 300))
    def test_icalendar_brings_back_every_minute_of_the_week(self, home: Home, offset: int) -> None:
        on = date(2026, 1, 1) + timedelta(days=offset)
        drafts, found = read_ical(home, ical_of(home, on), on)
        taken = with_drafts(home, drafts, found)
        self.assertEqual(taken.findings, ())

        def week(h: Home) -> list[tuple[int, int, int, str, float | None]]:
            timetable = h.zones[0].timetables[0]
            return [(d, a, n, p.level_id, p.own_setpoint_c) for d, a, n, p in week_blocks(h, timetable)]

        self.assertEqual(week(taken.home), week(home))

    def test_a_calendar_from_elsewhere_is_told_where_it_is_odd(self) -> None:
        home = home_with(Timetable(id="tt", name="T", usual=one("in-use")))
        events = (
            ("Study: In use", "20260112T060000", "20260112T090000", "Europe/London", "RRULE:FREQ=DAILY", ""),
            (
                "Study: Asleep",
                "20260112T150000",
                "20260113T010000",
                "America/New_York",
                "RRULE:FREQ=WEEKLY;BYDAY=MO",
                "another time zone",
            ),
            (
                "Study: Idle",
                "20260112T100000",
                "20260112T120000",
                "Europe/London",
                "RRULE:FREQ=MONTHLY;BYMONTHDAY=3",
                "no week holds",
            ),
            (
                "Study: Idle",
                "20260112T100000",
                "20260112T120000",
                "Europe/London",
                "RRULE:FREQ=WEEKLY;INTERVAL=2",
                "no week holds",
            ),
            (
                "Study: Idle",
                "20260112T130000",
                "20260112T140000",
                "Europe/London",
                "RRULE:FREQ=WEEKLY;COUNT=4",
                "going on",
            ),
            (
                "Cellar: Idle",
                "20260112T130000",
                "20260112T140000",
                "Europe/London",
                "RRULE:FREQ=DAILY",
                "no zone 'Cellar'",
            ),
            (
                "Study: Party",
                "20260112T130000",
                "20260112T140000",
                "Europe/London",
                "RRULE:FREQ=DAILY",
                "no level 'Party'",
            ),
            ("Study: Idle", "20260112T130000", "20260112T120000", "Europe/London", "RRULE:FREQ=DAILY", "ends before"),
        )
        text = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n"
        for k, (summary, begin, end, zone, rule, _) in enumerate(events):
            text += (
                f"BEGIN:VEVENT\r\nUID:{k}\r\nSUMMARY:{summary}\r\nDTSTART;TZID={zone}:{begin}\r\n"
                f"DTEND;TZID={zone}:{end}\r\n{rule}\r\nEND:VEVENT\r\n"
            )
        taken = looked_at(home, (text + "END:VCALENDAR\r\n").encode(), "x.ics", date(2026, 1, 12))
        told = [f"{f.place}: {f.sentence}; {f.fix}" for f in taken.findings]
        for *_, expected in events:
            self.assertTrue(any(expected in each for each in told), expected)
        self.assertTrue(any("nothing is written for Study" in each for each in told))
        self.assertEqual(taken.zones, 1)
        self.assertIn(
            "20:00",
            points_text(
                taken.home, taken.home.zones[0], written_on(taken.home, taken.home.zones[0], date(2026, 1, 12)).points
            ),
        )

    def test_a_table_with_every_kind_of_fault_loses_nothing_that_is_sound(self) -> None:
        home = home_with(Timetable(id="tt", name="T", usual=one("in-use")))
        table = """zone;timetable;day;from;to;level;setpoint_c;own
Study;T;usual;06:30;09:00;In use;20;no
Study;T;usual;08:30;12:00;idle;;
Study;T;usual;13:00;22:00;In use;99;yes
Study;T;usual;25:00;26:00;Idle;;
Study;T;someday;06:00;07:00;Idle;;
Studdy;T;Day off;00:00;24:00;Asleep;16,5;yes
Attic;T;usual;00:00;24:00;Idle;;
Study;T;usual;22:00;06:30;Party;;
""".splitlines()
        drafts, found = read_csv(home, table)
        taken = with_drafts(home, drafts, found)
        told = " | ".join(f"{f.place}: {f.sentence}; {f.fix}" for f in taken.findings)
        for expected in (
            "line 5: '25:00' is no time of day",
            "line 6: 'someday' is no weekday",
            "line 7: there is no zone 'Studdy'; it is taken for 'Study'",
            "line 8: there is no zone 'Attic'",
            "line 9: there is no level 'Party'",
            "overlap from 08:30 to 09:00",
            "from 12:00 to 13:00",
            "99 °C is no setpoint",
            "there is no level 'idle'; it is taken for 'Idle'",
        ):
            self.assertIn(expected, told)
        zone = taken.home.zones[0]
        self.assertEqual([p.start_min for p in zone.timetables[0].usual], [390, 510, 780])
        self.assertEqual(zone.timetables[0].usual[2].own_setpoint_c, 32.0)
        off = zone.timetables[0].profile("off")
        assert off is not None
        self.assertEqual([(p.start_min, p.own_setpoint_c) for p in off.points], [(0, 16.5)])

    def test_files_that_are_none_are_refused_with_what_is_wrong(self) -> None:
        home = home_with(Timetable(id="tt", name="T", usual=one("in-use")))
        on = date(2026, 1, 12)
        for data, words in (
            (b"zone,when\nStudy,now\n", "no column 'day'"),
            (b"zone,day,from,to,level\n", "no line"),
            (b"zone,day,from,to,level\nCellar,mon,0,24,Idle\n", "nothing of this file"),
            (b"BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\nEND:VCALENDAR\n", "no event"),
            (b'{"format": "warmeter-timetable/1"}', "home_id"),
            (b'{"format": "warmeter-timetable/9"', "cannot be taken"),
            (b"\xff\xfe\x00zone", "neither JSON"),
        ):
            with self.assertRaises(HomeError) as caught:
                looked_at(home, data, "x", on)
            self.assertIn(words, str(caught.exception))

    def test_another_home_s_file_is_matched_by_name_and_told(self) -> None:
        home = home_with(Timetable(id="tt", name="T", usual=one("in-use")))
        other = replace(timetable_file(home), home_id="elsewhere", home_name="Elsewhere", clock="Europe/Paris")
        renamed = replace(
            other,
            levels=tuple(replace(x, id=f"x-{x.id}", heating_c=x.heating_c + 0.5) for x in other.levels),
            zones=tuple(
                replace(z, id="other", name="study", timetables=(Timetable(id="o", name="O", usual=one("x-idle", 60)),))
                for z in other.zones
            ),
        )
        taken = with_file(home, renamed)
        told = " ".join(f.sentence for f in taken.findings)
        for words in ("of another home", "Europe/Paris", "no zone 'study'", "and 20.5 °C in the file"):
            self.assertIn(words, told)
        self.assertEqual(taken.home.zones[0].timetables[0].usual, one("idle", 60))
        lost = replace(renamed, zones=tuple(replace(z, name="Barn") for z in renamed.zones))
        with self.assertRaises(HomeError):
            with_file(home, lost)

    def test_a_table_opens_in_a_spreadsheet(self) -> None:
        home = home_with(
            Timetable(id="tt", name="T, or so", usual=one("in-use"), days=(DayProfile(of="off", points=()),))
        )
        rows = list(csv.reader(io.StringIO(timetable_csv(home))))
        self.assertEqual(rows, [list(row) for row in csv_rows(home)])
        self.assertEqual(rows[2][:3], ["Study", "T, or so", "Day off"])

    def test_what_differs_is_told_place_by_place(self) -> None:
        before = home_with(Timetable(id="tt", name="T", usual=one("in-use")))
        zone = before.zones[0]
        after = replace(
            before,
            levels=tuple(replace(x, heating_c=19.0) if x.id == "in-use" else x for x in before.levels),
            special_days=(SpecialDay(on=date(2026, 5, 1), kind_id="off"),),
            zones=(
                replace(
                    zone,
                    timetables=(replace(zone.timetables[0], usual=one("idle", 60)),),
                    calendar=(Period(timetable_id="tt", from_date=date(2026, 5, 1)),),
                    numbers=(LevelNumbers(level_id="idle", heating_c=12.0),),
                ),
            ),
        )
        rows = {d.place: (d.before, d.after) for d in written_differences(before, after)}
        self.assertEqual(written_differences(before, before), [])
        self.assertEqual(rows["Level In use"], ("In use 20 °C", "In use 19 °C"))
        self.assertEqual(rows["Study, T, Usual day"], ("00:00 In use 20 °C", "01:00 Idle 12 °C"))
        self.assertEqual(rows["Study, Idle"], ("the home's", "12 °C"))
        self.assertEqual(rows["Study, dates"], ("", "T from 2026-05-01"))
        self.assertEqual(rows["2026-05-01"], ("", "Day off"))
