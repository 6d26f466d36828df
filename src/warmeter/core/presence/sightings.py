"""Somebody seen, whoever it is: motion, a bed, a presence sensor; they hold the home in, and never make it out."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Ints
from warmeter.core.home.document import Home
from warmeter.core.presence.agreement import WORD_MIN, evened_share
from warmeter.core.presence.person_presence import WitnessReports
from warmeter.core.presence.presence_log import PresenceLog, room_sensors
from warmeter.core.presence.room_use import on_by_minute
from warmeter.core.truth.truth import FALSE, TRUE
from warmeter.core.units import MS_PER_MIN

SEEING = ("is_moving", "is_in", "is_in_bed")
# How often somebody was seen within the last so many minutes, from at least so many on.
LAST_MIN = 10
OFTEN = (1, 2, 4, 7)
USUAL, USUAL_WORDS = 0.9, 20


@dataclass(frozen=True, slots=True, kw_only=True)
class Sightings:
    """Somebody seen, by minute.

    Parameters
    ----------
    often : (minute,) int array
        In how many of the last ten minutes somebody was seen, counted anew after a leaving and a door.
    trust : tuple of float
        For each of ``OFTEN``: how much likelier somebody is in than out when seen so often, as a share evened out.
    """

    often: Ints
    trust: tuple[float, ...]

    def counts(self, sure: float) -> Flags:
        """Return in which minutes somebody is taken to be in because of what was seen."""
        bucket = np.searchsorted(OFTEN, self.often, side="right") - 1
        trusted = np.array([*(share >= sure for share in self.trust), False])
        return np.asarray(trusted[bucket])


def sightings(
    home: Home,
    log: PresenceLog,
    leavings: Sequence[WitnessReports],
    doors: Sequence[str],
    by_persons: Bytes,
    minutes_ms: Ints,
) -> Sightings:
    """Return how often somebody was seen in each minute, and what that is worth.

    Parameters
    ----------
    leavings : sequence of WitnessReports
        Doors with motion: after each leaving that they tell, what was seen before is over.
    doors : sequence of str
        Contacts of doors by which people leave: whoever was seen before one was worked may have gone.
    by_persons : (minute,) int8 array
        The home by its persons' witnesses, against which sightings are held.

    Notes
    -----
    Pets and draughts are seen too, but less often in a row than people: each count has a trust of its own. Until hours
    with nobody in have shown that, the usual trust counts as so many words.
    """
    seen = np.zeros(minutes_ms.size, dtype=bool)
    for room in home.rooms:
        for sensor in room_sensors(home, log, room.id, SEEING):
            seen |= on_by_minute(sensor, minutes_ms, log.end_ms)
    total = np.append(0, np.cumsum(seen))
    minute = np.arange(seen.size)
    worked = [t.at_ms for d in doors if (t := log.track("is_open", d)) is not None]
    told = [w.at_ms[w.says == FALSE] for w in leavings]
    since = np.maximum(minute + 1 - LAST_MIN, _last_of([*worked, *told], log.start_ms, seen.size))
    often = total[minute + 1] - total[np.minimum(since, minute + 1)]
    return Sightings(often=often, trust=_trust(often, by_persons))


def _last_of(events_ms: Sequence[Ints], start_ms: int, minutes: int) -> Ints:
    """Return for each minute the first one after the latest of some events."""
    found = np.zeros(minutes, dtype=np.int64)
    for event_ms in events_ms:
        at = (event_ms - start_ms) // MS_PER_MIN + 1
        at = at[(at >= 0) & (at < minutes)]
        found[at] = at
    return np.maximum.accumulate(found)


def _trust(often: Ints, by_persons: Bytes) -> tuple[float, ...]:
    bucket = np.searchsorted(OFTEN, often, side="right") - 1
    is_in, is_out = by_persons == TRUE, by_persons == FALSE
    n_in, n_out = int(is_in.sum()), int(is_out.sum())
    words = min(n_in, n_out) / WORD_MIN
    found = []
    for k in range(len(OFTEN)):
        share = evened_share(int((is_in & (bucket == k)).sum()), n_in, int((is_out & (bucket == k)).sum()), n_out)
        found.append(USUAL if share is None else (share * words + USUAL * USUAL_WORDS) / (words + USUAL_WORDS))
    return tuple(found)
