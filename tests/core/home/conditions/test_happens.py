"""A button that is pressed."""

import unittest

import numpy as np

from tests.rules_at_work import NOON, WINDOW, AtWork, rule, scope, track
from warmeter.core.home.conditions.happens import Happens
from warmeter.core.home.rules import PutBack, RuleLimits


class Happening(AtWork):
    def test_a_button_puts_back_even_within_the_least_time(self) -> None:
        one = rule(
            put_back=PutBack(when=((Happens(event="button", subject_id="b"),),)),
            limits=RuleLimits(min_on_s=600, stale_s=86_400),
        )
        log = scope(tracks={WINDOW: track((0, 0), (600, 1))}, events={("button", "", "b"): np.array([NOON + 700_000])})
        self.assertEqual(self.fired(one, log), [(600, 1200, "when")])


if __name__ == "__main__":
    unittest.main()
