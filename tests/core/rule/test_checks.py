"""Findings on rules, each at the border between what is sound and what is not, in one small home."""

from dataclasses import replace
from datetime import date

from tests.checked_rules import HOME, Checked, H, by
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.rules import PutBack, Tell
from warmeter.core.home.timetables import ChangePoint, DayProfile
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import Evidence

STUDY = Signal(quantity="room_temperature", subject_id="study")


HEATED_ONLY = replace(HOME, heaters=tuple(h for h in HOME.heaters if h.kind != "split_unit"))


def _day(of: str, start_min: int, level_id: str) -> DayProfile:
    points = (ChangePoint(start_min=0, level_id="asleep"), ChangePoint(start_min=start_min, level_id=level_id))
    return DayProfile(of=of, points=points)


class Clocks(Checked):
    def test_the_change_of_the_year_that_it_is(self) -> None:
        rule = by(AtTime(at_min=90), Tell(group_id="all"), put_back=PutBack(after_s=H))
        home = replace(HOME, rules=(rule,))
        for year, skipped, doubled in ((2026, "2026-03-29", "2026-10-25"), (2027, "2027-03-28", "2027-10-31")):
            told = [
                f.sentence for f in rule_findings(home, Evidence(today=date(year, 6, 1))) if f.check == "clock change"
            ]
            with self.subTest(year=year):
                self.assertEqual(len(told), 1)
                self.assertTrue(skipped in told[0] or doubled in told[0], told)
        for zone in ("UTC", "Asia/Tokyo"):
            self.assertEqual([f for f in rule_findings(replace(home, time_zone=zone)) if f.check == "clock change"], [])
