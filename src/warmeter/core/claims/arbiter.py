"""One arbiter: which claim decides what a target is asked to do, and what the guard makes of it.

Timetable, base and guard are the kinds of today; later kinds only add claims.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import OutOfRange
from warmeter.core.units import MS_PER_MIN

PRIORITY = {"timetable": 20.0, "base": 0.0}


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
        Stretch [from, until) [ms UTC].
    reason : str
        Why, in words for a person.
    """

    kind: str
    value: float
    from_ms: int
    until_ms: int
    reason: str

    def __post_init__(self) -> None:
        if self.kind not in PRIORITY:
            raise OutOfRange(f"priority of {self.kind!r}", float("nan"), 0, 100)


@dataclass(frozen=True, slots=True, kw_only=True)
class Guard:
    """Limits that clamp whatever is asked; None is an open side. They are no claim."""

    low: float | None = None
    high: float | None = None

    def clamp(self, value: float) -> float:
        """Return the value within the limits; the upper wins if they cross."""
        if self.low is not None:
            value = max(value, self.low)
        return value if self.high is None else min(value, self.high)


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """What is asked from an instant on, by which claim, and whether the guard moved it."""

    at_ms: int
    value: float
    claim: Claim
    is_clamped: bool


def decide(claims: Sequence[Claim], base: Claim, guard: Guard, at_ms: int) -> Decision:
    """Return what decides at an instant: highest priority, then latest from, then later laid."""
    standing = [
        (PRIORITY[claim.kind], claim.from_ms, place, claim)
        for place, claim in enumerate(claims)
        if claim.from_ms <= at_ms < claim.until_ms
    ]
    winner = max(standing, key=lambda row: row[:3])[3] if standing else base
    value = guard.clamp(winner.value)
    return Decision(at_ms=at_ms, value=value, claim=winner, is_clamped=value != winner.value)


def decisions(claims: Sequence[Claim], base: Claim, guard: Guard, start_ms: int, end_ms: int) -> list[Decision]:
    """Return the decisions over [start, end) whenever value, claim or clamp changes."""
    edges = {start_ms} | {at for claim in claims for at in (claim.from_ms, claim.until_ms) if start_ms <= at < end_ms}
    found: list[Decision] = []
    for at in sorted(edges):
        decision = decide(claims, base, guard, at)
        if not found or (decision.value, decision.claim) != (found[-1].value, found[-1].claim):
            found.append(decision)
    return found


def by_minute(found: Sequence[Decision], start_ms: int, end_ms: int) -> NDArray[np.float64]:
    """Return the asked value at each minute of [start, end), shape (minute,)."""
    minutes = np.arange(start_ms, end_ms, MS_PER_MIN, dtype=np.int64)
    at = np.array([decision.at_ms for decision in found], dtype=np.int64)
    values = np.array([decision.value for decision in found])
    return values[np.maximum(np.searchsorted(at, minutes, side="right") - 1, 0)]
