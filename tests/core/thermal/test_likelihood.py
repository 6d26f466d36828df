"""The filter over room and unlogged heat, against dense covariances and against what it is told."""

import unittest
from dataclasses import replace

import numpy as np
from scipy.stats import multivariate_normal

from tests.core.thermal.test_identify import TRUTH, made_log
from warmeter.core.thermal.likelihood import CLOUD, QUICK, STATES, LogFilter, Unlogged
from warmeter.core.thermal.room_fit import RoomLog

UNLOGGED = Unlogged(gain_w=70.0, sun_m2=0.4, quick_w=60.0, slow_w=40.0, local_k=0.1, noise_k=0.08)


def short_log() -> RoomLog:
    """Return an hour and a half of a room under a sun, with a reading missing."""
    log = made_log(2).part(400, 418)
    room = log.room_c.copy()
    room[5] = np.nan
    return replace(log, room_c=room, clear_sky_w_m2=np.linspace(0, 300, 18))


class Filter(unittest.TestCase):
    def test_it_gives_the_density_of_the_dense_normal(self) -> None:
        """All states of all instants as one normal, built without any filtering."""
        log = short_log()
        for unlogged in (UNLOGGED, replace(UNLOGGED, beside_heater_k=2.0)):
            held = LogFilter(log, log.clear_sky_w_m2, 2200.0)
            moves, steps = held._moves(TRUTH, unlogged), log.heat_w.size
            mean = [moves.start_mean[0]]
            joint = np.zeros(((steps + 1) * STATES,) * 2)
            joint[:STATES, :STATES] = np.diag(moves.start_var)
            for k in range(steps):
                step = held._step(moves, k)
                here, then = slice(k * STATES, (k + 1) * STATES), slice((k + 1) * STATES, (k + 2) * STATES)
                mean.append(step @ mean[k] + np.concatenate([moves.boundary[k], np.zeros(STATES - 3)]))
                joint[then, : (k + 1) * STATES] = step @ joint[here, : (k + 1) * STATES]
                joint[: (k + 1) * STATES, then] = joint[then, : (k + 1) * STATES].T
                joint[then, then] = step @ joint[here, here] @ step.T + np.diag(moves.wander)
            seen = np.kron(np.eye(steps + 1), moves.seen[None, :])
            heard = ~np.isnan(log.room_c)
            covariance = (seen @ joint @ seen.T + moves.noise_var * np.eye(steps + 1))[np.ix_(heard, heard)]
            expected = multivariate_normal((seen @ np.concatenate(mean))[heard], covariance).logpdf(log.room_c[heard])
            found = -0.5 * (held.deviance(TRUTH, unlogged) + heard.sum() * np.log(2 * np.pi))
            self.assertAlmostEqual(found, float(expected), places=6)

    def test_the_truth_is_likelier_than_a_room_that_loses_twice_as_much(self) -> None:
        log = made_log(4)
        held = LogFilter(log, log.clear_sky_w_m2, 2200.0)
        twice = replace(TRUTH, air_out_w_k=2 * TRUTH.air_out_w_k, fabric_out_w_k=2 * TRUTH.fabric_out_w_k)
        self.assertLess(held.deviance(TRUTH, UNLOGGED), held.deviance(twice, UNLOGGED) - 10)

    def test_smoothing_finds_the_hours_of_a_heater_that_nobody_logged(self) -> None:
        log = made_log(4)
        hidden = np.zeros(log.heat_w.size)
        for day in range(4):
            hidden[day * 288 + 228 : day * 288 + 264] = 400.0
        # A quarter of what heated the room in those hours is taken out of the log.
        logged = replace(log, heat_w=log.heat_w - np.minimum(hidden, log.heat_w))
        held = LogFilter(logged, logged.clear_sky_w_m2, 2200.0)
        states = held.smoothed(TRUTH, replace(UNLOGGED, quick_w=200.0))
        inside = hidden > 0
        missing = np.minimum(hidden, log.heat_w)[inside].mean()
        self.assertAlmostEqual(states[:-1, QUICK][inside].mean(), missing, delta=0.4 * missing)
        self.assertLess(abs(states[:-1, QUICK][~inside].mean()), 0.25 * missing)

    def test_a_free_run_sees_nothing_of_what_it_runs_over(self) -> None:
        log = made_log(4)
        spoilt = log.room_c.copy()
        spoilt[801:] += 3.0
        runs = [
            LogFilter(replace(log, room_c=c), log.clear_sky_w_m2, 2200.0).free_run_c(TRUTH, UNLOGGED, 800)
            for c in (log.room_c, spoilt)
        ]
        np.testing.assert_allclose(runs[0], runs[1])
        self.assertLess(float(np.nanstd((runs[0] - log.room_c)[801:])), 0.3)

    def test_clouds_are_seen_day_by_day(self) -> None:
        log = replace(made_log(3), clear_sky_w_m2=np.tile(np.clip(np.sin(np.linspace(-1.5, 4.6, 288)), 0, 1) * 400, 3))
        held = LogFilter(log, log.clear_sky_w_m2, 2200.0)
        # The log was made without sun: the aperture is taken back by the clouds.
        cloud = held.smoothed(TRUTH, replace(UNLOGGED, sun_m2=0.5))[:-1, CLOUD]
        self.assertLess(float(cloud[log.clear_sky_w_m2 > 200].mean()), -0.1)
