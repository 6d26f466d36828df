"""Bills to the cent against sums worked by hand, and against a walk minute by minute."""

import random
import unittest
from collections import defaultdict
from dataclasses import replace
from datetime import date, timedelta
from decimal import ROUND_HALF_UP, Decimal

import numpy as np

from tests.tariffs import metered, rate, steady, tariff
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import (
    RATE_DAYS,
    WORKDAYS,
    CurrencyChange,
    DemandCharge,
    MarketPrice,
    RateHours,
    Rounding,
    StandingCharge,
    Tariff,
    Tax,
    TierPrice,
)
from warmeter.core.tariff.bill import Bill, Metered, bill
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.metered_energy import MeteredEnergy, counted_energy, in_billed_units
from warmeter.core.timegrid import LocalClock

LONDON = LocalClock("Europe/London")
UTC = LocalClock("UTC")
NIGHT, DAY = rate("night", "0.10", from_min=0, to_min=360), rate("day", "0.30")
VAT5 = (Tax(rate=Decimal("0.05")),)
HALF_A_DAY = (StandingCharge(amount=Decimal("0.50")),)
JAN1, JAN31 = date(2026, 1, 1), date(2026, 1, 31)


def amounts(made: Bill) -> dict[str, str]:
    """Return the amounts of a bill's lines by name."""
    return {line.name: f"{line.amount:f}" for line in made.lines}


class ClockChanges(unittest.TestCase):
    def test_the_month_in_which_the_clock_goes_forward_loses_a_night_hour(self) -> None:
        # 743 h: 31 nights of 6 h less one hour, 31 days of 18 h.
        first, last = date(2026, 3, 1), date(2026, 3, 31)
        own = tariff(NIGHT, DAY, standing=HALF_A_DAY, taxes=VAT5)
        made = bill([own], LONDON, first, last, Metered(steady(LONDON, first, last, "1")))
        self.assertEqual(amounts(made), {"night": "18.50", "day": "167.40", "Standing charge": "15.50", "VAT": "10.07"})
        self.assertEqual((made.units, made.net, made.total), (Decimal(743), Decimal("201.40"), Decimal("211.47")))
        self.assertEqual((made.missing.intervals, made.missing.of), (0, 1486))

    def test_the_month_in_which_it_goes_back_gains_one(self) -> None:
        first, last = date(2026, 10, 1), date(2026, 10, 31)
        own = tariff(NIGHT, DAY, standing=HALF_A_DAY, taxes=VAT5)
        made = bill([own], LONDON, first, last, Metered(steady(LONDON, first, last, "1")))
        self.assertEqual(amounts(made), {"night": "18.70", "day": "167.40", "Standing charge": "15.50", "VAT": "10.08"})
        self.assertEqual((made.units, made.total), (Decimal(745), Decimal("211.68")))

    def test_where_the_clock_moves_by_half_an_hour_the_night_does_too(self) -> None:
        clock, on = LocalClock("Australia/Lord_Howe"), date(2026, 4, 5)  # 24.5 h
        made = bill([tariff(NIGHT, DAY)], clock, on, on, Metered(steady(clock, on, on, "1")))
        self.assertEqual(amounts(made), {"night": "0.65", "day": "5.40"})

    def test_hourly_readings_are_cut_at_the_rates_edges(self) -> None:
        own = tariff(rate("night", "0.10", from_min=0, to_min=390), DAY)
        made = bill([own], UTC, JAN1, JAN1, Metered(steady(UTC, JAN1, JAN1, "2", step_min=60)))
        self.assertEqual(amounts(made), {"night": "1.30", "day": "10.50"})


class Tiers(unittest.TestCase):
    TIERED = replace(rate("all", "0.18"), tiers=(TierPrice(above=Decimal(300), price_per_unit=Decimal("0.26")),))

    def energy(self, units: int) -> MeteredEnergy:
        """Return units spread over the 31 days of January."""
        begin, end = UTC.instant(JAN1, 0), UTC.instant(date(2026, 2, 1), 0)
        return MeteredEnergy(
            start_ms=np.array([begin]), end_ms=np.array([end]), millionths=np.array([units * 10**6]), step_ms=0
        )

    def test_limits_grow_with_the_days_of_the_bill(self) -> None:
        # 300 kWh for 30 days are 310 for 31: 310 · 0.18 = 55.80, 170 · 0.26 = 44.20.
        made = bill([tariff(self.TIERED, tier_days=30)], UTC, JAN1, JAN31, Metered(self.energy(480)))
        self.assertEqual([f"{line.amount:f}" for line in made.lines], ["55.80", "44.20"])
        self.assertEqual([line.above for line in made.lines], [None, Decimal(310)])

    def test_without_a_reference_they_are_for_the_bill(self) -> None:
        made = bill([tariff(self.TIERED)], UTC, JAN1, JAN31, Metered(self.energy(480)))
        self.assertEqual([f"{line.amount:f}" for line in made.lines], ["54.00", "46.80"])

    def test_a_part_of_a_bill_has_its_share_of_the_limit(self) -> None:
        # 480 kWh evenly: 232.258064 and 247.741936; limits 300 · 15/31 and 300 · 16/31.
        old = tariff(self.TIERED, id="a", valid_to=date(2026, 1, 15))
        new = tariff(self.TIERED, id="b", valid_from=date(2026, 1, 16))
        made = bill([old, new], UTC, JAN1, JAN31, Metered(self.energy(480)))
        self.assertEqual(sum((line.units for line in made.lines), Decimal(0)), Decimal(480))
        first_blocks = [line.units for line in made.lines if line.above is None]
        self.assertAlmostEqual(float(first_blocks[0]), 300 * 15 / 31, places=5)
        self.assertAlmostEqual(float(first_blocks[1]), 300 * 16 / 31, places=5)


class ChangesInTheMiddle(unittest.TestCase):
    OLD = tariff(
        rate("old", "0.20"),
        id="a",
        standing=(StandingCharge(amount=Decimal("0.40")),),
        taxes=VAT5,
        valid_to=date(2026, 1, 15),
    )
    NEW = tariff(rate("new", "0.25"), id="b", standing=HALF_A_DAY, taxes=VAT5, valid_from=date(2026, 1, 16))

    def test_each_day_has_its_tariff_and_tax_is_worked_out_once(self) -> None:
        # 15 d · 24 kWh · 0.20 = 72.00 and 6.00; 16 d · 24 · 0.25 = 96.00 and 8.00; 182.00 · 5 % = 9.10.
        made = bill([self.OLD, self.NEW], UTC, JAN1, JAN31, Metered(steady(UTC, JAN1, JAN31, "1")))
        self.assertEqual([f"{line.amount:f}" for line in made.lines], ["72.00", "6.00", "96.00", "8.00", "9.10"])
        self.assertEqual(made.total, Decimal("191.10"))

    def test_another_tax_from_a_day_on_is_worked_out_on_its_own_part(self) -> None:
        new = replace(self.NEW, taxes=(Tax(rate=Decimal("0.20")),))
        made = bill([self.OLD, new], UTC, JAN1, JAN31, Metered(steady(UTC, JAN1, JAN31, "1")))
        self.assertEqual([f"{k.amount:f}" for k in made.lines if k.kind == "tax"], ["3.90", "20.80"])

    def test_a_price_that_changes_within_a_tariff_has_two_lines(self) -> None:
        own = tariff(rate("old", "0.20", valid_to=date(2026, 1, 10)), rate("new", "0.30", valid_from=date(2026, 1, 11)))
        made = bill([own], UTC, JAN1, JAN31, Metered(steady(UTC, JAN1, JAN31, "1")))
        self.assertEqual(amounts(made), {"old": "48.00", "new": "151.20"})

    def test_days_without_a_tariff_and_hours_without_a_rate_are_named(self) -> None:
        load = Metered(steady(UTC, JAN1, JAN31, "1"))
        with self.assertRaisesRegex(TariffError, r"16 Jan 2026 \(16 of 31 days have none\)"):
            bill([self.OLD], UTC, JAN1, JAN31, load)
        with self.assertRaisesRegex(TariffError, "Thu 01 Jan 2026, 06:00"):
            bill([tariff(NIGHT)], UTC, JAN1, JAN31, load)
        with self.assertRaises(TariffError):
            bill([self.OLD], UTC, JAN31, JAN1, load)


class Customs(unittest.TestCase):
    THREE = tuple(rate(name, "0.30", from_min=60 * k, to_min=60 * k + 60) for k, name in enumerate("abc"))

    def made(self, rounding: Rounding, **rest: object) -> Bill:
        """Return the bill of three kWh, one a line of 0.30, with 5 %."""
        own = tariff(*self.THREE, rate("rest", "0"), taxes=VAT5, rounding=rounding, **rest)
        return bill([own], UTC, JAN1, JAN1, Metered(metered(UTC.instant(JAN1, 0), 60, [1, 1, 1])))

    def test_tax_on_the_sum_of_each_line_or_at_the_end_differ_by_a_cent(self) -> None:
        # 5 % of 0.30 is 0.015: of each line 0.02, of the sum 0.045.
        self.assertEqual(self.made(Rounding(each="line")).total, Decimal("0.95"))
        self.assertEqual(self.made(Rounding(each="line_with_tax")).total, Decimal("0.96"))
        self.assertEqual(self.made(Rounding(each="total")).total, Decimal("0.95"))
        self.assertEqual(self.made(Rounding(each="total", mode="half_even")).total, Decimal("0.94"))
        self.assertEqual(self.made(Rounding(mode="half_even")).total, Decimal("0.94"))

    def test_tax_held_within_is_told_and_not_added(self) -> None:
        made = self.made(Rounding(), prices_include_tax=True)
        self.assertEqual((made.total, made.tax, made.net), (Decimal("0.90"), Decimal("0.04"), Decimal("0.86")))

    def test_a_tax_on_a_tax_and_lines_that_are_not_taxed(self) -> None:
        own = tariff(
            rate("all", "1"),
            taxes=(Tax(name="duty", rate=Decimal("0.10")), Tax(rate=Decimal("0.20"), is_on_taxes=True)),
            standing=(StandingCharge(name="fund", amount=Decimal(3), per="bill", is_taxed=False),),
        )
        made = bill([own], UTC, JAN1, JAN1, Metered(metered(UTC.instant(JAN1, 0), 60, [10])))
        self.assertEqual(amounts(made), {"all": "10.00", "fund": "3.00", "duty": "1.00", "VAT": "2.20"})
        self.assertEqual(made.total, Decimal("16.20"))

    def test_amounts_have_the_coins_of_their_currency(self) -> None:
        load = Metered(metered(UTC.instant(JAN1, 0), 60, ["10.5"]))
        for currency, expected in (("JPY", "331"), ("KWD", "330.750"), ("EUR", "330.75")):
            made = bill([tariff(rate("all", "31.5"), currency=currency)], UTC, JAN1, JAN1, load)
            self.assertEqual(f"{made.total:f}", expected)

    def test_charges_a_month_and_a_year_go_by_the_days(self) -> None:
        own = tariff(
            rate("all", "0.1"),
            standing=(
                StandingCharge(name="month", amount=Decimal(31), per="month"),
                StandingCharge(name="year", amount=Decimal(365), per="year"),
            ),
        )
        made = bill([own], UTC, JAN1, date(2026, 1, 10), Metered(metered(UTC.instant(JAN1, 0), 60, [1])))
        self.assertEqual(amounts(made), {"all": "0.10", "month": "10.00", "year": "10.00"})
        leap = bill([own], UTC, date(2028, 1, 1), date(2028, 12, 31), Metered(steady(UTC, JAN1, JAN1, "0")))
        self.assertEqual(amounts(leap), {"month": "372.00", "year": "365.00"})


class Demand(unittest.TestCase):
    CHARGE = DemandCharge(
        price_per_kw=Decimal("2.10"), interval_min=30, hours=RateHours(days=WORKDAYS, from_min=960, to_min=1200)
    )

    def load(self) -> MeteredEnergy:
        """Return a January of 0.5 kW with peaks: Sunday 4th 17:00 (9 kW), Tuesday 6th 18:00 (4 kW), Friday 9th 03:00 (8 kW)."""
        kwh = ["0.25"] * (31 * 48)
        for day, half_hour, value in ((4, 34, "4.5"), (6, 36, "2"), (9, 6, "4")):
            kwh[48 * (day - 1) + half_hour] = value
        return metered(UTC.instant(JAN1, 0), 30, kwh)

    def demand_line(self, made: Bill) -> tuple[str, str]:
        """Return kW and amount of the one demand line."""
        (line,) = (k for k in made.lines if k.kind == "demand")
        return f"{line.units.normalize():f}", f"{line.amount:f}"

    def test_only_hours_that_count_make_the_peak(self) -> None:
        own = tariff(rate("all", "0.1"), demand=(self.CHARGE,))
        made = bill([own], UTC, JAN1, JAN31, Metered(self.load()))
        self.assertEqual(self.demand_line(made), ("4", "8.40"))
        (line,) = (k for k in made.lines if k.kind == "demand")
        self.assertEqual(UTC.local(line.at_ms[0]).isoformat(), "2026-01-06T18:00:00+00:00")
        self.assertFalse(line.is_least)

    def test_the_mean_of_three_days_and_a_part_of_a_month(self) -> None:
        # Daily peaks of all hours: 9, 8, 4, else 0.5: mean 7; 15 of 31 days.
        charge = replace(self.CHARGE, counts="top3_days", hours=RateHours())
        made = bill([tariff(rate("all", "0.1"), demand=(charge,))], UTC, JAN1, date(2026, 1, 15), Metered(self.load()))
        self.assertEqual(self.demand_line(made), ("7", "7.11"))

    def test_readings_longer_than_the_interval_say_at_least(self) -> None:
        own = tariff(rate("all", "0.1"), demand=(self.CHARGE,))
        made = bill([own], UTC, JAN1, JAN31, Metered(steady(UTC, JAN1, JAN31, "1", step_min=60)))
        self.assertTrue(next(k for k in made.lines if k.kind == "demand").is_least)

    def test_each_month_of_a_bill_has_its_own_peak(self) -> None:
        first, last = date(2026, 1, 16), date(2026, 2, 15)
        own = tariff(rate("all", "0.1"), demand=(replace(self.CHARGE, hours=RateHours()),))
        made = bill([own], UTC, first, last, Metered(steady(UTC, first, last, "2")))
        # 2 kW · 2.10 · 16/31 and · 15/28
        self.assertEqual([f"{k.amount:f}" for k in made.lines if k.kind == "demand"], ["2.17", "2.25"])


class MarketAndExport(unittest.TestCase):
    def test_negative_prices_pay_and_what_has_no_price_is_in_no_line(self) -> None:
        begin = UTC.instant(JAN1, 0)
        load = metered(begin, 60, ["1", "2", "4"])
        market = MarketPrices(
            start_ms=begin + np.array([0, 3_600_000]), step_ms=3_600_000, price=np.array([0.10, -0.25])
        )
        own = tariff(rate("net", "0.05", part="network"), rate("adder", "0"), market=MarketPrice(), taxes=VAT5)
        made = bill([own], UTC, JAN1, JAN1, Metered(load, market=market))
        # 0.10 − 0.50 = −0.40; network 7 · 0.05 = 0.35; tax of −0.05 is −0.0025.
        self.assertEqual(amounts(made), {"Energy at the market's price": "-0.40", "net": "0.35", "VAT": "0.00"})
        self.assertEqual((made.total, made.unpriced), (Decimal("-0.05"), Decimal(4)))

    def test_netting_by_interval_and_by_bill_differ(self) -> None:
        begin = UTC.instant(JAN1, 0)
        bought, sold = metered(begin, 60, ["3", "0", "2"]), metered(begin, 60, ["0", "4", "0"])
        own = tariff(rate("all", "0.30"), rate("sun", "0.08", part="export"), taxes=VAT5)
        made = bill([own], UTC, JAN1, JAN1, Metered(bought, sold))
        self.assertEqual(amounts(made), {"all": "1.50", "sun": "-0.32", "VAT": "0.08"})
        net = bill([replace(own, export_netting="bill")], UTC, JAN1, JAN1, Metered(bought, sold))
        self.assertEqual(amounts(net), {"all": "0.30", "VAT": "0.02"})
        more = metered(begin, 60, ["0", "8", "0"])
        surplus = bill([replace(own, export_netting="bill")], UTC, JAN1, JAN1, Metered(bought, more))
        self.assertEqual(amounts(surplus), {"sun": "-0.24", "VAT": "0.00"})


class Currencies(unittest.TestCase):
    CHANGE = CurrencyChange(on=date(2026, 1, 1), from_currency="BGN", to_currency="EUR", rate=Decimal("1.95583"))
    OWN = tariff(rate("all", "0.26"), currency="BGN", standing=(StandingCharge(amount=Decimal("0.10")),))

    def load(self, first: date, last: date) -> Metered:
        """Return a load of a tenth of a kW."""
        return Metered(steady(UTC, first, last, "0.1"))

    def test_before_the_change_a_bill_is_in_the_old_currency(self) -> None:
        first, last = date(2025, 12, 1), date(2025, 12, 31)
        made = bill([self.OWN], UTC, first, last, self.load(first, last), [self.CHANGE])
        self.assertEqual((made.currency, amounts(made)), ("BGN", {"all": "19.34", "Standing charge": "3.10"}))

    def test_after_it_prices_are_turned_unrounded(self) -> None:
        # 74.4 kWh · 0.26/1.95583 = 9.8905…; 31 · 0.10/1.95583 = 1.5850…
        made = bill([self.OWN], UTC, JAN1, JAN31, self.load(JAN1, JAN31), [self.CHANGE])
        self.assertEqual((made.currency, amounts(made)), ("EUR", {"all": "9.89", "Standing charge": "1.59"}))

    def test_over_the_change_old_amounts_are_turned_to_the_cent(self) -> None:
        # December 16 to 31: 38.4 kWh · 0.26 = 9.98 → 5.10; 1.60 → 0.82. January 1 to 15: 36 kWh → 4.79; 0.77.
        first, last = date(2025, 12, 16), date(2026, 1, 15)
        made = bill([self.OWN], UTC, first, last, self.load(first, last), [self.CHANGE])
        self.assertEqual([f"{line.amount:f}" for line in made.lines], ["5.10", "0.82", "4.79", "0.77"])
        self.assertEqual((made.currency, made.total), ("EUR", Decimal("11.48")))

    def test_two_currencies_without_a_rate_are_refused(self) -> None:
        euro = tariff(rate("all", "0.13"), id="b", valid_from=date(2026, 1, 10))
        with self.assertRaisesRegex(TariffError, "fixed rate"):
            bill([self.OWN, euro], UTC, JAN1, JAN31, self.load(JAN1, JAN31))


class WhatIsNotKnown(unittest.TestCase):
    def test_missing_intervals_are_counted_and_never_filled_in(self) -> None:
        whole = steady(UTC, JAN1, JAN31, "1")
        kept = np.ones(whole.start_ms.size, dtype=bool)
        kept[100:110] = False
        holed = MeteredEnergy(
            start_ms=whole.start_ms[kept],
            end_ms=whole.end_ms[kept],
            millionths=whole.millionths[kept],
            step_ms=whole.step_ms,
        )
        made = bill([tariff(DAY)], UTC, JAN1, JAN31, Metered(holed))
        self.assertEqual((made.missing.intervals, made.missing.of), (10, 1488))
        self.assertEqual((made.units, made.total), (Decimal(739), Decimal("221.70")))
        self.assertAlmostEqual(made.missing.likely_units, 5.0)
        self.assertAlmostEqual(made.missing.likely_cost, 1.5)
        self.assertEqual(made.missing.spans_ms, ((int(whole.start_ms[100]), int(whole.start_ms[110])),))

    def test_monthly_totals_are_exact_at_one_price_and_a_range_at_two(self) -> None:
        begin, end = UTC.instant(JAN1, 0), UTC.instant(date(2026, 2, 1), 0)
        total = counted_energy(np.array([begin, end]), np.array([0, 310 * 10**6]))
        one = bill([tariff(DAY)], UTC, JAN1, JAN31, Metered(total))
        self.assertEqual((one.total, one.spread), (Decimal("93.00"), None))
        two = bill([tariff(NIGHT, DAY)], UTC, JAN1, JAN31, Metered(total))
        self.assertEqual(two.total, Decimal("77.50"))  # a quarter of the day is night
        assert two.spread is not None
        self.assertAlmostEqual(two.spread.low_cost, 31.0)
        self.assertAlmostEqual(two.spread.high_cost, 93.0)

    def test_a_counter_that_falls_makes_its_time_unknown(self) -> None:
        day = 86_400_000
        found = counted_energy(UTC.instant(JAN1, 0) + day * np.arange(4), np.array([500, 510, 3, 8]) * 10**6)
        self.assertEqual((int(found.millionths.sum()), len(found.falls_ms)), (15 * 10**6, 1))
        made = bill([tariff(DAY)], UTC, JAN1, date(2026, 1, 3), Metered(found))
        self.assertEqual((made.units, made.missing.intervals), (Decimal(15), 24))

    def test_gas_in_cubic_metres_is_billed_in_kwh(self) -> None:
        begin, end = UTC.instant(JAN1, 0), UTC.instant(date(2026, 2, 1), 0)
        volume = counted_energy(np.array([begin, end]), np.array([4_321_000_000, 4_444_456_000]))
        energy = in_billed_units(volume, Decimal("11.1868"))
        gas = tariff(rate("gas", "0.0741"), carrier="gas", meter_unit="m³", kwh_per_unit=Decimal("11.1868"))
        made = bill([gas], UTC, JAN1, JAN31, Metered(energy))
        # 123.456 m³ · 11.1868 = 1381.077581 kWh, · 0.0741 = 102.34
        self.assertEqual((made.units, made.total), (Decimal("1381.077581"), Decimal("102.34")))


class AgainstAWalk(unittest.TestCase):
    """Random tariffs and loads, each quarter of an hour priced by itself in exact decimals."""

    def test_every_total_is_that_of_the_walk(self) -> None:
        draw = random.Random(20)
        for _ in range(25):
            self.assert_as_walked(draw)

    def assert_as_walked(self, draw: random.Random) -> None:
        """Bill a random fortnight over a clock change, and walk it."""
        own = self.some_tariff(draw)
        first = date(2026, draw.choice((3, 10)), 20)
        last = first + timedelta(days=draw.randint(6, 14))
        begin, end = LONDON.instant(first, 0), LONDON.instant(last + timedelta(days=1), 0)
        kwh = [Decimal(draw.randint(0, 900)) / 1000 for _ in range((end - begin) // 900_000)]
        made = bill([own], LONDON, first, last, Metered(metered(begin, 15, kwh)))
        sums: dict[str, Decimal] = defaultdict(Decimal)
        for k, amount in enumerate(kwh):
            local = LONDON.local(begin + k * 900_000)
            for part in ("energy", "network"):
                name = self.name_at(own, part, local.date(), local.hour * 60 + local.minute)
                if name:
                    sums[name] += amount
        cent = Decimal("0.01")
        prices = {each.name: each.price_per_unit for each in own.rates}
        net = sum(((sums[n] * prices[n]).quantize(cent, ROUND_HALF_UP) for n in sums if sums[n]), Decimal(0))
        net += (own.standing[0].amount * made.days).quantize(cent, ROUND_HALF_UP)
        total = net + (net * own.taxes[0].rate).quantize(cent, ROUND_HALF_UP)
        self.assertEqual(made.total, total)
        self.assertEqual(
            {n: k for n, k in sums.items() if k},
            {line.name: line.units for line in made.lines if line.kind in ("energy", "network") and line.units},
        )

    def some_tariff(self, draw: random.Random) -> Tariff:
        """Return a tariff of random rates, one without limits behind them."""
        rates = []
        for k in range(draw.randint(0, 3)):
            start = 15 * draw.randint(0, 95)
            rates.append(
                rate(
                    f"e{k}",
                    f"0.{draw.randint(1000, 4999)}",
                    part=draw.choice(("energy", "network")),
                    days=tuple(draw.sample(RATE_DAYS, draw.randint(1, 8))),
                    from_min=start,
                    to_min=(start + 15 * draw.randint(1, 95)) % 1440,
                )
            )
        return tariff(
            *rates,
            rate("rest", "0.2718"),
            standing=(StandingCharge(amount=Decimal("0.4567")),),
            taxes=(Tax(rate=Decimal("0.055")),),
            holidays=(date(2026, 3, 25), date(2026, 10, 27)),
        )

    def name_at(self, own: Tariff, part: str, on: date, minute: int) -> str:
        """Return the first rate of a part that matches a local date and minute."""
        day = "holiday" if on in own.holidays else RATE_DAYS[on.weekday()]
        for each in own.rates:
            hours = each.hours
            a, b = hours.from_min, hours.to_min
            inside = a <= minute < b if a < b else minute >= a or minute < b
            if each.part == part and day in hours.days and inside:
                return each.name
        return ""


if __name__ == "__main__":
    unittest.main()
