"""Rules at work: what fires, what holds back, what ends, on stretches short enough to work out by hand."""

import unittest
from dataclasses import replace

import numpy as np

from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.dates import Dates
from warmeter.core.home.conditions.evening import Evening
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.happens import Happens
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.machine_does import MachineDoes
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.ran_today import RanToday
from warmeter.core.home.conditions.sequence import Clauses, Sequence
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.home.machines import ToldSetting
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, SetLevel, SetPoint, Suspension, Tell, TimedRun
from warmeter.core.rule.chatter import chatter
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.notifications import notices, quiet_by_clock
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.scope import LevelLine, Marks, Scope
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth, all_of, any_of, from_changes, held

WINDOW = Signal(quantity="is_open", subject_id="window")
ROOM = Signal(quantity="room_temperature", subject_id="kitchen")
POWER = Signal(quantity="electric_w", subject_id="washer")
NOON = parse_utc("2026-01-14T12:00:00Z")
MIN, H = 60, 3600
IDLE = (SetLevel(zone_ids=("kitchen",), level_id="idle"),)
OPEN: Clauses = ((InState(of=WINDOW),),)
SHUT: Clauses = ((InState(of=WINDOW, is_on=False),),)


def track(*reports: tuple[float, float]) -> Track:
    """Return reports given in seconds after noon."""
    return Track(
        np.array([NOON + round(1000 * at) for at, _ in reports], dtype=np.int64),
        np.array([value for _, value in reports], dtype=float),
    )


def scope(hours: float = 6, zone: str = "Europe/London", **parts: object) -> Scope:
    """Return a stretch from noon on."""
    base = Scope(start_ms=NOON, end_ms=NOON + round(hours * H * 1000), clock=LocalClock(zone), latitude_deg=52.0)
    return replace(base, **parts)  # type: ignore[arg-type]


def rule(watch: Clauses = OPEN, **parts: object) -> Rule:
    """Return a rule that sets Idle."""
    return replace(Rule(id="r", name="Opening", watch=watch, then=IDLE), **parts)  # type: ignore[arg-type]


class AtWork(unittest.TestCase):
    def live(self, one: Rule, at: Scope) -> RuleRun:
        """Return the life by the fast evaluator, having seen that the plain one tells the same."""
        fast = rule_run_of(one, ConditionEvaluator(at))
        self.assertEqual(fast, interpret(one, at))
        return fast

    def fired(self, one: Rule, at: Scope) -> list[tuple[float, float | None, str]]:
        """Return firings in seconds after noon."""
        return [
            ((f.at_ms - NOON) / 1000, None if f.end_ms is None else (f.end_ms - NOON) / 1000, f.why)
            for f in self.live(one, at).firings
        ]

    def held_back(self, one: Rule, at: Scope) -> list[tuple[float, str]]:
        return [((h.at_ms - NOON) / 1000, h.why) for h in self.live(one, at).held_back]

    def told(self, condition: Condition, at: Scope, stale_s: int = 36_000) -> list[tuple[float, int]]:
        """Return a condition's changes in seconds after noon."""
        truth = ConditionEvaluator(at).truth(condition, stale_s)
        return [((int(t) - NOON) / 1000, int(v)) for t, v in zip(truth.at_ms, truth.value, strict=True)]


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


class Silence(AtWork):
    def test_a_sensor_that_dies_while_open_is_kept_or_put_back(self) -> None:
        log = scope(tracks={WINDOW: track((0, 0), (600, 1))})
        one = rule(put_back=PutBack(when=SHUT), limits=RuleLimits(stale_s=1800))
        self.assertEqual(self.fired(one, log), [(600, None, "")])
        safe = replace(one, limits=RuleLimits(stale_s=1800, when_stale="put_back"))
        self.assertEqual(self.fired(safe, log), [(600, 2400, "stale")])

    def test_the_wait_begins_anew_after_silence(self) -> None:
        log = scope(tracks={WINDOW: track((0, 0), (600, 1), (4000, 1), (4900, 1), (5800, 1))})
        one = rule(for_s=2400, limits=RuleLimits(stale_s=1000))
        # Known open from 600 s to 1600 s, then from 4000 s on; 4000 + 2400 = 6400 s.
        self.assertEqual(self.fired(one, log), [(6400, 6400, "done")])

    def test_silent_is_told_after_the_last_report_and_never_by_a_report_at_the_very_end(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 20.0), (600, 20.0), (1800, 20.0))})
        self.assertEqual(
            self.told(Silent(of=ROOM, for_s=600), log), [(0, FALSE), (1200, TRUE), (1800, FALSE), (2400, TRUE)]
        )

    def test_reports_without_a_value_are_none(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 20.0), (600, float("nan")))})
        self.assertEqual(self.told(InState(of=ROOM), log, stale_s=900), [(0, TRUE), (900, UNKNOWN)])


class Quantities(AtWork):
    def test_over_begins_at_the_value_and_ends_by_the_hysteresis(self) -> None:
        values = (54, 55, 53, 52.5, 52, 54, 55.5)
        log = scope(2, tracks={ROOM: track(*((k * 600, v) for k, v in enumerate(values)))})
        over = Compared(of=ROOM, how="over", value=55, hysteresis=3)
        self.assertEqual(self.told(over, log), [(0, FALSE), (600, TRUE), (2400, FALSE), (3600, TRUE)])
        bare = replace(over, hysteresis=0.0)
        self.assertEqual(self.told(bare, log), [(0, FALSE), (600, TRUE), (1200, FALSE), (3600, TRUE)])

    def test_under_and_between(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 22), (600, 19), (1200, 20), (1800, 24))})
        self.assertEqual(
            self.told(Compared(of=ROOM, how="under", value=19, hysteresis=1), log),
            [(0, FALSE), (600, TRUE), (1200, FALSE)],
        )
        self.assertEqual(
            self.told(Compared(of=ROOM, how="between", value=19.5, high=22), log),
            [(0, TRUE), (600, FALSE), (1200, TRUE), (1800, FALSE)],
        )
        with self.assertRaises(HomeError):
            Compared(of=ROOM, how="between", value=20)

    def test_a_difference_is_known_only_where_both_are(self) -> None:
        bath = Signal(quantity="room_temperature", subject_id="bath")
        log = scope(1, tracks={ROOM: track((0, 24), (1200, 21)), bath: track((600, 20))})
        c = Compared(of=ROOM, minus=bath, how="over", value=3)
        self.assertEqual(self.told(c, log), [(0, UNKNOWN), (600, TRUE), (1200, FALSE)])

    def test_rising_within_a_window_of_irregular_reports(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 20.0), (200, 20.1), (500, 20.4), (600, 20.5), (900, 20.5))})
        c = Moving(of=ROOM, how="rising", by=0.5, within_s=600)
        self.assertEqual(self.told(c, log), [(0, FALSE), (600, TRUE), (900, FALSE)])
        self.assertEqual(self.told(replace(c, how="falling"), log), [(0, FALSE)])


class Clock(AtWork):
    def test_hours_over_midnight_belong_to_the_day_they_begin_on(self) -> None:
        night = Hours(from_min=22 * 60, until_min=6 * 60, weekdays=(2,))  # 14 January 2026 is a Wednesday
        self.assertEqual(self.told(night, scope(48)), [(0, FALSE), (10 * H, TRUE), (18 * H, FALSE)])

    def test_a_time_that_the_clock_skips_is_the_first_instant_after(self) -> None:
        start = parse_utc("2026-03-29T00:00:00Z")
        log = scope(start_ms=start, end_ms=start + 6 * H * 1000)
        truth = ConditionEvaluator(log).truth(AtTime(at_min=90), 60)
        # 01:30 does not exist in London that night; the clock goes from 01:00 to 02:00 at 01:00 UTC.
        self.assertEqual(((truth.stretches()[0] - start) // 1000).tolist(), [H])

    def test_a_time_that_comes_twice_counts_once(self) -> None:
        start = parse_utc("2026-10-24T23:00:00Z")
        log = scope(start_ms=start, end_ms=start + 6 * H * 1000)
        truth = ConditionEvaluator(log).truth(AtTime(at_min=90), 60)
        self.assertEqual(((truth.stretches()[0] - start) // 1000).tolist(), [90 * MIN])

    def test_dates_over_the_new_year(self) -> None:
        winter = Dates(from_month=11, from_day=1, until_month=1, until_day=14)
        self.assertEqual(self.told(winter, scope(24)), [(0, TRUE), (12 * H, FALSE)])

    def test_an_evening_lasts_past_midnight(self) -> None:
        evening = Evening(which="clock", clock_min=21 * 60, until_min=60)
        self.assertEqual(self.told(evening, scope(24)), [(0, FALSE), (9 * H, TRUE), (13 * H, FALSE)])
        with self.assertRaises(HomeError):
            Evening(which="first")

    def test_it_is_dark_at_midnight_and_light_at_noon(self) -> None:
        dark = self.told(Dark(), scope(24))
        self.assertEqual([value for _, value in dark], [FALSE, TRUE, FALSE])
        # 52° north in mid January: the sun sets soon after four.
        self.assertTrue(4 * H < dark[1][0] < 4.5 * H, dark)

    def test_a_level_is_that_of_the_timetable(self) -> None:
        line = LevelLine(np.array([NOON - 1, NOON + 3_600_000]), ("in-use", "idle"))
        log = scope(2, levels={"kitchen": line})
        self.assertEqual(self.told(AtLevel(zone_id="kitchen", level_ids=("idle",)), log), [(0, FALSE), (H, TRUE)])
        self.assertEqual(self.told(AtLevel(zone_id="gone", level_ids=("idle",)), log), [(0, UNKNOWN)])


class FactsAndEvents(AtWork):
    def test_a_sequence_is_told_unless_the_third_comes(self) -> None:
        motion, door = Signal(quantity="motion", subject_id="m"), Signal(quantity="is_open", subject_id="d")
        leaves = Sequence(
            first=InState(of=motion), then=InState(of=door), within_s=60, unless=InState(of=motion), cancel_s=300
        )
        tracks = {
            motion: track((0, 0), (600, 1), (620, 0), (2000, 1), (2010, 0), (2200, 1), (2210, 0)),
            door: track((0, 0), (640, 1), (650, 0), (2030, 1), (2040, 0)),
        }
        # The second time somebody moves again inside: nobody has left.
        self.assertEqual(self.told(leaves, scope(2, tracks=tracks))[:2], [(0, FALSE), (940, TRUE)])
        self.assertEqual(len(self.told(leaves, scope(2, tracks=tracks))), 3)

    def test_a_machine_runs_through_its_pauses_and_finishes_once(self) -> None:
        setting = ToldSetting(tells="finished", threshold_w=5, wait_s=300)
        power = track((0, 1), (600, 400), (900, 2), (1100, 400), (1500, 2), (7000, 2))
        log = scope(2, tracks={POWER: power}, settings={("washer", "finished"): setting})
        runs = MachineDoes(appliance_id="washer", does="runs")
        self.assertEqual(self.told(runs, log), [(0, FALSE), (600, TRUE), (1800, FALSE)])
        finished = MachineDoes(appliance_id="washer", does="finished")
        self.assertEqual(self.told(finished, log), [(0, FALSE), (1800, TRUE), (1801, FALSE)])
        self.assertEqual(self.told(MachineDoes(appliance_id="gone", does="runs"), log), [(0, UNKNOWN)])

    def test_has_run_today_is_forgotten_at_the_reset(self) -> None:
        setting = ToldSetting(tells="ran_today", threshold_w=5, wait_s=0)
        power = track((0, 1), (600, 400), (1200, 1), (6 * H, 1), (12 * H, 1))
        log = scope(20, tracks={POWER: power}, settings={("washer", "ran_today"): setting})
        c = RanToday(appliance_id="washer", counts="ran", least_s=300, reset_min=180)
        self.assertEqual(self.told(c, log, stale_s=8 * H), [(0, FALSE), (900, TRUE), (15 * H, FALSE)])
        self.assertEqual(self.told(replace(c, counts="ended"), log, stale_s=8 * H)[1], (1200, TRUE))
        self.assertEqual(self.told(replace(c, least_s=601), log, stale_s=8 * H), [(0, FALSE)])

    def test_what_was_not_heard_may_have_been_a_run(self) -> None:
        setting = ToldSetting(tells="ran_today", threshold_w=5, wait_s=0)
        log = scope(4, tracks={POWER: track((0, 1), (7200, 1))}, settings={("washer", "ran_today"): setting})
        has_not = RanToday(appliance_id="washer", has=False)
        self.assertEqual(self.told(has_not, log, stale_s=3600), [(0, TRUE), (3600, UNKNOWN)])

    def test_a_fact_is_marked_and_forgotten(self) -> None:
        marks = {"guests": Marks(np.array([NOON + 60_000]), np.array([True]))}
        log = scope(20, marks=marks)
        self.assertEqual(self.told(Fact(word="guests"), log), [(0, FALSE), (60, TRUE)])
        self.assertEqual(self.told(Fact(word="guests", reset_min=0), log), [(0, FALSE), (60, TRUE), (12 * H, FALSE)])

    def test_a_button_puts_back_even_within_the_least_time(self) -> None:
        one = rule(
            put_back=PutBack(when=((Happens(event="button", subject_id="b"),),)),
            limits=RuleLimits(min_on_s=600, stale_s=86_400),
        )
        log = scope(tracks={WINDOW: track((0, 0), (600, 1))}, events={("button", "", "b"): np.array([NOON + 700_000])})
        self.assertEqual(self.fired(one, log), [(600, 1200, "when")])


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


class RuleWording(unittest.TestCase):
    def test_quiet_hours_follow_the_clock_over_its_change(self) -> None:
        quiet = quiet_by_clock(LocalClock("Europe/London"), 22 * 60, 7 * 60)
        # The night of 29 March is an hour shorter: seven o'clock is 06:00 UTC.
        self.assertEqual(quiet(parse_utc("2026-03-28T23:00:00Z")), parse_utc("2026-03-29T06:00:00Z"))
        self.assertIsNone(quiet(parse_utc("2026-03-29T06:00:00Z")))

    def test_told_once_or_again_until_it_is_over(self) -> None:
        def none(_: int) -> None:
            return None

        self.assertEqual(notices([(0, 100)], after=10, repeat=None, most=9, quiet=none, end=999), [10])
        self.assertEqual(notices([(0, 100)], after=10, repeat=45, most=9, quiet=none, end=999), [10, 55, 100])
        self.assertEqual(
            notices([(0, 100)], after=10, repeat=45, most=9, quiet=none, end=999, is_closed=False), [10, 55]
        )


class Arithmetic(unittest.TestCase):
    """Three values, against every combination."""

    def truth(self, *values: int) -> Truth:
        at = np.arange(len(values), dtype=np.int64) * 1000
        return from_changes(at, np.array(values, dtype=np.int8), 0, len(values) * 1000)

    def test_and_or_not_as_kleene_does(self) -> None:
        one = self.truth(*(a for a in (0, 1, 2) for _ in range(3)))
        other = self.truth(*((0, 1, 2) * 3))
        at = np.arange(9) * 1000
        self.assertEqual(all_of([one, other]).at(at).tolist(), [0, 0, 0, 0, 1, 1, 0, 1, 2])
        self.assertEqual(any_of([one, other]).at(at).tolist(), [0, 1, 2, 1, 1, 2, 2, 2, 2])
        self.assertEqual(one.negated.at(at).tolist(), [2, 2, 2, 1, 1, 1, 0, 0, 0])

    def test_held_needs_more_than_its_time(self) -> None:
        truth = self.truth(0, 2, 2, 0, 2, 2, 2, 1)
        self.assertEqual(held(truth, 2000).at(np.arange(8) * 1000).tolist(), [0, 0, 0, 0, 0, 0, 2, 1])

    def test_a_span_must_have_a_meaning(self) -> None:
        with self.assertRaises(OutOfRange):
            chatter([], min_on_s=1, window_s=1, span_s=0)


class Documents(unittest.TestCase):
    def test_a_setpoint_is_one_of_both(self) -> None:
        with self.assertRaises(HomeError):
            SetPoint(zone_ids=("z",), value_c=20.0, change_k=1.0)

    def test_a_rule_names_its_targets_once_and_all_it_looks_at(self) -> None:
        one = rule(then=(*IDLE, *IDLE, Tell(group_id="all")), put_back=PutBack(when=SHUT), only_while=((Dark(),),))
        self.assertEqual(one.target_ids, ("kitchen", "all"))
        self.assertEqual(one.conditions, (OPEN[0][0], Dark(), SHUT[0][0]))
