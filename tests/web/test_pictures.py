"""The plan and the wiring sheet as pictures: px against metres, marks against the home."""

import unittest
from dataclasses import replace
from itertools import product
from xml.etree import ElementTree

from tests.drawn import drawn_home, room
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.edits.floor_plan_edits import HEATER_W, THING_LABEL, with_device, with_heater, with_thing
from warmeter.core.home.device_kinds import DEVICE_LABEL
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Opening, Storey, Thing
from warmeter.core.sentence import in_unit
from warmeter.core.units import Units
from warmeter.service.homes.demo import demo_home
from warmeter.simulators.faults import as_found
from warmeter.simulators.many_rooms import many_rooms
from warmeter.web.app import MODULES
from warmeter.web.floor_plan.draw import DEVICE_MARK, FloorPlanPicture, RoomFacts, draw_storey
from warmeter.web.floor_plan.labels import clear_place
from warmeter.web.links import take_routes
from warmeter.web.page import TEMPLATES
from warmeter.web.survey.plan_view import finding_rows, link_to, plan_view
from warmeter.web.zones.wiring import wiring_sheet


def setUpModule() -> None:
    """Let views link to the pages of the application."""
    take_routes(module.router for module in MODULES)


def drawn(picture: FloorPlanPicture) -> ElementTree.Element:
    """Return a picture as parsed SVG: it must be well-formed."""
    return ElementTree.fromstring(TEMPLATES.get_template("plan.svg").render(plan=picture))


def picture_of(home: Home, storey: str = "ground", **more: object) -> FloorPlanPicture:
    """Return a storey's picture at the page's size."""
    return draw_storey(home, storey, width=632, height=392, **more)  # type: ignore[arg-type]


class Scale(unittest.TestCase):
    def test_the_drawing_fits_and_every_metre_is_the_same_px(self) -> None:
        for home in (drawn_home(), many_rooms(2), demo_home("sail-loft"), demo_home("weir-cottage")):
            for storey in home.storeys:
                picture = picture_of(home, storey.id)
                for shape in picture.rooms:
                    for _, x, y, width, depth in shape.rects:
                        left, top = (x - picture.left_m) * picture.scale, (y - picture.top_m) * picture.scale
                        self.assertTrue(left >= 0 and left + width * picture.scale <= picture.width)
                        self.assertTrue(top >= 0 and top + depth * picture.scale <= picture.height)
                        self.assertIn(f"M{round(left, 2)} {round(top, 2)}", shape.path)
                if picture.scale > 1:
                    self.assertEqual(picture.scale, int(picture.scale))

    def test_an_empty_storey_has_a_ruler_to_begin_with(self) -> None:
        home = replace(drawn_home(), storeys=(*drawn_home().storeys, Storey(id="attic", name="Attic", level=1)))
        picture = picture_of(home, "attic")
        self.assertEqual((picture.rooms, picture.dims_x), ((), ()))
        self.assertGreater(picture.scale, 20)
        self.assertTrue(picture.below, "the storey below shows through")
        self.assertEqual(picture_of(home).below, "")

    def test_dimensions_are_those_between_the_walls(self) -> None:
        picture = picture_of(drawn_home())
        self.assertEqual([text for _, _, text in picture.dims_x], ["4.00", "5.00"])
        self.assertEqual([text for _, _, text in picture.dims_y], ["3.00"])
        self.assertEqual((picture.edges_x, picture.edges_y), ((0.0, 4.0, 9.0), (0.0, 3.0)))

    def test_bars_are_as_long_as_their_watts(self) -> None:
        facts = {
            "den": RoomFacts(loss_w=500, output_w=1000, loss="500", output="1 000", is_short=False),
            "study": RoomFacts(loss_w=1000, output_w=250, loss="1 000", output="250", is_short=True),
        }
        den, study = picture_of(drawn_home(), facts=facts).rooms
        self.assertAlmostEqual(den.output_px, 2 * den.loss_px, delta=0.2)
        self.assertAlmostEqual(study.loss_px, 4 * study.output_px, delta=0.4)


class Marks(unittest.TestCase):
    def test_handles_are_only_on_the_chosen_room_and_stand_at_its_edges(self) -> None:
        picture = picture_of(drawn_home(), selected="study")
        den, study = picture.rooms
        self.assertEqual((den.handles, len(study.handles)), ((), 4))
        self.assertEqual(sorted(h[6] for h in study.handles), [0.0, 3.0, 4.0, 9.0])

    def test_every_kind_of_thing_has_a_mark_and_the_picture_is_well_formed(self) -> None:
        home = drawn_home()
        for device in DEVICE_LABEL:
            home = with_device(home, device, "den")
        for heater in HEATER_W:
            home = with_heater(home, "den", heater)
        for thing in THING_LABEL:
            home = with_thing(home, thing, "study")
        picture = picture_of(home)
        self.assertEqual(len(picture.items), 4 + len(DEVICE_LABEL) + len(HEATER_W) + len(THING_LABEL))
        tree = drawn(picture)
        groups = [g for g in tree.iter("{http://www.w3.org/2000/svg}g") if "data-item" in g.attrib]
        for group in groups:
            shapes = [c for c in group.iter() if c.tag.split("}")[1] in ("path", "rect", "circle")]
            self.assertTrue(shapes, group.attrib["aria-label"])
        self.assertEqual(DEVICE_MARK.keys(), DEVICE_LABEL.keys())
        self.assertEqual(len(set(DEVICE_MARK.values())), len(DEVICE_MARK), "no two kinds look the same")

    def test_a_flag_stands_where_the_finding_is(self) -> None:
        home = as_found(demo_home("sail-loft"))
        rows = finding_rows(home, findings_of(home))
        flags = {row.place: row.letter for row in reversed(rows) if row.severity != "note"}
        picture = picture_of(home, "st-work", flags=flags)
        flagged = {item.id for item in picture.items if item.flag}
        self.assertEqual(flagged, {"dv-bindery"})

    def test_openings_lie_on_their_walls_in_all_four_directions(self) -> None:
        for side, axis in (("up", "x"), ("down", "x"), ("left", "y"), ("right", "y")):
            for kind in ("window", "door"):
                opening = Opening(id="o", room_id="study", kind=kind, side=side, along_m=1.5, width_m=1.0, height_m=2.0)  # type: ignore[arg-type]
                home = replace(drawn_home(), openings=(opening,))
                picture = picture_of(home)
                shape = picture.openings[0]
                at = {"up": 0.0, "down": 3.0, "left": 4.0, "right": 9.0}[side]
                px = (at - (picture.top_m if axis == "x" else picture.left_m)) * picture.scale
                self.assertEqual(shape.axis, axis)
                self.assertIn(f"{round(px, 2)}", shape.hole, side)
                drawn(picture)

    def test_an_opening_beyond_its_wall_is_not_drawn_and_a_room_of_words_is_not_either(self) -> None:
        far = Opening(id="o", room_id="den", kind="window", side="up", along_m=40.0, width_m=1.0, height_m=1.0)
        self.assertEqual(picture_of(replace(drawn_home(), openings=(far,))).openings, ())
        stranger = room("next", 9.0, 2.0, condition="neighbour")
        picture = picture_of(replace(drawn_home(), rooms=(*drawn_home().rooms, stranger)))
        self.assertTrue(picture.rooms[2].is_other)

    def test_names_are_text_in_the_picture(self) -> None:
        thing = Thing(id="t", room_id="den", name="<script>", kind="furniture", at=Spot(x_m=1, y_m=1))
        home = replace(
            drawn_home(), things=(thing,), rooms=(room("den", 0, 4, name="A & <b>"), *drawn_home().rooms[1:])
        )
        tree = drawn(picture_of(home))
        self.assertIn("A & <b>", "".join(tree.itertext()))


class Labels(unittest.TestCase):
    ROOM = (0.0, 0.0, 200.0, 100.0)

    def test_a_label_stays_where_nothing_is_in_its_way(self) -> None:
        self.assertEqual(clear_place(self.ROOM, (80, 40, 120, 60), []), (0.0, 0.0))
        self.assertEqual(clear_place(self.ROOM, (80, 40, 120, 60), [(0, 0, 60, 10)]), (0.0, 0.0))

    def test_it_moves_the_shortest_way_clear_of_a_mark(self) -> None:
        self.assertEqual(clear_place(self.ROOM, (80, 40, 120, 60), [(90, 56, 106, 72)]), (0.0, -4.0))
        self.assertEqual(clear_place(self.ROOM, (80, 40, 120, 60), [(112, 0, 128, 100)]), (-8.0, 0.0))

    def test_it_never_leaves_the_room_and_takes_the_least_cover_where_none_is_free(self) -> None:
        small = (75.0, 35.0, 125.0, 65.0)
        dx, dy = clear_place(small, (80, 40, 120, 60), [(75, 35, 125, 50)])
        self.assertEqual((dx, dy), (0.0, 0.0), "a step of four px would cross the wall's margin")
        self.assertEqual(clear_place(small, (60, 40, 140, 60), [(90, 40, 110, 60)]), (0.0, 0.0))

    def test_on_a_real_plan_no_label_covers_a_mark(self) -> None:
        home = demo_home("sail-loft")
        short = RoomFacts(loss_w=500, output_w=900, loss="500", output="900", is_short=False)
        for storey in home.storeys:
            picture = picture_of(home, storey.id, facts=dict.fromkeys((r.id for r in home.rooms), short))
            for room_shape, item in product(picture.rooms, picture.items):
                covered = abs(item.x - room_shape.x) < 20 and -22 < item.y - room_shape.y < 14
                self.assertFalse(covered and item.box is None, f"{room_shape.name} under {item.title}")


class Page(unittest.TestCase):
    def test_every_finding_leads_to_a_page_that_has_its_place(self) -> None:
        home = as_found(demo_home("sail-loft"))
        for place, page in (
            ("rm-hall", "survey?at=rm-hall"),
            ("he-bath", "heating?at=he-bath"),
            ("so-pump", "heating?at=so-pump"),
            ("dv-leak", "devices?at=dv-leak"),
            ("ch-leak", "devices?at=ch-leak"),
            ("zo-bath", "zones?at=zo-bath"),
            ("ta-winter", "tariff"),
        ):
            self.assertEqual(link_to(home, place), f"/homes/{home.id}/{page}")

    def test_the_view_tells_totals_flow_and_the_chosen_part(self) -> None:
        home = demo_home("sail-loft")
        view = plan_view(home, {}, width=632, at="he-bath", pane="inside")
        assert view.detail is not None and view.flow is not None and view.total is not None
        self.assertEqual((view.detail.room.id, view.storey_id), ("rm-bath", "st-loft"))
        self.assertTrue(any(row.is_on for row in view.detail.inside))
        self.assertIn("for Bedroom", view.flow.sentence)
        self.assertEqual(sum(dot.is_worst for dot in view.flow.dots), 1)
        xs = [x for x, _ in view.flow.ticks]
        self.assertEqual(xs, sorted(xs))
        self.assertEqual(len(view.rooms), 8)
        self.assertEqual(plan_view(home, {}, width=632, pane="nothing").pane, "heat")

    def test_a_home_without_rooms_or_storeys_has_a_page(self) -> None:
        bare = replace(drawn_home(), rooms=(), storeys=(), openings=(), heaters=(), devices=(), zones=())
        view = plan_view(bare, {}, width=632)
        self.assertEqual((view.picture, view.detail, view.rooms, view.total), (None, None, [], None))

    def test_findings_carry_their_numbers_for_the_homes_unit(self) -> None:
        worse = as_found(demo_home("sail-loft"))
        rows = finding_rows(replace(worse, temperature_unit="F"), findings_of(worse))
        self.assertTrue([r.sentence for r in rows if "°C" in r.sentence])
        self.assertFalse([r.sentence for r in rows if "°C" in in_unit(r.sentence, Units("F"))])

    def test_a_tall_house_lists_the_storey_in_view_and_the_sum_of_all(self) -> None:
        home = many_rooms()
        view = plan_view(home, {}, width=632, storey_id="s-3")
        assert view.total is not None
        self.assertEqual({row.storey_id for row in view.rooms}, {"s-3"})
        self.assertEqual(len(view.rooms), 12)
        alone = plan_view(many_rooms(1), {}, width=632)
        self.assertEqual(len(alone.rooms), 12)

    def test_temperatures_are_in_the_homes_unit(self) -> None:
        view = plan_view(replace(drawn_home(), temperature_unit="F"), {}, width=632)
        self.assertEqual(view.rooms[0].design, "68")
        assert view.detail is not None
        self.assertEqual((view.detail.outdoor, view.detail.fall), ("23", "45"))


class Wiring(unittest.TestCase):
    def sheet(self, home: Home):  # type: ignore[no-untyped-def]
        """Return a home's sheet, checked to be well-formed."""
        found = wiring_sheet(home, {}, width=1100, at=home.zones[0].id if home.zones else "")
        ElementTree.fromstring(TEMPLATES.get_template("zones/wiring.svg").render(sheet=found))
        return found

    def test_one_row_a_room_a_bracket_a_zone_and_one_node_an_owner(self) -> None:
        home = demo_home("sail-loft")
        sheet = self.sheet(home)
        self.assertEqual((len(sheet.rows), len(sheet.zones), [name for _, name in sheet.owners]), (8, 7, ["Warmeter"]))
        self.assertTrue(all(len(z.nodes) == 1 and z.nodes[0][2] for z in sheet.zones))
        self.assertTrue(all(row.is_counted and row.follows for row in sheet.rows))
        side = next(z for z in sheet.zones if z.name == "Laundry and hall")
        self.assertEqual(side.height, 2 * sheet.rows[1].y - 2 * sheet.rows[0].y)

    def test_a_second_owner_has_a_line_and_a_node_of_its_own(self) -> None:
        sheet = self.sheet(as_found(demo_home("sail-loft")))
        fought = [z for z in sheet.zones if len(z.nodes) > 1]
        self.assertEqual([z.name for z in fought], ["Bedroom"])
        self.assertEqual([is_owner for _, _, is_owner in fought[0].nodes], [True, False])
        self.assertEqual(len(sheet.owners), 2)

    def test_rooms_without_zone_sensor_or_heater_are_shown_as_such(self) -> None:
        home = drawn_home()
        bare = replace(home, zones=home.zones[:1], devices=home.devices[:1], heaters=home.heaters[:1])
        row = self.sheet(bare).rows[1]
        self.assertEqual(
            (row.room, row.sensor, row.heater, row.is_counted, row.follows),
            ("Study", "no sensor", "no heater", False, False),
        )

    def test_a_heater_told_not_to_follow_has_no_wire(self) -> None:
        home = drawn_home()
        lone = replace(home.zones[0], heater_ids=())
        rows = self.sheet(replace(home, zones=(lone, home.zones[1]))).rows
        self.assertEqual([r.follows for r in rows], [False, True])

    def test_sixty_rooms_have_sixty_rows(self) -> None:
        self.assertEqual(len(self.sheet(many_rooms()).rows), 60)


class Heaters(unittest.TestCase):
    def test_a_new_heater_is_drawn_along_its_nearest_wall(self) -> None:
        home = drawn_home()
        for spot, is_flat in ((Spot(x_m=2.0, y_m=0.1), True), (Spot(x_m=0.1, y_m=1.5), False)):
            heater: Heater = replace(home.heaters[0], at=spot, length_m=1.4)
            item = next(i for i in picture_of(replace(home, heaters=(heater,))).items if i.sort == "heater")
            assert item.box is not None
            width, height = item.box[2], item.box[3]
            self.assertEqual(width > height, is_flat)
