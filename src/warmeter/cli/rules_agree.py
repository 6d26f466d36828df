"""``warmeter rules-agree``: both evaluators of rules over random rules and logs."""

import argparse
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.simulators.rule_cases import random_case

CHUNK = 100


def both(seed: int) -> tuple[RuleRun, RuleRun]:
    """Return a random rule's life by the fast evaluator and by the plain one."""
    rule, scope = random_case(seed)
    return rule_run_of(rule, ConditionEvaluator(scope)), interpret(rule, scope)


def disagreement(seed: int) -> str:
    """Return what differs for a seed; "" where nothing does."""
    fast, plain = both(seed)
    for name in ("firings", "held_back", "ignored_ms"):
        mine, theirs = getattr(fast, name), getattr(plain, name)
        if mine != theirs:
            first = next(k for k in range(len(mine) + 1) if mine[k : k + 1] != theirs[k : k + 1])
            return f"seed {seed}, {name}: {mine[first : first + 1]} against {theirs[first : first + 1]}"
    return ""


def _chunk(seeds: tuple[int, ...]) -> tuple[list[str], Counter[str]]:
    wrong, seen = [], Counter[str]()
    for seed in seeds:
        fast, _ = both(seed)
        seen["rules that triggered"] += bool(fast.firings)
        seen["firings"] += len(fast.firings)
        seen["suppressed"] += len(fast.held_back)
        seen["ignored"] += len(fast.ignored_ms)
        for firing in fast.firings:
            seen[f"ended by {firing.why}"] += bool(firing.why)
        for held in fast.held_back:
            seen[f"held by {held.why}"] += 1
        words = disagreement(seed)
        wrong += [words] if words else []
    return wrong, seen


def run(options: argparse.Namespace) -> int:
    """Judge random rules; 1 if any disagrees."""
    seeds = range(options.first, options.first + options.cases)
    chunks = [tuple(seeds[k : k + CHUNK]) for k in range(0, len(seeds), CHUNK)]
    wrong, seen = [], Counter[str]()
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        for found, counts in pool.map(_chunk, chunks):
            wrong += found
            seen += counts
    for words in wrong[:20]:
        print(words)
    print(f"{len(seeds)} random rules and logs: {len(wrong)} disagree")
    print("; ".join(f"{name} {count}" for name, count in sorted(seen.items())))
    return 1 if wrong else 0
