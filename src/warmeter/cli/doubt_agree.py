"""``warmeter doubt-agree``: logs that mislead, of both families of stand-in houses, and whether a fit notices."""

import argparse
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context

from warmeter.core.thermal.identify import fit_room
from warmeter.simulators.agreement import FAMILIES, Family
from warmeter.simulators.misleading_logs import KINDS, Misleading, misleading_log

ASKED_NAMED, ASKED_FALSE = 0.9, 0.05


@dataclass(frozen=True, slots=True)
class FitReport:
    """What a fit said of one log."""

    kind: Misleading
    family: Family
    seed: int
    doubts: tuple[str, ...]
    holds_truth: bool
    is_fit_for_use: bool


def judge_log(asked: tuple[Misleading, Family, int]) -> FitReport:
    """Fit one log."""
    kind, family, seed = asked
    given = misleading_log(kind, seed, family)
    fit = fit_room(given.log, given.prior, full_heat_w=given.full_heat_w, plate_w=given.full_heat_w)
    return FitReport(
        kind=kind,
        family=family,
        seed=seed,
        doubts=tuple(doubt.kind for doubt in fit.doubts),
        holds_truth=fit.loss_w_k.low <= given.true_loss_w_k <= fit.loss_w_k.high,
        is_fit_for_use=fit.is_fit_for_use,
    )


def run(options: argparse.Namespace) -> int:
    """Judge seeds of each kind and family, print what was not named and the totals; 1 if a figure misses what is asked."""
    seeds = range(options.first, options.first + options.seeds)
    clean = range(options.first, options.first + options.clean)
    asked = [(kind, family, seed) for kind in KINDS for family in FAMILIES for seed in seeds]
    asked += [("clean", family, seed) for family in FAMILIES for seed in clean]
    named: Counter[str] = Counter()
    held: Counter[str] = Counter()
    count: Counter[str] = Counter()
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        for told in pool.map(judge_log, asked):
            is_named = bool(told.doubts) if told.kind == "clean" else told.kind in told.doubts
            count[told.kind] += 1
            named[told.kind] += is_named
            held[told.kind] += told.holds_truth
            if is_named == (told.kind == "clean"):
                print(
                    f"{told.kind}, {told.family}, seed {told.seed}: {', '.join(told.doubts) or 'no doubt'}; range "
                    f"{'holds' if told.holds_truth else 'MISSES'}",
                    flush=True,
                )
    good = True
    for kind in (*KINDS, "clean"):
        share = named[kind] / count[kind]
        wanted = f"at most {ASKED_FALSE:.0%} doubted" if kind == "clean" else f"at least {ASKED_NAMED:.0%} by its name"
        good = good and (share <= ASKED_FALSE if kind == "clean" else share >= ASKED_NAMED)
        print(f"{kind}: {named[kind]} of {count[kind]} doubted (asked: {wanted}); the range holds in {held[kind]}")
    return 0 if good else 1
