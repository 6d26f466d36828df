"""What a rule is looked at with: reports, events, marked facts, levels, machines' settings, clock and sun."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any, Protocol

import numpy as np

from warmeter.core.arrays import Flags, Ints
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.track import Track

EventKey = tuple[str, str, str | None]


class HasSubject(Protocol):
    """A signal: a quantity, of a part of the home or of none; equal ones are one."""

    @property
    def quantity(self) -> str:
        """Key of the quantity."""
        ...

    @property
    def subject_id(self) -> str | None:
        """Id of the room, device or machine."""
        ...

    def __hash__(self) -> int: ...


class MachineSetting(Protocol):
    """What tells whether a machine runs."""

    @property
    def threshold_w(self) -> float:
        """From which power on it works [W]."""
        ...

    @property
    def wait_s(self) -> float:
        """How long it must be quiet to have ended [s]."""
        ...

    @property
    def hysteresis_w(self) -> float:
        """How far under the threshold it must fall [W]."""
        ...

    @property
    def start_s(self) -> float:
        """How long it must work before a run begins [s]."""
        ...


NOTHING = Track(np.zeros(0, dtype=np.int64), np.zeros(0))


@dataclass(frozen=True, slots=True)
class LevelLine:
    """A zone's levels: from each instant on the id of one [ms UTC]."""

    at_ms: Ints
    level_ids: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Marks:
    """When a fact was marked, and as what, in order of time [ms UTC]."""

    at_ms: Ints
    is_true: Flags


NO_MARKS = Marks(np.zeros(0, dtype=np.int64), np.zeros(0, dtype=bool))


@dataclass(frozen=True, slots=True, kw_only=True)
class Scope:
    """Everything that rules can look at over [start, end).

    Parameters
    ----------
    start_ms, end_ms : int
        What is looked at [ms UTC].
    clock : LocalClock
        The home's clock.
    latitude_deg, longitude_deg : float
        Where the home stands.
    tracks : mapping of Signal to Track
        Reports of each signal; one that is not there is not known at any time.
    events : mapping
        By kind of event, word and subject: when it happened.
    marks : mapping of str to Marks
        What was marked of each fact; before the first mark it is not true.
    levels : mapping of str to LevelLine
        By zone.
    settings : mapping
        By machine and what is told: the setting in use.
    holds_s : mapping of Signal to int
        How long a report of a signal speaks at least, where its log tells changes only [s].
    answers : mapping of str to (int, str)
        By rule that asks: when somebody answered what [ms UTC].
    occasions : mapping of str to dates
        The days of each occasion, a day before the start to two after the end.
    """

    start_ms: int
    end_ms: int
    clock: LocalClock
    latitude_deg: float = 0.0
    longitude_deg: float = 0.0
    tracks: Mapping[Any, Track] = field(default_factory=dict)
    events: Mapping[EventKey, Ints] = field(default_factory=dict)
    marks: Mapping[str, Marks] = field(default_factory=dict)
    levels: Mapping[str, LevelLine] = field(default_factory=dict)
    settings: Mapping[tuple[str, str], MachineSetting] = field(default_factory=dict)
    holds_s: Mapping[Any, int] = field(default_factory=dict)
    answers: Mapping[str, tuple[tuple[int, str], ...]] = field(default_factory=dict)
    occasions: Mapping[str, frozenset[date]] = field(default_factory=dict)

    def stale_ms(self, signal: HasSubject, stale_s: int) -> int:
        """Return after how long a signal is not known where a rule asks for ``stale_s`` [ms]."""
        return 1000 * max(stale_s, self.holds_s.get(signal, 0))

    def track(self, signal: HasSubject) -> Track:
        """Return the reports of a signal before the end."""
        found = self.tracks.get(signal, NOTHING)
        last = int(np.searchsorted(found.at_ms, self.end_ms, side="left"))
        return found if last == found.at_ms.size else Track(found.at_ms[:last], found.value[:last])

    def happened(self, event: str, word: str, subject_id: str | None) -> Ints:
        """Return when an event happened, rising; without a word or subject every one of its kind."""
        found = [
            at
            for (kind, said, subject), at in self.events.items()
            if kind == event and word in ("", said) and subject_id in (None, subject)
        ]
        return np.unique(np.concatenate(found)) if found else np.zeros(0, dtype=np.int64)

    def setting(self, appliance_id: str, does: str) -> MachineSetting | None:
        """Return the setting that tells what a machine does: its own for that, else the one for finished."""
        return self.settings.get((appliance_id, does)) or self.settings.get((appliance_id, "finished"))
