"""A machine's log: its cycles with what a person said of them, and the settings that tell them."""

from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable, TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, Asking, CycleMark
from warmeter.core.saving.simple import exact
from warmeter.core.signature.anomalies import PowerShift, bad_readings, moved_plug
from warmeter.core.signature.cycles import (
    Activity,
    Correction,
    Cycle,
    CycleFeatures,
    activity,
    corrected,
    cycle_features,
)
from warmeter.core.signature.machine_states import State, machine_states
from warmeter.core.signature.phases import Phase, phases_of
from warmeter.core.signature.recommending import SettingProposal, propose, propose_witness
from warmeter.core.signature.tuner import Expected, HandedOver, Setting, Verdict, asked_of, handed_over, judge
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.costing import prices_between
from warmeter.service.roomlogs import heard_stretch, means, series_of
from warmeter.store.readings import StoredSeries

MOST_STEPS = 4_000_000  # 32 MB a record: a longer log is read at a coarser step
KEPT = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class Counted:
    """Starts, run time [s] and energy, rest included [kWh], since some instant."""

    starts: int
    run_s: float
    energy_kwh: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineRecord:
    """What a machine's log says.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over even steps, NaN where not heard [W].
    start_ms : int
        Of the first step [ms UTC].
    step_s : float
        Length of a step [s].
    day : (step,) int array
        Local day of each step, from 0.
    first_date : date
        Local date of day 0.
    found : Activity
        Its cycles, as a person corrected them.
    proposals, verdicts, parts : dict
        Settings proposed and judged and phases found so far, kept for the next request of the same log.
    """

    appliance: Appliance
    power_w: Floats
    start_ms: int
    step_s: float
    day: Ints
    first_date: date
    found: Activity
    proposals: dict[object, SettingProposal] = field(default_factory=dict, compare=False, repr=False)
    verdicts: dict[object, Verdict] = field(default_factory=dict, compare=False, repr=False)
    parts: dict[object, tuple[Phase, ...]] = field(default_factory=dict, compare=False, repr=False)

    def at_ms(self, step: float) -> int:
        """Return the instant of a step [ms UTC]."""
        return self.start_ms + round(step * self.step_s * 1000)

    def step_at(self, at_ms: float) -> int:
        """Return the step that begins nearest to an instant."""
        return round((at_ms - self.start_ms) / (self.step_s * 1000))

    def features(self, cycle: Cycle) -> CycleFeatures:
        """Return what a cycle used and how."""
        return cycle_features(self.power_w[cycle.start : cycle.end], self.step_s)

    def phases(self, cycle: Cycle) -> tuple[Phase, ...]:
        """Return a cycle's phases."""
        key = cycle.start, cycle.end
        if key not in self.parts:
            self.parts[key] = phases_of(self.power_w, self.step_s, *key)
        return self.parts[key]

    @property
    def typical(self) -> Cycle | None:
        """The whole cycle of middle energy: its profile is the machine's own."""
        whole = sorted(self.found.whole, key=lambda c: float(np.nansum(self.power_w[c.start : c.end])))
        return whole[len(whole) // 2] if whole else None

    def counted(self, since_ms: int) -> Counted:
        """Return run time, starts and energy from an instant on."""
        first = min(max(self.step_at(since_ms), 0), self.power_w.size)
        cycles = [c for c in self.found.cycles if c.end > first]
        return Counted(
            starts=sum(c.start >= first for c in cycles),
            run_s=sum(c.end - max(c.start, first) for c in cycles) * self.step_s,
            energy_kwh=float(np.nansum(self.power_w[first:])) * self.step_s / J_PER_KWH,
        )

    def moved(self) -> PowerShift | None:
        """Return from which cycle on the plug seems to sit on another machine."""
        return moved_plug(self.power_w, self.found.cycles)

    def states(self) -> tuple[State, ...]:
        """Return the states of the machine at work, with the hours in each."""
        return machine_states(self.power_w, self.step_s, self.found.cycles)

    def profile_kwh(self) -> Floats:
        """Return the typical cycle's energy by minute, shape (minute,) [kWh]; empty without a cycle."""
        typical = self.typical
        if typical is None:
            return np.zeros(0)
        power = np.nan_to_num(self.power_w[typical.start : typical.end])
        minute = (np.arange(power.size) * self.step_s // 60).astype(np.int64)
        return np.bincount(minute, weights=power * self.step_s / J_PER_KWH).astype(np.float64)

    def asked(self, tells: Asking) -> Expected:
        """Return what there was to tell."""
        return asked_of(tells, self.found, self.day, self.power_w, self.step_s)


_RECORDS: Cache[MachineRecord | NotKnowable] = Cache(KEPT)


def machine_record(app: App, home: Home, appliance_id: str) -> MachineRecord:
    """Return what a machine's log says.

    Raises
    ------
    NotKnowable
        If no power of it was read in, or it shows no cycle.
    """
    appliance = home.appliance(appliance_id)
    imports = tuple(i.id for i in app.readings.imports(home.id) if not i.is_taken_back)
    key = str(app.engine.url), home.id, appliance_id, home.time_zone, imports
    found = _RECORDS.get(key, lambda: _record_or_why(app, home, appliance))
    if isinstance(found, NotKnowable):
        raise type(found)(found.why, found.record)
    return _as_corrected(found, appliance)


def _record_or_why(app: App, home: Home, appliance: Appliance) -> MachineRecord | NotKnowable:
    """Return what a machine's log says, or why nothing can be said of it: either takes long for a long log."""
    try:
        return _record(app, home, appliance)
    except NotKnowable as why:
        return type(why)(why.why, why.record)


def _as_corrected(record: MachineRecord, appliance: Appliance) -> MachineRecord:
    """Return a record with the machine as it is now and its cycles as a person corrected them."""
    marks = [_correction(mark, record.start_ms, record.step_s) for mark in appliance.marks]
    found, off_w = record.found, record.found.learnt.setting.off_w
    cycles = corrected(record.power_w, record.step_s, found.cycles, marks, off_w)
    return replace(record, appliance=appliance, found=Activity(learnt=found.learnt, cycles=cycles))


def power_series_of(app: App, home: Home, appliance: Appliance) -> list[StoredSeries]:
    """Return the series of a machine's power.

    Raises
    ------
    NotKnowable
        If none was read in.
    """
    series = series_of(app, home.id, "electric_w", appliance.id)
    if not series:
        raise NotKnowable(
            f"No power of {appliance.name} has been read in.",
            "Put a metering plug on it and record two or three cycles, at 10 s to 60 s a reading.",
        )
    return series


def power_of(app: App, home: Home, appliance: Appliance) -> tuple[Floats, int, float]:
    """Return a machine's mean power over even steps [W], the first instant [ms UTC], and the step [s].

    Single readings that cannot be are left out. The finest series decides the step. Series of several steps are never added: where two speak, the finest is taken.

    Raises
    ------
    NotKnowable
        If none was read in.
    """
    series = power_series_of(app, home, appliance)
    finest_first = sorted(series, key=lambda s: s.record.step_s or s.record.longest_hold_s)
    step = float(max(1, min((s.record.step_s for s in series if s.record.step_s), default=10)))
    start, last = heard_stretch(app, series)
    while (last - start) / 1000 / step > MOST_STEPS:
        step *= 2
    steps = int((last - start) / 1000 // step) + 1
    power = means(app, finest_first, start, step, steps)
    power[bad_readings(power)] = np.nan
    return power, start, step


def _record(app: App, home: Home, appliance: Appliance) -> MachineRecord:
    power, start, step = power_of(app, home, appliance)
    clock = app.clock(home)
    first = clock.local(start).date()
    return MachineRecord(
        appliance=appliance,
        power_w=power,
        start_ms=start,
        step_s=step,
        day=local_days(clock, start, step, power.size),
        first_date=first,
        found=activity(power, step),
    )


def local_days(clock: LocalClock, start_ms: int, step_s: float, steps: int) -> Ints:
    """Return the local day of each step, from 0, shape (step,)."""
    ends = np.array([day.end_ms for day in clock.days(start_ms, start_ms + round(steps * step_s * 1000) + 1)])
    return np.searchsorted(ends, start_ms + np.arange(steps) * (step_s * 1000), side="right").astype(np.int64)


def _correction(mark: CycleMark, start_ms: int, step_s: float) -> Correction:
    first, last = (round((at - start_ms) / (step_s * 1000)) for at in (mark.start_ms, mark.end_ms))
    return Correction(start=first, end=max(last, first + 1), is_cycle=mark.is_cycle, programme=mark.programme)


def proposal_of(record: MachineRecord, tells: Asking, hysteresis_w: float = 0.0) -> SettingProposal:
    """Return the setting proposed to tell something, with everything that was tried; kept for the next request.

    Raises
    ------
    NotKnowable
        If the log holds fewer than two whole cycles.
    """
    key = record.appliance.marks, tells, hysteresis_w
    if key not in record.proposals:
        record.proposals[key] = propose(record.power_w, record.step_s, record.found, record.day, tells, hysteresis_w)
    return record.proposals[key]


def witness_of(app: App, home: Home, record: MachineRecord, tells: Asking) -> SettingProposal | None:
    """Return how well a vibration sensor or contact would tell the same; None where none was read in."""
    series = series_of(app, home.id, "machine_is_on", record.appliance.id)
    if not series:
        return None
    key = "witness", record.appliance.marks, tells
    if key not in record.proposals:
        is_on = means(app, series, record.start_ms, record.step_s, record.power_w.size)
        record.proposals[key] = propose_witness(is_on, record.step_s, record.asked(tells))
    return record.proposals[key]


def setting_in_use(appliance: Appliance, tells: Asking) -> Setting | None:
    """Return the setting in use that tells something."""
    told = appliance.setting(tells)
    if told is None:
        return None
    return Setting(threshold_w=told.threshold_w, wait_s=told.wait_s, hysteresis_w=told.hysteresis_w)


def judged(record: MachineRecord, tells: Asking, setting: Setting) -> Verdict:
    """Return what a setting would have told over the record."""
    key = record.appliance.marks, tells, setting
    if key not in record.verdicts:
        record.verdicts[key] = judge(record.power_w, record.step_s, record.asked(tells), setting)
    return record.verdicts[key]


def handed(record: MachineRecord, tells: Asking, setting: Setting) -> HandedOver:
    """Return the sentence that hands a setting over, judged over the record as it is typed."""
    return handed_over(record.power_w, record.step_s, record.asked(tells), setting)


def cost_between(app: App, home: Home, record: MachineRecord, start: int, end: int) -> Decimal | None:
    """Return what steps [start, end) cost at their hours; None without a tariff for them."""
    begin = record.at_ms(start)
    tariff = home.tariff_on(app.clock(home).local(begin).date())
    if tariff is None or end <= start:
        return None
    power = record.power_w[start:end]
    minute0 = begin // MS_PER_MIN * MS_PER_MIN
    try:
        prices = prices_between(tariff, app.clock(home), minute0, record.at_ms(end) + 2 * MS_PER_MIN)
    except TariffError:
        return None
    minute = ((np.arange(power.size) * record.step_s * 1000 + (begin - minute0)) // MS_PER_MIN).astype(np.int64)
    kwh = np.bincount(prices.rate[minute], weights=np.nan_to_num(power) * record.step_s / J_PER_KWH)
    return sum((exact(float(k)) * rate.price_per_kwh for k, rate in zip(kwh, tariff.rates, strict=False)), Decimal(0))


def rounded_setting(setting: Setting, step_w: float, step_min: float, least_w: float = 0.0) -> Setting:
    """Return a setting in the plug's own steps: threshold to the nearest that is no lower than ``least_w``, wait up."""
    waits = int(np.ceil(setting.wait_s / (60 * step_min) - 1e-9))
    steps = max(1, round(setting.threshold_w / step_w), int(np.ceil(least_w / step_w - 1e-9)))
    return Setting(threshold_w=steps * step_w, wait_s=max(1, waits) * 60 * step_min, hysteresis_w=setting.hysteresis_w)


def days_of(record: MachineRecord) -> float:
    """Return how many days the record spans."""
    return record.power_w.size * record.step_s * 1000 / MS_PER_DAY
