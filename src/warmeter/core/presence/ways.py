"""Ways to know whether anybody is at home, side by side on one log."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Bytes, Floats, Ints
from warmeter.core.home.document import Home
from warmeter.core.home.people import WitnessKind
from warmeter.core.home.witness_kinds import WITNESS_TRAITS
from warmeter.core.presence.agreement import chance_in
from warmeter.core.presence.household_presence import HouseholdPresence, JudgedPerson
from warmeter.core.presence.presence_score import PresenceScore, presence_score
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_between
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.units import J_PER_KWH, S_PER_H, WEEKS_A_YEAR

# By day a level that saves means that nobody is there [min of the day].
DAY_MIN = (420, 1320)


@dataclass(frozen=True, slots=True, kw_only=True)
class PresenceWay:
    """A way: the kinds of witness that it goes by (none: the clock), how it does on the log, and what it hangs on.

    ``wasted_kwh_week`` and ``wasted_a_year`` are of what is on while somebody is taken to be in; telephones are not
    among the batteries, people charge those.
    """

    name: str
    kinds: tuple[WitnessKind, ...]
    score: PresenceScore
    wasted_kwh_week: float
    wasted_a_year: float
    batteries: int


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
    home: Home, household: HouseholdPresence, minutes_ms: Ints, power_w: float, per_kwh: float
) -> list[PresenceWay]:
    """Return every way with how it does: all witnesses, each kind alone, the clock where there is a timetable.

    Parameters
    ----------
    power_w, per_kwh : float
        What is on while somebody is taken to be in [W], and what a kilowatt-hour of it costs.

    Notes
    -----
    As truth stands what all come to looking back: a way that all others contradict looks worse than it may be.
    """
    truth = looking_back(household, minutes_ms, home.presence_practice.sure)

    def way(name: str, kinds: Sequence[WitnessKind], state: Bytes) -> PresenceWay:
        score = presence_score(state, truth)
        kwh = score.wasted_h * S_PER_H * power_w / J_PER_KWH
        return PresenceWay(
            name=name,
            kinds=tuple(kinds),
            score=score,
            wasted_kwh_week=kwh,
            wasted_a_year=kwh * per_kwh * WEEKS_A_YEAR,
            batteries=_batteries(home, kinds),
        )

    every = list(dict.fromkeys(w.kind for person in home.people for w in person.witnesses))
    rows = [way("all together, as set now", every, household.home.state.at(minutes_ms))]
    rows += [way(WITNESS_TRAITS[kind].label, (kind,), said) for kind, said in by_kind(household, minutes_ms).items()]
    clock = by_clock(home, minutes_ms)
    return rows if clock is None else [*rows, way("the clock", (), clock)]


def by_clock(home: Home, minutes_ms: Ints) -> Bytes | None:
    """Return the home by its timetable: in at night, and by day where a zone is at a level that does not save.

    None without zones, or a level in use. At night a level that saves is for who sleeps.
    """
    if not home.zones or home.in_use is None:
        return None
    clock, saving = LocalClock(home.time_zone), {level.id for level in home.levels if level.is_saving}
    _, of_day = clock.local_minutes(minutes_ms)
    is_in = (of_day < DAY_MIN[0]) | (of_day >= DAY_MIN[1])
    for zone in home.zones:
        blocks = blocks_between(home, zone, clock, int(minutes_ms[0]), int(minutes_ms[-1]) + 1)
        begins = np.array([b.from_ms for b in blocks], dtype=np.int64)
        warms = np.array([b.level_id not in saving for b in blocks])
        is_in |= warms[np.searchsorted(begins, minutes_ms, side="right") - 1]
    return np.where(is_in, TRUE, FALSE).astype(np.int8)


def _batteries(home: Home, kinds: Sequence[WitnessKind]) -> int:
    """Return on how many batteries some kinds of witness hang, telephones left out."""
    named = {key for p in home.people for w in p.witnesses if w.kind in kinds for key in w.device_ids}
    fed = ("battery", "mains_and_battery")
    return sum(d.id in named and d.power in fed and d.kind != "telephone" for d in home.devices)
