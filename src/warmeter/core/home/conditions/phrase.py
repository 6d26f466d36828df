"""The words of a condition with the places that a person fills in; the page makes slots of them."""

from collections.abc import Mapping
from dataclasses import dataclass
from dataclasses import field as made_by
from typing import Any


@dataclass(frozen=True, slots=True, kw_only=True)
class SubjectPlace:
    """The first place: what is looked at, in words, or the name of a part or a signal."""

    text: str = ""
    part_id: str | None = None
    signal: Any = None


@dataclass(frozen=True, slots=True)
class FieldPlace:
    """A field of the condition, told by its type: a time of day, a length of time, an angle, words, weekdays."""

    field: str
    title: str
    key: str = ""
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, slots=True)
class ChoicePlace:
    """A field of one of several values, each in words; ``sets`` has further fields that a value sets."""

    field: str
    title: str
    words: Mapping[Any, str]
    key: str = ""
    sets: Mapping[Any, Mapping[str, Any]] = made_by(default_factory=dict)


@dataclass(frozen=True, slots=True)
class DatePlace:
    """A date of every year, in two fields."""

    key: str
    day_field: str
    month_field: str


@dataclass(frozen=True, slots=True)
class ValuePlace:
    """A value of the quantity that is looked at; ``words`` are told around it, for 0 and for others."""

    field: str
    title: str
    is_difference: bool = False
    low: float = -1e6
    words: tuple[str, str] = ("", "")


@dataclass(frozen=True, slots=True)
class LevelsPlace:
    """Levels of the home, one or several."""

    field: str


@dataclass(frozen=True, slots=True)
class VerbPlace:
    """How a signal is looked at, and in a watch whether a crossing or the state is meant."""

    how: str


@dataclass(frozen=True, slots=True)
class MinusPlace:
    """Another signal that is taken away from the first."""


@dataclass(frozen=True, slots=True)
class PartPlace:
    """A condition within a condition, by its name there."""

    sub: str


Place = (
    SubjectPlace | FieldPlace | ChoicePlace | DatePlace | ValuePlace | LevelsPlace | VerbPlace | MinusPlace | PartPlace
)
Phrase = tuple[str | Place, ...]


def yes_no(field_name: str, title: str, yes: str, no: str, key: str = "") -> ChoicePlace:
    """Return the place of a yes or no in words of its own."""
    return ChoicePlace(field_name, title, {True: yes, False: no}, key)
