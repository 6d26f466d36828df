"""A machine's log: its runs, the finish setting it proves, and when a run is cheapest."""

from collections import OrderedDict
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import NotKnowable, OutOfRange, TariffError
from warmeter.core.home.document import DAY_MIN, Appliance, Home
from warmeter.core.signature.cycles import Activity, CycleFeatures, MachineRun, activity, cycle_features
from warmeter.core.signature.thresholds import FinishSetting, Proposal, Verdict, judge, propose
from warmeter.core.tariff.window import Start, cheapest_start, starts_by_cost
from warmeter.core.units import J_PER_KWH, MS_PER_MIN
from warmeter.service.outlook import prices_between
from warmeter.service.roomlogs import means, series_of
from warmeter.service.workbench import Workbench

Floats = NDArray[np.float64]
GRID_W = (0.7, 1.0, 1.6, 2.5, 5.0)  # thresholds of the table, as shares of the proposed one
GRID_WAIT = (0.2, 0.4, 0.7, 1.0, 2.0)  # waits likewise


@dataclass(frozen=True, slots=True, kw_only=True)
class RunLine:
    """A run in a list: when [ms UTC], features, cost and what its energy was by phase."""

    run: MachineRun
    start_ms: int
    end_ms: int
    features: CycleFeatures
    cost: Decimal | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """A setting and what it would have told."""

    setting: FinishSetting
    verdict: Verdict


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineRecord:
    """What a machine's log says."""

    appliance: Appliance
    power_w: Floats
    start_ms: int
    step_s: float
    found: Activity
    runs: tuple[RunLine, ...]
    proposal: Proposal | None
    proposal_note: str
    mine: Tried | None
    grid: tuple[tuple[Tried, ...], ...]

    @property
    def typical(self) -> RunLine | None:
        """The whole run of middle energy: its profile is the machine's own."""
        whole = sorted((r for r in self.runs if r.run.is_whole), key=lambda r: r.features.energy_kwh)
        return whole[len(whole) // 2] if whole else None

    def profile_kwh(self) -> Floats:
        """Return the typical run's energy by minute, shape (minute,) [kWh]; empty without a run."""
        if self.typical is None:
            return np.zeros(0)
        power = np.nan_to_num(self.power_w[self.typical.run.start : self.typical.run.end])
        minute = (np.arange(power.size) * self.step_s // 60).astype(np.int64)
        return np.bincount(minute, weights=power * self.step_s / J_PER_KWH)


@dataclass(frozen=True, slots=True, kw_only=True)
class RunPlan:
    """Starts of a machine on a day: minutes since local midnight, with costs."""

    starts: tuple[Start, ...]
    cheapest: Start
    planned: Start | None
    dearest: Start
    profile_kwh: Floats
    midnight_ms: int


_RECORDS: OrderedDict[object, MachineRecord] = OrderedDict()


def machine_record(bench: Workbench, home: Home, appliance_id: str) -> MachineRecord:
    """Return what a machine's log says.

    Raises
    ------
    NotKnowable
        If no power of it was read in, or it shows no run.
    """
    appliance = home.appliance(appliance_id)
    imports = tuple(i.id for i in bench.readings.imports(home.id) if not i.is_taken_back)
    key = (str(bench.engine.url), home.id, appliance, home.tariffs, home.zone, imports)
    if key not in _RECORDS:
        _RECORDS[key] = _record(bench, home, appliance)
        while len(_RECORDS) > 12:
            _RECORDS.popitem(last=False)
    return _RECORDS[key]


def _record(bench: Workbench, home: Home, appliance: Appliance) -> MachineRecord:
    series = series_of(bench, home.id, "electric_w", appliance.id)
    if not series:
        raise NotKnowable(
            f"No power of {appliance.name} has been read in.",
            "Put a metering plug on it and record two or three runs, at 10 s to 60 s a reading.",
        )
    step = float(max(10, min((s.record.step_s for s in series if s.record.step_s), default=10)))
    spans = [bench.readings.readings(s.id).at_ms[[0, -1]] for s in series]
    start = min(int(span[0]) for span in spans)
    steps = int((max(int(span[1]) for span in spans) - start) / 1000 // step) + 1
    power = means(bench, series, start, step, steps)
    found = activity(power, step)
    proposal, note = None, ""
    try:
        proposal = propose(power, step, found)
    except NotKnowable as error:
        note = str(error)
    mine = None
    if appliance.threshold_w is not None and appliance.wait_min is not None:
        setting = FinishSetting(threshold_w=appliance.threshold_w, wait_s=60 * appliance.wait_min)
        mine = Tried(setting=setting, verdict=judge(power, step, found, setting))
    return MachineRecord(
        appliance=appliance,
        power_w=power,
        start_ms=start,
        step_s=step,
        found=found,
        runs=tuple(_run_line(bench, home, power, start, step, run) for run in found.runs),
        proposal=proposal,
        proposal_note=note,
        mine=mine,
        grid=_grid(power, step, found, proposal),
    )


def _run_line(bench: Workbench, home: Home, power: Floats, start_ms: int, step: float, run: MachineRun) -> RunLine:
    begin, end = start_ms + round(run.start * step * 1000), start_ms + round(run.end * step * 1000)
    return RunLine(
        run=run,
        start_ms=begin,
        end_ms=end,
        features=cycle_features(power[run.start : run.end], step),
        cost=_run_cost(bench, home, power[run.start : run.end], begin, step),
    )


def _run_cost(bench: Workbench, home: Home, power: Floats, start_ms: int, step: float) -> Decimal | None:
    clock = bench.clock(home)
    tariff = home.tariff_on(clock.local(start_ms).date())
    if tariff is None:
        return None
    minute0 = start_ms // MS_PER_MIN * MS_PER_MIN
    try:
        prices = prices_between(tariff, clock, minute0, start_ms + round(power.size * step * 1000) + 2 * MS_PER_MIN)
    except TariffError:
        return None
    minute = ((np.arange(power.size) * step * 1000 + (start_ms - minute0)) // MS_PER_MIN).astype(np.int64)
    kwh = np.bincount(prices.rate[minute], weights=np.nan_to_num(power) * step / J_PER_KWH)
    return sum(
        (Decimal(repr(round(float(k), 9))) * r.price_per_kwh for k, r in zip(kwh, tariff.rates, strict=False)),
        Decimal(0),
    )


def _grid(power: Floats, step: float, found: Activity, proposal: Proposal | None) -> tuple[tuple[Tried, ...], ...]:
    """Return thresholds by waits around the proposal, each judged."""
    if proposal is None:
        return ()
    base = rounded_setting(proposal.setting, 1.0, 1.0)
    rows = []
    for threshold in sorted({max(1.0, round(base.threshold_w * share)) for share in GRID_W}):
        settings = [
            FinishSetting(threshold_w=threshold, wait_s=wait)
            for wait in sorted({max(60.0, round(base.wait_s * share / 60) * 60) for share in GRID_WAIT})
        ]
        rows.append(tuple(Tried(setting=s, verdict=judge(power, step, found, s)) for s in settings))
    return tuple(rows)


def rounded_setting(setting: FinishSetting, step_w: float, step_min: float) -> FinishSetting:
    """Return a setting in the plug's own steps: threshold to the nearest, wait up."""
    waits = int(np.ceil(setting.wait_s / (60 * step_min) - 1e-9))
    return FinishSetting(
        threshold_w=max(step_w, round(setting.threshold_w / step_w) * step_w), wait_s=max(1, waits) * 60 * step_min
    )


def run_plan(bench: Workbench, home: Home, record: MachineRecord, on: date) -> RunPlan:
    """Return what each allowed start of the typical run costs on a day.

    Raises
    ------
    NotKnowable
        If the log shows no whole run, there is no tariff, or the window is too short.
    """
    profile, machine = record.profile_kwh(), record.appliance
    if profile.size == 0:
        raise NotKnowable("The log shows no whole run.", "Record one from start to end.")
    clock, tariff = bench.clock(home), home.tariff_on(on)
    if tariff is None:
        raise NotKnowable("There is no tariff.", "Type its rates under Tariff.")
    day, last = clock.day(on), clock.day(on + timedelta(days=1))
    prices = prices_between(tariff, clock, day.start_ms, last.end_ms)
    earliest = (clock.instant(on, machine.earliest_min) - day.start_ms) // MS_PER_MIN
    end_date, end_min = (on, machine.latest_end_min)
    if end_min > DAY_MIN:
        end_date, end_min = on + timedelta(days=1), end_min - DAY_MIN
    latest = (clock.instant(end_date, end_min) - day.start_ms) // MS_PER_MIN
    try:
        starts = starts_by_cost(
            prices.by_minute,
            profile,
            1,
            earliest_min=earliest,
            latest_end_min=latest,
            start_step_min=machine.start_step_min,
        )
    except OutOfRange as error:
        raise NotKnowable(
            f"A run takes {profile.size} min, which does not fit between its earliest start and latest end.",
            "Widen the window.",
        ) from error
    planned_at = (clock.instant(on, machine.start_min) - day.start_ms) // MS_PER_MIN
    room = prices.by_minute.size - profile.size
    planned = starts_by_cost(
        prices.by_minute,
        profile,
        1,
        earliest_min=min(planned_at, room),
        latest_end_min=prices.by_minute.size,
        start_step_min=prices.by_minute.size,
    )[0]
    return RunPlan(
        starts=tuple(starts),
        cheapest=cheapest_start(starts),
        planned=planned,
        dearest=max(starts, key=lambda s: s.cost),
        profile_kwh=profile,
        midnight_ms=day.start_ms,
    )
