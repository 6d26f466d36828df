"""Alerts: without answers as J4 says, by brute force; answered, put off, escalated, in quiet hours."""

import random
import unittest

from warmeter.core.live.alerts import AlertAnswer, AlertStep, AlertTerms, alert_run
from warmeter.core.rule.notifications import notices

MIN = 60_000


def never(_: int) -> None:
    """Nothing is quiet."""


def quiet_at(begin: int, end: int):  # type: ignore[no-untyped-def]
    return lambda at: end if begin <= at < end else None


def told(run: object) -> list[tuple[int, str]]:
    return [(each.at_ms // MIN, each.group_id) for each in run.told]  # type: ignore[attr-defined]


ONE = AlertTerms(steps=(AlertStep(group_id="all", after_ms=0, quiet=never),), repeat_ms=20 * MIN, most=7)
BOTH = AlertTerms(
    steps=(*ONE.steps, AlertStep(group_id="owner", after_ms=50 * MIN, quiet=never)),
    repeat_ms=20 * MIN,
    most=7,
    until_answered=True,
)


class Alerts(unittest.TestCase):
    def test_without_answers_they_are_told_as_the_plain_rule_says(self) -> None:
        rng = random.Random(11)
        for _ in range(400):
            begin = rng.randrange(0, 200)
            end = begin + rng.randrange(0, 300)
            repeat, most = rng.choice((None, 5, 17, 60)), rng.randrange(1, 6)
            a = rng.randrange(0, 400)
            quiet = quiet_at(a, a + rng.randrange(1, 200))
            now = rng.randrange(0, 700)
            terms = AlertTerms(steps=(AlertStep(group_id="g", after_ms=0, quiet=quiet),), repeat_ms=repeat, most=most)
            expected = notices([(begin, end)], after=0, repeat=repeat, most=most, quiet=quiet, end=now)
            found = alert_run(begin, end, terms, (), now_ms=now)
            self.assertEqual([each.at_ms for each in found.told], expected)

    def test_it_goes_on_until_somebody_says_that_it_is_done(self) -> None:
        run = alert_run(0, 5 * MIN, BOTH, (), now_ms=75 * MIN, ahead_ms=60 * MIN)
        self.assertEqual(told(run), [(0, "all"), (20, "all"), (40, "all"), (50, "owner"), (60, "all"), (70, "owner")])
        self.assertTrue(run.is_open)
        done = AlertAnswer(at_ms=45 * MIN, kind="done", by="Ada")
        run = alert_run(0, 5 * MIN, BOTH, (done,), now_ms=75 * MIN, ahead_ms=60 * MIN)
        self.assertEqual(told(run), [(0, "all"), (20, "all"), (40, "all")])
        self.assertEqual((run.closed_ms, run.to_come), (45 * MIN, ()))

    def test_the_end_of_its_cause_closes_it_where_no_answer_is_waited_for(self) -> None:
        run = alert_run(0, 30 * MIN, ONE, (), now_ms=90 * MIN)
        self.assertEqual(told(run), [(0, "all"), (20, "all")])
        self.assertEqual(run.closed_ms, 30 * MIN)

    def test_later_tells_at_its_time_and_any_answer_ends_the_escalation(self) -> None:
        later = AlertAnswer(at_ms=25 * MIN, kind="later", until_ms=65 * MIN)
        run = alert_run(0, None, BOTH, (later,), now_ms=90 * MIN)
        self.assertEqual(told(run), [(0, "all"), (20, "all"), (65, "all"), (85, "all")])
        seen = AlertAnswer(at_ms=25 * MIN, kind="seen")
        run = alert_run(0, None, BOTH, (seen,), now_ms=500 * MIN)
        self.assertEqual(told(run), [(0, "all"), (20, "all")])
        self.assertTrue(run.is_open)
