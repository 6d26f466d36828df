"""What a way came to, against a count second by second."""

import unittest

import numpy as np

from tests.rules_at_work import NOON, SHUT, rule
from warmeter.core.home.rules import PutBack, SetLevel, ShutOff, Tell
from warmeter.core.rule.run import Firing, RuleRun
from warmeter.core.rule.tuning import Events
from warmeter.core.rule.way_outcome import energy_after, missed_without_internet, way_outcome

SET = SetLevel(zone_ids=("kitchen",), level_id="idle")
SAYS = Tell(group_id="all", text="it is so")
LAST_S = 4000


def events(rows: list[tuple[int, int]]) -> Events:
    both = np.array(rows, dtype=np.int64).reshape(-1, 2) * 1000 + NOON
    return Events(begin_ms=both[:, 0], until_ms=both[:, 1])


def run(rows: list[tuple[int, int | None]]) -> RuleRun:
    return RuleRun(
        firings=tuple(
            Firing(at_ms=NOON + 1000 * a, end_ms=None if b is None else NOON + 1000 * b, why="when") for a, b in rows
        )
    )


def drawn(rng: np.random.Generator) -> list[tuple[int, int]]:
    """Return stretches that do not touch, of whole seconds."""
    cuts = np.sort(rng.choice(LAST_S, size=2 * int(rng.integers(1, 9)), replace=False))
    return [(int(a), int(b)) for a, b in zip(cuts[::2], cuts[1::2], strict=True)]


class Outcome(unittest.TestCase):
    def test_random_stands_and_events_are_counted_as_second_by_second(self) -> None:
        rng = np.random.default_rng(4)
        back = PutBack(when=SHUT)
        for _ in range(300):
            said, was, ahead = drawn(rng), drawn(rng), int(rng.choice([0, 0, 120]))
            found = way_outcome(
                [(rule(then=(SET,), put_back=back), run([(a, b) for a, b in said]))],
                events(was),
                NOON + 1000 * LAST_S,
                ahead_s=ahead,
                comes_s=0,
            )
            stands = np.zeros(LAST_S + 1, dtype=bool)
            for a, b in said:
                stands[a:b] = True
            missed, ended = 0, []
            for a, b in was:
                seconds = np.flatnonzero(stands[a:b])
                missed += not seconds.size
                at = a + seconds[0] if seconds.size else b
                ended.append(min(max(int(at), a), b) - a)
            near = np.zeros(LAST_S + 1, dtype=bool)
            for a, b in was:
                near[a:b] = True
            needless = sum(not near[a:b].any() for a, b in said)
            self.assertEqual(found.missed, missed)
            self.assertEqual(found.needless, needless)
            self.assertAlmostEqual(found.goes_on_s or 0, float(np.mean(ended)))
            self.assertAlmostEqual(found.held_h or 0, stands.sum() / 3600)

    def test_who_is_told_ends_it_when_they_come_and_it_ends_by_itself_at_the_latest(self) -> None:
        was = events([(100, 1000), (2000, 2200), (3000, 3100)])
        told = [(rule(then=(SAYS,), put_back=PutBack(when=SHUT)), run([(160, 1000), (2030, 2200)]))]
        found = way_outcome(told, was, NOON + 1000 * LAST_S, ahead_s=0, comes_s=600)
        # After 60 s and ten minutes more; at its own end; never told.
        self.assertEqual(found.goes_on_s, (660 + 200 + 100) / 3)
        self.assertEqual((found.missed, found.needless, found.delay_s), (1, 0, 45.0))
        self.assertEqual((found.acts, found.held_h), (False, 0.0))

    def test_what_asks_is_ended_by_the_rule_that_follows_and_stays_off(self) -> None:
        was = events([(100, 1000)])
        asks, cuts = rule(then=(SAYS,)), rule(then=(ShutOff(target_ids=("washer",)),))
        found = way_outcome(
            [(asks, run([(130, 131)])), (cuts, run([(400, None)]))], was, NOON + 1000 * LAST_S, ahead_s=0, comes_s=9999
        )
        self.assertEqual((found.goes_on_s, found.delay_s, found.held_h, found.acts), (300.0, 30.0, None, True))

    def test_what_stood_and_ended_before_an_event_has_not_caught_it(self) -> None:
        back = PutBack(when=SHUT)
        was = events([(1000, 1200)])
        for stood, missed, delay in (((400, 900), 1, None), ((400, 1100), 0, -600.0), ((10, 1100), 0, -900.0)):
            found = way_outcome(
                [(rule(then=(SET,), put_back=back), run([stood]))], was, NOON + 1000 * LAST_S, ahead_s=900, comes_s=0
            )
            self.assertEqual((found.missed, found.needless, found.delay_s), (missed, missed, delay))

    def test_what_was_shut_off_once_does_not_end_the_next_time_that_it_is_on(self) -> None:
        was = events([(100, 1000), (2000, 2600)])
        cuts = rule(then=(ShutOff(target_ids=("washer",)),))
        runs = [(cuts, run([(400, None), (2500, None)]))]
        found = way_outcome(runs, was, NOON + 1000 * LAST_S, ahead_s=0, comes_s=0)
        self.assertEqual(found.goes_on_s, (300 + 500) / 2)
        once = way_outcome([(cuts, run([(400, 401)]))], was, NOON + 1000 * LAST_S, ahead_s=0, comes_s=0)
        self.assertEqual((once.missed, once.goes_on_s), (1, (300 + 600) / 2))

    def test_nothing_to_catch_has_no_delay(self) -> None:
        found = way_outcome([(rule(), run([(10, 20)]))], events([]), NOON + 1000 * LAST_S, ahead_s=0, comes_s=60)
        self.assertEqual((found.missed, found.needless, found.delay_s, found.goes_on_s), (0, 1, None, None))


class Energy(unittest.TestCase):
    def test_what_is_spared_is_power_times_the_rest_of_it(self) -> None:
        minutes = NOON + np.arange(120, dtype=np.int64) * 60_000
        power = np.full(120, 120.0)
        power[90:] = np.nan
        ended, until = NOON + np.array([30, 80]) * 60_000 + 15_000, NOON + np.array([60, 100]) * 60_000
        kwh, money = energy_after(ended, until, minutes, power, np.full(120, 0.5))
        # 29.75 min, then 9.75 min of the known ten.
        self.assertAlmostEqual(kwh, 0.12 * (29.75 + 9.75) / 60)
        self.assertAlmostEqual(money or 0, kwh / 2)
        self.assertIsNone(energy_after(ended, until, minutes, power, None)[1])

    def test_an_internet_that_is_never_away_changes_nothing_and_one_that_always_is_misses_all(self) -> None:
        self.assertEqual(missed_without_internet(2, 10, 0.0), 2)
        self.assertEqual(missed_without_internet(2, 10, 730.0), 10)
        self.assertAlmostEqual(missed_without_internet(0, 10, 73.0), 1.0)


if __name__ == "__main__":
    unittest.main()
