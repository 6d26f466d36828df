"""Cycles: the state machine against its definition, and logs whose truth is known."""

import csv
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.places import DATA
from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable, OutOfRange
from warmeter.core.signature.buckets import buckets
from warmeter.core.signature.cycles import Activity, Correction, activity, cycle_features
from warmeter.core.signature.detector import CycleDetector, CycleSetting, cycles_in
from warmeter.core.signature.machine_states import machine_states
from warmeter.core.signature.phases import phases_of
from warmeter.core.signature.standby_power import standby_power_of
from warmeter.simulators.machines.corruption import moved
from warmeter.simulators.machines.judging import judge_log
from warmeter.simulators.machines.labelled import labelled_log


def plain_events(
    power: list[float], on_w: float, off_w: float, need_on: int, need_off: int
) -> list[tuple[int, int | None]]:
    """Find runs as the definition says, by looking back over whole windows."""
    found: list[tuple[int, int | None]] = []
    start, since = None, 0
    for k in range(len(power)):
        if start is None:
            window = power[max(since, k - need_on + 1) : k + 1]
            if len(window) == need_on and all(p >= on_w for p in window):
                start, since = k - need_on + 1, k + 1
        else:
            window = power[max(since, k - need_off + 1) : k + 1]
            if len(window) == need_off and all(p <= off_w for p in window):
                found.append((start, k - need_off + 1))
                start, since = None, k + 1
    return [*found, (start, None)] if start is not None else found


def steady(*parts: tuple[int, float]) -> Floats:
    """Return a log of (steps, watts)."""
    return np.concatenate([np.full(n, w) for n, w in parts])


class Events(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=80)
    @given(st.lists(st.sampled_from([0.0, 3.0, 8.0, 15.0, 60.0]), max_size=60), st.integers(1, 4), st.integers(1, 4))
    def test_walk_equals_the_definition(self, power: list[float], need_on: int, need_off: int) -> None:
        setting = CycleSetting(on_w=10.0, off_w=4.0, dwell_on_s=60.0 * need_on, wait_s=60.0 * need_off)
        found = [(e.start, e.end) for e in cycles_in(np.array(power), 60.0, setting)]
        self.assertEqual(found, plain_events(power, 10.0, 4.0, need_on, need_off))

    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(
        st.lists(st.sampled_from([0.0, 2.0, 6.0, 40.0, float("nan")]), max_size=120),
        st.lists(st.integers(0, 120), max_size=6),
    )
    def test_samples_as_they_come_give_the_same_cycles_as_the_whole_log(
        self, power: list[float], cuts: list[int]
    ) -> None:
        setting = CycleSetting(
            on_w=5.0, off_w=5.0, wait_s=50.0, rest_w=1.0, least_j=300.0, tail_j=200.0, grace_s=20.0, longest_gap_s=40.0
        )
        log = np.array(power)
        machine, found, last = CycleDetector(setting, 10.0), [], 0
        for cut in [*sorted(c for c in cuts if c < log.size), log.size]:
            found += machine.push(log[last:cut])
            last = cut
        running = machine.still_on()
        self.assertEqual([*found, running] if running else found, cycles_in(log, 10.0, setting))

    def test_a_gap_breaks_a_waiting_time(self) -> None:
        setting = CycleSetting(on_w=10.0, off_w=4.0, dwell_on_s=60, wait_s=180)
        power = np.array([50.0, 50, 1, 1, np.nan, 1, 1, 1])
        self.assertEqual([e.end for e in cycles_in(power, 60.0, setting)], [5])

    def test_a_long_gap_cuts_a_cycle_unless_it_was_quiet_before(self) -> None:
        setting = CycleSetting(on_w=5, off_w=5, wait_s=600, grace_s=60, longest_gap_s=120)
        gap = np.full(30, np.nan)
        at_work = cycles_in(np.concatenate([steady((5, 1), (20, 50)), gap, steady((90, 1))]), 10.0, setting)
        self.assertEqual([(e.start, e.end, e.is_cut_after) for e in at_work], [(5, 25, True)])
        quiet = cycles_in(np.concatenate([steady((5, 1), (20, 50), (9, 1)), gap, steady((90, 1))]), 10.0, setting)
        self.assertEqual([(e.start, e.end, e.is_cut_after) for e in quiet], [(5, 25, False)])
        resumed = cycles_in(np.concatenate([gap, steady((20, 50), (90, 1))]), 10.0, setting)
        self.assertEqual([(e.start, e.is_cut_before) for e in resumed], [(30, True)])

    def test_ticks_after_the_end_neither_prolong_a_cycle_nor_begin_one(self) -> None:
        setting = CycleSetting(
            on_w=5, off_w=5, wait_s=600, rest_w=1, least_j=20_000, tail_j=2000, grace_s=60, longest_gap_s=120
        )
        power = steady((5, 1), (60, 500), *([(30, 1), (1, 100)] * 4), (90, 1))
        self.assertEqual([(e.start, e.end) for e in cycles_in(power, 10.0, setting)], [(5, 65)])

    def test_thresholds_the_wrong_way_round_are_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            CycleSetting(on_w=3.0, off_w=5.0, wait_s=60)
        with self.assertRaises(OutOfRange):
            CycleSetting(on_w=5.0, off_w=5.0, wait_s=-1)


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


class Zoom(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(st.lists(st.one_of(st.floats(0, 100), st.just(float("nan"))), min_size=1, max_size=60), st.integers(1, 70))
    def test_buckets_hold_the_least_the_mean_and_the_most_of_their_steps(self, values: list[float], most: int) -> None:
        log = np.array(values)
        drawn = buckets(log, 0, log.size, most)
        self.assertEqual(drawn.mean.size, min(most, log.size))
        heard = log[~np.isnan(log)]
        if heard.size:
            self.assertEqual(np.nanmin(drawn.low), heard.min())
            self.assertEqual(np.nanmax(drawn.high), heard.max())
            if most >= log.size:
                np.testing.assert_array_equal(drawn.mean, log)
        else:
            self.assertTrue(np.isnan(drawn.mean).all())

    def test_what_lies_outside_the_log_is_not_heard(self) -> None:
        drawn = buckets(np.ones(10), -10, 20, 3)
        np.testing.assert_array_equal(drawn.mean, [np.nan, 1.0, np.nan])


class Standby(unittest.TestCase):
    def test_limits(self) -> None:
        with self.assertRaises(NotKnowable):
            standby_power_of(np.array([]))


if __name__ == "__main__":
    unittest.main()
