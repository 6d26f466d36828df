"""Whether a machine works and runs, by its power and the setting in use."""

from math import inf

import numpy as np

from warmeter.core.home.conditions.condition import Evaluator, Signal, Watcher
from warmeter.core.truth.scope import MachineSetting
from warmeter.core.truth.track import compared
from warmeter.core.truth.truth import FALSE, TRUE, Truth, from_changes, held
from warmeter.core.truth.watchers import Machine
from warmeter.core.units import MS_PER_S


def works_of(on: Evaluator, appliance_id: str, setting: MachineSetting, stale_s: int) -> Truth:
    """Return when a machine draws its setting's threshold or more."""
    return compared(
        on.heard(Signal(quantity="electric_w", subject_id=appliance_id), stale_s),
        low=setting.threshold_w,
        high=inf,
        hysteresis=setting.hysteresis_w,
        start_ms=on.scope.start_ms,
        end_ms=on.scope.end_ms,
    )


def runs_of(on: Evaluator, appliance_id: str, setting: MachineSetting, stale_s: int) -> Truth:
    """Return when a machine runs: from work that lasts for the setting's start, with pauses shorter than its wait."""
    works = works_of(on, appliance_id, setting, stale_s)
    begun = held(works, round(setting.start_s * MS_PER_S))
    return _since_it_worked(held(works.negated, round(setting.wait_s * MS_PER_S)).negated, begun)


def _since_it_worked(runs: Truth, works: Truth) -> Truth:
    """Return runs without the wait at the very beginning, or after silence, in which nothing had worked yet."""
    begin, until = runs.stretches()
    active = np.append(works.stretches()[0], runs.end_ms)
    first = np.minimum(active[np.searchsorted(active, begin, side="left")], until)
    late = first > begin
    at = np.concatenate([runs.at_ms, first[late & (first < until)]])
    value = runs.value.copy()
    value[np.flatnonzero(runs.value == TRUE)[late]] = FALSE
    value = np.concatenate([value, np.full(at.size - value.size, TRUE, dtype=np.int8)])
    order = np.argsort(at, kind="stable")
    return from_changes(at[order], value[order], int(runs.at_ms[0]), runs.end_ms)


def watched_machine(by: Watcher, appliance_id: str, does: str) -> Machine | None:
    """Return a machine followed from report to report, None without a setting."""
    setting = by.scope.setting(appliance_id, does)
    if setting is None:
        return None
    power = by.reports(Signal(quantity="electric_w", subject_id=appliance_id))
    return Machine(setting, power, by.wake, by.scope.start_ms)
