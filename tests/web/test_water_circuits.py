"""Water and circuits on their pages: typed in, worked out, found, in both units; what is wrong is told."""

from dataclasses import replace
from datetime import date
from typing import Any

from tests.core.water.test_litres import watered
from tests.edited import save_change
from tests.homes import becoming, small_home
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.edits.home_edits import swapped


class Pages(Case):
    """Pages and posts of one home."""

    def page(self, path: str) -> str:
        answer = self.client.get(f"/homes/home1/{path}")
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        return plain_spaces(answer.text)

    def post(self, path: str, status: int = 200, **fields: Any) -> str:
        _, base = self.app.homes.load("home1")
        answer = self.client.post(f"/homes/home1/{path}", data={"base": str(base), **fields})
        self.assertEqual(answer.status_code, status, answer.text[:400])
        return plain_spaces(answer.text)

    def keep(self, home: Any) -> None:
        _, base = self.app.homes.load("home1")
        save_change(self.app, "home1", base, ANN, "as it is", becoming(replace(home, id="home1")))


class Water(Pages):
    def test_six_cases_the_next_sensor_and_the_self_test(self) -> None:
        self.keep(watered())
        page = self.page("water?at=hose")
        for words in ("As it should be", "Nearest valve stuck", "nobody at home", "No internet", "31 s", "11 min"):
            self.assertTrue(words in page, words)
        self.assertTrue("next on 01/02" in page)
        self.assertTrue("18 / 60 · (22 + 9 / 2) = " in self.page("water/working/case.valve_near.hose"))
        self.assertEqual(self.client.get("/homes/home1/water/working/case.else.hose").status_code, 422)

    def test_gallons_in_a_home_of_feet(self) -> None:
        self.keep(replace(watered(), length_unit="ft"))
        page = self.page("water?at=hose")
        self.assertTrue("4.8 gal a minute" in page)
        self.assertFalse(" L a minute" in page)
        self.post("water/set?at=hose", id="hose", flow_l_min="10")
        self.assertAlmostEqual(self.app.homes.load("home1")[0].water_points[0].flow_l_min or 0, 37.854, places=3)

    def test_from_nothing_to_litres(self) -> None:
        self.assertTrue("Enter where water can come out" in self.page("water"))
        self.post("water/add", kind="washing_machine", room_id="study")
        point = self.app.homes.load("home1")[0].water_points[0].id
        self.assertTrue("No leak sensor is reached" in self.page("water"))
        self.post("water/shut", id=point, valve_id="new")
        self.post("water/reach", id=point, device_id="new", wet_s="20")
        home = self.app.homes.load("home1")[0]
        page = self.post("water/test", chain_id=home.safety_chains[0].id, on="2026-01-14", told_s="2", shut_s="9")
        self.assertTrue("31 s" in page, "20 + 2 + 9")
        self.assertTrue("Three tests" in page)
        refused = self.post("water/test", 422, chain_id=home.safety_chains[0].id, on="14.1.26", told_s="soon")
        self.assertTrue("Write a date" in refused)
        self.assertEqual(len(self.app.homes.load("home1")[0].safety_chains[0].tests), 1)

    def test_the_plan_and_the_list_of_checks_lead_here(self) -> None:
        home = watered()
        self.keep(replace(home, water_points=swapped(home.water_points, replace(home.water_points[0], reaches=()))))
        self.assertTrue("/homes/home1/water?at=hose" in self.page("survey"))


class Circuits(Pages):
    def test_from_nothing_to_a_mat_that_fails(self) -> None:
        self.keep(small_home())
        self.assertTrue("Enter the circuits that heat" in self.page("circuits"))
        self.post("circuits/add", name="Floor", rating_a="16")
        circuit = self.app.homes.load("home1")[0].circuits[0].id
        self.post("circuits/mat-add", id=circuit, name="K2", power_w="750", room_id="study")
        mat = self.app.homes.load("home1")[0].circuits[0].mats[0].id
        for on, stage, ohm in (("2025-03-01", "before", "70.2"), ("2025-03-04", "covered", "70.4")):
            self.post("circuits/mat-read", id=circuit, mat_id=mat, on=on, stage=stage, ohm=ohm)
        self.assertFalse("failing" in self.page(f"circuits?at={circuit}"))
        page = self.post(
            "circuits/mat-read", id=circuit, mat_id=mat, on="2026-01-14", stage="later", ohm="82,4", insulation_mohm=""
        )
        self.assertTrue("16.8 % over the 70.5 Ω expected" in page)
        self.assertTrue("230² / 750 = 70.5 Ω" in self.page(f"circuits/working/ohm.{mat}"))
        self.post("circuits/trip", id=circuit, on="2026-01-14", trip_ms="24")
        page = self.post("circuits/checklist-begin", kind="floor_circuit", about_id=circuit)
        self.assertTrue("0 of 9, not signed" in page)
        key = self.app.homes.load("home1")[0].checklists[0].id
        page = self.post("circuits/checklist-step", checklist_id=key, step="dead", by="M. Vlk", on="2026-01-14")
        self.assertTrue("1 of 9, not signed" in page)
        self.post("circuits/checklist-sign", 422, checklist_id=key, by="M. Vlk", on="2026-01-14")
        self.assertEqual(self.app.homes.load("home1")[0].circuits[0].trip_tests[0].on, date(2026, 1, 14))
        self.assertEqual(self.client.get("/homes/home1/circuits/working/load.none").status_code, 422)

    def test_a_wrong_field_is_told_and_nothing_is_lost(self) -> None:
        self.keep(small_home())
        refused = self.post("circuits/add", 422, name="Floor", rating_a="many")
        self.assertTrue("Write a number" in refused)
        self.assertEqual(self.app.homes.load("home1")[0].circuits, ())
