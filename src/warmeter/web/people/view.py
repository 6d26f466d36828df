"""People as ready strings: where each is now, what each witness is worth, what cannot be told apart."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.people import Care, Occupant, Witness
from warmeter.core.home.witness_kinds import WITNESS_TRAITS, usual_trust
from warmeter.core.presence.household_presence import HouseholdPresence, JudgedPerson, JudgedWitness
from warmeter.core.presence.person_presence import age_ms
from warmeter.core.presence.share_interval import share_interval
from warmeter.core.presence.witness_trust import Lateness, WitnessTrust
from warmeter.core.units import MS_PER_MIN, S_PER_MIN
from warmeter.service.presence.household import HomePresenceNow
from warmeter.web import format as show
from warmeter.web.people.day_strip import STATE_WORD, hold_text

CARE_WORDS: Mapping[Care, str] = {"none": "no", "infant": "an infant", "ill": "ill", "old": "old"}
# The trust axis: from one half to one, in px.
AXIS_PX = 52
LETTERS = "abcdefghij"


@dataclass(frozen=True, slots=True, kw_only=True)
class TrustMark:
    """How often a word is right: number and range in words, place of the dot and the bar's ends [px]; "" not learnt."""

    text: str
    range: str
    x: float
    low_x: float
    high_x: float
    is_sure: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TrustRow:
    """A witness of a person with what its word is worth."""

    person: str
    witness: str
    letter: str
    right_in: TrustMark | None
    right_out: TrustMark | None
    no_in: str
    no_out: str
    late_in: str
    late_out: str
    others: str
    is_heard: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class WitnessRow:
    """A witness as it is written down: what it is made of, and what could be added."""

    witness: Witness
    label: str
    made_of: list[Device]
    could_be: list[Device]
    hold: str
    hold_in_min: str
    hold_out_min: str
    trust_in: str
    trust_out: str
    usual_in: str
    usual_out: str
    says_out: bool
    asks_of_people: str
    sees: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonRow:
    """A person with where they are now."""

    person: Occupant
    state: str
    since: str
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TrustView:
    """The table of trust, with what cannot be told apart in words."""

    rows: list[TrustRow]
    alike: list[str]
    seen: str


def person_rows(home: Home, found: HomePresenceNow | None, at: str) -> list[PersonRow]:
    """Return the people of a home, where each is as of the log's end."""
    judged = {} if found is None else {p.person.id: p for p in found.household.persons}
    rows = []
    for person in home.people:
        state, since = ("not known", "no data") if person.id not in judged else _now(judged[person.id])
        rows.append(PersonRow(person=person, state=state, since=since, is_on=person.id == at))
    return rows


def _now(judged: JudgedPerson) -> tuple[str, str]:
    """Return a person's last state, and how old the word for it is."""
    value = int(judged.presence.state.value[-1])
    heard = [w.reports for w in judged.witnesses if w.reports is not None]
    age = age_ms(heard, value, judged.presence.state.end_ms - 1)
    return STATE_WORD[value], "" if age is None else f"told {show.duration(age / MS_PER_MIN)} before"


def trust_view(found: HomePresenceNow, sure: float) -> TrustView:
    """Return what each witness is worth."""
    household = found.household
    letters = _letters(household)
    rows = [
        _trust_row(person, witness, letters.get((person.person.id, witness.same_as), ""), sure)
        for person in household.persons
        for witness in person.witnesses
    ]
    alike = []
    for (person_id, _), letter in letters.items():
        judged = next(p for p in household.persons if p.person.id == person_id)
        names = [
            WITNESS_TRAITS[w.witness.kind].label
            for w in judged.witnesses
            if letters.get((person_id, w.same_as)) == letter
        ]
        alike.append(
            f"{letter}: {' and '.join(names)} of {judged.person.name} cannot be told apart and count as one vote."
        )
    alike += _shared(household)
    return TrustView(rows=rows, alike=alike, seen=_seen_words(household, sure))


def _letters(household: HouseholdPresence) -> dict[tuple[str, str], str]:
    """Return a letter for each group of witnesses that cannot be told apart, by person and the first of them."""
    groups: dict[tuple[str, str], int] = {}
    for person in household.persons:
        for witness in person.witnesses:
            if witness.same_as:
                key = person.person.id, witness.same_as
                groups[key] = groups.get(key, 0) + 1
    return {key: LETTERS[k % len(LETTERS)] for k, key in enumerate(k for k, count in groups.items() if count > 1)}


def _shared(household: HouseholdPresence) -> list[str]:
    """Return what witnesses of several people are one device: it does not say who."""
    by_devices: dict[tuple[str, ...], list[str]] = {}
    for person in household.persons:
        for judged in person.witnesses:
            if judged.reports is not None and not WITNESS_TRAITS[judged.witness.kind].says_who:
                by_devices.setdefault(judged.witness.device_ids, []).append(person.person.name)
    told = [names for names in by_devices.values() if len(names) > 1]
    return [f"What stands for {' and '.join(names)} alike does not say who." for names in told]


def _seen_words(household: HouseholdPresence, sure: float) -> str:
    """Return what somebody seen, whoever it is, is worth."""
    trust = household.sightings.trust
    if not (household.sightings.often > 0).any():
        return ""
    counts = [
        n
        for n, share in zip(("once", "twice or more", "four times or more", "seven times or more"), trust, strict=True)
        if share >= sure
    ]
    if not counts:
        return "Somebody seen does not hold the home in: pets or draughts are seen as often."
    return f"Somebody seen {counts[0]} within ten minutes holds the home in, whoever it is; it never makes it out."


def _trust_row(person: JudgedPerson, judged: JudgedWitness, letter: str, sure: float) -> TrustRow:
    traits, reports, others = WITNESS_TRAITS[judged.witness.kind], judged.reports, judged.against_others
    is_heard = reports is not None
    says_out = traits.trust_out is not None
    no_learnt = "as usual, {}" if is_heard else "no data"
    usual = ("", "") if reports is None else (show.number(reports.trust_in, 2), show.number(reports.trust_out, 2))
    return TrustRow(
        person=person.person.name,
        witness=traits.label,
        letter=letter,
        right_in=_mark(reports.trust_in, judged.runs_in, sure) if reports and judged.is_learnt_in else None,
        right_out=_mark(reports.trust_out, judged.runs_out, sure) if reports and judged.is_learnt_out else None,
        no_in=_instead(judged.witness.trust_in, no_learnt.format(usual[0])),
        no_out=_instead(judged.witness.trust_out, no_learnt.format(usual[1])) if says_out else "never says out",
        late_in="" if others is None else _late("in", others.late_in),
        late_out="" if others is None or not says_out else _late("out", others.late_out),
        others="" if others is None else _others_words(others, says_out=says_out),
        is_heard=is_heard,
    )


def _instead(typed: float | None, otherwise: str) -> str:
    return otherwise if typed is None else f"typed {show.number(typed, 2)}"


def _others_words(others: WitnessTrust, *, says_out: bool) -> str:
    """Return how often it agrees with the others where they are sure, in words."""
    parts = [
        f"{word} {show.number(share.share, 2)}"
        for word, share in (("in", others.right_in), ("out", others.right_out))
        if share.share is not None and (word == "in" or says_out)
    ]
    return f"the others alone: {', '.join(parts)}" if parts else ""


def _mark(share: float, runs: int, sure: float) -> TrustMark:
    low, high = share_interval(share, runs)

    def x(value: float) -> float:
        return round(AXIS_PX * (min(max(value, 0.5), 1.0) - 0.5) / 0.5, 1)

    return TrustMark(
        text=show.number(share, 2),
        range=f"{show.number(low, 2)} to {show.number(high, 2)}",
        x=x(share),
        low_x=x(low),
        high_x=x(high),
        is_sure=share >= sure,
    )


def _late(word: str, late: Lateness) -> str:
    """Return how late a word comes: the middle, and the middle half."""
    if late.median_min is None or late.q1_min is None or late.q3_min is None:
        return ""
    return f"{word} {show.number(late.median_min)}, {show.number(late.q1_min)} to {show.number(late.q3_min)}"


def witness_rows(home: Home, person: Occupant) -> list[WitnessRow]:
    """Return a person's witnesses as they are written down."""
    devices = {d.id: d for d in home.devices}
    is_alone = len(home.people) == 1
    rows = []
    for witness in person.witnesses:
        traits = WITNESS_TRAITS[witness.kind]
        usual_in, usual_out = usual_trust(Witness(id=witness.id, kind=witness.kind), is_alone)
        rows.append(
            WitnessRow(
                witness=witness,
                label=traits.label,
                made_of=[devices[key] for key in witness.device_ids],
                could_be=[
                    d
                    for d in home.devices
                    if d.kind in traits.devices and d.is_in_service and d.id not in witness.device_ids
                ],
                hold=hold_text(witness),
                hold_in_min="" if witness.hold_in_s is None else f"{witness.hold_in_s / S_PER_MIN:g}",
                hold_out_min="" if witness.hold_out_s is None else f"{witness.hold_out_s / S_PER_MIN:g}",
                trust_in="" if witness.trust_in is None else f"{witness.trust_in:g}",
                trust_out="" if witness.trust_out is None else f"{witness.trust_out:g}",
                usual_in=f"{usual_in:g}",
                usual_out=f"{usual_out:g}",
                says_out=traits.trust_out is not None,
                asks_of_people=traits.asks_of_people,
                sees=traits.sees,
            )
        )
    return rows
