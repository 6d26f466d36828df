"""What was heard in a capture, as ready strings: senders with their odds, what adopting would take in, who followed whom."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.radio.heard import HeardSender, heard_senders
from warmeter.core.radio.odds import NONE, Odds, Ranking
from warmeter.core.radio.seen import fell_silent, successor_of, taken_by_channel, taken_by_id
from warmeter.core.radio.transmissions import Capture, Transmission
from warmeter.core.timegrid import LocalClock
from warmeter.web import format as show

MOST_ROWS, SHOWN_REFUSED = 40, 3
LEAST_SHOWN_P = 1e-4
BAR_PX = 80


@dataclass(frozen=True, slots=True, kw_only=True)
class SenderRow:
    """A sender as the table shows it; ``odds`` is "" before anything was read off a display."""

    sender: str
    model: str
    channel: str
    messages: str
    every: str
    temperature: str
    humidity: str
    strength: str
    device: str
    odds: str
    bar_px: float


@dataclass(frozen=True, slots=True, kw_only=True)
class VerdictView:
    """Which sender was seen: a sentence, whether it is sure, what taking it by id and by channel would bring."""

    sentence: str
    is_sure: bool
    best: str
    takes: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowerView:
    """A device that fell silent, and who follows it."""

    device_id: str
    name: str
    sentence: str
    sender: str
    since: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CaptureView:
    """A capture as its page shows it."""

    summary: str
    refused: list[str]
    rows: list[SenderRow]
    left_out: int
    verdict: VerdictView | None
    followers: list[FollowerView]


def capture_view(
    home: Home, clock: LocalClock, capture: Capture, found: Ranking | None, *, are_close: bool
) -> CaptureView:
    """Return a capture's page; ``found`` is whose it is where something was read off a display."""
    sent = capture.transmissions
    heard = heard_senders(sent)
    odds = {} if found is None else {each.id: each for each in found.posterior}
    if found is not None:
        order = {each.id: place for place, each in enumerate(found.posterior)}
        heard = tuple(sorted(heard, key=lambda each: order.get(each.sender, len(order))))
    devices = {identity.address: device for device in home.devices for identity in device.identities}
    first, last = (show.moment(at, clock, home.country) for at in (sent[0].at_ms, sent[-1].at_ms))
    return CaptureView(
        summary=f"{show.number(len(sent))} messages of {len(heard)} senders, {first} to {last}. Only the one that is taken "
        "in is kept.",
        refused=_refused(capture),
        rows=[_row(home, each, devices, odds) for each in heard[:MOST_ROWS]],
        left_out=max(0, len(heard) - MOST_ROWS),
        verdict=None if found is None else _verdict(found, sent, are_close=are_close),
        followers=_followers(home, clock, sent),
    )


def _refused(capture: Capture) -> list[str]:
    told = [f"line {each.number}: {each.why}" for each in capture.refused[:SHOWN_REFUSED]]
    left = len(capture.refused) - len(told)
    return [*told, *([f"and {left} lines more"] if left > 0 else [])]


def _row(home: Home, heard: HeardSender, devices: Mapping[str, Device], odds: Mapping[str, Odds]) -> SenderRow:
    device, own = devices.get(heard.sender), odds.get(heard.sender)
    temperature, humidity = heard.ranges.get("temperature"), heard.ranges.get("humidity")
    return SenderRow(
        sender=heard.sender,
        model=heard.model,
        channel=", ".join(heard.channels),
        messages=show.number(heard.count),
        every="–" if heard.rhythm_s is None else f"{heard.rhythm_s:.0f} s",
        temperature="–" if temperature is None else _range([show.temperature(each, home, 1) for each in temperature]),
        humidity="–" if humidity is None else _range([f"{each:.0f}" for each in humidity]) + " %",
        strength="–" if heard.strength is None else show.number(heard.strength, 0),
        device="" if device is None else device.name,
        odds="" if own is None else chance(own.p),
        bar_px=0.0 if own is None or own.p < LEAST_SHOWN_P else round(BAR_PX * own.p, 1),
    )


def _range(ends: Sequence[str]) -> str:
    return ends[0] if ends[0] == ends[1] else f"{ends[0]} to {ends[1]}"


def chance(p: float) -> str:
    """Return a probability in words: percent, and beyond 99 % how many to one."""
    if p < LEAST_SHOWN_P:
        return "under 0.01 %"
    if p > 1 - 1e-6:
        return "over a million to 1"
    return f"{100 * p:.1f} %" if p < 0.99 else f"{show.number(round(p / (1 - p), -1 if p < 0.999 else -2))} to 1"


def _verdict(found: Ranking, sent: Sequence[Transmission], *, are_close: bool) -> VerdictView:
    first = found.posterior[0]
    close = " The readings stand close together, so they say little more than one." if are_close else ""
    if found.best is None:
        likely = " and ".join(each.id if each.id != NONE else "none of them" for each in found.posterior[:2])
        return VerdictView(
            sentence=f"Not sure yet: {likely} both fit. Read the display once more when the rooms differ, hours later, or "
            f"warm the sensor in a hand for some minutes and write when.{close}",
            is_sure=False,
            best="",
            takes="",
        )
    if found.best == NONE:
        return VerdictView(
            sentence=f"None of them, {chance(first.p)}: nobody sent what the display showed.{close}",
            is_sure=True,
            best="",
            takes="",
        )
    by_id, by_channel = taken_by_id(sent, found.best), taken_by_channel(sent, found.best)
    others = by_channel.senders - 1
    any_id = (
        f"by model and channel, whatever the id, {show.number(by_channel.messages)}, and {others} other "
        f"sender{'s' * (others != 1)} with it"
        if others
        else "by model and channel the same: nobody else is on it now"
    )
    return VerdictView(
        sentence=f"It is {found.best}, {chance(first.p)} against all others.{close}",
        is_sure=True,
        best=found.best,
        takes=f"Tried on this capture: by its id {show.number(by_id.messages)} messages are taken in; {any_id}.",
    )


def _followers(home: Home, clock: LocalClock, sent: Sequence[Transmission]) -> list[FollowerView]:
    """Return the devices of the register that fell silent in the capture, and who follows each."""
    found = []
    for device in home.devices:
        if not device.is_in_service or not device.address or not fell_silent(sent, device.address):
            continue
        ranking = successor_of(sent, device.address)
        last = max(each.at_ms for each in sent if each.sender == device.address)
        if ranking is None:
            continue
        begin = f"{device.name} ({device.address}) was heard last at {show.moment(last, clock, home.country)}. "
        if ranking.best in (None, NONE):
            words = f"{begin}Nobody who came later surely follows it."
            found.append(FollowerView(device_id=device.id, name=device.name, sentence=words, sender="", since=""))
            continue
        words = f"{begin}{ranking.best} follows it, {chance(ranking.posterior[0].p)}: likely its battery was changed."
        first = min(each.at_ms for each in sent if each.sender == ranking.best)
        found.append(
            FollowerView(
                device_id=device.id,
                name=device.name,
                sentence=words,
                sender=str(ranking.best),
                since=str(clock.local(first).date()),
            )
        )
    return found
