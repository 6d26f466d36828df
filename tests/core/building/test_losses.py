"""Losses of a drawn home against sums worked out on paper, and heaters against them."""

import unittest
from dataclasses import replace
from math import sqrt

from tests.drawn import drawn_home, room
from tests.homes import small_home
from warmeter.core.building.heating import (
    full_heat_w,
    heater_output_w,
    heating_of,
    source_summary,
    split_cooling,
    valve_droop_k,
)
from warmeter.core.building.losses import loss_of, surveyed_room
from warmeter.core.building.room_envelope import design_c, envelope_of, floor_area_m2
from warmeter.core.emitters.radiator import WaterTemperatures, output_w
from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater, SplitUnit
from warmeter.core.home.presets import BUILT
from warmeter.core.home.rooms import Condition, Opening, Overrule, Room, Storey

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


class Described(unittest.TestCase):
    def test_a_room_in_words_is_taken_as_square_with_a_fifth_glass(self) -> None:
        home = small_home()
        rows = {r.label.split(",")[0]: r for r in loss_of(home, home.rooms[0]).rows}
        gross = sqrt(20) * 2.5 * 2
        self.assertAlmostEqual(rows["windows"].size, 0.2 * gross)
        self.assertAlmostEqual(rows["outside walls"].size, 0.8 * gross)
        self.assertEqual(floor_area_m2(home, home.rooms[0]), 20.0)

    def test_what_a_room_should_have_follows_its_use_until_typed(self) -> None:
        home = small_home()
        bath = replace(home.rooms[0], use="bath")
        self.assertEqual((design_c(bath), design_c(replace(bath, design_c=21.5))), (24.0, 21.5))

    def test_the_stores_lose_what_the_survey_says(self) -> None:
        home = drawn_home()
        for each in home.rooms:
            rc, loss = surveyed_room(home, each), loss_of(home, each)
            windows = sum(0.1 * r.size for r in loss.rows if r.group == "window")
            self.assertAlmostEqual(rc.loss_w_k, loss.loss_w_k, delta=0.01 * loss.loss_w_k + windows)


class Heaters(unittest.TestCase):
    def test_a_radiator_gives_less_at_the_real_flow_and_needs_the_flow_that_gives_the_loss(self) -> None:
        home = drawn_home()
        h = heating_of(home, home.room("den"))
        self.assertAlmostEqual(h.output_w, output_w(2500, WaterTemperatures(60, 50, 20)))
        assert h.flow_needed_c is not None
        at = WaterTemperatures(h.flow_needed_c, h.flow_needed_c - 10, 20)
        self.assertAlmostEqual(output_w(2500, at), h.loss.safe_w, delta=1.0)
        assert h.copes_to_c is not None
        self.assertAlmostEqual(loss_of(home, home.room("den"), h.copes_to_c).safe_w, h.output_w, delta=1.0)
        self.assertAlmostEqual(h.settles_c, 20.0)

    def test_a_short_heater_says_where_the_room_settles_and_which_flow_would_do(self) -> None:
        home = drawn_home()
        weak = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=700.0), home.heaters[1]))
        h = heating_of(weak, weak.room("den"))
        self.assertLess(h.settles_c, 20.0)
        self.assertTrue(h.flow_needed_c is not None and h.flow_needed_c > 60.0)
        rooms = tuple(heating_of(weak, r) for r in weak.rooms)
        found = source_summary(weak, weak.sources[0], rooms)
        self.assertEqual(found.held_by, weak.room("den"))
        self.assertEqual(found.lowest_flow_c, h.flow_needed_c)
        self.assertAlmostEqual(found.load_w, sum(r.loss.plant_w for r in rooms))
        tiny = source_summary(weak, replace(weak.sources[0], most_w=100.0), rooms)
        self.assertFalse(tiny.is_within)

    def test_balanced_radiators_carry_the_load_between_them(self) -> None:
        home = drawn_home()
        second = replace(home.heaters[0], id="rad-2", name="Second", rated_heat_w=1250.0)
        two = replace(home, heaters=(*home.heaters, second))
        h = heating_of(two, two.room("den"))
        self.assertAlmostEqual(sum(b.load_w for b in h.balance), h.loss.safe_w)
        self.assertAlmostEqual(h.balance[0].load_w, 2 * h.balance[1].load_w)
        for b in h.balance:
            assert b.return_c is not None and b.litres_h is not None
            device_schedule = b.litres_h * 0.99 / 3600 * 4186 * (60 - b.return_c)
            self.assertAlmostEqual(device_schedule, b.load_w, places=6)

    def test_a_valves_droop_is_where_its_heat_meets_the_loss(self) -> None:
        home = drawn_home(heaters=tuple(replace(h, band_k=2.0) for h in drawn_home().heaters))
        droop = valve_droop_k(home, home.heaters[0])
        assert droop is not None
        loss, full = loss_of(home, home.room("den")), heating_of(home, home.room("den")).output_w
        settled = 20.0 - droop
        opening = (21.0 - settled) / 2.0
        self.assertAlmostEqual(opening * full, loss.safe_w / 25.0 * (settled + 5.0), places=6)
        weak = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=300.0), home.heaters[1]))
        self.assertIsNone(valve_droop_k(weak, weak.heaters[0]))
        self.assertIsNone(valve_droop_k(home, replace(home.heaters[0], kind="electric_panel")))

    def test_plate_floor_and_split_unit_each_by_its_own_law(self) -> None:
        home = drawn_home()
        base = home.heaters[0]
        plain = replace(home, sources=(replace(home.sources[0], flow_c=None),))
        self.assertEqual(heater_output_w(plain, base, outdoor_c=-5), 2500.0)
        floor = replace(base, kind="warm_floor", rated_heat_w=9000.0)
        self.assertAlmostEqual(heater_output_w(home, floor, outdoor_c=-5), 12 * 100, delta=2)
        split = replace(base, kind="split_unit", split=SplitUnit(heat_slope_1_k=0.02), rated_heat_w=3000.0)
        self.assertAlmostEqual(heater_output_w(home, split, outdoor_c=-5), 3000 * (1 - 0.02 * 12))
        self.assertEqual(full_heat_w(replace(home, heaters=()), "den"), 1.0)
        self.assertIsNone(split_cooling(split))
        cold = split_cooling(replace(split, split=SplitUnit(cooling_w=2000.0)))
        assert cold is not None
        self.assertEqual((cold.capacity_w, cold.rated_outdoor_c), (2000.0, 35.0))

    def test_a_room_with_a_split_unit_copes_by_its_falling_capacity(self) -> None:
        home = drawn_home()
        split = Heater(
            id="s",
            room_id="den",
            name="Split",
            kind="split_unit",
            source_id="boiler",
            rated_heat_w=1700.0,
            split=SplitUnit(),
        )
        cooled = replace(home, heaters=(split, home.heaters[1]))
        h = heating_of(cooled, cooled.room("den"))
        assert h.copes_to_c is not None
        self.assertAlmostEqual(
            loss_of(cooled, cooled.room("den"), h.copes_to_c).safe_w, 1700 * (1 + 0.02 * (h.copes_to_c - 7)), delta=1.0
        )


class Rooms(unittest.TestCase):
    def test_a_room_must_be_drawn_or_described(self) -> None:
        for wrong in ({"rects": ()}, {"storey_id": None}):
            with self.assertRaises(ValueError):
                room("bare", 0.0, 2.0, **wrong)
        with self.assertRaises(ValueError):
            room("twice", 0.0, 2.0, overrules=(Overrule(figure="a", value=1), Overrule(figure="a", value=2)))

    def test_an_l_shape_counts_each_square_once(self) -> None:
        parts = (Rect(x_m=0, y_m=0, width_m=4, depth_m=3), Rect(x_m=3, y_m=0, width_m=3, depth_m=2))
        shape: Room = room("el", 0.0, 4.0, rects=parts)
        home = drawn_home(rooms=(shape,), openings=(), heaters=(), devices=(), zones=())
        self.assertAlmostEqual(floor_area_m2(home, shape), 12 + 4)
        walls = sum(r.size for r in loss_of(home, shape).rows if r.group == "wall")
        self.assertAlmostEqual(walls, (6 + 6 + 3 + 3) * 2.5)
