"""Money of a part of a home's use by its own bills: with it less without it."""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Flags
from warmeter.core.errors import TariffError
from warmeter.core.forecast.tariff_year import money_of_even_use
from warmeter.core.home.document import Home
from warmeter.core.saving.simple import HOURS_A_YEAR
from warmeter.core.tariff.bill import Bill, bill
from warmeter.core.tariff.bill_share import BillShare, bill_share, bought_instead, even_use, own_use
from warmeter.core.tariff.bills_of_year import MONTHS
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy, metered_energy
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_H
from warmeter.service.app import App
from warmeter.service.readings.room_logs import series_of
from warmeter.service.tariffs.bills import billed, carrier_meter, last_metered_month, year_of_bills

# A year of which less is metered says too little to stand for a year.
LEAST_METERED = 0.98


@dataclass(frozen=True, slots=True, kw_only=True)
class UseMoney:
    """Money of a use: of the last metered month, and of a year, and whether the year is that of twelve bills.

    ``year`` is None without a price; ``month`` and ``month_on`` are None where the month cannot be billed;
    ``month_days`` of it are metered.
    """

    month: Decimal | None
    month_on: date | None
    month_days: int
    year: Decimal | None
    is_billed: bool


def share_of_bills(app: App, home: Home, part: MeteredEnergy, last_month: date) -> BillShare | None:
    """Return what a part adds to the electricity bills of the twelve months that end with one; None without a tariff."""
    tariffs = home.tariffs_of("electricity")
    metered = carrier_meter(app, home, "electricity").metered
    if not tariffs or billed(metered, tariffs[-1]) is not metered:
        return None
    as_was = year_of_bills(app, home, "electricity", last_month)
    return bill_share(as_was, tariffs, app.clock(home), metered, part, home.currency_changes)


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnSun:
    """What the sun made over some days, what of it was used at home [kWh], and what that took off the bill.

    ``is_most``: nobody meters what is sold, so that it is no more than that.
    """

    made_kwh: float
    own_kwh: float
    saved: Decimal
    is_most: bool


def own_sun(app: App, home: Home, made_bill: Bill) -> OwnSun | None:
    """Return what a bill's days owe to the home's own sun; None without a log of it, or without a bill of both."""
    series = series_of(app, home.id, "sun_power_w", "")
    tariffs = home.tariffs_of("electricity")
    metered = carrier_meter(app, home, "electricity").metered
    if not series or not tariffs or billed(metered, tariffs[-1]) is not metered:
        return None
    clock, first, last = app.clock(home), made_bill.first, made_bill.last
    edges = np.array([clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0)], dtype=np.int64)
    begin, end = int(edges[0]) - MS_PER_DAY, int(edges[1]) + MS_PER_DAY
    made = metered_energy(series[0].record, app.readings.readings(series[0].id, begin, end))
    own = own_use(metered, made)
    try:
        instead = bill(tariffs, clock, first, last, bought_instead(metered, own), home.currency_changes)
    except TariffError:
        return None
    made_kwh, own_kwh = (float(each.between(edges)[0][0]) / MILLION for each in (made, own))
    return OwnSun(
        made_kwh=made_kwh, own_kwh=own_kwh, saved=instead.total - made_bill.total, is_most=metered.sold is None
    )


def money_of_standing_use(app: App, home: Home, on: date, kwh_per_year: Decimal) -> UseMoney:
    """Return what energy that is drawn evenly costs: by the bills of the home's own twelve months where they can be
    worked out, else by the price of every hour of the year before a date.
    """
    month = last_metered_month(app, home, "electricity")
    even = UseMoney(
        month=None, month_on=None, month_days=0, year=money_of_even_use(home, on, kwh_per_year), is_billed=False
    )
    if month is None:
        return even
    metered = carrier_meter(app, home, "electricity").metered.bought
    share = share_of_bills(app, home, even_use(metered, float(1000 * kwh_per_year / HOURS_A_YEAR)), month)
    if share is None or share.last is None:
        return even
    after = date(month.year + month.month // MONTHS, month.month % MONTHS + 1, 1)
    of_year = _metered_hours(app.clock(home), metered, after.replace(year=after.year - 1), after)
    is_whole = share.total is not None and bool(of_year.mean() >= LEAST_METERED)
    return UseMoney(
        month=share.last,
        month_on=month,
        month_days=round(int(_metered_hours(app.clock(home), metered, month, after).sum()) / 24),
        year=share.total if is_whole else even.year,
        is_billed=is_whole,
    )


def _metered_hours(clock: LocalClock, metered: MeteredEnergy, first: date, after: date) -> Flags:
    """Return of which hours of local days [first, after) all is known."""
    hours = np.arange(clock.instant(first, 0), clock.instant(after, 0) + 1, MS_PER_H, dtype=np.int64)
    return metered.between(hours)[1]
