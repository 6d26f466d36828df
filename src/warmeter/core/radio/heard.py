"""Who was heard in a capture: how often, in which range, how strongly."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.radio.transmissions import Transmission


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardSender:
    """One sender.

    Parameters
    ----------
    sender, model : str
        Its id, with its model where several have that id; its model.
    channels : tuple of str
        On which it was heard; several if it changed.
    count : int
        Messages, bursts counted once.
    first_ms, last_ms : int
        When it was first and last heard [ms UTC].
    rhythm_s : float or None
        Middle of the times between messages [s]; None with one.
    ranges : mapping of str to (float, float)
        Least and most by quantity.
    latest : mapping of str to float
        Values last heard.
    strength : float or None
        Middle of what the receiver told, in its own unit.
    """

    sender: str
    model: str
    channels: tuple[str, ...]
    count: int
    first_ms: int
    last_ms: int
    rhythm_s: float | None
    ranges: Mapping[str, tuple[float, float]]
    latest: Mapping[str, float]
    strength: float | None


def heard_senders(transmissions: Sequence[Transmission]) -> tuple[HeardSender, ...]:
    """Return who was heard, the most often first; messages come in order of time."""
    by_sender: dict[str, list[Transmission]] = {}
    for each in transmissions:
        by_sender.setdefault(each.sender, []).append(each)
    return tuple(sorted((_heard(each) for each in by_sender.values()), key=lambda s: (-s.count, s.sender)))


def _heard(messages: Sequence[Transmission]) -> HeardSender:
    at = np.array([m.at_ms for m in messages], dtype=np.int64)
    ranges: dict[str, tuple[float, float]] = {}
    latest: dict[str, float] = {}
    for message in messages:
        for name, value in message.values.items():
            low, high = ranges.get(name, (value, value))
            ranges[name], latest[name] = (min(low, value), max(high, value)), value
    strengths = [m.strength for m in messages if m.strength is not None]
    return HeardSender(
        sender=messages[0].sender,
        model=messages[0].model,
        channels=tuple(dict.fromkeys(m.channel for m in messages if m.channel is not None)),
        count=len(messages),
        first_ms=int(at[0]),
        last_ms=int(at[-1]),
        rhythm_s=float(np.median(np.diff(at))) / 1000 if at.size > 1 else None,
        ranges=ranges,
        latest=latest,
        strength=float(np.median(strengths)) if strengths else None,
    )
