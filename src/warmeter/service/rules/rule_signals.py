"""What a home's rules look at over a stretch: reports of its signals, events, marked facts, levels."""

from collections.abc import Iterable, Sequence
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.of_signal import is_two_states
from warmeter.core.home.document import Home
from warmeter.core.home.occasions import occasion_days
from warmeter.core.readings.resample import stretches
from warmeter.core.rule.signals import DERIVED
from warmeter.core.sensing.humidity import absolute_g_m3, dew_points_c
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.timetable.day import blocks_between
from warmeter.core.truth.late_reports import as_known
from warmeter.core.truth.scope import NOTHING, EventKey, LevelLine, Marks, Scope
from warmeter.core.truth.track import Track, value_of
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, S_PER_DAY
from warmeter.service.app import App
from warmeter.service.presence.household import as_track, is_anybody_heard, presence_log, room_in_use
from warmeter.service.presence.told_presence import presence_track
from warmeter.service.readings.room_logs import corrected, room_series, series_of
from warmeter.service.tariffs.pricing import known_prices
from warmeter.store.readings import StoredSeries

NONE_LATE = np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
BEFORE_MS = MS_PER_DAY  # reports from before the start still speak at it
FACT_EVENT = "fact marked"
ANSWER_EVENT = "question answered"
# An estimate says by itself when it is not known: its changes stand until then.
ESTIMATE_HOLD_S = 366 * S_PER_DAY


def scope_of(app: App, home: Home, conditions: Sequence[Condition], start_ms: int, end_ms: int) -> Scope:
    """Return what conditions look at over [start, end), every signal that they name, read once."""
    signals = {signal for c in conditions for signal in c.signals}
    signals |= {
        Signal(quantity="electric_w", subject_id=m.id)
        for m in home.appliances
        if any(m.id in c.machines for c in conditions)
    }
    clock = app.clock(home)
    return Scope(
        start_ms=start_ms,
        end_ms=end_ms,
        clock=clock,
        latitude_deg=home.place.latitude_deg,
        longitude_deg=home.place.longitude_deg,
        tracks={signal: track_of(app, home, signal, start_ms, end_ms) for signal in signals},
        events=_events(app, home, start_ms, end_ms),
        marks=_marks(app, home),
        answers=answers_of(app, home),
        levels={zone.id: _levels(home, zone.id, app, start_ms, end_ms) for zone in home.zones},
        settings={(m.id, s.tells): s for m in home.appliances for s in m.settings},
        holds_s=holds_of(app, home, signals),
        occasions=_occasions(home, clock.local(start_ms).date(), clock.local(end_ms).date()),
    )


def _occasions(home: Home, first: date, last: date) -> dict[str, frozenset[date]]:
    """Return the days of each occasion around a stretch of dates."""
    day = timedelta(days=1)
    return {
        each.id: frozenset(occasion_days(home.occasions, each, first - day, last + 2 * day)) for each in home.occasions
    }


def track_of(app: App, home: Home, signal: Signal, start_ms: int, end_ms: int) -> Track:
    """Return a signal's reports around [start, end), when each became known; none where nothing was read in."""
    if signal.quantity in DERIVED:
        return _damp(app, home, signal, start_ms, end_ms)
    if signal.quantity == "price":
        return _price(app, home, start_ms, end_ms)
    series = _series(app, home, signal)
    for each in series:
        track = _reports(app, home, each, start_ms - BEFORE_MS, end_ms)
        if track.at_ms.size:
            # What was imported and what came in live of the same sensor may differ in unit or kind.
            others = [s for s in series if s is not each and s.record.subject == each.record.subject]
            return _joined(track, [_reports(app, home, s, start_ms - BEFORE_MS, end_ms) for s in others])
    return _estimated(app, home, signal, start_ms, end_ms)


def _joined(track: Track, others: Sequence[Track]) -> Track:
    """Return reports of one sensor from several series in order; of two at one instant those of the first count."""
    for other in others:
        fresh = ~np.isin(other.at_ms, track.at_ms)
        at_ms = np.concatenate([track.at_ms, other.at_ms[fresh]])
        order = np.argsort(at_ms, kind="stable")
        track = Track(at_ms[order], np.concatenate([track.value, other.value[fresh]])[order])
    return track


def _series(app: App, home: Home, signal: Signal) -> list[StoredSeries]:
    """Return the series that tell a signal, the best first."""
    subject = signal.subject_id or ""
    if any(room.id == subject for room in home.rooms):
        return room_series(app, home, signal.quantity, subject)
    return series_of(app, home.id, signal.quantity, subject)


def _witnesses(app: App, home: Home, signal: Signal) -> list[StoredSeries]:
    """Return the motion in a room that bears witness to somebody being in, where nothing else tells it."""
    is_room = signal.quantity == "is_in" and any(room.id == signal.subject_id for room in home.rooms)
    return room_series(app, home, "is_moving", signal.subject_id or "") if is_room else []


def _estimated(app: App, home: Home, signal: Signal, start_ms: int, end_ms: int) -> Track:
    """Return presence that no log tells by itself: a room in use by its motion, a person or the home by witnesses."""
    if signal.quantity == "is_in" and _witnesses(app, home, signal):
        log = presence_log(app, home, start_ms - BEFORE_MS, end_ms)
        used = room_in_use(home, log, signal.subject_id or "")
        return NOTHING if used is None else as_track(used)
    if signal.quantity == "is_home" and home.people:
        return presence_track(app, home, signal.subject_id or "", start_ms, end_ms)
    return NOTHING


def asked_presence(app: App, home: Home, signals: Iterable[Signal]) -> frozenset[str]:
    """Return whose presence signals ask for that no log tells by itself: ids of persons, "" for the home."""
    asked = [s for s in signals if s.quantity == "is_home" and home.people and not _series(app, home, s)]
    return frozenset(signal.subject_id or "" for signal in asked)


def holds_of(app: App, home: Home, signals: Iterable[Signal]) -> dict[Signal, int]:
    """Return how long a report speaks of those signals whose logs tell changes only [s]."""
    return {signal: hold for signal in signals if (hold := _hold_s(app, home, signal))}


def _hold_s(app: App, home: Home, signal: Signal) -> int:
    """Return how long a report of a yes or no speaks, where its log tells changes only [s]; 0 where it tells more."""
    if not is_two_states(signal):
        return 0
    series = _series(app, home, signal) or _witnesses(app, home, signal)
    if not series and signal.quantity == "is_home" and home.people:
        return ESTIMATE_HOLD_S
    return max((s.record.longest_hold_s for s in series if s.record.kind == "held"), default=0)


def unheard_of(app: App, home: Home, signals: Iterable[Signal]) -> frozenset[Signal]:
    """Return the signals of which the log of a home has no reading at all."""

    def is_heard(signal: Signal) -> bool:
        if signal.quantity == "price":
            return True
        if signal.quantity in DERIVED:
            keys = (
                ("room_temperature", "relative_humidity")
                if signal.subject_id
                else ("outdoor_temperature", "outdoor_humidity")
            )
            return all(is_heard(Signal(quantity=key, subject_id=signal.subject_id)) for key in keys)
        if signal.quantity == "is_home" and home.people and is_anybody_heard(app, home):
            return True
        return bool(_series(app, home, signal) or _witnesses(app, home, signal))

    return frozenset(signal for signal in signals if not is_heard(signal))


def _reports(app: App, home: Home, series: StoredSeries, start_ms: int, end_ms: int) -> Track:
    """Return when each reading became known, and its value: a mean at the end of its step."""
    record = series.record
    raw = app.readings.readings(series.id, start_ms, end_ms).in_stored_unit(record)
    if record.kind in ("instant", "held"):
        late_ms, heard_ms = NONE_LATE
        if series.id in app.live_readings.late_series(home.id):
            late_ms, heard_ms = app.live_readings.late(series.id, start_ms, end_ms)
        return as_known(raw.at_ms, corrected(home, series, raw.at_ms, raw.value), late_ms, heard_ms)
    _, end, value = stretches(raw, record)
    return Track(np.asarray(end, dtype=np.int64), corrected(home, series, end, value))


def _damp(app: App, home: Home, signal: Signal, start_ms: int, end_ms: int) -> Track:
    """Return absolute humidity [g/m3] or dew point [°C] at each report of temperature or humidity."""
    subject = signal.subject_id
    keys = ("room_temperature", "relative_humidity") if subject else ("outdoor_temperature", "outdoor_humidity")
    warm, damp = (track_of(app, home, Signal(quantity=key, subject_id=subject), start_ms, end_ms) for key in keys)
    at = np.union1d(warm.at_ms, damp.at_ms)
    values = value_of(warm, at), value_of(damp, at) / 100
    known = ~np.isnan(values[0]) & ~np.isnan(values[1])
    made = absolute_g_m3 if signal.quantity == "absolute_humidity" else dew_points_c
    return Track(at[known], made(values[0][known], values[1][known]))


def _price(app: App, home: Home, start_ms: int, end_ms: int) -> Track:
    """Return the tariff's price a kWh at each change and each hour, so that it does not grow stale."""
    first = start_ms // MS_PER_MIN * MS_PER_MIN
    prices = known_prices(app, home, minutes_between(first, end_ms))
    if prices is None:
        return NOTHING
    price = prices.by_step
    told = np.append(True, price[1:] != price[:-1]) | (np.arange(price.size) % 30 == 0)
    place = np.flatnonzero(told)
    return Track(first + place.astype(np.int64) * MS_PER_MIN, price[place])


def _events(app: App, home: Home, start_ms: int, end_ms: int) -> dict[EventKey, Ints]:
    """Return when buttons were pressed: each reading of 1."""
    found: dict[EventKey, Ints] = {}
    for device in home.devices:
        for series in series_of(app, home.id, "is_pressed", device.id):
            readings = app.readings.readings(series.id, start_ms, end_ms)
            found["button", "", device.id] = readings.at_ms[readings.value >= 0.5]
    return found


def _marks(app: App, home: Home) -> dict[str, Marks]:
    """Return facts that persons marked."""
    rows: dict[str, list[tuple[int, bool]]] = {}
    for event in app.events.of_kind(home.id, FACT_EVENT):
        rows.setdefault(event.subject, []).append((event.at_ms, event.detail == "true"))
    return {
        word: Marks(np.array([at for at, _ in sorted(said)], dtype=np.int64), np.array([v for _, v in sorted(said)]))
        for word, said in rows.items()
    }


def answers_of(app: App, home: Home) -> dict[str, tuple[tuple[int, str], ...]]:
    """Return what persons answered, by the rule that asks, in order of time, then of keeping."""
    rows: dict[str, list[tuple[int, str]]] = {}
    for event in app.events.of_kind(home.id, ANSWER_EVENT):
        rows.setdefault(event.subject, []).append((event.at_ms, event.detail))
    return {rule_id: tuple(said) for rule_id, said in rows.items()}


def _levels(home: Home, zone_id: str, app: App, start_ms: int, end_ms: int) -> LevelLine:
    blocks = blocks_between(home, home.zone_of_id(zone_id), app.clock(home), start_ms, end_ms)
    return LevelLine(np.array([b.from_ms for b in blocks], dtype=np.int64), tuple(b.level_id for b in blocks))
