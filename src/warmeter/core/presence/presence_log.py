"""What a home's witnesses told, from its readings: reports of each witness, and of each room's sensors."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from warmeter.core.arrays import Bytes, Floats, Ints
from warmeter.core.home.document import Home
from warmeter.core.home.people import Occupant, Witness
from warmeter.core.home.witness_kinds import holds_ms
from warmeter.core.presence.person_presence import NONE, WitnessReports, door_motion_reports, power_reports
from warmeter.core.presence.room_use import RoomSensor
from warmeter.core.truth.track import Track, value_of
from warmeter.core.truth.truth import FALSE, TRUE
from warmeter.core.units import MS_PER_H, MS_PER_S

Heard = tuple[str, str]
PRESENCE_QUANTITIES = ("is_home", "is_open", "is_moving", "is_in", "is_in_bed", "electric_w", "distance_m")
USUAL_HOLD_MS = 6 * MS_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class PresenceLog:
    """Readings by quantity and subject over [start, end), and how long each speaks [ms]; missing ones were never heard."""

    tracks: Mapping[Heard, Track]
    start_ms: int
    end_ms: int
    holds_ms: Mapping[Heard, int] = field(default_factory=dict)

    def hold_ms(self, quantity: str, subject: str) -> int:
        """Return how long a report of a sensor that tells changes only speaks [ms]."""
        return self.holds_ms.get((quantity, subject), USUAL_HOLD_MS)

    def track(self, quantity: str, subject: str) -> Track | None:
        """Return the readings of a subject that have a value; None where none was heard."""
        found = self.tracks.get((quantity, subject))
        if found is None or not found.at_ms.size:
            return None
        heard = ~np.isnan(found.value) & (found.at_ms < self.end_ms)
        return Track(found.at_ms[heard], found.value[heard])


def reports_of(
    log: PresenceLog, person: Occupant, witness: Witness, trust: tuple[float, float], same_as: str = ""
) -> WitnessReports | None:
    """Return what a witness said of a person; None where it was never heard.

    Parameters
    ----------
    trust : (float, float)
        How often its word for in and for out is right.
    """
    said = _said(log, person, witness)
    if said is None:
        return None
    hold_in, hold_out = holds_ms(witness)
    return WitnessReports(
        id=witness.id,
        at_ms=said[0],
        says=said[1],
        trust_in=trust[0],
        trust_out=trust[1],
        age_in_ms=hold_in,
        age_out_ms=hold_out,
        same_as=same_as,
    )


def _said(log: PresenceLog, person: Occupant, witness: Witness) -> tuple[Ints, Bytes] | None:
    """Return what a witness said, by its kind; None where it was never heard."""
    match witness.kind:
        case "telephone":
            return _merged([_both_ways(log.track("is_home", each)) for each in witness.device_ids])
        case "statement":
            return _both_ways(log.track("is_home", person.id))
        case "machine":
            track = log.track("electric_w", witness.machine_id or "")
            return None if track is None else (track.at_ms, power_reports(track.value, witness.on_w))
        case "door_motion":
            return _door_motion(log, witness)
        case "motion":
            return _standing(log, witness, "is_moving")
        case "mattress":
            return _standing(log, witness, "is_in_bed")
        case "presence_sensor":
            return _standing(log, witness, "is_in")


def _both_ways(track: Track | None) -> tuple[Ints, Bytes] | None:
    """A report of 1 says in, one of 0 says out."""
    if track is None:
        return None
    return track.at_ms, np.where(track.value >= 0.5, TRUE, FALSE).astype(np.int8)


def _door_motion(log: PresenceLog, witness: Witness) -> tuple[Ints, Bytes] | None:
    doors = [t for d in witness.device_ids if (t := log.track("is_open", d)) is not None]
    motions = [t for d in witness.device_ids if (t := log.track("is_moving", d)) is not None]
    if not doors or not motions:
        return None
    doors_ms = np.unique(np.concatenate([t.at_ms for t in doors]))
    events = [(int(at), 1, "door") for at in doors_ms]
    for track in motions:
        events += [(int(at), 2, "motion") for at in _onsets(track)]
        # One that is still on as the door is worked has seen somebody up to then.
        events += [(int(at), 0, "motion") for at in doors_ms[value_of(track, doors_ms) >= 0.5]]
    at, says = door_motion_reports(
        [(at, event) for at, _, event in sorted(events)],
        within_ms=witness.within_s * MS_PER_S,
        cancel_ms=witness.cancel_s * MS_PER_S,
        end_ms=log.end_ms,
    )
    moved = np.sort(np.array([at for at, _, event in events if event == "motion"], dtype=np.int64))
    return _taken_back(at, says, moved)


def _taken_back(at: Ints, says: Bytes, moved: Ints) -> tuple[Ints, Bytes]:
    """Return reports in which an out is taken back by the first motion after it: somebody was still there."""
    place = np.searchsorted(moved, at[says == FALSE], side="right")
    back = moved[place[place < moved.size]]
    # Where the motion follows a door, its own word for in stands at the same instant and counts.
    both = np.concatenate([back, at])
    words = np.concatenate([np.full(back.size, NONE, dtype=np.int8), says])
    order = np.argsort(both, kind="stable")
    return both[order], words[order]


def _standing(log: PresenceLog, witness: Witness, quantity: str) -> tuple[Ints, Bytes] | None:
    """Return what sensors say that say in while they are on."""
    hold_in, _ = holds_ms(witness)
    heard = [(t, log.hold_ms(quantity, d)) for d in witness.device_ids if (t := log.track(quantity, d)) is not None]
    return _merged([_kept_up(track, hold_in, speaks_ms, log.end_ms) for track, speaks_ms in heard])


def _kept_up(track: Track, hold_ms: int, speaks_ms: int, end_ms: int) -> tuple[Ints, Bytes]:
    """Return reports of a sensor that says in while it is on, kept up while it is, and once more as it goes off.

    Off is no word for out: whoever sits still is not seen.
    """
    is_on = track.value >= 0.5
    until = np.minimum(np.append(track.at_ms[1:], end_ms), track.at_ms + speaks_ms)
    step = max(1, hold_ms // 2)
    rows = [
        np.append(np.arange(begin, end, step), end if end < end_ms else begin)
        for begin, end in zip(track.at_ms[is_on], until[is_on], strict=True)
    ]
    at = np.unique(np.concatenate(rows)) if rows else np.zeros(0, dtype=np.int64)
    return at.astype(np.int64), np.full(at.size, TRUE, dtype=np.int8)


def _merged(parts: list[tuple[Ints, Bytes] | None]) -> tuple[Ints, Bytes] | None:
    heard = [part for part in parts if part is not None]
    if not heard:
        return None
    at = np.concatenate([at for at, _ in heard])
    says = np.concatenate([said for _, said in heard])
    order = np.argsort(at, kind="stable")
    return at[order], says[order]


def _onsets(track: Track) -> Ints:
    """Return when it went from 0 to 1, its first report counted as a change if it is 1."""
    on = track.value >= 0.5
    return np.asarray(track.at_ms[on & ~np.append(False, on[:-1])])


def room_sensors(home: Home, log: PresenceLog, room_id: str, quantities: tuple[str, ...]) -> list[RoomSensor]:
    """Return the sensors of a room that were heard, by the quantities that they tell."""
    found = []
    for device in home.devices_in(room_id):
        for quantity in quantities:
            track = log.track(quantity, device.id)
            if track is not None:
                found.append(
                    RoomSensor(
                        at_ms=track.at_ms,
                        says=np.where(track.value >= 0.5, TRUE, FALSE).astype(np.int8),
                        hold_ms=round((device.hold_s or 0) * MS_PER_S),
                        sends_off=bool((track.value < 0.5).any()),
                        stale_ms=log.hold_ms(quantity, device.id),
                    )
                )
    return found


def distance_of(log: PresenceLog, device_id: str) -> tuple[Ints, Floats] | None:
    """Return a telephone's distance from home [m] by report; None where it was never heard."""
    track = log.track("distance_m", device_id)
    return None if track is None else (track.at_ms, track.value)
