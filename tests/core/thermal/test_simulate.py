"""Rooms: closed forms, exact steps, control and lead times against independent ways."""

import unittest
from dataclasses import replace

import numpy as np

from warmeter.core.thermal.simulate import (
    BoundaryConditions,
    OnOff,
    Run,
    compile_rooms,
    controlled_run,
    latest_starts,
    plain_controlled_run,
    tracked_state,
)
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
