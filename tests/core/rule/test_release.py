"""What usually puts a rule back."""

import unittest

from tests.rules_at_work import OPEN, SHUT, rule
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.rules import PutBack
from warmeter.core.rule.release import put_back_of


class Release(unittest.TestCase):
    def test_the_opposite_of_what_it_watches_half_its_wait_and_a_minute_at_least(self) -> None:
        for wait_s, back_s in ((0, 60), (60, 60), (180, 90), (600, 300)):
            with self.subTest(wait_s=wait_s):
                self.assertEqual(put_back_of(rule(watch=OPEN, for_s=wait_s)), PutBack(when=SHUT, for_s=back_s))

    def test_what_has_no_opposite_is_put_back_after_half_an_hour(self) -> None:
        self.assertEqual(put_back_of(rule(watch=((AtTime(at_min=720),),))), PutBack(after_s=1800))
        mixed = rule(watch=(*OPEN, (AtTime(at_min=720),)))
        self.assertEqual(put_back_of(mixed), PutBack(after_s=1800))


if __name__ == "__main__":
    unittest.main()
