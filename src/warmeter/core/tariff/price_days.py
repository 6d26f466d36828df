"""A tariff as the days it knows: which rate holds in each minute, for the months and kinds of day that are alike."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from warmeter.core.tariff.structure import ALL_MONTHS, DAY_KINDS, DayKind, Rate
from warmeter.core.units import MIN_PER_DAY


@dataclass(frozen=True, slots=True)
class PriceStep:
    """Minutes [from, to) of the meter's clock with the place of their rate in the tariff, None where there is none."""

    from_min: int
    to_min: int
    rate: int | None


@dataclass(frozen=True, slots=True)
class PriceDay:
    """Days on which the same rates hold at the same minutes: their months, kinds and steps, in order."""

    months: tuple[int, ...]
    kinds: tuple[DayKind, ...]
    steps: tuple[PriceStep, ...]


def price_days(rates: Sequence[Rate]) -> tuple[PriceDay, ...]:
    """Return a tariff's different days: first months with the same days together, then kinds with the same steps.

    Each of the 36 pairs of month and kind of day is in exactly one; the first rate that matches holds (docs/methods I2).
    """
    seasons: dict[tuple[tuple[PriceStep, ...], ...], list[int]] = {}
    for month in ALL_MONTHS:
        seasons.setdefault(tuple(_steps(rates, month, kind) for kind in DAY_KINDS), []).append(month)
    found: list[PriceDay] = []
    for days, months in seasons.items():
        kinds: dict[tuple[PriceStep, ...], list[DayKind]] = {}
        for kind, steps in zip(DAY_KINDS, days, strict=True):
            kinds.setdefault(steps, []).append(kind)
        found += [PriceDay(tuple(months), tuple(alike), steps) for steps, alike in kinds.items()]
    return tuple(found)


def idle_rates(rates: Sequence[Rate]) -> tuple[int, ...]:
    """Return the places of rates that never hold, since those before them match wherever they do."""
    used = {step.rate for day in price_days(rates) for step in day.steps}
    return tuple(place for place in range(len(rates)) if place not in used)


def _steps(rates: Sequence[Rate], month: int, kind: DayKind) -> tuple[PriceStep, ...]:
    holding = [(place, rate) for place, rate in enumerate(rates) if month in rate.months and kind in rate.days]
    edges = {0, MIN_PER_DAY, *(minute for _, rate in holding for minute in (rate.from_min, rate.to_min))}
    steps: list[PriceStep] = []
    for start, end in pairwise(sorted(edges)):
        place = next((place for place, rate in holding if _holds(rate, start)), None)
        if steps and steps[-1].rate == place:
            steps[-1] = PriceStep(steps[-1].from_min, end, place)
        else:
            steps.append(PriceStep(start, end, place))
    return tuple(steps)


def _holds(rate: Rate, minute: int) -> bool:
    if rate.from_min < rate.to_min:
        return rate.from_min <= minute < rate.to_min
    return minute >= rate.from_min or minute < rate.to_min
