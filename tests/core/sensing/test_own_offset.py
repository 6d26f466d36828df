"""A valve's own reading against its room: by state and hour, with a range that holds, and nothing where it is not known."""

import unittest

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.sensing.own_offset import OwnOffset, own_offset

PER_DAY = 144


def log(days: int, seed: int, *, at_work_k: float, at_rest_k: float, daily_sd: float = 0.1) -> dict[str, np.ndarray]:
    """Return a made-up valve that reads too warm while it heats, ten minutes a step."""
    rng = np.random.default_rng(seed)
    at = np.arange(days * PER_DAY)
    day, hour = at // PER_DAY, at % PER_DAY // 6
    heating = ((hour >= 6) & (hour < 9)) | ((hour >= 17) & (hour < 22))
    room = 20 + np.cos(at / 23)
    shift = rng.normal(0, daily_sd, days)[day] + rng.normal(0, 0.3, at.size)
    own = room + np.where(heating, at_work_k, at_rest_k) + shift
    return {"own_c": own, "room_c": room, "heating": heating, "resting": ~heating, "day": day, "hour": hour}


def found(given: dict[str, np.ndarray], step_k: float = 0.5) -> OwnOffset:
    return own_offset(**given, step_h=1 / 6, typed_step_k=step_k)


class Offsets(unittest.TestCase):
    def test_the_correction_is_that_of_the_hours_in_which_it_heats(self) -> None:
        offset = found(log(10, 1, at_work_k=2.6, at_rest_k=0.4))
        assert offset.heating is not None
        assert offset.resting is not None
        self.assertAlmostEqual(offset.heating.mean_k, 2.6, delta=0.15)
        self.assertAlmostEqual(offset.resting.mean_k, 0.4, delta=0.15)
        self.assertAlmostEqual(offset.whole.mean_k, (8 * 2.6 + 16 * 0.4) / 24, delta=0.15)
        self.assertEqual(offset.correction_k, -2.5)
        self.assertAlmostEqual(offset.by_hour_k[7] or 0, 2.6, delta=0.25)
        self.assertAlmostEqual(offset.by_hour_k[3] or 0, 0.4, delta=0.25)

    def test_its_range_holds_the_truth(self) -> None:
        held = 0
        for seed in range(100, 200):
            offset = found(log(8, seed, at_work_k=1.5, at_rest_k=1.5, daily_sd=0.3))
            held += abs(offset.whole.mean_k - 1.5) <= offset.whole.half_k
        self.assertGreaterEqual(held, 88)

    def test_days_that_differ_by_more_than_its_step_give_no_correction(self) -> None:
        offset = found(log(5, 3, at_work_k=2.0, at_rest_k=1.0, daily_sd=1.5))
        self.assertIsNone(offset.correction_k)

    def test_where_nothing_tells_the_state_all_hours_count(self) -> None:
        given = log(7, 5, at_work_k=1.0, at_rest_k=1.0)
        none = np.zeros(given["day"].size, dtype=bool)
        offset = found({**given, "heating": none, "resting": none})
        self.assertEqual((offset.heating, offset.resting, offset.differs_by_k), (None, None, None))
        self.assertEqual(offset.correction_k, -1.0)

    def test_too_little_is_not_known(self) -> None:
        for days, gap in ((3, 0), (10, 10 * PER_DAY - 100)):
            given = log(days, 2, at_work_k=1, at_rest_k=1)
            given["own_c"][:gap] = np.nan
            with self.subTest(days=days), self.assertRaises(NotKnowable):
                found(given)
