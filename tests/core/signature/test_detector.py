"""Starts and finishes told from power."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.power import steady
from warmeter.core.errors import OutOfRange
from warmeter.core.signature.detector import CycleDetector, CycleSetting, cycles_in


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


if __name__ == "__main__":
    unittest.main()
