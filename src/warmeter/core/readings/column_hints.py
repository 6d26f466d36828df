"""What the numbers of a log say of themselves: power or energy a step, a counter, twice the same."""

from itertools import permutations

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.readings.csvlog import ReadLog, TakenSeries
from warmeter.core.units import J_PER_KWH, J_PER_WH, is_energy

FEWEST = 20
SPREAD = 0.05  # half of the ratios lie within so much of their middle, or it is no factor
NEAR = 0.02
STEADY_RISE = 0.995


def tellings(found: ReadLog) -> tuple[str, ...]:
    """Return in sentences what a log's series say of each other and of themselves.

    Notes
    -----
    Two columns whose values stand in one factor are the same thing twice: with a step of s seconds, watts and
    watt-hours a step differ by s/3600, watts and kilowatt-hours by s/3 600 000, watts and kilowatts by 1000. A
    column that hardly ever falls and rises again and again is a counter.
    """
    sentences = [s for a, b in permutations(found.series, 2) if (s := _factor_told(a, b))]
    return (*sentences, *(s for each in found.series if (s := _counter_told(each))))


def _factor_told(power: TakenSeries, other: TakenSeries) -> str:
    """Return what the factor from one column to another means, "" where it means nothing known."""
    if is_energy(power.record.unit):
        return ""
    _, here, there = np.intersect1d(power.readings.at_ms, other.readings.at_ms, return_indices=True)
    a, b = power.readings.value[here], other.readings.value[there]
    rises = _is_counter(b)
    if rises:
        a, b = a[1:], np.diff(b)
    clear = a > max(float(np.quantile(a, 0.5)), 1e-9) if a.size else np.zeros(0, bool)
    if clear.sum() < FEWEST:
        return ""
    ratio = b[clear] / a[clear]
    middle = float(np.median(ratio))
    if middle <= 0 or np.subtract(*np.quantile(ratio, [0.75, 0.25])) > SPREAD * middle:
        return ""
    step_s = float(np.median(np.diff(power.readings.at_ms))) / 1000
    for factor, meaning in _meanings(step_s, rises):
        if abs(middle / factor - 1) <= NEAR:
            return f"“{other.heading}” is “{power.heading}” times {middle:.3g}: {meaning}. Take one of the two."
    return ""


def _meanings(step_s: float, rises: bool) -> list[tuple[float, str]]:
    """Return the factors that are known, with what they mean, for powers in W and in kW."""
    words = f"counted on from step to step of {step_s:g} s" if rises else f"of each step of {step_s:g} s"
    found = [
        (step_s / J_PER_WH, f"its energy in Wh {words}, if it is in W (in kWh, if it is in kW)"),
        (step_s / J_PER_KWH, f"its energy in kWh {words}, if it is in W"),
        (step_s / 3.6, f"its energy in Wh {words}, if it is in kW"),
    ]
    if not rises:
        found += [(0.001, "the same power in kW beside W"), (1000.0, "the same power in W beside kW")]
    return found


def _is_counter(value: Floats) -> bool:
    """Return whether values hardly ever fall, and rise again and again."""
    steps = np.diff(value)
    return bool(
        value.size > FEWEST
        and (steps >= 0).mean() >= STEADY_RISE
        and (steps > 0).sum() > FEWEST
        and value[-1] > value[0]
    )


def _counter_told(series: TakenSeries) -> str:
    if series.record.kind == "counter" or not _is_counter(series.readings.value):
        return ""
    return f"“{series.heading}” only rises: it reads like a counter of energy. Map it to a unit of energy as a counter."
