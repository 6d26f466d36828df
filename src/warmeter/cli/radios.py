"""``warmeter radios``: who was heard in a capture, and which one was seen or follows after a battery change."""

import argparse
import json
from pathlib import Path
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from warmeter.core.errors import ReadingError, TimeError
from warmeter.core.radio.heard import heard_senders
from warmeter.core.radio.odds import NONE, Ranking
from warmeter.core.radio.seen import (
    SURE,
    SeenReading,
    SeenTouch,
    are_too_close,
    fell_silent,
    sender_of,
    successor_of,
    taken_by_channel,
    taken_by_id,
)
from warmeter.core.radio.transmissions import Capture, read_capture
from warmeter.core.timegrid import LocalClock, from_ms, parse_utc
from warmeter.core.units import MS_PER_S, to_stored

SHOWN_REFUSED = 10
MEASURES = {"temperature": ("room_temperature", "°C"), "humidity": ("relative_humidity", "%")}


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


class ReadOff(_Strict):
    """A number read off a display."""

    time: str | float
    value: float
    quantity: str = "temperature"
    unit: str = ""
    step: Annotated[float, Field(gt=0)] | None = None
    lag_s: Annotated[float, Field(ge=0)] | None = None
    channel: str | int | None = None


class Touched(_Strict):
    """A warm hand (a rise) or a cold sill (a fall)."""

    time: str | float
    moved_k: float


class Seen(_Strict):
    """What was seen of a sensor, and whose battery was changed."""

    readings: tuple[ReadOff, ...] = ()
    touches: tuple[Touched, ...] = ()
    silent: str = ""
    zone: str = "UTC"
    sure: Annotated[float, Field(gt=0, le=1)] = SURE


def run(options: argparse.Namespace) -> int:
    """Print what was heard and whose it is; 1 where that is not sure."""
    seen = _seen(options.seen) if options.seen else Seen()
    clock = LocalClock(seen.zone)
    with options.capture.open(encoding="utf-8", errors="replace") as file:
        capture = read_capture(file, clock)
    if not capture.transmissions:
        why = f": {capture.refused[0].why}" if capture.refused else ""
        raise ReadingError(f"{options.capture.name} holds no message{why}")
    answer = _answer(capture, seen)
    if options.json:
        print(json.dumps(answer, indent=1, ensure_ascii=False))
    else:
        _print(answer)
    sought = [answer[key] for key in ("best", "successor") if key in answer]
    return 1 if any(each is None for each in sought) else 0


def _seen(path: Path) -> Seen:
    try:
        return Seen.model_validate_json(path.read_bytes())
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise ReadingError(f"{path.name}: {place}: {first['msg']}") from None


def _answer(capture: Capture, seen: Seen) -> dict[str, Any]:
    sent = capture.transmissions
    answer: dict[str, Any] = {
        "lines": capture.lines,
        "messages": len(sent),
        "refused": [{"line": r.number, "why": r.why} for r in capture.refused[:SHOWN_REFUSED]],
        "refused_n": len(capture.refused),
        "heard": [
            {
                "id": each.sender,
                "model": each.model,
                "channels": list(each.channels),
                "messages": each.count,
                "rhythm_s": each.rhythm_s,
                "first": from_ms(each.first_ms).isoformat(),
                "last": from_ms(each.last_ms).isoformat(),
                "ranges": {name: list(ends) for name, ends in each.ranges.items()},
                "strength": each.strength,
                "fell_silent": fell_silent(sent, each.sender),
            }
            for each in heard_senders(sent)
        ],
    }
    if seen.readings or seen.touches:
        readings = [_reading(each) for each in seen.readings]
        touches = [SeenTouch(at_ms=_instant(each.time), moved_k=each.moved_k) for each in seen.touches]
        found = sender_of(sent, readings, touches, seen.sure)
        answer |= {**_ranking(found), "readings_too_close": are_too_close(readings)}
        if found.best not in (None, NONE):
            by_id, by_channel = taken_by_id(sent, found.best), taken_by_channel(sent, found.best)
            answer["would_take"] = {
                "by_id": {"messages": by_id.messages, "senders": by_id.senders},
                "by_channel": {"messages": by_channel.messages, "senders": by_channel.senders},
            }
    if seen.silent:
        follows = successor_of(sent, seen.silent, seen.sure)
        if follows is None:
            raise ReadingError(f"nothing of {seen.silent} stands in this capture")
        told = _ranking(follows)
        answer |= {"successors": told["posterior"], "successor": told["best"]}
    return answer


def _ranking(found: Ranking) -> dict[str, Any]:
    rows = [{"id": o.id, "p": o.p, "log10_odds": o.log10_odds, "used": o.used} for o in found.posterior]
    return {"posterior": rows, "best": found.best}


def _reading(told: ReadOff) -> SeenReading:
    if told.quantity not in MEASURES:
        raise ReadingError(f"{told.quantity!r} is read off no display; {' and '.join(MEASURES)} are")
    quantity, usual = MEASURES[told.quantity]
    return SeenReading(
        at_ms=_instant(told.time),
        value=to_stored(told.value, quantity=quantity, unit=told.unit or usual),
        quantity=told.quantity,
        step=told.step,
        lag_s=told.lag_s,
        channel=None if told.channel is None else str(told.channel),
    )


def _instant(told: str | float) -> int:
    if not isinstance(told, str):
        return round(told * MS_PER_S)
    try:
        return parse_utc(told)
    except TimeError as error:
        raise ReadingError(str(error)) from None


def _print(answer: dict[str, Any]) -> None:
    print(f"{answer['messages']} messages of {len(answer['heard'])} senders, {answer['refused_n']} lines refused")
    for each in answer["heard"]:
        rhythm = "" if each["rhythm_s"] is None else f", every {each['rhythm_s']:.0f} s"
        ranges = "; ".join(f"{name} {low:.1f} to {high:.1f}" for name, (low, high) in each["ranges"].items())
        print(f"{each['id']} ({each['model']}): {each['messages']} messages{rhythm}; {ranges}")
    for key, words in (("posterior", "seen is"), ("successors", "follows")):
        for row in answer.get(key, [])[:3]:
            print(f"{words} {row['id']}: {100 * row['p']:.2f} %")
