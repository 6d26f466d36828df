"""The stand-ins are what they claim to be: their truth is their own physics."""

import unittest
from dataclasses import replace

import numpy as np

from tests.logs import PLAN, START_MS
from warmeter.core.timegrid import parse_utc
from warmeter.core.units import MS_PER_H
from warmeter.service.homes.demo import demo_home
from warmeter.simulators import demo
from warmeter.simulators.agreement import EVERY_MIN, LOG_DAYS, LayeredScene, log_of_run, scene_of, survey_of
from warmeter.simulators.house import (
    House,
    ThermostatSettings,
    Weather,
    daily_setpoints,
    people_w,
    random_plan,
    sensed,
    winter_weather,
)
from warmeter.simulators.layered_house import LayeredHouse, LayeredParameters, Surroundings, random_layered_plan
from warmeter.simulators.live_house import LiveHouse
from warmeter.simulators.misleading_logs import misleading_log


class LivedIn(unittest.TestCase):
    """The house behind played devices."""

    def test_the_sun_comes_through_its_windows_by_day_and_no_more_of_it_than_falls_on_their_glass(self) -> None:
        home, midnight = demo_home("terrace-nine"), parse_utc("2026-07-20T00:00:00Z")
        house, given = LiveHouse(home, midnight), []
        for hour in range(24):
            house.advance(midnight + hour * MS_PER_H)
            given.append(house._sun())
        sun_w = np.array(given)
        self.assertEqual(float(sun_w[[0, 1, 23]].sum()), 0.0, "by night")
        glass_m2 = [sum(o.area_m2 for o in home.openings_of(room_id)) for room_id in house.room_ids]
        self.assertTrue((sun_w.max(axis=0) <= 1000.0 * np.array(glass_m2)).all())
        self.assertGreater(float(sun_w.sum()), 0.0)

    def test_in_some_days_of_summer_the_sun_warms_a_room_above_the_outdoors(self) -> None:
        home, midnight = demo_home("terrace-nine"), parse_utc("2026-07-18T00:00:00Z")
        house, outdoor, indoor = LiveHouse(home, midnight), [], []
        for hour in range(1, 73):
            house.advance(midnight + hour * MS_PER_H)
            outdoor.append(house.outdoor_c(house.now_ms))
            indoor.append(house.room_c("tn-living"))
        self.assertGreater(max(indoor), max(outdoor) + 1.0)


def steady_weather(outdoor_c: float, days: int) -> Weather:
    """Return weather that does not change, without sun."""
    minutes = days * 1440
    return Weather(outdoor_c=np.full(minutes + 1, outdoor_c), sun_w_m2=np.zeros(minutes), clear_w_m2=np.zeros(minutes))


class Houses(unittest.TestCase):
    def test_truth_is_the_extra_heat_a_colder_outdoors_asks_for(self) -> None:
        heats = []
        for outdoor in (0.0, -5.0):
            setpoints = np.full(8 * 1440, 20.0)
            run = House(PLAN).run(
                steady_weather(outdoor, 8),
                ThermostatSettings(setpoint_c=setpoints, band_k=0.05),
                np.zeros(8 * 1440),
                start_c=20.0,
            )
            heats.append(float(run.heat_w[5 * 1440 :].mean()))
        self.assertAlmostEqual((heats[1] - heats[0]) / 5, PLAN.loss_w_k, delta=0.03 * PLAN.loss_w_k)

    def test_its_lead_is_that_of_trying_every_minute(self) -> None:
        rng = np.random.default_rng(4)
        house, days = House(PLAN), 3
        run = house.run(
            winter_weather(rng, START_MS, days),
            ThermostatSettings(setpoint_c=daily_setpoints(days, up_min=420, down_min=1320, high_c=20, low_c=16)),
            people_w(rng, PLAN, days),
        )
        free, due = 2 * 1440 - 120, 2 * 1440 + 420
        found = house.lead_min(run, free_from=free, due=due, floor_c=16.0, target_c=20.0)
        assert found is not None
        kept = house._kept(run, free, due, 16.0)
        late, in_time = int(due - free - found + 1), int(due - free - found)
        self.assertTrue(house._reaches(run, kept[in_time], free + in_time, due, 20.0))
        self.assertFalse(house._reaches(run, kept[late], free + late, due, 20.0))
        self.assertIsNone(house.lead_min(run, free_from=due - 5, due=due, floor_c=16.0, target_c=25.0))
        self.assertEqual(house.lead_min(run, free_from=free, due=due, floor_c=16.0, target_c=10.0), 0.0)

    def test_plans_lie_within_what_rooms_are_like(self) -> None:
        for seed in range(50):
            plan = random_plan(np.random.default_rng(seed))
            self.assertTrue(1.2 <= plan.loss_w_k / plan.floor_area_m2 <= 4.0)
            self.assertGreater(plan.full_heat_w, 30 * plan.loss_w_k)

    def test_the_sensor_is_a_cheap_one(self) -> None:
        shown = sensed(np.random.default_rng(1), np.full(50_001, 20.03), 5)
        self.assertEqual(shown.size, 10_001)
        np.testing.assert_allclose(shown * 10, np.round(shown * 10), atol=1e-9)
        self.assertTrue(0.06 < float(shown.std()) < 0.1)

    def test_seeds_repeat_and_differ_and_leave_a_tenth_to_a_fifth_unlogged(self) -> None:
        scene = scene_of(31, "stores")
        run, again, other = scene.run(), scene_of(31, "stores").run(), scene_of(32, "stores").run()
        np.testing.assert_array_equal(run.air_c, again.air_c)
        self.assertFalse(np.array_equal(run.air_c, other.air_c))
        self.assertTrue(0.09 < run.unlogged_share < 0.24)
        log = log_of_run(scene.rng, run, LOG_DAYS)
        self.assertEqual(log.heat_w.size, LOG_DAYS * 1440 // EVERY_MIN)
        self.assertEqual(int(np.isnan(log.room_c).sum()), 60)
        self.assertTrue(0.5 < survey_of(scene.rng, scene.parameters).loss_w_k / scene.parameters.loss_w_k < 1.8)


class DemoHome(unittest.TestCase):
    def test_the_demo_log_has_its_gap_and_steps(self) -> None:
        lines = demo.room_log_csv().text.splitlines()
        self.assertEqual(len(lines), demo.LOG_MIN // 5 + 2)
        kitchen = lines[0].split(",").index("Kitchen temperature °C")
        gaps = [k for k, line in enumerate(lines[1:]) if line.split(",")[kitchen] == ""]
        self.assertEqual((len(gaps), gaps[-1] - gaps[0] + 1), (86, 86))

    def test_demo_homes_are_sound(self) -> None:
        for home in (demo_home("sail-loft"), demo_home("terrace-nine"), demo_home("weir-cottage"), demo.building()):
            heated = [room for room in home.rooms if room.condition == "heated"]
            self.assertTrue(all(home.zone_of_room(room.id) and home.heater_of(room.id) for room in heated))
            self.assertTrue(all(room.is_drawn or room.described for room in home.rooms))


class Layered(unittest.TestCase):
    """The second family, against its own closed forms."""

    def alone(self, seed: int) -> LayeredParameters:
        plan = random_layered_plan(np.random.default_rng(seed))
        return replace(plan, partition_w_k=1e-9, door_w_k=0.0, wall_sun_m2=0.0, is_proportional=False)

    def test_it_settles_where_its_steady_loss_says(self) -> None:
        days = 90
        for seed in (31, 32, 33):
            plan = self.alone(seed)
            nothing = np.zeros(days * 1440)
            around = Surroundings(
                weather=Weather(outdoor_c=np.zeros(days * 1440 + 1), sun_w_m2=nothing, clear_w_m2=nothing),
                south_w_m2=nothing,
                leak_shape=np.ones(days * 1440),
                door_open=nothing,
            )
            run = LayeredHouse(plan).run(around, np.full(days * 1440, -60.0), np.full(days * 1440, 400.0))
            self.assertAlmostEqual(400.0 / run.air_c[-1] / plan.loss_w_k, 1.0, delta=0.002)

    def test_what_goes_in_goes_out_or_is_stored(self) -> None:
        scene = scene_of(5, "layers")
        assert isinstance(scene, LayeredScene)
        plan = replace(scene.parameters, door_w_k=0.0, partition_w_k=1e-9, wall_sun_m2=0.0)
        scene = replace(scene, parameters=plan)
        run, house = scene.run(), scene.house()
        stored = float(house._stores @ (run.states_c[-1] - run.states_c[0]))
        given = 60.0 * float(run.heat_w.sum() + run.gain_w.sum() + run.sun_w.sum())
        out = run.weather.outdoor_c[:-1]
        free = plan.glass_w_k + plan.leak_w_k * run.around.leak_shape
        through_air = 60.0 * float((free * (run.air_c[:-1] - out)).sum())
        skin = run.states_c[:-1, -1]
        through_wall = 60.0 * float((house._links[-1] * (skin - out)).sum())
        # States are taken at the minutes' beginnings: a per cent is what that costs.
        self.assertAlmostEqual((stored + through_air + through_wall) / given, 1.0, delta=0.01)

    def test_a_later_start_than_its_lead_is_too_late(self) -> None:
        scene = scene_of(6, "layers")
        assert isinstance(scene, LayeredScene)
        run, house = scene.run(), scene.house()
        free, due = 14 * 1440 - 120, 14 * 1440 + 420
        lead = house.lead_min(run, free_from=free, due=due, floor_c=16.0, target_c=20.0)
        assert lead is not None and lead > 5
        earlier = house.lead_min(run, free_from=free, due=due, floor_c=16.0, target_c=19.0)
        self.assertLess(earlier or 0.0, lead)

    def test_misleading_logs_differ_from_clean_ones_only_in_their_way(self) -> None:
        clean = misleading_log("clean", 8, "layers")
        part = misleading_log("part of the heat", 8, "layers")
        np.testing.assert_allclose(part.log.heat_w, 0.6 * clean.log.heat_w)
        np.testing.assert_array_equal(part.log.room_c, clean.log.room_c)
        beside = misleading_log("sensor beside the heater", 8, "layers")
        warmer = np.nanmean((beside.log.room_c - clean.log.room_c)[1:][clean.log.heat_w > 0])
        self.assertGreater(float(warmer), 0.3)
