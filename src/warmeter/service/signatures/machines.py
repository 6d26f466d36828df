"""A machine's log: its cycles with what a person said of them, and the settings that tell them."""

from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.appliance.setting_question import SettingAnswer
from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, Asking, CycleMark
from warmeter.core.signature.anomalies import bad_readings
from warmeter.core.signature.cycles import Activity, Correction, activity, corrected
from warmeter.core.signature.recommending import SettingProposal, better_witness, propose_witness
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import heard_stretch, means, series_of
from warmeter.service.tariffs.pricing import known_prices
from warmeter.store.readings import StoredSeries

MOST_STEPS = 4_000_000  # 32 MB a record: a longer log is read at a coarser step
KEPT = 6


_RECORDS: Cache[MachineRecord | NotKnowable] = Cache(KEPT)


def machine_record(app: App, home: Home, appliance_id: str) -> MachineRecord:
    """Return what a machine's log says.

    Raises
    ------
    NotKnowable
        If no power of it was read in, or it shows no cycle.
    """
    appliance = home.appliance(appliance_id)
    imports = app.readings.import_stamp(home.id)
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
            f"No power of {appliance.name} has been imported.",
            "Put a metering plug on it and record two or three runs, at 10 s to 60 s a reading.",
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


@dataclass(frozen=True, slots=True)
class ComparedWitness:
    """How a vibration sensor or contact would tell, and whether better than the power."""

    witness: SettingProposal
    is_better: bool


def compared_witness(app: App, home: Home, record: MachineRecord, answer: SettingAnswer) -> ComparedWitness | None:
    """Return a machine's second witness held against what its power proposes; None where either is not known."""
    if answer.proposed is None:
        return None
    try:
        witness = witness_of(app, home, record, answer.asking)
    except NotKnowable:
        return None
    if witness is None:
        return None
    mine = answer.proposed.proposal
    return ComparedWitness(witness, is_better=better_witness(mine, witness) is not mine)


def cost_between(app: App, home: Home, record: MachineRecord, start: int, end: int) -> Decimal | None:
    """Return what steps [start, end) cost at their hours; None without a tariff for them."""
    begin = record.at_ms(start)
    tariff = home.tariff_on(app.clock(home).local(begin).date())
    if tariff is None or end <= start:
        return None
    power = record.power_w[start:end]
    at_ms = begin + np.arange(power.size, dtype=np.int64) * round(record.step_s * 1000)
    prices = known_prices(app, home, at_ms // MS_PER_MIN * MS_PER_MIN)
    return None if prices is None else prices.cost(np.nan_to_num(power) * record.step_s / J_PER_KWH)
