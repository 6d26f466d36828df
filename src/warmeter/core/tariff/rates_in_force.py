"""Which rate holds at which instant (I2): by season, kind of day and minute of the home's clock."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from warmeter.core.arrays import Flags, Ints
from warmeter.core.home.tariffs import RATE_DAYS, Rate, RateHours, Tariff, month_day_number
from warmeter.core.timegrid import LocalClock, month_of_epoch_days, weekday_of_epoch_days
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN

NO_RATE = -1
_EPOCH_DATE = date(1970, 1, 1)
_HOLIDAY = RATE_DAYS.index("holiday")


@dataclass(frozen=True, slots=True, kw_only=True)
class LocalCalendar:
    """Instants on a meter's clock, shapes alike.

    Parameters
    ----------
    epoch_day, minute : int arrays
        Local days since 1970 and minutes of them.
    rate_day : int array
        Place in ``RATE_DAYS``: the day of the week, or holiday.
    month_day : int array
        100 times the month, plus the day of it.
    """

    epoch_day: Ints
    minute: Ints
    rate_day: Ints
    month_day: Ints


def local_calendar(
    at_ms: Ints, clock: LocalClock, holidays: Collection[date] = (), *, is_standard_time: bool = False
) -> LocalCalendar:
    """Return instants [ms UTC] on the clock of a meter; where its switch ignores summer time, on standard time."""
    days, minutes = _wall(at_ms, clock, is_standard_time)
    off = np.array([(day - _EPOCH_DATE).days for day in holidays], dtype=np.int64)
    kinds = np.where(np.isin(days, off), _HOLIDAY, weekday_of_epoch_days(days))
    months = days.astype("datetime64[D]").astype("datetime64[M]")
    day_of_month = (days.astype("datetime64[D]") - months.astype("datetime64[D]")).astype(np.int64) + 1
    return LocalCalendar(
        epoch_day=days, minute=minutes, rate_day=kinds, month_day=100 * month_of_epoch_days(days) + day_of_month
    )


def calendar_of(tariff: Tariff, clock: LocalClock, at_ms: Ints) -> LocalCalendar:
    """Return instants [ms UTC] on the clock of a tariff's meter, with the tariff's holidays."""
    return local_calendar(at_ms, clock, tariff.holidays, is_standard_time=tariff.is_standard_time)


def hours_hold(hours: RateHours, calendar: LocalCalendar) -> Flags:
    """Return at which instants hours hold, shape as the calendar's."""
    minute, day = calendar.minute, calendar.month_day
    if hours.from_min < hours.to_min:
        inside = (minute >= hours.from_min) & (minute < hours.to_min)
    else:
        inside = (minute >= hours.from_min) | (minute < hours.to_min)
    if len(hours.days) < len(RATE_DAYS):
        wanted = np.zeros(len(RATE_DAYS), dtype=bool)
        wanted[[RATE_DAYS.index(kind) for kind in hours.days]] = True
        inside &= wanted[calendar.rate_day]
    if hours.seasons:
        inside &= np.logical_or.reduce(
            [day_in_span(month_day_number(s.from_day), month_day_number(s.to_day), day) for s in hours.seasons]
        )
    return inside


def day_in_span(first: int, last: int, month_day: Ints) -> Flags:
    """Return which days of a year (100 times the month, plus the day) lie from a first to a last, both counted."""
    if first <= last:
        return (month_day >= first) & (month_day <= last)
    return (month_day >= first) | (month_day <= last)


def rates_in_force(rates: Sequence[Rate], calendar: LocalCalendar) -> Ints:
    """Return the place of the rate in force at each instant, ``NO_RATE`` where none is.

    Notes
    -----
    docs/methods I2: season, kind of day (a holiday is none of the week's), then local minute; the first match wins.
    """
    found = np.full(calendar.minute.shape, NO_RATE, dtype=np.int64)
    for place, rate in enumerate(rates):
        matches = (found == NO_RATE) & hours_hold(rate.hours, calendar)
        if rate.valid_from is not None:
            matches &= calendar.epoch_day >= (rate.valid_from - _EPOCH_DATE).days
        if rate.valid_to is not None:
            matches &= calendar.epoch_day <= (rate.valid_to - _EPOCH_DATE).days
        found[matches] = place
    return found


def _wall(at_ms: Ints, clock: LocalClock, is_standard_time: bool) -> tuple[Ints, Ints]:
    if not is_standard_time:
        return clock.local_minutes(at_ms)
    years = {clock.local(int(at)).year for at in (at_ms.min(), at_ms.max())} if at_ms.size else set()
    # Standard time is the smaller offset of midwinter and midsummer.
    offset = min(
        (clock.offset_min(clock.instant(date(year, month, 1), 0)) for year in years for month in (1, 7)), default=0
    )
    minutes = at_ms // MS_PER_MIN + offset
    return minutes // MIN_PER_DAY, minutes % MIN_PER_DAY
