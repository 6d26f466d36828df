"""Motion read in as a witness that somebody is in, for rooms of each kind; and what the log never held."""

import unittest
from dataclasses import replace

from tests.homes import small_home
from tests.served import fresh_app
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import RoomUse
from warmeter.core.home.rules import Rule, SetLevel
from warmeter.core.timegrid import parse_utc
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.service.rules.replays import replay
from warmeter.service.rules.rule_evidence import evidence_of
from warmeter.service.rules.rule_signals import scope_of, track_of

ANN = Person("Ann")
START = parse_utc("2026-01-14T08:00:00Z")
IN = Signal(quantity="is_in", subject_id="study")
CSV = "time,Motion (motion)\n2026-01-14T08:00:00Z,0\n2026-01-14T09:00:00Z,1\n2026-01-14T09:02:00Z,0\n2026-01-14T15:00:00Z,0\n"


class Motion(unittest.TestCase):
    def home(self, use: RoomUse) -> Home:
        base = small_home()
        motion = Device(id="motion", name="Motion", kind="motion", room_id="study")
        empty = Rule(
            id="empty",
            name="Empty",
            watch=((InState(of=IN, is_on=False),),),
            then=(SetLevel(zone_ids=(base.zones[0].id,), level_id=base.levels[-1].id),),
        )
        return replace(
            base, rooms=(replace(base.rooms[0], use=use), *base.rooms[1:]), devices=(motion,), rules=(empty,)
        )

    def read_in(self, use: RoomUse) -> Home:
        self.app = fresh_app()
        editing.create_home(self.app, self.home(use), ANN)
        return self.take(CSV)

    def take(self, text: str) -> Home:
        home, _ = self.app.homes.load("home1")
        upload = logs.keep_upload(self.app, "motion.csv", [text.encode()])
        plan = logs.proposal(self.app, home, upload).suggested
        columns = tuple(
            replace(c, quantity="is_moving", unit="1", kind="held", stamp="instant", subject="motion")
            for c in plan.columns
        )
        logs.take(self.app, "home1", upload, replace(plan, columns=columns), ANN)
        return self.app.homes.load("home1")[0]

    def test_a_kitchen_is_empty_ten_minutes_after_the_last_motion(self) -> None:
        home = self.read_in("kitchen")
        track = track_of(self.app, home, IN, START, START + 8 * 3_600_000)
        rows = [((t - START) / 60_000, v) for t, v in zip(track.at_ms.tolist(), track.value.tolist(), strict=True)]
        known = [(t, v) for t, v in rows if v == v]
        self.assertEqual(known, [(0, 0.0), (60, 1.0), (72, 0.0)])

    def test_in_a_bedroom_a_sleeper_who_keeps_still_is_never_nobody(self) -> None:
        home = self.read_in("sleeping")
        track = track_of(self.app, home, IN, START, START + 8 * 3_600_000)
        self.assertIn(1.0, track.value.tolist())
        self.assertNotIn(0.0, track.value.tolist())

    def test_a_rule_on_presence_hears_it_and_one_on_what_was_never_read_in_is_told(self) -> None:
        home = self.read_in("kitchen")
        self.assertEqual(evidence_of(self.app, home).unheard, frozenset())
        scope = scope_of(
            self.app, home, [c for rule in home.rules for c in rule.conditions], START, START + 8 * 3_600_000
        )
        self.assertGreaterEqual(scope.stale_ms(IN, 3600), 6 * 3_600_000)
        deaf = replace(home.rules[0], watch=((InState(of=Signal(quantity="is_in", subject_id="hall")),),))
        self.assertEqual(
            evidence_of(self.app, replace(home, rules=(deaf,))).unheard,
            frozenset((Signal(quantity="is_in", subject_id="hall"),)),
        )

    def test_a_replay_is_worked_out_once_and_anew_after_readings_that_came_in_and_were_taken_back(self) -> None:
        home = self.read_in("kitchen")
        span = START, START + 16 * 3_600_000
        first = replay(self.app, home, *span)
        again = replay(self.app, self.app.homes.load("home1")[0], *span)
        self.assertIs(first.rules["empty"].rule_run, again.rules["empty"].rule_run)
        firings = len(first.rules["empty"].rule_run.firings)
        home = self.take(
            "time,Motion (motion)\n2026-01-14T15:30:00Z,1\n2026-01-14T15:32:00Z,0\n2026-01-14T20:00:00Z,0\n"
        )
        self.assertEqual(len(replay(self.app, home, *span).rules["empty"].rule_run.firings), firings + 1)
        editing.undo(self.app, "home1", self.app.homes.load("home1")[1], ANN)
        back = replay(self.app, self.app.homes.load("home1")[0], *span)
        self.assertEqual(len(back.rules["empty"].rule_run.firings), firings)

    def test_a_signal_drawn_beside_is_heard_though_the_rules_were_looked_at_without_it(self) -> None:
        home = self.read_in("kitchen")
        span, moving = (START, START + 8 * 3_600_000), Signal(quantity="is_moving", subject_id="motion")
        without = replay(self.app, home, *span)
        self.assertEqual(without.evaluator.heard(moving, 3600).at_ms.size, 0)
        beside = replay(self.app, home, *span, [moving])
        self.assertGreater(beside.evaluator.heard(moving, 3600).at_ms.size, 0)
        self.assertEqual(beside.rules, without.rules)


if __name__ == "__main__":
    unittest.main()
