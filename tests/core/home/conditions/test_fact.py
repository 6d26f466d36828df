"""A fact that a person or a rule marks."""

import unittest

import numpy as np

from tests.rules_at_work import NOON, AtWork, H, scope
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.truth.scope import Marks
from warmeter.core.truth.truth import FALSE, TRUE


class MarkedFact(AtWork):
    def test_a_fact_is_marked_and_forgotten(self) -> None:
        marks = {"guests": Marks(np.array([NOON + 60_000]), np.array([True]))}
        log = scope(20, marks=marks)
        self.assertEqual(self.told(Fact(word="guests"), log), [(0, FALSE), (60, TRUE)])
        self.assertEqual(self.told(Fact(word="guests", reset_min=0), log), [(0, FALSE), (60, TRUE), (12 * H, FALSE)])


if __name__ == "__main__":
    unittest.main()
