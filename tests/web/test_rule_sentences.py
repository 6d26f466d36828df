"""Sentences of rules: every blank reads back what it shows, every choice keeps the rule whole."""

import unittest
from dataclasses import replace

from warmeter.core.edits import rule_edits
from warmeter.core.edits.rule_defaults import condition_of, step_of, unfilled_rule
from warmeter.core.errors import HomeError, WarmeterError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.happens import Happens
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sequence import Sequence
from warmeter.core.home.document import Home
from warmeter.core.home.rules import MarkFact, PutBack, Rule, RuleLimits, Suspension
from warmeter.core.rule.parts import ConditionPlace, condition_at, conditions_of, with_condition, with_step
from warmeter.core.rule.release import put_back_of
from warmeter.core.rule.signals import offered
from warmeter.service.homes.demo import DEMO_HOMES, demo_home
from warmeter.web.rules.sentence import sentence_of
from warmeter.web.rules.slot_commands import slot_command, slots_of, take_out
from warmeter.web.rules.slot_types import GONE
from warmeter.web.rules.slots import Slot, minute_of, number_of, seconds_of, seconds_text, typed_value, value_text
from warmeter.web.rules.wording import rule_wording

STEPS = ("set_level", "set_point", "lower", "switch", "timed_run", "blinds", "shut_off", "mark_fact", "tell")


def typed(slot: Slot) -> dict[str, str]:
    """Return a form that keeps what stands in a slot."""
    if slot.kind == "many":
        return {f"value.{key}": "on" for key in slot.value.split(",")}
    return {"value": slot.value}


def filled(home: Home, rule: Rule, slot: Slot, texts: dict[str, str]) -> Rule:
    """Return a rule of a home with a slot filled."""
    return slot_command(home, rule, slot, texts).edit(home).home.rule(rule.id)


def everything(home: Home) -> Rule:
    """Return a rule that looks at everything and does everything, its clauses and steps as they first stand."""
    keys = [f"signal:{o.signal.quantity}:{o.signal.subject_id or ''}" for o in offered(home)][:6]
    keys += ["hours", "at_time", "dates", "dark", "evening", "statement", "fact", "sequence"]
    keys += [f"machine:{home.appliances[0].id}", f"ran:{home.appliances[0].id}", f"level:{home.zones[0].id}"]
    conditions = [condition_of(home, key) for key in keys]
    steps = []
    for kind in STEPS:
        try:
            steps.append(step_of(home, kind, home.notification_groups[0].id))
        except HomeError:
            continue
    return Rule(
        id="all",
        name="Everything",
        watch=tuple((c,) for c in conditions[:12]),
        only_while=tuple((c,) for c in conditions[12:]),
        as_long_as=((conditions[0], conditions[1]),),
        then=tuple(steps),
        put_back=PutBack(when=((conditions[0],),), for_s=60, after_s=3600, at_min=420),
        limits=RuleLimits(most_a_day=3),
    )


def _rounded(text: str) -> str:
    """Return a text with its numbers to three decimals, as a unit there and back leaves them."""
    words = []
    for word in text.replace("(", " ( ").replace(",", " , ").replace(")", " ) ").replace("=", " = ").split():
        try:
            words.append(f"{float(word):.3f}")
        except ValueError:
            words.append(word)
    return " ".join(words)


class Blanks(unittest.TestCase):
    def homes(self) -> list[Home]:
        found = [demo_home(name) for name in DEMO_HOMES]
        return [*found, replace(found[0], temperature_unit="F", country="US")]

    def test_what_stands_in_a_blank_read_back_changes_nothing(self) -> None:
        for home in self.homes():
            for rule in (*home.rules, everything(home)):
                with_it, rule = rule_edits.with_new_rule(home, rule)
                for key, slot in slots_of(with_it, rule).items():
                    with self.subTest(home=home.name, unit=home.temperature_unit, rule=rule.name, slot=key):
                        same = filled(with_it, rule, slot, typed(slot))
                        self.assertEqual(_rounded(repr(same)), _rounded(repr(rule)))

    def test_every_choice_of_every_slot_makes_a_rule_that_can_be_told(self) -> None:
        home = demo_home("weir-cottage")
        home, rule = rule_edits.with_new_rule(home, everything(home))
        for key, slot in slots_of(home, rule).items():
            for option, _ in slot.options if slot.kind == "choice" else ():
                with self.subTest(slot=key, option=option):
                    changed = filled(home, rule, slot, {"value": option})
                    self.assertIn("then", sentence_of(rule_wording(home, changed), is_open=True).text)

    def test_taking_out_leaves_the_rest(self) -> None:
        home = demo_home("weir-cottage")
        home, rule = rule_edits.with_new_rule(home, everything(home))
        for key, slot in slots_of(home, rule).items():
            if slot.removal is not None:
                with self.subTest(slot=key):
                    left = take_out(home, {"rule_id": rule.id, "slot": key}).edit(home).home.rule(rule.id)
                    self.assertNotEqual(left, rule)
                    self.assertNotIn(key, slots_of(home, left) if key.startswith("back_") else {})

    def test_nothing_of_the_demo_is_gone_and_each_sentence_has_its_words(self) -> None:
        for home in self.homes():
            for rule in home.rules:
                text = sentence_of(rule_wording(home, rule), is_open=False).text
                self.assertNotIn(GONE, text)
                self.assertTrue(text.startswith("Watch ") and " then " in text and text.endswith("."), text)
                self.assertNotIn(" .", text)

    def test_temperatures_stand_in_the_homes_unit(self) -> None:
        home = replace(demo_home("weir-cottage"), temperature_unit="F")
        text = sentence_of(rule_wording(home, home.rules[2]), is_open=False).text
        self.assertIn("is under 40.1 °F with 3.6 °F of hysteresis", text)

    def test_what_cannot_be_read_says_so(self) -> None:
        for wrong in ("", "soon", "3 fathoms", "-5 min", "9 days"):
            with self.subTest(wrong), self.assertRaises(WarmeterError):
                seconds_of(wrong, low=0, high=7 * 86_400)
        for text, seconds in (
            ("3", 180),
            ("90 s", 90),
            ("1 h 30 min", 5400),
            ("1,5 h", 5400),
            ("2 days", 172_800),
            ("0", 0),
        ):
            self.assertEqual(seconds_of(text, low=0, high=7 * 86_400), seconds, text)
            if seconds:
                self.assertEqual(seconds_of(seconds_text(seconds), low=0, high=7 * 86_400), seconds)
        with self.assertRaises(WarmeterError):
            minute_of("half past")
        with self.assertRaises(WarmeterError):
            number_of("many", low=0, high=1)
        with self.assertRaises(WarmeterError):
            number_of("7", low=0, high=1)

    def test_values_there_and_back_in_every_unit(self) -> None:
        for unit, value in (("°C", 21.5), ("%", 55.0), ("W", 1200.0), ("g/m3", 9.5), ("price", 0.285), ("°", -6.0)):
            for home in (demo_home("sail-loft"), replace(demo_home("sail-loft"), temperature_unit="F")):
                for is_difference in (False, True):
                    text = value_text(home, unit, value, is_difference=is_difference)
                    back = typed_value(home, unit, text, is_difference=is_difference)
                    self.assertAlmostEqual(back, value, places=2, msg=text)


class Changing(unittest.TestCase):
    def setUp(self) -> None:
        self.home = demo_home("weir-cottage")
        self.rule = self.home.rule("wc-r06")

    def test_a_place_that_is_gone_is_told(self) -> None:
        for place in (
            ConditionPlace("watch", 5, 0),
            ConditionPlace("only_while", 0, 0),
            ConditionPlace("watch", 0, 0, "first"),
        ):
            with self.assertRaises(HomeError):
                condition_at(self.rule, place)
        with self.assertRaises(HomeError):
            with_condition(self.rule, ConditionPlace("watch", 0, 0), None)
        with self.assertRaises(HomeError):
            with_step(self.rule, 9, None)
        with self.assertRaises(HomeError):
            with_step(self.rule, 0, None)

    def test_the_last_part_of_put_back_takes_it_away(self) -> None:
        bare = with_condition(self.rule, ConditionPlace("when", 0, 0), None)
        self.assertIsNone(bare.put_back)
        late = replace(self.rule, put_back=replace(self.rule.put_back or PutBack(after_s=1), after_s=600))
        kept = with_condition(late, ConditionPlace("when", 0, 0), None).put_back
        self.assertEqual(kept and (kept.when, kept.after_s), ((), 600))

    def test_a_sequence_has_single_parts_and_can_lose_its_unless(self) -> None:
        chain = condition_of(self.home, "sequence")
        rule = replace(self.rule, watch=((chain,),))
        place = ConditionPlace("watch", 0, 0, "unless")
        with_unless = with_condition(rule, place, Fact(word="x"))
        self.assertEqual(condition_at(with_unless, place), Fact(word="x"))
        self.assertIsNone(condition_at(with_condition(with_unless, place, None), place))
        with self.assertRaises(HomeError):
            with_condition(rule, ConditionPlace("watch", 0, 0, "first"), None)
        assert isinstance(chain, Sequence)
        with self.assertRaises(HomeError):
            with_condition(rule, ConditionPlace("watch", 0, 0, "then"), chain)

    def test_or_joins_the_last_clause_and_and_begins_one(self) -> None:
        dark = condition_of(self.home, "dark")
        both = rule_edits.with_added(
            rule_edits.with_added(self.rule, "only_while", dark),
            "only_while",
            Hours(from_min=0, until_min=60),
            is_or=True,
        )
        self.assertEqual([len(clause) for clause in both.only_while], [2])
        self.assertEqual(len(rule_edits.with_added(both, "only_while", dark).only_while), 2)
        self.assertEqual(len(conditions_of(both, "only_while")), 2)

    def test_rules_move_within_the_list_and_new_ones_stand_with_their_kind(self) -> None:
        last = self.home.rules[-1].id
        self.assertEqual(rule_edits.with_rule_moved(self.home, last, -100).rules[0].id, last)
        added, fresh = rule_edits.with_new_rule(self.home, replace(self.rule, kind="safety"))
        place = [r.id for r in added.rules].index(fresh.id)
        self.assertTrue(all(r.kind == "safety" for r in added.rules[: place + 1]))
        self.assertNotEqual(fresh.name, self.rule.name)
        self.assertEqual(len(rule_edits.without_rule(added, fresh.id).rules), len(self.home.rules))

    def test_safety_is_not_suspended_and_a_suspension_ends_later(self) -> None:
        with self.assertRaises(HomeError):
            rule_edits.suspended(replace(self.rule, kind="safety"), 1000, None, "Ann", "tired")
        with self.assertRaises(HomeError):
            rule_edits.suspended(self.rule, 1000, 1000, "Ann", "tired")
        quiet = rule_edits.suspended(self.rule, 1000, None, "Ann", "painting").suspended
        self.assertEqual(quiet, Suspension(from_ms=1000, by="Ann", why="painting"))

    def test_the_usual_put_back_lies_beyond_the_hysteresis(self) -> None:
        damp = Compared(of=Signal(quantity="relative_humidity", subject_id="r"), how="over", value=65, hysteresis=5)
        self.assertEqual(damp.opposite, replace(damp, how="under", value=60, hysteresis=0))
        self.assertIsNone(Happens(event="button").opposite)
        self.assertIsNone(replace(damp, how="between", high=70).opposite)
        back = put_back_of(replace(self.rule, watch=((Happens(event="button"),),)))
        self.assertEqual((back.when, back.after_s), ((), 1800))
        two = replace(
            self.rule, watch=((self.rule.watch[0][0], InState(of=Signal(quantity="is_open", subject_id="d"))),)
        )
        self.assertEqual(len(put_back_of(two).when), 2)

    def test_a_blank_rule_can_be_begun_in_any_home(self) -> None:
        bare = replace(
            self.home,
            devices=(),
            zones=(),
            heaters=(),
            appliances=(),
            rooms=(),
            openings=(),
            things=(),
            rules=(),
            safety_chains=(),
            notes=(),
        )
        rule = unfilled_rule(bare, "Mine")
        self.assertEqual([type(step) for step in rule.then], [MarkFact])
        self.assertIn("the clock strikes", sentence_of(rule_wording(bare, rule), is_open=True).text)

    def test_what_a_home_has_not_cannot_be_looked_at_or_acted_on(self) -> None:
        for key in ("signal:is_open:nowhere", "moon", "machine:none", "level:none", "button:none"):
            with self.subTest(key), self.assertRaises(HomeError):
                condition_of(self.home, key)
        with self.assertRaises(HomeError):
            step_of(self.home, "blinds")
