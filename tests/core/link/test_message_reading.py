"""Messages through mappings: numbers, words, JSON, times; and bad traffic, which is refused with its reason."""

import json
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.home.links import MessageMapping, StateWord
from warmeter.core.link.message_reading import LinkMessage, MessageRefused, message_reading
from warmeter.core.link.traffic import BURST, KEPT_LETTERS, MAXIMUM_TOPICS, LinkTraffic
from warmeter.core.units import MS_PER_DAY

HEARD = 1_769_000_000_000
WARM = MessageMapping(id="m", topic="a/t", quantity="room_temperature", subject_id="den", unit="°C")
DOOR = MessageMapping(
    id="d",
    topic="a/d",
    payload="words",
    quantity="is_open",
    unit="1",
    kind="held",
    words=(StateWord(word="open", value=1), StateWord(word="shut", value=0)),
)
JSON = replace(WARM, payload="json", path="$.climate['t.in'][0]")


def reading_of(mapping: MessageMapping, payload: object, **more: object) -> float:
    data = payload if isinstance(payload, bytes) else str(payload).encode()
    return message_reading(mapping, LinkMessage(topic="a/t", payload=data, heard_ms=HEARD, **more)).value  # type: ignore[arg-type]


def refusal_of(mapping: MessageMapping, payload: object, **more: object) -> str:
    try:
        reading_of(mapping, payload, **more)
    except MessageRefused as error:
        return error.kind
    return ""


class Values(unittest.TestCase):
    def test_numbers_words_and_json(self) -> None:
        self.assertEqual(reading_of(WARM, " 21.5 "), 21.5)
        self.assertEqual(reading_of(WARM, "21,5"), 21.5)
        self.assertEqual(reading_of(replace(WARM, scale=0.1, offset=-2), "215"), 19.5)
        self.assertEqual(reading_of(replace(WARM, unit="°F"), "68"), 68.0)
        self.assertEqual(reading_of(DOOR, "Open"), 1.0)
        self.assertEqual(reading_of(JSON, json.dumps({"climate": {"t.in": [19.25, 3]}})), 19.25)
        door = replace(DOOR, payload="json", path="state", words=(StateWord(word="true", value=1),))
        self.assertEqual(reading_of(door, '{"state": true}'), 1.0)

    def test_a_message_may_bring_its_own_time(self) -> None:
        timed = replace(JSON, path="t", time_path="at")
        for told, expected in (
            (HEARD // 1000 - 60, HEARD - 60_000),
            (HEARD - 5000, HEARD - 5000),
            ("2026-01-21T12:53:20Z", HEARD),
            ("2026-01-21T13:53:10+01:00", HEARD - 10_000),
            (HEARD + 60_000, HEARD),
        ):
            with self.subTest(told=told):
                text = json.dumps({"t": 20, "at": told}).encode()
                found = message_reading(timed, LinkMessage(topic="a/t", payload=text, heard_ms=HEARD, is_retained=True))
                self.assertEqual(found.at_ms, expected)

    def test_bad_traffic_is_refused_by_its_kind(self) -> None:
        timed = replace(JSON, path="t", time_path="at")
        far = {"t": 20, "at": (HEARD + 3 * 366 * MS_PER_DAY) // 1000}
        for mapping, payload, expected in (
            (WARM, b"x" * 20_000, "giant"),
            (WARM, b"\xff\xfe\x00\x01", "binary"),
            (WARM, "warm", "type"),
            (WARM, "nan", "range"),
            (WARM, "inf", "range"),
            (WARM, "1e400", "range"),
            (WARM, "99", "range"),
            (DOOR, "ajar", "type"),
            (JSON, "{not json", "form"),
            (JSON, "[" * 15_000, "form"),
            (JSON, '{"climate": {}}', "no value"),
            (JSON, '{"climate": {"t.in": [[]]}}', "type"),
            (JSON, '{"climate": {"t.in": [NaN]}}', "form"),
            (timed, json.dumps(far), "clock"),
            (timed, '{"t": 20, "at": "yesterday"}', "type"),
            (timed, '{"t": 20, "at": true}', "type"),
            (timed, '{"t": 20, "at": 0}', "clock"),
        ):
            with self.subTest(expected=expected, payload=str(payload)[:40]):
                self.assertEqual(refusal_of(mapping, payload), expected)
        self.assertEqual(refusal_of(WARM, "20", is_retained=True), "retained")

    @settings(deadline=None, derandomize=True)
    @given(st.binary(max_size=300))
    def test_whatever_comes_is_a_reading_within_range_or_refused(self, payload: bytes) -> None:
        for mapping in (WARM, DOOR, JSON, replace(JSON, path="t", time_path="at")):
            try:
                value = message_reading(mapping, LinkMessage(topic="a", payload=payload, heard_ms=HEARD)).value
            except MessageRefused:
                continue
            self.assertTrue(-30 <= value <= 60)


class Traffic(unittest.TestCase):
    def test_what_is_heard_is_counted_with_its_rhythm_and_range(self) -> None:
        traffic = LinkTraffic()
        for k in range(10):
            topic = traffic.of("a/t")
            text = json.dumps({"t": 20 + k, "name": "den"}).encode()
            topic.hear(LinkMessage(topic="a/t", payload=text, heard_ms=HEARD + 30_000 * k))
        self.assertEqual((topic.count, topic.rhythm_s), (10, 30.0))
        self.assertEqual((topic.low["$.t"], topic.high["$.t"], topic.latest["$.t"]), (20.0, 29.0, 29.0))

    def test_floods_and_strangers_without_number_stay_within_bounds(self) -> None:
        traffic = LinkTraffic()
        topic = traffic.of("flood")
        passed = sum(not traffic.is_flooding(topic, HEARD) for _ in range(5000))
        self.assertEqual(passed, int(BURST))
        self.assertEqual(topic.refused["flood"], 5000 - passed)
        # A second later some pass again.
        self.assertFalse(traffic.is_flooding(topic, HEARD + 1000))
        for k in range(3 * MAXIMUM_TOPICS):
            each = traffic.of(f"s/{k}")
            each.hear(LinkMessage(topic=each.topic, payload=b"z" * 9000, heard_ms=HEARD + k))
        self.assertEqual(len(traffic.topics), MAXIMUM_TOPICS)
        self.assertTrue(all(len(text) <= KEPT_LETTERS for t in traffic.topics.values() for _, text in t.messages))
