"""Commands on machines: their kind and hours, the settings in use, and what a person says of cycles and phases.

A stretch of the log [start, end) in ms UTC names a cycle.
"""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Le

from warmeter.core.edits import cycle_labels
from warmeter.core.edits.cycle_labels import CycleSpan
from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import with_appliance, with_machine
from warmeter.core.edits.summary_words import moment_text
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, Asking, MachineKind, ToldSetting, Watts
from warmeter.core.home.part import Id, InstantMs, Name, TimeOfDay, Unit, Word
from warmeter.core.home.presets import MACHINE_LABEL, TELLS_LABEL
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN
from warmeter.core.wording import clock_time

WaitMin = Annotated[float, Ge(0), Le(10_080), Unit("min")]
KIND_FIELDS = ("name", "kind", "loses_clock", "cools_down", "locks_door", "restarts_by_hand")


@dataclass(frozen=True, slots=True, kw_only=True)
class UseSetting:
    """Put a setting in use: what it tells, under how many watts, for how long, and how long work must last to begin a run."""

    machine_id: Id
    tells: Asking
    threshold_w: Watts
    wait_min: WaitMin
    hysteresis_w: Annotated[float, Ge(0), Le(5000), Unit("W")] = 0.0
    start_s: Annotated[float, Ge(0), Le(3600), Unit("s")] = 0.0

    def edit(self, home: Home) -> Edit:
        """Return the home with it in use, in place of the one that told the same."""
        setting = ToldSetting(
            tells=self.tells,
            threshold_w=self.threshold_w,
            wait_s=60 * self.wait_min,
            hysteresis_w=self.hysteresis_w,
            start_s=self.start_s,
        )
        changed = cycle_labels.with_setting(home, self.machine_id, setting)
        words = f"{TELLS_LABEL[self.tells]}: {self.threshold_w:g} W for {self.wait_min:g} min"
        return Edit(changed, f"{home.appliance(self.machine_id).name} {words}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetSetting:
    """Put a setting out of use."""

    machine_id: Id
    tells: Asking

    def edit(self, home: Home) -> Edit:
        """Return the home in which nothing tells it any more."""
        changed = cycle_labels.without_setting(home, self.machine_id, self.tells)
        return Edit(changed, f"{home.appliance(self.machine_id).name}: nothing tells that it {TELLS_LABEL[self.tells]}")


def _one_cycle(home: Home, machine_id: str, old: CycleSpan, new: CycleSpan) -> Edit:
    """Return the home with a cycle's stretch changed, its programme kept."""
    machine = home.appliance(machine_id)
    is_apart = new.end_ms <= old.start_ms or old.end_ms <= new.start_ms
    cleared = cycle_labels.without_cycle(home, machine_id, old) if is_apart else home
    return Edit(
        cycle_labels.with_cycle(cleared, machine_id, new, machine.programme_of(old)),
        f"{machine.name}: run of {moment_text(home, new.start_ms)} to {moment_text(home, new.end_ms)}",
        new.text,
        fold=f"cycle-{machine_id}-{old.end_ms if new.end_ms == old.end_ms else old.start_ms}",
    )


def _span(start_ms: int, end_ms: int) -> CycleSpan:
    if end_ms <= start_ms:
        raise HomeError("a run must end after it starts")
    return CycleSpan(start_ms, end_ms)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveCycleEnd:
    """Move one end of a cycle to a minute after an instant, as the strip in view has it."""

    machine_id: Id
    span: CycleSpan
    edge: Literal["start", "end"]
    since_ms: InstantMs
    at_min: Annotated[float, Ge(-1e7), Le(1e7)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        at_ms = self.since_ms + round(self.at_min * MS_PER_MIN)
        is_start = self.edge == "start"
        moved = _span(at_ms, self.span.end_ms) if is_start else _span(self.span.start_ms, at_ms)
        return _one_cycle(home, self.machine_id, self.span, moved)


@dataclass(frozen=True, slots=True, kw_only=True)
class RetypeCycle:
    """Type the ends of a cycle on the home's clock."""

    machine_id: Id
    span: CycleSpan
    start_day: date
    start_time: TimeOfDay
    end_day: date
    end_time: TimeOfDay

    def edit(self, home: Home) -> Edit:
        """Return the home with them typed."""
        clock = LocalClock(home.time_zone)
        ends = clock.instant(self.start_day, self.start_time), clock.instant(self.end_day, self.end_time)
        return _one_cycle(home, self.machine_id, self.span, _span(*ends))


@dataclass(frozen=True, slots=True, kw_only=True)
class AddCycle:
    """Say that a stretch typed on the home's clock is a cycle."""

    machine_id: Id
    start_day: date
    start_time: TimeOfDay
    end_day: date
    end_time: TimeOfDay

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        clock = LocalClock(home.time_zone)
        span = _span(clock.instant(self.start_day, self.start_time), clock.instant(self.end_day, self.end_time))
        words = f"run of {moment_text(home, span.start_ms)} to {moment_text(home, span.end_ms)} added"
        changed = cycle_labels.with_cycle(home, self.machine_id, span)
        return Edit(changed, f"{home.appliance(self.machine_id).name}: {words}", span.text)


@dataclass(frozen=True, slots=True, kw_only=True)
class RejectCycle:
    """Say that a stretch is no cycle."""

    machine_id: Id
    span: CycleSpan

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        words = f"{home.appliance(self.machine_id).name}: no run at {moment_text(home, self.span.start_ms)}"
        return Edit(cycle_labels.without_cycle(home, self.machine_id, self.span), words, "")


@dataclass(frozen=True, slots=True, kw_only=True)
class SplitCycle:
    """Split a cycle at a time of day inside it."""

    machine_id: Id
    span: CycleSpan
    time: TimeOfDay

    def edit(self, home: Home) -> Edit:
        """Return the home with two cycles of it."""
        machine, clock, span = home.appliance(self.machine_id), LocalClock(home.time_zone), self.span
        days = {clock.local(at_ms).date() for at_ms in (span.start_ms, span.end_ms)}
        inside = [at_ms for day in days if span.start_ms < (at_ms := clock.instant(day, self.time)) < span.end_ms]
        if not inside:
            ends = f"{moment_text(home, span.start_ms)} and {moment_text(home, span.end_ms)}"
            raise HomeError(f"a run can be split only between {ends}")
        changed = cycle_labels.with_split(home, machine.id, span, inside[0], machine.programme_of(span))
        first = CycleSpan(span.start_ms, inside[0]).text
        return Edit(changed, f"{machine.name}: run split at {moment_text(home, inside[0])}", first)


@dataclass(frozen=True, slots=True, kw_only=True)
class JoinCycles:
    """Say that a cycle and the next one are one."""

    machine_id: Id
    span: CycleSpan
    next: CycleSpan

    def edit(self, home: Home) -> Edit:
        """Return the home with one cycle of both."""
        machine, whole = home.appliance(self.machine_id), _span(self.span.start_ms, self.next.end_ms)
        changed = cycle_labels.with_cycle(home, machine.id, whole, machine.programme_of(self.span))
        words = f"{machine.name}: runs from {moment_text(home, whole.start_ms)} on are one"
        return Edit(changed, words, whole.text)


@dataclass(frozen=True, slots=True, kw_only=True)
class NameCycle:
    """Name a cycle's programme, or with none take its name away."""

    machine_id: Id
    span: CycleSpan
    programme: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it named."""
        changed = cycle_labels.with_cycle(home, self.machine_id, self.span, self.programme)
        named = f"{home.appliance(self.machine_id).name}, run of {moment_text(home, self.span.start_ms)}"
        words = f"{named} named {self.programme}" if self.programme else f"{named}: name removed"
        return Edit(changed, words, self.span.text)


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetCycleLabels:
    """Leave what a stretch touches as it was found."""

    machine_id: Id
    span: CycleSpan

    def edit(self, home: Home) -> Edit:
        """Return the home in which nothing is said of it."""
        words = f"runs about {moment_text(home, self.span.start_ms)} as they were found"
        changed = cycle_labels.as_found(home, self.machine_id, self.span)
        return Edit(changed, f"{home.appliance(self.machine_id).name}: {words}", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class NamePhase:
    """Name the phases of a mean power within [low, high) W, or with none take their name away."""

    machine_id: Id
    low_w: Watts
    high_w: Watts
    name: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with them named."""
        changed = cycle_labels.with_phase_name(home, self.machine_id, self.name, self.low_w, self.high_w)
        words = f"phases of {self.low_w:g} to {self.high_w:g} W are called {self.name or 'nothing'}"
        return Edit(changed, f"{home.appliance(self.machine_id).name}: {words}")


@dataclass(frozen=True, slots=True, kw_only=True)
class CountAnew:
    """Count run time, starts and energy from an instant on, or with 0 again from the first reading."""

    machine_id: Id
    at_ms: InstantMs = 0

    def edit(self, home: Home) -> Edit:
        """Return the home with it counted so."""
        machine = home.appliance(self.machine_id)
        words = f"from {moment_text(home, self.at_ms)} on" if self.at_ms else "from its first reading"
        changed = with_appliance(home, replace(machine, counted_since_ms=self.at_ms or None))
        return Edit(changed, f"{machine.name}: counted {words}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeMachine:
    """Change a machine's name, its kind, and what cutting its plug would cost."""

    machine_id: Id
    values: Annotated[Values, FieldsOf(Appliance, KIND_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        changed = replace(home.appliance(self.machine_id), **self.values)
        return Edit(with_appliance(home, changed), f"{changed.name}: {MACHINE_LABEL[changed.kind]}")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddMachine:
    """Add a machine on a metering plug."""

    name: Name
    kind: MachineKind

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        changed = with_machine(home, self.name, self.kind)
        return Edit(changed, f"{self.name} added", changed.appliances[-1].id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeRunWindow:
    """Set the window in which a machine's runs may be planned, and the step of its start."""

    machine_id: Id
    values: Annotated[Values, FieldsOf(Appliance, ("earliest_min", "latest_end_min", "start_step_min"))]

    def edit(self, home: Home) -> Edit:
        """Return the home with it set; what was left empty stays."""
        changed = replace(home.appliance(self.machine_id), **self.values)
        return Edit(with_appliance(home, changed), f"{changed.name}: runs from {clock_time(changed.earliest_min)} on")
