"""Checks of whom rules tell."""

import unittest
from dataclasses import replace

from tests.checked_rules import HOME, LEAK, Checked, at, by, compared
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.rules import Tell


class People(Checked):
    def test_an_empty_room_asks_for_guests_and_for_the_night(self) -> None:
        away = InState(of=Signal(quantity="is_in", subject_id="study"), is_on=False)
        guests, awake = (Fact(word="guests are here", is_true=False),), (Hours(from_min=at(7), until_min=at(21)),)
        sound = by(away, for_s=1500, reading="is", only_while=(guests, awake))
        self.sound(sound)
        for left in ((guests,), (awake,), ()):
            fixed = self.fixed(replace(sound, only_while=left), "no condition", "watch.0.0.how")
            self.assertEqual({type(c) for clause in fixed.only_while for c in clause}, {Fact, Hours})

    def test_an_alarm_in_quiet_hours(self) -> None:
        leak = by(InState(of=LEAK), Tell(group_id="all"), put_back=None)
        self.assertEqual(self.fixed(leak, "alarm swallowed", "then.0.chain").kind, "safety")
        loud = replace(HOME, notification_groups=(replace(HOME.notification_groups[0], goes_through_quiet=True),))
        self.sound(leak, loud)
        warm = by(compared(28.0), Tell(group_id="all"), put_back=None)
        self.fixed(warm, "alarm swallowed", "then.0.chain")
        for minute, sound in ((at(7), True), (at(22) - 1, True), (at(22), False), (at(7) - 1, False)):
            strike = by(AtTime(at_min=minute), Tell(group_id="all"), put_back=None)
            with self.subTest(minute=minute):
                self.assertEqual(self.findings(strike) == [], sound)


if __name__ == "__main__":
    unittest.main()
