"""``warmeter cycles-agree``: cycles of stand-in machines never seen before, judged against their truth."""

import argparse
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from itertools import chain, product
from multiprocessing import get_context

import numpy as np

from warmeter.simulators.machines.judging import SeedVerdict, judge_log
from warmeter.simulators.machines.labelled import KINDS

STEPS_S = (1, 10, 60)
ASKED = {"f1": 0.98, "energy": 0.01, "short_energy": 0.05, "borders": 0.95, "finish_s": 120.0}


def run(options: argparse.Namespace) -> int:
    """Judge seeds ``first`` and on for every kind and step, print a table; 1 if a figure misses what is asked."""
    kinds = options.kinds.split(",") if options.kinds else list(KINDS)
    seeds = range(options.first, options.first + options.seeds)
    print(HEADING)
    is_good = True
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        for kind, step in product(kinds, STEPS_S):
            verdicts = list(pool.map(judge_log, [kind] * len(seeds), seeds, [step] * len(seeds)))
            line, ok = _line(kind, step, verdicts)
            print(line, flush=True)
            is_good &= ok
    return 0 if is_good else 1


HEADING = (
    "| appliance | step s | found | missed | invented | F1 | energy, largest error | of short cycles "
    "| borders within 1 min | their distance s, median and largest | borders besides | finish after its wait s, largest "
    "| not told | false messages |\n|---|---|---|---|---|---|---|---|---|---|---|---|---|---|"
)


def _line(kind: str, step: int, verdicts: Sequence[SeedVerdict]) -> tuple[str, bool]:
    found, missed, invented = (sum(getattr(v, n) for v in verdicts) for n in ("found", "missed", "invented"))
    total = 2 * found + missed + invented
    f1 = 2 * found / total if total else None
    energy = _largest(chain.from_iterable(v.energy_errors for v in verdicts))
    short = _largest(chain.from_iterable(v.short_energy_errors for v in verdicts))
    near, borders = sum(v.borders_near for v in verdicts), sum(v.borders for v in verdicts)
    away = list(chain.from_iterable(v.border_errors_s for v in verdicts))
    finish = _largest(chain.from_iterable(v.finish_s for v in verdicts))
    ok = (f1 is None or f1 >= ASKED["f1"]) if KINDS[kind].has_cycles else invented == 0
    ok &= energy is None or energy <= ASKED["energy"]
    ok &= short is None or short <= ASKED["short_energy"]
    ok &= step >= 60 or not borders or near >= ASKED["borders"] * borders
    ok &= finish is None or finish <= ASKED["finish_s"]
    cells = (
        KINDS[kind].label,
        step,
        found,
        missed,
        invented,
        "–" if f1 is None else f"{f1:.4f}",
        _percent(energy),
        _percent(short),
        f"{near} of {borders}" if borders else "–",
        f"{np.median(away):.0f}, {max(away):.0f}" if away else "–",
        sum(v.surplus_borders for v in verdicts),
        "–" if finish is None else f"{finish:.0f}",
        sum(v.finish_missed for v in verdicts),
        sum(v.finish_false for v in verdicts),
    )
    return "| " + " | ".join(str(c) for c in cells) + " |", bool(ok)


def _largest(values: "chain[float]") -> float | None:
    return max(values, default=None)


def _percent(value: float | None) -> str:
    return "–" if value is None else f"{value:.2%}"
