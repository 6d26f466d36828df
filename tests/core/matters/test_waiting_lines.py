"""What waits for a test: trip tests and self-tests whose day has passed, and those that have time."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.home.document import Home
from warmeter.core.matters.evidence import HomeEvidence
from warmeter.core.matters.found_lines import found_lines
from warmeter.core.matters.waiting_lines import waiting_lines
from warmeter.service.homes.demo import demo_home
from warmeter.simulators.wiring_faults import orchard_as_found


class TestsDue(unittest.TestCase):
    def keys(self, home: Home, today: date) -> set[str]:
        evidence = HomeEvidence(home=home, today=today, findings=(), logged=frozenset())
        return {line.key for line in waiting_lines(evidence) if "due" in line.key}

    def test_the_day_after_its_interval_it_waits(self) -> None:
        home = demo_home("orchard-row")
        tripped = home.circuits[0].trip_tests[0].on
        due = tripped + timedelta(days=home.electrical_practice.trip_every_days)
        pool = f"trip-due:{home.circuits[1].id}"
        self.assertNotIn(pool, self.keys(home, due))
        self.assertIn(pool, self.keys(home, due + timedelta(days=1)))
        tested = max(test.on for test in home.safety_chains[0].tests)
        last = tested + timedelta(days=home.water_practice.test_every_days)
        self.assertEqual(self.keys(home, last), set())
        self.assertEqual(self.keys(home, last + timedelta(days=1)), {"test-due:or-water"})
        never = replace(home, safety_chains=(replace(home.safety_chains[0], tests=()),))
        self.assertNotIn("test-due:or-water", self.keys(never, last + timedelta(days=900)))

    def test_what_was_found_on_the_walk_leads_to_its_page(self) -> None:
        home = orchard_as_found(demo_home("orchard-row"))
        evidence = HomeEvidence(
            home=home, today=date(2026, 1, 21), findings=tuple(findings_of(home)), logged=frozenset()
        )
        steps = {line.step for line in found_lines(evidence)}
        self.assertLessEqual({"circuits", "water"}, steps)
