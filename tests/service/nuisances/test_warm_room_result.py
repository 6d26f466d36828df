"""A room that is too warm, on made-up rooms of two stores: whose heater asks too much, that the sun warms, that keeps its warmth."""

import unittest
from dataclasses import replace
from decimal import Decimal

from tests import nuisance_logs
from tests.homes import small_home
from tests.served import fresh_app
from warmeter.core.edits.edit import Apply
from warmeter.core.nuisances.cold_room import ColdRoom
from warmeter.core.nuisances.result import NuisanceResult
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.nuisances.warm_room_result import warm_room_result
from warmeter.service.readings import logs

ANN = Person("Ann")
DEN = ColdRoom(room="Den", warm_by=390, warm_c=20.0, night_c=16.0, heater_w=1500.0, price=Decimal("0.30"))


class TooWarm(unittest.TestCase):
    def result(self, log: str) -> NuisanceResult:
        """Return what comes of a den's log."""
        app = fresh_app()
        bare = replace(small_home(), rooms=(), heaters=(), zones=(), devices=(), appliances=(), tariffs=())
        editing.create_home(app, bare, ANN)
        home, base = app.homes.load("home1")
        editing.edit_home(app, "home1", base, ANN, Apply(change=lambda h: DEN.edit(h).home, summary="Den"))
        home, _ = app.homes.load("home1")
        upload = logs.keep_upload(app, "den.csv", [log.encode()])
        found = logs.proposal(app, home, upload)
        wanted = {"Den temperature": "room_temperature", "Outdoor": "outdoor_temperature", "Den heat": "heat_w"}
        columns = []
        for column in found.suggested.columns:
            quantity = next((q for word, q in wanted.items() if column.heading.startswith(word)), "")
            subject = "" if quantity == "outdoor_temperature" else home.rooms[0].id
            columns.append(replace(column, quantity=quantity, subject=subject))
        logs.take(app, "home1", upload, replace(found.suggested, columns=tuple(columns)), ANN)
        return warm_room_result(app, home, home.rooms[0].id)

    def facts(self, found: NuisanceResult) -> dict[str, float | None]:
        return {fact.label: fact.value for fact in found.facts}

    def test_a_thermostat_that_asks_two_kelvins_more(self) -> None:
        found = self.result(nuisance_logs.warm_room_csv(over_k=2.0))
        self.assertTrue(found.is_answered)
        self.assertIn("Set it 2.0 K lower", found.sentence)
        assert found.figure is not None
        assert found.figure.low is not None
        assert found.figure.high is not None
        # Two kelvins in about 15.5 h of the day, 40 W/K, 0.30 a kWh, on nine days of ten of the year.
        by_hand = 2.0 * 15.5 / 24 * 40.0 * 8.76 * 0.30 * 0.9
        self.assertLess(found.figure.low, by_hand)
        self.assertGreater(found.figure.high, by_hand)

    def test_the_sun_is_no_fault_of_the_heater(self) -> None:
        found = self.result(nuisance_logs.warm_room_csv(sun_w=1500.0))
        self.assertIn("No setting of the heater ends that", found.sentence)
        self.assertIn("Outdoors was cooler in 100 %", found.sentence)
        self.assertIsNone(found.figure)
        self.assertLess(self.facts(found)["while its heater worked"] or 0.0, 1.0)

    def test_a_room_that_keeps_its_warmth_is_timed(self) -> None:
        found = self.result(nuisance_logs.warm_room_csv(mean_c=9.0))
        self.assertIn("after 22:00 it takes", found.sentence)
        assert found.figure is not None
        assert found.figure.value is not None
        self.assertGreater(found.figure.value, 60)
        self.assertLess(found.figure.value, 8.5 * 60)

    def test_a_room_that_is_right_is_not_called_too_warm(self) -> None:
        self.assertIn("it is not too warm by its log", self.result(nuisance_logs.warm_room_csv()).sentence)
        lines = nuisance_logs.warm_room_csv(sun_w=1500.0).splitlines()
        without_heat = "\n".join(line.rpartition(";")[0] for line in lines)
        found = self.result(without_heat)
        self.assertFalse(found.is_answered)
        self.assertIn("so neither is why", found.sentence)
