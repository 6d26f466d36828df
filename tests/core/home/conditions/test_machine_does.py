"""What a machine does, by its settings."""

import unittest

from tests.rules_at_work import POWER, AtWork, scope, track
from warmeter.core.home.conditions.machine_does import MachineDoes
from warmeter.core.home.machines import ToldSetting
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN


class MachineAtWork(AtWork):
    def test_a_machine_runs_through_its_pauses_and_finishes_once(self) -> None:
        setting = ToldSetting(tells="finished", threshold_w=5, wait_s=300)
        power = track((0, 1), (600, 400), (900, 2), (1100, 400), (1500, 2), (7000, 2))
        log = scope(2, tracks={POWER: power}, settings={("washer", "finished"): setting})
        runs = MachineDoes(appliance_id="washer", does="runs")
        self.assertEqual(self.told(runs, log), [(0, FALSE), (600, TRUE), (1800, FALSE)])
        finished = MachineDoes(appliance_id="washer", does="finished")
        self.assertEqual(self.told(finished, log), [(0, FALSE), (1800, TRUE), (1801, FALSE)])
        self.assertEqual(self.told(MachineDoes(appliance_id="gone", does="runs"), log), [(0, UNKNOWN)])


if __name__ == "__main__":
    unittest.main()
