"""Checks of rules against the timetable."""

import unittest
from dataclasses import replace

from tests.checked_rules import HOME, MIN, Checked, H, at, by, compared
from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.rules import PutBack, Rule, SetPoint
from warmeter.core.home.timetables import ChangePoint, DayProfile


def _day(of: str, start_min: int, level_id: str) -> DayProfile:
    points = (ChangePoint(start_min=0, level_id="asleep"), ChangePoint(start_min=start_min, level_id=level_id))
    return DayProfile(of=of, points=points)


class AgainstTheTimetable(Checked):
    """The study is asleep at 16 until 07:00 and from 22:00 on, in use at 20 between."""

    def held(self, begin: float, asked_c: float, **back: object) -> Rule:
        step = SetPoint(zone_ids=("z-study",), value_c=asked_c)
        return by(AtTime(at_min=at(begin)), step, put_back=PutBack(**back))  # type: ignore[arg-type]

    def test_kept_low_over_the_turn_up(self) -> None:
        rule = self.held(5, 12.0, at_min=at(8))
        found = self.findings(rule)
        self.assertIn("In use at 07:00", found[0].sentence)
        back = self.fixed(rule, "contradiction", "back_at").put_back
        assert back is not None
        self.assertEqual((back.at_min, back.after_s), (at(7), None))

    def test_kept_high_over_the_turn_down(self) -> None:
        back = self.fixed(self.held(21, 22.0, after_s=90 * MIN), "contradiction", "back_after").put_back
        assert back is not None
        self.assertEqual((back.at_min, back.after_s), (at(22), None))

    def test_over_before_or_at_the_turn(self) -> None:
        self.sound(self.held(5, 12.0, at_min=at(7)))
        self.sound(self.held(5, 12.0, after_s=2 * H))
        self.sound(self.held(21, 22.0, at_min=at(22)))

    def test_the_same_way_as_the_timetable_is_no_contradiction(self) -> None:
        self.sound(self.held(5, 21.0, at_min=at(8)))  # warm earlier
        self.sound(self.held(21, 12.0, at_min=at(23)))  # turned down earlier

    def test_over_midnight(self) -> None:
        self.sound(self.held(23, 12.0, at_min=at(6.5)))
        self.fixed(self.held(23, 12.0, at_min=at(7.5)), "contradiction", "back_at")

    def test_only_on_its_weekdays(self) -> None:
        zone = HOME.zones[0]
        late = zone.timetables[0]
        tuesday = replace(
            HOME,
            zones=(
                replace(
                    zone,
                    timetables=(
                        replace(
                            late,
                            usual=(ChangePoint(start_min=0, level_id="asleep"),),
                            days=(_day("tue", at(7), "in-use"),),
                        ),
                    ),
                ),
                HOME.zones[1],
            ),
        )
        rule = self.held(5, 12.0, at_min=at(8))
        self.assertIn("Tuesday", self.findings(rule, tuesday)[0].sentence)
        self.sound(replace(rule, watch=((AtTime(at_min=at(5), weekdays=(0, 2, 3, 4, 5, 6)),),)), tuesday)

    def test_a_condition_may_outweigh_the_timetable(self) -> None:
        until_warm = PutBack(when=((compared(19.0),),), at_min=at(8))
        self.sound(by(AtTime(at_min=at(5)), SetPoint(zone_ids=("z-study",), value_c=12.0), put_back=until_warm))

    def test_a_level_that_no_timetable_of_the_zone_sets(self) -> None:
        rule = by(compared(26.0), reading="is")
        self.sound(replace(rule, only_while=((AtLevel(zone_id="z-study", level_ids=("idle", "asleep")),),)))
        never = replace(rule, only_while=((AtLevel(zone_id="z-study", level_ids=("idle",)),),))
        self.fixed(never, "never or always", "only_while.0.0.levels")


if __name__ == "__main__":
    unittest.main()
