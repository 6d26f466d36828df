"""Shares of the air by the rooms' logs, in a house of another form than anything here."""

import unittest

import numpy as np

from warmeter.core.ducts.learnt_shares import learnt_shares
from warmeter.core.errors import NotKnowable
from warmeter.simulators.ducted_house import ROOMS, ducted_home, other_house

VOLUME_M3 = np.array([width * depth * 2.5 for *_, width, depth in ROOMS])


class LearntShares(unittest.TestCase):
    def test_within_their_ranges_and_nearer_than_by_area(self) -> None:
        system = ducted_home().ducts[0]
        for seed in (2, 3):
            house, rng = other_house(seed), np.random.default_rng(seed + 1)
            notches = {f"v-{key}": int(rng.integers(0, 9)) for key, *_ in ROOMS}
            room_c, heating = house.log(system, notches, hours=72, seed=seed)
            truth, found = house.shares(notches), learnt_shares(room_c, heating, VOLUME_M3, 1.0)
            for room, (estimate, true) in enumerate(zip(found.shares, truth.tolist(), strict=True)):
                self.assertTrue(estimate.low <= true <= estimate.high, (seed, room, estimate, true))
            off = max(abs(e.value - t) for e, t in zip(found.shares, truth.tolist(), strict=True))
            by_area = float(np.abs(VOLUME_M3 / VOLUME_M3.sum() - truth).max())
            self.assertLess(off, by_area)
            self.assertAlmostEqual(sum(e.value for e in found.shares), 1.0)

    def test_plain_ramps_by_hand(self) -> None:
        """Two rooms at rest; after each start one gains 0.1 K a minute in 50 m³, the other 0.05 K in 20: 5 to 1."""
        heating = np.tile(np.repeat([0.0, 1.0], [20, 20]), 12)
        minute = np.tile(np.append(np.zeros(20), np.arange(20.0)), 12)
        room_c = np.stack([20 + 0.1 * minute, 18 + 0.05 * minute])
        found = learnt_shares(room_c, heating, np.array([50.0, 20.0]), 1.0)
        self.assertEqual(found.starts, 12)
        self.assertAlmostEqual(found.shares[0].value, 5 / 6)
        self.assertAlmostEqual(found.shares[1].value, 1 / 6)

    def test_too_few_starts_too_coarse_and_rooms_not_heard_are_not_known(self) -> None:
        heating = np.tile(np.repeat([0.0, 1.0], [20, 20]), 4)
        room_c, volume = np.full((2, heating.size), 20.0), np.array([50.0, 20.0])
        with self.assertRaisesRegex(NotKnowable, "4 starts|3 starts"):
            learnt_shares(room_c, heating, volume, 1.0)
        with self.assertRaisesRegex(NotKnowable, "5 min apart"):
            learnt_shares(room_c, heating, volume, 5.0)
        room_c[1] = np.nan
        with self.assertRaisesRegex(NotKnowable, "0 starts"):
            learnt_shares(room_c, heating, volume, 1.0)
