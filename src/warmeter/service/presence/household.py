"""Presence of a home's people and rooms over a stretch of its log, worked out once for as long as nothing changed."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.home.presets import USE
from warmeter.core.presence.guest_stays import guest_stays
from warmeter.core.presence.household_presence import HouseholdPresence, household_presence
from warmeter.core.presence.presence_log import PRESENCE_QUANTITIES, Heard, PresenceLog, room_sensors
from warmeter.core.presence.room_presence import RoomPresence, rooms_presence
from warmeter.core.presence.room_use import room_use
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth, from_changes
from warmeter.core.units import MS_PER_DAY, MS_PER_S
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import corrected
from warmeter.store.readings import StoredSeries

LEARNT_DAYS = 28
# Reports from before the start still stand at it.
BEFORE_MS = MS_PER_DAY
_FOUND: "Cache[HomePresenceNow]" = Cache(32)


@dataclass(frozen=True, slots=True, kw_only=True)
class HomePresenceNow:
    """Presence over the days that it is learnt from: the log, people and home, and the rooms that anything tells of."""

    log: PresenceLog
    household: HouseholdPresence
    rooms: tuple[RoomPresence, ...]


def presence_log(app: App, home: Home, start_ms: int, end_ms: int) -> PresenceLog:
    """Return what bears witness to presence over [start, end), from a day before on."""
    wanted = {w.machine_id for p in home.people for w in p.witnesses if w.machine_id}
    found: dict[Heard, list[StoredSeries]] = {}
    for series in app.readings.series(home.id):
        key = (series.record.quantity, series.record.subject)
        is_asked = key[0] in PRESENCE_QUANTITIES and (key[0] != "electric_w" or key[1] in wanted)
        if is_asked:
            found.setdefault(key, []).append(series)
    return PresenceLog(
        tracks={key: _track(app, home, own, start_ms - BEFORE_MS, end_ms) for key, own in found.items()},
        start_ms=start_ms,
        end_ms=end_ms,
        holds_ms={key: max(s.record.longest_hold_s for s in own) * MS_PER_S for key, own in found.items()},
    )


def _track(app: App, home: Home, series: Iterable[StoredSeries], start_ms: int, end_ms: int) -> Track:
    parts = []
    for each in series:
        raw = app.readings.readings(each.id, start_ms, end_ms).in_stored_unit(each.record)
        parts.append((raw.at_ms, corrected(home, each, raw.at_ms, raw.value)))
    at = np.concatenate([at for at, _ in parts])
    order = np.argsort(at, kind="stable")
    return Track(at[order], np.concatenate([value for _, value in parts])[order])


def presence_of(app: App, home: Home) -> HomePresenceNow | None:
    """Return presence over the last days heard; None where no witness of anything was ever heard."""
    end_ms = heard_until(app, home)
    if end_ms is None:
        return None
    # What presence hangs on, so that a timetable may change without it being worked out anew.
    rooms = tuple((room.id, room.use) for room in home.rooms)
    told_by = home.people, home.occasions, home.devices, home.presence_practice, rooms, home.time_zone
    key = str(app.engine.url), home.id, told_by, app.readings.import_stamp(home.id), end_ms

    def made() -> HomePresenceNow:
        clock = app.clock(home)
        first = clock.local(max(0, end_ms - LEARNT_DAYS * MS_PER_DAY)).date()
        log = _cut(presence_log(app, home, clock.day(first).start_ms, end_ms))
        household = household_presence(home, log, guest_stays(home, clock, log.start_ms, log.end_ms))
        return HomePresenceNow(log=log, household=household, rooms=rooms_presence(home, log, household, clock))

    return _FOUND.get(key, made)


def _cut(log: PresenceLog) -> PresenceLog:
    """Return a log that begins with its first report, if that comes later."""
    firsts = [int(t.at_ms[0]) for t in log.tracks.values() if t.at_ms.size]
    start = max(log.start_ms, min(firsts, default=log.start_ms))
    return PresenceLog(tracks=log.tracks, start_ms=start, end_ms=log.end_ms, holds_ms=log.holds_ms)


def heard_until(app: App, home: Home) -> int | None:
    """Return as of when presence is told: what counts as now, but not long after the last report of a witness."""
    heard = [
        app.readings.span(s.id)[1]
        for s in app.readings.series(home.id)
        if s.record.quantity in PRESENCE_QUANTITIES and s.record.quantity != "electric_w"
    ]
    if not heard:
        return None
    return min(app.heard_until_ms(home.id), max(heard) + BEFORE_MS)


def is_anybody_heard(app: App, home: Home) -> bool:
    """Return whether a witness of a person was ever heard."""
    told = {s.record.subject for s in app.readings.series(home.id)}
    named = {key for p in home.people for w in p.witnesses for key in (*w.device_ids, w.machine_id, p.id)}
    return bool(told & named)


def room_in_use(home: Home, log: PresenceLog, room_id: str) -> Truth | None:
    """Return whether a room is in use by its motion and presence sensors (N3); None where it has none that was heard.

    Where people keep still for hours, motion never says that nobody is there: after it, it is not known.
    """
    sensors = room_sensors(home, log, room_id, ("is_moving", "is_in"))
    if not sensors:
        return None
    room = home.room(room_id)
    idle_s = USE[room.use].empty_after_s if room.idle_s is None else room.idle_s
    first_ms = min(int(sensor.at_ms[0]) for sensor in sensors)
    if first_ms >= log.end_ms:
        return None
    used = room_use(sensors, (idle_s or 0) * MS_PER_S, max(log.start_ms, first_ms), log.end_ms)
    value = used.value if idle_s is not None else np.where(used.value == FALSE, UNKNOWN, used.value).astype(np.int8)
    return from_changes(used.at_ms, value, log.start_ms, log.end_ms)


def as_track(state: Truth) -> Track:
    """Return a state as reports of a yes or no; not known has no value."""
    value = np.where(state.value == TRUE, 1.0, np.where(state.value == FALSE, 0.0, np.nan))
    return Track(state.at_ms, value)
