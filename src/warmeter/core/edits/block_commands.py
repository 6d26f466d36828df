"""Commands on the blocks of a timetable, on days copied or cleared, on what may be done by hand, and on planned runs."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits import home_edits, timetable_edits
from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.level_edits import HEAT_RANGE_C
from warmeter.core.edits.summary_words import temperature_text
from warmeter.core.edits.timetable_edits import BlockPlace, Scope
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, TimeOfDay, Unit, Word
from warmeter.core.home.timetables import ChangePoint, HandRule
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import written_on
from warmeter.core.timetable.compare import name_of_key
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN
from warmeter.core.wording import clock_time

BlockC = Annotated[float, Ge(HEAT_RANGE_C[0]), Le(HEAT_RANGE_C[1]), Unit("°C")]
StripMinute = Annotated[int, Ge(-60), Le(8 * MIN_PER_DAY)]


def _named(home: Home, zone_id: str, words: str) -> str:
    return f"{home.zone_of_id(zone_id).name}: {words}"


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveBlockStart:
    """Move the start of a block to a time of day."""

    zone_id: Id
    block: BlockPlace
    start: TimeOfDay
    scope: Scope = "written"

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        changed = timetable_edits.moved_start(home, self.zone_id, self.block, self.start, self.scope)
        words = _named(home, self.zone_id, f"period starts {clock_time(self.start)}")
        return Edit(changed, words, fold=f"start-{self.zone_id}-{self.block.text}")


def _local(home: Home, strip_day: date, minute: int) -> tuple[date, int]:
    """Return the local date and minute of a real minute of a strip that begins with a date."""
    clock = LocalClock(home.time_zone)
    local = clock.local(clock.day(strip_day).start_ms + max(0, minute) * MS_PER_MIN)
    return local.date(), local.hour * 60 + local.minute


@dataclass(frozen=True, slots=True, kw_only=True)
class DragBlockStart:
    """Move the start of a block to a real minute of the strip in view, whose days may have 23 or 25 hours."""

    zone_id: Id
    block: BlockPlace
    minute: StripMinute
    strip_day: date
    scope: Scope = "written"

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved, within its own date."""
        on, minute = _local(home, self.strip_day, self.minute)
        start = minute if on == self.block.on else 0 if on < self.block.on else MIN_PER_DAY - 1
        return MoveBlockStart(zone_id=self.zone_id, block=self.block, start=start, scope=self.scope).edit(home)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeBlockSetpoint:
    """Give a block a setpoint of its own."""

    zone_id: Id
    block: BlockPlace
    setpoint_c: BlockC
    scope: Scope = "written"

    def edit(self, home: Home) -> Edit:
        """Return the home with it set; equal to its level's the block has none of its own."""
        changed = timetable_edits.own_setpoint(home, self.zone_id, self.block, self.setpoint_c, self.scope)
        words = _named(home, self.zone_id, f"own setpoint {temperature_text(home, self.setpoint_c)}")
        return Edit(changed, words, fold=f"top-{self.zone_id}-{self.block.text}")


@dataclass(frozen=True, slots=True, kw_only=True)
class UseSetpointEverywhere:
    """Make a block's own setpoint its level's number in the zone."""

    zone_id: Id
    block: BlockPlace

    def edit(self, home: Home) -> Edit:
        """Return the home with it so."""
        changed = timetable_edits.own_for_everywhere(home, self.zone_id, self.block)
        return Edit(changed, _named(home, self.zone_id, "a period's own setpoint made its level's number"))


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeBlockLevel:
    """Give a block another level; a setpoint of its own goes."""

    zone_id: Id
    block: BlockPlace
    level_id: Id
    scope: Scope = "written"

    def edit(self, home: Home) -> Edit:
        """Return the home with it set."""
        changed = timetable_edits.set_level(home, self.zone_id, self.block, self.level_id, None, self.scope)
        words = _named(home, self.zone_id, f"period is {home.level(self.level_id).name}")
        return Edit(changed, words, fold=f"level-{self.zone_id}-{self.block.text}")


@dataclass(frozen=True, slots=True, kw_only=True)
class SplitBlock:
    """Split a block: at a real minute of the strip in view, or in its middle to five minutes."""

    zone_id: Id
    block: BlockPlace | None = None
    minute: StripMinute | None = None
    strip_day: date | None = None
    scope: Scope = "written"

    def edit(self, home: Home) -> Edit:
        """Return the home with it split."""
        if self.minute is not None and self.strip_day is not None:
            on, at_min = _local(home, self.strip_day, self.minute)
        elif self.block is not None:
            on = self.block.on
            points = written_on(home, home.zone_of_id(self.zone_id), on).points
            if not 0 <= self.block.index < len(points):
                raise HomeError("there is no such period any more")
            ends = [*(point.start_min for point in points), MIN_PER_DAY]
            at_min = (ends[self.block.index] + ends[self.block.index + 1]) // 10 * 5
        else:
            raise HomeError("this form names no period")
        changed = timetable_edits.split(home, self.zone_id, on, at_min, self.scope)
        return Edit(changed, _named(home, self.zone_id, f"period split at {clock_time(at_min)}"))


@dataclass(frozen=True, slots=True, kw_only=True)
class MergeBlock:
    """Merge a block with the one before it."""

    zone_id: Id
    block: BlockPlace
    scope: Scope = "written"

    def edit(self, home: Home) -> Edit:
        """Return the home with them merged."""
        changed = timetable_edits.merged(home, self.zone_id, self.block, self.scope)
        return Edit(changed, _named(home, self.zone_id, "period merged with the one before"))


@dataclass(frozen=True, slots=True, kw_only=True)
class LayBlock:
    """Lay a block on a day, from a time to a time; an end at or before the start lies on the next day."""

    zone_id: Id
    level_id: Id
    day: date
    start: TimeOfDay
    end: TimeOfDay
    setpoint_c: BlockC | None = None
    scope: Scope = "written"

    @property
    def end_min(self) -> int:
        """Minute of the day at which it ends, 1440 at the end of its own."""
        return MIN_PER_DAY if self.end == 0 and self.start else self.end

    def edit(self, home: Home) -> Edit:
        """Return the home with it laid."""
        name = home.level(self.level_id).name
        point = ChangePoint(start_min=self.start, level_id=self.level_id, own_setpoint_c=self.setpoint_c)
        changed = timetable_edits.with_new_block(home, self.zone_id, self.day, point, self.end_min, self.scope)
        span = f"{clock_time(self.start)} to {clock_time(self.end % MIN_PER_DAY)}"
        return Edit(changed, _named(home, self.zone_id, f"{name} {span}"))


@dataclass(frozen=True, slots=True, kw_only=True)
class CopyDay:
    """Copy a day to other written days: weekdays, kinds of day, or a date typed."""

    zone_id: Id
    day: date
    to: tuple[str, ...] = ()
    other: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with them written."""
        keys = (*self.to, self.other) if self.other else self.to
        if not keys:
            raise HomeError("tick the days to copy this one to")
        changed = timetable_edits.copied_day(home, self.zone_id, self.day, keys)
        names = ", ".join(name_of_key(home, key) for key in keys)
        return Edit(changed, _named(home, self.zone_id, f"day copied to {names}")[:400])


@dataclass(frozen=True, slots=True, kw_only=True)
class CopyTimetable:
    """Copy a zone's timetable of a day over those of other zones."""

    zone_id: Id
    day: date
    to_zones: tuple[str, ...] = ()

    def edit(self, home: Home) -> Edit:
        """Return the home with them copied."""
        if not self.to_zones:
            raise HomeError("tick the zones to copy this timetable to")
        changed = timetable_edits.copied_zone(home, self.zone_id, self.to_zones, self.day)
        names = ", ".join(home.zone_of_id(key).name for key in self.to_zones)
        return Edit(changed, _named(home, self.zone_id, f"timetable copied to {names}")[:400])


@dataclass(frozen=True, slots=True, kw_only=True)
class ClearDay:
    """Clear a day to one block, of the level that it began with."""

    zone_id: Id
    day: date
    scope: Scope = "written"

    def edit(self, home: Home) -> Edit:
        """Return the home with it cleared."""
        changed = timetable_edits.cleared(home, self.zone_id, self.day, self.scope)
        return Edit(changed, _named(home, self.zone_id, "day cleared to one period"))


@dataclass(frozen=True, slots=True, kw_only=True)
class HandBackDay:
    """Take away a day that is written apart: what is written more broadly holds again."""

    zone_id: Id
    timetable_id: Id
    key: Word

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        changed = timetable_edits.handed_back(home, self.zone_id, self.timetable_id, self.key)
        return Edit(changed, _named(home, self.zone_id, f"{name_of_key(home, self.key)} no longer written apart"))


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeHandRule:
    """Say what may be changed by hand in a zone: range, step, longest length, and whether an empty room ends it."""

    zone_id: Id
    values: Annotated[Values, FieldsOf(HandRule, ("low_c", "high_c", "step_k", "longest_h", "empty_min"))]

    def edit(self, home: Home) -> Edit:
        """Return the home with it so."""
        zone = home.zone_of_id(self.zone_id)
        changed = timetable_edits.with_zone(home, replace(zone, hand=replace(zone.hand, **self.values)))
        return Edit(changed, f"{zone.name}: what may be changed by hand", fold=f"hand-rule-{zone.id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRun:
    """Set when a machine's planned run starts, as a minute of the strip in view."""

    appliance_id: Id
    minute: Annotated[int, Ge(-60), Le(2 * MIN_PER_DAY)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it planned, within the day."""
        at_min = max(0, min(self.minute, MIN_PER_DAY - 1))
        name = home.appliance(self.appliance_id).name
        changed = home_edits.planned_run(home, self.appliance_id, at_min)
        return Edit(changed, f"{name}: run planned {clock_time(at_min)}", fold=f"run-{self.appliance_id}")
