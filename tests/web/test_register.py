"""The register of devices, the tariff's lanes and the design day from a file, as pages: what is asked is what is shown."""

import re

from tests.core.weather.test_epw import year
from tests.web.test_pages import plain_spaces
from tests.web.test_survey import Surveying
from warmeter.core.home.device_kinds import DEVICE_TRAITS
from warmeter.core.home.devices import Device


class Register(Surveying):
    def page(self, path: str) -> str:
        """Return a page of the home, its spaces plain."""
        answer = self.client.get(f"/homes/{self.first.id}/{path}")
        self.assertEqual(answer.status_code, 200)
        return plain_spaces(answer.text)

    def shown(self, query: str) -> list[str]:
        """Return the names in the list that a query narrows."""
        return re.findall(r'id="device-[^"]+"><strong>([^<]+)</strong>', self.page(f"devices?{query}"))

    def newest(self) -> Device:
        """Return the device that was added last."""
        return self.now().devices[-1]

    def test_each_kind_begins_as_such_devices_are(self) -> None:
        for kind, traits in DEVICE_TRAITS.items():
            self.act("devices", "add", kind=kind)
            device = self.newest()
            told = (device.power, device.own_timetable, device.is_two_way, device.works_without_internet)
            wanted = (traits.powers[0], traits.own_timetable, traits.is_two_way, traits.works_without_internet)
            self.assertEqual(told, wanted, kind)

    def test_a_form_asks_only_what_fits(self) -> None:
        self.act("devices", "add", kind="leak_sensor", room_id="den")
        leak = self.page(f"devices?at={self.newest().id}")
        self.act("devices", "add", kind="radiator_valve", room_id="den")
        valve = self.page(f"devices?at={self.newest().id}")
        for field in ("drives_id", "own_timetable", "child_lock", "guard_c", "is_held_open"):
            self.assertNotIn(f'name="{field}"', leak)
            self.assertIn(f'name="{field}"', valve)
        self.assertIn('name="battery_pct"', leak)
        self.act("devices", "set", id=self.newest().id, power="mains")
        self.assertNotIn('name="battery_pct"', self.page(f"devices?at={self.newest().id}"))

    def test_the_list_is_narrowed_by_room_kind_and_state(self) -> None:
        for kind, room in (("leak_sensor", "den"), ("infrared_sender", "study"), ("air_sensor", "")):
            self.act("devices", "add", kind=kind, room_id=room)
        everything = [device.name for device in self.now().devices]
        self.assertEqual(self.shown(""), everything)
        for query, is_in in (
            ("room=den", lambda d: d.room_id == "den"),
            ("kind=air_sensor", lambda d: d.kind == "air_sensor"),
            ("show=battery", lambda d: "battery" in d.power),
            ("show=no_feedback", lambda d: not d.is_two_way),
            ("show=internet&room=study", lambda d: not d.works_without_internet and d.room_id == "study"),
            ("show=no_room", lambda d: d.room_id is None),
            ("room=gone&kind=gone&show=gone", lambda _: True),
        ):
            self.assertEqual(self.shown(query), [d.name for d in self.now().devices if is_in(d)], query)
        self.assertIn("No device is like that", self.page("devices?show=retired"))

    def test_an_alarm_path_begins_with_what_notices_and_goes_on_with_what_answers(self) -> None:
        for kind in ("leak_sensor", "water_valve", "lamp_switch", "contact"):
            self.act("devices", "add", kind=kind, room_id="den")
        leak, valve, lamp, contact = self.now().devices[-4:]
        part = self.act("devices", "chain-add", kind="leak", device_id=leak.id)
        beginnings = part.split('id="chain-device"')[1].split("</select>")[0]
        self.assertIn(leak.id, beginnings)
        self.assertNotIn(contact.id, beginnings)
        following = part.split('aria-label="Next in the alarm path"')[1].split("</select>")[0]
        self.assertEqual([d.id in following for d in (leak, valve, lamp, contact)], [False, True, True, False])

    def test_what_is_put_in_at_once_stands_where_such_parts_stand(self) -> None:
        self.act("plan", "room-add", storey_id="ground", x_m=20, y_m=0, width_m=4.2, depth_m=3.6, name="Nook")
        nook = self.now().rooms[-1]
        self.act("plan", "room-parts", room_id=nook.id)
        home = self.now()
        page = self.page("zones?pane=checks")
        for device in home.devices_in(nook.id):
            self.assertNotIn(f"{device.name} hangs", page)
        spots = [(part.x_m, part.y_m) for part in (d.at for d in home.devices_in(nook.id)) if part is not None]
        self.assertEqual(len(set(spots)), 2)


class DesignDay(Surveying):
    def take(self, text: str) -> tuple[int, str]:
        """Send a weather file."""
        _, base = self.app.homes.load(self.first.id)
        answer = self.client.post(
            f"/homes/{self.first.id}/design/epw",
            data={"base": str(base)},
            files={"file": ("harbour.epw", text.encode(), "text/plain")},
        )
        return answer.status_code, plain_spaces(answer.text)

    def test_a_weather_file_says_the_design_temperature_and_where_it_is_from(self) -> None:
        status, page = self.take("\n".join(year()))
        design = self.now().design
        self.assertEqual((status, design.outdoor_c, design.annual_mean_c), (200, -11.3, 9.9))
        self.assertIn("weather file of Harbour Town, NLD", page)
        status, page = self.take("time,°C\n1,2\n")
        self.assertEqual(status, 422)
        self.assertIn("no EPW file", page)
        self.assertEqual(self.now().design, design)
