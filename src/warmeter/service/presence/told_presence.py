"""Presence as it was told while a home was followed live: what rules went by then stays, whatever is learnt later.

An estimate looks at each minute from both sides, so that what came later changes it; a rule that has fired cannot.
"""

from collections.abc import Iterable, Sequence

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.presence.guest_stays import guest_stays
from warmeter.core.presence.household_presence import household_presence
from warmeter.core.presence.presence_states import STATE_OF, STATE_VALUE
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import Truth, from_changes
from warmeter.core.units import MS_PER_DAY, MS_PER_H
from warmeter.service.app import App
from warmeter.service.presence.household import LEARNT_DAYS, as_track, presence_log
from warmeter.store.events import Event

TOLD_EVENT = "presence told"
HOLDS_MS = MS_PER_H  # so long after the last look what was told still counts


def presence_states(app: App, home: Home, start_ms: int, end_ms: int) -> dict[str, Truth]:
    """Return who is in over [start, end) by all witnesses, by the person's id; "" is the home.

    It is learnt from the days before, so far as they were heard.
    """
    log = presence_log(app, home, start_ms - LEARNT_DAYS * MS_PER_DAY, end_ms)
    found = household_presence(home, log, guest_stays(home, app.clock(home), log.start_ms, log.end_ms))
    return {"": found.home.state} | {p.person.id: p.presence.state for p in found.persons}


def tell_presence(app: App, home: Home, subjects: Iterable[str], revision: int, now_ms: int) -> None:
    """Write down who is in now, where it is not what was told before.

    Parameters
    ----------
    subjects : iterable of str
        Ids of persons, "" for the home.
    now_ms : int
        Now [ms UTC, home].
    """
    states = presence_states(app, home, now_ms, now_ms + 1)
    for subject in subjects:
        before = app.events.since(home.id, TOLD_EVENT, subject, now_ms)
        was = before[-1].detail if before else ""
        state = STATE_OF[int(states.get(subject, states[""]).value[-1])]
        if state != was:
            app.events.add(home.id, TOLD_EVENT, subject, now_ms, state, revision)


def presence_track(app: App, home: Home, subject: str, start_ms: int, end_ms: int) -> Track:
    """Return who is in over [start, end), from a day before on: as it was told live, else as the log comes to.

    ``subject`` is a person's id, "" the home.
    """
    events = app.events.since(home.id, TOLD_EVENT, subject, start_ms)
    if not events or events[0].at_ms >= end_ms:
        return as_track(_estimated(app, home, subject, start_ms - MS_PER_DAY, end_ms))
    live = app.live_homes.find(home.id)
    first_ms = events[0].at_ms
    until_ms = max(events[-1].at_ms, live.looked_home_ms if live is not None else 0) + HOLDS_MS
    parts = [_as_told(events, first_ms, min(until_ms, end_ms))]
    if start_ms < first_ms:
        parts.insert(0, _estimated(app, home, subject, start_ms - MS_PER_DAY, first_ms))
    if until_ms < end_ms:
        parts.append(_estimated(app, home, subject, max(start_ms - MS_PER_DAY, until_ms), end_ms))
    tracks = [as_track(part) for part in parts]
    at_ms, value = (np.concatenate(rows) for rows in zip(*((t.at_ms, t.value) for t in tracks), strict=True))
    return Track(at_ms, value)


def _as_told(events: Sequence[Event], start_ms: int, end_ms: int) -> Truth:
    values = {str(word): value for word, value in STATE_VALUE.items()}
    at = np.array([event.at_ms for event in events], dtype=np.int64)
    return from_changes(at, np.array([values[event.detail] for event in events], dtype=np.int8), start_ms, end_ms)


def _estimated(app: App, home: Home, subject: str, start_ms: int, end_ms: int) -> Truth:
    states = presence_states(app, home, start_ms, end_ms)
    found = states.get(subject, states[""])
    return from_changes(found.at_ms, found.value, max(start_ms, int(found.at_ms[0])), end_ms)
