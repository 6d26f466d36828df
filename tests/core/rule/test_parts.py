"""Parts of a rule by their path, also those of a sequence."""

import unittest
from dataclasses import replace

from tests.rules_at_work import SHUT, WINDOW, rule
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sequence import Sequence
from warmeter.core.home.rules import PutBack
from warmeter.core.rule.parts import ConditionPlace, clauses_of, condition_at, with_condition

OPEN, CLOSED = InState(of=WINDOW, is_on=True), InState(of=WINDOW, is_on=False)
PAIR = Sequence(first=OPEN, then=CLOSED, within_s=60)
PLACE = ConditionPlace("watch", 0, 0)


class OfASequence(unittest.TestCase):
    def setUp(self) -> None:
        self.rule = replace(rule(), watch=((PAIR,),))

    def part(self, sub: str) -> ConditionPlace:
        return replace(PLACE, sub=sub)  # type: ignore[arg-type]  # one of the three

    def test_each_part_is_changed_alone(self) -> None:
        for sub, wanted in (
            ("first", replace(PAIR, first=CLOSED)),
            ("then", replace(PAIR, then=OPEN)),
            ("unless", replace(PAIR, unless=OPEN)),
        ):
            new = CLOSED if sub == "first" else OPEN
            with self.subTest(sub):
                changed = with_condition(self.rule, self.part(sub), new)
                self.assertEqual(condition_at(changed, PLACE), wanted)

    def test_only_what_ends_it_early_may_be_taken_out(self) -> None:
        ended = replace(self.rule, watch=((replace(PAIR, unless=OPEN),),))
        self.assertEqual(condition_at(with_condition(ended, self.part("unless"), None), PLACE), PAIR)
        for sub in ("first", "then"):
            with self.subTest(sub), self.assertRaises(HomeError):
                with_condition(self.rule, self.part(sub), None)

    def test_no_sequence_stands_in_a_sequence(self) -> None:
        for sub in ("first", "then", "unless"):
            with self.subTest(sub), self.assertRaises(HomeError):
                with_condition(self.rule, self.part(sub), PAIR)

    def test_what_is_no_sequence_has_no_parts(self) -> None:
        with self.assertRaises(HomeError):
            with_condition(rule(), self.part("first"), OPEN)


class Clauses(unittest.TestCase):
    def test_a_part_that_is_emptied_goes_with_its_clause(self) -> None:
        two = replace(rule(), watch=((OPEN, CLOSED), (CLOSED,)))
        without = with_condition(two, ConditionPlace("watch", 0, 1), None)
        self.assertEqual(clauses_of(without, "watch"), ((OPEN,), (CLOSED,)))
        self.assertEqual(clauses_of(with_condition(without, PLACE, None), "watch"), ((CLOSED,),))

    def test_the_last_that_is_watched_stays(self) -> None:
        with self.assertRaises(HomeError):
            with_condition(replace(rule(), watch=((OPEN,),)), PLACE, None)

    def test_a_put_back_without_anything_left_goes(self) -> None:
        backed = replace(rule(), put_back=PutBack(when=SHUT))
        self.assertIsNone(with_condition(backed, ConditionPlace("when", 0, 0), None).put_back)
        timed = replace(rule(), put_back=PutBack(when=SHUT, after_s=600))
        left = with_condition(timed, ConditionPlace("when", 0, 0), None).put_back
        assert left is not None
        self.assertEqual((left.when, left.after_s), ((), 600))


if __name__ == "__main__":
    unittest.main()
