"""The stand-ins are what they claim to be: their truth is their own physics."""

import unittest

import numpy as np

from tests.logs import PLAN, START_MS
from warmeter.service.demo import demo_home
from warmeter.standins import demo
from warmeter.standins.agreement import EVERY_MIN, LOG_DAYS, log_of_run, scene_of, survey_of
from warmeter.standins.house import (
    Asked,
    House,
    Weather,
    daily_setpoints,
    people_w,
    random_plan,
    sensed,
    winter_weather,
)


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
                steady_weather(outdoor, 8), Asked(setpoint_c=setpoints, band_k=0.05), np.zeros(8 * 1440), start_c=20.0
            )
            heats.append(float(run.heat_w[5 * 1440 :].mean()))
        self.assertAlmostEqual((heats[1] - heats[0]) / 5, PLAN.loss_w_k, delta=0.03 * PLAN.loss_w_k)

    def test_its_lead_is_that_of_trying_every_minute(self) -> None:
        rng = np.random.default_rng(4)
        house, days = House(PLAN), 3
        run = house.run(
            winter_weather(rng, START_MS, days),
            Asked(setpoint_c=daily_setpoints(days, up_min=420, down_min=1320, high_c=20, low_c=16)),
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
        self.assertTrue(0.5 < survey_of(scene.rng, scene.plan).loss_w_k / scene.plan.loss_w_k < 1.8)


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
