"""A rule that asks before something is cut: answered, late, twice, not at all, withdrawn, at night and from memory."""

import unittest
from dataclasses import replace

from tests.core.starters.test_catalogue import of, steady, then
from tests.core.starters.test_people_starters import HOME, HOUSE
from tests.rules_at_work import MIN, NOON, H
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Ask, NotificationGroup, Rule
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.questions import asked_notices
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.ruleset import RuleSetRun, rule_runs_of
from warmeter.core.starters.catalogue import started
from warmeter.core.starters.start_rule import StartRule
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.track import Track

LEFT_S = 1800
ASKED_S = LEFT_S + 300
ALWAYS_ON = steady(60)


def _home() -> tuple[Home, Rule]:
    """Return the home with both rules of the starter, and the one that asks."""
    home = StartRule(starter="left-on", place="wc-washer", strategy="ask").edit(HOME).home
    asks = next(rule for rule in home.rules if rule.question is not None)
    return home, asks


class Questions(unittest.TestCase):
    """The starter that asks, on tracks from noon on."""

    def run_of(
        self, home: Home, *said: tuple[float, str], house: Track | None = None, hours: float = 5
    ) -> tuple[RuleSetRun, list[float]]:
        """Return what became of the rules, and when the machine was cut [s after noon]."""
        found_ids = [rule.id for rule in home.rules if rule.question is not None]
        answers = {found_ids[0]: tuple((NOON + round(1000 * at), label) for at, label in said)}
        scope = Scope(
            start_ms=NOON,
            end_ms=NOON + round(hours * H * 1000),
            clock=LocalClock("Europe/London"),
            latitude_deg=52.0,
            tracks={HOUSE: house or then((0, 1), (LEFT_S, 0)), of("electric_w", "wc-washer"): ALWAYS_ON},
            holds_s={HOUSE: 24 * H},
            answers=answers,
        )
        found = rule_runs_of(home.rules, scope, home.notification_groups)
        cutting = next(rule for rule in home.rules if rule.question is None)
        # The rule that follows sees the same marks by the plain evaluator.
        self.assertEqual(interpret(cutting, found.evaluator.scope), found.rule_runs[cutting.id])
        return found, [(f.at_ms - NOON) / 1000 for f in found.rule_runs[cutting.id].firings]

    def test_silence_cuts_it_after_the_wait_and_an_answer_at_once(self) -> None:
        home, _ = _home()
        _, cut = self.run_of(home)
        self.assertEqual(cut, [ASKED_S + 600])
        _, cut = self.run_of(home, (ASKED_S + 90, "switch it off"))
        self.assertEqual(cut, [ASKED_S + 90])

    def test_left_on_by_an_answer_is_not_cut_and_a_second_answer_does_not_count(self) -> None:
        home, asks = _home()
        found, cut = self.run_of(home, (ASKED_S + 90, "leave it on"), (ASKED_S + 95, "switch it off"))
        self.assertEqual(cut, [])
        self.assertEqual([why for _, why in found.questions[asks.id].ignored], ["settled"])

    def test_a_late_answer_takes_the_cutting_back(self) -> None:
        home, asks = _home()
        found, cut = self.run_of(home, (ASKED_S + 1200, "leave it on"))
        self.assertEqual(cut, [ASKED_S + 600])
        word = asks.question.none_word if asks.question else ""
        marks = found.evaluator.scope.marks[word]
        told = [((at - NOON) / 1000, so) for at, so in zip(marks.at_ms.tolist(), marks.is_true.tolist(), strict=True)]
        self.assertEqual(told, [(ASKED_S, False), (ASKED_S + 600, True), (ASKED_S + 1200, False)])

    def test_whoever_comes_back_before_the_wait_is_over_withdraws_it(self) -> None:
        home, asks = _home()
        back = then((0, 1), (LEFT_S, 0), (ASKED_S + 300, 1))
        found, cut = self.run_of(home, (ASKED_S + 360, "switch it off"), house=back)
        run = found.questions[asks.id]
        self.assertEqual(cut, [])
        self.assertEqual([(at - NOON) / 1000 for at in run.withdrawn], [ASKED_S + 300])
        self.assertEqual([why for _, why in run.ignored], ["withdrawn"])

    def test_nobody_is_asked_again_within_two_hours_of_an_answer(self) -> None:
        home, asks = _home()
        comes_and_goes = then((0, 1), (LEFT_S, 0), (H, 1), (H + 20 * MIN, 0), (4 * H, 1), (4 * H + 20 * MIN, 0))
        found, cut = self.run_of(home, (ASKED_S + 60, "switch it off"), house=comes_and_goes)
        asked = [(at - NOON) / 1000 for at in found.questions[asks.id].asked]
        self.assertEqual(asked, [ASKED_S, 4 * H + 25 * MIN])
        # Cut by the answer, by memory (a second after the wish, so that it is seen), and by silence.
        self.assertEqual(cut, [ASKED_S + 60, H + 25 * MIN + 1, 4 * H + 35 * MIN])

    def test_quiet_hours_hold_drop_or_let_through_as_the_rule_says(self) -> None:
        home, asks = _home()
        # Quiet from noon to 14:00, whoever is asked at 12:35.
        quiet = tuple(replace(g, quiet_from_min=720, quiet_until_min=840) for g in home.notification_groups)
        for how, asked, cut_s in (
            ("send", [ASKED_S], ASKED_S + 600),
            ("drop", [], ASKED_S + 1),
            ("hold", [2 * H], 2 * H + 600),
        ):
            with self.subTest(how=how):
                question = replace(asks.question, in_quiet=how)  # type: ignore[type-var]
                rules = tuple(
                    replace(rule, then=(question,)) if rule.id == asks.id else rule  # type: ignore[arg-type]
                    for rule in home.rules
                )
                found, cut = self.run_of(replace(home, rules=rules, notification_groups=quiet))
                run = found.questions[asks.id]
                self.assertEqual([(at - NOON) / 1000 for at in run.asked], asked)
                self.assertEqual(cut, [cut_s])
                notices = asked_notices(rules[[r.id for r in rules].index(asks.id)], run)
                self.assertEqual([n.is_late for n in notices], [how == "hold"] * len(asked))

    def test_the_starter_has_no_finding_and_its_parts_alone_do(self) -> None:
        home, asks = _home()
        self.assertEqual([(f.check, f.part) for f in rule_findings(home)], [])
        alone = replace(home, rules=(asks,))
        self.assertEqual({f.check for f in rule_findings(alone)}, {"answer without effect"})

    def test_the_rule_that_cuts_is_written_once(self) -> None:
        home, _ = _home()
        again = StartRule(starter="left-on", place="wc-washer", strategy="ask").edit(home).home
        self.assertEqual([rule.question is None for rule in again.rules].count(True), 1)

    def test_a_rule_asks_one_question_whose_answers_differ(self) -> None:
        _, asks = _home()
        with self.assertRaisesRegex(HomeError, "one question"):
            replace(asks, then=(*asks.then, *asks.then))
        question = asks.question
        assert isinstance(question, Ask)
        with self.assertRaisesRegex(HomeError, "read the same"):
            replace(question, answers=(question.answers[0], replace(question.answers[0], label=" Switch it OFF ")))

    def test_a_group_that_is_gone_is_told_as_a_finding_and_does_not_stop_the_replay(self) -> None:
        home, _ = _home()
        gone = replace(home, notification_groups=(NotificationGroup(id="other", name="Other"),))
        self.assertIn("never or always", {f.check for f in rule_findings(gone)})
        _, cut = self.run_of(gone)
        self.assertEqual(cut, [ASKED_S + 600])

    def test_the_plain_starter_still_only_tells(self) -> None:
        _, rule = started(HOME, "left-on", "usual", "wc-washer")
        self.assertIsNone(rule.question)


if __name__ == "__main__":
    unittest.main()
