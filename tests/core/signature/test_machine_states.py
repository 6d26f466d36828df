"""States of a machine over time."""

import unittest

import numpy as np

from tests.power import steady
from warmeter.core.signature.cycles import activity
from warmeter.core.signature.machine_states import machine_states


class States(unittest.TestCase):
    def test_levels_at_work_and_the_hours_in_each(self) -> None:
        rng = np.random.default_rng(7)
        work = steady((60, 60.0), (180, 2000.0), (360, 150.0))
        power = np.concatenate([np.full(900, 2.0), work, np.full(900, 2.0), work, np.full(900, 2.0)])
        power *= 1 + rng.normal(0, 0.01, power.size)
        states = machine_states(power, 10.0, activity(power, 10.0).cycles)
        self.assertEqual(len(states), 3)
        for state, (level, hours) in zip(states, ((60, 1 / 3), (150, 2.0), (2000, 1.0)), strict=True):
            self.assertAlmostEqual(state.level_w, level, delta=0.05 * level)
            self.assertAlmostEqual(state.hours, hours, delta=0.02)

    def test_without_a_cycle_there_are_none(self) -> None:
        self.assertEqual(machine_states(np.ones(50), 10.0, ()), ())


if __name__ == "__main__":
    unittest.main()
