"""The home's meter: whether its log is complete, its energy month by month, and what runs all night."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.readings.intervals import Completeness, DayIntervals, completeness
from warmeter.core.readings.record import ENERGY_KINDS, Readings, SeriesRecord
from warmeter.core.readings.resample import mean_over_steps, stretches
from warmeter.core.saving.simple import HOURS_A_YEAR, exact
from warmeter.core.signature.night_floor import FROM_MIN, TO_MIN, NightFloor, night_floor
from warmeter.core.signature.standing_floor import StandingFloor, standing_floor
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, MS_PER_H
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import heard_stretch, instants, means, series_of
from warmeter.service.tariffs.bill_shares import money_of_standing_use
from warmeter.store.readings import StoredSeries

FINEST_S = 60
MOST_DAYS = 20 * 366


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterStretch:
    """The meter over some days: energy counted once [kWh], mean of what is known [W], share covered (ratio)."""

    first: date
    last: date
    kwh: float
    mean_w: float | None
    coverage: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Meter:
    """What the meter's log says.

    Parameters
    ----------
    first_ms, last_ms : int
        Beginning of the first interval and end of the last [ms UTC].
    step_s : float
        Length of an interval [s].
    whole : MeterStretch
        All of it.
    months : tuple of MeterStretch
        By calendar month, the first and last one cut.
    missing_ms : tuple of (int, int)
        Stretches within the log of which nothing is known.
    missing_intervals, overlapping : int
        Intervals missing, and readings that overlap another.
    highest_w, highest_ms : float, int
        Highest mean of an interval [W], and its beginning [ms UTC].
    daily_w : (day,) float array
        Mean power of each 24 h from the first midnight, NaN where less than four fifths is known [W].
    floor : NightFloor
        Of import less export.
    standing : StandingFloor
        What of the floor stands all year.
    plugs_w : float
        What the plugs show at rest [W].
    floor_kwh_year, floor_money_year : Decimal or None
        What stands all year, drawn all year; money is None without a tariff.
    """

    first_ms: int
    last_ms: int
    step_s: float
    whole: MeterStretch
    months: tuple[MeterStretch, ...]
    missing_ms: tuple[tuple[int, int], ...]
    missing_intervals: int
    overlapping: int
    highest_w: float
    highest_ms: int
    daily_w: Floats
    floor: NightFloor
    standing: StandingFloor
    plugs_w: float
    floor_kwh_year: Decimal | None
    floor_money_year: Decimal | None

    @property
    def unexplained_w(self) -> float | None:
        """What stands all year less what the plugs show at rest [W]; None where it is not known."""
        return None if self.standing.floor_w is None else self.standing.floor_w - self.plugs_w


_METERS: Cache[Meter] = Cache(8)


def meter_of(app: App, home: Home, plugs_w: float) -> Meter:
    """Return what the meter's log says; ``plugs_w`` is what the plugs show at rest.

    Raises
    ------
    NotKnowable
        Without the meter's readings.
    """
    imports = app.readings.import_stamp(home.id)
    paid = home.tariffs_of("electricity"), home.currency_changes, home.meters
    key = str(app.engine.url), home.id, home.time_zone, paid, home.devices, home.sources, imports, plugs_w
    return _METERS.get(key, lambda: _read_meter(app, home, plugs_w))


@dataclass(frozen=True, slots=True)
class _Intervals:
    """The finest series of the meter's import as intervals with their mean power."""

    record: SeriesRecord
    readings: Readings
    start_ms: Ints
    end_ms: Ints
    watts: Floats


def _finest(app: App, home: Home) -> list[StoredSeries]:
    taken = series_of(app, home.id, "grid_import_w", "")
    if not taken:
        raise NotKnowable("No reading of the meter has been imported.", "Import its interval data of a week or more.")
    return sorted(taken, key=lambda s: s.record.step_s or s.record.longest_hold_s)


def _intervals(app: App, home: Home) -> _Intervals:
    series = _finest(app, home)[0]
    readings = app.readings.readings(series.id).in_stored_unit(series.record)
    return _Intervals(series.record, readings, *stretches(readings, series.record))


def missing_within(
    record: SeriesRecord, readings: Readings, clock: LocalClock
) -> tuple[Completeness, tuple[tuple[int, int], ...], int]:
    """Return how complete interval readings in the stored unit are, the gaps between the first and the last of them, and
    how many intervals lack.

    Raises
    ------
    NotKnowable
        If the series has no intervals of a step.
    """
    start, end, watts = stretches(readings, record)
    if record.step_s <= 0 or record.kind not in ("mean", *ENERGY_KINDS) or not start.size:
        raise NotKnowable("These readings are no intervals.", "Import interval data: one value for each step.")
    low, high = int(start[0]), int(end.max())
    found = completeness(
        start,
        end - start,
        watts * (end - start) / 1000,
        clock=clock,
        first=clock.local(low).date(),
        last=clock.local(high - 1).date(),
        step_s=record.step_s,
    )
    gaps = tuple((max(a, low), min(b, high)) for a, b in found.missing_ms if min(b, high) > max(a, low))
    return found, gaps, round(sum(b - a for a, b in gaps) / 1000 / record.step_s)


def _read_meter(app: App, home: Home, plugs_w: float) -> Meter:
    clock, intervals = app.clock(home), _intervals(app, home)
    found, gaps, missing = missing_within(intervals.record, intervals.readings, clock)
    first, last = found.days[0].date, found.days[-1].date
    top = int(np.argmax(intervals.watts))
    floor = _floor(app, home, _finest(app, home), clock)
    standing = standing_floor(
        floor, _night_outdoors_c(app, home, floor, clock), electric_heating=home.heats_with_electricity
    )
    kwh = None if standing.floor_w is None else exact(standing.floor_w) * HOURS_A_YEAR / 1000
    return Meter(
        first_ms=int(intervals.start_ms[0]),
        last_ms=int(intervals.end_ms.max()),
        step_s=float(intervals.record.step_s),
        whole=_stretch(intervals, clock, first, last),
        months=_months(intervals, clock, found.days),
        missing_ms=gaps,
        missing_intervals=missing,
        overlapping=found.overlapping,
        highest_w=float(intervals.watts[top]),
        highest_ms=int(intervals.start_ms[top]),
        daily_w=_daily_w(intervals, clock.day(first).start_ms, len(found.days)),
        floor=floor,
        standing=standing,
        plugs_w=plugs_w,
        floor_kwh_year=kwh,
        floor_money_year=None if kwh is None else money_of_standing_use(app, home, last, kwh).year,
    )


def _stretch(intervals: "_Intervals", clock: LocalClock, first: date, last: date) -> MeterStretch:
    found = completeness(
        intervals.start_ms,
        intervals.end_ms - intervals.start_ms,
        intervals.watts * (intervals.end_ms - intervals.start_ms) / 1000,
        clock=clock,
        first=first,
        last=last,
        step_s=86_400.0,
    )
    hours = sum(day.hours for day in found.days)
    kwh = found.total / J_PER_KWH
    known_h = found.coverage * hours
    return MeterStretch(
        first=first, last=last, kwh=kwh, mean_w=1000 * kwh / known_h if known_h > 0 else None, coverage=found.coverage
    )


def _months(intervals: "_Intervals", clock: LocalClock, days: tuple[DayIntervals, ...]) -> tuple[MeterStretch, ...]:
    by_month: dict[tuple[int, int], list[date]] = {}
    for day in days:
        by_month.setdefault((day.date.year, day.date.month), []).append(day.date)
    return tuple(_stretch(intervals, clock, dates[0], dates[-1]) for dates in by_month.values())


def meter_stretch(app: App, home: Home, first: date, last: date) -> MeterStretch:
    """Return the meter's energy over some days, both counted.

    Raises
    ------
    NotKnowable
        Without the meter's readings, or where the last day comes before the first.
    """
    if last < first:
        raise NotKnowable("The last day comes before the first.", "Choose them the other way round.")
    if (last - first).days > MOST_DAYS:
        raise NotKnowable(f"More than {MOST_DAYS // 366} years cannot be summed at once.", "Choose a shorter stretch.")
    return _stretch(_intervals(app, home), app.clock(home), first, last)


def _daily_w(intervals: "_Intervals", start_ms: int, days: int) -> Floats:
    """Return the mean power of days of 24 h from the first, NaN where less than four fifths is known [W]."""
    return mean_over_steps(intervals.readings, intervals.record, start_ms, 86_400.0, days)


def _floor(app: App, home: Home, finest: list[StoredSeries], clock: LocalClock) -> NightFloor:
    """Return the floor of the nights of import less export."""
    given = series_of(app, home.id, "grid_export_w", "")
    step = float(max(FINEST_S, finest[0].record.step_s))
    start, last = heard_stretch(app, finest)
    steps = int((last - start) / 1000 // step) + 1
    power = means(app, finest, start, step, steps)
    if given:
        power = power - np.nan_to_num(means(app, given, start, step, steps))
    at = start + (np.arange(steps) * (step * 1000)).astype(np.int64)
    return night_floor(
        at, power, step_s=step, clock=clock, first=clock.local(start).date(), last=clock.local(last).date()
    )


def _night_outdoors_c(app: App, home: Home, floor: NightFloor, clock: LocalClock) -> list[float | None]:
    """Return the mean temperature outdoors of each night, None where nothing of it was heard [°C]."""
    series = series_of(app, home.id, "outdoor_temperature", "")
    if not series or not floor.nights:
        return [None] * len(floor.nights)
    at = [np.arange(clock.instant(n.date, FROM_MIN), clock.instant(n.date, TO_MIN) + 1, MS_PER_H) for n in floor.nights]
    ends = np.cumsum([each.size for each in at])[:-1]
    values = np.split(instants(app, home, series, np.concatenate(at)), ends)
    return [None if np.isnan(each).all() else float(np.nanmean(each)) for each in values]
