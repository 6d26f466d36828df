"""Fits under gaps, unlogged gains and odd steps; balances and ranges against their definitions."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.thermal.test_identify import SURVEY, TRUTH, fitted, made_log
from warmeter.core.thermal.identify import plain_balance
from warmeter.core.thermal.likelihood import LogFilter
from warmeter.core.thermal.room_fit import even_normals, learnt_from, prior_of_room, survey_draws

PRIOR = prior_of_room(SURVEY, 20.0)


class Gaps(unittest.TestCase):
    def test_a_stretch_without_heat_is_left_out_and_the_loss_still_found(self) -> None:
        log = made_log()
        heat = log.heat_w.copy()
        heat[900:1100] = np.nan
        fit = fitted(replace(log, heat_w=heat))
        self.assertAlmostEqual(fit.loss_w_k.value / TRUTH.loss_w_k, 1.0, delta=0.06)
        self.assertLess(fit.hours, made_log().heat_w.size * 300 / 3600 - 15)

    def test_after_a_gap_in_the_inputs_the_room_starts_afresh(self) -> None:
        log = made_log(4)
        heat = log.heat_w.copy()
        heat[300:310], heat[600:640] = np.nan, np.nan
        filtered = LogFilter(replace(log, heat_w=heat), log.clear_sky_w_m2, 2200.0)
        self.assertEqual(filtered._stretches(), [(0, 310), (310, 640), (640, log.heat_w.size + 1)])
        self.assertTrue(np.isnan(filtered.measured_c[301:311]).all())

    def test_gaps_in_the_outdoor_temperature_count_as_gaps(self) -> None:
        log = made_log(4)
        outdoor = log.outdoor_c.copy()
        outdoor[500:520] = np.nan
        self.assertEqual(int((~replace(log, outdoor_c=outdoor).known).sum()), 21)


class Gains(unittest.TestCase):
    def test_unlogged_gains_are_seen_and_do_not_pass_for_insulation(self) -> None:
        poor, rich = (fitted(made_log(gain_w=g)) for g in (20.0, 160.0))
        self.assertAlmostEqual(rich.gain_w.value - poor.gain_w.value, 140.0, delta=100.0)
        for fit in (poor, rich):
            self.assertTrue(fit.loss_w_k.low <= TRUTH.loss_w_k <= fit.loss_w_k.high)

    def test_the_balance_is_mean_heat_over_mean_excess(self) -> None:
        log = made_log(6)
        heard = ~np.isnan(log.room_c[1:])
        excess = float((log.room_c[1:] - log.outdoor_c[1:])[heard].mean())
        balance = plain_balance(log, PRIOR)
        self.assertAlmostEqual(balance.low_w_k, float(log.heat_w[heard].mean()) / excess)
        self.assertAlmostEqual(balance.high_w_k - balance.loss_w_k, balance.loss_w_k - balance.low_w_k)

    def test_noise_widens_the_range(self) -> None:
        quiet, loud = (fitted(made_log(noise_k=n)) for n in (0.02, 0.4))
        self.assertGreaterEqual(loud.loss_w_k.half_width, quiet.loss_w_k.half_width)


class Ranges(unittest.TestCase):
    def test_few_even_draws_keep_mean_and_spread_and_are_hardly_alike(self) -> None:
        draws = even_normals(400, 3)
        np.testing.assert_allclose(draws.mean(axis=0), 0.0, atol=1e-9)
        np.testing.assert_allclose(np.cov(draws.T), np.eye(3), atol=0.06)

    def test_ranges_of_logarithms_and_of_plain_numbers(self) -> None:
        draws = np.exp(even_normals(200, 1)[:, 0] * 0.1) * 50
        learnt = learnt_from(50.0, draws)
        self.assertAlmostEqual(learnt.low, 50 * np.exp(-0.196), delta=0.1)
        self.assertAlmostEqual(learnt.high, 50 * np.exp(0.196), delta=0.1)
        self.assertAlmostEqual(learnt.half_width, (learnt.high - learnt.low) / 100)

    def test_survey_draws_begin_with_the_survey_and_keep_gains_above_zero(self) -> None:
        rooms, gains, suns = survey_draws(PRIOR)
        self.assertEqual((rooms[0], len(rooms), gains[0]), (SURVEY, 33, PRIOR.gain_w))
        self.assertTrue((gains >= 0).all() and (suns >= 0).all())
        spread = np.std([np.log(room.air_out_w_k) for room in rooms[1:]], ddof=1)
        self.assertAlmostEqual(float(spread), 0.30, delta=0.01)


class Steps(unittest.TestCase):
    def test_coarser_logs_find_the_same_loss(self) -> None:
        log = made_log()
        for every in (2, 6):
            steps = log.heat_w.size // every * every
            coarse = replace(
                log,
                step_s=300.0 * every,
                room_c=log.room_c[: steps + 1 : every],
                outdoor_c=log.outdoor_c[: steps + 1 : every],
                heat_w=log.heat_w[:steps].reshape(-1, every).mean(axis=1),
                clear_sky_w_m2=np.zeros(steps // every),
                day=log.day[:steps:every],
            )
            with self.subTest(every):
                self.assertAlmostEqual(fitted(coarse).loss_w_k.value / TRUTH.loss_w_k, 1.0, delta=0.06)

    def test_half_a_degree_steps_of_the_sensor_do_not_bias_it(self) -> None:
        log = made_log()
        coarse = fitted(replace(log, room_c=np.round(log.room_c * 2) / 2))
        self.assertAlmostEqual(coarse.loss_w_k.value / TRUTH.loss_w_k, 1.0, delta=0.06)
