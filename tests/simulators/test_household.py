"""Presence of a made-up household that nothing was written on, against where everybody was."""

import unittest

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.home.presets import USE
from warmeter.core.presence.household_presence import HouseholdPresence, household_presence, minutes_of
from warmeter.core.presence.presence_log import PresenceLog, room_sensors
from warmeter.core.presence.presence_score import presence_score
from warmeter.core.presence.room_presence import rooms_presence
from warmeter.core.presence.room_use import room_use
from warmeter.core.presence.ways import by_kind
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.units import MS_PER_MIN, MS_PER_S
from warmeter.simulators.household import Household, household


class Presence(unittest.TestCase):
    made: Household
    log: PresenceLog
    minutes: Ints
    found: HouseholdPresence

    @classmethod
    def setUpClass(cls) -> None:
        cls.made = household(4711)
        made = cls.made
        cls.log = PresenceLog(
            tracks={key: Track(*reports) for key, reports in made.heard.items()},
            start_ms=made.start_ms,
            end_ms=made.start_ms + made.minutes * MS_PER_MIN,
        )
        cls.minutes = minutes_of(cls.log.start_ms, cls.log.end_ms)
        cls.found = household_presence(made.home, cls.log)

    def test_all_witnesses_together_do_less_harm_than_each_alone(self) -> None:
        truth = np.where(self.made.is_home() == 1, TRUE, FALSE).astype(np.int8)
        together = presence_score(self.found.home.state.at(self.minutes), truth)
        alone = [presence_score(said, truth) for said in by_kind(self.found, self.minutes).values()]
        self.assertGreater(together.right, 0.9)
        self.assertLess(together.harm_h, min(score.harm_h for score in alone))

    def test_rooms_are_right_in_more_minutes_than_by_motion_with_its_usual_wait(self) -> None:
        gains = []
        for room in rooms_presence(self.made.home, self.log, self.found, LocalClock("UTC")):
            sensors = room_sensors(self.made.home, self.log, room.room_id, ("is_moving",))
            if not sensors:
                continue
            truth = np.where(self.made.is_in(room.room_id) == 1, TRUE, FALSE).astype(np.int8)
            idle_s = USE[self.made.home.room(room.room_id).use].empty_after_s or 1800
            motion = room_use(sensors, idle_s * MS_PER_S, self.log.start_ms, self.log.end_ms).at(self.minutes)
            gains.append(presence_score(room.state, truth).right - presence_score(motion, truth).right)
        self.assertGreater(len(gains), 2)
        self.assertGreater(min(gains), -0.02)
        self.assertGreater(float(np.mean(gains)), 0.03)

    def test_the_same_seed_is_the_same_household_and_nobody_is_in_two_rooms(self) -> None:
        again = household(4711)
        for person, where in self.made.where.items():
            np.testing.assert_array_equal(where, again.where[person])
        self.assertTrue(all(w.size == self.made.minutes for w in self.made.where.values()))

    def test_a_log_of_nothing_leaves_everybody_not_known(self) -> None:
        empty = PresenceLog(tracks={}, start_ms=0, end_ms=3_600_000)
        found = household_presence(self.made.home, empty)
        self.assertEqual(set(found.home.state.value.tolist()), {UNKNOWN})
        self.assertEqual(rooms_presence(self.made.home, empty, found, LocalClock("UTC")), ())


if __name__ == "__main__":
    unittest.main()
