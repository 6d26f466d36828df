"""``warmeter mutate``: plant every fault in every clean demo home; each must be found and none invented."""

import argparse
from dataclasses import dataclass

from warmeter.core.building.checks.findings import RULES, findings_of
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.service.homes.demo import DEMO_HOMES, demo_home
from warmeter.simulators.faults import PLANTS
from warmeter.simulators.planted import Planted


@dataclass(frozen=True, slots=True)
class MutationVerdict:
    """What a planted fault came to: whether it was found, and which kinds were invented."""

    home: str
    kind: str
    place: str
    is_found: bool
    invented: tuple[str, ...]


def clean_homes() -> tuple[Home, ...]:
    """Return the demo homes with every fault mended."""
    return tuple(demo_home(name) for name in DEMO_HOMES)


def judge(clean: Home, kind: str, planted: Planted) -> MutationVerdict:
    """Return whether a planted fault is found at its place, and what else is found without reason."""
    before = {_key(f) for f in findings_of(clean)}
    fresh = [f for f in findings_of(planted.home) if _key(f) not in before]
    is_found = any(f.kind == kind and planted.place in (f.place, *f.about) for f in fresh)
    invented = tuple(sorted({f.kind for f in fresh if f.kind != kind and f.kind not in planted.brings}))
    return MutationVerdict(clean.name, kind, planted.place, is_found, invented)


def _key(finding: Finding) -> tuple[str, str]:
    return finding.kind, finding.place


def verdicts() -> list[MutationVerdict]:
    """Return every verdict over the clean demo homes."""
    return [
        judge(home, kind, planted)
        for home in clean_homes()
        for kind, plant in PLANTS.items()
        for planted in plant(home)
    ]


def run(_: argparse.Namespace) -> int:
    """Print what was planted, found, missed and invented; 1 if anything was missed or invented."""
    for home in clean_homes():
        for finding in findings_of(home):
            print(f"{home.name} is not clean: {finding.sentence}")
    found = verdicts()
    for v in found:
        if not v.is_found:
            print(f"MISSED    {v.home}: {v.kind} at {v.place}")
        if v.invented:
            print(f"INVENTED  {v.home}: {v.kind} at {v.place} brought {', '.join(v.invented)}")
    missed, invented = sum(not v.is_found for v in found), sum(bool(v.invented) for v in found)
    dirty = sum(len(findings_of(home)) for home in clean_homes())
    tried = {v.kind for v in found}
    print(
        f"{len(found)} faults of {len(tried)} kinds planted in {len(clean_homes())} homes: "
        f"{len(found) - missed} found, {missed} missed, {invented} brought an invented finding; "
        f"{dirty} findings in the clean homes; {len(set(RULES) - tried)} rules without a fault"
    )
    return 1 if missed or invented or dirty or set(RULES) - tried else 0
