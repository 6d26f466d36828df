"""Doubtful logs: bad readings are left out, a moved plug is told, and honest machines are left alone."""

import unittest

import numpy as np

from warmeter.core.signature.anomalies import bad_readings, moved_plug
from warmeter.core.signature.cycles import activity
from warmeter.simulators.machines.corruption import BAD_READING_W, moved, with_bad_readings
from warmeter.simulators.machines.labelled import KINDS, labelled_log


class BadReadings(unittest.TestCase):
    def test_single_impossible_readings_are_found_and_only_they(self) -> None:
        rng = np.random.default_rng(6)
        for kind in ("washer", "fridge", "kettle"):
            sound = np.nan_to_num(labelled_log(kind, 5, 10, fault="").power_w)
            rest = np.flatnonzero((sound < 10) & (np.roll(sound, 1) < 10) & (np.roll(sound, -1) < 10))
            spoilt = with_bad_readings(rng, sound, 0)
            places = rng.choice(rest[2:-2], 5, replace=False)
            spoilt[places] = BAD_READING_W
            self.assertEqual(sorted(np.flatnonzero(bad_readings(spoilt)).tolist()), sorted(places.tolist()), kind)

    def test_no_machine_of_any_kind_has_bad_readings_of_its_own(self) -> None:
        for kind in KINDS:
            for step in (1, 10, 60):
                log = labelled_log(kind, 8, step, fault="").power_w
                self.assertEqual(int(bad_readings(log).sum()), 0, (kind, step))

    def test_an_empty_or_unheard_log_has_none(self) -> None:
        self.assertFalse(bad_readings(np.full(100, np.nan)).any())
        self.assertFalse(bad_readings(np.zeros(100)).any())


class MovedPlugs(unittest.TestCase):
    def test_a_plug_moved_to_a_stronger_machine_is_told_from_its_first_cycle_there(self) -> None:
        fridge, kettle = (labelled_log(k, 4, 10, days=6, fault="") for k in ("fridge", "kettle"))
        half = fridge.power_w.size // 2
        log = moved(fridge.power_w, kettle.power_w, half)
        cycles = activity(log, 10.0).cycles
        found = moved_plug(log, cycles)
        assert found is not None
        self.assertGreaterEqual(cycles[found.cycle].start, half)
        self.assertLess(cycles[found.cycle - 1].start, half)
        self.assertGreater(found.after_w, 5 * found.before_w)

    def test_one_machine_with_several_programmes_is_one_machine(self) -> None:
        for kind in ("washer", "dishwasher", "tub", "fridge", "freezer", "kettle", "dehumidifier"):
            for seed in range(4):
                log = labelled_log(kind, seed, 60, fault="").power_w
                self.assertIsNone(moved_plug(log, activity(log, 60.0).cycles), (kind, seed))

    def test_few_cycles_say_nothing(self) -> None:
        self.assertIsNone(moved_plug(np.ones(10), ()))


if __name__ == "__main__":
    unittest.main()
