"""Every check: what trips it, what mends it, and that nothing is invented in clean homes."""

import unittest
from argparse import Namespace
from dataclasses import replace

from tests.drawn import drawn_home
from warmeter.cli.mutate import clean_homes, run, verdicts
from warmeter.core.building.checks.findings import RULES, findings_of
from warmeter.core.building.fixes import MENDS, fix_label, fixed
from warmeter.core.building.geometry import box_distance_m, sun_on_spot
from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import Side
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.core.home.rooms import Opening
from warmeter.simulators.faults import PLANTS
from warmeter.simulators.many_rooms import many_rooms


def kinds(home: Home) -> set[str]:
    """Return the kinds of findings, the missing tariff left out."""
    return {f.kind for f in findings_of(home)} - {"no tariff"}


class Planted(unittest.TestCase):
    def test_the_clean_homes_have_no_finding(self) -> None:
        for home in clean_homes():
            self.assertEqual([f.sentence for f in findings_of(home)], [], home.name)
        self.assertEqual(kinds(drawn_home()), set())

    def test_every_planted_fault_is_found_and_nothing_invented(self) -> None:
        found = verdicts()
        self.assertGreater(len(found), 300)
        self.assertEqual([v for v in found if not v.is_found or v.invented], [])
        self.assertEqual({v.kind for v in found}, set(RULES))
        self.assertEqual(run(Namespace()), 0)

    def test_each_check_states_a_rule_and_says_what_to_do(self) -> None:
        for home in clean_homes():
            for kind, plant in PLANTS.items():
                for planted in plant(home)[:1]:
                    finding = next(f for f in findings_of(planted.home) if f.kind == kind)
                    with self.subTest(kind):
                        self.assertTrue(RULES[kind].endswith("."))
                        self.assertTrue(finding.sentence.endswith(".") and finding.fix.endswith("."))
                        self.assertIn(finding.place, finding.about)

    def test_every_fix_takes_its_finding_away(self) -> None:
        fixed_kinds = set()
        for home in clean_homes():
            for kind in MENDS:
                for planted in PLANTS[kind](home):
                    finding = next(f for f in findings_of(planted.home) if f.kind == kind)
                    try:
                        after = fixed(planted.home, kind, finding.about, "fresh")
                    except HomeError as error:
                        self.assertIn("no sensor", str(error))
                        continue
                    left = [f for f in findings_of(after) if (f.kind, f.place) == (kind, finding.place)]
                    with self.subTest(kind, place=planted.place):
                        self.assertEqual(left, [])
                        self.assertTrue(fix_label(finding))
                    fixed_kinds.add(kind)
        self.assertEqual(fixed_kinds, set(MENDS))
        with self.assertRaises(HomeError):
            fixed(clean_homes()[0], "no tariff", ("x",), "fresh")

    def test_sixty_rooms_with_names_in_many_scripts_are_checked(self) -> None:
        home = many_rooms()
        self.assertEqual(len(home.rooms), 60)
        self.assertEqual(kinds(home) - {"sensor in the sun"}, set())


class Sun(unittest.TestCase):
    """At 52° north the sun stands at about 38° at noon on the equinox and 14.5° on the shortest day."""

    def lit(self, side: Side, spot: Spot, **window: float) -> list[str]:
        """Return what lights a spot in the den by one window."""
        home = drawn_home()
        plain = Opening(id="w", room_id="den", kind="window", side=side, along_m=2.0, width_m=0.4, height_m=1.0)
        opening = replace(plain, **window)  # type: ignore[arg-type]
        changed = replace(home, openings=(opening,), design=replace(home.design, north_deg=0.0))
        return [x.sentence for x in sun_on_spot(changed, changed.room("den"), spot)]

    def test_no_sun_from_the_north_at_noon(self) -> None:
        for sentence in self.lit("up", Spot(x_m=2.0, y_m=2.0, z_m=1.4), sill_m=0.9):
            self.assertTrue(sentence.startswith(("04", "05", "19", "20")), sentence)

    def test_the_noon_sun_reaches_only_where_its_height_lets_it(self) -> None:
        # Two metres in, a ray at 38° rises 1.56 m, one at 14.5° half a metre: only the winter sun comes in.
        deep = self.lit("down", Spot(x_m=2.0, y_m=1.0, z_m=1.0), sill_m=0.9)
        self.assertEqual(len(deep), 1)
        self.assertIn("12:", deep[0])
        self.assertTrue("Jan" in deep[0] or "Dec" in deep[0])
        self.assertNotIn("Jun", deep[0])
        # A hand's breadth in, the equinox sun falls through as well.
        near = self.lit("down", Spot(x_m=2.0, y_m=2.8, z_m=1.4), sill_m=0.9)
        self.assertIn("months", near[0] + " months")
        self.assertTrue("Jun" in near[0] or "12 months" in near[0] or "Dec" in near[0])

    def test_an_overhang_keeps_the_high_sun_out(self) -> None:
        spot = Spot(x_m=2.0, y_m=2.8, z_m=1.0)
        bare, shaded = (self.lit("down", spot, sill_m=0.9, overhang_m=d) for d in (0.0, 3.0))
        self.assertTrue(bare)
        self.assertNotEqual(bare, shaded)

    def test_an_inner_window_lets_no_sun_in(self) -> None:
        self.assertEqual(self.lit("right", Spot(x_m=1.0, y_m=2.0, z_m=1.4), sill_m=0.5), [])

    def test_distances_between_boxes(self) -> None:
        self.assertEqual(box_distance_m((0, 0, 1, 1), (4, 5, 6, 7)), 5.0)
        self.assertEqual(box_distance_m((0, 0, 1, 1), (0.5, 0.5, 6, 7)), 0.0)
