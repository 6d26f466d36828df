"""Ways to know whether anybody is at home, side by side on one log."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Floats, Ints
from warmeter.core.home.people import WitnessKind
from warmeter.core.presence.agreement import chance_in
from warmeter.core.presence.household_presence import HouseholdPresence, JudgedPerson
from warmeter.core.presence.presence_score import PresenceScore, presence_score
from warmeter.core.presence.witness_kinds import WITNESS_TRAITS
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN


@dataclass(frozen=True, slots=True, kw_only=True)
class PresenceWay:
    """A way: the kind of witness that it goes by (None: all of them, or the clock), and how it does on the log."""

    name: str
    kind: WitnessKind | None
    score: PresenceScore


def looking_back(household: HouseholdPresence, minutes_ms: Ints, sure: float) -> Bytes:
    """Return whether anybody was at home in each minute, by all witnesses and from both sides; ``UNKNOWN`` between.

    Notes
    -----
    All are out with the product of their chances to be out; whoever was seen often enough was there.
    """
    all_out = np.ones(minutes_ms.size)
    for person in household.persons:
        all_out *= 1 - _chance(person, minutes_ms)
    is_in = household.sightings.counts(sure) | (1 - all_out >= sure)
    return np.where(is_in, TRUE, np.where(all_out >= sure, FALSE, UNKNOWN)).astype(np.int8)


def _chance(person: JudgedPerson, minutes_ms: Ints) -> Floats:
    heard = [w.reports for w in person.witnesses if w.reports is not None]
    if not heard:
        return np.full(minutes_ms.size, 0.5)
    return chance_in([r.standing(minutes_ms) for r in heard], [(r.trust_in, r.trust_out) for r in heard])


def by_kind(household: HouseholdPresence, minutes_ms: Ints) -> dict[WitnessKind, Bytes]:
    """Return the home by each kind of witness alone: in if any says so, out if one does and none says in.

    What never says out is taken for out while it is silent: so it is used by whoever has nothing else.
    """
    said: dict[WitnessKind, list[Bytes]] = {}
    for person in household.persons:
        for each in person.witnesses:
            if each.reports is not None:
                said.setdefault(each.witness.kind, []).append(each.reports.standing(minutes_ms))
    result: dict[WitnessKind, Bytes] = {}
    for kind, rows in said.items():
        every = np.stack(rows)
        quiet = FALSE if WITNESS_TRAITS[kind].trust_out is None else UNKNOWN
        is_out = (every == FALSE).any(axis=0) & (every != TRUE).all(axis=0)
        result[kind] = np.where((every == TRUE).any(axis=0), TRUE, np.where(is_out, FALSE, quiet)).astype(np.int8)
    return result


def ways_of(
    household: HouseholdPresence,
    minutes_ms: Ints,
    sure: float,
    by_clock: Flags | None,
    others: Sequence[tuple[str, Bytes]],
) -> list[PresenceWay]:
    """Return every way with how it does: all witnesses, each kind alone, others by name, the clock.

    Parameters
    ----------
    by_clock : (minute,) flags or None
        Whether the timetable takes somebody to be there; None without one.
    others : sequence of (str, (minute,) int8 array)
        Further ways.

    Notes
    -----
    As truth stands what all come to looking back: a way that all others contradict looks worse than it may be.
    """
    truth = looking_back(household, minutes_ms, sure)

    def way(name: str, kind: WitnessKind | None, state: Bytes) -> PresenceWay:
        return PresenceWay(name=name, kind=kind, score=presence_score(state, truth))

    rows = [way("all together, as set now", None, household.home.state.at(minutes_ms))]
    rows += [way(WITNESS_TRAITS[kind].label, kind, said) for kind, said in by_kind(household, minutes_ms).items()]
    rows += [way(name, None, state) for name, state in others]
    if by_clock is not None:
        rows.append(way("the clock", None, np.where(by_clock, TRUE, FALSE).astype(np.int8)))
    return rows
