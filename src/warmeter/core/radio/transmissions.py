"""A capture of transmissions, one JSON object a line, as checked messages in order of time."""

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from math import isfinite
from typing import Any

from warmeter.core.timegrid import LocalClock, to_ms
from warmeter.core.units import F_PER_K, MS_PER_S

LONGEST_LINE, MOST_LINES = 10_000, 2_000_000
MOST_VALUES = 40
BURST_MS = 3000  # a sender repeats a message within so long so as to be heard
FIRST_MS, LAST_MS = 946_684_800_000, 4_102_444_800_000  # 2000 to 2100
_NEWEST_S = LAST_MS / MS_PER_S
_FIRST_YEAR, _LAST_YEAR = 2000, 2100
TIME_KEYS = ("time", "timestamp", "ts", "t", "received", "date")
ID_KEYS = ("id", "device", "serial", "address", "code")
CHANNEL_KEYS = ("channel", "ch", "button")
STRENGTH_KEYS = ("strength", "rssi", "level", "snr")
MODEL_KEYS = ("model", "type", "protocol")
_ABOUT = frozenset(
    (*TIME_KEYS, *ID_KEYS, *CHANNEL_KEYS, *STRENGTH_KEYS, *MODEL_KEYS, "mic", "mod", "freq", "noise", "values")
)
_TEMPERATURES = frozenset({"temperature", "temp", "celsius", "fahrenheit", "t"})
_HUMIDITIES = frozenset({"humidity", "rh", "hum"})
POSSIBLE = {"temperature": (-60.0, 150.0), "humidity": (0.0, 100.0)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Transmission:
    """One message: when [ms UTC], whose, on which channel, its values by quantity, and how strong it came.

    Temperatures are in °C, humidity in %; other values are as they were sent.
    """

    at_ms: int
    sender: str
    model: str
    channel: str | None
    values: Mapping[str, float]
    strength: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RefusedLine:
    """A line that is no message: its number from 1 on, and why."""

    number: int
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Capture:
    """Messages in order of time, the lines that are none, and how many there were of both."""

    transmissions: tuple[Transmission, ...]
    refused: tuple[RefusedLine, ...]
    lines: int


class _NoMessage(ValueError):
    """A line is no message; its text says why."""


def read_capture(lines: Iterable[str], clock: LocalClock) -> Capture:
    """Return what a capture holds.

    Parameters
    ----------
    lines : iterable of str
        One JSON object each, at most 10,000 characters; empty ones are passed over, no more than two million are read.
    clock : LocalClock
        Of times without an offset.

    Notes
    -----
    An id that several models use is told with its model. A message that its sender repeats within 3 s is one.
    """
    found: list[Transmission] = []
    refused: list[RefusedLine] = []
    count = 0
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        count += 1
        if number > MOST_LINES:
            refused.append(RefusedLine(number=number, why=f"no more than {MOST_LINES} lines are read"))
            break
        try:
            found.append(_transmission(line, clock))
        except _NoMessage as error:
            refused.append(RefusedLine(number=number, why=str(error)))
    found.sort(key=lambda each: each.at_ms)
    return Capture(transmissions=tuple(_once(_told_apart(found))), refused=tuple(refused), lines=count)


def _told_apart(found: list[Transmission]) -> Iterator[Transmission]:
    """Yield messages whose senders bear their model where an id alone is not enough."""
    models: dict[str, set[str]] = {}
    for each in found:
        models.setdefault(each.sender, set()).add(each.model)
    for each in found:
        yield replace(each, sender=f"{each.model} {each.sender}") if len(models[each.sender]) > 1 else each


def _once(found: Iterable[Transmission]) -> list[Transmission]:
    """Return messages without those that repeat one just sent."""
    kept: list[Transmission] = []
    last: dict[str, Transmission] = {}
    for each in found:
        before = last.get(each.sender)
        same = before is not None and (before.values, before.channel) == (each.values, each.channel)
        if before is not None and same and each.at_ms - before.at_ms <= BURST_MS:
            continue
        last[each.sender] = each
        kept.append(each)
    return kept


def _transmission(line: str, clock: LocalClock) -> Transmission:
    if len(line) > LONGEST_LINE:
        raise _NoMessage(f"longer than {LONGEST_LINE} characters")
    try:
        fields = json.loads(line)
    except (ValueError, RecursionError):
        raise _NoMessage("no JSON") from None
    if not isinstance(fields, dict):
        raise _NoMessage("no JSON object")
    named = {str(key).strip().lower(): value for key, value in fields.items()}
    sender = _first(named, ID_KEYS)
    if sender is None or isinstance(sender, bool | dict | list) or not str(sender).strip():
        raise _NoMessage("no id")
    channel, strength, model = (_first(named, keys) for keys in (CHANNEL_KEYS, STRENGTH_KEYS, MODEL_KEYS))
    return Transmission(
        at_ms=_time(_first(named, TIME_KEYS), clock),
        sender=str(sender).strip()[:80],
        model=str(model or "").strip()[:80],
        channel=None if channel is None or isinstance(channel, bool | dict | list) else str(channel).strip()[:20],
        values=_values(named),
        strength=_number(strength),
    )


def _first(fields: Mapping[str, Any], keys: Iterable[str]) -> Any:
    return next((fields[key] for key in keys if fields.get(key) is not None), None)


def _time(told: Any, clock: LocalClock) -> int:
    """Return a message's instant [ms UTC]."""
    number = _number(told)
    if number is not None:
        at_ms = round(number if number > _NEWEST_S else number * MS_PER_S)
    elif isinstance(told, str):
        try:
            moment = datetime.fromisoformat(told.strip())
        except ValueError:
            raise _NoMessage("its time cannot be read") from None
        if moment.tzinfo is not None:
            at_ms = to_ms(moment) if _FIRST_YEAR <= moment.year < _LAST_YEAR else 0
        else:
            instants = clock.instants_of(moment) if _FIRST_YEAR <= moment.year < _LAST_YEAR else ()
            if not instants:
                raise _NoMessage("the home's clock has no such time")
            at_ms = instants[0]
    else:
        raise _NoMessage("no time")
    if not FIRST_MS <= at_ms <= LAST_MS:
        raise _NoMessage("its time is not of this century")
    return at_ms


def _number(told: Any) -> float | None:
    """Return what was told as a finite number, None where it is none."""
    if isinstance(told, bool) or not isinstance(told, int | float):
        return None
    try:
        number = float(told)
    except OverflowError:
        return None
    return number if isfinite(number) else None


def _values(fields: Mapping[str, Any]) -> dict[str, float]:
    """Return a message's values by quantity; what cannot be is left out."""
    own = fields.get("values")
    told = [(key, value) for key, value in fields.items() if key not in _ABOUT]
    if isinstance(own, dict):
        told += [(str(key).strip().lower(), value) for key, value in own.items()]
    found: dict[str, float] = {}
    for key, value in told[:MOST_VALUES]:
        number = float(value) if isinstance(value, bool) else _number(value)
        if number is None:
            continue
        quantity, shown = _quantity(key, number)
        low, high = POSSIBLE.get(quantity, (float("-inf"), float("inf")))
        if low <= shown <= high:
            found.setdefault(quantity, shown)
    return found


def _quantity(key: str, number: float) -> tuple[str, float]:
    """Return the quantity that a key names, and its number in °C or %."""
    name, _, unit = key.rpartition("_")
    if unit not in ("c", "f", "pct") or not name:
        name, unit = key, ""
    is_fahrenheit = unit == "f" or name == "fahrenheit"
    if name in _TEMPERATURES:
        name = "temperature"
    elif name in _HUMIDITIES:
        name = "humidity"
    elif unit in ("c", "f") and not name.startswith(("temperature", "temp")):
        return key[:40], number
    return name[:40], (number - 32.0) / F_PER_K if is_fahrenheit else number
