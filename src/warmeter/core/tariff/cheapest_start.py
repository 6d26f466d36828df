"""The cheapest start of a run with a known profile (I8)."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange


@dataclass(frozen=True, slots=True, kw_only=True)
class Start:
    """A start [min from the first price] and what the run costs then."""

    start_min: int
    cost: Decimal


def starts_by_cost(
    price_per_kwh: Floats,
    profile_kwh: Floats,
    profile_step_min: int,
    *,
    earliest_min: int,
    latest_end_min: int,
    start_step_min: int | None = None,
) -> list[Start]:
    """Return every allowed start with its cost, in order of time.

    Parameters
    ----------
    price_per_kwh : (minute,) float array
        Price at each minute.
    profile_kwh : (step,) float array
        Energy of each step of the run.
    profile_step_min : int
        Length of a profile step [min].
    earliest_min, latest_end_min : int
        Window for the whole run.
    start_step_min : int, optional
        Grid of starts from ``earliest_min``; the profile's step if not given. A delay of whole hours: 60.

    Raises
    ------
    OutOfRange
        If the window cannot hold the run or reaches beyond the prices.

    Notes
    -----
    docs/methods I8: cost = Σ energy · price, each step spread evenly over its minutes. Costs are compared to
    1e-9 of the currency.
    """
    length = profile_kwh.size * profile_step_min
    if not 0 <= earliest_min <= latest_end_min - length:
        raise OutOfRange("earliest start", earliest_min, 0, latest_end_min - length, "min")
    if latest_end_min > price_per_kwh.size:
        raise OutOfRange("latest end", latest_end_min, 0, price_per_kwh.size, "min")
    by_minute = np.repeat(profile_kwh / profile_step_min, profile_step_min)
    grid = range(earliest_min, latest_end_min - length + 1, start_step_min or profile_step_min)
    return [
        Start(start_min=start, cost=Decimal(repr(round(float(by_minute @ price_per_kwh[start : start + length]), 9))))
        for start in grid
    ]


def cheapest_start(starts: list[Start]) -> Start:
    """Return the cheapest start, the earliest on ties."""
    return min(starts, key=lambda start: (start.cost, start.start_min))


@dataclass(frozen=True, slots=True, kw_only=True)
class RunSchedule:
    """Starts of a machine on a day: minutes since local midnight, with costs."""

    starts: tuple[Start, ...]
    cheapest: Start
    planned: Start
    dearest: Start
    profile_kwh: Floats
    midnight_ms: int
