"""What a rule is looked at with: reports, events, marked facts, levels, machines' settings, clock and sun."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from warmeter.core.arrays import Flags, Ints
from warmeter.core.home.machines import ToldSetting
from warmeter.core.home.rule_conditions import Happens, Signal
from warmeter.core.rule.track import Track
from warmeter.core.timegrid import LocalClock

EventKey = tuple[str, str, str | None]
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
    """

    start_ms: int
    end_ms: int
    clock: LocalClock
    latitude_deg: float = 0.0
    longitude_deg: float = 0.0
    tracks: Mapping[Signal, Track] = field(default_factory=dict)
    events: Mapping[EventKey, Ints] = field(default_factory=dict)
    marks: Mapping[str, Marks] = field(default_factory=dict)
    levels: Mapping[str, LevelLine] = field(default_factory=dict)
    settings: Mapping[tuple[str, str], ToldSetting] = field(default_factory=dict)
    holds_s: Mapping[Signal, int] = field(default_factory=dict)

    def stale_ms(self, signal: Signal, stale_s: int) -> int:
        """Return after how long a signal is not known where a rule asks for ``stale_s`` [ms]."""
        return 1000 * max(stale_s, self.holds_s.get(signal, 0))

    def track(self, signal: Signal) -> Track:
        """Return the reports of a signal before the end."""
        found = self.tracks.get(signal, NOTHING)
        last = int(np.searchsorted(found.at_ms, self.end_ms, side="left"))
        return found if last == found.at_ms.size else Track(found.at_ms[:last], found.value[:last])

    def happened(self, condition: Happens) -> Ints:
        """Return when an event happened, rising; without a word or subject every one of its kind."""
        found = [
            at
            for (kind, word, subject), at in self.events.items()
            if kind == condition.event and condition.word in ("", word) and condition.subject_id in (None, subject)
        ]
        return np.unique(np.concatenate(found)) if found else np.zeros(0, dtype=np.int64)

    def setting(self, appliance_id: str, does: str) -> ToldSetting | None:
        """Return the setting that tells what a machine does: its own for that, else the one for finished."""
        return self.settings.get((appliance_id, does)) or self.settings.get((appliance_id, "finished"))
