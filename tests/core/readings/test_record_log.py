"""Records and a broker's lines as tables: each told thing a column, numbers as they were written."""

import csv
import io
import unittest

from tests.logs import suggested
from warmeter.core.errors import ReadingError
from warmeter.core.readings.record_log import looks_like_records, table_of

ROOMS, MACHINES = (("kitchen", "Kitchen"),), (("washer", "Washer"),)


def table(text: str) -> list[list[str]]:
    return list(csv.reader(io.StringIO(table_of(text))))


class Json(unittest.TestCase):
    def test_a_list_an_object_around_it_and_lines_are_one_table(self) -> None:
        records = (
            '{"time": "2026-01-05T06:00:00Z", "kitchen": 20.50}, {"time": "2026-01-05T06:10:00Z", "kitchen": 20.4}'
        )
        wanted = [["time", "kitchen"], ["2026-01-05T06:00:00Z", "20.50"], ["2026-01-05T06:10:00Z", "20.4"]]
        for text in (f"[{records}]", f'{{"unit": "C", "data": [{records}]}}', records.replace("}, {", "}\n{")):
            with self.subTest(text[:20]):
                self.assertTrue(looks_like_records(text))
                self.assertEqual(table(text), wanted)

    def test_what_stands_within_others_has_a_name_of_both_and_nothing_is_made_up(self) -> None:
        text = '[{"v": {"temp": 20, "on": true}, "ts": 1767593400, "note": null}, {"ts": 1767594000, "v": {"hum": 41}}]'
        self.assertEqual(
            table(text),
            [
                ["ts", "v.temp", "v.on", "note", "v.hum"],
                ["1767593400", "20", "1", "", ""],
                ["1767594000", "", "", "", "41"],
            ],
        )

    def test_records_that_name_a_thing_and_its_value_have_a_column_for_each_thing(self) -> None:
        text = (
            '{"entity_id": "Kitchen temperature", "state": "20.5", "last_changed": "2026-01-05T06:00:00+00:00"}\n'
            '{"entity_id": "Washer power", "state": "3.1", "last_changed": "2026-01-05T06:00:10+00:00"}\n'
        )
        self.assertEqual(
            table(text),
            [
                ["last_changed", "Kitchen temperature", "Washer power"],
                ["2026-01-05T06:00:00+00:00", "20.5", ""],
                ["2026-01-05T06:00:10+00:00", "", "3.1"],
            ],
        )
        mapping = suggested(table_of(text).splitlines(), rooms=ROOMS, machines=MACHINES)
        self.assertEqual(
            [(c.quantity, c.subject) for c in mapping.taken],
            [("room_temperature", "kitchen"), ("electric_w", "washer")],
        )

    def test_a_unit_goes_with_its_thing_and_no_number_is_dropped(self) -> None:
        text = (
            '{"ts": 1767593400, "sensor": "Kitchen", "value": 50, "unit": "°F", "battery": 91}\n'
            '{"ts": 1767594000, "sensor": "Kitchen", "value": 51, "unit": "°F", "battery": 90}\n'
        )
        self.assertEqual(table(text)[:2], [["ts", "Kitchen °F", "Kitchen battery"], ["1767593400", "50", "91"]])
        mapping = suggested(table_of(text).splitlines(), rooms=ROOMS, machines=MACHINES)
        self.assertEqual((mapping.columns[0].quantity, mapping.columns[0].unit), ("room_temperature", "°F"))

    def test_a_time_without_a_name_is_seen_by_its_looks(self) -> None:
        self.assertEqual(
            table('[{"x": 1, "began": "2026-01-05 06:00"}, {"x": 2, "began": "2026-01-05 06:10"}]')[0], ["began", "x"]
        )

    def test_what_is_no_record_is_refused_with_its_line(self) -> None:
        for text, words in (
            ('{"time": "2026-01-05T06:00:00Z", "a": 1}\n{"time": ', "line 2: this is no JSON"),
            ('{"time": 1}\n[3]\n', "line 2: this is no record"),
            ("[1, 2]", "no list of records"),
            ('[{"a": 1}]', "is a time"),
            ("[]", "no record"),
        ):
            with self.subTest(text), self.assertRaisesRegex(ReadingError, words):
                table_of(text)


class Broker(unittest.TestCase):
    TEXT = (
        "2026-01-05 06:00:01 home/kitchen/temperature 20.5\n"
        '2026-01-05 06:00:07 home/washer {"power": 3.10, "on": true}\n'
        "reconnected\n"
        "2026-01-05 06:01:01 home/kitchen/temperature 20.6\n"
    )

    def test_each_topic_is_a_column(self) -> None:
        self.assertTrue(looks_like_records(self.TEXT))
        self.assertEqual(
            table(self.TEXT),
            [
                ["time", "home/kitchen/temperature", "home/washer/power", "home/washer/on"],
                ["2026-01-05 06:00:01", "20.5", "", ""],
                ["2026-01-05 06:00:07", "", "3.10", "1"],
                ["2026-01-05 06:01:01", "20.6", "", ""],
            ],
        )

    def test_times_as_brokers_write_them(self) -> None:
        for time in (
            "1767593400",
            "1767593400.123",
            "1767593400123",
            "2026-01-05T06:00:01+0100",
            "[2026-01-05 06:00:01]",
            "2026-01-05 06:00:01:",
        ):
            with self.subTest(time):
                self.assertEqual(table(f"{time} a/b 1\n")[1][0], time.strip("[]").rstrip(":"))

    def test_a_table_is_left_a_table(self) -> None:
        for text in ("time,Kitchen\n2026-01-05 06:00,20\n", "2026-01-05 06:00;20,5\n", "1767593400,3\n", "", "a/b c\n"):
            with self.subTest(text):
                self.assertFalse(looks_like_records(text))


if __name__ == "__main__":
    unittest.main()
