"""A tariff as the days it knows: which rates hold in each minute, for the days of a year and of a week that are alike."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from itertools import pairwise

import numpy as np

from warmeter.core.home.tariffs import RATE_DAYS, PricePart, Rate, RateDay, Tariff, month_day_number
from warmeter.core.tariff.prices import BOUGHT
from warmeter.core.tariff.rates_in_force import day_in_span
from warmeter.core.tariff.taxes import tax_factor
from warmeter.core.units import MIN_PER_DAY

# A leap year has every day that a year can have.
_DAYS = [
    100 * month + day
    for month, length in enumerate((31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31), 1)
    for day in range(1, length + 1)
]
PLACE_OF_DAY = {number: place for place, number in enumerate(_DAYS)}


@dataclass(frozen=True, slots=True)
class PriceStep:
    """Minutes [from, to) of the meter's clock with the place in the tariff of each part's rate, None where there is none."""

    from_min: int
    to_min: int
    rates: tuple[int | None, ...]

    @property
    def energy(self) -> int | None:
        """The rate of energy; None is a hole."""
        return self.rates[0]


@dataclass(frozen=True, slots=True)
class PriceDay:
    """Days on which the same rates hold at the same minutes: stretches of the year (100 times month plus day), days of
    the week with holidays, and steps, in order.
    """

    spans: tuple[tuple[int, int], ...]
    days: tuple[RateDay, ...]
    steps: tuple[PriceStep, ...]


def price_days(
    rates: Sequence[Rate], on: date | None = None, parts: Sequence[PricePart] = BOUGHT
) -> tuple[PriceDay, ...]:
    """Return a tariff's different days: first stretches of the year that are alike, then days of the week that are.

    Each pair of a day of the year and a kind of day is in exactly one; in each part of the price the first rate that
    matches holds (docs/methods I2). Of rates with dates only those valid on ``on`` count, all without it.
    """
    seasons: dict[tuple[tuple[PriceStep, ...], ...], list[tuple[int, int]]] = {}
    for first, last in year_stretches(rates):
        steps = tuple(_steps(rates, _DAYS[first], kind, on, parts) for kind in RATE_DAYS)
        seasons.setdefault(steps, []).append((first, last))
    found: list[PriceDay] = []
    for days, stretches in seasons.items():
        kinds: dict[tuple[PriceStep, ...], list[RateDay]] = {}
        for kind, of_kind in zip(RATE_DAYS, days, strict=True):
            kinds.setdefault(of_kind, []).append(kind)
        spans = _joined(stretches)
        found += [PriceDay(spans, tuple(alike), steps) for steps, alike in kinds.items()]
    return tuple(found)


def year_stretches(rates: Sequence[Rate]) -> list[tuple[int, int]]:
    """Return the stretches of a leap year [first, last], by their places in it, within which no season of a rate begins or ends."""
    begins = {0}
    for rate in rates:
        for span in rate.hours.seasons:
            begins.add(PLACE_OF_DAY[month_day_number(span.from_day)])
            begins.add((PLACE_OF_DAY[month_day_number(span.to_day)] + 1) % len(_DAYS))
    return [(first, following - 1) for first, following in pairwise([*sorted(begins), len(_DAYS)])]


def price_of_step(tariff: Tariff, step: PriceStep) -> Decimal | None:
    """Return what a unit costs in a step, taxes in, without the market's price; None in a hole."""
    if step.energy is None:
        return None
    total = sum((tariff.rates[place].price_per_unit for place in step.rates if place is not None), Decimal(0))
    return total if tariff.prices_include_tax else total * tax_factor(tariff.taxes)


def idle_rates(rates: Sequence[Rate]) -> tuple[int, ...]:
    """Return the places of rates that never hold, since those before them match wherever they do."""
    parts = tuple(dict.fromkeys(rate.part for rate in rates))
    used = {place for day in price_days(rates, parts=parts) for step in day.steps for place in step.rates}
    # A rate with dates of its own may hold on those that the ones before it leave.
    dated = {k for k in range(len(rates)) if any(r.valid_from or r.valid_to for r in rates[: k + 1])}
    return tuple(place for place in range(len(rates)) if place not in used and place not in dated)


def _joined(stretches: list[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    """Return stretches of places as stretches of days, neighbours together, also over the new year."""
    joined = [stretches[0]]
    for first, last in stretches[1:]:
        if first == joined[-1][1] + 1:
            joined[-1] = (joined[-1][0], last)
        else:
            joined.append((first, last))
    if len(joined) > 1 and joined[0][0] == 0 and joined[-1][1] == len(_DAYS) - 1:
        joined = [*joined[1:-1], (joined[-1][0], joined[0][1])]
    return tuple((_DAYS[first], _DAYS[last]) for first, last in joined)


def _steps(
    rates: Sequence[Rate], month_day: int, kind: RateDay, on: date | None, parts: Sequence[PricePart]
) -> tuple[PriceStep, ...]:
    holding = [(place, rate) for place, rate in enumerate(rates) if _holds_on(rate, month_day, kind, on)]
    edges = {0, MIN_PER_DAY, *(m for _, rate in holding for m in (rate.hours.from_min, rate.hours.to_min))}
    steps: list[PriceStep] = []
    for start, end in pairwise(sorted(edges)):
        places = tuple(
            next((place for place, rate in holding if rate.part == part and _holds(rate, start)), None)
            for part in parts
        )
        if steps and steps[-1].rates == places:
            steps[-1] = PriceStep(steps[-1].from_min, end, places)
        else:
            steps.append(PriceStep(start, end, places))
    return tuple(steps)


def _holds_on(rate: Rate, month_day: int, kind: RateDay, on: date | None) -> bool:
    if kind not in rate.hours.days:
        return False
    if on is not None and not (
        (rate.valid_from is None or rate.valid_from <= on) and (rate.valid_to is None or on <= rate.valid_to)
    ):
        return False
    day = np.array([month_day])
    return not rate.hours.seasons or any(
        bool(day_in_span(month_day_number(s.from_day), month_day_number(s.to_day), day)[0]) for s in rate.hours.seasons
    )


def _holds(rate: Rate, minute: int) -> bool:
    hours = rate.hours
    if hours.from_min < hours.to_min:
        return hours.from_min <= minute < hours.to_min
    return minute >= hours.from_min or minute < hours.to_min
