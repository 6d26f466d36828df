"""A zone's change points as blocks and claims on the home's clock."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.claims.arbiter import Claim, Decision, Guard, decisions
from warmeter.core.claims.timeline import base_of
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.home.zones import Zone
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.timetable.calendar import carried_into, written_on
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """A stretch of one local day with its level and setpoint.

    Parameters
    ----------
    on : date
        The date that its change point stands on; the day before's where ``is_carried``.
    index : int
        Place among that date's change points.
    key : str
        Of the written day that its change point belongs to.
    start_min, end_min : int
        By the wall clock of its local day [min]; a carried block starts at 0.
    from_ms, until_ms : int
        In real time [ms UTC].
    level_id, level_name : str
        Its level.
    setpoint_c, cooling_c : float
        Asked, before the guard [°C]; no cooling limit is None.
    is_own : bool
        Whether the setpoint is the block's own.
    is_carried : bool
        Whether it goes on from the day before.
    level_c, level_cooling_c : float
        What people ask of it: its setpoint and cooling limit, of a pre-heat those of its level [°C].
    is_preheat : bool
        Whether it heats or cools ahead.
    """

    on: date
    index: int
    key: str
    start_min: int
    end_min: int
    from_ms: int
    until_ms: int
    level_id: str
    level_name: str
    setpoint_c: float
    is_own: bool
    level_c: float
    cooling_c: float | None = None
    level_cooling_c: float | None = None
    is_carried: bool = False
    is_preheat: bool = False


def setpoint_of(home: Home, zone: Zone, point: ChangePoint) -> float:
    """Return what a change point asks for heating [°C]."""
    return home.heating_c(zone, point.level_id) if point.own_setpoint_c is None else point.own_setpoint_c


def blocks_of(home: Home, zone: Zone, day: LocalDay, clock: LocalClock) -> list[Block]:
    """Return a zone's blocks on a local day, first to last instant without a gap.

    Blocks that the clock skips whole are left out. What goes on from the day before comes first.
    """
    written = written_on(home, zone, day.date)
    rows = [(day.date, index, point, written.key) for index, point in enumerate(written.points)]
    if not rows or rows[0][2].start_min > 0:
        on, index, point = carried_into(home, zone, day.date)
        rows.insert(0, (on, index, point, written_on(home, zone, on).key))
    starts = [0 if on != day.date else point.start_min for on, _, point, _ in rows]
    blocks = []
    for place, ((on, index, point, key), start) in enumerate(zip(rows, starts, strict=True)):
        end = starts[place + 1] if place + 1 < len(rows) else MIN_PER_DAY
        from_ms = day.start_ms if start == 0 else clock.instant(day.date, start)
        until_ms = day.end_ms if end == MIN_PER_DAY else clock.instant(day.date, end)
        if until_ms <= from_ms:
            continue
        blocks.append(
            Block(
                on=on,
                index=index,
                key=key,
                start_min=start,
                end_min=end,
                from_ms=from_ms,
                until_ms=until_ms,
                level_id=point.level_id,
                level_name=home.level(point.level_id).name,
                setpoint_c=setpoint_of(home, zone, point),
                is_own=point.own_setpoint_c is not None,
                level_c=home.heating_c(zone, point.level_id) if point.is_preheat else setpoint_of(home, zone, point),
                cooling_c=home.cooling_c(zone, point.level_id) if point.own_cooling_c is None else point.own_cooling_c,
                level_cooling_c=home.cooling_c(zone, point.level_id)
                if point.is_preheat or point.own_cooling_c is None
                else point.own_cooling_c,
                is_carried=on != day.date,
                is_preheat=point.is_preheat,
            )
        )
    return blocks


def blocks_between(home: Home, zone: Zone, clock: LocalClock, start_ms: int, end_ms: int) -> list[Block]:
    """Return a zone's blocks of every local day that touches [start, end), in order."""
    return [block for day in clock.days(start_ms, end_ms) for block in blocks_of(home, zone, day, clock)]


def people_ask(block: Block) -> Block:
    """Return a block as people ask for it: a pre-heat as its level."""
    return replace(block, setpoint_c=block.level_c, cooling_c=block.level_cooling_c)


def block_claim(block: Block) -> Claim:
    """Return what a block claims."""
    return Claim(
        kind="timetable",
        value=block.setpoint_c,
        from_ms=block.from_ms,
        until_ms=block.until_ms,
        reason=block.level_name,
        id=f"{block.on}.{block.index}.{block.from_ms}",
    )


def warm_up_claim(block: Block, lead_min: float) -> Claim:
    """Return the claim by which the timetable warms up for a block [min before it]."""
    return Claim(
        kind="timetable",
        value=block.setpoint_c,
        from_ms=block.from_ms - round(lead_min) * MS_PER_MIN,
        until_ms=block.from_ms,
        reason=f"warm-up for {block.level_name}",
        id=f"warm-up.{block.from_ms}",
    )


def timetable_claims(blocks: Sequence[Block], leads_min: Mapping[int, float]) -> list[Claim]:
    """Return the timetable's claims; a block with a lead claims its setpoint that much earlier.

    ``leads_min`` maps a block's start [ms UTC] to its lead [min]. The timetable lays its warm-up itself.
    """
    claims = []
    for block in blocks:
        lead = leads_min.get(block.from_ms, 0.0)
        claims.append(block_claim(block))
        if lead > 0:
            claims.append(warm_up_claim(block, lead))
    return claims


def cooling_claims(blocks: Sequence[Block], leads_min: Mapping[int, float]) -> list[Claim]:
    """Return what the timetable claims as cooling limit; blocks without one claim nothing.

    ``leads_min`` maps a block's start [ms UTC] to how much earlier the room is cooled down for it [min].
    """
    claims = []
    for block in blocks:
        if block.cooling_c is None:
            continue
        lead = round(leads_min.get(block.from_ms, 0.0)) * MS_PER_MIN
        for begin, end, reason in (
            (block.from_ms, block.until_ms, block.level_name),
            (block.from_ms - lead, block.from_ms, f"cool-down for {block.level_name}"),
        ):
            if end > begin:
                claims.append(
                    Claim(kind="timetable", value=block.cooling_c, from_ms=begin, until_ms=end, reason=reason)
                )
    return claims


def base_claim(home: Home, start_ms: int) -> Claim:
    """Return the state a device is left in where nothing is laid: its home's lowest level."""
    return base_of(min(level.heating_c for level in home.levels), start_ms)


def guards_of(home: Home, zone: Zone) -> tuple[Guard, ...]:
    """Return the guards of a zone's heating setpoint."""
    limits = home.guard_of(zone)
    whose = "the zone's own" if zone.guard is not None else "the home's"
    return (Guard(low=limits.low_c, high=limits.high_c, reason=f"protection limits, {whose}", id="guard"),)


def setpoint_decisions(home: Home, zone: Zone, claims: Sequence[Claim], start_ms: int, end_ms: int) -> list[Decision]:
    """Return who decides a zone's heating setpoint over [start, end): its claims, base, guards."""
    return decisions(claims, base_claim(home, start_ms), guards_of(home, zone), start_ms, end_ms)
