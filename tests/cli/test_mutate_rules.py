"""Faults planted in rules are found and mended; sound rules have no findings."""

import unittest

from warmeter.cli.mutate_rules import verdicts
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.service.homes.demo import DEMO_HOMES, demo_home
from warmeter.simulators.rule_faults import RULE_PLANTS


class PlantedFaults(unittest.TestCase):
    def test_every_fault_is_found_none_is_invented_and_every_fix_helps(self) -> None:
        found = verdicts()
        self.assertEqual({v.check for v in found}, set(RULE_PLANTS))
        for verdict in found:
            with self.subTest(home=verdict.home, check=verdict.check, rule=verdict.rule):
                self.assertTrue(verdict.is_found)
                self.assertEqual(verdict.invented, ())
                self.assertTrue(verdict.is_fixed)

    def test_the_sound_sets_are_sound_and_the_cottage_has_thirty_rules(self) -> None:
        for name in DEMO_HOMES:
            self.assertEqual(rule_findings(demo_home(name)), [], name)
        self.assertEqual(len(demo_home("weir-cottage").rules), 30)
