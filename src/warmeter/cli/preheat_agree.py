"""``warmeter preheat-agree``: what plans of random winter days promised, against what the full simulation says."""

import argparse
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from multiprocessing import get_context

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.preheat.promise import far_off
from warmeter.service.homes.demo import demo_home
from warmeter.simulators.ferry_house import ferry_house
from warmeter.simulators.winter_days import WinterDay, winter_date, winter_day

HOMES = ("sail-loft", "terrace-nine", "weir-cottage", "ferry-house")
OFF_K, OFF_SHARE = 0.3, 0.05
# Of rooms that cost next to nothing a share says nothing [currency].
LEAST_COST = 0.2


def run(options: argparse.Namespace) -> int:
    """Print how far simulation lies off the promise on each day and in each zone; 1 where comfort is further off, or cost without a word of it."""
    cases = [(name, options.seed + day) for name in HOMES for day in range(options.days)]
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        days = [each for each in pool.map(_day, *zip(*cases, strict=True)) if each]
    off = [zone.simulated.off_k - zone.promised.off_k for day in days for zone in day]
    zone_cost = [
        zone.simulated.cost / zone.promised.cost - 1 for day in days for zone in day if zone.promised.cost > LEAST_COST
    ]
    written, promised, simulated = (
        np.array([sum(getattr(zone, name).cost for zone in day) for day in days])
        for name in ("written", "promised", "simulated")
    )
    home_cost = simulated / promised - 1
    for day, share in zip(days, home_cost, strict=True):
        worst = max(zone.simulated.off_k - zone.promised.off_k for zone in day)
        print(f"{day[0].home}, {day[0].on}: cost {share:+.1%} of the promise, comfort at most {worst:+.2f} K")
    cold = sum(each > OFF_K for each in off)
    dear, dear_zones = sum(abs(home_cost) > OFF_SHARE), sum(abs(each) > OFF_SHARE for each in zone_cost)
    untold = [
        days[place][0]
        for place in np.flatnonzero(abs(home_cost) > OFF_SHARE)
        if not any(far_off(zone.written, zone.promised, zone.simulated).cost for zone in days[place])
    ]
    print(f"{len(days)} days of homes, {len(off)} of zones:")
    print(f"  {cold} zones more than {OFF_K:g} K off the promise, at most {max(off):.2f} K")
    print(
        f"  {dear} homes and {dear_zones} of {len(zone_cost)} zones more than {OFF_SHARE:.0%} off in cost;"
        f" of the homes {len(untold)} without a word of it on the screen"
    )
    print(
        f"  against the timetable as written {1 - promised.sum() / written.sum():.1%} promised, {1 - simulated.sum() / written.sum():.1%} simulated"
    )
    return int(bool(cold or untold))


def _day(name: str, seed: int) -> list[WinterDay]:
    rng = np.random.default_rng(seed)
    on: date = winter_date(rng)
    return winter_day(_home(name), on, rng)


def _home(name: str) -> Home:
    return ferry_house()[0] if name == "ferry-house" else demo_home(name)
