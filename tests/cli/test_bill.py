"""``./warmeter bill`` on files: interval XML, tables, months, and what is wrong with them."""

import contextlib
import io
import json
import tempfile
import unittest
from datetime import date, datetime, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

from tests.tariffs import rate, tariff
from warmeter.cli.main import main
from warmeter.core.home.tariffs import MarketPrice, StandingCharge, Tariff, TariffFile, Tax
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.service.tariffs.tariff_file import tariffs_to_json

CLOCK = LocalClock("Europe/London")
FIRST, LAST = date(2026, 3, 1), date(2026, 3, 31)
NIGHT, DAY = rate("night", "0.10", from_min=0, to_min=360), rate("day", "0.30")


def half_hours() -> range:
    """Return the instants of March's half-hours [ms UTC]."""
    return range(CLOCK.instant(FIRST, 0), CLOCK.instant(date(2026, 4, 1), 0), 1_800_000)


def interval_xml(wh: int) -> str:
    """Return the half-hours of March as interval data, each of the same energy."""
    rows = "".join(
        f"<IntervalReading><timePeriod><duration>1800</duration><start>{at // 1000}</start></timePeriod>"
        f"<value>{wh}</value></IntervalReading>"
        for at in half_hours()
    )
    return (
        '<feed xmlns="http://www.w3.org/2005/Atom"><entry><link rel="self" href="/r/1"/><content>'
        '<ReadingType xmlns="http://naesb.org/espi"><accumulationBehaviour>4</accumulationBehaviour>'
        "<flowDirection>1</flowDirection><powerOfTenMultiplier>0</powerOfTenMultiplier><uom>72</uom></ReadingType>"
        '</content></entry><entry><content><IntervalBlock xmlns="http://naesb.org/espi">'
        f"{rows}</IntervalBlock></content></entry></feed>"
    )


class BillCommand(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_bill(self, log: str, *tariffs: Tariff, status: int = 0, prices: str = "", options: str = "") -> Any:
        """Run the command; return its answer, or what it says where it fails."""
        (self.folder / "t.json").write_bytes(tariffs_to_json(TariffFile(time_zone="Europe/London", tariffs=tariffs)))
        (self.folder / "log").write_text(log, encoding="utf-8")
        words = ["bill", "--tariff", str(self.folder / "t.json"), "--log", str(self.folder / "log"), "--json"]
        if prices:
            (self.folder / "p").write_text(prices, encoding="utf-8")
            words += ["--prices", str(self.folder / "p")]
        out, error = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(error):
            code = main([*words, *options.split()])
        self.assertEqual(code, status, error.getvalue())
        return json.loads(out.getvalue()) if code == 0 else error.getvalue()

    def test_interval_data_over_the_clock_change(self) -> None:
        own = tariff(
            NIGHT,
            DAY,
            currency="GBP",
            standing=(StandingCharge(amount=Decimal("0.50")),),
            taxes=(Tax(rate=Decimal("0.05")),),
        )
        answer = self.run_bill(interval_xml(500), own)
        self.assertEqual((answer["total"], answer["currency"], answer["energy_kwh"]), ("211.47", "GBP", 743.0))
        self.assertEqual(answer["missing_intervals"], 0)
        self.assertEqual(
            [(line["name"], line["kwh"], line["amount"]) for line in answer["lines"]],
            [
                ("night", 185.0, "18.50"),
                ("day", 558.0, "167.40"),
                ("Standing charge", None, "15.50"),
                ("VAT", None, "10.07"),
            ],
        )
        part = self.run_bill(interval_xml(500), own, options="--from 2026-03-01 --to 2026-03-10")
        self.assertEqual((part["energy_kwh"], part["missing_intervals"]), (240.0, 0))

    def test_a_table_with_a_hole_counts_what_is_missing(self) -> None:
        times = [at for k, at in enumerate(half_hours()) if not 200 <= k < 210]
        lines = ["time,Import kWh", *(f"{from_ms(at):%Y-%m-%dT%H:%M:%SZ},0.5" for at in times)]
        answer = self.run_bill("\n".join(lines) + "\n", tariff(DAY, currency="GBP"))
        self.assertEqual((answer["missing_intervals"], answer["total"]), (10, f"{738 * 0.30:.2f}"))
        self.assertEqual(answer["missing_could_add"]["likely"], 1.5)

    def test_what_was_taken_for_granted_and_what_was_not_taken_is_told(self) -> None:
        begin = datetime(2026, 3, 1)
        walls = [begin + timedelta(minutes=30 * k) for k in range(48 * 31)]
        lines = ["time,Import kWh", *(f"{at:%Y-%m-%d %H:%M},0.5" for at in walls)]
        answer = self.run_bill("\n".join([*lines, lines[10]]) + "\n", tariff(DAY, currency="GBP"))
        self.assertEqual((answer["energy_kwh"], answer["missing_intervals"]), (743.0, 0))
        told = " ".join(answer["notes"])
        self.assertIn("times stand without an offset: read on the clock of Europe/London", told)
        # 01:00 and 01:30 of the 29th are on no clock of London.
        self.assertIn(f"lines {2 + 48 * 28 + 2} to {2 + 48 * 28 + 3}, refused: the clock in Europe/London skips", told)
        self.assertIn("taken once", told)

    def test_months_are_exact_at_one_price_and_between_two_at_two(self) -> None:
        table = "month,Used kWh\n2026-01,300\n2026-02,280\n"
        self.assertEqual(self.run_bill(table, tariff(DAY))["total"], "174.00")
        low, high = self.run_bill(table, tariff(NIGHT, DAY))["spread_between"]
        self.assertEqual((low, high), ("58.00", "174.00"))

    def test_a_market_of_another_zone_with_a_day_of_23_hours(self) -> None:
        days = {"2026-03-28": ["100"] * 24, "2026-03-29": ["200"] * 23, "2026-03-30": ["-50"] * 24}
        own = tariff(rate("adder", "0"), currency="GBP", market=MarketPrice(time_zone="Europe/Berlin"))
        options = "--from 2026-03-28 --to 2026-03-30"
        prices = json.dumps({"unit": "GBP/MWh", **days})
        answer = self.run_bill(interval_xml(500), own, prices=prices, options=options)
        self.assertEqual(answer["total"], f"{23 * 0.10 + 23 * 0.20 - 24 * 0.05:.2f}")
        self.assertEqual(answer["unpriced_kwh"], 1.0, "London's last hour is of Berlin's next day")

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        own = tariff(DAY)
        xml = interval_xml(500)
        self.assertIn(
            "no tariff is valid on 11 Mar", self.run_bill(xml, tariff(DAY, valid_to=date(2026, 3, 10)), status=2)
        )
        self.assertIn("no rate for Sun 01 Mar 2026, 06:00", self.run_bill(xml, tariff(NIGHT), status=2))
        self.assertIn(
            "holds no energy",
            self.run_bill("time,Outdoor °C\n2026-01-01 00:00,20\n2026-01-01 01:00,21\n", own, status=2),
        )
        (self.folder / "t.json").write_text('{"format": "warmeter-tariff/1", "time_zone": "Europe/London"}')
        out = io.StringIO()
        with contextlib.redirect_stderr(out):
            code = main(["bill", "--tariff", str(self.folder / "t.json"), "--log", str(self.folder / "log")])
        self.assertEqual(code, 2)
        self.assertIn("tariffs", out.getvalue())


if __name__ == "__main__":
    unittest.main()
