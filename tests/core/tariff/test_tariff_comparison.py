"""Which tariff, findings of a tariff, and use by part, against sums by hand."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

import numpy as np

from tests.tariffs import metered, rate, steady, tariff
from warmeter.core.home.tariffs import RATE_DAYS, StandingCharge
from warmeter.core.tariff.bill import Metered
from warmeter.core.tariff.bills_of_year import month_bills, use_by_hour
from warmeter.core.tariff.tariff_comparison import tariff_year, verdict
from warmeter.core.tariff.tariff_findings import date_findings, tariff_findings
from warmeter.core.tariff.use_shares import slot_starts, use_of_days
from warmeter.core.timegrid import LocalClock

UTC = LocalClock("UTC")
FIRST, LAST = date(2026, 1, 1), date(2026, 12, 31)
LOAD = Metered(steady(UTC, FIRST, LAST, "1", step_min=60))
FLAT = tariff(rate("flat", "0.20"), id="flat")
NIGHT = tariff(rate("night", "0.10", from_min=0, to_min=360), rate("day", "0.24"), id="night")


class Comparison(unittest.TestCase):
    def test_a_year_is_its_months_and_the_lead_their_difference(self) -> None:
        flat, night = (tariff_year(own, UTC, FIRST, 12, LOAD) for own in (FLAT, NIGHT))
        # 8760 kWh: all at 0.20; 2190 at 0.10 and 6570 at 0.24.
        self.assertEqual((flat.total, night.total), (Decimal("1752.00"), Decimal("1795.80")))
        found = verdict([night, flat], UTC, LOAD)
        assert found is not None
        self.assertEqual((found.best, found.other, found.lead), ("flat", "night", Decimal("43.80")))
        self.assertAlmostEqual(found.price_share, 43.80 / 1752.00)
        self.assertIsNone(found.load_factor, "no factor makes two tariffs without standing charges alike")
        by_day = [h for h in found.hours if h.from_hour == 6]
        self.assertAlmostEqual(sum(h.more for h in by_day), 6570 * 0.04, places=6)
        self.assertAlmostEqual(sum(h.kwh for h in by_day), 6570)

    def test_the_factor_of_use_at_which_both_cost_the_same(self) -> None:
        # 365 s + 0.20 · 8760 f = 0.24 · 8760 f · 0.75 + 0.10 · 8760 f · 0.25 with s = 0.06: f = 21.90/43.80.
        standing = replace(FLAT, standing=(StandingCharge(amount=Decimal("0.06")),))
        years = [tariff_year(own, UTC, FIRST, 12, LOAD) for own in (standing, NIGHT)]
        found = verdict(years, UTC, LOAD)
        assert found is not None
        assert found.load_factor is not None
        self.assertAlmostEqual(found.load_factor, 0.5, places=6)

    def test_it_is_held_against_the_tariff_in_force(self) -> None:
        dear = tariff(rate("dear", "0.50"), id="dear")
        years = [tariff_year(own, UTC, FIRST, 12, LOAD) for own in (FLAT, NIGHT, dear)]
        found = verdict(years, UTC, LOAD, "dear")
        assert found is not None
        self.assertEqual(found.other, "dear")
        self.assertIsNone(verdict(years[:1], UTC, LOAD))

    def test_a_month_that_cannot_be_billed_says_why_and_the_others_stand(self) -> None:
        own = replace(FLAT, valid_from=date(2026, 2, 1))
        months = month_bills([own], UTC, FIRST, 3, LOAD)
        self.assertEqual([month.bill is None for month in months], [True, False, False])
        self.assertIn("01 Jan 2026", months[0].why)


class Findings(unittest.TestCase):
    def test_holes_have_their_days_and_hours(self) -> None:
        own = tariff(rate("winter", "0.3", seasons=(("10-01", "03-31"),)), rate("night", "0.1", from_min=0, to_min=360))
        (hole,) = (f for f in tariff_findings(own, UTC, FIRST, LAST) if f.kind == "hole")
        self.assertEqual((hole.first, hole.last, hole.days), (date(2026, 4, 1), date(2026, 9, 30), 183))
        self.assertEqual((hole.from_min, hole.to_min), (360, 1440))

    def test_a_wider_rate_in_front_of_a_narrower_one_is_an_overlap(self) -> None:
        peak = rate("peak", "0.5", from_min=960, to_min=1200)
        feast = rate("feast", "0.1", days=("holiday",), from_min=900, to_min=1200)
        own = tariff(peak, feast, rate("rest", "0.2"), holidays=(date(2026, 12, 25), date(2026, 12, 26)))
        (found,) = tariff_findings(own, UTC, FIRST, LAST)
        self.assertEqual((found.kind, found.rate, found.other, found.days), ("overlap", 1, 0, 2))
        self.assertEqual((found.first, found.from_min, found.to_min), (date(2026, 12, 25), 960, 1200))
        self.assertEqual(tariff_findings(tariff(feast, peak, rate("rest", "0.2")), UTC, FIRST, LAST), ())

    def test_dates_without_a_tariff_and_with_two(self) -> None:
        a = replace(FLAT, id="a", valid_from=date(2026, 2, 1), valid_to=date(2026, 3, 31))
        b = replace(FLAT, id="b", valid_from=date(2026, 3, 20), valid_to=date(2026, 12, 31))
        found = [(f.kind, f.first, f.days) for f in date_findings([a, b], "electricity", FIRST, LAST)]
        self.assertEqual(found, [("no_tariff", FIRST, 31), ("two_tariffs", date(2026, 3, 20), 12)])
        self.assertEqual(date_findings([a, b], "gas", FIRST, LAST), ())


class Use(unittest.TestCase):
    def test_parts_and_rest_add_up_to_the_meter_and_a_day_not_heard_is_not_known(self) -> None:
        first, last = date(2026, 1, 5), date(2026, 1, 7)
        whole = steady(UTC, first, last, "1")
        plug = metered(UTC.instant(first, 0), 60, ["0.25"] * 24 + ["0"] * 24)  # nothing of the third day
        price = np.where(np.arange(slot_starts(UTC, first, last).size - 1) % 96 < 24, 0.1, 0.3)
        found = use_of_days([("plug", plug)], whole, UTC, first, last, price)
        assert found.rest is not None
        assert found.whole is not None
        self.assertEqual(found.parts[0].by_day[:2].tolist(), [6.0, 0.0])
        self.assertTrue(np.isnan(found.parts[0].by_day[2]))
        self.assertEqual(found.whole.by_day.tolist(), [24.0] * 3)
        self.assertEqual(found.rest.by_day.tolist(), [18.0, 24.0, 24.0])
        self.assertAlmostEqual(found.parts[0].cost or 0, 0.25 * (6 * 0.1 + 18 * 0.3))
        self.assertAlmostEqual((found.rest.cost or 0) + (found.parts[0].cost or 0), found.whole.cost or 0)

    def test_a_week_by_hour_of_day_and_day_of_week(self) -> None:
        monday = date(2026, 1, 5)
        kwh = ["0"] * 168
        kwh[24 * 2 + 18] = "3.5"
        found = use_by_hour(metered(UTC.instant(monday, 0), 60, kwh), UTC, monday, date(2026, 1, 11))
        self.assertEqual((found[2, 18], found.sum()), (3.5, 3.5))
        self.assertEqual(found.shape, (7, 24))
        self.assertEqual(RATE_DAYS[2], "wed")


if __name__ == "__main__":
    unittest.main()
