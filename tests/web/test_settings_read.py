"""What was read in a device: one setting in two places, kept apart and told where they differ; a valve's exercise."""

from dataclasses import replace
from datetime import date

from tests.drawn import drawn_home
from tests.web.test_pages import Case, plain_spaces
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home


class SettingsRead(Case):
    @classmethod
    def home(cls) -> Home:
        """Return two rooms, somebody sleeping in the den, with a valve."""
        home = drawn_home(id="home1")
        rooms = tuple(replace(r, use="sleeping") if r.id == "den" else r for r in home.rooms)
        valve = Device(id="valve", name="Den valve", kind="radiator_valve", room_id="den", power="battery")
        return replace(home, rooms=rooms, devices=(*home.devices, valve))

    def send(self, command: str, **values: str) -> int:
        base = self.page().split('data-revision="')[1].split('"')[0]
        url = f"/homes/home1/devices/{command}?at=valve"
        return int(self.client.post(url, data={"base": base, "id": "valve", **values}).status_code)

    def page(self) -> str:
        return plain_spaces(self.client.get("/homes/home1/devices?at=valve").text)

    def device(self) -> Device:
        return self.app.homes.load("home1")[0].device("valve")

    def test_two_readings_of_one_setting_stay_apart_and_are_told_where_they_differ(self) -> None:
        self.send("setting-read", setting="Frost limit", value="5", where="its display")
        self.assertFalse("reads 5 on its display, 7" in self.page())
        self.send("setting-read", setting="frost limit", value="7", where="the network")
        self.assertEqual(len(self.device().settings_read), 2)
        self.assertTrue("Frost limit of Den valve reads 5 on its display, 7 on the network" in self.page())
        # Read again in the same place: the newer one counts, and they are alike.
        self.send("setting-read", setting="Frost limit", value="5", where="The network")
        self.assertEqual(len(self.device().settings_read), 2)
        self.assertFalse("reads 5 on its display, " in self.page())
        self.send("setting-remove", index="0")
        self.assertEqual([r.where for r in self.device().settings_read], ["The network"])

    def test_its_exercise_at_night_and_when_it_is_due(self) -> None:
        self.assertEqual(self.send("exercise", weekday="5", at_min="03:00"), 200)
        self.assertTrue("works itself free at 03:00, in a room where somebody sleeps" in self.page())
        self.send("exercise", at_min="11:00", worked_on="2025-11-02")
        self.assertFalse("in a room where somebody sleeps" in self.page())
        found = self.device().exercise
        self.assertEqual(None if found is None else found.worked_on, date(2025, 11, 2))
        self.assertTrue("Den valve waits to be worked" in self.client.get("/homes/home1/matters").text)
