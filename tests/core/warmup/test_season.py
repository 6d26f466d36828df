"""A season in one pass, cooling, by hand and mould limits: against plain loops, physics and the clock."""

import unittest
from dataclasses import replace
from datetime import date

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.homes import small_home, with_day
from warmeter.core.building.heating import cold_over_draw, full_cool_w
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.thermal.proportional import Proportional, full_heat_reach_c, proportional_run, settled_c
from warmeter.core.thermal.simulate import (
    BoundaryConditions,
    OnOff,
    compile_rooms,
    controlled_run,
    plain_controlled_run,
    run_on,
)
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_of
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.prediction import HeatingStretch, RoomModel, predict_day
from warmeter.core.warmup.season import SeasonBoundary, season_low, season_run, starts_of
from warmeter.core.weather.synthetic import made_up_outdoor_c
from warmeter.service.homes.demo import demo_home

LONDON = LocalClock("Europe/London")
ROOM = RoomRc(
    air_out_w_k=25.0,
    air_fabric_w_k=180.0,
    fabric_out_w_k=22.0,
    air_j_k=4e5,
    fabric_j_k=5e6,
    emitter_lag_s=600.0,
    convective=0.7,
)
PANEL = OnOff(full_heat_w=2500.0, band_k=0.4, min_on_steps=1, min_off_steps=1)


class Season(unittest.TestCase):
    def boundary(self, days: int, outdoor: float = 2.0) -> SeasonBoundary:
        steps = days * 288
        minute = np.arange(steps) * 5 % 1440
        asked = np.where((minute >= 420) & (minute < 1320), 20.0, 16.0)
        swing = 4.0 * np.sin(2 * np.pi * (np.arange(steps + 1) * 5 / 1440 - 0.4))
        return SeasonBoundary(
            outdoor_c=outdoor + swing, gain_w=np.full(steps, 80.0), asked_c=asked, start_c=np.full(3, 18.0)
        )

    def test_each_lead_is_the_latest_start_that_is_in_time(self) -> None:
        step, boundary = compile_rooms([ROOM], 2500.0, 300.0), self.boundary(6)
        run = season_run(step, boundary, PANEL)
        self.assertTrue((run.late_min == 0).all())
        for rise, lead in zip(boundary.rises.tolist(), (run.leads_min / 5).astype(int).tolist(), strict=True):
            self.assertGreater(lead, 0)
            states = [0.0, 0.0]
            for late in (0, 1):
                asked = boundary.asked_c.copy()
                for r, n in zip(boundary.rises.tolist(), (run.leads_min / 5).astype(int).tolist(), strict=True):
                    asked[r - n + (late if r == rise else 0) : r] = 20.0
                plain = plain_controlled_run(
                    step,
                    BoundaryConditions(boundary.outdoor_c[None], boundary.gain_w[None], asked, boundary.start_c[None]),
                    PANEL,
                )
                states[late] = float(plain.air_c[0, rise])
            self.assertGreaterEqual(states[0], 19.8 - 1e-6)
            self.assertLess(states[1], 19.8)

    def test_a_weak_heater_is_told_late_and_without_a_lead(self) -> None:
        weak = replace(PANEL, full_heat_w=900.0)
        run = season_run(compile_rooms([ROOM], 900.0, 300.0), self.boundary(3, outdoor=-12.0), weak)
        self.assertTrue(np.isnan(run.leads_min).all())
        self.assertTrue(np.isnan(run.late_min).all() or run.late_min.max() > 60)

    def test_what_full_heat_holds_for_ever_is_the_balance_of_air_fabric_and_heater(self) -> None:
        to_air, to_fabric = 0.7 * 900 / 30, 0.3 * 900 / 30  # a surface 30 K above the room at full heat
        left = np.array(
            [
                [25.0 + 180.0 + to_air, -180.0, -to_air],
                [-180.0, 180.0 + 22.0 + to_fabric, -to_fabric],
                [-to_air, -to_fabric, to_air + to_fabric],
            ]
        )
        for outdoor, gain in ((-12.0, 80.0), (5.0, 0.0)):
            right = np.array([25.0 * outdoor + gain / 2, 22.0 * outdoor + gain / 2, 900.0])
            found = full_heat_reach_c(
                compile_rooms([ROOM], 900.0, 300.0),
                outdoor_c=np.array([outdoor]),
                gain_w=np.array([gain]),
                full_heat_w=900.0,
            )
            self.assertAlmostEqual(float(found[0]), float(np.linalg.solve(left, right)[0]), places=6)

    def test_a_heater_too_small_for_the_coldest_day_is_told_and_one_that_is_only_slow_is_not(self) -> None:
        boundary = self.boundary(4, outdoor=-12.0)
        day = np.repeat(np.arange(4), 288)
        for watts, is_small in ((900.0, True), (2500.0, False)):
            step, heater = compile_rooms([ROOM], watts, 300.0), replace(PANEL, full_heat_w=watts)
            run = season_run(step, boundary, heater)
            low = season_low(step, boundary, heater, run, day)
            self.assertEqual(low.small_day is not None, is_small)
            self.assertEqual(low.lowest_c, run.air_c.min())

    def test_a_plant_start_is_a_beginning_after_rest(self) -> None:
        self.assertEqual(starts_of(np.array([0.0, 5, 5, 0, 0, 7, 0, 3])), 3)
        self.assertEqual(starts_of(np.array([5.0, 5, 0])), 1)
        self.assertEqual(starts_of(np.zeros(4)), 0)

    def test_the_made_up_year_has_its_mean_and_its_cold_season(self) -> None:
        day = np.arange(1.0, 366.0, 1 / 24)
        minute = (day % 1) * 1440
        north = made_up_outdoor_c(day, minute, annual_mean_c=10.0, coldest_c=-6.0)
        south = made_up_outdoor_c(day, minute, annual_mean_c=10.0, coldest_c=-6.0, is_south=True)
        self.assertAlmostEqual(float(north.mean()), 10.0, delta=0.3)
        january, july = (day < 32), (day >= 182) & (day < 213)
        self.assertLess(north[january].mean(), 4.0)
        self.assertGreater(north[july].mean(), 15.0)
        self.assertGreater(south[january].mean(), south[july].mean() + 10)
        self.assertGreater(north.min(), -8.0)
        again = made_up_outdoor_c(day, minute, annual_mean_c=10.0, coldest_c=-6.0)
        np.testing.assert_array_equal(north, again)


class Runs(unittest.TestCase):
    def boundary(self, steps: int, cool: bool = True) -> BoundaryConditions:
        k = np.arange(steps)
        outdoor = 27.0 + 9.0 * np.sin(2 * np.pi * (np.arange(steps + 1) / 1440 - 0.4))
        return BoundaryConditions(
            outdoor_c=np.stack([outdoor, outdoor - 15.0]),
            gain_w=np.full((2, steps), 300.0),
            setpoint_c=np.where(k % 1440 < 600, 18.0, 21.0),
            start_c=np.full((2, 3), 24.0),
            cool_c=np.where(k % 1440 < 600, 27.0, 25.0) if cool else None,
        )

    def test_heating_and_cooling_are_stepped_as_the_plain_reference_does(self) -> None:
        step = compile_rooms([ROOM, replace(ROOM, air_out_w_k=40.0)], 2500.0, 60.0)
        both = replace(PANEL, full_cool_w=2600.0, min_on_steps=3, min_off_steps=5)
        fast, plain = (
            controlled_run(step, self.boundary(2880), both),
            plain_controlled_run(step, self.boundary(2880), both),
        )
        np.testing.assert_allclose(fast.states_c, plain.states_c, atol=1e-9)
        np.testing.assert_array_equal(fast.heat_w, plain.heat_w)
        self.assertTrue((fast.heat_w < 0).any() and (fast.heat_w > 0).any())
        self.assertLess(fast.air_c[0, 1500:1900].max(), 28.0)
        idle = controlled_run(step, self.boundary(2880, cool=False), both)
        self.assertEqual(idle.heat_w.min(), 0.0)

    def test_a_run_taken_up_again_goes_on_as_if_it_had_never_stopped(self) -> None:
        step = compile_rooms([ROOM, ROOM], 2500.0, 60.0)
        control = replace(PANEL, full_cool_w=2000.0, min_on_steps=7, min_off_steps=4)
        boundary = self.boundary(2000)
        whole, parts = controlled_run(step, boundary, control), controlled_run(step, boundary, control)
        for begin, end in ((700, 900), (900, 1500), (1500, 2000)):
            parts.heat_w[:, begin:end] = 0.0
            run_on(step, boundary, control, parts, begin, end)
        np.testing.assert_allclose(parts.states_c, whole.states_c, atol=1e-9)
        np.testing.assert_array_equal(parts.heat_w, whole.heat_w)

    def test_a_heater_in_proportion_settles_where_its_heat_is_the_loss(self) -> None:
        step = compile_rooms([ROOM, replace(ROOM, air_out_w_k=40.0)], 2500.0, 60.0)
        heater = Proportional(full_heat_w=2500.0, band_k=0.5)
        start = settled_c(step, outdoor_c=np.zeros(2), gain_w=np.full(2, 50.0), setpoint_c=20.0, heater=heater)
        boundary = BoundaryConditions(np.zeros((2, 601)), np.full((2, 600), 50.0), np.full(600, 20.0), start)
        run = proportional_run(step, boundary, heater)
        np.testing.assert_allclose(run.states_c[:, -1], start, atol=1e-6)
        for draw, room in enumerate((ROOM, replace(ROOM, air_out_w_k=40.0))):
            air, fabric = start[draw, 0], start[draw, 1]
            loss = room.air_out_w_k * air + room.fabric_out_w_k * fabric
            self.assertAlmostEqual(float(run.heat_w[draw, -1]) + 50.0, loss, places=4)

    @settings(deadline=None, derandomize=True, max_examples=20)
    @given(st.floats(15, 24), st.floats(-15, 15), st.floats(500, 4000))
    def test_settled_means_settled(self, setpoint: float, outdoor: float, full: float) -> None:
        step, heater = compile_rooms([ROOM], full, 60.0), Proportional(full_heat_w=full, band_k=0.5)
        start = settled_c(step, outdoor_c=np.array([outdoor]), gain_w=np.zeros(1), setpoint_c=setpoint, heater=heater)
        boundary = BoundaryConditions(np.full((1, 31), outdoor), np.zeros((1, 30)), np.full(30, setpoint), start)
        run = proportional_run(step, boundary, heater)
        np.testing.assert_allclose(run.states_c[0, -1], start[0], atol=1e-6)

    def test_a_room_is_cooled_down_in_time_for_a_block_with_a_lower_limit(self) -> None:
        home = with_day(
            small_home(), ChangePoint(start_min=0, level_id="idle"), ChangePoint(start_min=1020, level_id="in-use")
        )
        levels = tuple(replace(x, cooling_c=25.0 if x.id == "in-use" else 29.0) for x in home.levels)
        home = replace(home, levels=levels)
        day = LONDON.day(date(2026, 7, 15))
        minutes = (day.end_ms - day.start_ms) // MS_PER_MIN
        model = RoomModel(
            step=compile_rooms([ROOM], 2500.0, 60.0),
            gain_w=np.array([250.0]),
            sun_m2=np.zeros(1),
            control=replace(PANEL, full_cool_w=2500.0),
        )
        stretch = HeatingStretch(
            start_ms=day.start_ms,
            outdoor_c=32.0 + 5.0 * np.sin(2 * np.pi * (np.arange(minutes + 1) / 1440 - 0.4)),
            offsets_k=np.zeros(1),
            certain=0,
            clear_sky_w_m2=np.zeros(minutes),
            start_c=np.full((1, 3), 28.0),
        )
        zone = home.zones[0]
        blocks = blocks_of(home, zone, day, LONDON)
        found = predict_day(home, zone, model, stretch, blocks)
        (down,) = found.cool_downs
        assert down.lead.best is not None
        self.assertGreater(down.lead.best, 0)
        self.assertLessEqual(found.run.air_c[0, 1020], 25.0 + 1e-6)
        late = predict_day(home, zone, model, stretch, blocks, with_leads=False)
        self.assertGreater(late.overheating_kh(1020, 1080)[0], found.overheating_kh(1020, 1080)[0])
        assert found.limit_c is not None
        self.assertEqual((found.limit_c[600], found.limit_c[1100]), (29.0, 25.0))

    def test_a_split_unit_s_plate_gives_its_cold_and_its_draw(self) -> None:
        home = demo_home("terrace-nine")
        room = next(r for r in home.rooms if full_cool_w(home, r.id) > 0)
        heater = next(h for h in home.heaters_of(room.id) if h.split is not None)
        assert heater.split is not None
        eer = cold_over_draw(heater, np.array([35.0, 45.0, 200.0]))
        self.assertAlmostEqual(eer[0], heater.split.eer)
        self.assertLess(eer[1], eer[0])
        self.assertEqual(eer[2], 1.0)
