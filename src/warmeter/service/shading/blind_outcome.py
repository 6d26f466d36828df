"""What a room's blinds let through and spare, from its own log."""

from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.room_model import draws_of
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Opening, Room
from warmeter.core.shading.blind_days import AS_RECKONED, BlindLog, UseOutcome, use_outcomes
from warmeter.core.shading.blind_learning import LearntBlind, learnt_blind
from warmeter.core.shading.room_windows import WindowGains, room_gains, sky_at
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.units import MS_PER_DAY
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import heat_series, instants, means, room_series, series_of

STEP_S, MOST_DAYS, FEWEST_DAYS = 600, 40, 3
STEP_MS = STEP_S * 1000
HOT_C = 26.0  # where the home's timetable has no cooling limit
WARM_OUTDOORS_C = 16.0  # on a day as warm in the mean, what nobody logs is taken not to heat
_FOUND: "Cache[BlindOutcome | NotKnowable]" = Cache(64)


@dataclass(frozen=True, slots=True, kw_only=True)
class BlindOutcome:
    """What a room's blinds did on the days [first, last] of its log, over a limit [°C].

    ``learnt`` is the share that they let through by the log; None where it tells none, ``not_learnt`` says why.
    """

    first: date
    last: date
    limit_c: float
    uses: list[UseOutcome]
    learnt: LearntBlind | None
    not_learnt: str
    mean_outdoor_c: float


def blind_outcome(app: App, home: Home, room: Room) -> BlindOutcome:
    """Return what a room's blinds spare on its log's own days.

    Raises
    ------
    NotKnowable
        If something was not logged, with what it is.
    """
    stored = app.work.fits(home.id).get(room.id)
    stamp = app.readings.import_stamp(home.id), None if stored is None else stored.at_ms
    key = str(app.engine.url), home, room.id, stamp

    def made() -> BlindOutcome | NotKnowable:
        try:
            return _found(app, home, room)
        except NotKnowable as error:
            return error

    found = _FOUND.get(key, made)
    if isinstance(found, NotKnowable):
        raise found
    return found


def _found(app: App, home: Home, room: Room) -> BlindOutcome:
    log, first_ms, last_ms = _blind_log(app, home, room)
    rooms, _, _, full_heat = draws_of(home, room, app.work.fits(home.id).get(room.id))
    learnt, why = None, ""
    try:
        learnt = learnt_blind(log, rooms, full_heat)
        log = replace(log, lets=np.full(log.lets.size, learnt.lets.value))
    except NotKnowable as error:
        why = str(error)
    limit = _limit_c(home, room)
    sun: Estimate = AS_RECKONED if learnt is None else learnt.sun
    clock = app.clock(home)
    return BlindOutcome(
        first=clock.local(first_ms).date(),
        last=clock.local(last_ms).date(),
        limit_c=limit,
        uses=use_outcomes(log, rooms, full_heat, limit, sun),
        learnt=learnt,
        not_learnt=why,
        mean_outdoor_c=float(log.outdoor_c.mean()),
    )


def _limit_c(home: Home, room: Room) -> float:
    """Return the temperature over which a room is hot: its cooling limit in use, else a usual one [°C]."""
    zone, level = home.zone_of_room(room.id), home.in_use
    limit = None if zone is None or level is None else home.cooling_c(zone, level.id)
    return HOT_C if limit is None else limit


def _blind_log(app: App, home: Home, room: Room) -> tuple[BlindLog, int, int]:
    """Return the newest whole days of a room of which all is known, with their first and last instant [ms UTC]."""
    inside = room_series(app, home, "room_temperature", room.id)
    outside, sun = (series_of(app, home.id, key, "") for key in ("outdoor_temperature", "sun_w_m2"))
    windows = [gains.opening for gains in room_gains(home, room, sky_at(home, np.zeros(1, dtype=np.int64)))]
    if not windows:
        raise NotKnowable("No window of it is drawn in an outside wall.", "Draw its windows under Survey.")
    moved = [o for o in windows if o.blind != "none"]
    by_hand = [o for o in moved if o.blind_motor_id is None]
    missing = [
        name
        for name, is_there in (
            ("its temperature", inside),
            ("temperature outdoors", outside),
            ("sun on the level outdoors", sun),
            ("how far its blinds are down", not by_hand),
        )
        if not is_there
    ]
    if missing:
        raise NotKnowable(f"Not logged: {', '.join(missing)}.", "Import it.")
    grid = _grid(app, home, inside[0].id)
    level = instants(app, home, sun, grid[:-1] + STEP_MS // 2)
    sky = sky_at(home, grid[:-1] + STEP_MS // 2, level)
    gains = room_gains(home, room, sky)
    down = np.stack([_down(app, home, each, grid) for each in gains])
    local_day, _ = app.clock(home).local_minutes(grid[:-1])
    room_c, outdoor_c = instants(app, home, inside, grid), instants(app, home, outside, grid)
    heat = _heat(app, home, room, grid, outdoor_c, local_day)
    known = ~np.isnan(level) & ~np.isnan(heat) & ~np.isnan(down).any(axis=0)
    known &= ~np.isnan(room_c[:-1]) & ~np.isnan(outdoor_c[:-1]) & ~np.isnan(room_c[1:]) & ~np.isnan(outdoor_c[1:])
    begin, end = _newest_days(local_day, known)
    if end - begin < FEWEST_DAYS * MS_PER_DAY // STEP_MS:
        raise NotKnowable(
            "There are no three days in a row on which temperature, sun, heat and blinds are all known.", "Import more."
        )
    days = np.unique(local_day[begin:end], return_inverse=True)[1].astype(np.int64)
    log = BlindLog(
        step_s=float(STEP_S),
        room_c=room_c[begin : end + 1],
        outdoor_c=outdoor_c[begin : end + 1],
        heat_w=heat[begin:end],
        up_w=np.stack([each.up_w[begin:end] for each in gains]),
        down=down[:, begin:end],
        is_sunlit=np.stack([each.is_sunlit[begin:end] * (each.opening.blind != "none") for each in gains]),
        lets=np.array([_lets(each) for each in gains]),
        day=days,
    )
    return log, int(grid[begin]), int(grid[end]) - 1


def _grid(app: App, home: Home, series_id: int) -> Ints:
    """Return the ends of steps of the last days heard [ms UTC]."""
    clock = app.clock(home)
    low, high = app.readings.span(series_id)
    first = clock.day(clock.local(max(low, high - MOST_DAYS * MS_PER_DAY)).date()).start_ms
    return np.arange(first, high + STEP_MS, STEP_MS, dtype=np.int64)


def _down(app: App, home: Home, gains: WindowGains, grid: Ints) -> Floats:
    """Return how far a window's blind is down in the middle of each step, 0 to 1; NaN where not known."""
    motor = gains.opening.blind_motor_id
    if gains.opening.blind == "none" or motor is None:
        return np.zeros(grid.size - 1)
    series = series_of(app, home.id, "blind_position", motor)
    return instants(app, home, series, grid[:-1] + STEP_MS // 2) / 100


def _lets(gains: WindowGains) -> float:
    whole = float(gains.up_w.sum())
    return float(gains.down_w.sum()) / whole if whole > 0 else 1.0


def _heat(app: App, home: Home, room: Room, grid: Ints, outdoor_c: Floats, day: Ints) -> Floats:
    """Return the heat into a room by step [W]; nothing on warm days where nobody logs it; NaN where not known."""
    series, in_watts = heat_series(app, home.id, room.id)
    heat = means(app, series if in_watts else [], int(grid[0]), float(STEP_S), grid.size - 1)
    place = np.unique(day, return_inverse=True)[1]
    mean = np.bincount(place, weights=outdoor_c[:-1]) / np.bincount(place)
    is_warm = (mean >= WARM_OUTDOORS_C)[place] if room.condition == "heated" else np.ones(day.size, dtype=bool)
    cooled = _cooled(app, home, room, grid)
    return np.where(np.isnan(heat) & is_warm & ~cooled, 0.0, np.where(cooled, np.nan, heat))


def _cooled(app: App, home: Home, room: Room, grid: Ints) -> Flags:
    """Return where a room may have been cooled: it has a split unit that does not tell that it did not."""
    if not any(heater.may_cool for heater in home.heaters if heater.room_id == room.id):
        return np.zeros(grid.size - 1, dtype=bool)
    state = instants(app, home, room_series(app, home, "heating_state", room.id), grid[:-1] + STEP_MS // 2)
    return ~(state <= 1)


def _newest_days(day: Ints, known: Flags) -> tuple[int, int]:
    """Return [begin, end) of the newest longest run of local days wholly known; of several as long, the last."""
    numbers, place = np.unique(day, return_inverse=True)
    usual = np.bincount(place) >= np.bincount(place).max() - 6  # a clock's change takes an hour
    whole = (np.bincount(place, weights=known) == np.bincount(place)) & usual
    best, run = (0, 0), 0
    for k in range(numbers.size):
        run = run + 1 if whole[k] else 0
        if run and run >= best[1] - best[0]:
            best = (k - run + 1, k + 1)
    inside = np.flatnonzero((place >= best[0]) & (place < best[1]))
    return (int(inside[0]), int(inside[-1]) + 1) if inside.size else (0, 0)


def position_now(app: App, home: Home, opening: Opening) -> float | None:
    """Return how far a window's blind is down now [%], by its motor's own reading; None where that is not known."""
    if opening.blind_motor_id is None:
        return None
    series = series_of(app, home.id, "blind_position", opening.blind_motor_id)
    value = float(instants(app, home, series, np.array([app.as_of_ms(home.id)], dtype=np.int64))[0])
    return None if np.isnan(value) else value
