"""Why a zone asks what it asks, in words."""

from dataclasses import dataclass

from warmeter.core.claims.arbiter import Claim
from warmeter.core.explain.why import Why
from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import timetable_on
from warmeter.core.timetable.compare import name_of_key
from warmeter.web import format as show

KIND = {
    "safety": "safety",
    "window_lock": "window lock",
    "lockout": "lockout by the plant",
    "by_hand": "by hand",
    "rule": "rule",
    "plan": "plan",
    "presence": "nobody there",
    "timetable": "timetable",
    "base": "as found",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimRow:
    """A claim in words."""

    kind: str
    what: str
    asks: str
    span: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WhyView:
    """The panel: what is asked, by which claim, what lies below, what the guard did, what comes next."""

    title: str
    asked: str
    unit: str
    decides: ClaimRow
    below: list[ClaimRow]
    guard: str
    next: str
    by_hand: bool
    zone_id: str


def why_view(home: Home, clock: LocalClock, why: Why) -> WhyView:
    """Return an instant's panel."""
    decision, unit = why.standing.decision, show.temperature_unit(home)
    return WhyView(
        title=f"{why.zone.name}, {clock.local(why.at_ms):%a %H:%M}",
        asked=show.temperature(decision.value, home),
        unit=unit,
        decides=_row(home, clock, why, decision.claim),
        below=[_row(home, clock, why, claim) for claim in (*why.standing.below, why.base)],
        guard=_guard(home, why),
        next=_next(home, clock, why),
        by_hand=decision.claim.kind == "by_hand",
        zone_id=why.zone.id,
    )


def _time(clock: LocalClock, at_ms: int, near_ms: int) -> str:
    local = clock.local(at_ms)
    return f"{local:%H:%M}" if local.date() == clock.local(near_ms).date() else f"{local:%a %H:%M}"


def _row(home: Home, clock: LocalClock, why: Why, claim: Claim) -> ClaimRow:
    block = why.blocks.get(claim.id)
    what = claim.reason
    if block is not None:
        key = name_of_key(home, block.key)
        timetable = timetable_on(why.zone, block.on).name
        what = f"{claim.reason}{', its own setpoint' if block.is_own else ''} ({key}, {timetable})"
    elif claim.kind == "by_hand":
        what = " · ".join(part for part in (claim.by, claim.reason) if part) or "somebody"
    span = "where nothing else is laid"
    if claim.kind != "base":
        begin = _time(clock, claim.from_ms, why.at_ms)
        span = f"from {begin}" + ("" if claim.until_ms is None else f" to {_time(clock, claim.until_ms, why.at_ms)}")
    return ClaimRow(kind=KIND[claim.kind], what=what, asks=show.temperature(claim.value, home), span=span)


def _guard(home: Home, why: Why) -> str:
    """Return what the guard did, and its limits."""
    unit = show.temperature_unit(home)
    limits = "; ".join(
        f"{g.reason}: " + " to ".join(f"{show.temperature(v, home)} {unit}" for v in (g.low, g.high) if v is not None)
        for g in why.guards
    )
    moved = why.standing.decision.guard
    if moved is None:
        return f"Did nothing. {limits[:1].upper()}{limits[1:]}."
    claim = why.standing.decision.claim
    verb = "Lifted" if why.standing.decision.value > claim.value else "Kept down"
    return f"{verb} {show.temperature(claim.value, home)} to {show.temperature(why.standing.decision.value, home)} {unit} ({moved.reason})."


def _next(home: Home, clock: LocalClock, why: Why) -> str:
    if why.next is None:
        return "Nothing changes within eight days."
    row = _row(home, clock, why, why.next.decision.claim)
    value = f"{show.temperature(why.next.decision.value, home)} {show.temperature_unit(home)}"
    return f"From {_time(clock, why.next.at_ms, why.at_ms)} {row.kind}, {row.what}: {value}."
