"""Rules at work: what fires, what holds back, what ends, on stretches short enough to work out by hand."""

import unittest
from dataclasses import replace

from tests.rules_at_work import IDLE, NOON, OPEN, SHUT, WINDOW, AtWork, H, rule, scope, track
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, SetPoint, Suspension, Tell, TimedRun
from warmeter.core.truth.scope import Scope


class Openings(AtWork):
    """An opening, then Idle, put back when it is closed."""

    LOG = track((0, 0), (600, 1), (780, 0), (3600, 1), (4200, 0), (4260, 1), (4300, 0))

    def test_it_fires_after_its_wait_and_is_put_back_after_the_other(self) -> None:
        one = rule(for_s=180, put_back=PutBack(when=SHUT, for_s=120), limits=RuleLimits(stale_s=86_400))
        # Open for exactly three minutes is not longer than three; shut at 4200 s lasts only a minute, from 4300 s on it lasts.
        self.assertEqual(self.fired(one, scope(tracks={WINDOW: self.LOG})), [(3780, 4420, "when")])

    def test_without_a_wait_every_bounce_fires(self) -> None:
        one = rule(put_back=PutBack(when=SHUT), limits=RuleLimits(stale_s=86_400))
        found = self.fired(one, scope(tracks={WINDOW: self.LOG}))
        self.assertEqual(found, [(600, 780, "when"), (3600, 4200, "when"), (4260, 4300, "when")])

    def test_while_it_holds_a_second_opening_is_ignored_or_begins_anew(self) -> None:
        one = rule(put_back=PutBack(after_s=3000), limits=RuleLimits(stale_s=86_400))
        log = scope(tracks={WINDOW: track((0, 0), (600, 1), (700, 0), (1200, 1), (1300, 0))})
        self.assertEqual(self.fired(one, log), [(600, 3600, "after")])
        self.assertEqual(self.live(one, log).ignored_ms, (NOON + 1_200_000,))
        again = replace(one, is_restarted=True)
        self.assertEqual(self.fired(again, log), [(600, 1200, "restarted"), (1200, 4200, "after")])

    def test_only_while_is_looked_at_when_it_fires(self) -> None:
        hours: Clauses = ((Hours(from_min=14 * 60, until_min=20 * 60),),)
        log = scope(tracks={WINDOW: track((0, 0), (H, 1), (3 * H, 0), (4 * H, 1))})
        one = rule(only_while=hours, put_back=PutBack(when=SHUT), limits=RuleLimits(stale_s=86_400))
        self.assertEqual(self.held_back(one, log), [(H, "only_while")])
        self.assertEqual(self.fired(one, log), [(4 * H, None, "")])
        # The state meant: as soon as both hold, at two o'clock.
        state = replace(one, reading="is")
        self.assertEqual(self.fired(state, log), [(2 * H, 3 * H, "when"), (4 * H, None, "")])
        self.assertEqual(self.held_back(state, log), [(H, "only_while")])

    def test_as_long_as_must_go_on_to_hold(self) -> None:
        one = rule(as_long_as=((Hours(from_min=12 * 60, until_min=14 * 60),),), limits=RuleLimits(stale_s=86_400))
        log = scope(tracks={WINDOW: track((0, 0), (H, 1), (3 * H, 0), (4 * H, 1))})
        self.assertEqual(self.fired(one, log), [(H, 2 * H, "as_long_as")])
        self.assertEqual(self.held_back(one, log), [(4 * H, "as_long_as")])

    def test_a_guard_that_is_not_known_does_not_let_it_fire(self) -> None:
        one = rule(only_while=((InState(of=Signal(quantity="presence")),),))
        log = scope(tracks={WINDOW: track((0, 0), (600, 1))})
        self.assertEqual(self.held_back(one, log), [(600, "only_while")])

    def test_a_contact_found_open_at_the_start_has_not_opened(self) -> None:
        log = scope(tracks={WINDOW: track((0, 1))})
        self.assertEqual(self.fired(rule(), log), [])
        self.assertEqual(self.fired(rule(reading="is", put_back=PutBack(when=SHUT)), log), [(0, None, "")])

    def test_two_contacts_one_open_fires_and_all_shut_puts_back(self) -> None:
        door = Signal(quantity="is_open", subject_id="door")
        one = rule(
            ((InState(of=WINDOW), InState(of=door)),),
            put_back=PutBack(when=((InState(of=WINDOW, is_on=False),), (InState(of=door, is_on=False),))),
            limits=RuleLimits(stale_s=86_400),
        )
        log = scope(tracks={WINDOW: track((0, 0), (600, 1), (900, 0)), door: track((0, 0), (700, 1), (1500, 0))})
        self.assertEqual(self.fired(one, log), [(600, 1500, "when")])


class InCheck(AtWork):
    """Limits: minimum times, so many a day, cooling off, locking, suspending."""

    def opened_at(self, *minutes: float) -> Scope:
        """Return a window that opens for half a minute at each of some minutes."""
        reports = [(0.0, 0.0)] + [(m * 60 + s, v) for m in minutes for s, v in ((0.0, 1.0), (30.0, 0.0))]
        return scope(30, tracks={WINDOW: track(*reports)})

    def limited(self, **limits: object) -> Rule:
        return rule(put_back=PutBack(when=SHUT), limits=replace(RuleLimits(stale_s=7 * 86_400), **limits))  # type: ignore[arg-type]

    def test_it_stands_and_rests_at_least_so_long(self) -> None:
        log = self.opened_at(10, 12)
        self.assertEqual(self.fired(self.limited(min_on_s=300), log), [(600, 900, "when")])
        # Rest of three minutes is over at 810 s; the second opening was over before.
        rest = self.limited(min_off_s=180)
        self.assertEqual(self.fired(rest, log), [(600, 630, "when")])
        self.assertEqual(self.held_back(rest, log), [(720, "min_off")])
        long = scope(tracks={WINDOW: track((0, 0), (600, 1), (630, 0), (720, 1))})
        self.assertEqual(self.fired(rest, long), [(600, 630, "when"), (810, None, "")])

    def test_so_many_a_day_by_the_homes_clock(self) -> None:
        one, log = self.limited(most_a_day=1), self.opened_at(10, 30, 12 * 60 + 10)
        self.assertEqual([at for at, _, _ in self.fired(one, log)], [600, 12 * H + 600])
        self.assertEqual(self.held_back(one, log), [(1800, "most_a_day")])

    def test_cooling_off(self) -> None:
        one, log = self.limited(cool_off_s=1200), self.opened_at(10, 20, 31)
        self.assertEqual([at for at, _, _ in self.fired(one, log)], [600, 1860])
        self.assertEqual(self.held_back(one, log), [(1200, "cool_off")])

    def test_the_fourth_start_in_ten_minutes_locks_it_but_never_a_safety_rule(self) -> None:
        log = self.opened_at(1, 3, 5, 7, 30, 68)
        self.assertEqual([at for at, _, _ in self.fired(self.limited(), log)], [60, 180, 300, 4080])
        self.assertEqual(self.held_back(self.limited(), log), [(420, "chatter"), (1800, "locked")])
        safe = replace(self.limited(), kind="safety")
        self.assertEqual(len(self.fired(safe, log)), 6)

    def test_nothing_fires_twice_within_a_minute(self) -> None:
        self.assertEqual(self.held_back(self.limited(), self.opened_at(10, 10.75)), [(645, "too_soon")])

    def test_suspended_until_says_so(self) -> None:
        one = replace(
            self.limited(), suspended=Suspension(from_ms=NOON, until_ms=NOON + 1_000_000, by="Ada", why="painting")
        )
        self.assertEqual(self.held_back(one, self.opened_at(10, 20)), [(600, "suspended")])
        self.assertEqual(len(self.fired(one, self.opened_at(10, 20))), 1)

    def test_it_is_put_back_at_a_clock_time_or_after_so_long_whichever_is_first(self) -> None:
        log = self.opened_at(10)
        at_three = replace(self.limited(), put_back=PutBack(at_min=15 * 60, after_s=7 * H))
        self.assertEqual(self.fired(at_three, log), [(600, 3 * H, "at")])
        with self.assertRaises(HomeError):
            PutBack()

    def test_a_timed_run_ends_by_its_hard_stop(self) -> None:
        one = rule(then=(TimedRun(target_ids=("tap",), for_s=900, wait_s=10),), limits=RuleLimits(stale_s=86_400))
        self.assertEqual(self.fired(one, self.opened_at(10)), [(600, 1510, "done")])


class Documents(unittest.TestCase):
    def test_a_setpoint_is_one_of_both(self) -> None:
        with self.assertRaises(HomeError):
            SetPoint(zone_ids=("z",), value_c=20.0, change_k=1.0)

    def test_a_rule_names_its_targets_once_and_all_it_looks_at(self) -> None:
        one = rule(then=(*IDLE, *IDLE, Tell(group_id="all")), put_back=PutBack(when=SHUT), only_while=((Dark(),),))
        self.assertEqual(one.target_ids, ("kitchen", "all"))
        self.assertEqual(one.conditions, (OPEN[0][0], Dark(), SHUT[0][0]))
