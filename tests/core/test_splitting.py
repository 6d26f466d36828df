"""Known cycles in a whole home's power: pasted ones are found again, and nothing is found in plain noise."""

import unittest

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.signature.splitting import Template, split_cycles

BLOCK = Template(name="cooker", power_w=np.array([800.0, 800.0, 800.0]))
STAIRS = Template(name="dryer", power_w=np.array([700.0, 900.0, 900.0, 400.0, 250.0]))


def home(seed: int, size: int = 600) -> np.ndarray:  # type: ignore[type-arg]
    """Return a home's wandering load [W]."""
    rng = np.random.default_rng(seed)
    return 300 + np.cumsum(rng.normal(0, 12, size))


class Splitting(unittest.TestCase):
    def test_pasted_cycles_come_back_at_their_places_also_over_each_other(self) -> None:
        load = home(1)
        for template, at in ((BLOCK, 50), (STAIRS, 200), (BLOCK, 202), (STAIRS, 400)):
            load[at : at + template.power_w.size] += template.power_w
        found = split_cycles(load, [BLOCK, STAIRS])
        self.assertEqual(
            [(p.name, p.step) for p in found], [("cooker", 50), ("dryer", 200), ("cooker", 202), ("dryer", 400)]
        )
        self.assertTrue(all(abs(p.size - 1) < 0.15 and p.sureness > 6 for p in found))

    def test_nothing_is_found_where_nothing_was_added(self) -> None:
        for seed in range(5):
            self.assertEqual(split_cycles(home(seed), [BLOCK, STAIRS]), [])

    def test_a_machine_of_another_size_is_not_taken_for_a_known_one(self) -> None:
        load = home(3)
        load[100:103] += 1500.0
        self.assertEqual(split_cycles(load, [BLOCK]), [])

    def test_a_cycle_weaker_than_the_noise_is_missed_rather_than_guessed(self) -> None:
        faint = Template(name="freezer", power_w=np.full(8, 25.0))
        load = home(4)
        load[100:108] += 25.0
        self.assertEqual(split_cycles(load, [faint]), [])

    def test_no_cycle_fits(self) -> None:
        with self.assertRaises(NotKnowable):
            split_cycles(np.zeros(4), [BLOCK, STAIRS])


if __name__ == "__main__":
    unittest.main()
