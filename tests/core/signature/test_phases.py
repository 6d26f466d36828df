"""Phases of a cycle."""

import unittest

import numpy as np

from tests.power import steady
from warmeter.core.signature.phases import phases_of


class Phases(unittest.TestCase):
    def test_borders_lie_where_the_power_changes(self) -> None:
        power = steady((50, 1.0), (12, 12.0), (60, 2000.0), (90, 150.0), (30, 450.0), (50, 1.0))
        phases = phases_of(power, 10.0, 50, 242)
        self.assertEqual([(p.start, p.end) for p in phases], [(50, 62), (62, 122), (122, 212), (212, 242)])
        self.assertEqual([round(p.mean_w) for p in phases], [12, 2000, 150, 450])

    def test_a_drum_that_turns_is_one_phase(self) -> None:
        turns = np.tile([180.0, 180.0, 3.0, 3.0], 60)
        self.assertEqual(len(phases_of(turns, 10.0, 0, turns.size)), 1)

    def test_a_thermostat_is_one_phase_and_cooling_down_another(self) -> None:
        power = np.concatenate(
            [np.tile(np.concatenate([np.full(15, 230.0), np.full(20, 2300.0)]), 6), np.full(60, 230.0)]
        )
        phases = phases_of(power, 10.0, 0, power.size)
        self.assertEqual(phases[-1].start, 210)
        self.assertLessEqual(len(phases), 4)

    def test_phases_tile_the_cycle_also_over_a_gap(self) -> None:
        power = steady((40, 100.0), (40, 1500.0), (40, 90.0))
        power[50:58] = np.nan
        phases = phases_of(power, 10.0, 0, 120)
        self.assertEqual([p.start for p in phases[1:]], [p.end for p in phases[:-1]])
        self.assertEqual((phases[0].start, phases[-1].end), (0, 120))


if __name__ == "__main__":
    unittest.main()
