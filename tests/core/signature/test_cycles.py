"""Cycles: the state machine against its definition, and logs whose truth is known."""

import csv
import unittest

import numpy as np

from tests.places import DATA
from tests.power import steady
from warmeter.core.errors import NotKnowable
from warmeter.core.signature.cycles import Activity, Correction, activity, cycle_features
from warmeter.core.signature.standby_power import standby_power_of
from warmeter.simulators.machines.corruption import moved
from warmeter.simulators.machines.judging import judge_log
from warmeter.simulators.machines.labelled import labelled_log


class Learning(unittest.TestCase):
    def test_cycles_of_every_kind_are_found_without_being_told_thresholds(self) -> None:
        for kind in ("washer", "dishwasher", "fridge", "kettle", "tub", "heat_pump_dryer"):
            with self.subTest(kind):
                verdict = judge_log(kind, 3, 10)
                self.assertGreater(verdict.found, 3)
                self.assertEqual((verdict.missed, verdict.invented), (0, 0))
                self.assertLess(max(verdict.energy_errors, default=0.0), 0.01)

    def test_a_drying_pause_is_bridged_and_its_last_drain_belongs_to_the_cycle(self) -> None:
        found = self.found("dishwasher", 2, 10)
        self.assertGreater(found.learnt.longest_pause_s, 300)
        self.assertGreater(found.learnt.setting.wait_s, found.learnt.longest_pause_s)
        self.assertLess(found.learnt.setting.wait_s, found.learnt.shortest_rest_s)

    def test_two_boils_in_a_row_are_two_cycles(self) -> None:
        boil, rest = (12, 2400.0), (20, 0.5)
        power = steady((700, 0.5), boil, rest, boil, (900, 0.5), boil, (700, 0.5), boil, (700, 0.5))
        found = activity(power, 10.0)
        self.assertEqual(len(found.cycles), 4)
        self.assertEqual(found.learnt.longest_pause_s, 0)

    def test_a_machine_that_never_rests_has_no_cycles(self) -> None:
        for seed in range(3):
            with self.assertRaisesRegex(NotKnowable, "never rests|never rises"):
                activity(labelled_log("computer", seed, 60).power_w, 60.0)

    def test_a_display_that_stays_lit_is_not_work(self) -> None:
        wash = ((30, 12.0), (60, 2000.0), (200, 150.0), (20, 400.0), (40, 3.0))
        power = steady((900, 0.5), *wash, (900, 0.5), *wash, (900, 0.5), *wash, (900, 0.5))
        found = activity(power, 10.0)
        self.assertEqual([c.end - c.start for c in found.cycles], [310, 310, 310])
        self.assertAlmostEqual(found.learnt.idle_w, 3.0, delta=0.3)

    def test_rest_that_rose_is_still_rest(self) -> None:
        power = steady((3000, 1.2), (200, 300.0), (3000, 3.4), (200, 300.0), (3000, 3.4))
        rest = standby_power_of(power)
        self.assertEqual(rest.levels_w, (1.2, 3.4))
        self.assertEqual(rest.level_w, 3.4)
        self.assertEqual(len(activity(power, 10.0).cycles), 2)

    def test_cycles_cut_by_an_end_of_the_log_are_marked(self) -> None:
        power = steady((100, 900.0), (1200, 1.0), (200, 900.0), (1200, 1.0), (100, 900.0))
        found = activity(power, 10.0)
        self.assertEqual([c.is_whole for c in found.cycles], [False, True, False])

    def test_logs_that_cannot_teach_say_what_to_record(self) -> None:
        day = round(86_400 / 20)
        for power, why in (
            (np.full(60, 3.0), "h of power"),
            (np.full(day, 3.4), "never rises"),
            (np.zeros(day), "never rises"),
            (np.full(day, np.nan), "h of power"),
        ):
            with self.assertRaisesRegex(NotKnowable, why):
                activity(power, 20.0)

    def test_ten_thousand_cycles(self) -> None:
        one = np.concatenate([np.full(2, 600.0), np.full(38, 1.0)])
        found = activity(np.tile(one, 10_000), 60.0)
        self.assertEqual(len(found.cycles), 10_000)

    def test_rendered_machines_pasted_on_a_base_load_are_found(self) -> None:
        for name, places in (("dryer-1-mode2", (9000, 60_000)), ("kettle-1-mode0", (5000, 30_000, 70_000))):
            with self.subTest(name):
                with (DATA / f"{name}.csv").open(encoding="utf-8") as file:
                    watts = np.array([float(row["P_W"]) for row in csv.DictReader(file)])
                watts = watts[: watts.size // 10 * 10].reshape(-1, 10).mean(axis=1)
                power = np.full(100_000, 2.0)
                for at in places:
                    power[at : at + watts.size] += watts
                found = activity(power, 10.0)
                self.assertEqual(len(found.cycles), len(places))
                self.assertTrue(all(abs(r.start - at) <= 6 for r, at in zip(found.cycles, places, strict=True)))
                if name.startswith("dryer"):
                    cycle = found.cycles[0]
                    energy = cycle_features(power[cycle.start : cycle.end], 10.0).energy_kwh
                    self.assertAlmostEqual(energy, float((watts + 2).sum()) * 10 / 3.6e6, delta=0.02)

    def test_a_plug_that_moved_to_a_kettle_still_gives_the_kettles_boils(self) -> None:
        kettle = labelled_log("kettle", 4, 10, days=4, fault="")
        log = moved(labelled_log("immersion_heater", 4, 10, days=4, fault="").power_w, kettle.power_w, 17_280)
        later = [c for c in activity(log, 10.0).cycles if c.start > 17_280]
        true = [c for c in kettle.cycles if c.start_s > 172_800]
        self.assertEqual(len(later), len(true))

    def found(self, kind: str, seed: int, step_s: int) -> Activity:
        """Return a stand-in's cycles."""
        return activity(labelled_log(kind, seed, step_s).power_w, float(step_s))


class Corrections(unittest.TestCase):
    def setUp(self) -> None:
        self.power = steady((1000, 1.0), (100, 900.0), (1000, 1.0), (100, 900.0), (1000, 1.0))

    def spans(self, *corrections: Correction) -> list[tuple[int, int, str, str]]:
        """Return the cycles with what a person said."""
        return [(c.start, c.end, c.origin, c.programme) for c in activity(self.power, 10.0, corrections).cycles]

    def test_what_a_person_says_stands_and_the_rest_is_as_found(self) -> None:
        self.assertEqual(self.spans(), [(1000, 1100, "found", ""), (2100, 2200, "found", "")])
        self.assertEqual(
            self.spans(Correction(start=990, end=1120, programme="Cotton")),
            [(990, 1120, "corrected", "Cotton"), (2100, 2200, "found", "")],
        )

    def test_a_cycle_can_be_taken_away_split_joined_and_added(self) -> None:
        gone = Correction(start=1000, end=1100, is_cycle=False)
        self.assertEqual([s[:2] for s in self.spans(gone)], [(2100, 2200)])
        parts = Correction(start=1000, end=1050), Correction(start=1050, end=1100)
        self.assertEqual([s[:2] for s in self.spans(*parts)], [(1000, 1050), (1050, 1100), (2100, 2200)])
        self.assertEqual([s[:2] for s in self.spans(Correction(start=1000, end=2200))], [(1000, 2200)])
        added = Correction(start=1500, end=1510)
        self.assertEqual([s[:2] for s in self.spans(added)], [(1000, 1100), (1500, 1510), (2100, 2200)])

    def test_the_later_word_wins(self) -> None:
        first, second = Correction(start=1000, end=1100, is_cycle=False), Correction(start=1000, end=1100)
        self.assertEqual(len(self.spans(first, second)), 2)

    def test_a_name_alone_keeps_what_was_known_of_the_cycle(self) -> None:
        named = activity(self.power, 10.0, [Correction(start=1000, end=1100, programme="Wool")]).cycles[0]
        self.assertEqual((named.programme, named.is_whole, named.longest_pause_s), ("Wool", True, 0.0))


if __name__ == "__main__":
    unittest.main()
