"""Rooms: closed forms, exact steps, control and lead times against independent ways."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from warmeter.core.arrays import Floats
from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.thermal.comfort import degree_hours
from warmeter.core.thermal.heat_pump import cop_at
from warmeter.core.thermal.network import Link, RcNetwork, exact_step
from warmeter.core.thermal.simulate import (
    BoundaryConditions,
    OnOff,
    Run,
    compile_rooms,
    controlled_run,
    latest_starts,
    plain_controlled_run,
    room_network,
    room_system,
    tracked_state,
)
from warmeter.core.thermal.single_rc import SingleRc
from warmeter.core.thermal.survey import Element, RoomRc, room_from_survey

ROOM = RoomRc(
    air_out_w_k=20.0,
    air_fabric_w_k=160.0,
    fabric_out_w_k=25.0,
    air_j_k=4e5,
    fabric_j_k=4e6,
    emitter_lag_s=600.0,
    convective=0.7,
)


def night(
    draws: int = 1, minutes: int = 600, outdoor_c: float = 2.0, floor_c: float = 16.0, start_c: float = 20.0
) -> BoundaryConditions:
    """Return a night of setback at a steady outdoor temperature."""
    return BoundaryConditions(
        outdoor_c=np.full((draws, minutes + 1), outdoor_c),
        gain_w=np.full((draws, minutes), 50.0),
        setpoint_c=np.full(minutes, floor_c),
        start_c=np.full((draws, 3), start_c),
    )


PANEL = OnOff(full_heat_w=2500.0, band_k=0.4, min_on_steps=3, min_off_steps=5)


class SingleStore(unittest.TestCase):
    def test_room_cools_to_outdoor_temperature_without_heat(self) -> None:
        room = SingleRc(resistance_k_w=0.02, capacity_j_k=5e6)
        self.assertAlmostEqual(room.temperature_c(start_c=20, power_w=0, outdoor_c=3, after_s=1e8), 3.0)

    @settings(deadline=None, derandomize=True)
    @given(st.floats(0.005, 0.1), st.floats(1e5, 1e8), st.floats(-500, 4000), st.floats(-15, 30), st.floats(0, 1e5))
    def test_two_half_steps_are_one_step(self, r: float, c: float, p: float, out: float, t: float) -> None:
        room = SingleRc(resistance_k_w=r, capacity_j_k=c)
        middle = room.temperature_c(start_c=18, power_w=p, outdoor_c=out, after_s=t / 2)
        twice = room.temperature_c(start_c=middle, power_w=p, outdoor_c=out, after_s=t / 2)
        self.assertAlmostEqual(twice, room.temperature_c(start_c=18, power_w=p, outdoor_c=out, after_s=t), places=6)

    def test_no_store_or_resistance_below_zero(self) -> None:
        for r, c in ((0, 1e6), (0.02, 0), (-1, 1e6), (float("nan"), 1e6)):
            with self.assertRaises(OutOfRange):
                SingleRc(resistance_k_w=r, capacity_j_k=c)


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


class Survey(unittest.TestCase):
    def test_surveyed_loss_is_the_sum_of_its_parts(self) -> None:
        room = room_from_survey(
            floor_area_m2=20,
            volume_m3=50,
            air_change_1_h=0.5,
            windows=[Element(name="w", area_m2=3, u_w_m2k=1.5)],
            opaque=[Element(name="o", area_m2=30, u_w_m2k=0.4)],
            mass_class="heavy",
        )
        self.assertAlmostEqual(room.loss_w_k, 0.34 * 0.5 * 50 + 3 * 1.5 + 30 * 0.4)

    def test_an_envelope_that_loses_too_much_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            room_from_survey(
                floor_area_m2=2,
                volume_m3=5,
                air_change_1_h=0.5,
                windows=[],
                opaque=[Element(name="o", area_m2=100, u_w_m2k=5)],
                mass_class="light",
            )

    def test_doubtful_elements_are_refused(self) -> None:
        for area, u in ((-1.0, 1.0), (1.0, 0.0), (1.0, 50.0)):
            with self.assertRaises(OutOfRange):
                Element(name="x", area_m2=area, u_w_m2k=u)


class HeatPump(unittest.TestCase):
    def test_cop_runs_straight_between_points_and_holds_beyond(self) -> None:
        points = [(-7.0, 2.0), (7.0, 4.0)]
        np.testing.assert_allclose(cop_at(points, np.array([-20.0, -7, 0, 7, 20])), [2, 2, 3, 4, 4])

    def test_points_must_rise(self) -> None:
        for points in ([], [(7.0, 3.0), (2.0, 2.0)]):
            with self.assertRaises(HomeError):
                cop_at(points, np.zeros(1))


class Control(unittest.TestCase):
    def boundary(self) -> BoundaryConditions:
        rng = np.random.default_rng(3)
        setpoint = np.where(np.arange(2000) % 700 < 300, 20.0, 16.0)
        return BoundaryConditions(
            outdoor_c=rng.normal(3, 2, (4, 2001)),
            gain_w=rng.uniform(0, 200, (4, 2000)),
            setpoint_c=setpoint,
            start_c=np.full((4, 3), 17.0),
        )

    def rooms(self) -> list[RoomRc]:
        return [
            replace(ROOM, fabric_j_k=ROOM.fabric_j_k * f, emitter_lag_s=lag)
            for f, lag in ((1, 600), (2, 0), (0.5, 60), (1, 3000))
        ]

    def test_kernel_equals_the_plain_loop(self) -> None:
        step = compile_rooms(self.rooms(), 2500.0, 60.0)
        fast, plain = controlled_run(step, self.boundary(), PANEL), plain_controlled_run(step, self.boundary(), PANEL)
        np.testing.assert_array_equal(fast.heat_w, plain.heat_w)
        np.testing.assert_allclose(fast.states_c, plain.states_c, atol=1e-9)

    def test_energy_is_kept(self) -> None:
        room = replace(ROOM, emitter_lag_s=0.0)
        step, boundary = compile_rooms([room], 2500.0, 60.0), night(minutes=3000)
        run = controlled_run(step, boundary, PANEL)
        states = run.states_c[0]
        stored = room.air_j_k * (states[-1, 0] - states[0, 0]) + room.fabric_j_k * (states[-1, 1] - states[0, 1])
        middle = (states[1:] + states[:-1]) / 2
        lost = ((middle[:, 0] - 2) * room.air_out_w_k + (middle[:, 1] - 2) * room.fabric_out_w_k).sum() * 60
        given_j = run.heat_w.sum() * 60 + 50.0 * 3000 * 60
        # The loss is taken at step middles: right to a few parts in a thousand of what was given.
        self.assertAlmostEqual((stored + lost) / given_j, 1.0, delta=0.004)

    def test_minimum_times_are_kept(self) -> None:
        run = controlled_run(compile_rooms([ROOM], 2500.0, 60.0), night(minutes=3000), PANEL)
        on = run.heat_w[0] > 0
        edges = np.flatnonzero(np.diff(on.astype(int)))
        stretches = np.diff(edges)
        is_on = on[edges[:-1] + 1]
        self.assertGreaterEqual(int(stretches[is_on].min()), 3)
        self.assertGreaterEqual(int(stretches[~is_on].min()), 5)

    def test_room_stays_within_band_and_overshoot(self) -> None:
        run = controlled_run(compile_rooms([ROOM], 2500.0, 60.0), night(minutes=4000, start_c=16.0), PANEL)
        air = run.air_c[0, 1000:]
        self.assertGreater(float(air.min()), 15.4)
        self.assertLess(float(air.max()), 17.2)


class Leads(unittest.TestCase):
    def setUp(self) -> None:
        self.step, self.boundary = compile_rooms([ROOM, replace(ROOM, air_out_w_k=30.0)], 2500.0, 60.0), night(2)
        self.night_run = controlled_run(self.step, self.boundary, PANEL)

    def leads(self, target_c: float, due: int = 600, earliest: int = 0) -> np.ndarray:
        return latest_starts(
            self.step, self.boundary, self.night_run, full_heat_w=2500.0, target_c=target_c, due=due, earliest=earliest
        )

    def brute_force(self, draw: int, target_c: float, due: int) -> int | None:
        """Return the latest start by trying every minute with the plain loop at full heat."""
        one = type(self.step)(*(m[draw : draw + 1] for m in (self.step.state, self.step.now, self.step.then)))
        always = OnOff(full_heat_w=2500.0, band_k=0.2, min_on_steps=1, min_off_steps=1)
        for lead in range(due + 1):
            begin = due - lead
            boundary = BoundaryConditions(
                self.boundary.outdoor_c[draw : draw + 1, begin : due + 1],
                self.boundary.gain_w[draw : draw + 1, begin:due],
                np.full(lead, 99.0),
                self.night_run.states_c[draw : draw + 1, begin],
            )
            if plain_controlled_run(one, boundary, always).air_c[0].max() >= target_c - 1e-9:
                return lead
        return None

    def test_bisection_finds_what_trying_every_minute_finds(self) -> None:
        for target in (17.0, 18.5, 20.0):
            for draw in (0, 1):
                with self.subTest(target=target, draw=draw):
                    self.assertEqual(self.leads(target)[draw], self.brute_force(draw, target, 600))

    def test_a_warm_room_needs_no_lead(self) -> None:
        self.assertEqual(self.leads(15.0).tolist(), [0.0, 0.0])

    def test_too_late_is_no_number(self) -> None:
        self.assertTrue(np.isnan(self.leads(20.0, earliest=595)).all())
        self.assertTrue(np.isnan(self.leads(60.0)).all())

    def test_colder_outdoors_takes_longer(self) -> None:
        found = []
        for outdoor in (8.0, 2.0, -6.0):
            boundary = night(2, outdoor_c=outdoor)
            run = controlled_run(self.step, boundary, PANEL)
            found.append(
                latest_starts(self.step, boundary, run, full_heat_w=2500.0, target_c=20.0, due=600, earliest=0)[0]
            )
        self.assertEqual(found, sorted(found))


class Tracking(unittest.TestCase):
    def test_tracking_finds_the_state_of_a_room_like_the_model(self) -> None:
        step, minutes = compile_rooms([ROOM], 2500.0, 300.0), 2000
        boundary = night(1, minutes)
        run: Run = controlled_run(step, boundary, PANEL)
        state = tracked_state(
            step,
            outdoor_c=boundary.outdoor_c[0],
            heat_w=run.heat_w[0],
            gain_w=boundary.gain_w,
            measured_c=run.air_c[0],
            start_c=np.full((1, 3), 25.0),
        )
        np.testing.assert_allclose(state[0], run.states_c[0, -1], atol=0.05)


class DegreeHours(unittest.TestCase):
    def test_many_rooms_at_once_and_additive(self) -> None:
        theta = np.array([[17.0, 18.5, 19.0], [20.0, 16.0, 18.0]])
        whole = degree_hours(theta, 18.0, 1800.0)
        np.testing.assert_allclose(whole, [0.5, 1.0])
        np.testing.assert_allclose(
            whole, degree_hours(theta[:, :1], 18.0, 1800.0) + degree_hours(theta[:, 1:], 18.0, 1800.0)
        )
