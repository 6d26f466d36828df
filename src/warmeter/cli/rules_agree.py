"""``warmeter rules-agree``: both evaluators of rules, and both of questions, over random rules, logs and nights."""

import argparse
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

from warmeter.core.rule.asking import ask_run
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.reference.asking import walked
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.core.units import MS_PER_MIN
from warmeter.simulators.question_cases import random_night
from warmeter.simulators.rule_cases import random_case

CHUNK = 100
QUESTION_PARTS = ("begun", "asked", "folded", "withdrawn", "outcomes", "ignored")


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


def question_disagreement(seed: int) -> str:
    """Return what differs of a random night's questions; "" where nothing does."""
    night = random_night(seed)
    kept = ask_run(night.wishes, night.answers, night.terms, end=night.end_ms)
    plain = walked(night.wishes, night.answers, night.terms, end=night.end_ms, tick=MS_PER_MIN)
    wrong = [name for name in QUESTION_PARTS if getattr(kept, name) != getattr(plain, name)]
    return f"night {seed}: {', '.join(wrong)}" if wrong else ""


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
        wrong += [words for words in (disagreement(seed), question_disagreement(seed)) if words]
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
    print(f"{len(seeds)} random rules and logs, and as many nights of questions: {len(wrong)} disagree")
    print("; ".join(f"{name} {count}" for name, count in sorted(seen.items())))
    return 1 if wrong else 0
