"""``warmeter agree``: fits of stand-in houses never seen before, judged against their truth."""

import argparse
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import numpy as np

from warmeter.standins.agreement import SeedResult, judge_seed

ASKED = {"median_error": 0.08, "held_low": 0.88, "held_high": 0.99, "half_width": 0.25, "leads": 0.85}


def run(options: argparse.Namespace) -> int:
    """Judge seeds ``first`` and on, print a line each and the totals; 1 if a figure misses what is asked."""
    results: list[SeedResult] = []
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        for result in pool.map(judge_seed, range(options.first, options.first + options.seeds)):
            results.append(result)
            print(
                f"seed {result.seed}: loss {result.loss_error:+.1%}, half width {result.fit.loss_w_k.half_width:.1%}, "
                f"{'holds' if result.holds_truth else 'MISSES'}, {result.fit.model}, leads within 15 min "
                f"{sum(result.leads_within_15)}/{len(result.leads_within_15)}, gains {result.unlogged_share:.0%}",
                flush=True,
            )
    return _totals(results)


def _totals(results: list[SeedResult]) -> int:
    errors = np.array([abs(r.loss_error) for r in results])
    held = float(np.mean([r.holds_truth for r in results]))
    widths = np.array([r.fit.loss_w_k.half_width for r in results])
    leads = np.array([ok for r in results for ok in r.leads_within_15])
    print(f"{len(results)} seeds")
    print(f"median error of the steady heat loss {np.median(errors):.1%} (asked: at most {ASKED['median_error']:.0%})")
    print(f"95 % range holds the truth in {held:.0%} (asked: {ASKED['held_low']:.0%} to {ASKED['held_high']:.0%})")
    print(f"half width of the range: median {np.median(widths):.1%}, largest {widths.max():.1%} (asked: at most 25%)")
    print(
        f"lead times within 15 min: {leads.mean():.0%} of {leads.size} mornings (asked: at least {ASKED['leads']:.0%})"
    )
    good = (
        np.median(errors) <= ASKED["median_error"]
        and ASKED["held_low"] <= held <= ASKED["held_high"]
        and widths.max() <= ASKED["half_width"]
        and leads.mean() >= ASKED["leads"]
    )
    return 0 if good else 1
