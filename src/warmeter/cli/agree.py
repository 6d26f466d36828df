"""``warmeter agree``: fits of stand-in houses of two families never seen before, judged against their truth."""

import argparse
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from multiprocessing import get_context

import numpy as np

from warmeter.simulators.agreement import FAMILIES, Family, SeedResult, judge_seed

# Asked of the fits called fit for use, but for the share of those that are not and the leads.
ASKED_ERROR: dict[Family, float] = {"stores": 0.08, "layers": 0.10}
ASKED_HELD, ASKED_NOT_FIT, ASKED_LEADS = (0.88, 0.99), 0.20, 0.85


def run(options: argparse.Namespace) -> int:
    """Judge seeds ``first`` and on of each family, print a line each and the totals; 1 if a figure misses what is asked."""
    families: tuple[Family, ...] = (options.family,) if options.family else FAMILIES
    seeds = range(options.first, options.first + options.seeds)
    good = True
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        for family in families:
            judge = partial(judge_seed, family=family, log_days=options.days, gains=options.gains)
            results = []
            for result in pool.map(judge, seeds):
                results.append(result)
                print(f"{family} {_line(result)}", flush=True)
            good = _totals(family, options.days, results) and good
    return 0 if good else 1


def _line(result: SeedResult) -> str:
    doubts = ", ".join(doubt.kind for doubt in result.fit.doubts)
    return (
        f"seed {result.seed}: loss {result.loss_error:+.1%}, half width {result.fit.loss_w_k.half_width:.1%}, "
        f"{'holds' if result.holds_truth else 'MISSES'}, {'fit for use' if result.fit.is_fit_for_use else 'NOT fit for use'}, "
        f"{result.fit.model}, leads within 15 min {sum(result.leads_within_15)}/{len(result.leads_within_15)}, "
        f"unlogged {result.unlogged_share:.0%}{'; doubts: ' + doubts if doubts else ''}"
    )


def _totals(family: Family, days: int, results: list[SeedResult]) -> bool:
    used = [r for r in results if r.fit.is_fit_for_use]
    errors = np.array([abs(r.loss_error) for r in used])
    held = float(np.mean([r.holds_truth for r in used]))
    widths = np.array([r.fit.loss_w_k.half_width for r in used])
    leads = np.array([ok for r in used for ok in r.leads_within_15])
    not_fit = 1 - len(used) / len(results)
    print(f"{family}: {len(results)} seeds of {days} days, {len(used)} fits called fit for use")
    print(f"not fit for use: {not_fit:.0%} (asked: at most {ASKED_NOT_FIT:.0%})")
    print(f"median error of the steady heat loss {np.median(errors):.1%} (asked: at most {ASKED_ERROR[family]:.0%})")
    print(f"middle of the signed errors {np.median([r.loss_error for r in used]):+.1%}")
    print(f"95 % range holds the truth in {held:.0%} (asked: {ASKED_HELD[0]:.0%} to {ASKED_HELD[1]:.0%})")
    print(f"half width of the range: median {np.median(widths):.1%}, largest {widths.max():.1%}")
    print(f"lead times within 15 min: {leads.mean():.0%} of {leads.size} mornings (asked: at least {ASKED_LEADS:.0%})")
    return bool(
        np.median(errors) <= ASKED_ERROR[family]
        and ASKED_HELD[0] <= held <= ASKED_HELD[1]
        and not_fit <= ASKED_NOT_FIT
        and leads.mean() >= ASKED_LEADS
    )
