"""Rooms beside each other: what a shared wall brings, against both rooms stepped together in plain floats."""

import unittest

import numpy as np

from tests.drawn import drawn_home
from warmeter.core.building.groupings import RoomsRun
from warmeter.core.building.neighbours import beside_c, hourly_c
from warmeter.core.building.room_envelope import shared_w_k
from warmeter.core.thermal.proportional import Proportional, full_heat_reach_c, proportional_run
from warmeter.core.thermal.simulate import BoundaryConditions, compile_rooms
from warmeter.core.thermal.survey import RoomRc

ROOM = RoomRc(
    air_out_w_k=20.0,
    air_fabric_w_k=150.0,
    fabric_out_w_k=18.0,
    air_j_k=4e5,
    fabric_j_k=4e6,
    emitter_lag_s=0.0,
    convective=1.0,
)
SHARED_W_K, DAYS, INNER = 45.0, 4, 4
HEATER = Proportional(full_heat_w=1800.0, band_k=0.5)


def both(setpoints: np.ndarray, outdoor: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return (air, fabric, heat) of two like rooms beside each other, by Euler steps of a quarter minute."""
    steps = setpoints.shape[1]
    air, fabric, heat = (np.empty((2, steps)) for _ in range(3))
    a, f = [18.0, 18.0], [17.0, 17.0]
    for k in range(steps):
        for r in range(2):
            air[r, k], fabric[r, k] = a[r], f[r]
            share = 0.5 + (setpoints[r, k] - a[r]) / HEATER.band_k
            heat[r, k] = HEATER.full_heat_w * min(max(share, 0.0), 1.0)
        for _ in range(INNER):
            da = [20.0 * (outdoor - a[r]) + 150.0 * (f[r] - a[r]) + heat[r, k] for r in range(2)]
            df = [18.0 * (outdoor - f[r]) + 150.0 * (a[r] - f[r]) + SHARED_W_K * (f[1 - r] - f[r]) for r in range(2)]
            for r in range(2):
                a[r] += da[r] * 60 / INNER / 4e5
                f[r] += df[r] * 60 / INNER / 4e6
    return air, fabric, heat


class Beside(unittest.TestCase):
    def setUp(self) -> None:
        minute = np.arange(DAYS * 1440) % 1440
        night = (minute < 360) | (minute >= 1320)
        self.setpoints = np.stack([np.where(night, 16.0, 20.0), np.full(minute.size, 14.0)])
        self.air, self.fabric, self.heat = both(self.setpoints, 2.0)

    def alone(self, conductance: float, beside: np.ndarray | None) -> np.ndarray:
        """Return the first room's air by its own run, told what is beside it."""
        steps = self.setpoints.shape[1]
        step = compile_rooms([ROOM], HEATER.full_heat_w, 60.0, conductance)
        boundary = BoundaryConditions(
            outdoor_c=np.full((1, steps + 1), 2.0),
            gain_w=np.zeros((1, steps)),
            setpoint_c=self.setpoints[0],
            start_c=np.array([[18.0, 17.0, 18.0]]),
            beside_c=beside,
        )
        run = proportional_run(step, boundary, HEATER)
        return np.vstack([run.air_c[0, :-1], run.heat_w[0]])

    def test_told_the_hourly_temperature_beside_a_room_runs_as_both_together(self) -> None:
        air, heat = self.alone(SHARED_W_K, hourly_c(self.fabric[1], 60))
        self.assertLess(float(np.abs(air - self.air[0]).max()), 0.05)
        self.assertAlmostEqual(heat.sum() / self.heat[0].sum(), 1.0, delta=0.005)

    def test_taken_alone_it_would_miss_what_the_cold_room_takes(self) -> None:
        air, heat = self.alone(0.0, None)
        self.assertLess(heat.sum() / self.heat[0].sum(), 0.93)
        self.assertGreater(float(np.abs(air - self.air[0]).max()), 0.3)

    def test_full_heat_for_ever_beside_a_warm_room_reaches_further_by_the_balance(self) -> None:
        step = compile_rooms([ROOM], 600.0, 60.0, SHARED_W_K)
        left = np.array([[170.0, -150.0], [-150.0, 150.0 + 18.0 + SHARED_W_K]])
        for beside in (12.0, 22.0):
            wanted = np.linalg.solve(left, [20.0 * -5.0 + 600.0, 18.0 * -5.0 + SHARED_W_K * beside])[0]
            found = full_heat_reach_c(
                step, outdoor_c=np.array([-5.0]), gain_w=np.zeros(1), full_heat_w=600.0, beside_c=beside
            )
            self.assertAlmostEqual(float(found[0]), float(wanted), places=6)


class Shared(unittest.TestCase):
    def test_both_rooms_share_the_same_wall(self) -> None:
        home = drawn_home()
        den, study = home.rooms[:2]
        ways = shared_w_k(home, den), shared_w_k(home, study)
        self.assertAlmostEqual(ways[0][study.id], ways[1][den.id], places=9)
        self.assertGreater(ways[0][study.id], 0)

    def test_what_is_beside_is_weighted_by_what_is_shared(self) -> None:
        run = RoomsRun(
            air_c=np.zeros((3, 2)), fabric_c=np.array([[1.0, 1.0], [10.0, 20.0], [16.0, 2.0]]), fired_w=np.zeros((0, 2))
        )
        np.testing.assert_allclose(beside_c({"b": 10.0, "c": 20.0}, run, ("a", "b", "c")), [14.0, 8.0])

    def test_hours_hold_their_mean_to_a_fifth(self) -> None:
        found = hourly_c(np.array([10.0, 10.2, 10.31, 12.0, 12.0]), 3)
        np.testing.assert_allclose(found, [10.2, 10.2, 10.2, 12.0, 12.0])


if __name__ == "__main__":
    unittest.main()
