"""Networks of stores and conductances."""

import unittest
from dataclasses import replace

import numpy as np
from scipy.integrate import solve_ivp

from warmeter.core.arrays import Floats
from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.thermal.network import Link, RcNetwork, exact_step
from warmeter.core.thermal.simulate import room_network, room_system
from warmeter.core.thermal.survey import RoomRc

ROOM = RoomRc(
    air_out_w_k=20.0,
    air_fabric_w_k=160.0,
    fabric_out_w_k=25.0,
    air_j_k=4e5,
    fabric_j_k=4e6,
    emitter_lag_s=600.0,
    convective=0.7,
)


class Networks(unittest.TestCase):
    def test_exact_step_agrees_with_a_solver_for_ramped_weather(self) -> None:
        a, b = room_system(ROOM, 2000.0, 30.0)
        step = exact_step(a, b, 900.0)
        start, now, then = (
            np.array([18.0, 17.0, 20.0]),
            np.array([0.0, 1500.0, 100.0, 15.0]),
            np.array([3.0, 1500.0, 100.0, 15.0]),
        )

        def slope(t: float, x: Floats) -> Floats:
            slopes: Floats = a @ x + b @ (now + (then - now) * t / 900)
            return slopes

        solved = solve_ivp(slope, (0, 900), start, method="DOP853", rtol=1e-12, atol=1e-12).y[:, -1]
        np.testing.assert_allclose(step.state @ start + step.now @ now + step.then @ then, solved, atol=1e-9)

    def test_uniform_temperature_without_heat_stays(self) -> None:
        a, b = room_system(ROOM, 2000.0, 30.0)
        step = exact_step(a, b, 60.0)
        np.testing.assert_allclose(
            step.state @ np.full(3, 7.0) + step.held @ np.array([7.0, 0, 0, 7.0]), 7.0, atol=1e-12
        )

    def test_steady_heat_equals_loss_times_excess(self) -> None:
        for lag in (0.0, 900.0):
            room = replace(ROOM, emitter_lag_s=lag, convective=1.0)
            a, b = room_system(room, 2000.0)
            steady = np.linalg.solve(a, -b @ np.array([0.0, 1000.0, 0.0, 0.0]))
            self.assertAlmostEqual(float(steady[0]) * room.loss_w_k, 1000.0, places=6)

    def test_emitter_node_stores_its_lag(self) -> None:
        network = room_network(ROOM, 3000.0)
        self.assertAlmostEqual(network.capacities_j_k["emitter"], 3000 / 30 * 600)

    def test_impossible_networks_are_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            RcNetwork(capacities_j_k={"air": 0.0}, boundaries=["out"], links=[])
        with self.assertRaises(OutOfRange):
            RcNetwork(capacities_j_k={"air": 1.0}, boundaries=["out"], links=[Link("air", "out", -1.0)])
        with self.assertRaisesRegex(HomeError, "attic"):
            RcNetwork(capacities_j_k={"air": 1.0}, boundaries=["out"], links=[Link("air", "attic", 1.0)])
        with self.assertRaises(OutOfRange):
            exact_step(np.array([[-1.0]]), np.array([[1.0]]), 0.0)


if __name__ == "__main__":
    unittest.main()
