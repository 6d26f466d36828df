"""Prices of a market from files, against what the file says by its own clock."""

import json
import unittest
from datetime import date

import numpy as np

from warmeter.core.errors import ReadingError
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.price_file import read_prices
from warmeter.core.timegrid import LocalClock, parse_utc

BERLIN = LocalClock("Europe/Berlin")


def read(text: str, currency: str = "EUR") -> MarketPrices:
    """Return the prices of a text on Berlin's clock."""
    return read_prices(text, BERLIN, currency)


class Days(unittest.TestCase):
    def test_days_of_23_24_and_25_hours_begin_at_local_midnight(self) -> None:
        for on, hours in ((date(2026, 3, 29), 23), (date(2026, 7, 1), 24), (date(2026, 10, 25), 25)):
            for text in (
                json.dumps({"date": str(on), "prices": list(range(hours))}),
                json.dumps({str(on): list(range(hours))}),
                json.dumps([{"date": str(on), "values": list(range(hours))}]),
                f"date,{','.join(f'h{k}' for k in range(1, 26))}\n{on},{','.join(map(str, range(hours)))}\n",
            ):
                found = read(text)
                self.assertEqual(found.start_ms[0], BERLIN.day(on).start_ms, text[:30])
                self.assertEqual(found.start_ms[-1] + found.step_ms, BERLIN.day(on).end_ms)
                self.assertEqual(found.price.tolist(), [float(k) for k in range(hours)])

    def test_quarters_of_an_hour_too(self) -> None:
        found = read(json.dumps({"2026-03-29": [0.1] * 92}))
        self.assertEqual((found.step_ms, found.start_ms.size), (900_000, 92))

    def test_a_day_with_another_count_is_refused_at_its_place(self) -> None:
        for text, words in (
            (
                json.dumps({"2026-03-28": [1] * 24, "2026-03-29": [1] * 24}),
                "2026-03-29: 2026-03-29 has 24 prices, but 23 hours",
            ),
            ("2026-10-25," + ",".join(["0.1"] * 24) + "\n", "line 1: 2026-10-25 has 24 prices, but 25 hours"),
            (json.dumps({"2026-07-01": [1] * 23}), "24 hours"),
        ):
            with self.assertRaisesRegex(ReadingError, words):
                read(text)


class Instants(unittest.TestCase):
    def test_times_with_an_offset_and_on_the_markets_clock(self) -> None:
        with_offset = read("start,price EUR/kWh\n2026-01-05T00:00Z,0.10\n2026-01-05T01:00Z,-0.02\n")
        self.assertEqual(with_offset.start_ms[0], parse_utc("2026-01-05T00:00:00Z"))
        local = read("start;price\n2026-01-05 01:00;0,10\n2026-01-05 02:00;-0,02\n")
        np.testing.assert_array_equal(local.start_ms, with_offset.start_ms)
        np.testing.assert_array_equal(local.price, with_offset.price)

    def test_a_repeated_hour_is_taken_in_the_order_of_the_file(self) -> None:
        rows = [f"2026-10-25 {hour:02d}:00,{k}" for k, hour in enumerate((0, 1, 2, 2, 3))]
        found = read("\n".join(["time,price", *rows]))
        self.assertEqual(np.diff(found.start_ms).tolist(), [3_600_000] * 4)

    def test_units_and_currencies(self) -> None:
        rows = '"prices": [{"time": "2026-01-05T00:00Z", "price": 95.5}, {"time": "2026-01-05T01:00Z", "price": -5}]'
        self.assertEqual(read('{"unit": "EUR/MWh", ' + rows + "}").price.tolist(), [0.0955, -0.005])
        self.assertEqual(read("time,price c/kWh\n2026-01-05T00:00Z,12.5\n").price.tolist(), [0.125])
        with self.assertRaisesRegex(ReadingError, "in EUR, the tariff is in GBP"):
            read('{"unit": "EUR/MWh", ' + rows + "}", "GBP")
        with self.assertRaisesRegex(ReadingError, "unit into the heading"):
            read("time,price\n2026-01-05T00:00Z,955\n")

    def test_what_cannot_be_read_is_refused_at_its_place(self) -> None:
        for text, words in (
            ("", "no price"),
            ("time,price\n2026-01-05T00:00Z,cheap\n", "line 2: 'cheap' is no price"),
            ("time,price\n2026-01-05 25:00,1\n", "line 2: '2026-01-05 25:00' is no time"),
            ("time,price\n2026-03-29 02:30,1\n", "does not exist on the clock"),
            ("time,price\n2026-01-05T00:00Z,1\n2026-01-05T00:00Z,2\n", "two prices"),
            ("time,price\n2026-01-05T00:00Z,1\n2026-01-06T00:00Z,2\n", "1440 min apart"),
            ("[1, 2]", "entry 1"),
            ('[{"time": "2026-01-05T00:00Z"}]', "no price"),
            ("{", "line 1"),
            ('[{"time": "2026-01-05T00:00Z", "price": "NaN"}]', "is no price"),
        ):
            with self.assertRaisesRegex(ReadingError, words, msg=text):
                read(text)

    def test_an_hour_without_a_price_stays_a_hole(self) -> None:
        found = read("time,price\n2026-01-05T00:00Z,1\n2026-01-05T01:00Z,\n2026-01-05T02:00Z,3\n2026-01-05T03:00Z,4\n")
        self.assertEqual(found.step_ms, 3_600_000)
        self.assertTrue(np.isnan(found.at(np.array([parse_utc("2026-01-05T01:30:00Z")]))[0]))


if __name__ == "__main__":
    unittest.main()
