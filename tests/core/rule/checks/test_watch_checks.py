"""Checks of what a rule watches."""

import unittest
from dataclasses import replace

from tests.checked_rules import LEAK, OPENING, WINDOW, Checked, at, by, compared
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.rules import PutBack, Tell
from warmeter.core.rule.checks.rule_finding import Evidence

STUDY = Signal(quantity="room_temperature", subject_id="study")


class Watched(Checked):
    def test_hysteresis_is_three_times_the_noise_at_least(self) -> None:
        noisy = Evidence(noise={STUDY: 0.15})
        self.sound(by(compared(24.0, hysteresis=0.45)), evidence=noisy)
        wide = self.fixed(by(compared(24.0, hysteresis=0.44)), "no hysteresis", "watch.0.0.hysteresis", evidence=noisy)
        fixed = wide.watch[0][0]
        assert isinstance(fixed, Compared)
        self.assertAlmostEqual(fixed.hysteresis, 0.5)  # 0.45 rounded up to what is typed

    def test_a_put_back_from_the_other_side_is_a_hysteresis_too(self) -> None:
        noisy = Evidence(noise={STUDY: 0.2})
        near, far = (PutBack(when=((compared(value, 0.0, how="under"),),)) for value in (23.5, 23.4))
        self.sound(by(compared(24.0, 0.0), put_back=far), evidence=noisy)
        rule = by(compared(24.0, 0.0), put_back=near)
        back = self.fixed(rule, "no hysteresis", "when.0.0.value", evidence=noisy).put_back
        assert back is not None
        value = back.when[0][0]
        assert isinstance(value, Compared)
        self.assertAlmostEqual(value.value, 23.4)

    def test_an_opening_waits_as_long_as_its_contact_bounces(self) -> None:
        self.sound(OPENING)
        self.sound(replace(OPENING, for_s=60))
        self.assertEqual(self.fixed(replace(OPENING, for_s=59), "no wait", "for").for_s, 120)
        bad = Evidence(bounce_s={WINDOW: 150.0})
        found = self.findings(OPENING, evidence=bad)
        self.assertEqual([f.part for f in found], ["for", "back_for"])
        self.assertIn("bounces for up to 150 s", found[0].sentence)
        assert OPENING.put_back is not None
        self.sound(replace(OPENING, for_s=300, put_back=replace(OPENING.put_back, for_s=300)), evidence=bad)

    def test_a_clock_does_not_wait(self) -> None:
        strike = by(AtTime(at_min=at(8)), Tell(group_id="all"), put_back=None)
        self.sound(strike)
        self.assertEqual(self.fixed(replace(strike, for_s=60), "never or always", "for").for_s, 0)

    def test_a_clock_that_strikes_outside_its_hours_never_fires(self) -> None:
        for minute, sound in ((at(8), True), (at(12) - 1, True), (at(12), False), (at(7), False)):
            rule = by(
                AtTime(at_min=minute),
                Tell(group_id="all"),
                put_back=None,
                only_while=((Hours(from_min=at(8), until_min=at(12)),),),
            )
            with self.subTest(minute=minute):
                if sound:
                    self.sound(rule)
                else:
                    self.fixed(rule, "never or always", "only_while.0.0.from")

    def test_humidity_over_a_hundred_per_cent_never_holds(self) -> None:
        self.sound(by(compared(100.0, 5.0, quantity="relative_humidity")))
        wet = by(compared(101.0, 5.0, quantity="relative_humidity"))
        self.fixed(wet, "never or always", "watch.0.0.value")

    def test_water_is_answered_within_a_minute(self) -> None:
        leak = by(InState(of=LEAK), Tell(group_id="all"), kind="safety", put_back=None, for_s=60)
        self.sound(leak)
        self.assertEqual(self.fixed(replace(leak, for_s=61), "urgent but late", "for").for_s, 0)
        late = replace(leak, then=(Tell(group_id="all", wait_s=61),))
        self.assertEqual(self.fixed(late, "urgent but late", "then.0.wait").then[0].wait_s, 0)

    def test_a_crossing_before_its_hours_is_lost(self) -> None:
        rule = by(compared(26.0), only_while=((Hours(from_min=at(8), until_min=at(20)),),))
        self.assertEqual(self.fixed(rule, "crossing or state", "watch.0.0.how").reading, "is")


if __name__ == "__main__":
    unittest.main()
