"""One coil for many rooms: who suffers while it cools, what it takes, which vents are shut, and the pause from heat to cold."""

import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.ducts.shared_air import CHANGEOVER_MIN, DuctWish, SharedRooms, duct_run
from warmeter.core.forecast.duct_rooms import (
    choices_of,
    notch_effects_k,
    settled_day,
    shared_rooms,
    steady_rooms,
    trim_proposal,
    weights_of,
)
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem, RoomDifference, VentRound
from warmeter.simulators.ducted_house import ducted_home

LIMIT_C, HOT_C, COIL_W, EER = 25.0, 34.0, 7000.0, 3.2


def cooled() -> tuple[Home, DuctSystem]:
    """Return the ducted home with a coil."""
    home = ducted_home()
    system = replace(home.ducts[0], cooling_w=COIL_W, eer=EER)
    return replace(home, ducts=(system,)), system


class Cooling(unittest.TestCase):
    def test_the_leading_room_is_held_and_the_coil_takes_what_comes_in(self) -> None:
        """Over a settled day what the coil takes away is what comes through walls and from within: first law."""
        home, system = cooled()
        rooms, choice = shared_rooms(home, system), choices_of(home, system)[0]
        day, run = settled_day(home, system, rooms, choice, set_c=LIMIT_C, outdoor_c=HOT_C, is_cooling=True)
        self.assertAlmostEqual(day.room_c["living"], LIMIT_C, delta=0.1)
        self.assertGreater(day.starts, 2)
        taken_w = -float(run.heat_w.mean())
        state = steady_rooms(rooms, system, weights_of(rooms, choice), LIMIT_C, HOT_C, is_cooling=True)
        # At the steady state the sum of a·x + b·u over stores is nought; its only sink is the coil.
        steady_w = self.sink_w(rooms, state)
        self.assertAlmostEqual(taken_w, steady_w, delta=0.05 * steady_w)
        self.assertAlmostEqual(day.energy.cooling_kwh, taken_w * 24 / 1000 / EER, places=6)
        self.assertEqual(day.energy.source_kwh, 0.0)
        self.assertAlmostEqual(day.cold_h, 24 * taken_w / COIL_W, delta=0.01)

    @staticmethod
    def sink_w(rooms: SharedRooms, state: Floats) -> float:
        """Return what has to be taken from the air for a state to stand still [W]."""
        a, b, gain = rooms.a, rooms.b, rooms.gain_w
        rest = a @ state + b @ np.concatenate(([HOT_C], gain))
        return float((rest[0::2] * rooms.air_j_k).sum())

    def test_shutting_a_vent_warms_its_room_while_it_cools(self) -> None:
        home, system = cooled()
        choice = choices_of(home, system)[1]
        for effect in notch_effects_k(home, system, choice, set_c=LIMIT_C, outdoor_c=HOT_C, is_cooling=True).values():
            self.assertGreater(effect, 0.0)

    def test_the_room_that_is_too_cold_gets_less_of_the_cold(self) -> None:
        home, system = cooled()
        off = {"living": 0.9, "kitchen": 0.5, "study": -1.6, "front": 0.4, "back": -0.3, "nursery": 0.1}
        read = VentRound(
            on=date(2026, 7, 12),
            is_cooling=True,
            differences=tuple(RoomDifference(room_id=key, diff_k=value) for key, value in off.items()),
            notches=tuple((vent.id, vent.notch) for vent in system.vents),
        )
        found = trim_proposal(home, system, read, choices_of(home, system)[1], set_c=LIMIT_C, outdoor_c=HOT_C)
        now = {vent.id: vent.notch for vent in system.vents}
        self.assertGreater(found.notches["v-study"], now["v-study"])
        self.assertLess(found.notches["v-living"], now["v-living"])
        self.assertLess(found.trim.spread_after_k, found.trim.spread_before_k)

    def test_between_the_pair_neither_works_and_from_one_to_the_other_it_rests(self) -> None:
        """Outdoors swings from frost to heat within hours: heat and cold never follow each other at once."""
        home, system = cooled()
        rooms = shared_rooms(home, system)
        weights = weights_of(rooms, choices_of(home, system)[0])
        minutes = 3 * 1440
        outdoors = 16 + 30 * np.sin(2 * np.pi * np.arange(minutes + 1) / 720)
        wish = DuctWish(heating_c=np.full(minutes, 20.0), cooling_c=np.full(minutes, 21.5), weights=weights)
        run = duct_run(rooms, system, wish, outdoors, steady_rooms(rooms, system, weights, 20.5, 16.0))
        sign = np.sign(run.heat_w)
        self.assertTrue((sign > 0).any() and (sign < 0).any())
        working = np.flatnonzero(sign)
        turned = working[:-1][(sign[working][1:] != sign[working][:-1])]
        gaps = [int(working[np.searchsorted(working, k) + 1] - k) for k in turned]
        self.assertTrue(gaps)
        self.assertGreaterEqual(min(gaps), CHANGEOVER_MIN)
        lead = weights @ run.room_c[:, :-1]
        began = np.flatnonzero((sign[1:] != 0) & (sign[:-1] == 0)) + 1
        for k in began.tolist():
            self.assertTrue(lead[k] <= 20.0 if sign[k] > 0 else lead[k] >= 21.5, (k, lead[k], sign[k]))
