"""The home in, out or not known: out when the last has left, in when the first is on the way (N2)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.presence.presence_states import PresenceState, lasting
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Stretches, Truth, from_changes, from_stretches

ON_THE_WAY = "on the way: "
GUESTS = "guests"
SEEN = "somebody seen"
NOBODY: Sequence[tuple[int, int]] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonTrack:
    """A person for the home: state over time, and when word came of being on the way (True) or not any more."""

    name: str
    state: Truth
    way_reports: tuple[tuple[int, bool], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class HomePresence:
    """The home's state over time, by whom at each change (None: nobody is registered), and who is on the way."""

    state: Truth
    by: tuple[str | None, ...]
    on_the_way: Mapping[str, Truth]


def on_the_way(person: PersonTrack, way_max_ms: int) -> Stretches:
    """Return stretches in which a person is on the way: from word of it until taken back, too old, or in."""
    begin, _ = person.state.stretches(TRUE)
    said = [(at, is_coming) for at, is_coming in person.way_reports if person.state.at(np.array([at]))[0] != TRUE]
    rows = []
    for at, is_coming in said:
        if not is_coming:
            continue
        place = int(np.searchsorted(begin, at, side="right"))
        arrival = int(begin[place]) if place < begin.size else person.state.end_ms
        taken_back = next((t for t, coming in said if t > at and not coming), person.state.end_ms)
        rows.append((at, min(at + way_max_ms, arrival, taken_back)))
    pairs = np.array(rows, dtype=np.int64).reshape(-1, 2)
    return pairs[:, 0], pairs[:, 1]


def home_presence(
    persons: Sequence[PersonTrack],
    *,
    guests: Sequence[tuple[int, int]],
    seen: Sequence[tuple[int, int]] = NOBODY,
    way_max_ms: int,
    least_ms: Mapping[PresenceState, int],
    initial: PresenceState,
    start_ms: int,
    end_ms: int,
) -> HomePresence:
    """Return the home's state over [start, end).

    Parameters
    ----------
    persons : sequence of PersonTrack
        All over [start, end).
    guests : sequence of (int, int)
        Stays [from, until) [ms UTC].
    seen : sequence of (int, int)
        Stretches in which somebody is seen who may be anybody [ms UTC].
    way_max_ms : int
        How long word of being on the way counts after the latest report [ms].

    Notes
    -----
    First that holds: a person in, a person on the way, guests, somebody seen: in. Anyone not known, or nobody registered: not known.
    Else out.

    References
    ----------
    docs/methods N2.
    """

    def within(begin: Ints, until: Ints) -> Truth:
        return from_stretches(begin, until, start_ms, end_ms)

    way = {person.name: within(*on_the_way(person, way_max_ms)) for person in persons}
    visited = within(*np.array(guests, dtype=np.int64).reshape(-1, 2).T)
    noticed = within(*np.array(seen, dtype=np.int64).reshape(-1, 2).T)
    at = np.unique(
        np.concatenate(
            [visited.at_ms, noticed.at_ms, *(p.state.at_ms for p in persons), *(w.at_ms for w in way.values())]
        )
    )
    states = np.stack([p.state.at(at) for p in persons]) if persons else np.full((1, at.size), UNKNOWN)
    coming = np.stack([way[p.name].at(at) for p in persons]) if persons else np.zeros((1, at.size))
    is_in = (states == TRUE).any(axis=0) | (coming == TRUE).any(axis=0)
    is_in |= (visited.at(at) == TRUE) | (noticed.at(at) == TRUE)
    is_unknown = (states == UNKNOWN).any(axis=0)
    raw = np.where(is_in, TRUE, np.where(is_unknown, UNKNOWN, FALSE)).astype(np.int8)
    raw_state = from_changes(at, raw, start_ms, end_ms)
    state = lasting(raw_state, least_ms, initial)
    by = tuple(
        _by(persons, way, visited, int(value), int(t)) if raw_state.at(np.array([t]))[0] == value else None
        for t, value in zip(state.at_ms, state.value, strict=True)
    )
    return HomePresence(state=state, by=by, on_the_way=way)


def _by(persons: Sequence[PersonTrack], way: Mapping[str, Truth], visited: Truth, value: int, at_ms: int) -> str | None:
    """Return by whom the home is in a state at an instant."""
    now = np.array([at_ms], dtype=np.int64)
    if value == TRUE:
        there = next((p.name for p in persons if p.state.at(now)[0] == TRUE), None)
        coming = next((p.name for p in persons if way[p.name].at(now)[0] == TRUE), None)
        return there or (f"{ON_THE_WAY}{coming}" if coming else GUESTS if visited.at(now)[0] == TRUE else SEEN)
    if value == UNKNOWN:
        return next((p.name for p in persons if p.state.at(now)[0] == UNKNOWN), None)
    left = [(_since(p.state, at_ms), place) for place, p in enumerate(persons)]
    return persons[max(left)[1]].name


def _since(state: Truth, at_ms: int) -> int:
    """Return when a person went out last, at or before an instant."""
    gone = state.at_ms[(state.value == FALSE) & (state.at_ms <= at_ms)]
    return int(gone[-1])
