"""Cycles found in a stand-in machine's log, held against the truth that the log carries."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.signature.cycles import Activity, Cycle, activity
from warmeter.core.signature.detector import steps_of
from warmeter.core.signature.phases import phases_of
from warmeter.core.signature.recommending import propose
from warmeter.core.units import J_PER_KWH, S_PER_DAY
from warmeter.simulators.machines.labelled import KINDS, LabelledLog, labelled_log
from warmeter.simulators.machines.scenario import TrueCycle

COARSE_S, FEWEST_STEPS = 60, 5  # at a minute, only cycles of five steps or more are judged
NEAR_S = 60.0
END_S = 120.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SeedVerdict:
    """What was found in one log.

    Parameters
    ----------
    found, missed, invented : int
        Cycles; one is found where both of its ends lie near true ones, each used once.
    energy_errors, short_energy_errors : tuple of float
        |found/true − 1| of each, in cycles of five steps and more, and in shorter ones.
    borders_near, borders : int
        True borders of phases that have a found one within a minute, and all of them.
    border_errors_s : tuple of float
        Distance of each that has one [s].
    surplus_borders : int
        Found borders with no true one within a minute.
    finish_s : tuple of float
        How long after the tuned wait each true end was told; negative is sooner [s].
    finish_missed, finish_false : int
        Ends that the tuned setting never told, and tellings without an end.
    """

    kind: str
    seed: int
    step_s: int
    found: int
    missed: int
    invented: int
    energy_errors: tuple[float, ...] = ()
    short_energy_errors: tuple[float, ...] = ()
    borders_near: int = 0
    borders: int = 0
    border_errors_s: tuple[float, ...] = ()
    surplus_borders: int = 0
    finish_s: tuple[float, ...] = ()
    finish_missed: int = 0
    finish_false: int = 0


def judge_log(kind: str, seed: int, step_s: int) -> SeedVerdict:
    """Find the cycles of one stand-in log and judge them."""
    log = labelled_log(kind, seed, step_s)
    judged = [c for c in log.cycles if step_s < COARSE_S or c.end_s - c.start_s >= FEWEST_STEPS * step_s]
    try:
        found = activity(log.power_w, float(step_s))
    except NotKnowable:
        return SeedVerdict(kind=kind, seed=seed, step_s=step_s, found=0, missed=len(judged), invented=0)
    pairs, invented = _pairs(log, judged, [c for c in found.cycles if c.is_whole], step_s)
    verdict = SeedVerdict(
        kind=kind, seed=seed, step_s=step_s, found=len(pairs), missed=len(judged) - len(pairs), invented=invented
    )
    return _with_details(verdict, log, found, pairs) if KINDS[kind].has_cycles else verdict


def _pairs(
    log: LabelledLog, judged: list[TrueCycle], cycles: list[Cycle], step_s: int
) -> tuple[list[tuple[TrueCycle, Cycle]], int]:
    """Return pairs of true and found cycles, and how many found ones are invented."""
    near, end_near = max(NEAR_S, 2 * step_s), max(END_S, 2 * step_s)
    pairs: list[tuple[TrueCycle, Cycle]] = []
    left = list(judged)
    invented = 0
    for cycle in cycles:
        start, end = cycle.start * step_s, cycle.end * step_s
        true = next((t for t in left if abs(t.start_s - start) <= near and abs(t.end_s - end) <= end_near), None)
        if true is not None:
            left.remove(true)
            pairs.append((true, cycle))
        elif not _is_excused(log, judged, start, end):
            invented += 1
    return pairs, invented


def _is_excused(log: LabelledLog, judged: list[TrueCycle], start_s: float, end_s: float) -> bool:
    """Return whether a found cycle lies on one that is not judged: cut by a drop-out, or too short for the step."""

    def touches(cycle: TrueCycle) -> bool:
        return cycle.start_s < end_s + NEAR_S and cycle.end_s > start_s - NEAR_S

    if any(touches(c) for c in log.cut):
        return True
    return any(touches(c) for c in log.cycles if c not in judged) and not any(touches(c) for c in judged)


def _with_details(
    verdict: SeedVerdict, log: LabelledLog, found: Activity, pairs: list[tuple[TrueCycle, Cycle]]
) -> SeedVerdict:
    step_s = log.step_s
    errors: tuple[list[float], list[float]] = ([], [])
    near, total, surplus, distances = 0, 0, 0, []
    for true, cycle in pairs:
        energy = float(np.nansum(log.power_w[cycle.start : cycle.end])) * step_s / J_PER_KWH
        is_short = true.end_s - true.start_s < FEWEST_STEPS * step_s
        errors[is_short].append(abs(energy / true.energy_kwh - 1))
        borders = np.array([p.start_s for p in true.phases[1:]], dtype=np.float64)
        told = np.array([p.start * step_s for p in phases_of(log.power_w, step_s, cycle.start, cycle.end)][1:], float)
        away = np.abs(np.subtract.outer(borders, told))
        nearest = away.min(axis=1, initial=np.inf)
        near, total = near + int((nearest <= NEAR_S).sum()), total + borders.size
        distances += nearest[nearest <= NEAR_S].tolist()
        surplus += told.size - int((away.min(axis=0, initial=np.inf) <= NEAR_S).sum())
    late, missed, false = _finishes(log, found, [true for true, _ in pairs])
    return SeedVerdict(
        kind=verdict.kind,
        seed=verdict.seed,
        step_s=step_s,
        found=verdict.found,
        missed=verdict.missed,
        invented=verdict.invented,
        energy_errors=tuple(errors[0]),
        short_energy_errors=tuple(errors[1]),
        borders_near=near,
        borders=total,
        border_errors_s=tuple(distances),
        surplus_borders=surplus,
        finish_s=late,
        finish_missed=missed,
        finish_false=false,
    )


def _finishes(log: LabelledLog, found: Activity, true: list[TrueCycle]) -> tuple[tuple[float, ...], int, int]:
    """Return how long after its wait the tuned setting told each true end, and what it missed and invented."""
    day = np.arange(log.power_w.size, dtype=np.int64) * log.step_s // S_PER_DAY
    try:
        proposal = propose(log.power_w, float(log.step_s), found, day)
    except NotKnowable:
        return (), len(true), 0
    told = np.sort(np.array(proposal.verdict.told_at, dtype=np.float64)) * log.step_s
    wait = steps_of(proposal.setting.wait_s, float(log.step_s)) * log.step_s
    after, missed = [], 0
    for cycle in true:
        first = told[told >= cycle.end_s]
        late = float(first[0]) - cycle.end_s - wait if first.size else np.inf
        if late <= END_S + log.step_s:
            after.append(late)
        else:
            missed += 1
    return tuple(after), missed, len(proposal.verdict.false_at)
