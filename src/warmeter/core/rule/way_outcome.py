"""What a way to do it came to on a log: what it missed and did for nothing, its delay, and how long each thing went on."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.home.rules import Ask, MarkFact, Rule, ShutOff, Tell
from warmeter.core.rule.actions import action_runs_of
from warmeter.core.rule.run import RuleRun
from warmeter.core.rule.tuning import Events
from warmeter.core.units import MS_PER_H, MS_PER_MIN, MS_PER_S, W_MIN_PER_KWH

ONLY_SAYS = (Tell, Ask, MarkFact)
HOURS_A_MONTH = 8760 / 12


@dataclass(frozen=True, slots=True, kw_only=True)
class WayOutcome:
    """A way on a log.

    Parameters
    ----------
    missed, needless : int
        Events during which it never stood; stands that met no event.
    delay_s : float or None
        Middle time from an event's begin until it stood, below zero before it [s]; None where none was caught.
    goes_on_s : float or None
        What an event lasted on average until something acted, or somebody came who was told [s]; None without events.
    held_h : float or None
        How long what it does stood in all [h], 0 for what only says so; None where a person has to end it.
    acts : bool
        Whether it does something, and does not only say so.
    ended_ms : (event,) int array
        When each event was ended, at the latest by itself [ms UTC].
    """

    missed: int
    needless: int
    delay_s: float | None
    goes_on_s: float | None
    held_h: float | None
    acts: bool
    ended_ms: Ints


def way_outcome(
    runs: Sequence[tuple[Rule, RuleRun]], events: Events, end_ms: int, *, ahead_s: int, comes_s: int
) -> WayOutcome:
    """Return what a way came to.

    Parameters
    ----------
    runs : sequence of (Rule, RuleRun)
        The rule that is triggered first, and the one that acts upon its answer.
    events : Events
        What it should have caught.
    end_ms : int
        End of what was looked at [ms UTC].
    ahead_s : int
        How long before an event it may have begun to stand at most, for its delay [s].
    comes_s : int
        How long after being told somebody comes, where it only tells [s].

    Notes
    -----
    An event is caught while the first rule stands at any time of it; what acts is taken from every rule of the way. What
    is shut off counts at its moment alone: that the log goes on says that somebody switched it on again.
    """
    stands = _stands([(f.at_ms, f.end_ms) for f in runs[0][1].firings], end_ms)
    meets = _meeting(stands, events.begin_ms, events.until_ms)
    begun = np.array([stands[k, 0] if k >= 0 else -1 for k in meets], dtype=np.int64)
    caught = meets >= 0
    delay = np.maximum((begun - events.begin_ms)[caught] / MS_PER_S, -ahead_s)
    acting = [
        (deed.from_ms, deed.from_ms if isinstance(deed.step, ShutOff) else deed.until_ms)
        for rule, own in runs
        for deed in action_runs_of(rule, own)
        if not isinstance(deed.step, ONLY_SAYS)
    ]
    stays = any(isinstance(step, ShutOff) for rule, _ in runs for step in rule.then)
    acts = any(not isinstance(step, ONLY_SAYS) for rule, _ in runs for step in rule.then)
    if acts:
        deeds = _stands(acting, end_ms)
        acted = _meeting(deeds, events.begin_ms, events.until_ms)
        ended = np.array([deeds[k, 0] if k >= 0 else end_ms for k in acted], dtype=np.int64)
    else:
        deeds = np.zeros((0, 2), dtype=np.int64)
        told = np.maximum(begun, events.begin_ms) + comes_s * MS_PER_S
        ended = np.where(caught, told, end_ms).astype(np.int64)
    ended = np.minimum(np.maximum(ended, events.begin_ms), events.until_ms)
    met_any = _meeting(
        np.stack([events.begin_ms, events.until_ms], axis=1), stands[:, 0], np.maximum(stands[:, 1], stands[:, 0] + 1)
    )
    return WayOutcome(
        missed=int((~caught).sum()),
        needless=int((met_any < 0).sum()),
        delay_s=float(np.median(delay)) if delay.size else None,
        goes_on_s=float((ended - events.begin_ms).mean()) / MS_PER_S if events.count else None,
        held_h=None if stays else float((deeds[:, 1] - deeds[:, 0]).sum()) / MS_PER_H,
        acts=acts,
        ended_ms=ended,
    )


def _stands(rows: Sequence[tuple[int, int | None]], end_ms: int) -> Ints:
    """Return stretches in order of time, (stretch, 2); one that has no end lasts until the end."""
    both = sorted((at, end_ms if until is None else until) for at, until in rows)
    return np.array(both, dtype=np.int64).reshape(-1, 2)


def _meeting(stands: Ints, from_ms: Ints, until_ms: Ints) -> Ints:
    """Return for each stretch [from, until) the first of others that meets it, a moment too; -1 for none."""
    ends = np.maximum(stands[:, 1], stands[:, 0] + 1)
    found = np.full(from_ms.size, -1, dtype=np.int64)
    for k in range(from_ms.size):
        met = np.flatnonzero((stands[:, 0] < until_ms[k]) & (ends > from_ms[k]))
        found[k] = met[0] if met.size else -1
    return found


def energy_after(
    ended_ms: Ints, until_ms: Ints, minutes_ms: Ints, power_w: Floats, price: Floats | None
) -> tuple[float, float | None]:
    """Return what a machine draws from when it was ended until it ended by itself [kWh], and its cost by minute.

    Parameters
    ----------
    minutes_ms, power_w, price : (minute,) arrays
        Each minute's begin [ms UTC], power [W] and price a kWh; a power that is not known counts as none.
    """
    spared = np.zeros(minutes_ms.size)
    for ended, until in zip(ended_ms, until_ms, strict=True):
        overlap = np.minimum(minutes_ms + MS_PER_MIN, until) - np.maximum(minutes_ms, ended)
        spared += np.clip(overlap, 0, MS_PER_MIN) / MS_PER_MIN
    kwh = np.nan_to_num(power_w) * spared / W_MIN_PER_KWH
    return float(kwh.sum()), None if price is None else float((kwh * price).sum())


def missed_without_internet(missed: int, events: int, away_h_a_month: float) -> float:
    """Return how many of some events would be missed on average if what catches them went through the internet.

    It is taken to be away at random, and for longer than an event lasts.
    """
    return missed + (events - missed) * min(1.0, away_h_a_month / HOURS_A_MONTH)
