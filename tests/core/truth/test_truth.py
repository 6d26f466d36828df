"""Truth of three values: and, or, not, held."""

import unittest

import numpy as np

from warmeter.core.errors import OutOfRange
from warmeter.core.rule.chatter import chatter
from warmeter.core.truth.truth import Truth, all_of, any_of, from_changes, held


class Arithmetic(unittest.TestCase):
    """Three values, against every combination."""

    def truth(self, *values: int) -> Truth:
        at = np.arange(len(values), dtype=np.int64) * 1000
        return from_changes(at, np.array(values, dtype=np.int8), 0, len(values) * 1000)

    def test_and_or_not_as_kleene_does(self) -> None:
        one = self.truth(*(a for a in (0, 1, 2) for _ in range(3)))
        other = self.truth(*((0, 1, 2) * 3))
        at = np.arange(9) * 1000
        self.assertEqual(all_of([one, other]).at(at).tolist(), [0, 0, 0, 0, 1, 1, 0, 1, 2])
        self.assertEqual(any_of([one, other]).at(at).tolist(), [0, 1, 2, 1, 1, 2, 2, 2, 2])
        self.assertEqual(one.negated.at(at).tolist(), [2, 2, 2, 1, 1, 1, 0, 0, 0])

    def test_held_needs_more_than_its_time(self) -> None:
        truth = self.truth(0, 2, 2, 0, 2, 2, 2, 1)
        self.assertEqual(held(truth, 2000).at(np.arange(8) * 1000).tolist(), [0, 0, 0, 0, 0, 0, 2, 1])

    def test_a_span_must_have_a_meaning(self) -> None:
        with self.assertRaises(OutOfRange):
            chatter([], min_on_s=1, window_s=1, span_s=0)


if __name__ == "__main__":
    unittest.main()
