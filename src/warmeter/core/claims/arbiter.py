"""One arbiter: which claim decides what a target is asked to do, and what the guards make of it (J5).

A claim is never written over: when it ends, the next one decides.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from heapq import heappop, heappush

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange
from warmeter.core.units import MS_PER_MIN

PRIORITY = {
    "safety": 100.0,
    "window_lock": 80.0,
    "lockout": 70.0,
    "by_hand": 60.0,
    "rule": 40.0,
    "plan": 35.0,
    "presence": 30.0,
    "timetable": 20.0,
    "base": 0.0,
}
SAFETY = PRIORITY["safety"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Claim:
    """What somebody asks of a target.

    Parameters
    ----------
    kind : str
        Key of ``PRIORITY``.
    value : float
        Asked value [°C for a setpoint].
    from_ms, until_ms : int
        Stretch [from, until) [ms UTC]; without an end None.
    reason : str
        Why, in words for a person.
    id, by, rule : str
        Its name, who or what laid it, and the rule that it belongs to.
    priority : float or None
        Instead of its kind's: a rule's place in the list is a fraction.
    """

    kind: str
    value: float
    from_ms: int
    until_ms: int | None = None
    reason: str = ""
    id: str = ""
    by: str = ""
    rule: str = ""
    priority: float | None = None

    def __post_init__(self) -> None:
        if self.kind not in PRIORITY:
            raise OutOfRange(f"priority of {self.kind!r}", float("nan"), 0, 100)

    @property
    def strength(self) -> float:
        """What decides against others: its own priority, else its kind's."""
        return PRIORITY[self.kind] if self.priority is None else self.priority

    def stands_at(self, at_ms: int) -> bool:
        """Return whether it holds at an instant."""
        return self.from_ms <= at_ms and (self.until_ms is None or at_ms < self.until_ms)


@dataclass(frozen=True, slots=True, kw_only=True)
class Guard:
    """Limits that clamp whatever is asked; None is an open side. They are no claim."""

    low: float | None = None
    high: float | None = None
    from_ms: int | None = None
    until_ms: int | None = None
    reason: str = ""
    id: str = ""

    def stands_at(self, at_ms: int) -> bool:
        """Return whether it holds at an instant."""
        return (self.from_ms is None or self.from_ms <= at_ms) and (self.until_ms is None or at_ms < self.until_ms)


@dataclass(frozen=True, slots=True)
class ClaimLimits:
    """The highest lower and the lowest upper limit of the guards that stand, with the guards that give them."""

    low: Guard | None
    high: Guard | None

    @property
    def cross(self) -> bool:
        """Whether the lower limit lies above the upper; the upper wins then."""
        low, high = (self.low.low if self.low else None), (self.high.high if self.high else None)
        return low is not None and high is not None and low > high

    def clamp(self, value: float, *, only_high: bool = False) -> tuple[float, Guard | None]:
        """Return a value within the limits and the guard that moved it; a safety's off is not lifted."""
        found, by = value, None
        if self.low is not None and self.low.low is not None and found < self.low.low and not only_high:
            found, by = self.low.low, self.low
        if self.high is not None and self.high.high is not None and found > self.high.high:
            found, by = self.high.high, self.high
        return found, by


def limits_at(guards: Iterable[Guard], at_ms: int) -> ClaimLimits:
    """Return the limits of the guards that stand at an instant."""
    standing = [guard for guard in guards if guard.stands_at(at_ms)]
    lows = [guard for guard in standing if guard.low is not None]
    highs = [guard for guard in standing if guard.high is not None]
    return ClaimLimits(
        low=max(lows, key=lambda guard: guard.low or 0.0, default=None),
        high=min(highs, key=lambda guard: guard.high or 0.0, default=None),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """What is asked from an instant on, by which claim, and the guard that moved it, if one did."""

    at_ms: int
    value: float
    claim: Claim
    guard: Guard | None = None

    @property
    def is_clamped(self) -> bool:
        """Whether a guard moved what the claim asks."""
        return self.guard is not None


def order(claim: Claim, place: int) -> tuple[float, int, int]:
    """Return what claims are compared by: strength, then latest from, then later laid."""
    return claim.strength, claim.from_ms, place


def standing_claims(claims: Sequence[Claim], at_ms: int) -> list[Claim]:
    """Return the claims that stand at an instant, the deciding one first."""
    rows = [(order(claim, place), claim) for place, claim in enumerate(claims) if claim.stands_at(at_ms)]
    return [claim for _, claim in sorted(rows, key=lambda row: row[0], reverse=True)]


def decided(winner: Claim, guards: Iterable[Guard], at_ms: int) -> Decision:
    """Return a deciding claim's value after the guards."""
    value, guard = limits_at(guards, at_ms).clamp(winner.value, only_high=winner.strength >= SAFETY)
    return Decision(at_ms=at_ms, value=value, claim=winner, guard=guard)


def edges_of(claims: Sequence[Claim], guards: Sequence[Guard], start_ms: int, end_ms: int) -> list[int]:
    """Return every instant in [start, end) at which a claim or guard begins or ends, and the start, rising."""
    ends = [(claim.from_ms, claim.until_ms) for claim in claims] + [(g.from_ms, g.until_ms) for g in guards]
    return sorted({start_ms} | {at for pair in ends for at in pair if at is not None and start_ms < at < end_ms})


def decisions(
    claims: Sequence[Claim], base: Claim, guards: Sequence[Guard], start_ms: int, end_ms: int
) -> list[Decision]:
    """Return the decisions over [start, end) whenever value, claim or guard changes.

    Notes
    -----
    One sweep: claims enter a heap by strength as they begin, and leave it when they are on top and over.
    """
    edges = edges_of(claims, guards, start_ms, end_ms)
    waiting = sorted(
        ((max(claim.from_ms, start_ms), place, claim) for place, claim in enumerate(claims)), key=lambda row: row[:2]
    )
    heap: list[tuple[float, int, int, Claim]] = []
    found: list[Decision] = []
    begun = 0
    for at in edges:
        while begun < len(waiting) and waiting[begun][0] <= at:
            _, place, claim = waiting[begun]
            strength, since, _ = order(claim, place)
            heappush(heap, (-strength, -since, -place, claim))
            begun += 1
        while heap and not heap[0][3].stands_at(at):
            heappop(heap)
        decision = decided(heap[0][3] if heap else base, guards, at)
        if not found or (decision.value, decision.claim) != (found[-1].value, found[-1].claim):
            found.append(decision)
    return found


def by_minute(found: Sequence[Decision], start_ms: int, end_ms: int) -> Floats:
    """Return the asked value at each minute of [start, end), shape (minute,)."""
    minutes = np.arange(start_ms, end_ms, MS_PER_MIN, dtype=np.int64)
    at = np.array([decision.at_ms for decision in found], dtype=np.int64)
    values = np.array([decision.value for decision in found])
    return values[np.maximum(np.searchsorted(at, minutes, side="right") - 1, 0)]
