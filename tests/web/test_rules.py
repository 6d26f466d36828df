"""The rules page: written, filled, mended, replayed, tuned, told, handed over; and everything that can be wrong with it."""

import json
import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from tests.edited import save_change
from tests.homes import becoming, small_home
from tests.places import DATA
from tests.web.test_pages import ANN, Case, Elements
from warmeter.core.edits import rule_edits
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rules import (
    AnswerChoice,
    Ask,
    MarkFact,
    NotificationGroup,
    PutBack,
    Rule,
    RuleLimits,
    SetLevel,
    SetPoint,
    Switch,
    Tell,
)
from warmeter.core.rule.actions import action_runs_of, notifications_of, zone_claims
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import Evidence
from warmeter.core.rule.ruleset import in_order, rule_runs_of
from warmeter.core.rule.run import Firing, RuleRun
from warmeter.core.sensing.open_window import usual_drop_k
from warmeter.core.timegrid import LocalClock, from_ms, parse_utc
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.track import Track, moving
from warmeter.core.truth.truth import TRUE
from warmeter.service.readings import logs
from warmeter.service.rules import rule_tuning
from warmeter.service.rules.replays import replay
from warmeter.service.rules.rule_evidence import noise_of, with_never
from warmeter.service.rules.rule_signals import ANSWER_EVENT, scope_of, track_of
from warmeter.service.rules.rules_file import read_rules, rules_json, with_rules_of
from warmeter.store.codec import home_from_json
from warmeter.store.homes import RevisionConflict

PAGE = "/homes/home1/rules"
START = parse_utc("2026-01-05T00:00:00Z")
WINDOW = Device(id="win", name="Study window", kind="contact", room_id="study")
BUTTON = Device(id="bell", name="Hall button", kind="wall_switch", room_id="study")
OPEN = InState(of=Signal(quantity="is_open", subject_id="win"))
OPENING = Rule(
    id="opening",
    name="Study opened",
    kind="window_lock",
    watch=((OPEN,),),
    for_s=180,
    then=(SetLevel(zone_ids=("z-study",), level_id="asleep"),),
    put_back=PutBack(when=((replace(OPEN, is_on=False),),), for_s=120),
    limits=RuleLimits(stale_s=86_400),
)
BELOW = Compared(of=Signal(quantity="room_temperature", subject_id="study"), how="under", value=18.0, hysteresis=0.5)
COLD = Rule(
    id="cold",
    name="Study cold",
    watch=((BELOW,),),
    for_s=600,
    then=(Tell(group_id="all", text="{rule}: {value} for {since}", repeat_s=3600, most=3),),
    put_back=PutBack(
        when=((Compared(of=Signal(quantity="room_temperature", subject_id="study"), how="over", value=19.0),),)
    ),
    reading="is",
)


def ruled_home() -> Home:
    """Return the small home with a contact, a button and two rules."""
    return replace(
        small_home(),
        devices=(WINDOW, BUTTON),
        notification_groups=(NotificationGroup(id="all", name="Everybody", quiet_from_min=1320, quiet_until_min=420),),
        rules=(OPENING, COLD),
    )


def events_csv() -> str:
    """Return a week of the window: open ten minutes each noon, half a minute each evening."""
    lines = ["time,Study window"]
    for day in range(7):
        for minute, word in ((0, "closed"), (720, "open"), (730, "closed"), (1140, "open"), (1140.5, "closed")):
            lines.append(f"{from_ms(START + round((day * 1440 + minute) * 60_000)):%Y-%m-%d %H:%M:%S},{word}")
    return "\n".join(lines) + "\n"


class WithRules(Case):
    @classmethod
    def home(cls) -> Home:
        return ruled_home()

    def setUp(self) -> None:
        super().setUp()
        self.with_logs()
        upload = logs.keep_upload(self.app, "window.csv", [events_csv().encode()])
        home, _ = self.app.homes.load("home1")
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)

    def act(self, act: str, status: int = 200, **fields: str) -> Elements:
        """Do an act as the page's script does and return the redrawn part."""
        _, base = self.app.homes.load("home1")
        answer = self.client.post(
            f"{PAGE}/{act}", data={"base": str(base), "rule_id": "opening", **fields}, headers={"HX-Request": "true"}
        )
        self.assertEqual(answer.status_code, status, answer.text[:300])
        return Elements(answer.text)

    def rule(self, rule_id: str = "opening") -> Rule:
        return self.app.homes.load("home1")[0].rule(rule_id)

    def text(self, page: Elements) -> str:
        return " ".join(" ".join(page.texts).split())

    def change(self, rule: Rule, *more: Rule) -> None:
        """Save a rule in place of its like, and more behind it."""
        _, base = self.app.homes.load("home1")

        def changed(home: Home) -> Home:
            rules = tuple(rule if r.id == rule.id else r for r in home.rules)
            return replace(home, rules=(*rules, *more))

        save_change(self.app, "home1", base, ANN, "changed", changed)


class Writing(WithRules):
    def test_a_blank_is_filled_and_told_in_the_revision(self) -> None:
        self.act("fill", slot="for", value="5 min")
        self.assertEqual(self.rule().for_s, 300)
        newest = self.app.homes.revisions("home1")[0].summary
        self.assertEqual(newest, "Study opened: how long it must hold is 5 min (was 3 min)")

    def test_what_cannot_be_read_changes_nothing_and_says_what_would_do(self) -> None:
        before = self.rule()
        for slot, value, words in (
            ("for", "a while", "no length of time"),
            ("for", "9 days", "a time between"),
            ("watch.0.0.how", "sideways", "choose one of the list"),
            ("then.0.targets", "", "choose one of the list at least"),
            ("nothing", "1", "not there any more"),
        ):
            with self.subTest(slot=slot, value=value):
                page = self.act("fill", 422, slot=slot, value=value)
                self.assertIn(words, self.text(page))
        self.assertEqual(self.rule(), before)

    def test_every_part_can_be_added_and_taken_out_again(self) -> None:
        for what in (
            "watch",
            "watch_or",
            "only_while",
            "only_while_or",
            "as_long_as",
            "back_after",
            "back_at",
            "back_or",
        ):
            with self.subTest(what):
                self.act("add", what=what)
        for kind in ("set_level", "set_point", "lower", "switch", "timed_run", "mark_fact", "tell"):
            with self.subTest(kind):
                self.act("add", what="step", step=kind)
        self.assertEqual(len(self.rule().then), 8)
        self.act("add", 422, what="step", step="blinds")
        self.act("add", 422, what="wings")
        self.act("take-out", slot="then.7.chain")
        self.act("take-out", slot="watch.1.0.of")
        self.assertEqual(len(self.rule().then), 7)
        self.act("take-out", 422, slot="for")

    def test_steps_wait_and_change_places(self) -> None:
        self.act("add", what="step", step="tell")
        self.act("step-order", number="1", by="-1")
        self.assertEqual([step.kind for step in self.rule().then], ["tell", "set_level"])
        self.act("wait", number="1")
        self.assertEqual(self.rule().then[1].wait_s, 600)
        self.act("step-order", 422, number="7", by="1")

    def test_a_rule_is_named_moved_suspended_and_removed(self) -> None:
        self.act("name", name="Window", kind="rule", intent="No heat outside")
        self.assertEqual(
            (self.rule().name, self.rule().kind, self.rule().intent), ("Window", "rule", "No heat outside")
        )
        self.act("move", by="1")
        self.assertEqual([r.id for r in self.app.homes.load("home1")[0].rules], ["cold", "opening"])
        self.act("suspend", now_ms=str(START), until_day="2026-02-01", until_time="08:00", by="Ann", why="painting")
        suspended = self.rule().suspended
        self.assertEqual(suspended and (suspended.by, suspended.why), ("Ann", "painting"))
        self.assertIn("Suspended until Sun 1 Feb 2026, 08:00 by Ann: painting", self.text(self.get(PAGE)))
        self.act("resume")
        self.act("delete")
        self.assertEqual([r.id for r in self.app.homes.load("home1")[0].rules], ["cold"])

    def test_an_empty_home_is_taught_and_begins_a_rule(self) -> None:
        for rule in ("opening", "cold"):
            self.act("delete", rule_id=rule)
        page = self.get(PAGE)
        self.assertIn("A rule is a sentence", self.text(page))
        self.act("new", name="Mine", rule_id="", now_ms="1769356800000")
        (mine,) = self.app.homes.load("home1")[0].rules
        self.assertEqual((mine.name, mine.suspended is not None), ("Mine", True))
        self.assertIn("Suspended until a person ends it: new; fill in its blanks", self.text(self.get(PAGE)))
        self.assertIn("Do not type it in yet", self.text(self.get(f"{PAGE}/sheet")))
        self.act("start", rule_id="", starter="opening", strategy="usual", place="win")
        self.act("start", 422, rule_id="", starter="leak", strategy="tell", place="win")

    def test_another_window_saved_meanwhile_is_told(self) -> None:
        self.act("fill", rule_id="opening", slot="for", value="2 min")
        answer = self.client.post(
            f"{PAGE}/fill",
            data={"base": "1", "rule_id": "opening", "slot": "for", "value": "1 min"},
            headers={"HX-Request": "true"},
        )
        self.assertEqual(answer.status_code, 409)
        with self.assertRaises(RevisionConflict):
            save_change(self.app, "home1", 1, ANN, "late", lambda home: replace(home, rules=()))


class Finding(WithRules):
    def test_a_finding_stands_on_its_part_and_its_fix_is_accepted(self) -> None:
        self.change(replace(OPENING, for_s=0))
        page = self.get(f"{PAGE}?rule=opening")
        self.assertIn("It waits 0 s", self.text(page))
        self.assertIn("is-found", page.by_id("b-1-for")["class"])
        self.act("fix", check="no wait", part="for")
        self.assertEqual(self.rule().for_s, 120)
        self.act("fix", 422, check="no wait", part="for")

    def test_a_rule_on_what_was_taken_out_loads_is_found_and_replayed(self) -> None:
        _, base = self.app.homes.load("home1")
        save_change(
            self.app, "home1", base, ANN, "taken out", lambda home: replace(home, devices=(), notification_groups=())
        )
        lost = replace(
            OPENING,
            then=(
                SetLevel(zone_ids=("z-study", "z-gone"), level_id="lv-gone"),
                Switch(target_ids=("gone",), is_on=False),
            ),
        )
        self.change(lost)
        for path in (
            PAGE,
            f"{PAGE}?rule=opening",
            f"{PAGE}?pane=all",
            f"{PAGE}?pane=tune",
            f"{PAGE}/sheet",
            f"{PAGE}?rule=cold",
        ):
            with self.subTest(path):
                page = self.get(path)
        self.assertIn("not in this home any more", self.text(self.get(PAGE)))
        self.assertIn("something that is gone", self.text(page) + self.text(self.get(PAGE)))

    def test_what_was_never_heard_is_said_and_no_figure_stands_for_it(self) -> None:
        damp = Compared(of=Signal(quantity="relative_humidity", subject_id="study"), how="over", value=65.0)
        self.change(replace(OPENING, watch=((damp,),), put_back=None, kind="rule"))
        text = self.text(self.get(f"{PAGE}?rule=opening"))
        self.assertRegex(text, "No data was received of Study[^:]*humidity: what it would have done is not known")
        self.assertNotRegex(text, r"about 0\.0 kWh")
        self.assertIn("Triggered 8 times", text)

    def test_rules_that_run_in_a_circle_are_told_and_left_out(self) -> None:
        one = replace(OPENING, watch=((Fact(word="b"),),), for_s=0, then=(MarkFact(word="a"),), put_back=None)
        two = replace(one, id="two", name="Two", watch=((Fact(word="a"),),), then=(MarkFact(word="b"),))
        self.change(one, two)
        page = self.get(f"{PAGE}?rule=two")
        self.assertIn("it is not run", self.text(page))
        self.assertIn("Not replayed", self.text(page))
        self.assertEqual({r.id for r in in_order((one, two, COLD))[1]}, {"opening", "two"})

    def test_a_number_that_could_not_be_stored_is_refused_with_its_place(self) -> None:
        hot = SetPoint(zone_ids=("z-study",), value_c=99.0)
        home, base = self.app.homes.load("home1")
        changed = rule_edits.with_rule(home, replace(OPENING, then=(hot,)))
        with self.assertRaises(HomeError) as caught:
            save_change(self.app, "home1", base, ANN, "hot", becoming(changed))
        self.assertIn("then.0.value_c", str(caught.exception))
        self.assertIn("nothing was changed", str(caught.exception))
        with self.assertRaises(HomeError):
            rule_edits.with_new_rule(
                replace(home, rules=(OPENING,) * 1 + tuple(replace(OPENING, id=f"r{k}") for k in range(499))), OPENING
            )

    def test_a_contact_that_bounces_in_the_log_asks_for_a_longer_wait(self) -> None:
        self.assertNotIn("bounces", self.text(self.get(f"{PAGE}?rule=opening")))
        lines = ["time,Study window"]
        day = START + 7 * 86_400_000
        for k in range(31):  # it chatters for four minutes, then stays shut
            lines.append(f"{from_ms(day + k * 8_000):%Y-%m-%d %H:%M:%S},{'open' if k % 2 else 'closed'}")
        upload = logs.keep_upload(self.app, "bounce.csv", ["\n".join(lines).encode()])
        home, _ = self.app.homes.load("home1")
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)
        page = self.text(self.get(f"{PAGE}?rule=opening"))
        self.assertIn("It waits 3 min: an opening of less than 232 s would trigger it.", page)
        self.assertIn("In the log it bounces for up to 232 s.", page)
        self.act("fix", check="no wait", part="for")
        self.assertEqual(self.rule().for_s, 600)

    def test_findings_speak_in_the_homes_unit(self) -> None:
        _, base = self.app.homes.load("home1")
        cold = Compared(of=Signal(quantity="room_temperature", subject_id="study"), how="over", value=25.0)
        warm = replace(COLD, id="warm", watch=((cold,),), then=(SetPoint(zone_ids=("z-study",), value_c=35.0),))
        save_change(
            self.app,
            "home1",
            base,
            ANN,
            "units",
            lambda home: replace(home, temperature_unit="F", rules=(*home.rules, warm)),
        )
        page = self.text(self.get(f"{PAGE}?rule=warm"))
        self.assertIn("95 °F contradicts the limits of Study", page)  # 35 °C
        self.assertIn("It begins and ends 1.8 °F apart", page)  # 1 K, of the rule that is told when it is cold
        self.assertNotIn("°C", page)
        self.act("fix", rule_id="warm", check="contradiction", part="then.0.value")
        self.assertIn("take 86 °F", self.app.homes.revisions("home1")[0].summary)

    def test_a_time_that_the_clock_skips_or_doubles_is_told(self) -> None:
        skipped = replace(OPENING, watch=((AtTime(at_min=90),),), for_s=0, put_back=PutBack(at_min=90))
        home = replace(self.app.homes.load("home1")[0], rules=(skipped,))
        told = [f for f in rule_findings(home) if f.check == "clock change"]
        self.assertEqual([f.part for f in told], ["watch.0.0.at", "back_at"])
        self.assertIn("01:30 does not exist: it is taken at 02:00", told[0].sentence)
        for zone, minute, words in (
            ("America/Santiago", 0, "00:00 does not exist"),
            ("Australia/Lord_Howe", 105, "comes twice"),
            ("UTC", 90, ""),
        ):
            moved = replace(
                home, time_zone=zone, rules=(replace(skipped, watch=((AtTime(at_min=minute),),), put_back=None),)
            )
            sentences = [f.sentence for f in rule_findings(moved) if f.check == "clock change"]
            self.assertEqual(bool(sentences), bool(words), zone)
            self.assertIn(words, " ".join(sentences))

    def test_a_watch_that_never_held_in_weeks_is_noted(self) -> None:
        never = replace(COLD, id="never", name="Never", watch=((replace(BELOW, value=-20.0),),))
        self.change(never, never)
        home, _ = self.app.homes.load("home1")
        long = replay(self.app, home, START - 8 * 86_400_000, START + 7 * 86_400_000)
        told = with_never(Evidence(), home, long).never
        self.assertIn("never held", told["never"])
        self.assertNotIn("opening", told)
        short = replay(self.app, home, START, START + 7 * 86_400_000)
        self.assertEqual(with_never(Evidence(), home, short).never, {})

    def test_five_hundred_rules_are_shown(self) -> None:
        many = tuple(replace(COLD, id=f"r{k}", name=f"Rule {k}") for k in range(498))
        self.change(OPENING, *many)
        page = self.get(f"{PAGE}?rule=r497")
        self.assertIn("500 rules", self.text(page))


class Replaying(WithRules):
    WEEK = "from=2026-01-05&to=2026-01-11"

    def test_the_week_is_replayed_and_a_changed_slot_is_seen_at_once(self) -> None:
        page = self.get(f"{PAGE}?rule=opening&{self.WEEK}")
        self.assertIn("Triggered 7 times", self.text(page))
        self.assertIn("held 63 min in all, 9 min at the longest", self.text(page))
        self.act("fill", slot="for", value="10 min")
        self.assertIn("Was not triggered", self.text(self.get(f"{PAGE}?rule=opening&{self.WEEK}")))

    def test_a_fact_that_one_rule_marks_is_seen_on_the_strip_and_by_the_tuning_of_another(self) -> None:
        marks = replace(
            OPENING, id="marks", for_s=0, watch=((AtTime(at_min=60),),), then=(MarkFact(word="up"),), put_back=None
        )
        self.change(replace(OPENING, only_while=((Fact(word="up"),),)), marks)
        home, _ = self.app.homes.load("home1")
        found = replay(self.app, home, START, START + 7 * 86_400_000)
        self.assertEqual(len(found.rules["opening"].rule_run.firings), 7)
        guard = found.evaluator.clauses(home.rule("opening").only_while, 3600)
        self.assertEqual((guard.stretches()[0] - START).tolist(), [3_600_000])
        tuned_map = rule_tuning.tuned(home.rule("opening"), found.scope, rule_tuning.Goal(), "for", "back_for").map
        self.assertEqual(int(tuned_map.missed.min()), 0)

    def test_without_readings_it_says_what_to_read_in(self) -> None:
        for done in self.app.readings.imports("home1"):
            with self.app.engine.begin() as connection:
                self.app.readings.take_back("home1", done.id, 0, connection)
        self.assertIn("nothing to replay", self.text(self.get(PAGE)))

    def test_what_would_have_been_told_has_values_and_units(self) -> None:
        page = self.get(f"{PAGE}?rule=cold&{self.WEEK}")
        told = [text for text in page.texts if text.startswith("Study cold: ")]
        self.assertTrue(told)
        self.assertRegex(told[0], r"^Study cold: 1\d\.\d °C for \d+ (min|h)")

    def test_in_fahrenheit_it_is_told_in_fahrenheit(self) -> None:
        _, base = self.app.homes.load("home1")
        save_change(self.app, "home1", base, ANN, "°F", lambda home: replace(home, temperature_unit="F"))
        page = self.get(f"{PAGE}?rule=cold&{self.WEEK}")
        self.assertIn("64.4 °F", self.text(page))
        self.act("fill", rule_id="cold", slot="watch.0.0.value", value="65,3")
        condition = self.rule("cold").watch[0][0]
        assert isinstance(condition, Compared)
        self.assertAlmostEqual(condition.value, 18.5)

    def test_tuning_shows_a_map_and_takes_its_middle(self) -> None:
        self.change(replace(OPENING, for_s=0))
        path = f"{PAGE}?rule=opening&pane=tune&{self.WEEK}&over_min=5&needless=1"
        page = self.get(path)
        self.assertIn("7 to catch in 1.0 weeks", self.text(page))
        sent = [a for a in page.of("input") if a.get("name") in ("up", "across", "up_value", "across_value")]
        fields: dict[str, Any] = {a["name"]: a["value"] for a in sent}
        self.act("tune", **fields)
        self.assertTrue(60 <= self.rule().for_s < 600, self.rule().for_s)

    def test_tuning_against_marks_and_against_another_sensor(self) -> None:
        self.act("mark", start_day="2026-01-06", start_time="12:00", end_day="2026-01-06", end_time="12:20")
        self.act("mark", start_day="2026-01-07", start_time="12:00", end_day="2026-01-07", end_time="12:20")
        self.assertEqual(len(self.rule().marks), 2)
        self.assertIn(
            "2 to catch", self.text(self.get(f"{PAGE}?rule=opening&pane=tune&{self.WEEK}&against=marked&needless=9"))
        )
        self.assertIn("7 to catch", self.text(self.get(f"{PAGE}?rule=cold&pane=tune&{self.WEEK}&against=is_open:win")))
        self.act("unmark", start_ms=str(self.rule().marks[0].start_ms))
        self.assertEqual(len(self.rule().marks), 1)
        self.act("mark", 422, start_day="2026-01-06", start_time="12:00", end_day="2026-01-06", end_time="11:00")
        none = self.get(f"{PAGE}?rule=opening&pane=tune&from=2026-01-09&to=2026-01-10&against=marked")
        self.assertIn("nothing that the rule should catch", self.text(none))

    def test_a_long_sweep_is_a_job_whose_numbers_are_kept(self) -> None:
        path = f"{PAGE}?rule=opening&pane=tune&{self.WEEK}"
        short = self.text(self.get(path))
        most, rule_tuning.MOST_AT_ONCE = rule_tuning.MOST_AT_ONCE, 0
        self.addCleanup(setattr, rule_tuning, "MOST_AT_ONCE", most)
        asked = self.text(self.get(f"{path}&again=1"))
        self.assertIn("Try the settings", asked)
        self.assertIsNone(self.app.work.latest_of_kind("home1", "sweep"), "looking at a page begins nothing")
        sent = self.client.post(path.replace("/rules?", "/rules-sweep?"), follow_redirects=False)
        self.assertEqual(sent.status_code, 303)
        long = self.text(self.get(sent.headers["location"]))
        self.assertIn("In the middle", long)
        self.assertEqual(short.split("In the middle")[1][:120], long.split("In the middle")[1][:120])
        job = self.app.work.latest_of_kind("home1", "sweep")
        self.assertEqual(job and (job.state, job.sentence), ("done", job.sentence if job else ""))
        self.assertIsNotNone(job and self.app.work.result(job.id))
        # The same again asks nothing anew.
        self.get(path)
        self.assertEqual(self.app.work.latest_of_kind("home1", "sweep"), job)

    def test_a_fact_is_marked_by_a_person_from_an_instant_on(self) -> None:
        guarded = replace(OPENING, only_while=((Fact(word="guests are here", is_true=False),),))
        self.change(guarded)
        self.assertIn("guests are here", self.text(self.get(f"{PAGE}?pane=people")))
        data = {"word": "guests are here", "is_so": "true", "day": "2026-01-08", "time": "00:00"}
        self.client.post("/homes/home1/rules-fact", data=data)
        self.assertIn("Triggered 3 times, suppressed 4", self.text(self.get(f"{PAGE}?rule=opening&{self.WEEK}")))
        answer = self.client.post("/homes/home1/rules-fact", data={**data, "time": "soon"}, follow_redirects=False)
        self.assertIn("Nothing%20was%20marked", answer.headers["location"])

    def test_a_question_is_answered_by_a_person_and_what_follows_is_seen(self) -> None:
        question = Ask(
            group_id="all",
            text="Study is open. Leave it so?",
            answers=(AnswerChoice(label="shut", word="study may be shut"), AnswerChoice(label="leave it")),
            within_s=120,
            late_s=600,
        )
        asks = replace(OPENING, then=(question,))
        follows = Rule(
            id="follows", name="Follows", watch=((Fact(word="study may be shut"),),), then=(MarkFact(word="was shut"),)
        )
        self.change(asks, follows)
        home, _ = self.app.homes.load("home1")
        week = (START, START + 7 * 86_400_000)
        before = replay(self.app, home, *week)
        asked = before.rules["opening"].question
        assert asked is not None
        self.assertEqual((len(asked.asked), before.rules["follows"].rule_run.firings), (7, ()))
        pane = f"{PAGE}?pane=people&{self.WEEK}"
        self.assertIn("asked 7", self.text(self.get(pane)))
        clock = LocalClock(home.time_zone)
        at = clock.local(asked.asked[2] + 60_000)
        data = {"rule_id": "opening", "label": "shut", "day": str(at.date()), "time": at.strftime("%H:%M")}
        self.client.post("/homes/home1/rules-answer", data=data)
        self.client.post("/homes/home1/rules-answer", data={**data, "label": "leave it"})
        after = replay(self.app, home, *week)
        self.assertEqual(len(after.rules["follows"].rule_run.firings), 1)
        told = self.text(self.get(pane))
        self.assertIn("answered 1", told)
        self.assertIn("did not count: the question was answered before", told)
        self.assertEqual(told.count("did not count: the question"), 1, "of two answers in one minute the first counts")
        self.assertIn("“shut” after", self.text(self.get(f"{PAGE}?rule=opening&{self.WEEK}")))
        # What was entered by mistake is taken back, and nothing follows any more.
        number = self.app.events.of_kind("home1", ANSWER_EVENT)[0].id
        for words in ("is%20removed", "is%20not%20there"):
            gone = self.client.post(f"/homes/home1/rules-answer/{number}/remove", follow_redirects=False)
            self.assertIn(words, gone.headers["location"])
        for wrong in ({"time": "soon"}, {"label": "perhaps"}):
            sent = self.client.post("/homes/home1/rules-answer", data={**data, **wrong}, follow_redirects=False)
            self.assertIn("Nothing%20was%20kept", sent.headers["location"])

    def test_answers_of_a_question_are_written_in_its_sentence(self) -> None:
        self.act("add", what="step:ask")
        self.act("fill", slot="then.1.answer2", value="ask me later")
        self.act("fill", slot="then.1.marks2", value="asked to wait")
        self.act("fill", slot="then.1.none", value="asked to wait")
        self.act("fill", slot="then.1.within", value="5 min")
        rule = self.app.homes.load("home1")[0].rule("opening")
        question = rule.question
        assert question is not None
        self.assertEqual([a.label for a in question.answers], ["go ahead", "leave it", "ask me later"])
        self.assertEqual((question.word_of("ask me later"), question.none_word), ("asked to wait", "asked to wait"))
        self.assertEqual(question.within_s, 300)
        self.act("fill", slot="then.1.answer1", value="")
        self.act("fill", 422, slot="then.1.answer0", value="ASK me later")
        self.act("add", 422, what="step:ask")  # a rule asks one question
        rule = self.app.homes.load("home1")[0].rule("opening")
        self.assertEqual(
            [a.label for a in rule.question.answers] if rule.question else [], ["go ahead", "ask me later"]
        )
        sheet = self.text(self.get("/homes/home1/rules/sheet"))
        self.assertIn("Without an answer for 5 min: make “asked to wait” so", sheet)
        again = read_rules(rules_json(self.app.homes.load("home1")[0]))
        self.assertEqual(again.rules[0].question, rule.question)

    def test_chains_are_added_changed_and_taken_out(self) -> None:
        self.act(
            "chain", group_id="", name="Night watch", loudness="alarm", quiet_from="", quiet_until="", through="on"
        )
        home, _ = self.app.homes.load("home1")
        self.assertEqual([c.name for c in home.notification_groups], ["Everybody", "Night watch"])
        self.act("chain", 422, group_id="", name="Half", loudness="quiet", quiet_from="22:00", quiet_until="")
        self.act("chain", group_id="all", name="Everybody", loudness="quiet", quiet_from="21:00", quiet_until="8:30")
        self.assertEqual(self.app.homes.load("home1")[0].notification_groups[0].quiet_until_min, 510)
        self.act("chain-out", group_id="all")
        self.assertIn("not in this home any more", self.text(self.get(f"{PAGE}?rule=cold")))
        self.act("chain-out", 422, group_id="all")

    def test_signals_are_read_when_they_became_known(self) -> None:
        home, _ = self.app.homes.load("home1")
        end = START + 7 * 86_400_000
        power = track_of(self.app, home, Signal(quantity="electric_w", subject_id="washer"), START, end)
        raw = self.app.readings.readings(
            next(s.id for s in self.app.readings.series("home1") if s.record.quantity == "electric_w")
        )
        # A mean over a step is known at the step's end.
        self.assertEqual(int(power.at_ms[0] - raw.at_ms[0]) % 1000, 0)
        self.assertGreater(int(power.at_ms[0]), int(raw.at_ms[0]))
        price = track_of(self.app, home, Signal(quantity="price"), START, START + 86_400_000)
        self.assertEqual(sorted(set(price.value.tolist())), [0.1, 0.3])
        nothing = track_of(self.app, home, Signal(quantity="relative_humidity", subject_id="study"), START, end)
        self.assertEqual(nothing.at_ms.size, 0)
        scope = scope_of(self.app, home, [c for rule in home.rules for c in rule.conditions], START, end)
        self.assertEqual(set(scope.tracks), {OPEN.of, BELOW.of})
        found = replay(self.app, home, START, end)
        self.assertEqual(len(found.rules["opening"].rule_run.firings), 7)


class HandingOver(WithRules):
    def test_the_sheet_tells_temperatures_times_and_what_stands_below(self) -> None:
        text = self.text(self.get(f"{PAGE}/sheet"))
        self.assertIn("at the moment when Study window changes to open, and that for 3 min without a break", text)
        self.assertIn("set Study to 16.0 °C (Asleep)", text)
        self.assertIn("never for an old number", text)

    def test_rules_go_out_and_come_in_with_their_chains(self) -> None:
        answer = self.client.get("/homes/home1/rules.json")
        document = json.loads(answer.content)
        self.assertEqual((document["format"], len(document["rules"])), ("warmeter-rules/2", 2))
        _, base = self.app.homes.load("home1")
        sent = self.client.post(
            f"{PAGE}/read", data={"base": str(base)}, files={"file": ("r.json", answer.content)}, follow_redirects=False
        )
        self.assertEqual(sent.status_code, 303)
        home, _ = self.app.homes.load("home1")
        self.assertEqual((len(home.rules), len(home.notification_groups)), (4, 1))
        self.assertEqual(len({r.id for r in home.rules}), 4)

    def test_a_chain_of_a_file_that_the_home_has_not_is_added_and_told(self) -> None:
        content = read_rules(self.client.get("/homes/home1/rules.json").content)
        home, _ = self.app.homes.load("home1")
        # Its id is that of something else here.
        other = NotificationGroup(id="win", name="Neighbours")
        told = replace(COLD, then=(Tell(group_id="win"),))
        made = with_rules_of(home, replace(content, rules=(told,), notification_groups=(other,)))
        added = made.notification_groups[-1]
        self.assertEqual((added.name, len(made.notification_groups)), ("Neighbours", 2))
        self.assertNotIn(added.id, {part.id for part in home.parts()})
        step = next(rule for rule in made.rules if rule not in home.rules).then[0]
        self.assertEqual(getattr(step, "group_id", ""), added.id)

    def test_a_file_of_the_first_format_still_comes_in(self) -> None:
        older = json.loads((DATA / "homes" / "warmeter-home-6.json").read_text(encoding="utf-8"))
        content = {"home": "X", "format": "warmeter-rules/1", "rules": older["rules"]}
        content["tell_chains"] = older["tell_chains"]
        home = home_from_json(json.dumps(older))
        found = read_rules(json.dumps(content).encode())
        self.assertEqual((found.rules, found.notification_groups), (home.rules, home.notification_groups))
        with self.assertRaisesRegex(HomeError, "warmeter-rules/1"):
            read_rules(json.dumps({**content, "rules": [{"name": "no steps"}]}).encode())

    def test_a_file_that_cannot_be_read_changes_nothing_and_says_where(self) -> None:
        good = json.loads(self.client.get("/homes/home1/rules.json").content)
        broken = json.loads(json.dumps(good))
        broken["rules"][0]["for_s"] = "three"
        for content, words in (
            (b"{", "no JSON"),
            (b"", "empty"),
            (json.dumps({**good, "format": "warmeter-rules/0"}).encode(), "warmeter-rules/0"),
            (json.dumps({**good, "colour": 1}).encode(), "colour"),
            (json.dumps(broken).encode(), "rules.0.for_s"),
        ):
            _, base = self.app.homes.load("home1")
            sent = self.client.post(
                f"{PAGE}/read", data={"base": str(base)}, files={"file": ("r.json", content)}, follow_redirects=True
            )
            with self.subTest(words):
                self.assertIn(words, sent.text)
                self.assertEqual(len(self.app.homes.load("home1")[0].rules), 2)


class Doing(unittest.TestCase):
    """Deeds, claims and notices of a life written by hand."""

    HOME = ruled_home()
    CLOCK = LocalClock("Europe/London")

    def test_put_back_releases_the_claim_and_cancels_what_was_to_come(self) -> None:
        rule = replace(OPENING, then=(*OPENING.then, Tell(group_id="all", text="open", wait_s=600)))
        rule_run = RuleRun(firings=(Firing(START, START + 300_000, "when"), Firing(START + 3_600_000, None)))
        deeds = action_runs_of(rule, rule_run)
        self.assertEqual(
            [(d.step.kind, d.until_ms) for d in deeds],
            [("set_level", START + 300_000), ("set_level", None), ("tell", None)],
        )
        claims = zone_claims(self.HOME, self.HOME.zones[0], rule, rule_run, self.CLOCK, end_ms=START + 86_400_000)
        self.assertEqual(
            [(c.from_ms, c.until_ms) for c in claims], [(START, START + 300_000), (START + 3_600_000, None)]
        )
        self.assertTrue(all(c.kind == "window_lock" and 80 < c.strength < 81 for c in claims))

    def test_a_higher_rule_of_a_kind_is_stronger(self) -> None:
        two = replace(self.HOME, rules=(OPENING, replace(OPENING, id="b")))
        rule_run = RuleRun(firings=(Firing(START, None),))
        first, second = (
            zone_claims(two, two.zones[0], rule, rule_run, self.CLOCK, end_ms=START + 1)[0] for rule in two.rules
        )
        self.assertGreater(first.strength, second.strength)

    def test_reminders_wait_for_the_end_of_quiet_hours_but_safety_does_not(self) -> None:
        night = parse_utc("2026-01-05T23:00:00Z")
        rule_run = RuleRun(firings=(Firing(night, night + 12 * 3_600_000, "when"),))
        told = notifications_of(COLD, rule_run, self.HOME.notification_groups, self.CLOCK, night + 86_400_000)
        self.assertEqual([(n.at_ms - night) // 3_600_000 for n in told], [8, 9, 10])
        self.assertTrue(told[0].is_late and told[1].is_again)
        urgent = notifications_of(
            replace(COLD, kind="safety"), rule_run, self.HOME.notification_groups, self.CLOCK, night + 86_400_000
        )
        self.assertEqual(len(urgent), 12)
        self.assertEqual(urgent[0].at_ms, night)

    def test_what_one_rule_marks_another_sees(self) -> None:
        first = replace(
            OPENING, id="one", for_s=0, watch=((AtTime(at_min=60),),), then=(MarkFact(word="x"),), put_back=None
        )
        second = replace(first, id="two", watch=((Fact(word="x"),),), then=(MarkFact(word="y"),))
        scope = Scope(start_ms=START, end_ms=START + 86_400_000, clock=LocalClock("UTC"))
        found = rule_runs_of((second, first), scope)
        self.assertEqual([f.at_ms - START for f in found.rule_runs["two"].firings], [3_600_000])
        seen = found.evaluator.truth(Fact(word="y"), 3600)
        self.assertEqual((seen.stretches()[0] - START).tolist(), [3_600_000])


def first_fall_s(at_s: np.ndarray, celsius: np.ndarray, drop_k: float) -> float | None:
    """Return when a rule on a fall within ten minutes would first fire [s]."""
    track = Track((1000 * at_s).astype(np.int64), celsius)
    truth = moving(track, by=drop_k, within_ms=600_000, is_rising=False, start_ms=0, end_ms=int(track.at_ms[-1]) + 1)
    begins = truth.stretches(TRUE)[0]
    return float(begins[0]) / 1000 if begins.size else None


class Measuring(unittest.TestCase):
    def test_a_fall_told_lies_beyond_what_a_shut_room_does(self) -> None:
        rng = np.random.default_rng(5)
        at = 60.0 * np.arange(2000, dtype=np.float64)
        # A shut room loses 0.6 K in an hour, half a kelvin more in the ten minutes after its heater goes off.
        temperature = 20 - 0.01 * (np.arange(2000) % 60) + rng.normal(0, 0.05, 2000)
        drop = usual_drop_k(at, temperature, np.ones(2000, dtype=bool), noise_k=0.05, window_s=600)
        self.assertTrue(0.2 < drop < 0.6, drop)
        self.assertIsNone(first_fall_s(at[:59], temperature[:59], drop))
        opened = np.where(np.arange(59) > 30, temperature[:59] - 0.15 * (np.arange(59) - 30), temperature[:59])
        told = first_fall_s(at[:59], opened, drop)
        assert told is not None
        self.assertTrue(30 * 60 < told < 36 * 60, told)
        self.assertEqual(usual_drop_k(at, temperature, np.zeros(2000, dtype=bool), noise_k=0.05, window_s=600), 0.2)

    def test_noise_is_found_under_a_slow_wave(self) -> None:
        rng = np.random.default_rng(3)
        at = START + np.arange(3000, dtype=np.int64) * 300_000
        wave = 20 + 2 * np.sin(np.arange(3000) / 60)
        found = noise_of(Track(at, wave + rng.normal(0, 0.15, 3000)))
        assert found is not None
        self.assertTrue(0.13 < found < 0.18, found)
        # A sensor that tells tenths only is at least a third of a tenth unsure.
        steps = noise_of(Track(at, np.round(wave, 1)))
        assert steps is not None
        self.assertGreaterEqual(steps, 0.1 / 3 - 1e-9)
        self.assertIsNone(noise_of(Track(at[:50], wave[:50])))
