"""Commands on the plan of the day: what is wanted, pins, and how a home plans."""

from dataclasses import dataclass, replace
from datetime import date, timedelta

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import put
from warmeter.core.edits.preheat_edits import with_preheats, without_preheats
from warmeter.core.errors import HomeError
from warmeter.core.home.day_plans import (
    HumidityBand,
    PlannedDay,
    PlanPractice,
    WantedCharge,
    WantedHours,
    WantedRun,
    WaterStore,
)
from warmeter.core.home.document import Home
from warmeter.core.home.machines import CYCLES_BY_ITSELF
from warmeter.core.home.preheats import PreheatZone
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY
from warmeter.core.wording import clock_time


@dataclass(frozen=True, slots=True, kw_only=True)
class PutWantedRun:
    """Want a run of a machine on a date, or change one; ``HomeError`` for what starts by itself."""

    run: WantedRun

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        machine = home.appliance(self.run.appliance_id)
        if machine.kind in CYCLES_BY_ITSELF:
            raise HomeError(f"{machine.name} starts and stops by itself: only what a person starts is planned")
        said = f"{machine.name} wanted on {self.run.on:%d %b %Y}"
        return Edit(replace(home, wanted_runs=put(home.wanted_runs, self.run)), said, self.run.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class PinRun:
    """Set a wanted run's start, or leave it to the plan again (None)."""

    run_id: str
    minute: int | None

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        run = home.wanted_run(self.run_id)
        name = home.appliance(run.appliance_id).name
        said = (
            f"{name} left to the plan"
            if self.minute is None
            else f"{name} pinned at {clock_time(self.minute % MIN_PER_DAY)}"
        )
        changed = replace(run, pinned_min=self.minute)
        return Edit(replace(home, wanted_runs=put(home.wanted_runs, changed)), said, run.id, fold=f"pin {run.id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class PutWantedCharge:
    """Want an amount charged by a time, or change that."""

    charge: WantedCharge

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        said = f"{self.charge.name}: {self.charge.kwh:g} kWh wanted on {self.charge.on:%d %b %Y}"
        return Edit(replace(home, wanted_charges=put(home.wanted_charges, self.charge)), said, self.charge.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class PutWantedHours:
    """Want so many hours of something, or change that."""

    hours: WantedHours

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        said = f"{self.hours.name}: {self.hours.hours:g} h wanted on {self.hours.on:%d %b %Y}"
        return Edit(replace(home, wanted_hours=put(home.wanted_hours, self.hours)), said, self.hours.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class PutWaterStore:
    """Keep a store of water that is planned each day."""

    store: WaterStore

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        return Edit(
            replace(home, water_stores=put(home.water_stores, self.store)),
            f"{self.store.name}, {self.store.litres:g} L, planned",
            self.store.id,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class PutHumidityBand:
    """Keep a room's humidity within a band, planned each day."""

    band: HumidityBand

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        said = f"{self.band.name}, {self.band.low_pct:g} to {self.band.high_pct:g} %, planned"
        return Edit(replace(home, humidity_bands=put(home.humidity_bands, self.band)), said, self.band.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveWanted:
    """Take a wanted run, a charge or a store out; runs that followed it follow none then."""

    part_id: str

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        wanted = {part.id for part in home.wanted_runs} | {part.id for part in home.wanted_charges}
        wanted |= {part.id for part in home.wanted_hours}
        wanted |= {part.id for part in home.water_stores} | {part.id for part in home.humidity_bands}
        if self.part_id not in wanted:
            raise HomeError("there is nothing of that id in the plan")
        runs = tuple(
            replace(run, after_id=None, after_within_min=None) if run.after_id == self.part_id else run
            for run in home.wanted_runs
            if run.id != self.part_id
        )
        changed = replace(
            home,
            wanted_runs=runs,
            wanted_charges=tuple(each for each in home.wanted_charges if each.id != self.part_id),
            wanted_hours=tuple(each for each in home.wanted_hours if each.id != self.part_id),
            water_stores=tuple(each for each in home.water_stores if each.id != self.part_id),
            humidity_bands=tuple(each for each in home.humidity_bands if each.id != self.part_id),
        )
        return Edit(changed, "Removed from the plan")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetPlanPractice:
    """Set how a home plans its day."""

    practice: PlanPractice

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        return Edit(replace(home, plan_practice=self.practice), "How the day is planned")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanZone:
    """Let a zone be warmed or cooled ahead, or change how far; ``is_planned`` unset leaves it to its timetable alone."""

    zone: PreheatZone
    is_planned: bool = True

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        name = home.zone_of_id(self.zone.zone_id).name
        others = tuple(each for each in home.plan_practice.preheats if each.zone_id != self.zone.zone_id)
        practice = replace(home.plan_practice, preheats=(*others, self.zone) if self.is_planned else others)
        said = f"{name} planned ahead" if self.is_planned else f"{name} left to its timetable"
        return Edit(replace(home, plan_practice=practice), said)


@dataclass(frozen=True, slots=True, kw_only=True)
class TakePreheats:
    """Lay a plan's pre-heats into the timetables of its zones, on its dates alone; ``is_lifted`` takes them out again."""

    on: date
    is_lifted: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with them; ``HomeError`` where that date has no plan with rooms."""
        planned = next((each for each in home.planned_days if each.on == self.on), None)
        if planned is None or not planned.preheats:
            raise HomeError("the plan of that day warms nothing ahead")
        clock = LocalClock(home.time_zone)
        dates = [self.on + timedelta(days=k) for k in range(planned.days)]
        changed, laid = home, 0
        for each in planned.preheats:
            for on in dates:
                changed = without_preheats(changed, each.zone_id, on)
            if not self.is_lifted:
                changed = with_preheats(changed, each.zone_id, clock, each.blocks)
                laid += len(each.blocks)
        said = "lifted" if self.is_lifted else f"{laid} laid into the timetable"
        return Edit(changed, f"Pre-heats of {self.on:%d %b %Y}: {said}")


MOST_KEPT = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class KeepPlan:
    """Keep a plan in the place of that of its date; the oldest go where there are many."""

    planned: PlannedDay

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        others = [each for each in home.planned_days if each.on != self.planned.on]
        kept = tuple(sorted((*others, self.planned), key=lambda each: each.on)[-MOST_KEPT:])
        said = (
            "nothing fits"
            if self.planned.is_infeasible
            else f"{self.planned.cost:.2f}, habit {self.planned.habit_cost:.2f}"
        )
        return Edit(replace(home, planned_days=kept), f"Plan of {self.planned.on:%d %b %Y}: {said}")
