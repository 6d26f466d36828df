"""What the slots of a sentence hold: times, dates, words, numbers, choices."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from warmeter.core.errors import WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.home.rules import AnswerChoice
from warmeter.core.units import S_PER_DAY
from warmeter.web import format as show
from warmeter.web.form_reader import Texts
from warmeter.web.rules.slots import (
    Option,
    Slot,
    many_of,
    minute_of,
    number_of,
    one_of,
    seconds_of,
    seconds_text,
    typed_value,
    value_text,
)

WEEK_S = 7 * S_PER_DAY
GONE = "something that is gone"
DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_DAY_SETS: tuple[tuple[str, str, tuple[int, ...]], ...] = (
    ("all", "every day", ()),
    ("work", "on Mon to Fri", (0, 1, 2, 3, 4)),
    ("off", "on Sat and Sun", (5, 6)),
    *((str(k), f"on {day}", (k,)) for k, day in enumerate(DAYS)),
)


def _typed(texts: Texts) -> str:
    return texts.get("value", "")


@dataclass(frozen=True, slots=True)
class Seconds:
    """A length of time [s]."""

    field: str
    low: int = 0
    high: int = WEEK_S

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return it."""
        return {self.field: seconds_of(_typed(texts), low=self.low, high=self.high)}


@dataclass(frozen=True, slots=True)
class Minute:
    """A time of day [min], moved to the nearer of its ends where it lies outside."""

    field: str
    low: int = 0
    high: int = 1439

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return it."""
        return {self.field: min(max(minute_of(_typed(texts)), self.low), self.high)}


@dataclass(frozen=True, slots=True)
class Words:
    """Typed words."""

    field: str
    title: str
    least: int = 1
    most: int = 80

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return them."""
        text = _typed(texts).strip()
        if not text and self.least:
            raise WarmeterError(f"{self.title} is missing")
        if len(text) > self.most:
            raise WarmeterError(f"{self.title} must have {self.least} to {self.most} letters")
        return {self.field: text}


@dataclass(frozen=True, slots=True)
class OneOf:
    """One of several, each with the fields that it sets."""

    choices: Mapping[str, dict[str, Any]]

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return the fields of the chosen one."""
        if _typed(texts) not in self.choices:
            raise WarmeterError("choose one of the list")
        return self.choices[_typed(texts)]


@dataclass(frozen=True, slots=True)
class ManyOf:
    """Several ticked things."""

    field: str
    options: Sequence[Option]

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return their keys."""
        return {self.field: many_of(self.options, texts)}


@dataclass(frozen=True, slots=True)
class AnswerWords:
    """One answer's words, or the fact that it marks; an answer without words is taken out, one after the last added."""

    answers: tuple[AnswerChoice, ...]
    number: int
    is_word: bool = False

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return the answers with it changed; ``WarmeterError`` says what is wrong."""
        text = texts.get("value", "").strip()
        most = 80 if self.is_word else 40
        if len(text) > most:
            raise WarmeterError(f"at most {most} letters fit here")
        answers = list(self.answers)
        if self.number == len(answers):
            answers += [AnswerChoice(label=text)] if text else []
        elif self.is_word:
            answers[self.number] = replace(answers[self.number], word=text)
        elif text:
            answers[self.number] = replace(answers[self.number], label=text)
        else:
            del answers[self.number]
        if not answers:
            raise WarmeterError("a question needs one answer at least; take the whole question out instead")
        return {"answers": tuple(answers)}


@dataclass(frozen=True, slots=True)
class Number:
    """A number; what is typed is stored divided by ``divisor``, an empty one is None where that is allowed."""

    field: str
    low: float
    high: float
    unit: str = ""
    divisor: float = 1.0
    is_whole: bool = False
    may_be_empty: bool = False

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return it."""
        text = _typed(texts).strip()
        if self.may_be_empty and text in ("", "–", "no limit"):
            return {self.field: None}
        value = number_of(text, low=self.low, high=self.high, unit=self.unit)
        return {self.field: int(value) if self.is_whole else value / self.divisor}


@dataclass(frozen=True, slots=True)
class Amount:
    """A value, or a difference, of a quantity in its stored unit, typed in the home's."""

    field: str
    unit: str
    is_difference: bool = False
    low: float = -1e6

    def read(self, texts: Texts, home: Home) -> dict[str, Any]:
        """Return it."""
        value = typed_value(home, self.unit, _typed(texts), is_difference=self.is_difference, low=self.low)
        return {self.field: value}


@dataclass(frozen=True, slots=True)
class DayOfYear:
    """A date of every year."""

    day_field: str
    month_field: str

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return its day and month."""
        words = _typed(texts).replace(".", " ").split()
        months = [k for k, short in enumerate(MONTHS, 1) for word in words if word.lower().startswith(short.lower())]
        numbers = [word for word in words if word.isdecimal()]
        if len(months) != 1 or len(numbers) != 1:
            raise WarmeterError(f"{_typed(texts)!r} is no date of the year; write it such as 15 Oct")
        return {self.day_field: int(number_of(numbers[0], low=1, high=31)), self.month_field: months[0]}


@dataclass(frozen=True, slots=True)
class Subject:
    """What a condition looks at, as a key of those that its first slot offers."""

    options: Sequence[Option]

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return the key."""
        return {"subject": one_of(self.options, _typed(texts))}


@dataclass(frozen=True, slots=True)
class Verb:
    """How a condition looks at its signal, as ``over:is`` with what is meant in a watch."""

    options: Sequence[Option]
    is_watch: bool

    def read(self, texts: Texts, _: Home) -> dict[str, Any]:
        """Return how, and whether a crossing or the state is meant, None where that is left."""
        how, _colon, reading = one_of(self.options, _typed(texts)).partition(":")
        return {"how": how, "reading": reading if reading and self.is_watch else None}


def seconds_slot(
    name: str, title: str, seconds: float, path: str, field: str, *, low: int = 0, high: int = WEEK_S
) -> Slot:
    """Return a slot of a length of time [s]."""
    text = seconds_text(seconds) or "0 s"
    return Slot(
        id=name,
        text=text,
        title=title,
        value=text,
        hint="such as 3 min, 90 s, 1 h 30 min",
        path=path,
        type=Seconds(field, low, high),
        is_number=True,
    )


def minute_slot(name: str, title: str, minute: int, path: str, field: str, *, low: int = 0, high: int = 1439) -> Slot:
    """Return a slot of a time of day [min]."""
    return Slot(
        id=name,
        text=show.clock_time(minute),
        title=title,
        value=show.clock_time(minute),
        hint="such as 21:30",
        path=path,
        type=Minute(field, low, high),
        is_number=True,
    )


def text_slot(name: str, title: str, text: str, path: str, field: str) -> Slot:
    """Return a slot of typed words."""
    return Slot(id=name, text=f"“{text}”", title=title, value=text, path=path, type=Words(field, title))


def choice_slot(
    name: str, title: str, options: list[Option], value: str, path: str, choices: str | Mapping[str, dict[str, Any]]
) -> Slot:
    """Return a slot of one of several; ``choices`` are the fields that each sets, or the field that takes its key."""
    sets = {key: {choices: key} for key, _ in options} if isinstance(choices, str) else choices
    return Slot(
        id=name,
        text=dict(options).get(value, value),
        title=title,
        kind="choice",
        value=value,
        options=options,
        path=path,
        type=OneOf(sets),
    )


def yes_no_slot(name: str, title: str, words: tuple[str, str], is_yes: bool, path: str, field: str) -> Slot:
    """Return a slot of a yes or no in words of its own."""
    options = [("yes", words[0]), ("no", words[1])]
    choices = {"yes": {field: True}, "no": {field: False}}
    return choice_slot(name, title, options, "yes" if is_yes else "no", path, choices)


def many_slot(
    name: str, title: str, options: list[Option], chosen: tuple[str, ...], path: str, field: str, *, joint: str = "and"
) -> Slot:
    """Return a slot of several ticked things; those that are gone are told as gone."""
    names = dict(options)
    words = [names.get(each, GONE) for each in chosen]
    text = words[0] if len(words) == 1 else f"{', '.join(words[:-1])} {joint} {words[-1]}"
    return Slot(
        id=name,
        text=text,
        title=title,
        kind="many",
        value=",".join(chosen),
        options=options,
        path=path,
        type=ManyOf(field, options),
        is_wrong=GONE in words,
    )


def number_slot(
    name: str, title: str, value: float, unit: str, path: str, field: str, ends: tuple[float, float]
) -> Slot:
    """Return a slot of a number with a unit of its own, between two ends."""
    shown = value_text_of(value, unit)
    low, high = (show.number(end) for end in ends)
    return Slot(
        id=name,
        text=shown,
        title=title,
        value=shown,
        hint=f"{low} to {high} {unit}",
        path=path,
        type=Number(field, *ends, unit),
        is_number=True,
    )


def value_text_of(value: float, unit: str) -> str:
    """Return a number with its unit: a sign of degrees stands at it, another unit apart."""
    decimals = 3 if round(value, 1) != value else 1 if unit == "°" or value != round(value) else 0
    return f"{show.number(value, decimals)}{'' if unit == '°' else ' '}{unit}"


def weekdays_slot(path: str, days: tuple[int, ...]) -> Slot:
    """Return a slot of the days on which it holds."""
    known = {chosen: name for name, _, chosen in _DAY_SETS}
    options = [(name, label) for name, label, _ in _DAY_SETS]
    choices = {name: {"weekdays": chosen} for name, _, chosen in _DAY_SETS}
    slot = choice_slot(f"{path}.days", "on which days", options, known.get(days, ""), path, choices)
    return slot if days in known else replace(slot, text="on " + ", ".join(DAYS[d] for d in days))


def date_slot(name: str, day: int, month: int, path: str, fields: tuple[str, str]) -> Slot:
    """Return a slot of a date of every year; ``fields`` are those of its day and month."""
    text = f"{day} {MONTHS[month - 1]}"
    return Slot(
        id=name,
        text=text,
        title="the date",
        value=text,
        hint="such as 15 Oct",
        path=path,
        type=DayOfYear(*fields),
        is_number=True,
    )


def value_slot(
    home: Home,
    unit: str,
    name: str,
    title: str,
    value: float,
    path: str,
    field: str,
    *,
    is_difference: bool = False,
    low: float = -1e6,
    words: tuple[str, str] = ("", ""),
) -> Slot:
    """Return a slot of a value in the home's unit; ``words`` are told around it, for 0 and for others."""
    text = value_text(home, unit, value, is_difference=is_difference)
    shown = (words[0] if value == 0 else words[1].format(text)) if words[1] else text
    return Slot(
        id=name,
        text=shown,
        title=title,
        value=text,
        hint=f"a number in {text.split(' ')[-1]}" if " " in text else "a number",
        path=path,
        type=Amount(field, unit, is_difference, low),
        is_number=not words[1],
    )
