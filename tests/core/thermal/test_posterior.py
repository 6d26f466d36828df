"""The climb to the likeliest room."""

import unittest

import numpy as np

from tests.core.thermal.test_identify import SURVEY, made_log
from warmeter.core.thermal.posterior import POINT_SIZE, Posterior, curvature, solve
from warmeter.core.thermal.room_fit import prior_of_room


class Climb(unittest.TestCase):
    def test_the_best_point_has_no_slope_and_a_bowl_around_it(self) -> None:
        log = made_log(5)
        posterior = Posterior(log, prior_of_room(SURVEY, 20.0), "two stores", 2200.0)
        best = solve(posterior, np.zeros(POINT_SIZE), lambda: None)
        rng = np.random.default_rng(3)
        for _ in range(5):
            self.assertGreater(posterior.cost(best + 0.3 * rng.normal(size=POINT_SIZE)), posterior.cost(best))
        self.assertTrue((np.linalg.eigvalsh(curvature(posterior, best)) > 0).all())

    def test_the_prior_alone_answers_where_the_log_is_not_trusted(self) -> None:
        posterior = Posterior(made_log(3), prior_of_room(SURVEY, 20.0), "two stores", 2200.0)
        point = np.linspace(-1, 1, POINT_SIZE)
        self.assertAlmostEqual(posterior.cost(point, trust=0.0), 0.5 * float(point @ point))

    def test_a_point_without_meaning_costs_without_end(self) -> None:
        posterior = Posterior(made_log(3), prior_of_room(SURVEY, 20.0), "two stores", 2200.0)
        self.assertGreater(posterior.cost(np.full(POINT_SIZE, np.nan)), 1e11)


if __name__ == "__main__":
    unittest.main()
