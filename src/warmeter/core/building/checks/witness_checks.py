"""Checks of people: who has no witness, whose witnesses can never say out, who hangs on one alone."""

from collections.abc import Iterator

from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.home.witness_kinds import WITNESS_TRAITS

RULES = {
    "nobody tells of them": "Each person has a witness: without one they keep the home from ever being out.",
    "can never be out": "One witness of each person can say out: silence is not known, and never out.",
    "one witness alone": "Each person has two witnesses: one that is forgotten or empty is noticed by the other.",
}


def witness_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about people and their witnesses."""
    for person in home.people:
        about = (person.id, *(w.id for w in person.witnesses))
        if not person.witnesses:
            yield Finding(
                kind="nobody tells of them",
                severity="warning",
                place=person.id,
                sentence=f"Nothing tells of {person.name}: they are never known to be in or out, and keep the home from being out.",
                fix="Add a witness, or take them out.",
                about=about,
            )
        elif all(WITNESS_TRAITS[w.kind].trust_out is None for w in person.witnesses):
            yield Finding(
                kind="can never be out",
                severity="warning",
                place=person.id,
                sentence=f"Nothing can say that {person.name} is out: what tells of them says in, or nothing.",
                fix="Add a telephone, or the front door with the motion beside it.",
                about=about,
            )
        elif len(person.witnesses) == 1:
            yield Finding(
                kind="one witness alone",
                severity="note",
                place=person.id,
                sentence=f"One witness alone decides whether {person.name} is out: forgotten or empty, it is not noticed.",
                fix="Add a second witness.",
                about=about,
            )
