"""A button pressed, or something that a person states."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from warmeter.core.home.conditions.condition import HomeParts
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, SubjectPlace
from warmeter.core.home.part import Id, Word
from warmeter.core.truth.calendar_times import Pairs
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.truth import MOMENT_MS

EventKind = Literal["button", "tag", "statement"]
BUTTONS = ("wall_switch", "relay")


@dataclass(frozen=True, slots=True, kw_only=True)
class Happens(InStretches):
    """A button pressed, a tag shown, or something that a person states; ``word`` says which."""

    LIST_PLACE: ClassVar[int] = 3

    event: EventKind
    word: Word = ""
    subject_id: Id | None = None
    kind: Literal["happens"] = "happens"

    @property
    def is_moment(self) -> bool:
        """It is one."""
        return True

    @property
    def subject(self) -> str:
        """The key of the button, or of what is stated."""
        return f"button:{self.subject_id}" if self.event == "button" else "statement"

    @classmethod
    def subjects(cls, home: HomeParts) -> Mapping[str, str]:
        """Return the buttons of a home, and what a person states."""
        buttons = [d for d in home.devices if d.kind in BUTTONS and d.is_in_service]
        return {f"button:{d.id}": f"{d.name} pressed" for d in buttons} | {"statement": "what a person states"}

    @classmethod
    def usual(cls, home: HomeParts, rest: str) -> "Happens":
        """Return a button pressed, or an answer stated."""
        if rest:
            return cls(event="button", subject_id=home.device(rest).id)
        return cls(event="statement", word="Answered")

    def on_other(self, subject_id: str) -> "Happens":
        """Return it of another button."""
        return replace(self, subject_id=subject_id)

    def phrase(self) -> Phrase:
        """Return its words."""
        if self.event == "button":
            return SubjectPlace(part_id=self.subject_id or ""), "is pressed"
        return SubjectPlace(text="somebody"), "states", FieldPlace("word", "what is stated")

    def stretches(self, scope: Scope) -> Pairs:
        """Return its second each time that it happened."""
        happened = scope.happened(self.event, self.word, self.subject_id)
        return [(at, at + MOMENT_MS) for at in happened.tolist()]
