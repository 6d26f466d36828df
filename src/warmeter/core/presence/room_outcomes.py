"""Rooms by their log: how long to wait before off, and when they are really used against the timetable in force."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Ints
from warmeter.core.edits.people_commands import TakeProfile, stretches_text
from warmeter.core.home.document import Home
from warmeter.core.home.presets import USE
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Zone
from warmeter.core.presence.household_presence import minutes_of
from warmeter.core.presence.idle_proposal import better_sensor_a_year, can_be_judged, room_idle_time
from warmeter.core.presence.idle_time import IdlePrices, IdleTime
from warmeter.core.presence.presence_log import PresenceLog, room_sensors
from warmeter.core.presence.room_days import TimetableMisses, judged_use, still_share, timetable_misses, used_days
from warmeter.core.presence.room_presence import RoomPresence
from warmeter.core.presence.usage_profile import ProfileSettings, UsageProfile, usage_profile
from warmeter.core.timegrid import LocalClock, weekday_of_epoch_days
from warmeter.core.timetable.day import blocks_between
from warmeter.core.truth.truth import UNKNOWN
from warmeter.core.units import MIN_PER_DAY, MS_PER_S

PROFILE = ProfileSettings()
WEEK = {"workdays": (0, 1, 2, 3, 4), "weekends": (5, 6)}
WARM_K = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomWait:
    """How long to wait in a room: outcomes, what is in force [s], and what a better sensor would be worth a year.

    ``is_judged`` is false where nothing but its own motion tells of the room: then nothing is proposed.
    """

    room: Room
    found: IdleTime
    in_force_s: int | None
    better_a_year: float
    is_judged: bool
    hold_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileProposal:
    """A kind of day of a room: its profile, how much of its use is still, and what it and the timetable get wrong."""

    key: str
    name: str
    profile: UsageProfile
    still: float
    proposed: TimetableMisses | None
    in_force: TimetableMisses | None


def room_with_log(rooms: Sequence[RoomPresence], room_id: str) -> RoomPresence | None:
    """Return a room of which anything was heard; None else."""
    return next((room for room in rooms if room.room_id == room_id), None)


def wait_of(home: Home, log: PresenceLog, room: RoomPresence, prices: IdlePrices) -> RoomWait | None:
    """Return how long to wait in a room before off; None without motion or presence sensors in it."""
    sensors = room_sensors(home, log, room.room_id, ("is_moving",)) or room_sensors(home, log, room.room_id, ("is_in",))
    if not sensors:
        return None
    outcome = room_idle_time(room, sensors, prices, start_ms=log.start_ms, end_ms=log.end_ms)
    own = home.room(room.room_id)
    return RoomWait(
        room=own,
        found=outcome,
        in_force_s=USE[own.use].empty_after_s if own.idle_s is None else own.idle_s,
        better_a_year=better_sensor_a_year(outcome, room, prices, length_ms=log.end_ms - log.start_ms),
        is_judged=can_be_judged(room),
        hold_s=max(s.hold_ms for s in sensors) / MS_PER_S,
    )


def profiles_of(
    home: Home, log: PresenceLog, room: RoomPresence, levels: tuple[str, str] | None
) -> list[ProfileProposal]:
    """Return a room's profile by kind of day, and what its blocks and the timetable in force get wrong on the log.

    Parameters
    ----------
    levels : (str, str) or None
        Ids of the level that it is used at, and of the one between; None compares nothing.
    """
    clock = LocalClock(home.time_zone)
    minutes = minutes_of(log.start_ms, log.end_ms)
    use = judged_use(room, home.presence_practice.sure)
    day, of_day = clock.local_minutes(minutes)
    groups: Mapping[str, Sequence[int]] = {k.id: k.weekdays for k in home.day_kinds if k.weekdays} or WEEK
    names = {k.id: k.name for k in home.day_kinds}
    profiles = usage_profile(used_days(use, minutes, clock), groups, PROFILE)
    zone = home.zone_of_room(room.room_id)
    proposals = []
    for key, profile in profiles.items():
        mine = np.isin(weekday_of_epoch_days(day), list(groups[key]))
        own = np.where(mine, use, UNKNOWN).astype(np.int8)
        proposed = in_force = None
        if zone is not None and levels is not None and key in names:
            on = clock.local(log.end_ms).date()
            in_force = _misses(home, zone, clock, minutes, own, levels[0])
            proposed = (
                _proposed(home, zone, key, profile, levels, on, clock, minutes, own) if profile.blocks_min else None
            )
        proposals.append(
            ProfileProposal(
                key=key,
                name=names.get(key, key),
                profile=profile,
                still=still_share(room, own, profile.blocks_min or ((0, MIN_PER_DAY),), of_day),
                proposed=proposed,
                in_force=in_force,
            )
        )
    return proposals


def _proposed(
    home: Home,
    zone: Zone,
    key: str,
    profile: UsageProfile,
    levels: tuple[str, str],
    on: date,
    clock: LocalClock,
    minutes: Ints,
    use: Bytes,
) -> TimetableMisses:
    """Return what a profile's blocks would get wrong, laid into the zone's timetable."""
    command = TakeProfile(
        zone_id=zone.id,
        of=key,
        used_level_id=levels[0],
        else_level_id=levels[1],
        stretches=stretches_text(profile.blocks_min),
        on=on,
    )
    changed = command.edit(home).home
    return _misses(changed, changed.zone_of_id(zone.id), clock, minutes, use, levels[0])


def _misses(home: Home, zone: Zone, clock: LocalClock, minutes: Ints, use: Bytes, level_id: str) -> TimetableMisses:
    """Return what a zone's timetable gets wrong where it should be at a level while a room is used."""
    blocks = blocks_between(home, zone, clock, int(minutes[0]), int(minutes[-1]) + 1)
    begins = np.array([b.from_ms for b in blocks], dtype=np.int64)
    asked = np.array([b.setpoint_c for b in blocks])[np.searchsorted(begins, minutes, side="right") - 1]
    is_warm: Flags = np.asarray(asked >= home.heating_c(zone, level_id) - WARM_K)
    return timetable_misses(use, is_warm)
