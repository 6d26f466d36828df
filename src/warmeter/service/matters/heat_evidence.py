"""What is known of heated rooms over a year: climate, losses, setback periods and prices."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import timedelta

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.building.fuel import burns_fuel, fuel_price_per_kwh
from warmeter.core.building.heating import full_heat_w, heat_over_draw
from warmeter.core.building.losses import prior_of
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Zone
from warmeter.core.matters.evidence import ClimateYear, HeatedRoom, WeekGap
from warmeter.core.matters.room_heat import fitted_heat, surveyed_heat
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.thermal.room_fit import Estimate, StoredFit
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import Block, blocks_between
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_H, MS_PER_MIN
from warmeter.core.warmup.gaps import gaps_of
from warmeter.core.weather.synthetic import made_up_outdoor_c
from warmeter.service.app import App
from warmeter.service.readings.outdoor_year import daily_means_c
from warmeter.service.readings.room_logs import clear_sky, instants, room_series, series_of
from warmeter.service.tariffs.pricing import known_prices

YEAR_DAYS, WEEK_DAYS = 365, 7
BIN_K = 2.0
NIGHT_FROM_MIN, NIGHT_UNTIL_MIN, MORNING_UNTIL_MIN = 1350, 390, 390
REHEAT_MS = 2 * MS_PER_H
# A room's excess over what is asked is looked for in so many days, in the dark and below so much outdoors.
EXCESS_DAYS, DARK_W_M2, COLD_C, FEWEST_HOURS = 60, 1.0, 12.0, 48
LAG_H = 6  # after the setpoint fell a room may be warmer than asked for so long


def climate_year(app: App, home: Home) -> ClimateYear:
    """Return the year up to now by the mean outdoor temperature of its days, made up where no log was heard."""
    clock = app.clock(home)
    last = clock.local(app.as_of_ms(home.id)).date()
    first = last - timedelta(days=YEAR_DAYS - 1)
    heard = daily_means_c(app, home, first, YEAR_DAYS)
    day = np.array([(first + timedelta(days=k)).timetuple().tm_yday for k in range(YEAR_DAYS)], dtype=np.float64)
    minute = np.linspace(0.0, 1380.0, 24, dtype=np.float64)
    made = made_up_outdoor_c(
        np.repeat(day, minute.size),
        np.tile(minute, day.size),
        annual_mean_c=home.design.annual_mean_c,
        coldest_c=home.design.outdoor_c,
        is_south=home.place.latitude_deg < 0,
    )
    made = made.reshape(YEAR_DAYS, minute.size).mean(axis=1)
    known = ~np.isnan(heard)
    means = np.where(known, heard, made)
    places, counts = np.unique(np.round(means / BIN_K), return_counts=True)
    return ClimateYear(outdoor_c=places * BIN_K, share=counts / YEAR_DAYS, logged_days=int(known.sum()))


class WeekPrices:
    """Prices of electricity by the minute of the week from today on; ``None`` where a minute has none."""

    def __init__(self, app: App, home: Home) -> None:
        clock = app.clock(home)
        today = clock.local(app.as_of_ms(home.id)).date()
        self.start_ms = clock.instant(today, 0)
        self.end_ms = clock.instant(today + timedelta(days=WEEK_DAYS), 0)
        at = minutes_between(self.start_ms, self.end_ms)
        found = known_prices(app, home, at)
        self.by_minute: Floats | None = None if found is None else found.by_step
        self.minute = clock.local_minutes(at)[1]

    def between(self, from_ms: int, until_ms: int) -> float:
        """Return the mean price of a stretch, which is taken into the week [currency/kWh]."""
        assert self.by_minute is not None  # asked only where there is one
        size = self.by_minute.size
        first = (from_ms - self.start_ms) // MS_PER_MIN
        places = np.arange(first, first + max(1, (until_ms - from_ms) // MS_PER_MIN)) % size
        return float(self.by_minute[places].mean())

    def where(self, chosen: Flags) -> float:
        """Return the mean price of some minutes of the week [currency/kWh]."""
        assert self.by_minute is not None  # asked only where there is one
        return float(self.by_minute[chosen].mean())


def heated_rooms(app: App, home: Home, climate: ClimateYear) -> tuple[HeatedRoom, ...]:
    """Return the heated rooms whose heat has a price."""
    week = WeekPrices(app, home)
    year = _Year(app, home, climate, week, app.work.fits(home.id))
    found = []
    for zone in home.zones:
        blocks = blocks_between(home, zone, app.clock(home), week.start_ms - 2 * MS_PER_DAY, week.end_ms)
        for room_id in zone.room_ids:
            room, heater = home.room(room_id), home.heater_of(room_id)
            if room.condition == "heated" and heater is not None and full_heat_w(home, room.id) > 0:
                one = _heated_room(year, zone, room, heater, blocks)
                if one is not None:
                    found.append(one)
    return tuple(found)


@dataclass(frozen=True, slots=True)
class _Year:
    """What all rooms of a home share."""

    app: App
    home: Home
    climate: ClimateYear
    week: WeekPrices
    fits: Mapping[str, StoredFit]


def _heated_room(year: _Year, zone: Zone, room: Room, heater: Heater, blocks: list[Block]) -> HeatedRoom | None:
    app, home, week, stored = year.app, year.home, year.week, year.fits.get(room.id)
    source = home.source(heater.source_id)
    fuel = fuel_price_per_kwh(source) if burns_fuel(heater, source) else None
    if fuel is None and (burns_fuel(heater, source) or week.by_minute is None):
        return None
    prior = prior_of(home, room)
    fit = stored.fit if stored is not None and stored.fit.is_fit_for_use and stored.fit.watts_known else None
    loss, store = surveyed_heat(prior) if fit is None else fitted_heat(fit)
    inside = [b for b in blocks if b.until_ms > week.start_ms]
    spans = np.array([b.until_ms - max(b.from_ms, week.start_ms) for b in inside], dtype=np.float64)
    mean_c = float(np.average([b.setpoint_c for b in inside], weights=spans))

    def priced(from_ms: int, until_ms: int) -> float:
        return week.between(from_ms, until_ms) if fuel is None else fuel

    night = (week.minute >= NIGHT_FROM_MIN) | (week.minute < NIGHT_UNTIL_MIN)
    morning = (week.minute >= MORNING_UNTIL_MIN - 120) & (week.minute < MORNING_UNTIL_MIN)
    more = fit.narrowing[0] if fit is not None and fit.narrowing else (None, None)
    return HeatedRoom(
        room_id=room.id,
        name=room.name,
        zone_id=zone.id,
        loss_w_k=loss,
        store_j_k=store,
        gain_w=prior.gain_w if fit is None else fit.gain_w.value,
        full_heat_w=full_heat_w(home, room.id),
        is_fitted=fit is not None,
        mean_c=mean_c,
        lowest_guard_c=home.guard_of(zone).low_c,
        gaps=_gaps(blocks, week, priced),
        heat_over_draw=heat_over_draw(heater, source, year.climate.outdoor_c),
        price=priced(week.start_ms, week.end_ms),
        currency=home.currency,
        night_price=fuel if fuel is not None else week.where(night),
        morning_price=fuel if fuel is not None else week.where(morning),
        more_days=more[0],
        half_width_then=more[1],
        excess_k=_excess_k(app, home, zone, room) if len(zone.room_ids) > 1 else None,
    )


def _gaps(blocks: list[Block], week: WeekPrices, priced: Callable[[int, int], float]) -> tuple[WeekGap, ...]:
    """Return the setback periods that end in the week, alike ones together."""
    found = gaps_of(blocks, week.start_ms, week.end_ms)
    alike = Counter((g.minutes, g.held_c, g.low_c, g.level_name) for g in found)
    first = {(g.minutes, g.held_c, g.low_c, g.level_name): g for g in reversed(found)}
    return tuple(
        WeekGap(
            times_a_week=count,
            minutes=min(gap.minutes, 4 * MIN_PER_DAY),
            held_c=gap.held_c,
            low_c=gap.low_c,
            price_held=priced(gap.from_ms, gap.until_ms),
            price_reheat=priced(max(gap.from_ms, gap.until_ms - REHEAT_MS), gap.until_ms),
        )
        for key, count in alike.items()
        for gap in (first[key],)
    )


def _excess_k(app: App, home: Home, zone: Zone, room: Room) -> Estimate | None:
    """Return how far a room's log lies over what its zone asks, in dark and cold hours [K]; None where too few were heard.

    Hours within a few of a fall of the setpoint are left out: a room cools slowly. Days are the sample of its range.
    """
    outdoor, inside = (
        series_of(app, home.id, "outdoor_temperature", ""),
        room_series(app, home, "room_temperature", room.id),
    )
    if not outdoor or not inside:
        return None
    clock = app.clock(home)
    end = app.as_of_ms(home.id) // MS_PER_H * MS_PER_H
    start = end - EXCESS_DAYS * MS_PER_DAY
    at = np.arange(start, end, MS_PER_H, dtype=np.int64)
    warm, cold = instants(app, home, inside, at), instants(app, home, outdoor, at)
    asked, fell = asked_of(home, zone, clock, at)
    dark = clear_sky(home, start, 3600.0, at.size) < DARK_W_M2
    counted = dark & (cold < COLD_C) & ~np.isnan(warm) & ~fell
    if counted.sum() < FEWEST_HOURS:
        return None
    over = (warm - asked)[counted]
    days = np.unique((at[counted] - start) // MS_PER_DAY).size
    half = 1.96 * float(over.std(ddof=1)) / days**0.5
    mean = float(over.mean())
    return Estimate(value=mean, low=mean - half, high=mean + half)


def asked_of(home: Home, zone: Zone, clock: LocalClock, at_ms: Ints) -> tuple[Floats, Flags]:
    """Return what a zone asks at instants [°C], and whether that fell within the hours before."""
    blocks = blocks_between(home, zone, clock, int(at_ms[0]) - LAG_H * MS_PER_H, int(at_ms[-1]) + 1)
    begins = np.array([b.from_ms for b in blocks], dtype=np.int64)
    setpoints = np.array([b.setpoint_c for b in blocks])
    now = np.searchsorted(begins, at_ms, side="right") - 1
    before = np.searchsorted(begins, at_ms - LAG_H * MS_PER_H, side="right") - 1
    highest = np.array([setpoints[max(a, 0) : b + 1].max() for a, b in zip(before, now, strict=True)])
    return setpoints[now], highest > setpoints[now] + 1e-9
