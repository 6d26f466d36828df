"""What a part of the use adds to bills, against sums worked by hand."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

from tests.tariffs import metered, rate, steady, tariff
from warmeter.core.home.tariffs import DemandCharge, RateHours, StandingCharge, Tariff, Tax, TierPrice
from warmeter.core.tariff.bill import Metered
from warmeter.core.tariff.bill_share import BillShare, bill_share, bought_instead, even_use, own_use, without
from warmeter.core.tariff.bills_of_year import month_bills
from warmeter.core.tariff.metered_energy import MeteredEnergy
from warmeter.core.timegrid import LocalClock

UTC = LocalClock("UTC")
FIRST, LAST = date(2026, 1, 1), date(2026, 2, 28)
NIGHT, DAY = rate("night", "0.10", from_min=0, to_min=360), rate("day", "0.30")


def share(own: Tariff, whole: Metered, part: MeteredEnergy) -> BillShare:
    return bill_share(month_bills([own], UTC, FIRST, 2, whole), [own], UTC, whole, part)


class Shares(unittest.TestCase):
    def test_what_stands_day_and_night_costs_its_hours_and_their_tax(self) -> None:
        own = tariff(NIGHT, DAY, standing=(StandingCharge(amount=Decimal("0.50")),), taxes=(Tax(rate=Decimal("0.2")),))
        whole = Metered(steady(UTC, FIRST, LAST, "1"))
        found = share(own, whole, even_use(whole.bought, 100.0))
        # 0.1 kW: 6 h at 0.10 and 18 h at 0.30 a day, a fifth on top; the standing charge stays.
        a_day = (Decimal("0.6") * Decimal("0.10") + Decimal("1.8") * Decimal("0.30")) * Decimal("1.2")
        self.assertEqual(found.by_month, (a_day * 31, a_day * 28))
        self.assertEqual(found.total, a_day * 59)
        self.assertEqual(found.last, a_day * 28)

    def test_what_comes_last_is_paid_at_the_block_that_it_reaches(self) -> None:
        cheap = rate("all", "0.10", tiers=(TierPrice(above=Decimal(300), price_per_unit=Decimal("0.40")),))
        whole = Metered(steady(UTC, FIRST, LAST, "0.5"))  # 372 kWh in January, 336 in February
        found = share(tariff(cheap), whole, even_use(whole.bought, 100.0))
        # January 74.4 kWh, of which 72 lay above 300; February 67.2, of which 36.
        self.assertEqual(found.by_month, (Decimal("29.04"), Decimal("17.52")))

    def test_a_part_that_makes_the_peak_pays_for_it(self) -> None:
        hours = RateHours(from_min=0, to_min=1440)
        own = tariff(rate("all", "0"), demand=(DemandCharge(price_per_kw=Decimal(10), interval_min=30, hours=hours),))
        whole = Metered(steady(UTC, FIRST, LAST, "1"))
        at = UTC.instant(date(2026, 1, 10), 600)
        lifted = whole.bought.millionths.copy()
        lifted[whole.bought.start_ms == at] += 1_000_000  # 2 kW more for half an hour
        whole = Metered(replace(whole.bought, millionths=lifted))
        found = share(own, whole, metered(at, 30, [1]))
        self.assertEqual(found.by_month, (Decimal(20), Decimal(0)))

    def test_a_month_without_a_bill_has_no_share(self) -> None:
        own = replace(tariff(DAY), valid_from=date(2026, 2, 1))
        whole = Metered(steady(UTC, FIRST, LAST, "1"))
        found = share(own, whole, even_use(whole.bought, 10.0))
        self.assertIsNone(found.by_month[0])
        self.assertIsNone(found.total)
        self.assertEqual(found.last, Decimal("2.02"))  # 6.72 kWh at 0.30, to the cent


class Meters(unittest.TestCase):
    def test_a_part_in_minutes_is_taken_off_half_hours(self) -> None:
        begin = UTC.instant(FIRST, 0)
        left = without(Metered(metered(begin, 30, [1, 1, 1])), metered(begin + 20 * 60_000, 1, ["0.01"] * 20))
        self.assertEqual(left.bought.millionths.tolist(), [900_000, 900_000, 1_000_000])

    def test_what_sun_had_covered_is_sold_instead(self) -> None:
        begin = UTC.instant(FIRST, 0)
        left = without(
            Metered(metered(begin, 30, ["0.2", "1"]), metered(begin, 15, [0, 1, 0, 0])),
            metered(begin, 30, ["0.5", "0.5"]),
        )
        self.assertEqual(left.bought.millionths.tolist(), [0, 500_000])
        assert left.sold is not None
        self.assertEqual(left.sold.millionths.tolist(), [150_000, 1_150_000, 0, 0])

    def test_without_a_sold_meter_nothing_falls_below_nought(self) -> None:
        begin = UTC.instant(FIRST, 0)
        left = without(Metered(metered(begin, 30, ["0.2"])), metered(begin, 30, ["0.5"]))
        self.assertEqual(left.bought.millionths.tolist(), [0])

    def test_own_use_of_the_sun_is_what_was_made_and_not_sold(self) -> None:
        begin = UTC.instant(FIRST, 0)
        told = Metered(metered(begin, 30, ["0.2", "0"]), metered(begin, 30, ["0", "0.6"]))
        own = own_use(told, metered(begin, 15, ["0.1", "0.2", "0.5", "0.4"]))
        self.assertEqual(own.millionths.tolist(), [300_000, 300_000])
        self.assertEqual(bought_instead(told, own).bought.millionths.tolist(), [500_000, 300_000])


if __name__ == "__main__":
    unittest.main()
