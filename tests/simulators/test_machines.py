"""Stand-in machines: the truth they carry is the truth of their own power."""

import unittest

import numpy as np

from warmeter.core.errors import ReadingError
from warmeter.simulators.machines.corruption import (
    BAD_READING_W,
    counter_kwh,
    moved,
    with_bad_readings,
    with_holes,
    with_negatives,
)
from warmeter.simulators.machines.labelled import KINDS, labelled_log


class EveryMachine(unittest.TestCase):
    def test_phases_tile_their_cycle_and_cycles_do_not_touch(self) -> None:
        for kind in KINDS:
            log = labelled_log(kind, 5, 60, days=4)
            for cycle in log.cycles:
                with self.subTest(kind=kind, start=cycle.start_s):
                    edges = [cycle.start_s, *(p.end_s for p in cycle.phases)]
                    self.assertEqual([p.start_s for p in cycle.phases], edges[:-1])
                    self.assertEqual(edges[-1], cycle.end_s)
            ends = [c.end_s for c in log.cycles]
            self.assertTrue(all(b.start_s - e >= 60 for e, b in zip(ends, log.cycles[1:], strict=False)), kind)

    def test_energy_of_a_cycle_is_what_the_plug_counts_between_its_ends(self) -> None:
        for kind in KINDS:
            log = labelled_log(kind, 6, 1, days=3)
            for cycle in log.cycles:
                with self.subTest(kind=kind, start=cycle.start_s):
                    heard = float(log.power_w[cycle.start_s : cycle.end_s].sum()) / 3.6e6
                    # The plug's dead zone and steps of 0.1 W take at most half a watt off each second.
                    allowed = 0.5 * (cycle.end_s - cycle.start_s) / 3.6e6
                    self.assertAlmostEqual(heard, cycle.energy_kwh, delta=allowed)

    def test_a_seed_lives_the_same_life_at_every_step(self) -> None:
        second, minute = (labelled_log("washer", 9, step, days=4) for step in (1, 60))
        self.assertEqual(second.cycles, minute.cycles)
        means = second.power_w.reshape(-1, 60).mean(axis=1)
        heard = ~np.isnan(means)
        # Both are rounded, and a mean of rounded seconds below the dead zone can miss half a watt.
        np.testing.assert_allclose(means[heard], minute.power_w[heard], atol=0.6)

    def test_another_seed_is_another_machine(self) -> None:
        self.assertNotEqual(labelled_log("kettle", 1, 60).cycles, labelled_log("kettle", 2, 60).cycles)

    def test_a_machine_that_never_rests_has_no_cycles(self) -> None:
        self.assertEqual([k for k, kind in KINDS.items() if not kind.has_cycles], ["computer"])
        log = labelled_log("computer", 3, 60)
        self.assertEqual(log.cycles, ())
        self.assertGreater(float(np.nanmin(log.power_w)), 15.0)

    def test_a_fault_changes_what_it_names(self) -> None:
        for kind, fault, sound in (("fridge", "door ajar", ""), ("kettle", "scaled", "")):
            lengths = [
                max(c.end_s - c.start_s for c in labelled_log(kind, 4, 60, days=3, fault=f).cycles)
                for f in (fault, sound)
            ]
            self.assertGreater(lengths[0], 1.2 * lengths[1], kind)

    def test_an_unknown_kind_is_refused_with_those_there_are(self) -> None:
        with self.assertRaisesRegex(ReadingError, "washer"):
            labelled_log("toaster oven", 1, 60)


class SpoiltLogs(unittest.TestCase):
    def setUp(self) -> None:
        self.rng = np.random.default_rng(3)
        self.power = np.full(5000, 3.0)

    def test_spoiling_touches_only_what_it_says(self) -> None:
        bad = with_bad_readings(self.rng, self.power, 7)
        self.assertEqual(int((bad == BAD_READING_W).sum()), 7)
        self.assertEqual(int((bad == 3.0).sum()), 4993)
        self.assertEqual(int((with_negatives(self.rng, self.power, 5) < 0).sum()), 5)
        holes = np.isnan(with_holes(self.rng, self.power, 0.1, 60)).mean()
        self.assertTrue(0.1 <= holes < 0.12)

    def test_a_plug_that_moved_writes_one_machine_then_the_other(self) -> None:
        both = moved(self.power, np.full(4000, 80.0), 1500)
        self.assertEqual((both.size, both[1499], both[1500]), (4000, 3.0, 80.0))

    def test_a_counter_rolls_over_at_its_digits(self) -> None:
        counter = counter_kwh(np.full(100, 1000.0), 3600, digits=2, start_kwh=50.0)
        self.assertEqual((counter[0], counter[48], counter[49]), (51.0, 99.0, 0.0))


if __name__ == "__main__":
    unittest.main()
