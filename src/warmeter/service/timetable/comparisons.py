"""Two to four timetables over a stretch of weather: energy, cost, shortfall, plant starts, latest readiness."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np
from pydantic import TypeAdapter, ValidationError

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.heating import heat_over_draw
from warmeter.core.building.rooms_together import RoomTogether, beside_w_k, temperatures_beside
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.forecast.costing import drawn_of
from warmeter.core.forecast.room_model import draws_of
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.home.timetables import Period
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, kelvin, sentence
from warmeter.core.tariff.prices import Prices
from warmeter.core.thermal.network import ExactStep
from warmeter.core.thermal.room_fit import StoredFit
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.series import asked_series_c
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_H, MS_PER_MIN, W_MIN_PER_KWH
from warmeter.core.warmup.dangers import MARGIN_K
from warmeter.core.warmup.season import STEP_MIN, SeasonBoundary, SeasonLow, season_low, season_run, starts_of
from warmeter.core.weather.synthetic import made_up_outdoor_c
from warmeter.service.app import App
from warmeter.service.forecast.damp import damp_limits, guarded_home
from warmeter.service.readings.room_logs import clear_sky, instants, series_of
from warmeter.service.tariffs.pricing import known_prices
from warmeter.store.work import Job

MOST_DAYS, MOST_VARIANTS, SETTLE_DAYS = 400, 4, 3
# Clouds leave so much of a clear sky over a season.
CLOUD = 0.4
LONGEST_GAP_MS = 3 * MS_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class ComparisonRequest:
    """What a comparison is asked: keys of its variants and the stretch of dates [first, last]."""

    variants: tuple[str, ...]
    first: date
    last: date


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomWarning:
    """A room in danger or with a heater too small, once a stretch.

    A danger has ``limit_c``, what it falls to in ``reached_c`` and when; a heater too small what is wanted in
    ``limit_c``, what full heat for ever would hold in ``reached_c``, and outdoors on that day.
    """

    room: str
    is_danger: bool
    limit_c: float
    reached_c: float
    at_ms: int
    outdoor_c: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableOutcome:
    """One timetable over the stretch; daily arrays begin with the first date.

    Parameters
    ----------
    drawn_kwh, heat_kwh : float
        Over the stretch; drawn is electricity and what is burnt together.
    cost : float or None
        Money, None without a tariff.
    short_kh : float
        K h short of what is asked, all rooms.
    starts : int
        Plant starts, all sources.
    latest_min, latest_room, latest_at_ms : float or None, str, int
        How late a room was ready at worst [min]: None is beyond a day.
    day_cost, day_kwh, day_short_kh : tuple of float
        By local day.
    warnings : tuple of RoomWarning
        Rooms that fall under their guard limit, and heaters too small for what is asked.
    """

    key: str
    name: str
    heat_kwh: float
    drawn_kwh: float
    cost: float | None
    underheating_kh: float
    starts: int
    latest_min: float | None
    latest_room: str
    latest_at_ms: int
    day_cost: tuple[float, ...]
    day_kwh: tuple[float, ...]
    day_underheating_kh: tuple[float, ...]
    warnings: tuple[RoomWarning, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableComparison:
    """A comparison: its variants, the stretch, where its weather comes from, outdoor daily means."""

    asked: ComparisonRequest
    revision: int
    found: tuple[TimetableOutcome, ...]
    weather: str
    day_outdoor_c: tuple[float, ...]
    left_out: tuple[str, ...]


_ASKED, _COMPARED = TypeAdapter(ComparisonRequest), TypeAdapter(TimetableComparison)


def variants_of(app: App, home: Home) -> list[tuple[str, str]]:
    """Return what can be compared as (key, name): as now, always the same, named timetables, named revisions."""
    names = list(dict.fromkeys(t.name for z in home.zones for t in z.timetables))
    revisions = app.homes.revisions(home.id)
    named = [(f"rev:{r.number}", f"“{r.name}”, revision {r.number}") for r in revisions if r.name]
    recent = [(f"rev:{r.number}", f"revision {r.number}, {r.summary[:40]}") for r in revisions[1:6] if not r.name]
    return [
        ("now", "As it is now"),
        ("hold", "Always the same, no setbacks"),
        *((f"name:{name}", f"{name} all through") for name in names),
        *named,
        *recent,
    ]


def ask_comparison(app: App, home: Home, revision: int, asked: ComparisonRequest) -> int:
    """Queue a comparison and return its job's number.

    Raises
    ------
    HomeError
        If there are not two to four variants, or the stretch is empty or over 400 days.
    """
    if not 2 <= len(set(asked.variants)) <= MOST_VARIANTS:
        raise HomeError("choose two to four timetables to compare")
    if not 1 <= (asked.last - asked.first).days + 1 <= MOST_DAYS:
        raise HomeError(f"choose a stretch of one day to {MOST_DAYS} days, its first date before its last")
    known = {key for key, _ in variants_of(app, home)}
    if set(asked.variants) - known:
        raise HomeError("one of the timetables chosen is not there any more; choose anew")
    request = _ASKED.dump_json(asked).decode()
    job_id = app.work.enqueue(home.id, "compare", "", revision, app.now_ms(), request)
    app.jobs.submit(job_id)
    return job_id


def latest_comparison(app: App, home_id: str) -> tuple[Job, TimetableComparison] | None:
    """Return a home's newest comparison that ended well, None if there is none."""
    job = app.work.latest_of_kind(home_id, "compare", only_done=True)
    document = None if job is None else app.work.result(job.id)
    if job is None or document is None:
        return None
    try:
        return job, _COMPARED.validate_json(document)
    except ValidationError:
        # Kept by an older Warmeter that found less: it is to be compared anew.
        return None


def run_comparison(app: App, job: Job, progress: Callable[[float, str], None]) -> None:
    """Run a queued comparison and keep what it found."""
    home, _ = app.homes.load(job.home_id, job.revision)
    asked = _ASKED.validate_json(app.work.request(job.id))
    found = compare(app, home, job.revision, asked, progress)
    app.work.keep_result(job.id, _COMPARED.dump_json(found))


def variant_home(app: App, home: Home, key: str) -> Home:
    """Return the home whose timetables a variant asks; ``HomeNotFound`` if its revision is gone."""
    if key.startswith("rev:"):
        return app.homes.load(home.id, int(key.removeprefix("rev:")))[0]
    if key.startswith("name:"):
        name = key.removeprefix("name:")
        return replace(home, zones=tuple(_always(zone, name) for zone in home.zones))
    return home


def _always(zone: Zone, name: str) -> Zone:
    chosen = next((t for t in zone.timetables if t.name == name), None)
    return zone if chosen is None else replace(zone, calendar=(Period(timetable_id=chosen.id),))


@dataclass(frozen=True, slots=True, kw_only=True)
class _Season:
    """What all variants share: steps, weather, prices."""

    clock: LocalClock
    first: date
    days: int
    at_ms: Ints
    day: Ints
    outdoor_c: Floats
    clear_w_m2: Floats
    prices: Prices | None


def compare(
    app: App, home: Home, revision: int, asked: ComparisonRequest, progress: Callable[[float, str], None]
) -> TimetableComparison:
    """Return a comparison; three days before the stretch let the rooms settle and are not counted.

    Raises
    ------
    NotKnowable
        If no room has a heater in a zone, or none is known in watts.
    """
    season, weather = _season(app, home, asked)
    limits = damp_limits(app, home)
    names = dict(variants_of(app, home))
    fits = app.work.fits(home.id)
    rooms = [
        (room, heater) for room in home.rooms if (heater := home.heater_of(room.id)) and home.zone_of_room(room.id)
    ]
    in_watts = [(r, h) for r, h in rooms if r.id not in fits or fits[r.id].fit.watts_known]
    if not in_watts:
        raise NotKnowable("No room with a heater is known in watts.", "Describe its heater, or fit a log with watts.")
    models = {room.id: _model(home, room, heater, fits.get(room.id)) for room, heater in in_watts}
    found = []
    total = len(asked.variants) * len(in_watts)
    for place, key in enumerate(asked.variants):
        changed = guarded_home(variant_home(app, home, key), limits)

        def told(k: int, room: Room, place: int = place, key: str = key) -> None:
            share = (place * len(in_watts) + k) / total
            progress(0.02 + 0.96 * share, f"{names.get(key, key)}: {room.name}")

        found.append(_one(changed, season, key, names.get(key, key), in_watts, models, told))
    kept = season.day >= 0
    means = np.bincount(season.day[kept], weights=season.outdoor_c[:-1][kept], minlength=season.days)
    counts = np.bincount(season.day[kept], minlength=season.days)
    return TimetableComparison(
        asked=asked,
        revision=revision,
        found=tuple(found),
        weather=weather,
        day_outdoor_c=tuple((means / counts).tolist()),
        left_out=tuple(room.name for room, _ in rooms if (room, home.heater_of(room.id)) not in in_watts),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Model:
    """A room at five-minute steps, its best estimate."""

    step: ExactStep
    control: OnOff
    gain_w: float
    sun_m2: float
    rc: RoomRc
    is_learnt: bool


def _model(home: Home, room: Room, heater: Heater, stored: StoredFit | None) -> _Model:
    rooms, gains, suns, full_heat = draws_of(home, room, stored)
    control = OnOff(
        full_heat_w=full_heat,
        band_k=heater.band_k,
        min_on_steps=-(-heater.min_on_min // STEP_MIN),
        min_off_steps=-(-heater.min_off_min // STEP_MIN),
    )
    step = compile_rooms(rooms[:1], full_heat, STEP_MIN * 60.0, beside_w_k(home, room))
    is_learnt = stored is not None and stored.fit.is_fit_for_use
    return _Model(
        step=step, control=control, gain_w=float(gains[0]), sun_m2=float(suns[0]), rc=rooms[0], is_learnt=is_learnt
    )


def _season(app: App, home: Home, asked: ComparisonRequest) -> tuple[_Season, str]:
    """Return the stretch with the days before it, and in words where its weather comes from."""
    clock = app.clock(home)
    days = (asked.last - asked.first).days + 1
    begin = asked.first - timedelta(days=SETTLE_DAYS)
    start, end = clock.instant(begin, 0), clock.instant(asked.last + timedelta(days=1), 0)
    at = np.arange(start, end, STEP_MIN * MS_PER_MIN, dtype=np.int64)
    epoch_days, minute = clock.local_minutes(at)
    first_day = (asked.first - date(1970, 1, 1)).days
    outdoor, weather = _outdoor(app, home, np.append(at, end), epoch_days, minute)
    sky = clear_sky(home, start, STEP_MIN * 60.0, at.size) * CLOUD
    return (
        _Season(
            clock=clock,
            first=begin,
            days=days,
            at_ms=at,
            day=epoch_days - first_day,
            outdoor_c=outdoor,
            clear_w_m2=sky,
            prices=known_prices(app, home, at),
        ),
        weather,
    )


def _outdoor(app: App, home: Home, at: Ints, epoch_days: Ints, minute: Ints) -> tuple[Floats, str]:
    """Return outdoor temperatures as heard, filled by a made-up season where nothing was for over three hours."""
    heard = instants(app, home, series_of(app, home.id, "outdoor_temperature", ""), at)
    known = ~np.isnan(heard)
    january = np.array([(date.fromordinal(int(d) + 719163).timetuple().tm_yday) for d in np.unique(epoch_days)])
    of_year = january[np.searchsorted(np.unique(epoch_days), epoch_days)] + minute / MIN_PER_DAY
    made = made_up_outdoor_c(
        np.append(of_year, of_year[-1]),
        np.append(minute.astype(np.float64), float(minute[-1]) + STEP_MIN),
        annual_mean_c=home.design.annual_mean_c,
        coldest_c=home.design.outdoor_c,
        is_south=home.place.latitude_deg < 0,
    )
    if not known.any():
        return made, _told(home, "all of it")
    index = np.arange(at.size)
    filled = np.interp(index, index[known], heard[known])
    before = np.maximum.accumulate(np.where(known, index, -1))
    after = np.minimum.accumulate(np.where(known, index, at.size * 2)[::-1])[::-1]
    reach = LONGEST_GAP_MS // (STEP_MIN * MS_PER_MIN)
    near = known | ((before >= 0) & (after < at.size) & (after - before <= reach))
    invented = round(float((~near).sum()) * STEP_MIN * MS_PER_MIN / MS_PER_DAY, 1)
    words = (
        "the log of outdoors" if invented < 0.05 else f"the log of outdoors, and {_told(home, f'{invented:g} days')}"
    )
    return np.where(near, filled, made), words


def _told(home: Home, much: str) -> str:
    return sentence(
        "{} made up: a yearly wave around {} with half the way to the design day of {}, spells of 4 to 16 days, {} between day and night",
        much,
        celsius(home.design.annual_mean_c),
        celsius(home.design.outdoor_c),
        kelvin(3),
    )


def _one(
    home: Home,
    season: _Season,
    key: str,
    name: str,
    rooms: list[tuple[Room, Heater]],
    models: dict[str, _Model],
    told: Callable[[int, Room], None],
) -> TimetableOutcome:
    """Return one variant over the season."""
    steps = season.at_ms.size
    asked_of: dict[str, Floats] = {}
    by_source: dict[str, Floats] = {}
    electric, heat, short = np.zeros(steps), np.zeros(steps), np.zeros(steps)
    # None as soon as one heater draws what has no price.
    cost: Floats | None = np.zeros(steps)
    worst: tuple[float, str, int] = (0.0, "", 0)
    warnings: list[RoomWarning] = []
    counted = season.day >= 0
    for room, _ in rooms:
        zone = home.zone_of_room(room.id)
        if zone is not None and zone.id not in asked_of:
            series = asked_series_c(home, zone, season.clock, season.first, season.days + SETTLE_DAYS, STEP_MIN)
            asked_of[zone.id] = np.full(steps, series.max()) if key == "hold" else series
    beside = _beside(home, season, [room for room, _ in rooms], models, asked_of)
    for k, (room, heater) in enumerate(rooms):
        told(k, room)
        zone = home.zone_of_room(room.id)
        if zone is None:
            continue
        asked, model = asked_of[zone.id], models[room.id]
        start = _start_c(asked, season)
        boundary = SeasonBoundary(
            outdoor_c=season.outdoor_c,
            gain_w=model.gain_w + model.sun_m2 * season.clear_w_m2,
            asked_c=asked,
            start_c=start,
            beside_c=beside.get(room.id),
        )
        run = season_run(model.step, boundary, model.control)
        low = season_low(model.step, boundary, model.control, run, season.day)
        warnings += _warnings(room, low, home.guard_of(zone).low_c, model.control.band_k, season)
        cop = heat_over_draw(heater, home.source(heater.source_id), season.outdoor_c[:-1])
        heat += run.heat_w
        drawn = run.heat_w / cop
        electric += drawn
        price = drawn_of(heater, home.source(heater.source_id), season.prices, drawn.size).by_step
        cost = None if cost is None or price is None else cost + drawn * STEP_MIN / W_MIN_PER_KWH * price
        by_source[heater.source_id] = by_source.get(heater.source_id, 0.0) + run.heat_w
        short += np.maximum(0.0, asked - model.control.band_k / 2 - run.air_c)
        worst = max(worst, _worst(run.late_min, _rises(asked), season, room), key=lambda w: w[0])
    kwh = electric * STEP_MIN / W_MIN_PER_KWH
    day = season.day[counted]

    def daily(values: Floats) -> tuple[float, ...]:
        return tuple(np.bincount(day, weights=values[counted], minlength=season.days).tolist())

    return TimetableOutcome(
        key=key,
        name=name,
        heat_kwh=float(heat[counted].sum() * STEP_MIN / W_MIN_PER_KWH),
        drawn_kwh=float(kwh[counted].sum()),
        cost=None if cost is None else float(cost[counted].sum()),
        underheating_kh=float(short[counted].sum() * STEP_MIN / 60),
        starts=sum(starts_of(watts[counted]) for watts in by_source.values()),
        latest_min=None if worst[0] == np.inf else worst[0],
        latest_room=worst[1],
        latest_at_ms=worst[2],
        day_cost=() if cost is None else daily(cost),
        day_kwh=daily(kwh),
        day_underheating_kh=daily(short * STEP_MIN / 60),
        warnings=tuple(warnings),
    )


def _start_c(asked_c: Floats, season: _Season) -> Floats:
    """Return a room's states as a stretch begins: long held at what is asked first, its fabric a tenth towards outdoors."""
    return np.array([asked_c[0], asked_c[0] - 0.1 * (asked_c[0] - season.outdoor_c[0]), asked_c[0]])


def _beside(
    home: Home, season: _Season, rooms: list[Room], models: dict[str, _Model], asked_of: dict[str, Floats]
) -> dict[str, Floats]:
    """Return the temperature beside each room through the season, all rooms run together under this timetable."""
    found = {}
    for room in rooms:
        zone, model = home.zone_of_room(room.id), models[room.id]
        if zone is not None:
            asked = asked_of[zone.id]
            start = _start_c(asked, season)
            found[room.id] = RoomTogether(
                rc=model.rc,
                gain_w=model.gain_w + model.sun_m2 * season.clear_w_m2,
                asked_c=asked,
                start_c=(float(start[0]), float(start[1])),
                is_learnt=model.is_learnt,
            )
    return temperatures_beside(home, found, season.outdoor_c[:-1], STEP_MIN)


def _warnings(room: Room, low: SeasonLow, limit_c: float, band_k: float, season: _Season) -> list[RoomWarning]:
    """Return what a room's season warns of."""
    found = []
    if low.lowest_c < limit_c - band_k / 2 - MARGIN_K:
        at = low.step
        found.append(
            RoomWarning(
                room=room.name,
                is_danger=True,
                limit_c=limit_c,
                reached_c=low.lowest_c,
                at_ms=int(season.at_ms[at]),
                outdoor_c=float(season.outdoor_c[at]),
            )
        )
    if low.small_day is not None:
        found.append(
            RoomWarning(
                room=room.name,
                is_danger=False,
                limit_c=low.wanted_c,
                reached_c=low.reach_c,
                at_ms=int(season.at_ms[int(np.argmax(season.day == low.small_day))]),
                outdoor_c=low.small_outdoor_c,
            )
        )
    return found


def _rises(asked: Floats) -> Ints:
    return np.flatnonzero(np.diff(asked) > 1e-9) + 1


def _worst(late_min: Floats, rises: Ints, season: _Season, room: Room) -> tuple[float, str, int]:
    """Return a room's latest readiness within the stretch: minutes (infinite beyond a day), its name, and when."""
    inside = season.day[rises] >= 0
    if not inside.any():
        return 0.0, "", 0
    late = np.where(np.isnan(late_min[inside]), np.inf, late_min[inside])
    k = int(late.argmax())
    return float(late[k]), room.name, int(season.at_ms[rises[inside][k]])
