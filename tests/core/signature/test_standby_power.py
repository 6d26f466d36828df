"""The power of a machine at rest."""

import unittest

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.signature.standby_power import standby_power_of


class Standby(unittest.TestCase):
    def test_limits(self) -> None:
        with self.assertRaises(NotKnowable):
            standby_power_of(np.array([]))


if __name__ == "__main__":
    unittest.main()
