"""The plan of the day carried out: runs started at their time, stores and dryers switched by the slots of the plan."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import timedelta

from warmeter.core.home.day_plans import PlannedDay, PlannedPart, WantedRun
from warmeter.core.home.document import Home
from warmeter.core.live.asked_now import AskedValue
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN

LATE_START_MS = 30 * MS_PER_MIN  # later than this after its time nothing is started any more
PLAN_REASON = "plan of the day"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedStart:
    """When a run of an appliance is to be started by the plan, and until when it still may be [ms UTC]."""

    run_id: str
    appliance_id: str
    name: str
    at_ms: int
    late_ms: int


def planned_starts(home: Home, clock: LocalClock, from_ms: int, until_ms: int) -> tuple[PlannedStart, ...]:
    """Return the runs that kept plans start in [from, until), in order of time; a pin counts more than the plan.

    A run that is no longer wanted, or of another date than the plan's, is not started.
    """
    wanted = {run.id: run for run in home.wanted_runs}
    found = []
    for planned in _kept(home):
        begin = clock.instant(planned.on, 0)
        for part in planned.parts:
            run = wanted.get(part.part_id)
            if part.slot is None or run is None or not 0 <= (run.on - planned.on).days < planned.days:
                continue
            machine = home.appliance(run.appliance_id)
            at = _start_ms(clock, planned, part.slot, run)
            name = f"{machine.name}, {run.label}" if run.label else machine.name
            if from_ms <= at < until_ms:
                start = PlannedStart(
                    run_id=run.id, appliance_id=machine.id, name=name, at_ms=at, late_ms=at + LATE_START_MS
                )
                found.append((at, begin, start))
    return tuple(start for _, _, start in sorted(found, key=lambda row: row[:2]))


def _start_ms(clock: LocalClock, planned: PlannedDay, slot: int, run: WantedRun) -> int:
    begin, step = clock.instant(planned.on, 0), planned.step_min * MS_PER_MIN
    if run.pinned_min is not None:
        days, minute = divmod(run.pinned_min, MIN_PER_DAY)
        slot = (clock.instant(planned.on + timedelta(days=days), minute) - begin) // step
    return begin + slot * step


def can_start(home: Home, start: PlannedStart) -> bool:
    """Return whether a run's appliance has a command that switches it on; else a person starts it."""
    return any(m.target_id == start.appliance_id and m.does == "switch" for m in home.command_mappings)


def with_plan(
    asked: Sequence[AskedValue],
    home: Home,
    starts: Iterable[PlannedStart],
    clock: LocalClock,
    running: Collection[str],
    at_ms: int,
) -> list[AskedValue]:
    """Return what is asked at an instant with what the plan adds where no rule asks anything of the same target."""
    taken = {(each.target_id, each.does) for each in asked}
    planned = [*starts_asked(starts, running, at_ms), *stores_asked(home, clock, at_ms)]
    return [*asked, *(each for each in planned if (each.target_id, each.does) not in taken)]


def starts_asked(starts: Iterable[PlannedStart], running: Collection[str], at_ms: int) -> list[AskedValue]:
    """Return what the plan asks of appliances at an instant: to start, unless they run already; never to stop."""
    return [
        AskedValue(
            target_id=start.appliance_id,
            does="switch",
            value=1.0,
            kind="plan",
            reason=PLAN_REASON,
            from_ms=start.at_ms,
            until_ms=start.late_ms,
            is_start=True,
        )
        for start in starts
        if start.at_ms <= at_ms < start.late_ms and start.appliance_id not in running
    ]


def stores_asked(home: Home, clock: LocalClock, at_ms: int) -> list[AskedValue]:
    """Return what the plan asks at an instant of tanks, tubs and dryers: on in the slots in which it gives them power."""
    names = {store.id for store in home.water_stores} | {band.id for band in home.humidity_bands}
    found: dict[str, AskedValue] = {}
    for planned in _kept(home):
        begin, step = clock.instant(planned.on, 0), planned.step_min * MS_PER_MIN
        slot = (at_ms - begin) // step
        for part in planned.parts:
            if part.part_id in names and 0 <= slot < len(part.power_w):
                found[part.part_id] = _store_asked(part, int(slot), begin, step)
    return list(found.values())


def _store_asked(part: PlannedPart, slot: int, begin_ms: int, step_ms: int) -> AskedValue:
    is_on = [power > 0 for power in part.power_w]
    first, last = slot, slot
    while first and is_on[first - 1] == is_on[slot]:
        first -= 1
    while last + 1 < len(is_on) and is_on[last + 1] == is_on[slot]:
        last += 1
    return AskedValue(
        target_id=part.part_id,
        does="switch",
        value=float(is_on[slot]),
        kind="plan",
        reason=PLAN_REASON,
        from_ms=begin_ms + first * step_ms,
        until_ms=begin_ms + (last + 1) * step_ms,
    )


def _kept(home: Home) -> list[PlannedDay]:
    """Return the plans that can be carried out, the last made at the end."""
    return sorted((p for p in home.planned_days if not p.is_infeasible), key=lambda planned: planned.made_ms)
