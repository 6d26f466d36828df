"""Worked examples, computed independently, one subtest each."""

import unittest

from tests.places import DATA
from warmeter.cli.vectors import METHODS, cases_of, run_case

FOLDER = DATA / "vectors"


class WorkedExamples(unittest.TestCase):
    def test_every_example_agrees(self) -> None:
        for case in cases_of(FOLDER):
            with self.subTest(case["id"]):
                self.assertEqual(run_case(case).misses, ())

    def test_every_method_wired_in_has_an_example(self) -> None:
        self.assertEqual({case["method"] for case in cases_of(FOLDER)}, set(METHODS))

    def test_a_wrong_expectation_is_a_miss(self) -> None:
        case = next(c for c in cases_of(FOLDER) if c["id"] == "B1.single_rc.01")
        wrong = {**case, "expected": {**case["expected"], "tau_s": case["expected"]["tau_s"] * 1.001}}
        self.assertEqual(len(run_case(wrong).misses or ()), 1)

    def test_null_and_flags_are_compared_exactly(self) -> None:
        case = next(c for c in cases_of(FOLDER) if c["id"] == "B1.single_rc.02")
        for name, value in (("t_to_target_s", 0.0), ("reachable", True)):
            wrong = {**case, "expected": {**case["expected"], name: value}}
            self.assertTrue(run_case(wrong).misses, name)
