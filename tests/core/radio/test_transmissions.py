"""Captures as receivers write them: keys of many names, bursts, clocks, and lines that are no messages."""

import json
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.radio.heard import heard_senders
from warmeter.core.radio.transmissions import Capture, read_capture
from warmeter.core.timegrid import LocalClock

UTC = LocalClock("UTC")
AT = "2026-01-06T08:00:00Z"


def capture(*fields: object, zone: str = "UTC") -> Capture:
    """Return what lines of JSON hold."""
    return read_capture([each if isinstance(each, str) else json.dumps(each) for each in fields], LocalClock(zone))


class Lines(unittest.TestCase):
    def test_values_flat_or_in_a_part_of_their_own(self) -> None:
        found = capture(
            {"time": AT, "model": "A", "id": 12, "channel": 2, "temperature_C": 20.4, "humidity": 48, "rssi": -61.5},
            {"time": "2026-01-06T08:01:00Z", "id": "b7", "values": {"T": 21.2, "RH": 40}, "strength": -70},
            {
                "time": "2026-01-06T08:02:00Z",
                "id": "c3",
                "temperature_F": 50,
                "battery_ok": True,
                "temperature_2_C": 3.5,
            },
        ).transmissions
        self.assertEqual([each.sender for each in found], ["12", "b7", "c3"])
        self.assertEqual(found[0].values, {"temperature": 20.4, "humidity": 48.0})
        self.assertEqual((found[0].channel, found[0].strength), ("2", -61.5))
        self.assertEqual(found[1].values, {"temperature": 21.2, "humidity": 40.0})
        self.assertAlmostEqual(found[2].values["temperature"], 10.0)
        self.assertEqual((found[2].values["battery_ok"], found[2].values["temperature_2"]), (1.0, 3.5))

    def test_times_with_an_offset_without_one_and_as_numbers_are_one_instant(self) -> None:
        same = (AT, "2026-01-06T09:00:00+01:00", "2026-01-06 09:00:00", 1_767_686_400, 1_767_686_400_000)
        found = capture(*({"time": each, "id": k} for k, each in enumerate(same)), zone="Europe/Berlin")
        self.assertEqual({each.at_ms for each in found.transmissions}, {1_767_686_400_000})

    def test_a_burst_is_one_message_and_a_new_value_another(self) -> None:
        sent = [("08:00:00", 20.4), ("08:00:01", 20.4), ("08:00:02", 20.4), ("08:00:03", 20.5), ("08:00:50", 20.5)]
        found = capture(*({"time": f"2026-01-06T{at}Z", "id": "a", "temperature_C": v} for at, v in sent))
        self.assertEqual([each.values["temperature"] for each in found.transmissions], [20.4, 20.5, 20.5])

    def test_an_id_of_two_models_is_two_senders(self) -> None:
        found = capture({"time": AT, "id": 7, "model": "A"}, {"time": AT, "id": 7, "model": "B"}, {"time": AT, "id": 8})
        self.assertEqual(sorted(each.sender for each in found.transmissions), ["8", "A 7", "B 7"])

    def test_what_is_no_message_says_why_and_costs_nothing_else(self) -> None:
        found = capture(
            "hello",
            "[1, 2]",
            {"time": AT},
            {"id": 3},
            {"time": "yesterday", "id": 3},
            {"time": "1970-01-01T00:00:00Z", "id": 3},
            '{"time": "2026-01-06T08:00:00Z", "id": 3, "temperature_C": NaN, "humidity": 1e999}',
            "[" * 9000,
            "",
            {"time": AT, "id": "ok", "temperature_C": 900, "x" * 200: 1},
        )
        self.assertEqual(
            [(each.number, each.why) for each in found.refused],
            [
                (1, "no JSON"),
                (2, "no JSON object"),
                (3, "no id"),
                (4, "no time"),
                (5, "its time cannot be read"),
                (6, "its time is not of this century"),
                (8, "no JSON"),
            ],
        )
        self.assertEqual([dict(each.values) for each in found.transmissions], [{}, {"x" * 40: 1.0}])

    @settings(deadline=None, max_examples=150)
    @given(
        st.lists(
            st.one_of(
                st.text(max_size=60),
                st.dictionaries(st.text(max_size=8), st.integers() | st.text(max_size=9)).map(json.dumps),
            ),
            max_size=8,
        )
    )
    def test_nothing_that_is_sent_breaks_it(self, lines: list[str]) -> None:
        found = read_capture(lines, UTC)
        self.assertLessEqual(len(found.refused), found.lines)

    def test_who_was_heard_how_often_and_in_which_range(self) -> None:
        rows = [{"time": 1_767_686_400 + 50 * k, "id": "a", "channel": 1, "temperature_C": 20 + k} for k in range(5)]
        rows += [{"time": 1_767_686_410, "id": "b", "channel": 2, "temperature_C": -18.0}]
        first, second = heard_senders(capture(*rows).transmissions)
        self.assertEqual((first.sender, first.count, first.rhythm_s), ("a", 5, 50.0))
        self.assertEqual((first.ranges["temperature"], first.latest["temperature"]), ((20.0, 24.0), 24.0))
        self.assertIsNone(second.rhythm_s)
