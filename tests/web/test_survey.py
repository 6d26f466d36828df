"""Survey and zones over HTTP: acts by table, refusals at the place, files, and markup shown as text."""

import json
from dataclasses import replace
from typing import Any, ClassVar
from xml.etree import ElementTree

from tests.drawn import drawn_home
from tests.homes import small_home
from tests.served import NOW_MS
from tests.web.test_pages import Case, plain_spaces
from warmeter.core.building.losses import loss_of
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Overrule
from warmeter.service.homes.demo import demo_home
from warmeter.simulators.faults import as_found
from warmeter.simulators.many_rooms import many_rooms
from warmeter.store.codec import home_to_json
from warmeter.store.homes import Change


class Surveying(Case):
    """A drawn home, and acts posted as the page's forms post them."""

    first: ClassVar[Home] = drawn_home()

    @classmethod
    def home(cls) -> Home:
        """Return the home that a test begins with."""
        return cls.first

    def now(self) -> Home:
        """Return the home as it is stored now."""
        return self.app.homes.load(self.first.id)[0]

    def act(self, page: str, act: str, expect: int = 200, **fields: object) -> str:
        """Post an act as a script does and return the part that comes back."""
        _, base = self.app.homes.load(self.first.id)
        data = {"base": str(base), **{k: str(v) for k, v in fields.items()}}
        answer = self.client.post(
            f"/homes/{self.first.id}/{page}/{act}", data=data, headers={"HX-Request": "true", "X-Window": "w1"}
        )
        self.assertEqual(answer.status_code, expect, answer.text[:300])
        return plain_spaces(answer.text)


class PlanActs(Surveying):
    def test_rooms_are_drawn_typed_joined_and_removed(self) -> None:
        self.act("plan", "room-add", storey_id="ground", x_m=9, y_m=0, width_m=2, depth_m="3,5", name="Porch")
        porch = self.now().rooms[2]
        self.assertEqual((porch.name, porch.rects[0].depth_m), ("Porch", 3.5))
        self.act("plan", "rect-set", room_id=porch.id, index=0, x_m=9, y_m=0, width_m=2, depth_m=3)
        self.act("plan", "room-edge", room_id=porch.id, index=0, side="right", at_m=12)
        self.act("plan", "room-move", room_id=porch.id, dx_m=0, dy_m=0.5)
        self.assertEqual(self.now().rooms[2].rects[0].width_m, 3.0)
        self.act("plan", "rect-add", room_id=porch.id)
        self.act("plan", "rect-remove", room_id=porch.id, index=1)
        self.act("plan", "room-join", room_id="study", other_id=porch.id)
        self.assertEqual(len(self.now().room("study").rects), 2)
        self.act("plan", "room-remove", room_id="study")
        self.assertEqual([r.id for r in self.now().rooms], ["den"])

    def test_what_was_told_of_a_room_is_changed_field_by_field(self) -> None:
        part = self.act(
            "plan", "room-set", room_id="den", use="bath", condition="heated", built="2016_on", mass_class="heavy"
        )
        self.assertIn("Den", part)
        self.act("plan", "room-set", room_id="den", name="Snug", height_m="2.7", design_c="21,5")
        room = self.now().room("den")
        self.assertEqual((room.name, room.use, room.height_m, room.design_c), ("Snug", "bath", 2.7, 21.5))
        self.assertEqual(self.now().zones[0].name, "Snug", "a zone named after its room keeps its name")
        self.act("plan", "room-set", room_id="den", design_c="")
        self.assertIsNone(self.now().room("den").design_c)

    def test_a_figure_is_overruled_marked_and_handed_back(self) -> None:
        part = self.act("plan", "overrule", room_id="den", figure="u_wall", value="0.3", pane="shape")
        self.assertAlmostEqual(self.now().room("den").overruled("u_wall") or 0, 0.3)
        self.act("plan", "overrule", room_id="den", figure="u_wall", value="0.3", reason="probe", on="2026-01-04")
        typed = self.now().room("den").overrules[0]
        self.assertEqual((typed.reason, str(typed.on)), ("probe", "2026-01-04"))
        page = plain_spaces(self.client.get("/homes/drawn/survey?at=den&pane=shape").text)
        self.assertIn('class="is-typed"', page)
        self.assertIn("reset", page)
        self.act("plan", "overrule", room_id="den", figure="u_wall", value="", back="1")
        self.assertEqual(self.now().room("den").overrules, ())
        self.assertTrue(part)

    def test_openings_and_items_by_table_and_by_point(self) -> None:
        self.act("plan", "opening-add", room_id="den", kind="door", side="left")
        door = self.now().openings[-1]
        self.act("plan", "opening-set", id=door.id, width_m=0.8, u_w_m2k="1.4", side="up", kind="door")
        self.act("plan", "opening-move", id=door.id, along_m=1.1)
        self.assertEqual((self.now().opening(door.id).along_m, self.now().opening(door.id).u_w_m2k), (1.1, 1.4))
        self.act("plan", "opening-add", kind="window", storey_id="ground", x_m=6.5, y_m=2.9)
        window = self.now().openings[-1]
        self.assertEqual((window.room_id, window.side, window.along_m), ("study", "down", 2.5))
        self.act("plan", "item-add", what="device:leak_sensor", storey_id="ground", x_m=5, y_m=1)
        leak = self.now().devices[-1]
        self.assertEqual((leak.kind, leak.room_id), ("leak_sensor", "study"))
        self.act("plan", "item-move", id=leak.id, x_m=1, y_m=1, storey_id="ground")
        self.assertEqual(self.now().device(leak.id).room_id, "den")
        self.act("plan", "item-set", id=leak.id, name="By the tap", x_m="0.4", y_m="0.5", z_m="0")
        self.act("plan", "item-add", what="thing:curtain", room_id="den")
        self.act("plan", "item-set", id=self.now().things[-1].id, width_m="1.5", depth_m="0.1")
        self.act("plan", "part-remove", id=leak.id)
        self.assertNotIn(leak.id, {d.id for d in self.now().devices})

    def test_storeys_design_day_and_north(self) -> None:
        self.act("plan", "storey-add", name="Attic")
        storey = self.now().storeys[-1]
        self.act("plan", "storey-set", storey_id=storey.id, name="Loft", height_m="2.2")
        self.assertEqual(self.now().storeys[-1].name, "Loft")
        self.act("plan", "storey-remove", storey_id=storey.id)
        self.act(
            "plan", "design", outdoor_c="-8", annual_mean_c="9,5", north_deg="90", bridge_w_m2k="0.05", shelter="heavy"
        )
        design = self.now().design
        self.assertEqual(
            (design.outdoor_c, design.annual_mean_c, design.north_deg, design.shelter), (-8.0, 9.5, 90.0, "heavy")
        )

    def test_refusals_say_what_where_and_lose_nothing(self) -> None:
        for act, fields, words in (
            (
                "rect-set",
                {"room_id": "den", "index": 0, "x_m": 0, "y_m": 0, "width_m": -4, "depth_m": 3},
                "width: Between 0.1 and 100 m",
            ),
            ("room-edge", {"room_id": "den", "index": 0, "side": "right", "at_m": -5}, "move the other edge first"),
            ("room-set", {"room_id": "den", "height_m": "tall"}, "Write a number"),
            ("overrule", {"room_id": "den", "figure": "u_wall", "value": "90"}, "between 0.02 and 10"),
            ("opening-add", {"kind": "window", "storey_id": "ground", "x_m": 60, "y_m": 60}, "no wall near"),
            (
                "item-add",
                {"what": "device:air_sensor", "storey_id": "ground", "x_m": 60, "y_m": 60},
                "no room at that place",
            ),
            ("item-add", {"what": "device:toaster", "room_id": "den"}, "from the list"),
            ("storey-remove", {"storey_id": "ground"}, "has rooms"),
            ("room-join", {"room_id": "den", "other_id": "den"}, "join two drawn rooms"),
            ("part-remove", {"id": "nobody"}, "not there any more"),
            ("no-such", {}, "no such act"),
        ):
            with self.subTest(act):
                self.assertIn(words, self.act("plan", act, 422, **fields))
        self.assertEqual(self.now(), drawn_home())

    def test_another_window_is_told_and_both_changes_can_stand(self) -> None:
        self.act("plan", "room-move", room_id="den", dx_m=-1, dy_m=0)
        answer = self.client.post(
            "/homes/drawn/plan/room-move",
            data={"base": "1", "room_id": "study", "dx_m": "1", "dy_m": "0"},
            headers={"HX-Request": "true"},
        )
        self.assertEqual(answer.status_code, 409)

    def test_many_key_presses_are_one_revision(self) -> None:
        for _ in range(5):
            self.act("plan", "room-move", room_id="den", dx_m=-0.1, dy_m=0)
        self.assertAlmostEqual(self.now().room("den").rects[0].x_m, -0.5)
        self.assertEqual(len(self.app.homes.revisions("drawn")), 2)

    def test_the_working_of_every_figure_opens(self) -> None:
        loss = loss_of(drawn_home(), drawn_home().room("den"))
        for key, words in (
            ("loss.den", f"{loss.total_w:.0f} W"),
            ("output.den", "49.8"),
            ("flow.den", "spread"),
            ("copes.den", "output"),
        ):
            page = self.get(f"/homes/drawn/plan/working/{key}")
            self.assertIn(words, " ".join(page.texts), key)
        for key in ("nothing.den", "loss.nobody"):
            self.assertEqual(self.client.get(f"/homes/drawn/plan/working/{key}").status_code, 422)

    def test_without_scripts_an_act_leads_back_to_the_page(self) -> None:
        answer = self.client.post(
            "/homes/drawn/plan/room-move",
            data={"base": "1", "room_id": "den", "dx_m": "-1", "dy_m": "0"},
            follow_redirects=False,
        )
        self.assertEqual((answer.status_code, answer.headers["location"]), (303, "/homes/drawn/survey?at=den"))


class Plant(Surveying):
    def test_sources_and_heaters_are_typed(self) -> None:
        self.act("heating", "source-add", kind="heat_pump")
        pump = self.now().sources[-1]
        self.act(
            "heating",
            "source-set",
            id=pump.id,
            name="Pump",
            flow_c="42",
            spread_k="5",
            most_w="9000",
            least_w="2000",
            litres="120",
            cop_points="−7 2,4; 7 3.6",
        )
        pump = self.now().sources[-1]
        self.assertEqual(
            (pump.cop_points, pump.flow_c, pump.water_j_k), (((-7.0, 2.4), (7.0, 3.6)), 42.0, 120 * 4186.0)
        )
        self.act("heating", "heater-set", id="rad-den", source_id=pump.id, rated_heat_w="900", exponent="1.28")
        part = self.act("heating", "heater-add", what="heater:split_unit", room_id="study")
        self.assertIn("COP at 7", part)
        unit = self.now().heaters[-1]
        self.act("heating", "heater-set", id=unit.id, cop="4.1", cooling_w="", fan_steps="quiet 0.4; high 1")
        split = self.now().heaters[-1].split
        assert split is not None
        self.assertEqual(
            (split.cop, split.cooling_w, [s.word for s in split.fan_steps]), (4.1, None, ["quiet", "high"])
        )
        self.act("heating", "heater-kind", id=unit.id, kind="warm_floor")
        self.act("heating", "heater-set", id=unit.id, surface_limit_c="27", free_floor_m2="8")
        self.act("heating", "heater-remove", id=unit.id)
        page = self.client.get("/homes/drawn/heating?at=rad-den").text
        self.assertIn("limiting room", page)

    def test_a_split_unit_shows_what_it_gives_by_outdoor_temperature_and_a_valve_its_droop(self) -> None:
        self.act("heating", "heater-add", what="heater:split_unit", room_id="study")
        unit = self.now().heaters[-1].id
        self.act(
            "heating",
            "heater-set",
            id=unit,
            rated_heat_w="3000",
            heat_slope_1_k="0.02",
            cop="4",
            cop_slope_1_k="0.02",
            cooling_w="2500",
            eer="3.5",
        )
        texts = " ".join(self.get(f"/homes/drawn/heating?at={unit}").texts)
        for words in ("2\u2009400", "3.20", "3\u2009000", "4.00", "2\u2009500", "3.50"):
            self.assertIn(words, texts)
        self.assertIn("under the setpoint", " ".join(self.get("/homes/drawn/heating?at=rad-den").texts))

    def test_plates_that_make_no_sense_are_refused(self) -> None:
        for act, fields, words in (
            ("source-remove", {"id": "boiler"}, "hang on Boiler"),
            ("source-set", {"id": "boiler", "cop_points": "warm 3"}, "is no COP point"),
            ("source-set", {"id": "boiler", "flow_c": "120"}, "Between 20 and 95"),
            ("heater-set", {"id": "rad-den", "rated_heat_w": "-5"}, "rated heat: Above 0"),
            ("heater-set", {"id": "rad-den", "source_id": "sun"}, "no source"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.act("heating", act, 422, **fields))


class Register(Surveying):
    def test_all_that_is_known_of_a_device_is_written_down(self) -> None:
        self.act("devices", "add", kind="radiator_valve", room_id="den")
        valve = self.now().devices[-1]
        fields: dict[str, Any] = {
            "name": "Den valve",
            "make_model": "as on it",
            "bus": "radio",
            "address": "7F",
            "channel": "2",
            "power": "battery",
            "battery_new": "2025-11-01",
            "battery_pct": "80",
            "battery_read_on": "2026-01-02",
            "quantities": "room_temperature",
            "hold_s": "90",
            "guard_c": "8",
            "guard_read": "menu 7",
            "guard_read_on": "2026-01-02",
            "child_lock": "on",
            "own_timetable": "running",
            "is_two_way": "no",
            "witness_id": "air-den",
            "drives_id": "rad-den",
            "works_without_internet": "yes",
            "works_without_controller": "no",
        }
        self.act("devices", "set", id=valve.id, **fields)
        self.act("devices", "way-add", id=valve.id, way="wheel", by="guests", state="open")
        self.act("devices", "way-set", id=valve.id, index=0, state="shut")
        self.act("devices", "mode-add", id=valve.id, word="off", does="opens below 6")
        self.act(
            "devices", "calibrate", id=valve.id, raw_c="20.6", true_c="20.0", on="2026-01-02", reference="ice bath"
        )
        self.act("devices", "adopt", id=valve.id, address="8A", since="2026-02-01", reason="battery changed")
        self.act("devices", "note-add", id=valve.id, text="squeaks", reason="heard it", on="2026-02-01")
        kept = self.now().device(valve.id)
        self.assertEqual((kept.address, [i.address for i in kept.identities]), ("8A", ["7F", "8A"]))
        self.assertEqual((kept.hold_s, kept.guard_c, kept.is_two_way, kept.drives_id), (90.0, 8.0, False, "rad-den"))
        self.assertEqual(
            (kept.commands[0].state, kept.modes[0].does, kept.calibrations[0].offset), ("shut", "opens below 6", -0.6)
        )
        page = " ".join(self.get(f"/homes/drawn/devices?at={valve.id}").texts)
        for words in ("battery changed", "ice bath", "squeaks", "keeps a timetable of its own"):
            self.assertIn(words, page)
        self.act("devices", "way-set", id=valve.id, index=0, remove="1", state="shut")
        self.act("devices", "mode-remove", id=valve.id, index=0)
        self.act("devices", "calibration-remove", id=valve.id, index=0)
        self.act("devices", "note-remove", note_id=self.now().notes[0].id)
        bare = self.now().device(valve.id)
        self.assertEqual((bare.commands, bare.modes, bare.calibrations, self.now().notes), ((), (), (), ()))

    def test_chains(self) -> None:
        self.act("devices", "add", kind="water_valve", room_id="den")
        valve = self.now().devices[-1]
        self.act("devices", "chain-add", kind="frost", device_id="air-den", name="Cold pipe")
        chain = self.now().safety_chains[0]
        self.act("devices", "chain-set", id=chain.id, add_id=valve.id)
        self.assertEqual(self.now().safety_chains[0].device_ids, ("air-den", valve.id))
        self.act("devices", "chain-set", id=chain.id, out_id="air-den")
        self.act("devices", "chain-set", id=chain.id, add_id="", remove="1")
        self.assertEqual(self.now().safety_chains, ())

    def test_replacing_is_shown_before_it_is_done_and_is_one_revision(self) -> None:
        page = " ".join(self.get("/homes/drawn/devices?at=air-den&by=new:thermostat").texts)
        self.assertIn("counts for Den at every level", page)
        before = len(self.app.homes.revisions("drawn"))
        self.act("devices", "replace", id="air-den", by="new:thermostat", on="2026-03-01")
        home = self.now()
        self.assertEqual(len(self.app.homes.revisions("drawn")), before + 1)
        self.assertEqual(home.zones[0].counted_ids, (home.devices[-1].id,))
        self.assertFalse(home.device("air-den").is_in_service)

    def test_what_cannot_be_is_refused(self) -> None:
        for act, fields, words in (
            ("set", {"id": "air-den", "witness_id": "air-den"}, "its own witness"),
            ("set", {"id": "air-den", "quantities": "smell"}, "is no quantity"),
            ("set", {"id": "air-den", "battery_new": "yesterday"}, "Write a date"),
            ("replace", {"id": "air-den", "by": "new:toaster", "on": "2026-03-01"}, "from the list"),
            ("replace", {"id": "air-den", "by": "new:thermostat", "on": ""}, "Write a date"),
            ("note-add", {"id": "nobody", "text": "x"}, "not there any more"),
            ("way-set", {"id": "air-den", "index": "4", "state": "shut"}, "not there any more"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.act("devices", act, 422, **fields))


class ZoneActs(Surveying):
    first = demo_home("terrace-nine")

    def test_owner_range_guard_sensors_gap_and_cooling(self) -> None:
        zone = self.first.zones[0]
        self.act(
            "zones",
            "set",
            id=zone.id,
            name="West",
            low_c="15",
            high_c="24",
            guard_low_c="9.5",
            off_c="",
            off_means="rests",
            owner_id="",
        )
        self.act(
            "zones",
            "sensing",
            id=zone.id,
            level_id="tn-asleep",
            rule="coldest",
            **{"counted.tn-s-living": "on", "counted.tn-s-study": "on"},  # type: ignore[arg-type]
        )
        kept = self.now().zones[0]
        assert kept.guard is not None
        self.assertEqual((kept.name, kept.guard.low_c, kept.sensing[1].rule), ("West", 9.5, "coldest"))
        both = {"counted.tn-s-living": "on", "counted.tn-s-study": "on"}
        self.assertIn(
            "several are ticked", self.act("zones", "sensing", 422, id=zone.id, level_id="", rule="one", **both)
        )
        self.act("zones", "gap", gap_k="3", reason="both hystereses")
        self.act("zones", "cooling", level_id="tn-in-use", cooling_c="22")
        level = self.now().level("tn-in-use")
        self.assertEqual((level.heating_c, level.cooling_c), (19.0, 22.0))
        self.assertIn("must rise", self.act("zones", "set", 422, id=zone.id, low_c="25", high_c="20"))

    def test_rooms_move_between_zones_and_heaters_follow_or_not(self) -> None:
        first, second = self.first.zones[:2]
        self.act("zones", "room-to", room_id="tn-bedroom", zone_id=first.id)
        self.assertEqual(self.now().zones[0].room_ids, ("tn-living", "tn-bedroom"))
        self.assertNotIn(second.id, {z.id for z in self.now().zones})
        self.act("zones", "follow", id=first.id, heater_id="tn-split-bedroom")
        self.assertEqual(self.now().zones[0].heater_ids, ("tn-split-living",))
        self.act("zones", "follow", id=first.id, heater_id="tn-split-bedroom")
        self.assertIsNone(self.now().zones[0].heater_ids)
        self.act("zones", "room-to", room_id="tn-bedroom", zone_id="")
        self.assertEqual([z.room_ids for z in self.now().zones], [("tn-living",), ("tn-study",), ("tn-bedroom",)])

    def test_panes_show_rules_and_groupings(self) -> None:
        checks = " ".join(self.get("/homes/terrace-nine/zones?pane=checks").texts)
        self.assertIn("others pass", checks)
        sensors = " ".join(self.get("/homes/terrace-nine/zones?pane=sensors").texts)
        self.assertIn("Living room sensor", sensors)
        tried = " ".join(self.get("/homes/terrace-nine/zones?pane=several&g_tn-living=A&g_tn-study=A&rule=mean").texts)
        for words in ("As now", "Your grouping", "One zone", "The numbers favour", "made-up week"):
            self.assertIn(words, tried)


class Found(Surveying):
    first = as_found(demo_home("sail-loft"))

    def test_findings_jump_to_their_place_and_are_fixed_at_once(self) -> None:
        page = self.client.get("/homes/sail-loft/zones?pane=checks").text
        self.assertIn('href="/homes/sail-loft/devices?at=dv-valve-bedroom"', page)
        self.act("zones", "fix", kind="controlled twice", about="dv-valve-bedroom,zo-bedroom")
        self.assertEqual(self.now().device("dv-valve-bedroom").own_timetable, "off")
        page = self.client.get("/homes/sail-loft/zones?pane=checks").text
        self.assertNotIn("devices?at=dv-valve-bedroom", page)
        self.assertIn(
            "corrected at its place",
            self.act("zones", "fix", 422, kind="protection limits differ", about="dv-valve-loft"),
        )

    def test_plan_and_sheet_are_saved_with_their_looks_inside(self) -> None:
        for path in ("plan.svg?storey=st-loft", "wiring.svg"):
            answer = self.client.get(f"/homes/sail-loft/{path}")
            self.assertEqual(answer.headers["content-type"], "image/svg+xml")
            self.assertNotIn("var(--", answer.text)
            self.assertIn("<style>", answer.text)
            self.assertNotIn('class="wm-hnd', answer.text)
            self.assertTrue(ElementTree.fromstring(answer.text).tag.endswith("svg"), "a file must be well-formed")


class ManyRooms(Surveying):
    first = many_rooms()

    def test_a_long_comparison_says_so_first_and_then_comes(self) -> None:
        page = self.get("/homes/many-rooms/zones?pane=several")
        waiting = page.by_id("several-wait")
        self.assertIn("run=1", waiting["hx-get"])
        self.assertNotIn("The numbers favour", " ".join(page.texts))

    def test_every_page_of_sixty_rooms_opens(self) -> None:
        for path in (
            "survey",
            "survey?storey=s-4&at=r-4-11&pane=shape",
            "heating",
            "devices",
            "zones",
            "zones?pane=checks",
            "rooms.csv",
            "plan.svg?storey=s-2",
            "wiring.svg",
        ):
            self.assertEqual(self.client.get(f"/homes/many-rooms/{path}").status_code, 200, path)


class Markup(Surveying):
    first = replace(
        drawn_home(), rooms=tuple(replace(r, name=f"<i>{r.name}</i> & «{r.id}» 部屋") for r in drawn_home().rooms)
    )

    def test_markup_in_names_is_shown_as_text_on_every_page_and_in_every_picture(self) -> None:
        for path in (
            "survey",
            "survey?at=den&pane=shape",
            "survey?at=den&pane=openings",
            "survey?at=den&pane=inside",
            "heating",
            "devices?at=air-den",
            "zones",
            "zones?pane=several",
            "survey/record",
            "plan.svg",
            "wiring.svg",
        ):
            answer = self.client.get(f"/homes/drawn/{path}")
            with self.subTest(path):
                self.assertEqual(answer.status_code, 200)
                self.assertNotIn("<i>", answer.text)


class HomeFiles(Surveying):
    def test_a_home_comes_in_from_the_page_of_homes_and_rooms_from_a_table(self) -> None:
        file = {"file": ("drawn.json", home_to_json(drawn_home()), "application/json")}
        answer = self.client.post("/homes/bring-in", files=file, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)
        self.assertEqual(len(self.app.homes.lines()), 2)
        table = self.client.get("/homes/drawn/rooms.csv")
        self.assertIn("text/csv", table.headers["content-type"])
        more = table.text + "new1,Porch,Ground floor,0,3,2,1,2.5,hall,heated,2016_on,light,,,\n"
        answer = self.client.post(
            "/homes/drawn/rooms.csv",
            data={"base": "1"},
            files={"file": ("r.csv", more.encode())},
            follow_redirects=False,
        )
        self.assertEqual((answer.status_code, self.now().rooms[-1].name), (303, "Porch"))
        bad = self.client.post("/homes/drawn/rooms.csv", data={"base": "2"}, files={"file": ("r.csv", b"name,x_ft\n")})
        self.assertEqual(bad.status_code, 422)
        self.assertIn("x_ft", bad.text)
        document = json.loads(home_to_json(self.now())) | {"name": "Another name"}
        put = self.client.post(
            "/homes/drawn/home.json",
            data={"base": "2"},
            files={"file": ("h.json", json.dumps(document).encode())},
            follow_redirects=False,
        )
        self.assertEqual((put.status_code, self.now().name), (303, "Another name"))

    def test_a_home_can_begin_empty(self) -> None:
        page = self.client.get("/homes/new?empty=1").text
        self.assertIn("begins without rooms", page)
        fields: dict[str, Any] = {
            "empty": "1",
            "name": "Bare",
            "latitude": "50",
            "longitude": "1",
            "zone": "Europe/London",
            "country": "GB",
            "currency": "GBP",
            "temperature_unit": "C",
            "source": "direct",
        }
        answer = self.client.post("/homes/new", data=fields, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)
        path = answer.headers["location"]
        for step in ("survey", "zones", "heating", "devices", "survey/record", "timetable", "sheet", "warmup"):
            self.assertEqual(self.client.get(path.replace("survey", step)).status_code, 200, step)


class InWords(Case):
    def test_an_edit_in_words_keeps_what_it_does_not_tell(self) -> None:
        home = small_home()
        typed = replace(home.rooms[0], use="bath", overrules=(Overrule(figure="u_wall", value=0.3),))
        second = replace(home.heaters[0], id="rail", name="Rail", rated_heat_w=100.0)
        leading = replace(home.heaters[0], exponent=1.25, clearance_m=0.7)
        self.app.homes.save(
            replace(home, rooms=(typed,), heaters=(leading, second)),
            Change(base=1, author="Ann", summary="typed", at_ms=NOW_MS),
        )
        told = {
            "room_name": "Den",
            "room_area": "22",
            "room_height": "2.6",
            "room_built": "2016_on",
            "room_mass": "light",
            "room_walls": "3",
            "room_heater": "electric_panel",
            "room_watts": "1500",
            "base": "2",
        }
        answer = self.client.post("/homes/home1/rooms/study", data=told, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)
        home = self.app.homes.load("home1")[0]
        room, heaters = home.rooms[0], {h.id: h for h in home.heaters}
        assert room.described is not None
        self.assertEqual(
            (room.name, room.described.floor_area_m2, room.use, room.overruled("u_wall")), ("Den", 22.0, "bath", 0.3)
        )
        self.assertEqual(
            (heaters["panel"].rated_heat_w, heaters["panel"].exponent, heaters["panel"].clearance_m),
            (1500.0, 1.25, 0.7),
        )
        self.assertEqual(heaters["rail"].rated_heat_w, 100.0, "the other heater of the room stays")

    def test_a_described_room_is_drawn_and_keeps_its_floor(self) -> None:
        answer = self.client.post(
            "/homes/home1/plan/room-draw", data={"base": "1", "room_id": "study"}, headers={"HX-Request": "true"}
        )
        self.assertEqual(answer.status_code, 200)
        home = self.app.homes.load("home1")[0]
        self.assertTrue(home.rooms[0].is_drawn)
        self.assertAlmostEqual(home.rooms[0].rects[0].width_m ** 2, 20.0, delta=0.05)
        self.assertEqual(home.storeys[0].name, "Ground floor")


class Fahrenheit(Surveying):
    """A home that speaks °F: what is typed is kept in °C and K, and shown again as it was typed."""

    first: ClassVar[Home] = replace(drawn_home(), temperature_unit="F")

    def test_a_calibration_of_two_degrees_is_eleven_tenths_of_a_kelvin(self) -> None:
        part = self.act("devices", "calibrate", id="air-den", raw_c="70", true_c="68", on="2026-01-02")
        self.assertAlmostEqual(self.now().device("air-den").calibrations[-1].offset, -2 / 1.8, places=3)
        self.assertIn("\u22122.00</span> °F", part)

    def test_cop_points_are_typed_and_shown_in_its_unit(self) -> None:
        self.act("heating", "source-add", kind="heat_pump")
        pump = self.now().sources[-1].id
        part = self.act("heating", "source-set", id=pump, cop_points="14 2.2; 50 4")
        self.assertEqual(self.now().sources[-1].cop_points, ((-10.0, 2.2), (10.0, 4.0)))
        self.assertIn('value="14 2.2; 50 4"', part)
