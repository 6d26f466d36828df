"""Worked examples run against the core (``warmeter vectors DIR``)."""

import argparse
import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from warmeter.cli.worked import (
    Case,
    claims,
    decisions,
    ducts,
    emitters,
    presence,
    radios,
    rooms,
    rules,
    savings,
    sensing,
    signatures,
    tariffs,
    timetables,
    waters,
    weather,
)

SCHEMA = "warmeter-vectors/1"
METHODS: dict[str, Callable[[Case], Case]] = {
    name: method
    for section in (
        rooms,
        emitters,
        sensing,
        weather,
        signatures,
        savings,
        waters,
        tariffs,
        timetables,
        claims,
        rules,
        decisions,
        ducts,
        presence,
        radios,
    )
    for name, method in section.METHODS.items()
}


@dataclass(frozen=True, slots=True)
class Outcome:
    """What one case came to; ``misses`` are empty when it passed, None when not supported."""

    case_id: str
    misses: tuple[str, ...] | None


def run_case(case: Case) -> Outcome:
    """Run one worked example."""
    method = METHODS.get(case["method"])
    if method is None:
        return Outcome(case["id"], None)
    try:
        got = method(case["inputs"])
    except Exception as error:  # a case that breaks the core is a miss to be listed, not the end of the run
        return Outcome(case["id"], (f"{type(error).__name__}: {error}",))
    misses = []
    for name, expected in case["expected"].items():
        tolerance = case["tolerance"].get(name, case["tolerance"]["default"])
        if name not in got:
            misses.append(f"{name}: not given")
        else:
            misses += _differences(name, got[name], expected, tolerance)
    return Outcome(case["id"], tuple(misses))


def _differences(name: str, got: Any, expected: Any, tolerance: Case) -> Iterator[str]:
    if isinstance(expected, dict):
        if not isinstance(got, dict) or got.keys() != expected.keys():
            yield f"{name}: got {got}, expected {expected}"
            return
        for key in expected:
            yield from _differences(f"{name}.{key}", got[key], expected[key], tolerance)
    elif isinstance(expected, list):
        if not isinstance(got, list) or len(got) != len(expected):
            yield f"{name}: got {got}, expected {expected}"
            return
        for k, (mine, theirs) in enumerate(zip(got, expected, strict=True)):
            yield from _differences(f"{name}[{k}]", mine, theirs, tolerance)
    elif isinstance(expected, bool) or expected is None or isinstance(expected, str):
        if got != expected or isinstance(got, bool) != isinstance(expected, bool):
            yield f"{name}: got {got!r}, expected {expected!r}"
    elif (
        got is None
        or isinstance(got, str | bool)
        or not (abs(got - expected) <= tolerance["abs"] + tolerance["rel"] * abs(expected))
    ):
        yield f"{name}: got {got!r}, expected {expected!r}"


def cases_of(folder: Path) -> Iterator[Case]:
    """Yield every case of a folder's vector files.

    Raises
    ------
    ValueError
        If a file is not of the known schema.
    """
    for path in sorted(folder.glob("*.json")):
        content = json.loads(path.read_text(encoding="utf-8"))
        if content.get("schema") != SCHEMA:
            raise ValueError(f"{path.name} is no file of {SCHEMA}")
        yield from content["cases"]


def run(options: argparse.Namespace) -> int:
    """Run a folder, print misses and totals; 1 if any failed, 2 if there is nothing to run."""
    folder: Path = options.folder
    if not folder.is_dir() or not any(folder.glob("*.json")):
        print(f"{folder} holds no worked examples (*.json)")
        return 2
    outcomes = [run_case(case) for case in cases_of(folder)]
    for outcome in outcomes:
        for miss in outcome.misses or ():
            print(f"{outcome.case_id}: {miss}")
    unsupported = sum(outcome.misses is None for outcome in outcomes)
    failed = sum(bool(outcome.misses) for outcome in outcomes)
    print(f"{len(outcomes) - unsupported - failed} passed, {failed} failed, {unsupported} not supported")
    return 1 if failed else 0
