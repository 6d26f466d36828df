"""``warmeter mutate-rules``: plant every fault in the rules of the demo homes; each must be found and none invented."""

import argparse
from collections import Counter
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import Check, RuleFinding
from warmeter.service.homes.demo import DEMO_HOMES, demo_home
from warmeter.simulators.rule_faults import RULE_PLANTS, PlantedRule


@dataclass(frozen=True, slots=True)
class RuleMutationVerdict:
    """What a planted fault came to: whether it was found, what else was found without reason, whether the mend helps."""

    home: str
    check: Check
    rule: str
    is_found: bool
    invented: tuple[str, ...]
    is_fixed: bool


def _key(finding: RuleFinding) -> tuple[str, str, str]:
    return finding.check, finding.rule_id, finding.part


def judge(clean: Home, check: Check, planted: PlantedRule) -> RuleMutationVerdict:
    """Return whether a planted fault is found on its rule, what is invented, and whether its mend takes it away."""
    before = {_key(f) for f in rule_findings(clean)}
    fresh = [f for f in rule_findings(planted.home) if _key(f) not in before]
    mine = [f for f in fresh if f.check == check and f.rule_id == planted.rule_id]
    invented = tuple(sorted({f.check for f in fresh if f.check != check and f.check not in planted.brings}))
    # Several findings may stand on one blank: each mend takes one away.
    stands = Counter(map(_key, rule_findings(planted.home)))
    fixed = all(
        Counter(map(_key, rule_findings(f.fixed)))[_key(f)] < stands[_key(f)] for f in mine if f.fixed is not None
    )
    return RuleMutationVerdict(clean.name, check, planted.home.rule(planted.rule_id).name, bool(mine), invented, fixed)


def verdicts() -> list[RuleMutationVerdict]:
    """Return every verdict over the rules of the demo homes."""
    homes = [demo_home(name) for name in DEMO_HOMES]
    return [
        judge(home, check, planted) for home in homes for check, plant in RULE_PLANTS.items() for planted in plant(home)
    ]


def run(_: argparse.Namespace) -> int:
    """Print what was planted, missed and invented; 1 if anything was, or a clean set has a finding."""
    dirty = [(home.name, f) for name in DEMO_HOMES for home in [demo_home(name)] for f in rule_findings(home)]
    for name, finding in dirty:
        print(f"{name} is not clean: {finding.sentence}")
    found = verdicts()
    for v in found:
        if not v.is_found:
            print(f"MISSED    {v.home}: {v.check} in {v.rule}")
        if v.invented:
            print(f"INVENTED  {v.home}: {v.check} in {v.rule} brought {', '.join(v.invented)}")
        if not v.is_fixed:
            print(f"NOT CORRECTED{v.home}: {v.check} in {v.rule}")
    missed, invented = sum(not v.is_found for v in found), sum(bool(v.invented) for v in found)
    useless, tried = sum(not v.is_fixed for v in found), Counter(v.check for v in found)
    without = set(RULE_PLANTS) - set(tried)
    print(
        f"{len(found)} faults of {len(tried)} kinds planted in the rules of {len(DEMO_HOMES)} homes: "
        f"{len(found) - missed} found, {missed} missed, {invented} brought an invented finding, {useless} with a fix "
        f"that does not help; {len(dirty)} findings in the clean sets; {len(without)} checks without a fault"
    )
    print("; ".join(f"{check} {count}" for check, count in sorted(tried.items())))
    return 1 if missed or invented or useless or dirty or without else 0
