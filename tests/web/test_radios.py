"""Radio sensors: a capture sent in, one's own found by its display, taken in with its history, followed after a battery."""

import json
import re
from dataclasses import replace
from typing import Any, ClassVar

from tests.homes import small_home
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.edits.edit import Apply
from warmeter.core.timegrid import from_ms
from warmeter.service.homes import editing
from warmeter.simulators.radio_capture import RadioScene, radio_scene


class Radios(Case):
    scene: ClassVar[RadioScene]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.scene = radio_scene(911, 12, hours=8, changes_battery=True)

    def send(self, text: str, name: str = "capture.jsonl", status: int = 200) -> Any:
        answer = self.client.post("/homes/home1/radios", files={"file": (name, text.encode())})
        self.assertEqual(answer.status_code, status, answer.text[:400])
        return answer

    def sent(self) -> str:
        """Send the scene in; return its token."""
        address = str(self.send("\n".join(self.scene.lines)).url)
        return address.rpartition("token=")[2]

    def seen(self, **more: str) -> dict[str, str]:
        """Return what was read off the display as the form sends it, by the home's clock."""
        typed = {"channel": self.scene.channel}
        for number, (at_ms, value) in enumerate(self.scene.readings, 1):
            at = from_ms(at_ms)
            typed |= {
                f"r{number}.on": f"{at:%Y-%m-%d}",
                f"r{number}.at": f"{at:%H:%M}",
                f"r{number}.shows_c": f"{value}",
            }
        return typed | more

    def look(self, token: str, **typed: str) -> str:
        answer = self.client.get("/homes/home1/radios", params={"token": token, **typed})
        self.assertEqual(answer.status_code, 200)
        return plain_spaces(answer.text)

    def adopt(self, token: str, status: int = 200, **fields: str) -> str:
        _, base = self.app.homes.load("home1")
        data = {"token": token, "base": str(base), **fields}
        answer = self.client.post("/homes/home1/radios/adopt", data=data)
        self.assertEqual(answer.status_code, status, answer.text[:400])
        return plain_spaces(answer.text)

    def test_ones_own_is_found_taken_in_with_its_history_and_followed_after_its_battery(self) -> None:
        token = self.sent()
        page = self.look(token, **self.seen())
        self.assertRegex(page, rf'id="verdict">It is {self.scene.own}, ')
        self.assertRegex(page, r"whatever the id, [\d\s]+, and \d+ other senders? with it")
        page = self.adopt(
            token, address=self.scene.own, name="Cellar sensor", room_id="study", channel=self.scene.channel
        )
        self.assertIn(f"{self.scene.own} is taken in", page)
        home, _ = self.app.homes.load("home1")
        (device,) = home.devices
        self.assertEqual((device.name, device.room_id, device.address), ("Cellar sensor", "study", self.scene.own))
        kept = {(s.record.quantity, s.record.subject) for s in self.app.readings.series("home1")}
        self.assertEqual(kept, {("room_temperature", device.id), ("relative_humidity", device.id)})
        page = self.look(token)
        self.assertIn(f"{self.scene.successor} follows it", page)
        self.adopt(token, address=self.scene.successor, device_id=device.id, reason="battery changed")
        home, _ = self.app.homes.load("home1")
        self.assertEqual([each.address for each in home.devices[0].identities], [self.scene.own, self.scene.successor])
        series = [s for s in self.app.readings.series("home1") if s.record.quantity == "room_temperature"]
        stored = sum(self.app.readings.readings(each.id).at_ms.size for each in series)
        lines = [json.loads(line) for line in self.scene.lines]
        mine = {each["time"] for each in lines if each["id"] in (self.scene.own, self.scene.successor)}
        self.assertEqual(stored, len(mine))
        self.assertLess(stored, len({(each["time"], each["id"]) for each in lines}) / 5)

    def test_one_reading_among_equal_rooms_is_not_sure_and_says_what_to_do(self) -> None:
        rows = [
            {"time": f"2026-01-06T{8 + k // 60:02d}:{k % 60:02d}:00Z", "id": sender, "temperature_C": 20.0}
            for k in range(90)
            for sender in ("a", "b")
        ]
        token = str(self.send("\n".join(map(json.dumps, rows))).url).rpartition("token=")[2]
        page = self.look(token, **{"r1.on": "2026-01-06", "r1.at": "08:30", "r1.shows_c": "20"})
        self.assertIn("Not sure yet: a and b both fit", page)
        close = self.look(
            token,
            **{
                f"r{k}.{n}": v for k in (1, 2) for n, v in (("on", "2026-01-06"), ("at", f"08:3{k}"), ("shows_c", "20"))
            },
        )
        self.assertIn("stand close together", close)

    def test_a_home_in_fahrenheit_types_and_sees_its_own_degrees(self) -> None:
        home, base = self.app.homes.load("home1")
        change = Apply(change=lambda h: replace(h, temperature_unit="F"), summary="In °F")
        editing.edit_home(self.app, home.id, base, ANN, change)
        typed = self.seen()
        for number, (_, value) in enumerate(self.scene.readings, 1):
            typed[f"r{number}.shows_c"] = f"{value * 1.8 + 32:.1f}"
        page = self.look(self.sent(), **typed)
        self.assertIn(f"It is {self.scene.own}", page)
        self.assertIn('<th class="wm-num">°F</th>', page)

    def test_what_is_wrong_is_said_where_it_is(self) -> None:
        self.assertIn("Choose the capture", self.client.post("/homes/home1/radios").text)
        for text, words in (
            ("hello\nworld\n", "line 1: no JSON"),
            ('{"id": 3}\n', "line 1: no time"),
            ("\x00\x01", "no text table"),
            ("", "empty"),
        ):
            self.assertIn(words, self.send(text, status=422).text)
        token = self.sent()
        page = self.look(token, **self.seen(**{"r1.at": "25:99", "touched": "hand"}))
        self.assertRegex(page, r'id="e-r1\.at"')
        self.assertIn("A touch has a date and a time", page)
        self.assertNotIn('id="verdict"', page)
        page = self.look(token, **{"r1.on": "2026-01-06", "r1.at": "08:00"})
        self.assertIn("A reading has a date, a time and a temperature", page)
        self.assertIn("nothing of nobody stands in this capture", self.adopt(token, 422, address="nobody"))
        self.assertIn("not waiting any more", self.look("0123456789abcdef"))
        self.assertEqual(self.app.homes.load("home1")[0].devices, small_home().devices)

    def test_an_id_belongs_to_one_device(self) -> None:
        token = self.sent()
        self.adopt(token, address=self.scene.own)
        (device,) = self.app.homes.load("home1")[0].devices
        self.adopt(token, address=self.scene.own, device_id=device.id)
        (device,) = self.app.homes.load("home1")[0].devices
        self.assertEqual([each.address for each in device.identities], [self.scene.own])
        page = self.adopt(token, 422, address=self.scene.own, name="Another")
        self.assertIn("already", re.search(r'id="refused">([^<]+)', page)[1])  # type: ignore[index]

    def test_a_made_up_capture_is_there_to_look_at_and_nothing_of_it_is_kept(self) -> None:
        before = self.app.homes.load("home1")[1]
        page = plain_spaces(self.client.post("/homes/home1/radios/made-up").text)
        own = radio_scene(6, 14, hours=10.0).own
        self.assertTrue("made-up capture.jsonl" in page)
        self.assertTrue(f'is-on"> <td><strong>{own}</strong>' in page)
        self.assertEqual(self.app.homes.load("home1")[1], before)
