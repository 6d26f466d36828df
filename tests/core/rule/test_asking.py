"""A question is asked once, answered once, and outlives restarts, clock changes and answers that come late or twice."""

import json
import random
import unittest
from dataclasses import asdict

from warmeter.core.rule.asking import AskRun, AskState, AskTerms, AskWish, GivenAnswer, ask_run
from warmeter.core.rule.notifications import quiet_by_clock
from warmeter.core.rule.reference.asking import walked
from warmeter.core.timegrid import LocalClock
from warmeter.simulators.question_cases import HOME_CLOCK, NIGHTS_MS, random_night

MIN = 60_000
HOUR = 60 * MIN
NEVER_QUIET = quiet_by_clock(LocalClock("UTC"), 0, 0)


def _case(seed: int) -> tuple[list[AskWish], list[GivenAnswer], AskTerms, int, int]:
    """Return wishes, answers, terms, start and end of a random night."""
    night = random_night(seed)
    return night.wishes, night.answers, night.terms, night.start_ms, night.end_ms


def _told(run: AskRun) -> tuple[object, ...]:
    return run.begun, run.asked, run.folded, run.withdrawn, run.outcomes, run.ignored


class AskingTest(unittest.TestCase):
    """One question."""

    def test_both_evaluators_agree_on_random_nights(self) -> None:
        outcomes = late = remembered = withdrawn = folded = 0
        for seed in range(400):
            wishes, answers, terms, _, end = _case(seed)
            with self.subTest(seed=seed):
                run = ask_run(wishes, answers, terms, end=end)
                self.assertEqual(_told(run), _told(walked(wishes, answers, terms, end=end, tick=MIN)))
            outcomes += len(run.outcomes)
            late += sum(outcome.is_late for outcome in run.outcomes)
            remembered += sum(outcome.is_remembered for outcome in run.outcomes)
            withdrawn += len(run.withdrawn)
            folded += len(run.folded)
        for count in (outcomes, late, remembered, withdrawn, folded):
            self.assertGreater(count, 100)  # every way was gone often enough to tell

    def test_a_restart_at_any_instant_changes_nothing(self) -> None:
        for seed in range(400, 600):
            wishes, answers, terms, start, end = _case(seed)
            whole = ask_run(wishes, answers, terms, end=end)
            cuts = sorted(random.Random(seed).sample(range(start, end, MIN), 3))
            pieces, state, before = list[AskRun](), None, start - 1
            for cut in (*cuts, end):
                piece = ask_run(
                    [wish for wish in wishes if before < wish.at <= cut],
                    [answer for answer in answers if before < answer.at <= cut],
                    terms,
                    end=cut,
                    state=state,
                )
                state = _read_back(piece.state)
                pieces.append(piece)
                before = cut
            with self.subTest(seed=seed):
                for name in ("begun", "asked", "folded", "withdrawn", "outcomes", "ignored"):
                    joined = tuple(each for piece in pieces for each in getattr(piece, name))
                    self.assertEqual(joined, getattr(whole, name), name)

    def test_a_question_is_settled_once_and_told_none_once(self) -> None:
        for seed in range(600, 900):
            wishes, answers, terms, _, end = _case(seed)
            run = ask_run(wishes, answers, terms, end=end)
            with self.subTest(seed=seed):
                given = [o for o in run.outcomes if o.label is not None and not o.is_remembered]
                for begun, until in zip(run.asked, [*run.asked[1:], end + 1], strict=True):
                    # An answer in the instant of the next asking still belongs to the question before.
                    mine = [o for o in given if begun < o.at <= until]
                    self.assertLessEqual(len(mine), 1)
                    self.assertTrue(all(o.at <= begun + terms.wait + terms.late for o in mine))
                counted = len(given) + len(run.ignored)
                self.assertEqual(counted, sum(answer.at <= end for answer in answers))  # none is lost

    def test_no_question_is_sent_in_quiet_hours_of_any_clock(self) -> None:
        for start in NIGHTS_MS:
            quiet = quiet_by_clock(HOME_CLOCK, 1380, 420)
            terms = AskTerms(options=("yes",), wait=10 * MIN, quiet=quiet)
            run = ask_run([AskWish(start + 5 * HOUR)], [], terms, end=start + 24 * HOUR)
            with self.subTest(start=start):
                self.assertEqual([HOME_CLOCK.local(at).strftime("%H:%M") for at in run.asked], ["07:00"])
                self.assertEqual([o.at - run.asked[0] for o in run.outcomes], [10 * MIN])

    def test_whoever_is_seen_again_ends_the_question(self) -> None:
        terms = AskTerms(options=("yes",), wait=15 * MIN, late=60 * MIN, quiet=NEVER_QUIET)
        run = ask_run([AskWish(0, 5 * MIN)], [GivenAnswer(8 * MIN, "yes")], terms, end=HOUR)
        self.assertEqual(
            (run.withdrawn, run.outcomes, run.ignored), ((5 * MIN,), (), ((GivenAnswer(8 * MIN, "yes"), "withdrawn"),))
        )

    def test_nobody_is_asked_twice_for_the_same(self) -> None:
        terms = AskTerms(options=("keep", "off"), wait=10 * MIN, remember=2 * HOUR, quiet=NEVER_QUIET)
        wishes = [AskWish(0), AskWish(HOUR), AskWish(2 * HOUR), AskWish(3 * HOUR)]
        run = ask_run(wishes, [GivenAnswer(2 * MIN, "keep")], terms, end=3 * HOUR)
        self.assertEqual(run.asked, (0, 3 * HOUR))  # two hours after the answer it is forgotten
        again = [(o.at, o.label) for o in run.outcomes if o.is_remembered]
        self.assertEqual(again, [(HOUR, "keep"), (2 * HOUR, "keep")])


def _read_back(state: AskState) -> AskState:
    """Return a state as it comes back from a file."""
    kept = json.loads(json.dumps(asdict(state)))
    last = kept.pop("last")
    return AskState(**kept, last=GivenAnswer(**last) if last else None)


if __name__ == "__main__":
    unittest.main()
