"""What every kind of condition owes: a place in the first slot, words for its fields, a truth that both ways give."""

import unittest
from dataclasses import fields
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from warmeter.core.edits.rule_defaults import condition_of
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.conditions.kinds import SINGLE_KINDS, Single
from warmeter.core.home.conditions.of_signal import OfSignal
from warmeter.core.home.conditions.phrase import (
    ChoicePlace,
    DatePlace,
    FieldPlace,
    LevelsPlace,
    MinusPlace,
    SubjectPlace,
    ValuePlace,
    VerbPlace,
)
from warmeter.core.home.rules import MarkFact, Rule
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.reference.conditions import ReferenceEvaluator
from warmeter.core.rule.signals import offered
from warmeter.core.truth.truth import UNKNOWN
from warmeter.service.homes.demo import demo_home
from warmeter.simulators.rule_cases import random_case

HOME = demo_home("weir-cottage")
CASES = 300


def fields_told(condition: Condition) -> set[str]:
    """Return the fields of a condition that its phrase has a place for."""
    found: set[str] = set()
    for place in condition.phrase():
        if isinstance(place, FieldPlace | ValuePlace | LevelsPlace):
            found.add(place.field)
        elif isinstance(place, ChoicePlace):
            found |= {place.field, *(name for sets in place.sets.values() for name in sets)}
        elif isinstance(place, DatePlace):
            found |= {place.day_field, place.month_field}
        elif isinstance(place, VerbPlace):
            found |= {"how", "is_on"}
        elif isinstance(place, MinusPlace):
            found.add("minus")
    return found


class Kinds(unittest.TestCase):
    def test_each_kind_is_told_apart_in_a_document(self) -> None:
        adapter: TypeAdapter[Any] = TypeAdapter(Single)
        names = [next(f.default for f in fields(kind) if f.name == "kind") for kind in SINGLE_KINDS]
        self.assertEqual(len(set(names)), len(names), names)
        self.assertGreaterEqual(len(names), 14)
        for kind in SINGLE_KINDS:
            for key in kind.subjects(HOME):
                condition = condition_of(HOME, key)
                with self.subTest(key):
                    again = adapter.validate_json(adapter.dump_json(condition), strict=True)
                    self.assertEqual((type(again), again), (kind, condition))

    def test_what_a_first_slot_offers_stands_as_chosen(self) -> None:
        keys = [f"signal:{o.signal.quantity}:{o.signal.subject_id or ''}" for o in offered(HOME)]
        keys += [key for kind in SINGLE_KINDS for key in kind.subjects(HOME)]
        self.assertEqual(len(set(keys)), len(keys))
        for key in keys:
            with self.subTest(key):
                self.assertEqual(condition_of(HOME, key).subject, key)
        for gone in ("machine:nobody", "level:nowhere", "moon", "signal:smell:x"):
            with self.assertRaises(HomeError):
                condition_of(HOME, gone)

    def test_each_field_has_a_place_in_the_phrase_that_begins_with_the_subject(self) -> None:
        for seed in range(CASES):
            for condition in random_case(seed)[0].conditions:
                phrase = condition.phrase()
                self.assertIsInstance(phrase[0], SubjectPlace)
                told = fields_told(condition)
                # What is looked at is the subject's; what is usual may be left to the document.
                kept = {
                    "kind",
                    "of",
                    "minus",
                    "appliance_id",
                    "zone_id",
                    "subject_id",
                    "occasion_id",
                    "event",
                    "first",
                    "then",
                    "unless",
                }
                left = {
                    "reset_min",
                    "below_deg",
                    "repeat",
                    "cancel_s",
                    "high",
                    "hysteresis",
                    "clock_min",
                    "least_s",
                    "word",
                }
                missing = {f.name for f in fields(condition)} - told - kept - left
                self.assertEqual(missing, set(), condition)

    def test_another_part_of_the_same_kind_keeps_the_rest(self) -> None:
        for kind in SINGLE_KINDS:
            for key in kind.subjects(HOME):
                head, _, rest = key.partition(":")
                if not rest:
                    continue
                moved = condition_of(HOME, key).on_other("elsewhere")
                with self.subTest(key):
                    assert moved is not None
                    self.assertEqual(moved.subject, f"{head}:elsewhere")


class Truths(unittest.TestCase):
    def cases(self) -> list[tuple[Condition, Any]]:
        """Return conditions of random rules with what they are looked at with."""
        found = []
        for seed in range(CASES):
            rule, scope = random_case(seed)
            found += [(condition, scope) for condition in rule.conditions]
        return found

    def test_both_ways_of_evaluating_agree_at_every_instant_at_which_something_changes(self) -> None:
        seen = set()
        for condition, scope in self.cases():
            instants: set[int] = {scope.start_ms}
            watcher = ReferenceEvaluator(scope, 3600, instants.add)
            watcher.watch(condition)
            truth = ConditionEvaluator(scope).truth(condition, 3600)
            told: list[tuple[int, int]] = []
            done: set[int] = set()
            while waiting := sorted(at for at in instants - done if scope.start_ms <= at < scope.end_ms):
                watcher.look(waiting[0])
                done.add(waiting[0])
                told.append((waiting[0], watcher.told[condition]))
            at = np.array([each for each, _ in told], dtype=np.int64)
            with self.subTest(condition=condition):
                self.assertEqual(truth.at(at).tolist(), [value for _, value in told])
            seen.add(type(condition))
        self.assertEqual(set(SINGLE_KINDS) - seen, set(), "every kind was looked at")

    def test_the_opposite_begins_no_sooner_than_the_condition_is_over(self) -> None:
        for condition, scope in self.cases():
            if condition.opposite is None:
                continue
            evaluator = ConditionEvaluator(scope)
            one, other = evaluator.truth(condition, 3600), evaluator.truth(condition.opposite, 3600)
            at = np.unique(np.concatenate([one.at_ms, other.at_ms]))
            both = (one.at(at) == 2) & (other.at(at) == 2)
            left_on = getattr(condition, "does", "") == "left_on"
            if not isinstance(condition, OfSignal) and not left_on:
                self.assertFalse(both.any(), condition)
            self.assertEqual((one.at(at) == UNKNOWN).any(), (other.at(at) == UNKNOWN).any(), condition)

    def test_what_hears_no_report_is_the_same_at_any_time_of_silence(self) -> None:
        for condition, scope in self.cases():
            if not condition.hears_reports:
                evaluator = ConditionEvaluator(scope)
                self.assertEqual(evaluator.truth(condition, 60), evaluator.truth(condition, 86_400))

    def test_what_is_asked_of_a_rule_is_that_of_its_conditions(self) -> None:
        fact = condition_of(HOME, "fact")
        rule = Rule(id="r", name="R", watch=((fact,),), then=(MarkFact(word="x"),))
        self.assertEqual([c.facts for c in rule.conditions], [frozenset({"guests are here"})])


if __name__ == "__main__":
    unittest.main()
