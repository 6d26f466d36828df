"""Live's pages: mappings tried and kept, senders adopted anew and refused, HTTP batches, alerts answered, channels, the bench."""

import itertools
import json
import re
from dataclasses import replace
from typing import Any

from tests.drawn import drawn_home
from tests.served import NOW_MS
from tests.web.test_pages import Case, plain_spaces
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rules import NotificationGroup
from warmeter.core.link.message_reading import LinkMessage
from warmeter.core.link.traffic import LinkTraffic
from warmeter.core.live.command_run import CommandRun
from warmeter.core.live.home_clock import HomeClock
from warmeter.service.homes.demo import demo_home
from warmeter.service.live.http_intake import MOST_ITEMS
from warmeter.service.live.intake import kept_topic
from warmeter.service.live.setting_up import linked
from warmeter.store.live_commands import KeptCommand

DEN = "homes/home1/air-den/room_temperature"


class Live(Case):
    @classmethod
    def home(cls) -> Home:
        """Return a linked home with somebody to tell and a leak sensor."""
        home = drawn_home(id="home1")
        leak = Device(id="leak", name="Leak sensor", kind="leak_sensor", room_id="den")
        group = NotificationGroup(id="all", name="Everybody")
        return linked(replace(home, devices=(*home.devices, leak), notification_groups=(group,)))

    def setUp(self) -> None:
        super().setUp()
        self.app.live_homes.set_clock("home1", HomeClock(real_ms=NOW_MS, home_ms=NOW_MS))

    def page(self, part: str = "") -> str:
        answer = self.client.get(f"/homes/home1/live{part}")
        self.assertEqual(answer.status_code, 200, answer.text[:400])
        return plain_spaces(answer.text)

    def send(self, act: str, status: int = 200, **values: str) -> str:
        base = self.app.homes.load("home1")[1]
        answer = self.client.post(f"/homes/home1/live/{act}", data={"base": str(base), **values})
        self.assertEqual(answer.status_code, status, answer.text[:600])
        return plain_spaces(answer.text)

    def hear(self, topic: str, *payloads: str) -> None:
        traffic = LinkTraffic()
        for k, payload in enumerate(payloads):
            message = LinkMessage(topic=topic, payload=payload.encode(), heard_ms=NOW_MS - 60_000 * (9 - k))
            traffic.of(topic).hear(message)
        self.app.live_homes.keep_topics("home1", [kept_topic(each) for each in traffic.topics.values()])

    def token(self) -> str:
        text = self.send("token", name="logger")
        return text.split('id="fresh-token"')[1].split("wm_")[1].split("<")[0]

    def batch(self, token: str, status: int = 200, **parts: Any) -> dict[str, Any]:
        answer = self.client.post(
            "/link/readings", content=json.dumps(parts), headers={"Authorization": f"Bearer wm_{token}"}
        )
        self.assertEqual(answer.status_code, status, answer.text[:300])
        found: dict[str, Any] = answer.json()
        return found


class Pages(Live):
    def test_a_home_that_is_not_linked_is_taught(self) -> None:
        with self.app.engine.begin() as connection:
            connection.exec_driver_sql("DELETE FROM live_home")
        self.assertIn("Play its devices", self.page())
        self.assertEqual(self.client.get("/homes/home1/live/stream").status_code, 204)

    def test_every_part_answers(self) -> None:
        for part in ("", "/now", "/links", "/messages", "/bench", "/log"):
            with self.subTest(part):
                self.page(part)

    def test_a_sender_that_is_not_known_is_tried_and_kept(self) -> None:
        self.hear("away/box/state", '{"t": 20.5, "rh": 41}', '{"t": 20.7, "rh": 41}', '{"t": "off"}')
        text = self.page("/links")
        self.assertIn("away/box/state", text)
        asked = "?topic=away/%2B/state&payload=json&path=$.t&quantity=room_temperature&subject_id=den&unit="
        text = self.page("/links" + asked)
        self.assertIn("20.7 °C", text)
        self.assertIn("is no number", text)
        values = {"topic": "away/+/state", "payload": "json", "path": "$.t", "quantity": "room_temperature"}
        self.send("links/keep", 200, **values, subject_id="den", unit="°C", scale="1", offset="0")
        kept = self.app.homes.load("home1")[0].message_mappings[-1]
        self.assertEqual((kept.topic, kept.path, kept.subject_id), ("away/+/state", "$.t", "den"))

    def test_what_cannot_be_a_mapping_is_refused_with_what_to_do(self) -> None:
        for values, words in (
            ({"topic": "a/#/b", "quantity": "room_temperature"}, "# stands for all that follows"),
            ({"topic": "a/b", "quantity": "room_temperature", "unit": "W"}, "is measured in"),
            ({"topic": "a/b", "quantity": "is_open", "payload": "words", "words": "open"}, "on = 1"),
            ({"topic": "a/b", "quantity": "room_temperature", "payload": "json"}, "needs the path"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.send("links/keep", 422, **values))

    def test_a_sensor_under_a_new_name_goes_on_and_a_stranger_is_refused(self) -> None:
        self.hear("homes/home1/air-den-n/room_temperature", "20", "20.1", "20.2")
        text = self.page("/links")
        self.assertIn("under a new name", text)
        self.send("links/readopt", device_id="air-den", old_word="air-den", new_word="air-den-n")
        home, _ = self.app.homes.load("home1")
        self.assertIn("homes/home1/air-den-n/room_temperature", [m.topic for m in home.message_mappings])
        self.assertEqual(home.device("air-den").address, "air-den-n")
        self.send("links/refuse", topic="next/door/#")
        self.assertEqual(self.app.homes.load("home1")[0].link.refuses, ("next/door/#",))
        self.send("links/hear", topic="next/door/#")
        self.assertEqual(self.app.homes.load("home1")[0].link.refuses, ())

    def test_a_channel_is_added_its_address_kept_beside_the_home(self) -> None:
        self.send("messages/add", group_id="all", kind="mail", name="Mail to Ada")
        channel = self.app.homes.load("home1")[0].notification_groups[0].channels[0]
        self.assertIn("one @", self.send("address", 422, id=channel.id, address="ada at home"))
        self.send("address", id=channel.id, address="ada@home.invalid")
        self.assertEqual(self.app.live_homes.addresses("home1"), {channel.id: "ada@home.invalid"})
        self.assertNotIn("ada@home", self.client.get("/homes/home1/home.json").text)
        self.assertIn("no mail server is set", self.send("try", group_id="all"))

    def test_faults_of_played_devices_are_set_and_taken_back(self) -> None:
        self.send("fault", id="leak", fault="wet", is_on="on")
        self.assertIn('aria-pressed="true"', self.page("/bench"))
        self.send("fault", id="leak", fault="wet")
        self.assertNotIn('aria-pressed="true"', self.page("/bench"))
        self.send("play", play="as it is", speed="60")
        live = self.app.live_homes.find("home1")
        assert live is not None
        self.assertEqual(live.clock.speed, 60)
        self.send("play", 422, play="as it is", speed="9999")

    def test_an_alert_is_answered_once(self) -> None:
        begun = {"group_id": "all", "until_answered": True, "answer": "It is emptied"}
        self.app.live_alerts.begin("home1", "rule:x:0", NOW_MS - 60_000, "Washer has finished", begun)
        (alert,) = self.app.live_alerts.open("home1")
        self.assertIn("It is emptied", self.page())
        self.send("answer", id=str(alert.id), kind="later", later_min="30")
        self.send("answer", id=str(alert.id), kind="done")
        self.assertIn("answered this already", self.send("answer", 422, id=str(alert.id), kind="done"))
        self.assertEqual([a.kind for a in self.app.live_alerts.answers([alert.id])[alert.id]], ["later", "done"])
        self.assertIn("Washer has finished", self.page("/log"))

    def test_when_somebody_was_and_will_be_told_stands_under_the_line_without_touching(self) -> None:
        terms = {"group_id": "all", "until_answered": True, "repeat_s": 600, "most": 4}
        self.app.live_alerts.begin("home1", "rule:x:0", NOW_MS - 60_000, "Washer has finished", terms)
        self.app.live_homes.looked("home1", NOW_MS, NOW_MS, {})
        line = self.page().split('class="wm-waitline"')[1].split("</svg>")[0]
        times = [(float(x), time) for x, time in re.findall(r'<text x="([\d.]+)" y="32">([\d:]+)</text>', line)]
        local = self.app.clock(self.app.homes.load("home1")[0]).local
        self.assertEqual(times[0][1], f"{local(NOW_MS - 60_000):%H:%M}")
        self.assertGreaterEqual(len(times), 2)
        places = [x for x, _ in times]
        self.assertTrue(all(b - a >= 40 for a, b in itertools.pairwise(places)), times)
        self.assertEqual(
            places[-1], max(float(x) for x in re.findall(r'd="M([\d.]+) 4v14"', line)), "the last has its time"
        )

    def test_the_top_of_a_page_that_grows_tells_its_own_day(self) -> None:
        later = NOW_MS + 3 * 86_400_000
        self.app.live_homes.set_clock("home1", HomeClock(real_ms=NOW_MS, home_ms=later))
        day = self.app.clock(self.app.homes.load("home1")[0]).local(later)
        self.assertIn(f"live, {day:%d/%m}", self.page())
        self.assertNotIn("live, ", self.client.get("/homes/home1/zones").text.split("</header>")[0])

    def test_a_change_by_hand_begins_now_and_ends_when_asked(self) -> None:
        zone = self.app.homes.load("home1")[0].zones[0].id
        self.send("by-hand", zone_id=zone, value_c="21.5", for_min="60")
        self.assertIn("changed by hand", self.page())
        self.assertIn(f'id="release-{zone}"', self.page())
        self.send("release", zone_id=zone)
        self.assertNotIn("changed by hand", self.page())

    def test_a_sensor_that_cannot_be_right_or_is_hardly_received_is_said_with_its_letter_elsewhere(self) -> None:
        self.assertIn("Every device is heard in its own rhythm", self.page())
        rows = [{"quantity": "radio_strength", "subject": "leak", "value": -97}]
        self.assertEqual(self.batch(self.token(), readings=rows)["kept"], 1)
        told = {"sensors": {"leak": ["stuck", "drift"]}}
        self.app.live_homes.looked("home1", NOW_MS, NOW_MS, told)
        text = self.page()
        for words in ("always the same", "drifts away", "its signal is weak, -97 dBm"):
            self.assertIn(words, text)

    def test_letters_of_what_waits_and_what_is_quiet_are_one_row(self) -> None:
        self.hear("homes/home1/leak/is_reachable", "there", "there", "there")
        self.app.live_alerts.begin("home1", "rule:gone:0", NOW_MS - 60_000, "Something else", {"until_answered": True})
        self.app.live_homes.set_clock("home1", HomeClock(real_ms=NOW_MS, home_ms=NOW_MS + 20 * 3_600_000))
        letters = re.findall(r'wm-letter">(\w)<', self.page())
        self.assertEqual(letters, ["b", "a"])

    def test_expected_temperatures_are_drawn_from_now_on(self) -> None:
        before = self.page().count('class="wm-pred"')
        self.app.live_homes.looked("home1", NOW_MS, NOW_MS, {"expected": {"den": [NOW_MS - 900_000, [20.0] * 24]}})
        self.assertEqual(self.page().count('class="wm-pred"'), before + 1)


class Cooled(Live):
    """A home with split units, one of which cools."""

    @classmethod
    def home(cls) -> Home:
        return linked(replace(demo_home("terrace-nine"), id="home1"))

    def test_a_zone_that_cools_is_shown_with_its_limit_and_not_with_what_it_would_be_heated_to(self) -> None:
        (mapping,) = [
            m
            for m in self.app.homes.load("home1")[0].command_mappings
            if (m.target_id, m.does) == ("tn-ir-living", "cooling")
        ]
        run = CommandRun(
            mapping_id=mapping.id,
            target_id="tn-split-living",
            value=25.5,
            reason="In use",
            made_ms=NOW_MS,
            state="confirmed",
            answered_ms=NOW_MS,
        )
        kept = KeptCommand(id=0, does="cooling", kind="timetable", at_ms=NOW_MS, run=run)
        self.app.live_commands.add("home1", kept)
        rows = [{"quantity": "room_temperature", "subject": "tn-living", "value": 27.5}]
        self.assertEqual(self.batch(self.token(), readings=rows)["kept"], 1)
        text = self.page()
        self.assertRegex(text.split('id="on-now"')[1], r"cools to 25.5\s°C")
        plan = text.split("wm-roomsnow")[1].split("</svg>")[0]
        self.assertRegex(plan, r'Living room</text>.*?27\.5</tspan> <tspan class="wm-n wm-cooled">25\.5</tspan>')
        self.assertEqual(plan.count("wm-cooled"), 1, "the others are not")
        self.assertIn('class="wm-coolline"', text)


class Http(Live):
    def test_a_batch_is_kept_once_however_often_it_is_sent(self) -> None:
        token = self.token()
        at = "2026-01-21T12:00:00Z"
        rows = [
            {"quantity": "room_temperature", "subject": "Den", "value": 20.5, "at": at},
            {"quantity": "outdoor_temperature", "value": 41, "unit": "°F", "at": at},
            {"quantity": "is_wet", "subject": "leak", "value": 1},
        ]
        self.assertEqual(self.batch(token, readings=rows)["kept"], 3)
        again = self.batch(token, readings=rows)
        self.assertEqual((again["kept"], again["known"]), (0, 3))
        self.app.live_readings.seal("home1", NOW_MS + 1, NOW_MS)
        # The newest of each series stays at hand, what was sent again beside.
        self.assertEqual(self.app.live_readings.count("home1"), 3)
        self.batch(token, readings=rows)
        self.app.live_readings.seal("home1", NOW_MS + 1, NOW_MS)
        found = {s.record.quantity: s.id for s in self.app.readings.series("home1")}
        counts = [self.app.readings.readings(found[q]).value.tolist() for q in ("room_temperature", "is_wet")]
        self.assertEqual(counts, [[20.5], [1.0]])
        self.assertIn("live readings of 2026-01-21", [i.file_name for i in self.app.readings.imports("home1")])

    def test_messages_go_by_the_mappings_and_strangers_are_told(self) -> None:
        token = self.token()
        rows = [{"topic": DEN, "payload": "19.5"}, {"topic": "who/knows", "payload": "7"}]
        answer = self.batch(token, messages=rows)
        self.assertEqual((answer["kept"], answer["unknown_topics"]), (1, 1))
        self.assertIn("who/knows", self.page("/links"))

    def test_what_cannot_be_kept_is_told_by_its_place_and_the_rest_is_kept(self) -> None:
        answer = self.batch(
            self.token(),
            readings=[
                {"quantity": "room_temperature", "subject": "den", "value": 99},
                {"quantity": "room_temperature", "subject": "attic", "value": 20},
                {"quantity": "warmth", "subject": "den", "value": 20},
                {"quantity": "room_temperature", "subject": "den", "value": 20, "at": "2031-01-01T00:00:00Z"},
                {"quantity": "room_temperature", "subject": "den", "value": 20, "unit": "W"},
                {"quantity": "room_temperature", "subject": "den", "value": 20},
            ],
        )
        self.assertEqual(answer["kept"], 1)
        self.assertEqual([each["place"] for each in answer["refused"]], [0, 1, 2, 3, 4])

    def test_only_a_token_opens_and_only_its_own_home(self) -> None:
        token = self.token()
        self.batch("nonsense", 401, readings=[])
        self.assertEqual(self.client.post("/link/readings", json={"readings": []}).status_code, 401)
        (kept,) = self.app.live_homes.tokens("home1")
        self.send("token", id=str(kept.id))
        self.batch(token, 401, readings=[])
        with self.app.engine.connect() as connection:
            stored = str(connection.exec_driver_sql("SELECT * FROM link_token").all())
        self.assertNotIn(token, stored)

    def test_batches_have_a_form_and_a_size(self) -> None:
        token = self.token()
        refused: tuple[dict[str, Any], ...] = (
            {"readings": [{"quantity": "is_wet", "subject": "leak", "value": "wet"}]},
            {"readings": [{"value": 1}]},
            {"reading": []},
            {"readings": [{"quantity": "is_wet", "subject": "leak", "value": 1}] * (MOST_ITEMS + 1)},
        )
        for parts in refused:
            with self.subTest(str(parts)[:60]):
                self.batch(token, 422, **parts)
        described = self.client.get("/link/openapi.json").json()
        self.assertIn("/link/readings", described["paths"])
