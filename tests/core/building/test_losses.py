"""Losses of a drawn home against sums worked out on paper, and heaters against them."""

import unittest
from dataclasses import replace
from math import sqrt

from tests.drawn import drawn_home, room
from warmeter.core.building.losses import loss_of, safe_loss_w
from warmeter.core.building.room_envelope import envelope_of
from warmeter.core.home.document import Home
from warmeter.core.home.presets import BUILT
from warmeter.core.home.rooms import Condition, Opening, Overrule, Storey

PRESET = BUILT["1978_1994"]


def typed(home: Home, room_id: str, **figures: float) -> Home:
    """Return a home with figures of a room typed over."""
    old = home.room(room_id)
    new = replace(old, overrules=tuple(Overrule(figure=k, value=v) for k, v in figures.items()))
    return replace(home, rooms=tuple(new if r.id == room_id else r for r in home.rooms))


class ByHand(unittest.TestCase):
    def test_the_dens_loss_is_the_sum_on_paper(self) -> None:
        home = drawn_home()
        loss = loss_of(home, home.room("den"))
        # The den: 4 × 3 m, 2.5 m high; walls outside 3 m, 4 m and 4 m; one to the study.
        window = 1.5 * 1.2
        walls = (3 + 4 + 4) * 2.5 - window
        u = {"wall": 0.65, "window": 2.8, "roof": 0.4, "floor": 0.575, "inner": 1.75}
        self.assertEqual((PRESET.wall.usual, PRESET.window.usual, PRESET.roof.usual), (0.65, 2.8, 0.4))
        fall = 25.0
        expected = {
            "outside walls": walls * (u["wall"] + 0.1) * fall,
            "window N": window * (u["window"] + 0.1) * fall,
            "roof": 12 * (u["roof"] + 0.1) * fall,
            "floor on the ground": 1.45 * 12 * u["floor"] * (20 - 10),
            "wall to Study": 3 * 2.5 * u["inner"] * (20 - 18),
            "air": 0.34 * 0.5 * 30 * fall,
        }
        found: dict[str, float] = {}
        for row in loss.rows:
            name = "outside walls" if row.label.startswith("outside wall") else row.label.split(",")[0]
            found[name] = found.get(name, 0.0) + row.watts
        self.assertEqual(found.keys(), expected.keys())
        for name, watts in expected.items():
            self.assertAlmostEqual(found[name], watts, places=6, msg=name)
        self.assertAlmostEqual(loss.total_w, sum(expected.values()), places=6)
        # Safe is what it loses with no warmer neighbour to help: one that is warmer takes nothing off.
        self.assertAlmostEqual(
            safe_loss_w(home, envelope_of(home, home.room("den")), 20.0, -5.0), loss.total_w, places=6
        )
        warmer = replace(home, rooms=(home.room("den"), replace(home.room("study"), design_c=24.0)))
        lone = safe_loss_w(warmer, envelope_of(warmer, warmer.room("den")), 20.0, -5.0)
        self.assertAlmostEqual(lone, loss.total_w - expected["wall to Study"], places=6)
        self.assertAlmostEqual(loss.plant_w, loss.total_w - expected["wall to Study"], places=6)
        self.assertAlmostEqual(loss.loss_w_k, loss.plant_w / fall, places=6)

    def test_heat_from_a_warmer_neighbour_is_not_counted_on(self) -> None:
        home = drawn_home()
        study = loss_of(home, home.room("study"))
        self.assertAlmostEqual(study.safe_w - study.total_w, 3 * 2.5 * 1.75 * 2.0, places=6)

    def test_the_range_adds_within_a_u_value_and_in_quadrature_between(self) -> None:
        home = drawn_home()
        loss = loss_of(home, home.room("den"))
        groups: dict[str, float] = {}
        for row in loss.rows:
            groups[row.group] = groups.get(row.group, 0.0) + row.high_w - row.watts
        self.assertAlmostEqual(loss.high_w - loss.total_w, sqrt(sum(v * v for v in groups.values())))
        self.assertTrue(loss.low_w < loss.total_w < loss.high_w)

    def test_an_unheated_neighbour_takes_a_share_and_a_strangers_flat_its_difference(self) -> None:
        home = drawn_home()
        beyond: tuple[tuple[Condition, float], ...] = (("unheated", 0.8 * 25), ("neighbour", 20 - 18))
        for condition, share in beyond:
            changed = replace(home.room("study"), condition=condition, design_c=None)
            other = replace(home, rooms=(home.room("den"), changed), heaters=home.heaters[:1], zones=home.zones[:1])
            row = next(r for r in loss_of(other, other.room("den")).rows if r.label == "wall to Study")
            bridge = 0.1 if condition == "unheated" else 0.0
            self.assertAlmostEqual(row.watts, 3 * 2.5 * (1.75 + bridge) * share, places=6)

    def test_a_storey_above_takes_the_roof_away(self) -> None:
        home = drawn_home()
        attic = room("attic", 0.0, 2.0, storey_id="attic-floor")
        taller = replace(
            home, storeys=(*home.storeys, Storey(id="attic-floor", name="Attic", level=1)), rooms=(*home.rooms, attic)
        )
        rows = {r.label: r for r in loss_of(taller, taller.room("den")).rows}
        self.assertAlmostEqual(rows["roof"].size, 6.0)
        self.assertAlmostEqual(rows["ceiling to Attic"].size, 6.0)
        above = {r.label: r for r in loss_of(taller, attic).rows}
        self.assertAlmostEqual(above["floor to Den"].size, 6.0)
        self.assertNotIn("floor on the ground", above)


class Overruling(unittest.TestCase):
    def test_each_figure_can_be_typed_over_and_handed_back(self) -> None:
        home = drawn_home()
        plain = loss_of(home, home.room("den")).total_w
        figures = envelope_of(home, home.room("den")).figures
        self.assertTrue(
            {"area_m2", "wall_up_m2", "touch_study", "roof_m2", "ground_m2", "u_wall", "air_1_h"}
            <= {f.key for f in figures}
        )
        for figure in figures:
            with self.subTest(figure.key):
                more = typed(home, "den", **{figure.key: figure.worked_out * 1.5 + 0.01})
                changed = loss_of(more, more.room("den")).total_w
                self.assertGreater(changed, plain)
                found = next(f for f in envelope_of(more, more.room("den")).figures if f.key == figure.key)
                self.assertAlmostEqual(found.worked_out, figure.worked_out, msg="what was worked out is still shown")
                self.assertAlmostEqual(found.value, figure.worked_out * 1.5 + 0.01)
        back = typed(home, "den")
        self.assertEqual(loss_of(back, back.room("den")).total_w, plain)

    def test_a_typed_u_is_surer_than_a_preset(self) -> None:
        home = drawn_home()
        sure = typed(home, "den", u_wall=0.65)
        wide, narrow = (loss_of(h, h.room("den")) for h in (home, sure))
        self.assertAlmostEqual(wide.total_w, narrow.total_w)
        self.assertLess(narrow.high_w - narrow.low_w, wide.high_w - wide.low_w)

    def test_a_door_in_an_inner_wall_loses_nothing_of_its_own(self) -> None:
        home = drawn_home()
        inner = Opening(id="d", room_id="den", kind="door", side="right", along_m=1.5, width_m=0.9, height_m=2.0)
        doored = replace(home, openings=(*home.openings, inner))
        self.assertEqual(loss_of(doored, home.room("den")).total_w, loss_of(home, home.room("den")).total_w)
