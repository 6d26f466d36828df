"""Sources as they are typed: the water that circulates, and what a source's kind begins with."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from warmeter.core.edits.edit import UNSET
from warmeter.core.edits.plant_commands import AddSource, ChangeSource

HOME = drawn_home()
SOURCE = HOME.sources[0]


class Water(unittest.TestCase):
    def test_litres_are_kept_as_the_heat_that_they_store(self) -> None:
        changed = ChangeSource(id=SOURCE.id, values={}, litres=100.0).edit(HOME).home.sources[0]
        # A litre of water stores 4.19 kJ for each kelvin.
        self.assertAlmostEqual((changed.water_j_k or 0.0) / 1000, 419, delta=1)

    def test_left_empty_they_are_forgotten_and_not_sent_they_stay(self) -> None:
        filled = replace(HOME, sources=(replace(SOURCE, water_j_k=9000.0), *HOME.sources[1:]))
        self.assertIsNone(ChangeSource(id=SOURCE.id, values={}, litres=None).edit(filled).home.sources[0].water_j_k)
        kept = ChangeSource(id=SOURCE.id, values={"name": "Flame"}, litres=UNSET).edit(filled).home.sources[0]
        self.assertEqual((kept.name, kept.water_j_k), ("Flame", 9000.0))


class New(unittest.TestCase):
    def test_a_new_source_is_the_last_and_chosen(self) -> None:
        for kind in ("direct", "heat_pump", "boiler"):
            with self.subTest(kind):
                edit = AddSource(kind=kind).edit(HOME)
                self.assertEqual((edit.home.sources[-1].kind, edit.selected), (kind, edit.home.sources[-1].id))
                self.assertEqual(edit.home.sources[:-1], HOME.sources)


if __name__ == "__main__":
    unittest.main()
