"""A long trace in as many buckets as a picture has columns."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.signature.buckets import buckets


class Zoom(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(st.lists(st.one_of(st.floats(0, 100), st.just(float("nan"))), min_size=1, max_size=60), st.integers(1, 70))
    def test_buckets_hold_the_least_the_mean_and_the_most_of_their_steps(self, values: list[float], most: int) -> None:
        log = np.array(values)
        drawn = buckets(log, 0, log.size, most)
        self.assertEqual(drawn.mean.size, min(most, log.size))
        heard = log[~np.isnan(log)]
        if heard.size:
            self.assertEqual(np.nanmin(drawn.low), heard.min())
            self.assertEqual(np.nanmax(drawn.high), heard.max())
            if most >= log.size:
                np.testing.assert_array_equal(drawn.mean, log)
        else:
            self.assertTrue(np.isnan(drawn.mean).all())

    def test_what_lies_outside_the_log_is_not_heard(self) -> None:
        drawn = buckets(np.ones(10), -10, 20, 3)
        np.testing.assert_array_equal(drawn.mean, [np.nan, 1.0, np.nan])


if __name__ == "__main__":
    unittest.main()
