"""Presence of every person and of the home from a log, each witness trusted as far as the others bear it out."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Ints, true_runs
from warmeter.core.home.document import Home
from warmeter.core.home.people import Occupant, PresencePractice, Witness
from warmeter.core.home.witness_kinds import usual_trust
from warmeter.core.presence.agreement import agreed_trust, chance_in
from warmeter.core.presence.approach import way_reports
from warmeter.core.presence.home_presence import HomePresence, PersonTrack, home_presence
from warmeter.core.presence.person_presence import PersonPresence, WitnessReports, person_presence
from warmeter.core.presence.presence_log import PresenceLog, reports_of
from warmeter.core.presence.presence_states import PresenceState
from warmeter.core.presence.sightings import Sightings, sightings
from warmeter.core.presence.witness_trust import WitnessTrust, same_pairs, witness_trust
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth
from warmeter.core.units import MS_PER_MIN, MS_PER_S

# A learnt trust is taken from so many runs on; two that agree more often than this cannot be told apart.
LEAST_RUNS, SAME_SHARE = 20, 0.9
WINDOW_MIN = 20
LIKELY = 0.5
AT_ONCE: Mapping[PresenceState, int] = {"in": 0, "out": 0, "not_known": 0}


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedWitness:
    """A witness with what it said, what the others make of it, and the trust taken for in and for out.

    ``reports`` is None where it was never heard. ``against_others`` holds it against what the others come to without it;
    None where they are sure of in or of out too seldom to tell. ``runs_in`` and ``runs_out`` are rows of minutes in which
    it said either; ``is_learnt_in`` and ``is_learnt_out`` say whether the trust comes from the log; ``same_as`` names the
    first witness of the person that it cannot be told apart from.
    """

    witness: Witness
    reports: WitnessReports | None
    against_others: WitnessTrust | None
    runs_in: int
    runs_out: int
    is_learnt_in: bool
    is_learnt_out: bool
    same_as: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedPerson:
    """A person with judged witnesses and the presence that follows."""

    person: Occupant
    witnesses: tuple[JudgedWitness, ...]
    presence: PersonPresence


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseholdPresence:
    """Everybody's presence over [start, end), and the home's.

    ``sightings`` are of somebody seen, whoever it is; they hold the home in where they are trusted enough.
    """

    persons: tuple[JudgedPerson, ...]
    home: HomePresence
    sightings: Sightings
    start_ms: int
    end_ms: int

    def by_minute(self, state: Truth) -> Bytes:
        """Return a state in each minute from the start on."""
        return state.at(minutes_of(self.start_ms, self.end_ms))


def minutes_of(start_ms: int, end_ms: int) -> Ints:
    """Return the beginnings of minutes from a start on [ms UTC]."""
    return np.arange(start_ms, end_ms, MS_PER_MIN, dtype=np.int64)


def least_ms(practice: PresencePractice) -> dict[PresenceState, int]:
    """Return the minimum durations of a home [ms]."""
    return {
        "in": practice.least_in_s * MS_PER_S,
        "out": practice.least_out_s * MS_PER_S,
        "not_known": practice.least_not_known_s * MS_PER_S,
    }


def household_presence(home: Home, log: PresenceLog, guests: Sequence[tuple[int, int]] = ()) -> HouseholdPresence:
    """Return presence from a home's log.

    Notes
    -----
    Each witness is held against what the others of its person come to without it, seen from both sides of each minute;
    a trust that was typed stays. With fewer than ``LEAST_RUNS`` runs of a word the usual one stays too.

    References
    ----------
    docs/methods N1, N2, Q2.
    """
    persons = tuple(_judged(home, log, person) for person in home.people)
    practice = home.presence_practice
    tracks = [
        PersonTrack(name=p.person.name, state=p.presence.state, way_reports=tuple(way_reports(log, p.person)))
        for p in persons
    ]

    def together(seen: Sequence[tuple[int, int]]) -> HomePresence:
        return home_presence(
            tracks,
            guests=guests,
            seen=seen,
            way_max_ms=practice.way_max_s * MS_PER_S,
            least_ms=AT_ONCE,
            initial="not_known",
            start_ms=log.start_ms,
            end_ms=log.end_ms,
        )

    by_persons = together(())
    minutes = minutes_of(log.start_ms, log.end_ms)
    seen = sightings(home, log, _leavings(persons), _doors(home), by_persons.state.at(minutes), minutes)
    return HouseholdPresence(
        persons=persons,
        home=together(_stretches(seen.counts(practice.sure), minutes)),
        sightings=seen,
        start_ms=log.start_ms,
        end_ms=log.end_ms,
    )


def _stretches(holds: Flags, minutes: Ints) -> list[tuple[int, int]]:
    """Return rows of minutes in which something holds as stretches [ms UTC]."""
    return [
        (int(minutes[first]), int(minutes[past - 1]) + MS_PER_MIN)
        for first, past in zip(*true_runs(holds), strict=True)
    ]


def _doors(home: Home) -> list[str]:
    """Return the contacts of doors by which people leave."""
    contacts = {d.id for d in home.devices if d.kind == "contact"}
    named = [key for p in home.people for w in p.witnesses if w.kind == "door_motion" for key in w.device_ids]
    return [key for key in dict.fromkeys(named) if key in contacts]


def _leavings(persons: Sequence[JudgedPerson]) -> list[WitnessReports]:
    """Return what doors with motion said."""
    judged = [w for p in persons for w in p.witnesses if w.witness.kind == "door_motion"]
    return [w.reports for w in judged if w.reports is not None]


def _judged(home: Home, log: PresenceLog, person: Occupant) -> JudgedPerson:
    is_alone = len(home.people) == 1
    heard = [reports_of(log, person, w, usual_trust(w, is_alone)) for w in person.witnesses]
    reports = [each for each in heard if each is not None]
    minutes = minutes_of(log.start_ms, log.end_ms)
    said = [each.standing(minutes) for each in reports]
    reports = _grouped(reports, said)
    prior = [(r.trust_in, r.trust_out) for r in reports]
    believed = agreed_trust(said, prior)
    typed = {w.id: w for w in person.witnesses}
    judged = {
        own.id: _judged_witness(home, typed[own.id], reports, k, said, believed, prior[k])
        for k, own in enumerate(reports)
    }
    witnesses = tuple(judged.get(w.id) or _never_heard(w) for w in person.witnesses)
    voting = [w.reports for w in witnesses if w.reports is not None]
    return JudgedPerson(
        person=person, witnesses=witnesses, presence=_presence(home, log, voting, least_ms(home.presence_practice))
    )


def _never_heard(witness: Witness) -> JudgedWitness:
    return JudgedWitness(
        witness=witness,
        reports=None,
        against_others=None,
        runs_in=0,
        runs_out=0,
        is_learnt_in=False,
        is_learnt_out=False,
        same_as="",
    )


def _judged_witness(
    home: Home,
    witness: Witness,
    reports: Sequence[WitnessReports],
    k: int,
    said: Sequence[Bytes],
    believed: Sequence[tuple[float, float]],
    usual: tuple[float, float],
) -> JudgedWitness:
    """Return a witness with the trust that is taken: typed, else learnt where it spoke often enough, else usual."""
    own = reports[k]
    others = [j for j, r in enumerate(reports) if j != k and not (own.same_as and r.same_as == own.same_as)]
    runs = _runs(said[k], TRUE), _runs(said[k], FALSE)
    learnt = [bool(others) and count >= LEAST_RUNS for count in runs]
    is_learnt_in, is_learnt_out = (learnt[0] and witness.trust_in is None, learnt[1] and witness.trust_out is None)
    return JudgedWitness(
        witness=witness,
        reports=replace(
            own,
            trust_in=believed[k][0] if is_learnt_in else usual[0],
            trust_out=believed[k][1] if is_learnt_out else usual[1],
        ),
        against_others=_against(home, said[k], [said[j] for j in others], [believed[j] for j in others]),
        runs_in=runs[0],
        runs_out=runs[1],
        is_learnt_in=is_learnt_in,
        is_learnt_out=is_learnt_out,
        same_as=own.same_as,
    )


def _runs(said: Bytes, word: int) -> int:
    """Return how many rows of minutes a witness says a word."""
    return int(true_runs(said == word)[0].size)


def _presence(
    home: Home, log: PresenceLog, reports: Sequence[WitnessReports], least: Mapping[PresenceState, int]
) -> PersonPresence:
    return person_presence(
        reports,
        sure=home.presence_practice.sure,
        least_ms=least,
        initial="not_known",
        start_ms=log.start_ms,
        end_ms=log.end_ms,
    )


def _grouped(reports: list[WitnessReports], said: list[Bytes]) -> list[WitnessReports]:
    """Return reports with those that cannot be told apart named after the first of them."""
    same: dict[int, int] = {}
    for pair in same_pairs(said, SAME_SHARE):
        if pair.is_same and pair.minutes >= LEAST_RUNS:
            same.setdefault(pair.other, same.get(pair.one, pair.one))
    named = {*same.values(), *same}
    return [replace(r, same_as=reports[same.get(k, k)].id) if k in named else r for k, r in enumerate(reports)]


def _against(
    home: Home, said: Bytes, others: Sequence[Bytes], believed: Sequence[tuple[float, float]]
) -> WitnessTrust | None:
    """Return what the others make of a witness without it; None where they cannot tell.

    Shares go by the minutes of which the others are sure; how late it is, by when they come to think otherwise.
    """
    if not others:
        return None
    chance = chance_in(others, believed)
    sure = home.presence_practice.sure
    truth = np.where(chance >= sure, TRUE, np.where(chance <= 1 - sure, FALSE, UNKNOWN)).astype(np.int8)
    if min(_runs(truth, TRUE), _runs(truth, FALSE)) < LEAST_RUNS:
        return None
    shares = witness_trust(said, truth, WINDOW_MIN)
    turns = witness_trust(said, np.where(chance >= LIKELY, TRUE, FALSE).astype(np.int8), WINDOW_MIN)
    return replace(shares, late_in=turns.late_in, late_out=turns.late_out)
