"""Speeds of bills and plans: a year on twenty tariffs, plans of two days, a dragged run; and what a plan saves."""

import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.plan_rules import other_starts
from warmeter.core.day_plan.problem import DayPlan, PlannedRun, PlanProblem
from warmeter.core.home.tariffs import Rate, RateHours, StandingCharge, Tariff, Tax
from warmeter.core.tariff.bill import Metered
from warmeter.core.tariff.metered_energy import MeteredEnergy
from warmeter.core.tariff.tariff_comparison import tariff_year
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H, MS_PER_MIN, W_MIN_PER_KWH
from warmeter.service.day_plan.planning import SHORT_S
from warmeter.simulators.plan_cases import some_room

TARIFFS, CASES, RUNS = 20, 9, 8
FINE_CASES, ROOMS = 5, 10
FIRST = date(2026, 1, 1)
HALF_HOUR_MS = 30 * MS_PER_MIN


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def _year() -> Metered:
    clock = LocalClock("Europe/London")
    begin, end = clock.instant(FIRST, 0), clock.instant(date(2027, 1, 1), 0)
    start = np.arange(begin, end, HALF_HOUR_MS, dtype=np.int64)
    energy = np.random.default_rng(3).integers(50_000, 900_000, start.size)
    return Metered(MeteredEnergy(start_ms=start, end_ms=start + HALF_HOUR_MS, millionths=energy, step_ms=HALF_HOUR_MS))


def _tariff(k: int) -> Tariff:
    begins = k * MIN_PER_H // 2 % MIN_PER_DAY
    night = RateHours(from_min=begins, to_min=(begins + MIN_PER_DAY // 4) % MIN_PER_DAY)
    return Tariff(
        id=f"t{k}",
        name=f"t{k}",
        currency="GBP",
        rates=(
            Rate(name="night", price_per_unit=Decimal("0.13"), hours=night),
            Rate(name="day", price_per_unit=Decimal("0.29")),
            Rate(name="network", price_per_unit=Decimal("0.04"), part="network"),
        ),
        standing=(StandingCharge(amount=Decimal("0.5")),),
        taxes=(Tax(rate=Decimal("0.05")),),
    )


def two_days(seed: int, step_min: int) -> PlanProblem:
    """Return eight runs over two days of half-hourly prices, in slots of a length."""
    rng = np.random.default_rng(seed)
    slots, per_hour = 48 * MIN_PER_H // step_min, MIN_PER_H // step_min
    half_hours = rng.gamma(3.0, 0.08, 96) - 0.02
    runs = []
    for k in range(RUNS):
        length = int(rng.integers(per_hour // 2, 3 * per_hour))
        profile = rng.gamma(1.5, 0.6, length) * step_min / MIN_PER_H
        earliest = int(rng.integers(0, slots // 3))
        latest = min(slots, earliest + length + int(rng.integers(8 * per_hour, 26 * per_hour)))
        runs.append(
            PlannedRun(
                key=f"r{k}",
                name=f"r{k}",
                profile_kwh=profile,
                peak_w=profile * W_MIN_PER_KWH / step_min,
                earliest=earliest,
                latest_end=latest,
            )
        )
    runs[1] = replace(runs[1], after="r0", earliest=runs[0].earliest, latest_end=slots)
    runs[3] = replace(runs[3], apart=("wet",))
    runs[4] = replace(runs[4], apart=("wet",))
    return PlanProblem(
        step_min=step_min,
        import_price=np.repeat(half_hours, 30 // step_min) if step_min <= 30 else half_hours[::2],
        export_price=np.zeros(slots),
        base_kwh=np.full(slots, 0.25 * step_min / MIN_PER_H),
        sun_kwh=np.clip(np.sin((np.arange(slots) * step_min / MIN_PER_H - 7) / 10 * np.pi), 0, None)
        * 2.0
        * step_min
        / MIN_PER_H,
        runs=tuple(runs),
        import_cap_kwh=7.0 * step_min / MIN_PER_H,
    )


def one_by_one(problem: PlanProblem) -> DayPlan | None:
    """Return a plan in which each run in turn takes the cheapest start that is left."""
    placed: dict[str, int] = {}
    kept: tuple[PlannedRun, ...] = ()
    for run in problem.runs:
        kept = (*(replace(each, pinned=placed[each.key]) for each in kept), run)
        found = cheapest_plan(replace(problem, runs=kept))
        if found.plan is None:
            return None
        placed[run.key] = found.plan.starts[run.key]
    return found.plan


def plans() -> Iterator[str]:
    """Yield what was measured, line by line."""
    metered, clock = _year(), LocalClock("Europe/London")
    taken = _seconds(lambda: [tariff_year(_tariff(k), clock, FIRST, 12, metered) for k in range(TARIFFS)])
    yield f"a year of half-hours on {TARIFFS} tariffs, twelve bills each: {taken:.2f} s (asked: 1 s)"
    quarter = [two_days(seed, 15) for seed in range(CASES)]
    times, saved_one, saved_habit = [], [], []
    for problem in quarter:
        begun = time.perf_counter()
        found = cheapest_plan(problem)
        times.append(time.perf_counter() - begun)
        if found.plan is None:
            continue
        best = checked(problem, found.plan).cost
        greedy = one_by_one(problem)
        if greedy is not None:
            saved_one.append(checked(problem, greedy).cost / best)
        habit = replace(found.plan, starts={run.key: run.earliest for run in problem.runs})
        saved_habit.append(checked(problem, habit).cost / best)
    yield f"{RUNS} runs over 48 h at 15 min to the proven optimum: {np.median(times):.2f} s median, {max(times):.2f} s longest (asked: 2 s)"
    yield f"  as soon as allowed costs {np.median(saved_habit):.2f} times the plan, one by one at the cheapest hour {np.median(saved_one):.3f} times"
    fine, gaps = [], []
    for seed in range(FINE_CASES):
        begun = time.perf_counter()
        gaps.append(cheapest_plan(two_days(seed, 5), seconds=SHORT_S, gap=0.01).gap)
        fine.append(time.perf_counter() - begun)
    yield (
        f"the same at 5 min: {np.median(fine):.1f} s median, {max(fine):.1f} s longest (asked: 10 s); proven within "
        f"{np.median(gaps):.1%} of the least in the middle, {max(gaps):.1%} at most (asked: 1 %)"
    )
    rng = np.random.default_rng(2)
    rooms = tuple(some_room(rng, quarter[0].slots, key=f"room {k}", hours=0.25) for k in range(ROOMS))
    with_rooms = replace(quarter[0], runs=(), rooms=rooms, import_cap_kwh=None)
    yield f"{ROOMS} rooms over 48 h at 15 min: {_seconds(lambda: cheapest_plan(with_rooms)):.2f} s (asked: 2 s)"
    plan = cheapest_plan(quarter[0]).plan
    if plan is not None:
        priced = _seconds(lambda: checked(quarter[0], plan))
        every = _seconds(lambda: other_starts(quarter[0], plan, "r2"))
        yield f"a dragged run priced in {1000 * priced:.0f} ms, all its other starts in {1000 * every:.0f} ms (asked: 150 ms a drag)"
