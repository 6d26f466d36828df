"""``warmeter split-agree``: rendered cycles added to a home's measured load and split out again."""

import argparse
import csv
from collections import Counter
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import ReadingError
from warmeter.core.signature.splitting import Placed, Template, split_cycles

Floats = NDArray[np.float64]
STEP_S = 300
PHASES_S = (0, 60, 120, 180, 240)
LEAST_S = 600  # at five minutes only runs over ten are judged
NEAR_STEPS = 1


def run(options: argparse.Namespace) -> int:
    """Add and split for each seed; print found, missed and wrong by machine."""
    traces, net = _traces(options.cycles), _net(options.net)
    templates = [t for name, watts in traces.items() for t in _templates(name, watts)]
    found, missed, wrong, added = Counter[str](), Counter[str](), Counter[str](), Counter[str]()
    for seed in range(options.first, options.first + options.seeds):
        rng = np.random.default_rng(seed)
        load, true = _with_cycles(rng, net, traces, options.each)
        judged(split_cycles(load, templates), true, found, missed, wrong)
        added.update(name for name, _ in true)
    alone = Counter(p.name.rsplit("-mode", 1)[0] for p in split_cycles(net, templates))
    print("| machine, run | min | W mean | added | found | missed | wrong | in the home's load as it is |")
    print("|---|---|---|---|---|---|---|---|")
    for name, watts in traces.items():
        if watts.size > LEAST_S:
            machine = name.rsplit("-mode", 1)[0]
            counts = f"{added[name]} | {found[name]} | {missed[name]} | {wrong[name]} | {alone.pop(machine, 0) or ''}"
            print(f"| {name} | {watts.size / 60:.0f} | {watts.mean():.0f} | {counts} |")
    print(
        f"in all: {sum(added.values())} added, {sum(found.values())} found, {sum(missed.values())} missed, {sum(wrong.values())} wrong"
    )
    print(
        f"noise from step to step of the home's own load: {float(np.median(np.abs(np.diff(net)))):.0f} W in the middle"
    )
    return 0


def _traces(folder: Path) -> dict[str, Floats]:
    """Return each rendered run by name, a value a second [W]."""
    paths = sorted(folder.glob("*.csv"))
    if not paths:
        raise ReadingError(f"{folder} holds no traces; give a folder of CSV files with t_s and P_W")
    return {path.stem: np.loadtxt(path, delimiter=",", skiprows=1, usecols=1) for path in paths}


def _net(path: Path) -> Floats:
    """Return import less export by five minutes [W], from channels E1 and B1 in kWh."""
    totals: dict[str, list[float]] = {}
    with path.open(encoding="utf-8") as file:
        for row in csv.reader(file):
            if row and row[0] in ("E1", "B1"):
                totals.setdefault(row[0], []).append(float(row[2]))
    if set(totals) != {"E1", "B1"}:
        raise ReadingError(f"{path} needs the channels E1 (import) and B1 (export)")
    size = min(len(v) for v in totals.values())
    return (np.array(totals["E1"][:size]) - np.array(totals["B1"][:size])) * 3.6e6 / STEP_S


def _binned(watts: Floats, phase_s: int) -> Floats:
    """Return a run's mean power by step when it begins so far into the first one."""
    steps = -(-(watts.size + phase_s) // STEP_S)
    padded = np.zeros(steps * STEP_S)
    padded[phase_s : phase_s + watts.size] = watts
    return padded.reshape(steps, STEP_S).mean(axis=1)


def _templates(name: str, watts: Floats) -> list[Template]:
    if watts.size <= LEAST_S:
        return []
    return [Template(name=name, power_w=_binned(watts, p), phase_s=p) for p in PHASES_S]


def _with_cycles(
    rng: np.random.Generator, net: Floats, traces: dict[str, Floats], each: int
) -> tuple[Floats, list[tuple[str, float]]]:
    """Return the load with runs added at random seconds, and which began when [step]."""
    load, true = net.copy(), []
    for name, watts in traces.items():
        for _ in range(each if watts.size > LEAST_S else 0):
            at = int(rng.integers(0, net.size * STEP_S - watts.size - STEP_S))
            part = _binned(watts, at % STEP_S)
            load[at // STEP_S : at // STEP_S + part.size] += part
            true.append((name, at / STEP_S))
    return load, true


def judged(
    told: list[Placed], true: list[tuple[str, float]], found: Counter[str], missed: Counter[str], wrong: Counter[str]
) -> None:
    """Count what was found of the true runs: the same machine within a step, each once."""
    left = list(true)
    for placed in told:
        machine, at = placed.name.rsplit("-mode", 1)[0], placed.step + placed.phase_s / STEP_S
        near = [t for t in left if t[0].rsplit("-mode", 1)[0] == machine and abs(t[1] - at) <= NEAR_STEPS]
        if near:
            hit = min(near, key=lambda t: abs(t[1] - at))
            left.remove(hit)
            found[hit[0]] += 1
        else:
            wrong[placed.name] += 1
    missed.update(name for name, _ in left)
