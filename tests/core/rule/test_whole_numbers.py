"""Defaults in °F are whole numbers, and a made rule asks for what it asked for in °C within half a step."""

import unittest
from dataclasses import replace

from warmeter.core.edits.home_edits import with_first_levels
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.rules import Rule
from warmeter.core.rule.parts import PARTS, conditions_of
from warmeter.core.starters.catalogue import STARTERS, started
from warmeter.core.units import celsius_to, kelvin_to, whole_c, whole_k
from warmeter.service.homes.demo import DEMO_HOMES, demo_home


def temperatures(rule: Rule) -> list[tuple[Condition, float, float]]:
    """Return each condition on a temperature with its value and hysteresis in °F."""
    found: list[tuple[Condition, float, float]] = []
    for part in PARTS:
        for _, each in conditions_of(rule, part):
            if isinstance(each, Compared | Moving) and each.of.quantity.endswith("temperature"):
                if isinstance(each, Moving):
                    found.append((each, kelvin_to(each.by, "F"), 0.0))
                else:
                    turned = celsius_to if each.minus is None else kelvin_to
                    found.append((each, turned(each.value, "F"), kelvin_to(each.hysteresis, "F")))
    return found


class WholeNumbers(unittest.TestCase):
    def test_sizes_that_people_set(self) -> None:
        self.assertAlmostEqual(celsius_to(whole_c(17.0, "F"), "F"), 63.0)
        for kelvin, fahrenheit in ((0.3, 0.5), (0.5, 1.0), (1.0, 2.0), (-0.5, -1.0), (2.0, 4.0)):
            self.assertAlmostEqual(kelvin_to(whole_k(kelvin, "F"), "F"), fahrenheit)
        self.assertEqual((whole_c(17.3, "C"), whole_k(0.3, "C")), (17.3, 0.3))

    def test_first_levels(self) -> None:
        bare = replace(demo_home("sail-loft"), temperature_unit="F", levels=(), zones=(), rules=())
        levels = [round(celsius_to(level.heating_c, "F"), 6) for level in with_first_levels(bare).levels]
        self.assertEqual(levels, [68.0, 63.0, 63.0, 57.0])

    def test_every_starter(self) -> None:
        seen = 0
        for name in DEMO_HOMES:
            celsius = demo_home(name)
            home = replace(celsius, temperature_unit="F")
            for starter in STARTERS:
                for strategy in starter.strategies:
                    for place, _ in list(starter.places(home))[:1]:
                        try:
                            _, rule = started(home, starter.key, strategy.key, place)
                        except HomeError:
                            continue  # this home lacks what the rule needs
                        _, usual = started(celsius, starter.key, strategy.key, place)
                        for (each, value, hysteresis), (_, was, _) in zip(
                            temperatures(rule), temperatures(usual), strict=True
                        ):
                            seen += 1
                            self.assertAlmostEqual(value * 2, round(value * 2), 6, f"{starter.name}: {each}")
                            self.assertAlmostEqual(hysteresis * 2, round(hysteresis * 2), 6)
                            self.assertLessEqual(abs(value - was), 0.5)
        self.assertGreater(seen, 8)


if __name__ == "__main__":
    unittest.main()
