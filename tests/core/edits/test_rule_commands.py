"""Commands on rules: what each leaves in the home, told by the document and not by its words."""

import unittest
from dataclasses import replace
from datetime import date

from tests.drawn import drawn_home
from warmeter.core.edits.rule_commands import (
    AddRulePart,
    AddWait,
    ChangeNotificationGroup,
    ChangeRule,
    ChangeVerb,
    FillSlot,
    LookAt,
    MarkEvent,
    MoveRule,
    MoveStep,
    RemoveNotificationGroup,
    RemoveRule,
    ResumeRule,
    SuspendRule,
    TakeOutPart,
    TuneRule,
    UnmarkEvent,
    WriteRule,
)
from warmeter.core.edits.rule_defaults import condition_of
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rules import MarkFact, Rule, SetLevel, Tell
from warmeter.core.timegrid import parse_utc

NOW = parse_utc("2026-01-14T12:00:00Z")
FACT = MarkFact(word="aired")
AT_NOON = AtTime(at_min=720)


def ruled(*rules: Rule) -> Home:
    """Return the drawn home with rules, or with three of them."""
    default = tuple(
        Rule(id=key, name=key.title(), watch=((AT_NOON,),), then=(FACT,)) for key in ("first", "second", "third")
    )
    return replace(drawn_home(), rules=rules or default)


def first(home: Home) -> Rule:
    return home.rules[0]


class Writing(unittest.TestCase):
    def test_a_rule_of_one_s_own_is_silent_until_its_blanks_are_filled_in(self) -> None:
        edit = WriteRule(now_ms=NOW, name="Air the den").edit(drawn_home())
        rule = edit.home.rule(edit.selected or "")
        assert rule.suspended is not None
        self.assertEqual((rule.name, rule.suspended.from_ms, rule.suspended.until_ms), ("Air the den", NOW, None))
        (condition,) = rule.watch[0]
        assert isinstance(condition, Compared)
        self.assertEqual((condition.of.quantity, condition.of.subject_id), ("room_temperature", "den"))
        self.assertIsInstance(rule.then[0], SetLevel)
        again = WriteRule(now_ms=NOW, name="Air the den").edit(edit.home)
        self.assertEqual(again.home.rule(again.selected or "").name, "Air the den 2")

    def test_it_begins_with_a_contact_where_there_is_one_and_with_the_clock_where_nothing_is_measured(self) -> None:
        contact = Device(id="lid", name="Lid", kind="contact", room_id="den")
        home = drawn_home()
        watched = WriteRule(now_ms=NOW).edit(replace(home, devices=(*home.devices, contact))).home.rules[0].watch[0][0]
        self.assertIsInstance(watched, InState)
        bare = replace(home, devices=(), rooms=(), zones=(), heaters=(), openings=(), levels=())
        rule = WriteRule(now_ms=NOW).edit(bare).home.rules[0]
        self.assertEqual((rule.watch, rule.then), (((AtTime(at_min=1320),),), (MarkFact(word="done today"),)))

    def test_safety_stands_first_then_locks_then_the_rest(self) -> None:
        home = ruled()
        home = replace(
            home, rules=(replace(first(home), kind="safety"), replace(home.rules[1], kind="window_lock"), home.rules[2])
        )
        added = WriteRule(now_ms=NOW, name="New").edit(home).home
        self.assertEqual([rule.name for rule in added.rules], ["First", "Second", "Third", "New"])

    def test_a_home_has_five_hundred_rules_at_most(self) -> None:
        rule = first(ruled())
        full = ruled(*(replace(rule, id=f"r{k}", name=f"R{k}") for k in range(500)))
        with self.assertRaisesRegex(HomeError, "500 rules at most"):
            WriteRule(now_ms=NOW).edit(full)
        self.assertEqual(len(WriteRule(now_ms=NOW).edit(replace(full, rules=full.rules[1:])).home.rules), 500)


class Parts(unittest.TestCase):
    def test_each_part_comes_where_its_name_says(self) -> None:
        home = ruled()

        def with_part(what: str, of: Home = home) -> Rule:
            return first(AddRulePart(rule_id="first", what=what).edit(of).home)

        self.assertEqual(with_part("watch").watch, ((AT_NOON,), (AT_NOON,)))
        self.assertEqual(with_part("watch_or").watch, ((AT_NOON, AT_NOON),))
        while_home = ruled(with_part("only_while"))
        self.assertEqual([len(clause) for clause in first(while_home).only_while], [1])
        self.assertEqual([len(clause) for clause in with_part("only_while_or", while_home).only_while], [2])
        self.assertEqual([len(clause) for clause in with_part("as_long_as").as_long_as], [1])
        after, at = with_part("back_after").put_back, with_part("back_at").put_back
        assert after is not None and at is not None
        self.assertEqual((after.after_s, after.at_min, at.after_s, at.at_min), (1800, None, None, 420))
        both = with_part("back_at", ruled(with_part("back_after"))).put_back
        assert both is not None
        self.assertEqual((both.after_s, both.at_min), (1800, 420))
        self.assertIsNotNone(with_part("put_back").put_back)
        for what in ("step:dance", "mood"):
            with self.subTest(what), self.assertRaises(HomeError):
                with_part(what)

    def test_a_step_that_tells_brings_people_to_tell_who_are_left_alone_at_night(self) -> None:
        told = AddRulePart(rule_id="first", what="step", step="tell").edit(ruled()).home
        (group,) = told.notification_groups
        self.assertEqual((group.name, group.quiet_from_min, group.quiet_until_min), ("Everybody", 22 * 60, 7 * 60))
        step = first(told).then[1]
        assert isinstance(step, Tell)
        self.assertEqual(step.group_id, group.id)
        again = AddRulePart(rule_id="second", what="step:tell").edit(told).home
        self.assertEqual(len(again.notification_groups), 1)

    def test_a_slot_a_wait_and_the_order_of_steps(self) -> None:
        home = ruled(replace(first(ruled()), then=(FACT, MarkFact(word="two"), MarkFact(word="three"))))
        moved = MoveStep(rule_id="first", number=2, by=-5).edit(home).home
        self.assertEqual(
            [step.word for step in first(moved).then if isinstance(step, MarkFact)], ["three", "aired", "two"]
        )
        later = MoveStep(rule_id="first", number=0, by=1).edit(home).home
        self.assertEqual(
            [step.word for step in first(later).then if isinstance(step, MarkFact)], ["two", "aired", "three"]
        )
        waiting = AddWait(rule_id="first", number=1).edit(home).home
        self.assertEqual([step.wait_s for step in first(waiting).then], [0, 600, 0])
        filled = FillSlot(rule_id="first", path="watch.0.0", values={"at_min": 800}).edit(home)
        self.assertEqual(first(filled.home).watch, ((AtTime(at_min=800),),))
        other = LookAt(rule_id="first", path="watch.0.0", condition=condition_of(home, "signal:room_temperature:den"))
        warm = other.edit(home).home
        falling = ChangeVerb(rule_id="first", path="watch.0.0", how="under", reading="is").edit(warm).home
        condition = first(falling).watch[0][0]
        assert isinstance(condition, Compared)
        self.assertEqual((condition.how, first(falling).reading), ("under", "is"))
        with self.assertRaises(HomeError):
            ChangeVerb(rule_id="first", path="watch.0.0", how="under").edit(home)
        out = TakeOutPart(rule_id="first", path="then.1").edit(home).home
        self.assertEqual(len(first(out).then), 2)
        back = first(AddRulePart(rule_id="first", what="back_after").edit(home).home)
        gone = TakeOutPart(rule_id="first", path="put_back", field="after_s").edit(ruled(back)).home
        self.assertIsNone(getattr(first(gone).put_back, "after_s", None))

    def test_both_numbers_of_a_point_of_the_map_are_set(self) -> None:
        warm = LookAt(
            rule_id="first", path="watch.0.0", condition=condition_of(ruled(), "signal:room_temperature:den")
        ).edit(ruled())
        tuned = TuneRule(rule_id="first", up="watch.0.0.value", up_value=21.5, across="for", across_value=900).edit(
            warm.home
        )
        condition = first(tuned.home).watch[0][0]
        assert isinstance(condition, Compared)
        self.assertEqual((condition.value, first(tuned.home).for_s), (21.5, 900))
        self.assertIn("begins at and waits", tuned.summary)
        with self.assertRaisesRegex(HomeError, "not there any more"):
            TuneRule(rule_id="first", up="nothing", up_value=1, across="for", across_value=1).edit(warm.home)


class InTheList(unittest.TestCase):
    def test_name_order_and_removal(self) -> None:
        home = ruled()
        renamed = ChangeRule(rule_id="first", values={"name": "Noon", "intent": "why not"}).edit(home)
        self.assertEqual((first(renamed.home).name, first(renamed.home).intent), ("Noon", "why not"))
        self.assertIn("name and intent", renamed.summary)
        lock = ChangeRule(rule_id="first", values={"kind": "window_lock"}).edit(home)
        self.assertEqual((first(lock.home).kind, "is a" in lock.summary), ("window_lock", True))
        for by, order, word in ((1, ["second", "first", "third"], "lower"), (9, ["second", "third", "first"], "lower")):
            moved = MoveRule(rule_id="first", by=by).edit(home)
            self.assertEqual(([rule.id for rule in moved.home.rules], word in moved.summary), (order, True))
        up = MoveRule(rule_id="third", by=-1).edit(home)
        self.assertEqual(([r.id for r in up.home.rules], "higher" in up.summary), (["first", "third", "second"], True))
        self.assertEqual([r.id for r in RemoveRule(rule_id="second").edit(home).home.rules], ["first", "third"])
        with self.assertRaises(HomeError):
            RemoveRule(rule_id="nobody").edit(home)

    def test_a_rule_is_silent_until_a_time_after_now_and_a_safety_rule_never(self) -> None:
        home = ruled()
        until = SuspendRule(
            rule_id="first", now_ms=NOW, why="guests", until_day=date(2026, 1, 15), until_time=480, by="Ann"
        ).edit(home)
        suspended = first(until.home).suspended
        assert suspended is not None
        self.assertEqual(
            (suspended.until_ms, suspended.by, suspended.why), (parse_utc("2026-01-15T08:00:00Z"), "Ann", "guests")
        )
        self.assertIsNone(first(ResumeRule(rule_id="first").edit(until.home).home).suspended)
        with self.assertRaisesRegex(HomeError, "until a time after now"):
            SuspendRule(rule_id="first", now_ms=NOW, why="x", until_day=date(2026, 1, 14), until_time=720).edit(home)
        safe = ruled(replace(first(home), kind="safety"))
        with self.assertRaisesRegex(HomeError, "safety rule cannot be suspended"):
            SuspendRule(rule_id="first", now_ms=NOW, why="x").edit(safe)

    def test_marks_that_touch_are_one_and_stand_in_order(self) -> None:
        def marked(home: Home, start: int, end: int) -> Home:
            day = date(2026, 1, 14)
            return (
                MarkEvent(rule_id="first", start_day=day, start_time=start, end_day=day, end_time=end).edit(home).home
            )

        home = marked(marked(marked(ruled(), 600, 660), 480, 540), 540, 600)
        minutes = [(m.start_ms // 60_000 % 1440, m.end_ms // 60_000 % 1440) for m in first(home).marks]
        self.assertEqual(minutes, [(480, 540), (540, 600), (600, 660)], "those that only meet are apart")
        home = marked(home, 530, 610)
        self.assertEqual([m.start_ms // 60_000 % 1440 for m in first(home).marks], [530])
        home = UnmarkEvent(rule_id="first", start_ms=first(home).marks[0].start_ms).edit(home).home
        self.assertEqual(first(home).marks, ())


class People(unittest.TestCase):
    def test_they_are_added_changed_and_taken_out(self) -> None:
        home = (
            ChangeNotificationGroup(name="Cleo", loudness="quiet", quiet_from=1380, quiet_until=1440).edit(ruled()).home
        )
        (group,) = home.notification_groups
        self.assertEqual((group.quiet_from_min, group.quiet_until_min, group.goes_through_quiet), (1380, 0, False))
        home = ChangeNotificationGroup(group_id=group.id, name="Cleo", loudness="alarm", through=True).edit(home).home
        (group,) = home.notification_groups
        self.assertEqual((group.loudness, group.quiet_from_min, group.goes_through_quiet), ("alarm", None, True))
        self.assertEqual(RemoveNotificationGroup(group_id=group.id).edit(home).home.notification_groups, ())
        with self.assertRaises(HomeError):
            RemoveNotificationGroup(group_id="nobody").edit(home)
        with self.assertRaisesRegex(HomeError, "a beginning and an end"):
            ChangeNotificationGroup(name="Cleo", loudness="quiet", quiet_from=1380).edit(home)


if __name__ == "__main__":
    unittest.main()
