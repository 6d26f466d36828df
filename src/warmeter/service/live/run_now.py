"""Appliances that run now: since when, in which phase, and how long they will go on, by their own past runs."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.live.run_progress import RunProgress, run_progress
from warmeter.core.truth.track import heard, value_of
from warmeter.core.units import MS_PER_H, MS_PER_MIN, S_PER_MIN
from warmeter.service.app import App
from warmeter.service.rules.rule_signals import track_of
from warmeter.service.signatures.machines import machine_record

LONGEST_RUN_MS = 8 * MS_PER_H
HOLD_MS = 15 * MS_PER_MIN
PHASE_MIN = 3
USUAL_WAIT_MIN = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RunNow:
    """A run that goes on: since when [ms, home], its power of the last minutes, that of the phase that past runs were in, progress or why not."""

    appliance: Appliance
    begun_ms: int
    power_w: float
    phase_w: float
    progress: RunProgress | None
    why: str = ""


def runs_now(app: App, home: Home, now_ms: int) -> tuple[RunNow, ...]:
    """Return the runs that go on now, of appliances with a setting that tells when they have finished."""
    found = (_run_now(app, home, appliance, now_ms) for appliance in home.appliances)
    return tuple(run for run in found if run is not None)


def _run_now(app: App, home: Home, appliance: Appliance, now_ms: int) -> RunNow | None:
    setting = appliance.setting("finished")
    if setting is None:
        return None
    signal = Signal(quantity="electric_w", subject_id=appliance.id)
    track = heard(track_of(app, home, signal, now_ms - LONGEST_RUN_MS, now_ms + 1), HOLD_MS)
    minutes = now_ms - MS_PER_MIN * np.arange(LONGEST_RUN_MS // MS_PER_MIN, -1, -1, dtype=np.int64)
    power = value_of(track, minutes)
    wait_min = max(1, round(setting.wait_s / S_PER_MIN)) if setting.wait_s else round(USUAL_WAIT_MIN)
    begin = _begin(power, setting.threshold_w, wait_min)
    if begin is None:
        return None
    so_far = np.nan_to_num(power[begin:-1])
    recent = float(np.nan_to_num(power[-PHASE_MIN:]).mean())
    try:
        record = machine_record(app, home, appliance.id)
        past = [_by_minute(record.power_w[c.start : c.end], record.step_s) for c in record.found.whole]
        progress = run_progress(so_far, past)
        cycle = record.found.whole[progress.most_alike]
        step = cycle.start + round(progress.elapsed_min * S_PER_MIN / record.step_s)
        phase = next((p for p in record.phases(cycle) if p.start <= step < p.end), None)
    except NotKnowable as error:
        return RunNow(
            appliance=appliance,
            begun_ms=int(minutes[begin]),
            power_w=recent,
            phase_w=recent,
            progress=None,
            why=error.why,
        )
    return RunNow(
        appliance=appliance,
        begun_ms=int(minutes[begin]),
        power_w=recent,
        phase_w=recent if phase is None else phase.mean_w,
        progress=progress,
    )


def _begin(power_w: Floats, threshold_w: float, wait_min: int) -> int | None:
    """Return the minute in which the run that goes on began, None if none does: it rests no longer than it may within one."""
    works = np.flatnonzero(np.nan_to_num(power_w) >= max(threshold_w, 1.0))
    if not works.size or power_w.size - 1 - int(works[-1]) > wait_min:
        return None
    pauses = np.flatnonzero(np.diff(works) > wait_min)
    return int(works[pauses[-1] + 1]) if pauses.size else int(works[0])


def _by_minute(power_w: Floats, step_s: float) -> Floats:
    """Return the mean power of each minute of a run [W]."""
    minute = (np.arange(power_w.size) * step_s // S_PER_MIN).astype(np.int64)
    counts = np.bincount(minute)
    sums = np.bincount(minute, weights=np.nan_to_num(power_w))
    return np.asarray(sums / np.maximum(counts, 1), dtype=np.float64)
