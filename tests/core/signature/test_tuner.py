"""The tuner: its map against plain loops, and proposals that hold on weeks they have not seen."""

import unittest
from itertools import product

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.power import STEP, days, washes
from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable, OutOfRange
from warmeter.core.signature.cycles import activity
from warmeter.core.signature.detector import CycleSetting, cycles_in
from warmeter.core.signature.recommending import SettingProposal, least_threshold_w, propose
from warmeter.core.signature.tuner import Expected, Question, Setting, asked_of, error_map, handed_over, judge
from warmeter.simulators.machines.labelled import labelled_log


def plain_errors(power: Floats, asked: Expected, threshold_w: float, wait_s: float) -> tuple[int, int]:
    """Count missed and false ends by plain loops over what the state machine tells."""
    setting = CycleSetting(
        on_w=float(np.nextafter(threshold_w, np.inf)), off_w=threshold_w, dwell_on_s=asked.start_s, wait_s=wait_s
    )
    told = [e.told for e in cycles_in(power, STEP, setting) if e.told is not None]
    false, hit = 0, set()
    for at in told:
        item = next((c for c in range(asked.since.size) if asked.since[c] <= at <= asked.until[c]), None)
        if item is None:
            false += not any(a <= at <= b for a, b in asked.unsure.tolist())
        elif at >= asked.moment[item] and item not in hit:
            hit.add(item)
        else:
            false += 1
    return asked.since.size - len(hit), false


class Maps(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=25)
    @given(st.lists(st.integers(0, 30), min_size=2, max_size=4), st.integers(0, 3000))
    def test_every_setting_of_the_map_errs_as_a_plain_loop_says(self, pauses: list[int], hole: int) -> None:
        power = washes(pauses=tuple(pauses), rest=900)
        power[hole : hole + 25] = np.nan
        found = activity(power, STEP)
        asked = asked_of("finished", found, days(power), power, STEP)
        thresholds, waits = np.array([1.0, 2.5, 10.0, 299.0, 400.0]), np.array([10.0, 100.0, 320.0, 5000.0])
        tried = error_map(power, STEP, asked, thresholds, waits)
        for t, w in product(range(5), range(4)):
            expected = plain_errors(power, asked, float(thresholds[t]), float(waits[w]))
            self.assertEqual((tried.missed[t, w], tried.false[t, w]), expected)

    def test_a_single_judgement_is_a_cell_of_the_map(self) -> None:
        power = labelled_log("washer", 6, 10, fault="").power_w
        found = activity(power, STEP)
        for question in ("finished", "started", "idle", "left_on", "ran_today"):
            with self.subTest(question):
                asked = asked_of(question, found, days(power), power, STEP)
                tried = error_map(power, STEP, asked, np.array([5.0, 50.0]), np.array([60.0, 600.0]))
                for t, w in product(range(2), range(2)):
                    setting = Setting(threshold_w=[5.0, 50.0][t], wait_s=[60.0, 600.0][w])
                    verdict = judge(power, STEP, asked, setting)
                    self.assertEqual((verdict.missed, verdict.false), (tried.missed[t, w], tried.false[t, w]))

    def test_nothing_to_try_is_refused(self) -> None:
        power = washes()
        asked = asked_of("finished", activity(power, STEP), days(power), power, STEP)
        with self.assertRaises(NotKnowable):
            error_map(power, STEP, asked, np.array([]), np.array([60.0]))
        with self.assertRaises(OutOfRange):
            Setting(threshold_w=-1.0, wait_s=60.0)


class Finished(unittest.TestCase):
    def proposed(self, power: Floats, question: Question = "finished") -> SettingProposal:
        """Return what is proposed for a log."""
        return propose(power, STEP, activity(power, STEP), days(power), question)

    def test_the_wait_outlasts_the_pauses_and_the_threshold_stands_between_idle_and_work(self) -> None:
        power = washes(pauses=(20, 24, 18))
        power[power == 300.0] = np.where(np.arange((power == 300.0).sum()) % 2, 280.0, 320.0)
        proposal = self.proposed(power)
        self.assertEqual(proposal.verdict.errors, 0)
        self.assertGreater(proposal.setting.wait_s, 1.2 * 240)
        self.assertTrue(4.0 < proposal.setting.threshold_w < 200.0)
        low, high = proposal.safe_w
        self.assertAlmostEqual(proposal.setting.threshold_w, (low * high) ** 0.5, places=6)

    def test_inside_the_safe_region_nothing_errs_and_beyond_it_something_does(self) -> None:
        power = washes(pauses=(20, 24, 18), rest=600)
        found = activity(power, STEP)
        proposal = propose(power, STEP, found, days(power))
        asked = asked_of("finished", found, days(power), power, STEP)

        def errors(threshold_w: float, wait_s: float) -> int:
            return judge(power, STEP, asked, Setting(threshold_w=threshold_w, wait_s=wait_s)).errors

        wait, threshold = proposal.setting.wait_s, proposal.setting.threshold_w
        for at in (*proposal.safe_w, threshold):
            self.assertEqual(errors(at, wait), 0)
        self.assertGreater(errors(threshold, proposal.safe_s[0] / 1.3), 0)
        self.assertGreater(errors(threshold, proposal.safe_s[1] * 1.3), 0)
        self.assertGreater(errors(1.0, wait), 0)

    def test_it_is_told_a_wait_after_the_end(self) -> None:
        proposal = self.proposed(washes(pauses=(20, 20, 20)))
        self.assertIsNotNone(proposal.verdict.late_s)
        self.assertAlmostEqual(proposal.verdict.late_s or 0, proposal.setting.wait_s, delta=STEP)

    def test_the_proposal_holds_on_weeks_it_has_not_seen(self) -> None:
        for kind in ("washer", "dishwasher", "heat_pump_dryer"):
            with self.subTest(kind):
                log = labelled_log(kind, 12, 10, days=20, fault="").power_w
                half = log.size // 2
                setting = self.proposed(log[:half]).setting
                later = log[half:]
                asked = asked_of("finished", activity(later, STEP), days(later), later, STEP)
                verdict = judge(later, STEP, asked, setting)
                self.assertGreater(verdict.asked, 3)
                self.assertEqual(verdict.errors, 0)

    def test_a_rash_setting_is_told_what_it_would_get_wrong(self) -> None:
        power = washes(pauses=(20, 20, 20))
        asked = asked_of("finished", activity(power, STEP), days(power), power, STEP)
        rash = judge(power, STEP, asked, Setting(threshold_w=10.0, wait_s=60.0))
        self.assertEqual((rash.missed, rash.false), (0, 3))
        never = judge(power, STEP, asked, Setting(threshold_w=1.0, wait_s=60.0))
        self.assertEqual((never.missed, never.false, never.late_s), (3, 0, None))
        self.assertEqual(never.missed_at, (0, 1, 2))

    def test_hysteresis_keeps_a_weak_flicker_from_counting_as_work(self) -> None:
        power = washes(pauses=(0, 0, 0))
        flicker = power.copy()
        flicker[(np.arange(power.size) % 300 < 8) & (power < 10)] = 9.0
        asked = asked_of("started", activity(power, STEP), days(power), power, STEP)
        plain = judge(flicker, STEP, asked, Setting(threshold_w=6.0, wait_s=60.0))
        eased = judge(flicker, STEP, asked, Setting(threshold_w=6.0, wait_s=60.0, hysteresis_w=5.0))
        self.assertGreater(plain.false, 0)
        self.assertEqual(eased.errors, 0)

    def test_one_cycle_proves_nothing(self) -> None:
        with self.assertRaisesRegex(NotKnowable, "two or more"):
            self.proposed(washes(pauses=(0,), rest=2000))


class OtherQuestions(unittest.TestCase):
    def proposed(self, power: Floats, question: Question) -> SettingProposal:
        """Return what is proposed for a log."""
        return propose(power, STEP, activity(power, STEP), days(power), question)

    def test_a_start_is_told_soon_and_a_lamp_is_none(self) -> None:
        power = washes()
        power[200:204] = 12.0
        proposal = self.proposed(power, "started")
        self.assertEqual((proposal.verdict.asked, proposal.verdict.errors), (3, 0))
        self.assertLess(proposal.verdict.late_s or 1e9, 300)

    def test_a_machine_left_on_is_told_once_it_is_longer_on_than_ever(self) -> None:
        usual = [np.full(900, 1.0), np.full(60, 900.0)] * 12
        power = np.concatenate([*usual, np.full(900, 1.0), np.full(400, 900.0), np.full(900, 1.0)])
        proposal = self.proposed(power, "left_on")
        self.assertEqual((proposal.verdict.asked, proposal.verdict.errors), (1, 0))
        self.assertTrue(600 < proposal.setting.wait_s < 4000)
        never = self.proposed(np.concatenate(usual), "left_on")
        self.assertEqual((never.verdict.asked, never.verdict.errors), (0, 0))
        self.assertGreater(never.setting.wait_s, 600)

    def test_days_with_a_cycle_are_told_and_days_without_are_not(self) -> None:
        power = np.full(5 * 8640, 1.0)
        for day in (0, 1, 4):
            power[day * 8640 + 3000 : day * 8640 + 3100] = 400.0
        asked = asked_of("ran_today", activity(power, STEP), days(power), power, STEP)
        self.assertEqual(asked.label.tolist(), [0, 1, 4])
        verdict = judge(power, STEP, asked, Setting(threshold_w=20.0, wait_s=120.0))
        self.assertEqual((verdict.asked, verdict.missed, verdict.false), (3, 0, 0))

    def test_a_cycle_over_midnight_ran_on_both_days(self) -> None:
        power = np.full(3 * 8640, 1.0)
        power[8600:8700] = 400.0
        power[2 * 8640 + 100 : 2 * 8640 + 200] = 400.0
        asked = asked_of("ran_today", activity(power, STEP), days(power), power, STEP)
        self.assertEqual(
            list(zip(asked.label.tolist(), asked.since.tolist(), strict=True)), [(0, 8600), (1, 8640), (2, 17380)]
        )

    def test_idle_may_be_told_again_after_a_tick(self) -> None:
        power = washes()
        power[1500 + 100 + 300 : 1500 + 100 + 310] = 60.0
        found = activity(power, STEP)
        setting = Setting(threshold_w=10.0, wait_s=200.0)
        idle = judge(power, STEP, asked_of("idle", found, days(power), power, STEP), setting)
        again = judge(power, STEP, asked_of("finished", found, days(power), power, STEP), setting)
        self.assertEqual((idle.false, again.false), (0, 1))


if __name__ == "__main__":
    unittest.main()


class HandedOver(unittest.TestCase):
    def blips(self, pause_s: int, blip_w: float = 800.0) -> Floats:
        """Return a compressor at one second: a blip, a pause, a run, forty times."""
        rng, parts = np.random.default_rng(4), []
        for _ in range(40):
            rest, run = rng.uniform(1200, 2400), rng.uniform(800, 1000)
            parts += [np.full(int(rest), 1.0), np.full(3, blip_w), np.full(pause_s, 1.0), np.full(int(run), 90.0)]
        power = np.concatenate([*parts, np.full(1800, 1.0)])
        return np.asarray(power + rng.normal(0, 0.2, power.size), dtype=np.float64)

    def test_a_blip_before_each_run_is_the_runs_beginning(self) -> None:
        for pause_s in (8, 20, 120):
            with self.subTest(pause_s):
                found = activity(self.blips(pause_s), 1.0)
                self.assertEqual(len(found.whole), 40)
                self.assertTrue(all(800 <= c.end - c.start <= 1000 + pause_s + 4 for c in found.whole))

    def test_the_sentence_is_judged_as_it_is_typed(self) -> None:
        power = self.blips(20)
        found = activity(power, 1.0)
        asked = asked_of("finished", found, days(power, 1.0), power, 1.0)
        rash = handed_over(power, 1.0, asked, Setting(threshold_w=16.0, wait_s=5.0))
        self.assertEqual(rash.without_start.false, 40)
        self.assertGreater(rash.start_s, 0)
        self.assertEqual(rash.verdict.errors, 0)
        calm = handed_over(power, 1.0, asked, Setting(threshold_w=16.0, wait_s=60.0))
        self.assertEqual((calm.start_s, calm.verdict.errors), (0.0, 0))

    def test_no_threshold_is_proposed_nearer_to_rest_than_documented(self) -> None:
        power = washes(pauses=(20, 20, 20))
        proposal = propose(power, STEP, activity(power, STEP), days(power))
        self.assertGreaterEqual(proposal.setting.threshold_w, least_threshold_w(activity(power, STEP)))
