"""What somebody saw of a sensor, put against a capture: which sender it is, and what would be taken in of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from warmeter.core.radio.match import DisplayReading, MatchNoise, Message, Touch, radio_match
from warmeter.core.radio.odds import Ranking
from warmeter.core.radio.successor import QuantityNoise, radio_successor
from warmeter.core.radio.transmissions import Transmission
from warmeter.core.units import MS_PER_S, S_PER_H

SURE = 0.95
# A display shows what was sent; a stranger's room lies within a few kelvins of any other.
USUAL_NOISE = {
    "temperature": MatchNoise(sd=0.1, slip=0.01, none_span=6.0),
    "humidity": MatchNoise(sd=1.0, slip=0.01, none_span=30.0),
}
USUAL_STEP = {"temperature": 0.1, "humidity": 1.0}
USUAL_WANDER = {
    "temperature": QuantityNoise(sd=0.2, step=0.1, drift_h=0.0, wander_sqrt_h=0.5, span=30.0),
    "humidity": QuantityNoise(sd=2.0, step=1.0, drift_h=0.0, wander_sqrt_h=3.0, span=80.0),
}
LAG_RHYTHMS, LEAST_LAG_S, MOST_LAG_S = 3.0, 60.0, 1800.0
MOST_GAP_S = 24.0 * S_PER_H
SILENT_RHYTHMS = 10.0
APART_S = 2.0 * S_PER_H  # readings closer than this are not independent


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenReading:
    """A number read off the display at an instant [ms UTC]; the last place of the display where it is known."""

    at_ms: int
    value: float
    quantity: str = "temperature"
    step: float | None = None
    lag_s: float | None = None
    channel: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenTouch:
    """When the sensor was held in a hand (a rise) or laid on a cold sill (a fall) [ms UTC], and by how much it moved [K]."""

    at_ms: int
    moved_k: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WouldTake:
    """Messages that would be taken in, and from how many senders."""

    messages: int
    senders: int


def usual_lag_s(transmissions: Sequence[Transmission]) -> float:
    """Return how old the last message before a reading may be: three times the middle rhythm of the senders [s]."""
    by_sender: dict[str, list[int]] = {}
    for each in transmissions:
        by_sender.setdefault(each.sender, []).append(each.at_ms)
    gaps = [float(np.median(np.diff(at))) / MS_PER_S for at in by_sender.values() if len(at) > 1]
    return min(max(LAG_RHYTHMS * float(np.median(gaps)), LEAST_LAG_S), MOST_LAG_S) if gaps else LEAST_LAG_S


def sender_of(
    transmissions: Sequence[Transmission],
    readings: Sequence[SeenReading],
    touches: Sequence[SeenTouch] = (),
    sure: float = SURE,
) -> Ranking:
    """Return how likely each sender is the one that was seen.

    Parameters
    ----------
    transmissions : sequence of Transmission
        In order of time.
    readings, touches : sequence
        What was seen; temperatures in °C.
    sure : float
        From which probability the first is named.

    Raises
    ------
    OutOfRange
        If a step or a lag is outside its range.

    Notes
    -----
    docs/methods Q6, with a display's usual spread and step.
    """
    lag_s = usual_lag_s(transmissions)
    return radio_match(
        [_message(each) for each in transmissions],
        [
            DisplayReading(
                t_s=each.at_ms / MS_PER_S,
                quantity=each.quantity,
                value=each.value,
                step=each.step or USUAL_STEP[each.quantity],
                lag_s=each.lag_s if each.lag_s is not None else lag_s,
                channel=each.channel,
            )
            for each in readings
        ],
        USUAL_NOISE,
        sure,
        [Touch(t_s=each.at_ms / MS_PER_S, quantity="temperature", moved=each.moved_k) for each in touches],
    )


def are_too_close(readings: Sequence[SeenReading]) -> bool:
    """Return whether two readings stand so close that they say little more than one."""
    at = sorted(each.at_ms for each in readings)
    return any(b - a < APART_S * MS_PER_S for a, b in pairwise(at))


def fell_silent(transmissions: Sequence[Transmission], sender: str) -> bool:
    """Return whether a sender was heard, and then no more for ten times its rhythm before the capture ended."""
    at = np.array([t.at_ms for t in transmissions if t.sender == sender], dtype=np.int64)
    if at.size < 2:
        return False
    return bool(transmissions[-1].at_ms - at[-1] > SILENT_RHYTHMS * float(np.median(np.diff(at))))


def successor_of(transmissions: Sequence[Transmission], sender: str, sure: float = SURE) -> Ranking | None:
    """Return how likely each sender that came later follows one that fell silent; None if that was never heard.

    Notes
    -----
    docs/methods Q13, a day at most after it fell silent.
    """
    mine = [t for t in transmissions if t.sender == sender]
    if not mine:
        return None
    first: dict[str, Transmission] = {}
    for each in transmissions:
        first.setdefault(each.sender, each)
    return radio_successor(
        _message(mine[-1]), [_message(each) for each in first.values()], USUAL_WANDER, max_gap_s=MOST_GAP_S, sure=sure
    )


def _message(sent: Transmission) -> Message:
    return Message(id=sent.sender, t_s=sent.at_ms / MS_PER_S, channel=sent.channel, values=sent.values)


def taken_by_id(transmissions: Sequence[Transmission], sender: str) -> WouldTake:
    """Return what a device bound to one id would take in."""
    count = sum(t.sender == sender for t in transmissions)
    return WouldTake(messages=count, senders=int(count > 0))


def taken_by_channel(transmissions: Sequence[Transmission], sender: str) -> WouldTake:
    """Return what a device bound to a sender's model and channel, whatever the id, would take in."""
    mine = {(t.model, t.channel) for t in transmissions if t.sender == sender}
    found = [t.sender for t in transmissions if (t.model, t.channel) in mine]
    return WouldTake(messages=len(found), senders=len(set(found)))
