"""Who decides through a stretch in which people, rooms, rules and devices act (J9)."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from warmeter.core.claims.arbiter import PRIORITY, SAFETY, Claim, Decision, Guard, decided, edges_of, standing_claims

HAND = "hand"
RoomState = Literal["empty", "in_use", "not_known"]


@dataclass(frozen=True, slots=True, kw_only=True)
class TimelineEvent:
    """Something that happens at an instant.

    Parameters
    ----------
    do : str
        ``release`` (``id``), ``person`` (``value``, ``until_ms``, ``empty_ms``), ``room`` (``state``), ``suspend``
        (``rule``, ``until_ms``), ``resume`` (``rule``), ``refuse``, ``accept``, ``stop`` or ``back``.
    by, reason : str
        Who or what did it, and why.
    """

    at_ms: int
    do: Literal["release", "person", "room", "suspend", "resume", "refuse", "accept", "stop", "back"]
    id: str = ""
    value: float = 0.0
    until_ms: int | None = None
    empty_ms: int | None = None
    state: RoomState = "not_known"
    rule: str = ""
    by: str = ""
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimState:
    """What holds from an instant on.

    Parameters
    ----------
    value : float
        What the device has.
    decision : Decision
        What is asked of it, by which claim, moved by which guard.
    below : tuple of Claim
        The claims that stand below, the next to decide first; the base is the last of all.
    """

    at_ms: int
    value: float
    decision: Decision
    below: tuple[Claim, ...]

    @property
    def is_refused(self) -> bool:
        """Whether the device has something else than is asked."""
        return self.value != self.decision.value

    def same_as(self, other: "ClaimState") -> bool:
        """Return whether value, asked, name of the claim and clamp are those of another."""
        mine, theirs = self.decision, other.decision
        return (self.value, mine.value, mine.claim.id, mine.is_clamped) == (
            other.value,
            theirs.value,
            theirs.claim.id,
            theirs.is_clamped,
        )


@dataclass(slots=True)
class _Machine:
    """What an arbiter remembers: base, the change by hand, suspended rules, what the device has."""

    claims: Sequence[Claim]
    base: Claim
    value: float
    room: RoomState
    empty_since: int | None
    hand: Claim | None = None
    hand_empty_ms: int | None = None
    gone: set[str] = field(default_factory=set)
    suspended: dict[str, int | None] = field(default_factory=dict)
    is_refusing: bool = False

    def happen(self, event: TimelineEvent, now: int) -> None:
        """Apply an event as of ``now``."""
        if event.do == "release":
            if event.id == HAND:
                self.hand = None
            else:
                self.gone.add(event.id)
        elif event.do == "person":
            self.base = replace(self.base, value=event.value, from_ms=now, by=event.by, reason="as left by hand")
            self.hand = Claim(
                kind="by_hand",
                value=event.value,
                from_ms=now,
                until_ms=event.until_ms,
                reason=event.reason,
                id=HAND,
                by=event.by,
            )
            self.hand_empty_ms, self.value = event.empty_ms, event.value
        elif event.do == "room":
            if event.state == "empty" and self.room != "empty":
                self.empty_since = now
            elif event.state != "empty":
                self.empty_since = None
            self.room = event.state
        elif event.do == "suspend":
            self.suspended[event.rule] = event.until_ms
        elif event.do == "resume":
            self.suspended.pop(event.rule, None)
        elif event.do in ("refuse", "accept"):
            self.is_refusing = event.do == "refuse"

    def hand_ends(self) -> int | None:
        """Return when the change by hand ends: its term, or the room empty for so long, whichever is first."""
        if self.hand is None:
            return None
        ends = [self.hand.until_ms] if self.hand.until_ms is not None else []
        if self.hand_empty_ms is not None and self.empty_since is not None:
            ends.append(max(self.hand.from_ms, self.empty_since) + self.hand_empty_ms)
        return min(ends, default=None)

    def end_terms(self, now: int) -> None:
        """End what has come to its end by ``now``."""
        end = self.hand_ends()
        if end is not None and end <= now:
            self.hand = None
        self.suspended = {rule: until for rule, until in self.suspended.items() if until is None or until > now}

    def standing(self, guards: Sequence[Guard], now: int) -> ClaimState:
        """Decide once and tell what holds."""
        active = [
            claim
            for claim in self.claims
            if claim.id not in self.gone
            and not (claim.rule and claim.rule in self.suspended and claim.strength < SAFETY)
        ]
        if self.hand is not None:
            active.append(self.hand)
        held = standing_claims(active, now)
        winner, below = (held[0], held[1:]) if held else (self.base, [])
        decision = decided(winner, guards, now)
        if not self.is_refusing:
            self.value = decision.value
        return ClaimState(at_ms=now, value=self.value, decision=decision, below=tuple(below))


def timeline(
    claims: Sequence[Claim],
    guards: Sequence[Guard],
    happenings: Sequence[TimelineEvent],
    *,
    base: Claim,
    room: RoomState,
    start_ms: int,
    end_ms: int,
) -> list[ClaimState]:
    """Return what holds over [start, end), whenever it changes; the first entry is the state at the start.

    Also an entry whose decision stays as it was, if what stands below it changes.

    Parameters
    ----------
    claims : sequence of Claim
        Laid in this order; the change by hand comes after all of them.
    guards : sequence of Guard
        Limits; neither released nor suspended.
    happenings : sequence of Happening
        Those of one instant in listed order; before ``start_ms`` they are not known.
    base : Claim
        State in which the device was found; renewed whenever a person works it.
    room : str
        ``empty``, ``in_use`` or ``not_known`` at the start.

    Notes
    -----
    At one instant: events as listed, then terms that end in it, then one decision. Between ``stop`` and ``back``
    nothing is decided; at ``back`` the events of the pause apply as if then, and emptiness is counted anew.

    References
    ----------
    docs/methods J9.
    """
    machine = _Machine(
        claims=claims, base=base, value=base.value, room=room, empty_since=start_ms if room == "empty" else None
    )
    events = sorted((h for h in happenings if start_ms <= h.at_ms < end_ms), key=lambda h: h.at_ms)
    fixed = edges_of(claims, guards, start_ms, end_ms)
    found: list[ClaimState] = []
    last: ClaimState | None = None
    paused: list[TimelineEvent] | None = None
    place, step = 0, 0
    now: int | None = start_ms
    while now is not None:
        while place < len(events) and events[place].at_ms == now:
            paused = _take(machine, events[place], paused, now)
            place += 1
        if paused is None:
            machine.end_terms(now)
            entry = machine.standing(guards, now)
            if not found or replace(entry, at_ms=0, decision=replace(entry.decision, at_ms=0)) != last:
                last = replace(entry, at_ms=0, decision=replace(entry.decision, at_ms=0))
                found.append(entry)
        while step < len(fixed) and fixed[step] <= now:
            step += 1
        nexts = [events[place].at_ms] if place < len(events) else []
        if paused is None:
            nexts += [fixed[step]] if step < len(fixed) else []
            nexts += [at for at in (machine.hand_ends(), *machine.suspended.values()) if at is not None]
        now = min((at for at in nexts if now < at < end_ms), default=None)
    return found


def _take(
    machine: _Machine, event: TimelineEvent, paused: list[TimelineEvent] | None, now: int
) -> list[TimelineEvent] | None:
    """Apply an event, or keep it while nothing is decided; return what is kept."""
    if event.do == "stop":
        return paused if paused is not None else []
    if event.do != "back":
        if paused is None:
            machine.happen(event, now)
            return None
        return [*paused, event]
    for kept in paused or ():
        machine.happen(kept, now)
    if paused is not None and machine.room == "empty":
        machine.empty_since = now
    return None


def hand_claims(
    happenings: Sequence[TimelineEvent], *, room: RoomState, start_ms: int, end_ms: int
) -> tuple[Claim, ...]:
    """Return the changes by hand as claims with the ends that they came to; other claims do not touch those."""
    held = timeline((), (), happenings, base=base_of(0.0, start_ms), room=room, start_ms=start_ms, end_ms=end_ms)
    ends = [entry.at_ms for entry in held[1:]] + [end_ms]
    return tuple(
        replace(entry.decision.claim, from_ms=max(entry.at_ms, entry.decision.claim.from_ms), until_ms=end)
        for entry, end in zip(held, ends, strict=True)
        if entry.decision.claim.kind == "by_hand"
    )


def base_of(value: float, start_ms: int, reason: str = "as found") -> Claim:
    """Return the state a device was found in, as what decides where nothing is laid."""
    return Claim(kind="base", value=value, from_ms=start_ms, reason=reason, id="base", priority=PRIORITY["base"])
