"""Settings of a machine on its plug's own grid, and what is kept between requests."""

import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.appliance.machine_settings import handed, judged, proposal_of, rounded_setting, setting_in_use
from warmeter.core.home.machines import Appliance, ToldSetting
from warmeter.core.signature.cycles import activity
from warmeter.core.signature.tuner import Setting
from warmeter.core.timegrid import parse_utc

STEP_S = 60.0
WASHER = Appliance(id="washer", name="Washer")


def record() -> MachineRecord:
    """Return four days of a machine that draws 1 W at rest and runs an hour each noon, its pauses 5 min at 3 W."""
    power = np.ones(4 * 1440)
    for day in range(4):
        noon = day * 1440 + 720
        power[noon : noon + 60] = 500.0
        power[noon + 30 : noon + 35] = 3.0
    return MachineRecord(
        appliance=WASHER,
        power_w=power,
        start_ms=parse_utc("2026-01-12T00:00:00Z"),
        step_s=STEP_S,
        day=np.repeat(np.arange(4), 1440),
        first_date=date(2026, 1, 12),
        found=activity(power, STEP_S),
    )


class Settings(unittest.TestCase):
    def test_threshold_to_the_nearest_step_and_wait_up(self) -> None:
        for watts, wait_s, step_w, step_min, least_w, expected in (
            (7.4, 200.0, 1.0, 1.0, 0.0, (7.0, 240.0)),
            (7.6, 240.0, 1.0, 1.0, 0.0, (8.0, 240.0)),
            (7.4, 200.0, 5.0, 5.0, 0.0, (5.0, 300.0)),
            (0.2, 0.0, 1.0, 1.0, 0.0, (1.0, 60.0)),
            (5.0, 60.0, 5.0, 1.0, 5.2, (10.0, 60.0)),
            (5.0, 60.0, 5.0, 1.0, 5.0, (5.0, 60.0)),
        ):
            with self.subTest(watts=watts, step_w=step_w, least_w=least_w):
                setting = rounded_setting(
                    Setting(threshold_w=watts, wait_s=wait_s, hysteresis_w=0.5), step_w, step_min, least_w
                )
                self.assertEqual((setting.threshold_w, setting.wait_s, setting.hysteresis_w), (*expected, 0.5))

    def test_the_setting_in_use_is_the_one_that_tells_it(self) -> None:
        told = replace(
            WASHER, settings=(ToldSetting(tells="finished", threshold_w=5.0, wait_s=240.0, hysteresis_w=1.0),)
        )
        self.assertEqual(setting_in_use(told, "finished"), Setting(threshold_w=5.0, wait_s=240.0, hysteresis_w=1.0))
        self.assertIsNone(setting_in_use(told, "started"))

    def test_a_wait_longer_than_the_pause_tells_each_run_once_and_a_shorter_one_twice(self) -> None:
        held = record()
        patient, hasty = Setting(threshold_w=10.0, wait_s=420.0), Setting(threshold_w=10.0, wait_s=120.0)
        self.assertEqual((judged(held, "finished", patient).missed, judged(held, "finished", patient).false), (0, 0))
        self.assertGreaterEqual(judged(held, "finished", hasty).false, 4)
        self.assertIs(judged(held, "finished", patient), judged(held, "finished", patient))
        self.assertEqual(handed(held, "finished", patient).verdict, judged(held, "finished", patient))

    def test_a_proposal_tells_every_run_and_is_worked_out_once(self) -> None:
        held = record()
        proposal = proposal_of(held, "finished")
        self.assertEqual(judged(held, "finished", proposal.setting).missed, 0)
        self.assertTrue(1.0 < proposal.setting.threshold_w < 500.0)
        self.assertIs(proposal_of(held, "finished"), proposal)
        self.assertIsNot(proposal_of(held, "finished", 0.5), proposal)
        self.assertEqual(held.days, 4.0)


if __name__ == "__main__":
    unittest.main()
