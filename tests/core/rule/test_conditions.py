"""Conditions over tracks, facts, events and the clock."""

import unittest
from dataclasses import replace

import numpy as np

from tests.rules_at_work import MIN, NOON, POWER, ROOM, SHUT, WINDOW, AtWork, H, rule, scope, track
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
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
from warmeter.core.home.conditions.sequence import Sequence
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.home.machines import ToldSetting
from warmeter.core.home.rules import PutBack, RuleLimits
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.timegrid import parse_utc
from warmeter.core.truth.scope import LevelLine, Marks
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN


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


if __name__ == "__main__":
    unittest.main()
