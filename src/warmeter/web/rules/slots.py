"""Slots of a sentence: what stands in them, the part of the rule that they stand for, and what may be typed."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

from warmeter.core.errors import WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.units import MIN_PER_DAY, S_PER_DAY, S_PER_H, celsius_to, kelvin_to
from warmeter.web import format as show
from warmeter.web.form_reader import Texts
from warmeter.web.typed import parse_amount, parse_clock, parse_quantity

EditorKind = Literal["choice", "many", "text", "long"]
_DURATION = re.compile(r"(\d+(?:[.,]\d+)?)\s*(days?|d|hours?|h|min(?:utes?)?|m|s(?:ec(?:onds?)?)?)?")
MOST = 1e6
_SIGNS = (show.MINUS, "+")
_IN_S = {"d": 86_400.0, "h": 3600.0, "m": 60.0, "s": 1.0}
Option = tuple[str, str]


class SlotType(Protocol):
    """What a slot holds: it reads what was typed as fields of the part that the slot stands for."""

    def read(self, texts: Texts, home: Home) -> dict[str, Any]:
        """Return the fields; ``WarmeterError`` says what is wrong."""
        ...


@dataclass(frozen=True, slots=True)
class Removal:
    """What goes when a slot is taken out: the part at a path, or with ``field`` one field of it."""

    path: str
    field: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Slot:
    """A slot of a sentence.

    Parameters
    ----------
    id : str
        Its name in forms, the same for the same place of a rule.
    text, title : str
        What stands in it, and what it is, for those who do not see the sentence around it.
    kind : str
        A choice of one, of many, or a typed text.
    value : str
        What the editor begins with; of many, with commas between.
    options : sequence of (key, label)
        Of a choice.
    hint : str
        What may be typed.
    path : str
        The part of the rule that it stands for, "" the rule itself.
    type : SlotType
        What it holds.
    removal : Removal or None
        What goes with it, if it can be taken out.
    is_number : bool
        Whether it is set in the face of numbers.
    """

    id: str
    text: str
    title: str
    kind: EditorKind = "text"
    value: str = ""
    options: Sequence[Option] = ()
    hint: str = ""
    path: str
    type: SlotType
    removal: Removal | None = None
    is_number: bool = False
    is_wrong: bool = False

    @property
    def is_short(self) -> bool:
        """Whether it stays on one line: a number is not parted from its unit."""
        return len(self.text) <= 24

    @property
    def runs(self) -> list[tuple[str, bool]]:
        """Its text in runs, with whether each is a number."""
        if not self.is_number:
            return [(self.text, False)]
        words = self.text.split(" ")
        return [(f"{' ' * (k > 0)}{word}", word[:1].isdigit() or word[:1] in _SIGNS) for k, word in enumerate(words)]


@dataclass(frozen=True, slots=True)
class SentenceWord:
    """A word between slots; the four words of a rule are bold."""

    text: str
    is_bold: bool = False


@dataclass(slots=True)
class RuleSentence:
    """Words and slots in order."""

    parts: list[SentenceWord | Slot] = field(default_factory=list)

    def say(self, text: str, *, is_bold: bool = False) -> None:
        """Add words."""
        self.parts.append(SentenceWord(text, is_bold))

    def leave(self, slot: Slot) -> None:
        """Add a slot."""
        self.parts.append(slot)

    @property
    def slots(self) -> list[Slot]:
        """Its slots."""
        return [part for part in self.parts if isinstance(part, Slot)]

    @property
    def spaced(self) -> list[tuple[SentenceWord | Slot, bool]]:
        """Its parts, each with whether a space stands before it."""
        found: list[tuple[SentenceWord | Slot, bool]] = []
        is_after_bracket = True
        for part in self.parts:
            if part.text:
                found.append((part, not is_after_bracket and part.text[0] not in ",.;:)"))
                is_after_bracket = part.text.endswith("(")
        return found

    @property
    def text(self) -> str:
        """The whole sentence as plain text."""
        return "".join((" " if gap else "") + part.text for part, gap in self.spaced)


def seconds_text(seconds: float) -> str:
    """Return a time as a slot shows it: 90 s, 3 min, 1 h 30 min, 2 days."""
    whole = round(seconds)
    if whole and whole % S_PER_H == 0 and whole < 2 * S_PER_DAY:
        return f"{whole // S_PER_H} h"
    if whole < 120 and whole % 60:
        return f"{whole} s"
    if whole < 7200 and whole % 60 == 0:
        return f"{whole // 60} min"
    if whole % S_PER_DAY == 0 and whole >= 2 * S_PER_DAY:
        return f"{whole // S_PER_DAY} days"
    parts = [(whole // S_PER_H, "h"), (whole // 60 % 60, "min"), (whole % 60, "s")]
    return " ".join(f"{n} {unit}" for n, unit in parts if n)


def seconds_of(text: str, *, low: int, high: int) -> int:
    """Return the seconds of a typed time; a bare number is in minutes.

    Raises
    ------
    WarmeterError
        If it cannot be read, or lies outside.
    """
    plain = text.strip().lower()
    found = _DURATION.findall(plain)
    if not found or _DURATION.sub("", plain).strip(" ,"):
        raise WarmeterError(f"{text!r} is no length of time; write it such as 3 min, 90 s or 1 h 30 min")
    total = round(sum(float(n.replace(",", ".")) * _IN_S[(unit or "min")[0]] for n, unit in found))
    if not low <= total <= high:
        raise WarmeterError(f"a time between {seconds_text(low) or '0 s'} and {seconds_text(high)} is needed here")
    return total


def number_of(text: str, *, low: float, high: float, unit: str = "") -> float:
    """Return a typed number in its unit; ``WarmeterError`` says what is wrong with it."""
    try:
        value = parse_quantity(text, unit)
    except ValueError as error:
        raise WarmeterError(f"{text!r} is no number; write one such as 21.5") from error
    if not low <= value <= high:
        raise WarmeterError(f"a number between {low:g} and {high:g} {unit}".rstrip() + " is needed here")
    return value


def minute_of(text: str) -> int:
    """Return the minute of a typed time of day; ``WarmeterError`` if it is none."""
    try:
        minute = parse_clock(text)
    except ValueError as error:
        raise WarmeterError(f"{text!r} is no time of day; write it such as 21:30") from error
    return minute % MIN_PER_DAY


def one_of(options: Sequence[Option], key: str) -> str:
    """Return a chosen key; ``WarmeterError`` if it is not offered."""
    if key not in {each for each, _ in options}:
        raise WarmeterError("choose one of the list")
    return key


def many_of(options: Sequence[Option], texts: Texts) -> tuple[str, ...]:
    """Return the ticked keys in the order of the list; ``WarmeterError`` if none is."""
    found = tuple(key for key, _ in options if f"value.{key}" in texts)
    if not found:
        raise WarmeterError("choose one of the list at least")
    return found


def value_text(home: Home, unit: str, value: float, *, is_difference: bool = False) -> str:
    """Return a value in the home's unit, with it."""
    if unit == "°C" and is_difference:
        return f"{_plain(kelvin_to(value, home.temperature_unit))} {show.difference_unit(home)}"
    if unit == "°C":
        return f"{_plain(celsius_to(value, home.temperature_unit), 1)} {show.temperature_unit(home)}"
    if unit == "price":
        return f"{show.money(value, home.currency, 3 if round(value, 2) != round(value, 3) else 2)}/kWh"
    words = {"°": "°", "%": " %", "g/m3": " g/m³", "": ""}
    return f"{_plain(value)}{words.get(unit, f' {unit}')}"


def _plain(value: float, decimals: int = 0) -> str:
    """Return a number with as many decimals as it needs, at most three."""
    for places in range(decimals, 3):
        if abs(round(value, places) - value) < 1e-6:
            return show.number(value, places)
    return show.number(value, 3 if abs(value) < 10 else 1)


def typed_value(home: Home, unit: str, text: str, *, is_difference: bool = False, low: float = -1e6) -> float:
    """Return the stored value of a typed number in the home's unit."""
    try:
        value = (
            float(parse_amount(text))
            if unit == "price"
            else parse_quantity(text, unit, home.units, is_difference=is_difference)
        )
    except ValueError as error:
        raise WarmeterError(f"{text!r} is not understood. {error}") from error
    if not low <= value <= MOST:
        raise WarmeterError(f"a number between {low:g} and {MOST:g} is needed here")
    return value
