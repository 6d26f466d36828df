"""One message through one mapping: a reading, or why it is none."""

from dataclasses import dataclass
from datetime import UTC, datetime
from math import isfinite
from typing import Any, Literal

from warmeter.core.errors import ReadingError
from warmeter.core.home.links import MessageMapping
from warmeter.core.link.json_path import path_steps, read_json, value_at
from warmeter.core.quantity import QUANTITIES
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, MS_PER_S, is_energy, to_stored

MAXIMUM_BYTES = 16_384
AHEAD_MS = 2 * MS_PER_MIN  # a clock may run ahead of ours by so much
BEHIND_MS = 7 * MS_PER_DAY  # what a device kept while its link was down may be so old
SECONDS_BELOW = 100_000_000_000  # a number of a time below this is in seconds, else in milliseconds
Refusal = Literal["giant", "binary", "form", "no value", "type", "range", "clock", "retained"]
REFUSAL_WORDS: dict[Refusal, str] = {
    "giant": f"larger than {MAXIMUM_BYTES // 1024} KB",
    "binary": "not text",
    "form": "not in the form that was said",
    "no value": "nothing stands where the value was said to stand",
    "type": "neither a number nor a word that is known",
    "range": "beyond what this quantity can be",
    "clock": "its own time is wrong by more than 2 min ahead or 7 days behind",
    "retained": "kept by the broker from before; how old it is cannot be known",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkMessage:
    """A message as it came: its topic, its bytes, when it was heard [ms UTC], and whether the broker had kept it."""

    topic: str
    payload: bytes
    heard_ms: int
    is_retained: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageReading:
    """What a message says: a value in the mapping's unit at an instant [ms UTC]; ``word`` is how it was sent."""

    at_ms: int
    value: float
    word: str


class MessageRefused(ReadingError):
    """A message is no reading; ``kind`` is a key of ``REFUSAL_WORDS``."""

    def __init__(self, kind: Refusal, why: str = "") -> None:
        super().__init__(why or REFUSAL_WORDS[kind])
        self.kind: Refusal = kind


def message_reading(mapping: MessageMapping, message: LinkMessage) -> MessageReading:
    """Return what a message says by a mapping.

    Raises
    ------
    MessageRefused
        If it is no reading: too large, no text, not of the form, out of range, or its own time is wrong.
    """
    text = message_text(message.payload)
    document: Any = text.strip()
    if mapping.payload == "json" or mapping.time_path:
        try:
            document = read_json(text)
        except ReadingError as error:
            raise MessageRefused("form", str(error)) from error
    told = _at(document, mapping.path) if mapping.payload == "json" else document
    value = mapping.scale * _number(mapping, told) + mapping.offset
    quantity = QUANTITIES[mapping.quantity]
    is_bounded = not is_energy(mapping.unit)
    stored = to_stored(value, quantity=mapping.quantity, unit=mapping.unit) if isfinite(value) else value
    if not isfinite(value) or (is_bounded and not quantity.low <= stored <= quantity.high):
        raise MessageRefused("range", f"{value:g} {mapping.unit} is beyond what {quantity.label} can be")
    at_ms = message.heard_ms
    if mapping.time_path:
        at_ms = _own_time(_at(document, mapping.time_path), message.heard_ms)
    elif message.is_retained:
        raise MessageRefused("retained")
    return MessageReading(at_ms=at_ms, value=value, word=str(told)[:40])


def message_text(payload: bytes) -> str:
    """Return a payload as text.

    Raises
    ------
    MessageRefused
        If it is larger than 16 KB, or no text in UTF-8.
    """
    if len(payload) > MAXIMUM_BYTES:
        raise MessageRefused("giant")
    try:
        return payload.decode("utf-8")
    except UnicodeDecodeError as error:
        raise MessageRefused("binary") from error


def _at(document: Any, path: str) -> Any:
    try:
        return value_at(document, path_steps(path))
    except ReadingError as error:
        raise MessageRefused("no value", str(error)) from error


def _number(mapping: MessageMapping, told: object) -> float:
    """Return the number that a payload stands for: by its words first, then as it is written."""
    if isinstance(told, str | bool | int):
        said = str(told).strip().casefold()
        for each in mapping.words:
            if each.word.strip().casefold() == said:
                return each.value
    if mapping.payload == "words":
        raise MessageRefused("type", f"the word {str(told)[:40]!r} is not among those that are known")
    if isinstance(told, bool):
        return float(told)
    if isinstance(told, int | float):
        return _finite(float(told)) if abs(told) < 1e300 else _finite(float("inf"))
    if isinstance(told, str):
        try:
            number = float(told.strip().replace(",", ".", 1))
        except ValueError as error:
            raise MessageRefused("type", f"{told[:40]!r} is no number") from error
        return _finite(number)
    raise MessageRefused("type", f"a {type(told).__name__} stands where a number should")


def _finite(value: float) -> float:
    if not isfinite(value):
        raise MessageRefused("range", "not a finite number")
    return value


def _own_time(told: object, heard_ms: int) -> int:
    """Return a message's own time: Unix seconds or milliseconds, or ISO 8601 with its offset (UTC where none is said)."""
    at_ms: float
    try:
        if isinstance(told, bool):
            raise MessageRefused("type", "a yes or no stands where a time should")
        if isinstance(told, int | float) or (isinstance(told, str) and told.replace(".", "", 1).isdecimal()):
            number = float(told)
            at_ms = number * MS_PER_S if number < SECONDS_BELOW else number
        else:
            said = datetime.fromisoformat(str(told).strip())
            at_ms = (said if said.tzinfo else said.replace(tzinfo=UTC)).timestamp() * MS_PER_S
    except (ValueError, OverflowError, OSError) as error:
        raise MessageRefused("type", f"{str(told)[:40]!r} is no time") from error
    if not heard_ms - BEHIND_MS <= at_ms <= heard_ms + AHEAD_MS:
        raise MessageRefused("clock")
    # A clock that runs a little ahead tells nothing before it is so.
    return min(round(at_ms), heard_ms)
