"""``warmeter why-agree``: why it is so, on random days of the demo homes, against a plain walk."""

import argparse
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

from warmeter.core.claims.arbiter import by_minute
from warmeter.core.explain.why import zone_standings
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_between, guards_of, setpoint_decisions, timetable_claims
from warmeter.core.units import MS_PER_MIN
from warmeter.service.homes.demo import DEMO_HOMES, demo_home
from warmeter.service.timetable.manual_overrides import claims_by_hand
from warmeter.simulators.walk import TICK_MIN, random_case, walked

TICKS = 300
CHUNK = 50


def disagreement(seed: int) -> str:
    """Return where a random day's "why", or its series, differs from the plain walk; "" where nothing does."""
    home = demo_home(DEMO_HOMES[seed % len(DEMO_HOMES)])
    home, zone, changes, start = random_case(home, seed)
    end = start + TICKS * TICK_MIN * MS_PER_MIN
    clock = LocalClock(home.time_zone)
    found = zone_standings(
        home, zone, clock, changes, leads_min={}, guards=guards_of(home, zone), start_ms=start, end_ms=end
    )
    claims = timetable_claims(blocks_between(home, zone, clock, start, end), {})
    claims += claims_by_hand(changes, zone, start, end)
    series = by_minute(setpoint_decisions(home, zone, claims, start, end), start, end)[::TICK_MIN]
    place = 0
    for k, tick in enumerate(walked(home, zone, changes, start, TICKS)):
        while place + 1 < len(found) and found[place + 1].at_ms <= tick.at_ms:
            place += 1
        decision = found[place].decision
        told = (decision.value, decision.claim.value, decision.claim.kind, float(series[k]))
        if told != (tick.value_c, tick.asked_c, tick.by, tick.value_c):
            return f"seed {seed}, {home.time_zone}, {tick.at_ms}: told {told}, walked {tick}"
    return ""


def _chunk(seeds: tuple[int, ...]) -> list[str]:
    return [words for seed in seeds if (words := disagreement(seed))]


def run(options: argparse.Namespace) -> int:
    """Judge random days; 1 if any disagrees."""
    seeds = range(options.first, options.first + options.days)
    chunks = [tuple(seeds[k : k + CHUNK]) for k in range(0, len(seeds), CHUNK)]
    wrong: list[str] = []
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        for found in pool.map(_chunk, chunks):
            wrong += found
    for words in wrong[:20]:
        print(words)
    print(f"{len(seeds)} random days of {TICKS} ticks each: {len(wrong)} disagree")
    return 1 if wrong else 0
