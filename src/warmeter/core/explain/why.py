"""Why a zone asks what it asks: which claim decides, which lie below, what the guard did, what comes next."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from warmeter.core.building.damp import DampLimit, damp_guard
from warmeter.core.claims.arbiter import Claim, Guard
from warmeter.core.claims.timeline import ClaimState, timeline
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import Block, base_claim, blocks_between, guards_of, timetable_claims
from warmeter.core.timetable.manual_overrides import LONGEST_MS, HandChange
from warmeter.core.units import MS_PER_DAY

# What comes next is looked for so far ahead.
AHEAD_MS = 8 * MS_PER_DAY


@dataclass(frozen=True, slots=True, kw_only=True)
class Why:
    """What holds in a zone at an instant and what comes next; ``blocks`` give words to the timetable's claims."""

    zone: Zone
    at_ms: int
    standing: ClaimState
    base: Claim
    next: ClaimState | None
    blocks: Mapping[str, Block]
    guards: tuple[Guard, ...]


def zone_standings(
    home: Home,
    zone: Zone,
    clock: LocalClock,
    changes: Sequence[HandChange],
    *,
    leads_min: Mapping[int, float],
    guards: Sequence[Guard],
    start_ms: int,
    end_ms: int,
) -> list[ClaimState]:
    """Return what holds in a zone over [start, end), whenever it changes: the arbiter over all that is laid.

    ``start_ms`` is taken back to the first change by hand that can still hold.
    """
    mine = [c.happening() for c in changes if c.zone_id == zone.id and start_ms - LONGEST_MS <= c.at_ms < end_ms]
    since = min([start_ms, *(h.at_ms for h in mine)])
    blocks = blocks_between(home, zone, clock, since, end_ms)
    return timeline(
        timetable_claims(blocks, leads_min),
        guards,
        mine,
        base=base_claim(home, since),
        room="not_known",
        start_ms=since,
        end_ms=end_ms,
    )


def why_at(
    home: Home,
    zone: Zone,
    clock: LocalClock,
    changes: Sequence[HandChange],
    at_ms: int,
    leads_min: Mapping[int, float],
    damp: DampLimit | None = None,
) -> Why:
    """Return why a zone asks what it asks at an instant; ``damp`` is its limit against mould, if one is known."""
    guards = (*guards_of(home, zone), *([damp_guard(damp)] if damp is not None else []))
    day = clock.day_of(at_ms)
    found = zone_standings(
        home,
        zone,
        clock,
        changes,
        leads_min=leads_min,
        guards=guards,
        start_ms=day.start_ms - MS_PER_DAY,
        end_ms=at_ms + AHEAD_MS,
    )
    now = max(k for k, standing in enumerate(found) if standing.at_ms <= at_ms)
    blocks = blocks_between(home, zone, clock, found[0].at_ms, at_ms + AHEAD_MS)
    return Why(
        zone=zone,
        at_ms=at_ms,
        standing=found[now],
        base=base_claim(home, at_ms),
        next=next((s for s in found[now + 1 :] if s.decision.claim != found[now].decision.claim), None),
        blocks={claim.id: block for block, claim in _claims(blocks)},
        guards=guards,
    )


def _claims(blocks: Sequence[Block]) -> list[tuple[Block, Claim]]:
    return [(block, claim) for block in blocks for claim in timetable_claims([block], {block.from_ms: 1.0})]
