"""Timetables over the database: edits by scope, redo, named states, by hand, why, comparison, the device's sheet."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

import numpy as np

from tests.drawn import drawn_home
from tests.edited import save_change
from tests.homes import small_home, with_day
from tests.logs import room_csv
from tests.served import Held, fresh_app
from warmeter.core.edits import timetable_edits
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.explain.damp_figure import damp_figure
from warmeter.core.explain.why import why_at
from warmeter.core.forecast.day_forecast import totals_of
from warmeter.core.home.document import Home
from warmeter.core.home.plant import SplitUnit
from warmeter.core.home.presets import FIRST_KINDS
from warmeter.core.home.timetables import ChangePoint, HandRule
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import written_on
from warmeter.core.timetable.manual_overrides import HandEnd
from warmeter.core.units import MS_PER_H, MS_PER_MIN
from warmeter.service.app import Person
from warmeter.service.forecast import level_savings
from warmeter.service.forecast.damp import damp_limits, guarded_home
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.gaps import day_gaps, gap_figure
from warmeter.service.forecast.outdoor_forecast import TypedWeather
from warmeter.service.homes import editing
from warmeter.service.jobs.kinds import run_job
from warmeter.service.readings import logs
from warmeter.service.readings.outdoor_year import daily_means_c, year_around
from warmeter.service.timetable import comparisons, device_schedules, manual_overrides
from warmeter.store.homes import HomeNotFound, NothingToUndo

ANN = Person("Ann")
MONDAY = date(2026, 1, 12)
COLD = TypedWeather(-3.0, 5.0)
LONDON = LocalClock("Europe/London")


def home_with_kinds() -> Home:
    """Return the small home with workdays and days off."""
    return replace(small_home(), day_kinds=FIRST_KINDS)


def starts(home: Home, on: date) -> list[tuple[int, str]]:
    """Return (minute, level) of the day written for a date."""
    return [(p.start_min, p.level_id) for p in written_on(home, home.zones[0], on).points]


class Stored(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, home_with_kinds(), ANN)

    def home(self) -> Home:
        return self.app.homes.load("home1")[0]

    def edit(self, start: int) -> int:
        base = self.app.homes.load("home1")[1]
        return save_change(
            self.app,
            "home1",
            base,
            ANN,
            f"starts {start}",
            lambda h: timetable_edits.moved_start(h, "z-study", BlockPlace(MONDAY, 1), start),
        )

    def start(self) -> int:
        return self.home().zones[0].timetables[0].usual[1].start_min

    def test_undo_and_redo_run_through_everything_and_a_new_change_ends_it(self) -> None:
        for minute in (430, 440, 450):
            self.edit(minute)
        seen = []
        for step in "uuurrruur":
            base = self.app.homes.load("home1")[1]
            (editing.undo if step == "u" else editing.redo)(self.app, "home1", base, ANN)
            seen.append(self.start())
        self.assertEqual(seen, [440, 430, 420, 430, 440, 450, 440, 430, 440])
        self.edit(500)
        with self.assertRaises(NothingToUndo):
            editing.redo(self.app, "home1", self.app.homes.load("home1")[1], ANN)
        editing.undo(self.app, "home1", self.app.homes.load("home1")[1], ANN)
        self.assertEqual(self.start(), 440)

    def test_revisions_are_named_and_restored(self) -> None:
        self.edit(430)
        self.app.homes.set_name("home1", 2, "Before the fair")
        self.edit(450)
        self.assertEqual([r.name for r in self.app.homes.revisions("home1")], ["", "Before the fair", ""])
        editing.restore(self.app, "home1", 3, 2, ANN)
        self.assertEqual(self.start(), 430)
        editing.undo(self.app, "home1", 4, ANN)
        self.assertEqual(self.start(), 450)
        with self.assertRaises(HomeNotFound):
            self.app.homes.set_name("home1", 99, "x")

    def test_a_change_by_hand_is_an_event_that_decides_until_it_ends(self) -> None:
        home = self.home()
        at = LONDON.instant(MONDAY, 600)
        end = HandEnd(kind="for", minutes=120)
        manual_overrides.lay_by_hand(
            self.app, home, 1, "z-study", ANN, at_ms=at, end=end, value_c=22.0, reason="cold feet"
        )
        self.assertEqual(self.app.homes.load("home1")[1], 1, "the document is not touched")
        self.assertEqual(manual_overrides.asked_c(self.app, home, home.zones[0], at + MS_PER_H), 22.0)
        manual_overrides.lay_by_hand(self.app, home, 1, "z-study", ANN, at_ms=at + MS_PER_H, end=end, steps=1)
        self.assertEqual(manual_overrides.asked_c(self.app, home, home.zones[0], at + MS_PER_H), 23.0)
        manual_overrides.end_by_hand(self.app, home, 1, "z-study", ANN, at + 90 * MS_PER_MIN)
        self.assertEqual(manual_overrides.asked_c(self.app, home, home.zones[0], at + 91 * MS_PER_MIN), 20.0)
        newest, oldest = manual_overrides.kept_changes(self.app, home)
        self.assertEqual((newest.ended_ms, oldest.ended_ms), (at + 90 * MS_PER_MIN, at + MS_PER_H))
        self.assertEqual((newest.change.was_c, newest.change.by, oldest.change.reason), (22.0, "Ann", "cold feet"))
        forecast = day_forecast(self.app, home, 1, MONDAY, COLD)
        self.assertEqual([forecast.rooms[0].wanted_c[m] for m in (599, 600, 660, 690)], [20.0, 22.0, 23.0, 20.0])
        manual_overrides.forget_by_hand(self.app, "home1", newest.id)
        with self.assertRaises(HomeError):
            manual_overrides.forget_by_hand(self.app, "home1", newest.id)

    def test_why_names_what_decides_what_lies_below_and_what_comes_next(self) -> None:
        home = self.home()
        zone = home.zones[0]
        at = LONDON.instant(MONDAY, 600)
        end = HandEnd(kind="for", minutes=60)
        manual_overrides.lay_by_hand(self.app, home, 1, "z-study", ANN, at_ms=at, end=end, value_c=23.0)
        changes = [change for _, change in manual_overrides.changes_of(self.app, "home1")]
        why = why_at(home, zone, LONDON, changes, at + 10 * MS_PER_MIN, {})
        self.assertEqual((why.standing.decision.claim.kind, why.standing.decision.value), ("by_hand", 23.0))
        self.assertEqual([(c.kind, c.value) for c in why.standing.below], [("timetable", 20.0)])
        assert why.next is not None
        self.assertEqual((why.next.at_ms, why.next.decision.claim.kind), (at + MS_PER_H, "timetable"))
        lead = why_at(home, zone, LONDON, [], LONDON.instant(MONDAY, 410), {LONDON.instant(MONDAY, 420): 30.0})
        self.assertEqual(lead.standing.decision.claim.reason, "warm-up for In use")
        self.assertEqual([c.reason for c in lead.standing.below], ["Asleep"])
        low = with_day(home, ChangePoint(start_min=0, level_id="idle", own_setpoint_c=6.0))
        guarded = why_at(low, low.zones[0], LONDON, [], at, {})
        self.assertTrue(guarded.standing.decision.is_clamped)
        self.assertEqual(guarded.standing.decision.value, home.guard.low_c)

    def test_the_same_change_again_and_again_is_proposed_and_taken_once(self) -> None:
        home = self.home()
        for k in range(4):
            at = LONDON.instant(MONDAY + timedelta(days=k), 960)
            end = HandEnd(kind="for", minutes=120)
            manual_overrides.lay_by_hand(self.app, home, 1, "z-study", ANN, at_ms=at, end=end, value_c=22.0)
        self.app.homes.set_as_of("home1", LONDON.instant(date(2026, 1, 17), 0))
        (habit,) = manual_overrides.proposals(self.app, home)
        self.assertEqual((habit.start_min, habit.end_min, len(habit.changes)), (960, 1080, 4))
        taken = manual_overrides.with_habit(home, habit)
        self.assertIn((960, "in-use"), starts(taken, MONDAY))
        save_change(self.app, "home1", 1, ANN, "habit", lambda _: taken)
        self.assertEqual(
            manual_overrides.proposals(self.app, self.home()), [], "what the timetable asks is not proposed"
        )

    def test_a_comparison_runs_as_a_job_and_is_kept(self) -> None:
        home = self.home()
        asked = comparisons.ComparisonRequest(variants=("now", "hold"), first=date(2026, 1, 5), last=date(2026, 1, 25))
        job_id = comparisons.ask_comparison(self.app, home, 1, asked)
        job, found = comparisons.latest_comparison(self.app, "home1") or (None, None)
        assert job is not None and found is not None
        self.assertEqual((job.id, job.state), (job_id, "done"))
        now, hold = found.found
        self.assertLess(now.drawn_kwh, hold.drawn_kwh)
        self.assertAlmostEqual(sum(now.day_kwh), now.drawn_kwh, places=6)
        self.assertAlmostEqual(sum(now.day_cost), now.cost or 0.0, places=6)
        self.assertIn("made up", found.weather)
        self.assertEqual(len(found.day_outdoor_c), 21)
        for wrong in (
            replace(asked, variants=("now",)),
            replace(asked, variants=("now", "name:Nowhere")),
            replace(asked, last=date(2024, 1, 1)),
            replace(asked, last=date(2029, 1, 1)),
        ):
            with self.assertRaises(HomeError):
                comparisons.ask_comparison(self.app, home, 1, wrong)

    def test_a_comparison_warns_of_rooms_under_their_guard_limit_and_of_heaters_too_small(self) -> None:
        home = self.home()
        weak = replace(home, heaters=tuple(replace(h, rated_heat_w=120.0) for h in home.heaters))
        asked = comparisons.ComparisonRequest(variants=("now", "hold"), first=date(2026, 1, 5), last=date(2026, 1, 18))
        found = comparisons.compare(self.app, weak, 1, asked, lambda *_: None)
        for each in found.found:
            danger, small = each.warnings
            self.assertTrue(danger.is_danger and danger.reached_c < weak.guard.low_c)
            self.assertTrue(not small.is_danger and small.reached_c < small.limit_c)
        sound = comparisons.compare(self.app, home, 1, asked, lambda *_: None)
        self.assertEqual([f.warnings for f in sound.found], [(), ()])

    def test_a_comparison_that_is_stopped_leaves_the_one_before(self) -> None:
        home = self.home()
        asked = comparisons.ComparisonRequest(variants=("now", "hold"), first=date(2026, 1, 5), last=date(2026, 1, 6))
        comparisons.ask_comparison(self.app, home, 1, asked)
        held = replace(self.app, jobs=Held())
        job_id = comparisons.ask_comparison(held, home, 1, replace(asked, last=date(2026, 3, 6)))
        self.app.work.ask_stop(job_id)
        run_job(self.app, job_id)
        stopped = self.app.work.job(job_id)
        assert stopped is not None
        self.assertEqual(stopped.state, "stopped")
        _, found = comparisons.latest_comparison(self.app, "home1") or (None, None)
        assert found is not None
        self.assertEqual(found.asked, asked)

    def test_a_season_week_agrees_with_the_week_of_the_strip(self) -> None:
        upload = logs.keep_upload(self.app, "x.csv", [room_csv(7).encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, self.home(), upload).suggested, ANN)
        home, revision = self.app.homes.load("home1")
        first = date(2026, 1, 6)
        asked = comparisons.ComparisonRequest(variants=("now", "hold"), first=first, last=date(2026, 1, 10))
        season = comparisons.compare(self.app, home, revision, asked, lambda _share, _words: None)
        strip = totals_of(day_forecast(self.app, home, revision, first, None, 5))
        assert strip.electric_kwh is not None
        # The strip has the log's sun and starts from the tracked state; the season a share of a clear sky.
        self.assertAlmostEqual(season.found[0].drawn_kwh / strip.electric_kwh.value, 1.0, delta=0.06)

    def test_a_week_fitted_to_a_device_tells_what_is_lost(self) -> None:
        home = self.home()
        wide = device_schedules.device_schedule(
            self.app, home, 1, "z-study", MONDAY, device_schedules.DeviceLimits(), COLD
        )
        self.assertEqual((wide.below_kh, wide.above_kh, len(wide.days)), (0.0, 0.0, 1))
        self.assertAlmostEqual(wide.more_kwh or 0.0, 0.0, places=6)
        narrow = device_schedules.device_schedule(
            self.app, home, 1, "z-study", MONDAY, device_schedules.DeviceLimits(most_blocks=1), COLD
        )
        self.assertEqual(len(narrow.days[0].merged.pieces), 1)
        # One block all day is the warmer of the two, 15 h a day: it is too warm by 4 K at night.
        self.assertAlmostEqual(narrow.above_kh, 7 * 9 * 4.0)
        self.assertGreater(narrow.more_kwh or 0.0, 0.0)
        words = tuple((x.id, x.name) for x in home.levels if x.id != "asleep")
        only = device_schedules.DeviceLimits(words=words, only_words=True)
        spoken = device_schedules.device_schedule(self.app, home, 1, "z-study", MONDAY, only, COLD)
        asked = {p.setpoint_c for day in spoken.days for p in day.merged.pieces}
        self.assertLessEqual(asked, {home.level(k).heating_c for k, _ in words})
        self.assertIsNone(device_schedules.device_schedule(self.app, home, 1, "z-study", MONDAY, only, None).more_kwh)

    def test_devices_with_a_week_of_their_own_are_made_harmless_above_the_guard(self) -> None:
        home = drawn_home()
        self.assertEqual(device_schedules.own_weeks(home), [])
        valve = replace(home.devices[0], own_timetable="running")
        running = replace(home, devices=(valve, *home.devices[1:]))
        (own,) = device_schedules.own_weeks(running)
        self.assertEqual((own.device.id, own.setpoint_c >= home.guard.low_c), (valve.id, True))
        self.assertEqual(device_schedules.own_weeks(running, home.levels[0].id)[0].level, home.levels[0])

    def test_levels_tell_what_they_save_in_a_week(self) -> None:
        home = self.home()
        home = replace(home, levels=tuple(replace(x, is_saving=x.id != "in-use") for x in home.levels))
        savings = {s.level.id: s for s in level_savings.level_savings(self.app, home, 1, MONDAY, COLD)}
        asleep, idle = savings["asleep"].electric_kwh, savings["idle"].electric_kwh
        assert asleep is not None and idle is not None
        self.assertGreater(asleep.value, 1.0)
        self.assertAlmostEqual(idle.value, 0.0, places=9, msg="a level that no period has saves nothing")
        every = replace(home, levels=tuple(replace(x, is_saving=True) for x in home.levels))
        with self.assertRaises(NotKnowable):
            level_savings.level_savings(self.app, every, 1, MONDAY, COLD)

    def test_the_gaps_of_a_day_and_their_working(self) -> None:
        forecast, (room,) = day_gaps(self.app, self.home(), 1, MONDAY, COLD)
        (gap,) = room.gaps
        self.assertEqual(gap.gap.minutes, 9 * 60)
        assert room.strategy is not None
        self.assertTrue(room.strategy.is_money)
        figure = gap_figure(forecast, [room], "gap.study.0")
        self.assertAlmostEqual(figure.value or 0.0, gap.saved_kwh(gap.setback).value)
        self.assertEqual(
            {f.method[:2] for f in figure.alternatives}, {"E3"}, "a direct heater warms up no worse than it holds"
        )
        pump = replace(self.home().sources[0], kind="heat_pump", cop_points=((0.0, 3.0),))
        pumped = replace(self.home(), sources=(pump, *self.home().sources[1:]))
        forecast, (room,) = day_gaps(self.app, pumped, 1, MONDAY, COLD)
        self.assertEqual({f.method[:2] for f in gap_figure(forecast, [room], "gap.study.0").alternatives}, {"E3", "E4"})
        with self.assertRaises(NotKnowable):
            gap_figure(forecast, [room], "gap.study.7")


class Cooled(unittest.TestCase):
    def test_a_hot_day_is_cooled_priced_and_told_over_its_limit(self) -> None:
        app = fresh_app()
        home = small_home()
        split = replace(home.heaters[0], kind="split_unit", split=SplitUnit(cooling_w=1200.0), rated_heat_w=2000.0)
        home = replace(
            home, heaters=(split,), levels=tuple(replace(x, cooling_c=x.heating_c + 5.0) for x in home.levels)
        )
        editing.create_home(app, home, ANN)
        forecast = day_forecast(app, home, 1, date(2026, 7, 15), TypedWeather(22.0, 37.0))
        (room,) = forecast.rooms
        self.assertLess(room.heat_w.min(), 0.0)
        self.assertGreater(room.costed.cold_kwh.value, 1.0)
        draws = np.abs(room.heat_w).sum() / 60_000
        self.assertLess(room.costed.drawn_kwh.value, draws, "a unit takes away more than it draws")
        assert room.overheating_kh is not None
        self.assertGreaterEqual(room.overheating_kh.value, 0.0)
        without = replace(home, levels=tuple(replace(x, cooling_c=None) for x in home.levels))
        hot = day_forecast(app, without, 1, date(2026, 7, 15), TypedWeather(22.0, 37.0)).rooms[0]
        self.assertGreater(hot.predicted_c.max(), room.predicted_c.max())


class Damp(unittest.TestCase):
    def test_humidity_raises_the_guard_of_its_zone(self) -> None:
        app = fresh_app()
        home = drawn_home()
        editing.create_home(app, home, ANN)
        name = home.rooms[0].name
        start = 1_767_571_200_000
        lines = [f"time,{name} temperature °C,{name} humidity %,Outdoor °C"]
        for k in range(24 * 5):
            at = np.datetime64(start + k * 3_600_000, "ms").astype(str)[:16].replace("T", " ")
            lines.append(f"{at},16.0,78,2.0")
        upload = logs.keep_upload(app, "damp.csv", ["\n".join(lines).encode()])
        plan = logs.proposal(app, home, upload).suggested
        self.assertIn("relative_humidity", [c.quantity for c in plan.columns])
        logs.take(app, home.id, upload, plan, ANN)
        limits = damp_limits(app, home)
        zone = home.zone_of_room(home.rooms[0].id)
        assert zone is not None
        limit = limits[zone.id]
        self.assertAlmostEqual((limit.indoor_c, limit.rh, limit.outdoor_c)[1], 0.78)
        guarded = guarded_home(home, limits)
        self.assertEqual(guarded.guard_of(guarded.zone_of_id(zone.id)).low_c, limit.low_c)
        self.assertEqual(damp_figure(limit).value, limit.low_c)
        self.assertEqual(list(limits), [zone.id])


class Years(unittest.TestCase):
    def test_the_year_turns_in_the_warm_season_and_holds_only_heard_days(self) -> None:
        app = fresh_app()
        home = small_home()
        editing.create_home(app, home, ANN)
        self.assertEqual(year_around(home, MONDAY), (date(2025, 7, 1), 365))
        south = replace(home, place=replace(home.place, latitude_deg=-33.0))
        self.assertEqual(year_around(south, MONDAY), (date(2026, 1, 1), 365))
        upload = logs.keep_upload(app, "x.csv", [room_csv(3).encode()])
        logs.take(app, "home1", upload, logs.proposal(app, home, upload).suggested, ANN)
        means = daily_means_c(app, home, date(2026, 1, 1), 31)
        self.assertEqual(np.flatnonzero(~np.isnan(means)).tolist(), [4, 5, 6])


class Rules(unittest.TestCase):
    def test_a_range_by_hand_must_rise(self) -> None:
        with self.assertRaises(HomeError):
            HandRule(low_c=20.0, high_c=20.0)
