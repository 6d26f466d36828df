"""What a measurement takes off the width of a sum, against the covariance matrix written out."""

import unittest

import numpy as np

from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.matters.value_of_measuring import Measurement, UncertainItem, half_width, value_of_measuring


def item(name: str, half: float, group: str | None = None) -> UncertainItem:
    return UncertainItem(id=name, value=10.0, half=half, group=group)


class Widths(unittest.TestCase):
    def test_width_is_the_root_of_the_quadratic_form_of_the_covariances(self) -> None:
        rng = np.random.default_rng(5)
        for _ in range(40):
            size = int(rng.integers(1, 8))
            halves, groups = rng.uniform(0, 9, size), rng.integers(0, 3, size)
            rho = {"1": float(rng.uniform()), "2": float(rng.uniform())}
            items = [
                item(str(k), h, None if g == 0 else str(g)) for k, (h, g) in enumerate(zip(halves, groups, strict=True))
            ]
            matrix = np.eye(size)
            for a in range(size):
                for b in range(size):
                    if a != b and groups[a] == groups[b] != 0:
                        matrix[a, b] = rho[str(groups[a])]
            self.assertAlmostEqual(half_width(items, rho), float(np.sqrt(halves @ matrix @ halves)), places=9)

    def test_doubts_of_one_cause_add_plainly_and_others_by_squares(self) -> None:
        self.assertAlmostEqual(half_width([item("a", 3.0, "g"), item("b", 4.0, "g")], {"g": 1.0}), 7.0)
        self.assertAlmostEqual(half_width([item("a", 3.0), item("b", 4.0)], {}), 5.0)

    def test_what_is_measured_wholly_is_gone(self) -> None:
        found = value_of_measuring(
            [item("a", 3.0), item("b", 4.0)], {}, [Measurement(id="m", items=("b",), factor=0.0, minutes=2.0)]
        )
        self.assertAlmostEqual(found.rows[0].half_after, 3.0)
        self.assertAlmostEqual(found.rows[0].per_minute, 1.0)
        self.assertEqual(found.total, 20.0)

    def test_impossible_numbers_are_refused(self) -> None:
        one = [item("a", 3.0)]
        for bad, kind in (
            (Measurement(id="m", items=("a",), factor=1.2, minutes=2.0), OutOfRange),
            (Measurement(id="m", items=("a",), factor=0.5, minutes=0.0), OutOfRange),
            (Measurement(id="m", items=("z",), factor=0.5, minutes=1.0), HomeError),
        ):
            with self.subTest(bad), self.assertRaises(kind):
                value_of_measuring(one, {}, [bad])
        with self.assertRaises(OutOfRange):
            value_of_measuring([item("a", 1.0, "g")], {"g": 1.5}, [])
        with self.assertRaises(HomeError):
            half_width([item("a", 1.0, "g")], {})
