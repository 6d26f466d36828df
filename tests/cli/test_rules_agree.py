"""Both evaluators of rules, on random rules and logs."""

import unittest

from warmeter.cli.rules_agree import both, disagreement, question_disagreement


class BothEvaluators(unittest.TestCase):
    def test_they_agree_on_three_hundred_random_rules(self) -> None:
        for seed in range(20_001, 20_301):
            with self.subTest(seed=seed):
                self.assertEqual(disagreement(seed), "")

    def test_they_agree_on_three_hundred_nights_of_questions(self) -> None:
        for seed in range(20_001, 20_301):
            with self.subTest(seed=seed):
                self.assertEqual(question_disagreement(seed), "")

    def test_the_random_rules_are_alive(self) -> None:
        rule_runs = [both(seed)[0] for seed in range(20_001, 20_101)]
        self.assertGreater(sum(bool(rule_run.firings) for rule_run in rule_runs), 20)
        whys = {held.why for rule_run in rule_runs for held in rule_run.held_back}
        self.assertGreater(len(whys), 4, whys)
