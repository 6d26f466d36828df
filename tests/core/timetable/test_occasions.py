"""Days that differ: which dates they are, what wins, and rules that look at tomorrow, by both evaluators."""

import unittest
from dataclasses import replace
from datetime import date, timedelta
from typing import Literal

from tests.homes import small_home
from warmeter.core.edits.calendar_commands import AddOccasion, RemoveOccasion
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.on_occasion import OnOccasion
from warmeter.core.home.occasions import Occasion, occasion_days
from warmeter.core.home.rules import MarkFact, Rule
from warmeter.core.home.timetables import DayKind, SpecialDay
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.run import rule_run_of
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.timetable.calendar import kind_on
from warmeter.core.truth.scope import Scope

KINDS = (
    DayKind(id="work", name="Workday", weekdays=(0, 1, 2, 3, 4)),
    DayKind(id="off", name="Day off", weekdays=(5, 6)),
    DayKind(id="guest", name="Guests"),
)


class Days(unittest.TestCase):
    def test_every_second_thursday_from_a_start(self) -> None:
        paper = Occasion(id="o", name="Paper", from_date=date(2026, 1, 8), weekdays=(3,), every_weeks=2)
        found = occasion_days((), paper, date(2026, 1, 1), date(2026, 2, 28))
        self.assertEqual(found, [date(2026, 1, 8) + timedelta(days=14 * k) for k in range(4)])

    def test_a_start_in_the_middle_of_a_week_counts_whole_weeks(self) -> None:
        both = Occasion(id="o", name="Bins", from_date=date(2026, 1, 7), weekdays=(0, 2), every_weeks=3)
        found = occasion_days((), both, date(2026, 1, 1), date(2026, 2, 20))
        # The week of 5 January, then those of 26 January and 16 February; Monday 5 lies before the start.
        self.assertEqual(
            found, [date(2026, 1, 7), date(2026, 1, 26), date(2026, 1, 28), date(2026, 2, 16), date(2026, 2, 18)]
        )

    def test_a_stretch_has_both_its_ends_and_dates_are_themselves(self) -> None:
        stay = Occasion(id="o", name="Guests", from_date=date(2026, 3, 28), to_date=date(2026, 3, 30))
        self.assertEqual(len(occasion_days((), stay, date(2026, 1, 1), date(2026, 12, 31))), 3)
        some = Occasion(id="o", name="Some", dates=(date(2026, 5, 1),))
        self.assertTrue(some.holds_on(date(2026, 5, 1)))
        self.assertFalse(some.holds_on(date(2026, 5, 2)))

    def test_what_has_no_meaning_is_refused_in_words(self) -> None:
        for parts, words in (
            ({}, "no day"),
            ({"every_weeks": 2, "weekdays": (1,)}, "from which date"),
            ({"from_date": date(2026, 2, 1), "to_date": date(2026, 1, 1)}, "end before"),
            ({"dates": (date(2026, 5, 1),), "weekdays": (3,)}, "one of both"),
        ):
            with self.assertRaisesRegex(HomeError, words):
                Occasion(id="o", name="Odd", **parts)
        with self.assertRaisesRegex(HomeError, "no date"):
            AddOccasion(name="Odd", dates="tomorrow").edit(small_home())


class WhatWins(unittest.TestCase):
    def test_a_noted_date_over_the_last_occasion_over_the_weekday(self) -> None:
        holidays = Occasion(id="h", name="Holidays", dates=(date(2026, 4, 3), date(2026, 4, 6)), kind_id="off")
        guests = Occasion(id="g", name="Guests", from_date=date(2026, 4, 6), to_date=date(2026, 4, 8), kind_id="guest")
        paper = Occasion(id="p", name="Paper", weekdays=(0,))
        home = replace(
            small_home(),
            day_kinds=KINDS,
            occasions=(holidays, guests, paper),
            special_days=(SpecialDay(on=date(2026, 4, 8), kind_id="work"),),
        )

        def kind(day: int) -> str:
            found = kind_on(home, date(2026, 4, day))
            return "" if found is None else found.id

        self.assertEqual([kind(day) for day in (2, 3, 6, 7, 8, 9)], ["work", "off", "guest", "guest", "work", "work"])

    def test_a_tariff_knows_the_holidays_of_the_calendar(self) -> None:
        home = small_home()
        own = (date(2026, 1, 1),)
        tariff = replace(home.tariffs[0], holidays=own)
        holidays = Occasion(id="h", name="Holidays", kind="holidays", dates=(date(2026, 4, 6),))
        guests = Occasion(id="g", name="Guests", kind="guests", dates=(date(2026, 4, 7),))
        found = replace(home, tariffs=(tariff,), occasions=(holidays, guests)).tariff_on(date(2026, 4, 6))
        self.assertEqual(found.holidays if found else (), (*own, date(2026, 4, 6)))
        self.assertIs(replace(home, tariffs=(tariff,)).tariff_on(date(2026, 4, 6)), tariff)

    def test_a_kind_of_day_that_goes_leaves_the_days_and_an_occasion_is_taken_back(self) -> None:
        home = replace(small_home(), day_kinds=KINDS)
        grown = AddOccasion(name="Away", what="away", from_date=date(2026, 7, 1), kind_id="guest").edit(home).home
        self.assertEqual(grown.occasions[0].kind_id, "guest")
        left = RemoveOccasion(id=grown.occasions[0].id).edit(grown).home
        self.assertEqual(left.occasions, ())


class InRules(unittest.TestCase):
    def test_collection_tomorrow_holds_from_midnight_to_midnight_over_a_clock_change(self) -> None:
        clock = LocalClock("Europe/London")
        start, end = parse_utc("2026-03-26T00:00:00Z"), parse_utc("2026-04-02T00:00:00Z")
        days = frozenset((date(2026, 3, 30),))
        scope = Scope(start_ms=start, end_ms=end, clock=clock, occasions={"paper": days})
        cases: tuple[tuple[Literal["today", "tomorrow"], bool, list[str]], ...] = (
            ("tomorrow", True, ["2026-03-29T00:00:00Z"]),
            ("today", True, ["2026-03-29T23:00:00Z"]),
            ("today", False, ["2026-03-30T23:00:00Z"]),
        )
        for day, is_so, begins in cases:
            condition = OnOccasion(occasion_id="paper", day=day, is_so=is_so)
            rule = Rule(id="r", name="Bins", watch=((condition,),), then=(MarkFact(word="bins"),))
            run = rule_run_of(rule, ConditionEvaluator(scope))
            self.assertEqual(run, interpret(rule, scope))
            self.assertEqual([f.at_ms for f in run.firings], [parse_utc(text) for text in begins], day)

    def test_an_occasion_that_is_gone_is_never_so(self) -> None:
        scope = Scope(start_ms=0, end_ms=10**9, clock=LocalClock("UTC"))
        rule = Rule(id="r", name="Bins", watch=((OnOccasion(occasion_id="gone"),),), then=(MarkFact(word="bins"),))
        self.assertEqual(rule_run_of(rule, ConditionEvaluator(scope)).firings, ())


if __name__ == "__main__":
    unittest.main()
