"""Ducts on their page: from nothing to trimmed vents, in both units; what cannot be is told."""

from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np

from tests.homes import small_home
from tests.web.test_pages import ANN
from tests.web.test_water_circuits import Pages
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import RoomDifference, VentRound
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.core.timegrid import parse_utc
from warmeter.service.readings import logs
from warmeter.simulators.ducted_house import ROOMS, ducted_home, other_house


def measured_home() -> Home:
    """Return the ducted home with one round of measured rooms."""
    home = ducted_home()
    system = home.ducts[0]
    off = dict(zip((key for key, *_ in ROOMS), (0.3, 0.9, -1.2, -0.6, 1.1, -0.5), strict=True))
    read = VentRound(
        on=date(2026, 1, 12),
        differences=tuple(RoomDifference(room_id=key, diff_k=value) for key, value in off.items()),
        notches=tuple((vent.id, vent.notch) for vent in system.vents),
    )
    return replace(home, ducts=(replace(system, rounds=(read,)),))


class Ducts(Pages):
    def test_rooms_by_choice_the_trim_and_the_day(self) -> None:
        self.keep(measured_home())
        page = self.page("ducts")
        for words in ("Living room only", "mean of 6", "No choice ends the spread", "Vent trim, round 1", "Stage 2"):
            self.assertTrue(words in page, words)
        self.assertTrue("From the coldest to the warmest 2.3 K now" in page)
        self.assertTrue("Vent area shut" in page and "limit 20" in page)
        self.assertTrue("m³/h = 25 %" in self.page("ducts/working/air.v-living"))
        self.assertEqual(self.client.get("/homes/home1/ducts/working/air.none").status_code, 422)

    def test_noted_as_set_it_waits_for_the_next_round(self) -> None:
        self.keep(measured_home())
        system = self.app.homes.load("home1")[0].ducts[0]
        moved: dict[str, Any] = {"notches.v-kitchen": "5", "notches.v-study": "1"}
        page = self.post("ducts/vents", id="ducts", **moved)
        self.assertTrue("The vents were moved since the rooms were measured" in page)
        after = {v.id: v.notch for v in self.app.homes.load("home1")[0].ducts[0].vents}
        self.assertEqual((after["v-kitchen"], after["v-study"], after["v-living"]), (5, 1, system.vents[0].notch))
        reads = {"living": "20.1", "kitchen": "20.4", "study": "19.4"}
        typed: dict[str, Any] = {f"rooms.{k}": v for k, v in reads.items()}
        page = self.post("ducts/measure", id="ducts", on="2026-01-13", is_cooling="no", **typed)
        self.assertTrue("Vent trim, round 2" in page)
        wrong: dict[str, Any] = {"rooms.living": "warm"}
        refused = self.post("ducts/measure", 422, id="ducts", on="2026-01-14", **wrong)
        self.assertTrue("Write a temperature" in refused)

    def test_feet_and_fahrenheit(self) -> None:
        self.keep(replace(measured_home(), temperature_unit="F", length_unit="ft"))
        page = self.page("ducts")
        self.assertTrue("cfm" in page and "in. w.c." in page and "°F now" in page)
        self.assertFalse("m³/h" in page)
        self.post("ducts/vent-set", id="ducts", vent_id="v-living", flow_m3_h="100")
        self.assertAlmostEqual(self.app.homes.load("home1")[0].ducts[0].vents[0].flow_m3_h or 0.0, 169.9, places=1)
        self.assertTrue("in²</th>" in page and "cm²</th>" not in page)
        self.post("ducts/vent-set", id="ducts", vent_id="v-living", area_cm2="50")
        self.assertAlmostEqual(self.app.homes.load("home1")[0].ducts[0].vents[0].area_cm2, 322.58, places=2)

    def test_from_nothing(self) -> None:
        self.keep(small_home())
        self.assertTrue("One furnace, many rooms" in self.page("ducts"))
        page = self.post("ducts/add", kind="boiler", heat_w="12 kW")
        self.assertTrue("Study vent" in page)
        self.assertTrue('id="to-ducts"' in self.page("heating"))
        system = self.app.homes.load("home1")[0].ducts[0]
        self.assertEqual(system.stages[0].heat_w, 12_000.0)
        page = self.post("ducts/checklist-begin", kind="thermostat_swap", about_id=system.id)
        self.assertTrue("0 of 9, not signed" in page)
        self.post("ducts/vent-remove", id=system.id, vent_id=system.vents[0].id)
        self.assertTrue("no heated room has an open vent yet" in self.page("ducts"))

    def test_shares_learnt_from_the_rooms_logs_and_taken(self) -> None:
        self.keep(ducted_home())
        self.assertTrue("Not imported: the temperature of Living room" in self.page("ducts"))
        system = self.app.homes.load("home1")[0].ducts[0]
        house = other_house(2)
        notches = {vent.id: vent.notch for vent in system.vents}
        room_c, heating = house.log(system, notches, hours=30, seed=2)
        names = [key for key, *_ in ROOMS]
        lines = [",".join(["time", *names, "state"])]
        start = parse_utc("2026-01-05T00:00:00Z")
        for k in range(heating.size):
            values = [f"{value:.1f}" for value in room_c[:, k]]
            lines.append(",".join([str(start + k * 60_000), *values, "heating" if heating[k] else "idle"]))
        columns = [
            Column(index=k, heading=name, quantity="room_temperature", unit="°C", subject=name)
            for k, name in enumerate(names, 1)
        ]
        last = len(names) + 1
        state = Column(index=last, heading="state", quantity="heating_state", unit="1", subject="living", kind="held")
        upload = logs.keep_log(self.app, "ducts.csv", ["\n".join(lines).encode()])
        mapping = ImportMapping(
            delimiter=",",
            decimal=".",
            heading_line=1,
            time_column=0,
            date_format="epoch",
            clock="utc",
            columns=(*columns, state),
        )
        logs.take(self.app, "home1", upload, mapping, ANN)
        page = self.page("ducts")
        self.assertTrue("By how fast each room began to warm after" in page)
        base = page.split('data-revision="')[1].split('"')[0]
        self.client.post("/homes/home1/ducts-learnt", data={"base": base, "id": "ducts"})
        taken = self.app.homes.load("home1")[0].ducts[0]
        flows = np.array([vent.flow_m3_h or 0.0 for vent in taken.vents])
        self.assertAlmostEqual(float(flows.sum()), taken.flow_m3_h, delta=1.0)
        self.assertLess(float(np.abs(flows / flows.sum() - house.shares(notches)).max()), 0.05)

    def test_while_it_cools_with_its_pair_and_pause(self) -> None:
        self.keep(ducted_home())
        self.assertTrue("This level has no cooling limit" in self.page("ducts?side=cooling"))
        home = self.app.homes.load("home1")[0]
        cooled = replace(
            home,
            id="ducted",
            levels=(replace(home.levels[0], cooling_c=25.0),),
            ducts=(replace(home.ducts[0], cooling_w=7000.0),),
        )
        self.keep(cooled)
        page = self.page("ducts?side=cooling&outdoor_c=34")
        self.assertTrue("cold, h a day" in page)
        self.assertTrue("In use heats under 20.0 °C and cools over 25.0 °C" in page)
        self.assertTrue("(5.0 K of deadband" in page)
        self.assertTrue("From one to the other it rests 10 min." in page)
        self.assertTrue("heat, h a day" in self.page("ducts"))
