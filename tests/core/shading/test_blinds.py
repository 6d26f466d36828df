"""What blinds let through and spare, in rooms of another form than the model."""

import unittest
from dataclasses import replace
from functools import lru_cache

import numpy as np

from tests.sunny_room import SunnyRoom, sunny_room
from warmeter.core.errors import NotKnowable
from warmeter.core.shading.blind_days import GAIN, BlindLog, air_responses, use_outcomes
from warmeter.core.shading.blind_learning import learnt_blind
from warmeter.core.thermal.simulate import compile_rooms
from warmeter.core.thermal.survey import RoomRc

FULL_W = 1000.0


@lru_cache
def made(seed: int) -> SunnyRoom:
    return sunny_room(seed)


def log_of(room: SunnyRoom, lets: float) -> BlindLog:
    return BlindLog(
        step_s=600.0,
        room_c=room.room_c,
        outdoor_c=room.outdoor_c,
        heat_w=np.zeros(room.day.size),
        up_w=room.up_w[None],
        down=room.down[None],
        is_sunlit=(room.up_w > 100).astype(float)[None],
        lets=np.array([lets]),
        day=room.day,
    )


def draws(room: SunnyRoom) -> tuple[RoomRc, ...]:
    """Return the surveyed room and twenty that it could as well be."""
    rng, own = np.random.default_rng(3), room.surveyed
    found = [own]
    for _ in range(20):
        f = np.exp(rng.normal(0, 0.2, 5)).tolist()
        found.append(
            RoomRc(
                air_out_w_k=own.air_out_w_k * f[0],
                air_fabric_w_k=own.air_fabric_w_k * f[1],
                fabric_out_w_k=own.fabric_out_w_k * f[2],
                air_j_k=own.air_j_k * f[3],
                fabric_j_k=own.fabric_j_k * f[4],
            )
        )
    return tuple(found)


class Blinds(unittest.TestCase):
    def test_the_air_answers_as_an_energy_balance_says(self) -> None:
        """After a month of 100 W the air stands by 100 W over the loss of a room whose gains come half to its fabric."""
        room = RoomRc(air_out_w_k=30.0, air_fabric_w_k=200.0, fabric_out_w_k=20.0, air_j_k=5e5, fabric_j_k=5e6)
        given = np.zeros((1, 30 * 144, 4))
        given[0, :, GAIN] = 100.0
        found = air_responses(compile_rooms((room,), FULL_W, 600.0), given)[0, 0]
        # Air: 30 a + 200 (a − f) = 50; fabric: 20 f + 200 (f − a) = 50.
        air, _ = np.linalg.solve([[230.0, -200.0], [-200.0, 220.0]], [50.0, 50.0])
        self.assertAlmostEqual(float(found[-1]), float(air), places=3)
        self.assertEqual(float(found[0]), 0.0)

    def test_the_share_lies_in_its_range_in_rooms_of_another_form(self) -> None:
        for seed in (0, 4, 6):
            room = made(seed)
            found = learnt_blind(log_of(room, 0.5), draws(room), FULL_W)
            self.assertTrue(found.lets.low <= room.lets <= found.lets.high, (seed, room.lets, found.lets))
            self.assertLess(found.lets.high - found.lets.low, 0.5)

    def test_hours_too_hot_had_they_never_been_down(self) -> None:
        """The other house is run again with its blind up: what really happens there lies within the range."""
        for seed in (0, 4, 6):
            room = made(seed)
            log, limit = log_of(room, room.lets), float(np.quantile(room.room_c, 0.8))
            learnt = learnt_blind(log, draws(room), FULL_W)
            logged, never, _ = use_outcomes(log, draws(room), FULL_W, limit, learnt.sun)
            truth = float((room.free_c[1:] > limit).sum()) / 6
            self.assertTrue(never.hot_h.low <= truth <= never.hot_h.high, (seed, truth, never.hot_h))
            self.assertAlmostEqual(logged.hot_h.value, float((room.room_c[1:] > limit).sum()) / 6)
            self.assertGreater(never.cooling_kwh.value, logged.cooling_kwh.value)

    def test_days_with_it_always_up_tell_no_share(self) -> None:
        room = made(0)
        with self.assertRaisesRegex(NotKnowable, "sunny ones with it up and as many with it down"):
            learnt_blind(replace(log_of(room, 0.5), down=np.zeros((1, room.day.size))), draws(room), FULL_W)

    def test_a_blind_that_lets_all_through_spares_nothing(self) -> None:
        room = made(0)
        uses = use_outcomes(log_of(room, 1.0), draws(room), FULL_W, 27.0)
        self.assertEqual(len({round(each.hot_h.value, 6) for each in uses}), 1)
        self.assertEqual(len({round(each.sun_kwh, 6) for each in uses}), 1)
