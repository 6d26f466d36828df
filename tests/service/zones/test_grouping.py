"""What the numbers favour among groupings where limits break."""

import unittest
from types import SimpleNamespace

from tests.homes import small_home
from warmeter.service.zones.grouping import verdict


def trial(name: str, underheating_kh: float, kwh: float, broken: tuple[str, ...] = ()) -> SimpleNamespace:
    """Return a grouping's week with its figures."""
    return SimpleNamespace(
        proposal=SimpleNamespace(name=name),
        broken=broken,
        underheating_kh=underheating_kh,
        overheating_kh=0.0,
        sensors=1,
        valve_heads=1,
        found=SimpleNamespace(underheating_kh=[underheating_kh], drawn_kwh=kwh, cost=None, starts=1.0),
    )


class Favoured(unittest.TestCase):
    def test_one_in_which_a_limit_breaks_is_neither_favoured_nor_praised_for_what_it_saves(self) -> None:
        sound, frozen = trial("apart", 9.0, 90.0), trial("one", 8.0, 40.0, ("Attic falls to 2 °C",))
        best, reason, rival = verdict(small_home(), (sound, frozen))  # type: ignore[arg-type]
        self.assertIs(best, sound)
        self.assertIn("apart", reason)
        self.assertNotIn("kWh less", rival)

    def test_where_a_limit_breaks_in_all_none_is_favoured(self) -> None:
        cheap = trial("one", 30.0, 40.0, ("Attic falls to 2 °C",))
        warm = trial("apart", 9.0, 90.0, ("Hall falls to 8 °C",))
        best, reason, _ = verdict(small_home(), (cheap, warm))  # type: ignore[arg-type]
        self.assertIs(best, warm)
        self.assertTrue(reason.startswith("None: a limit breaks in each"))
        self.assertIn("Hall falls to 8 °C", reason)
