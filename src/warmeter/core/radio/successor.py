"""Which new sender follows one that fell silent when its battery was changed (Q13)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import log, pi

from warmeter.core.errors import OutOfRange
from warmeter.core.radio.match import Message
from warmeter.core.radio.odds import NONE, Ranking, ranked
from warmeter.core.units import S_PER_H

CHANNEL_FACTOR = 0.05  # a channel that differs on both is seldom the same sensor's


@dataclass(frozen=True, slots=True, kw_only=True)
class QuantityNoise:
    """How a quantity of one sensor moves between two messages.

    Parameters
    ----------
    sd, step : float
        Spread of one reading and its last place, above 0.
    drift_h : float
        Expected change an hour.
    wander_sqrt_h : float
        Spread of what it wanders in an hour, at least 0.
    span : float
        The span of a stranger's values, above 0.
    """

    sd: float
    step: float
    drift_h: float
    wander_sqrt_h: float
    span: float


def radio_successor(
    old: Message,
    new: Sequence[Message],
    quantities: Mapping[str, QuantityNoise],
    *,
    max_gap_s: float,
    sure: float,
    channel_factor: float = CHANNEL_FACTOR,
) -> Ranking:
    """Return how likely each new sender, or none of them, is one that fell silent.

    Parameters
    ----------
    old : Message
        The last of the one that fell silent.
    new : sequence of Message
        The first of each other; those that came before, or too late, are no candidates.
    quantities : mapping of str to QuantityNoise
        Of those that the old one sent.
    max_gap_s : float
        How long the silence may last, above 0 [s].
    sure : float
        From which probability the first is named.
    channel_factor : float
        Times less likely where both channels are known and differ, above 0, at most 1.

    Raises
    ------
    OutOfRange
        If a number is outside its range.

    Notes
    -----
    docs/methods Q13: per quantity a normal density about the last value, wider with the hours between.
    """
    wanted = {name: noise for name, noise in quantities.items() if name in old.values}
    for noise in wanted.values():
        for name, number in (("spread", noise.sd), ("step", noise.step), ("span", noise.span)):
            if number <= 0:
                raise OutOfRange(name, number, 0.0, 1e6)
    logs = {}
    for each in new:
        if each.id == old.id or not 0 < each.t_s - old.t_s <= max_gap_s:
            continue
        hours = (each.t_s - old.t_s) / S_PER_H
        own = 0.0
        for name, noise in wanted.items():
            if name not in each.values:
                own -= log(noise.span)
                continue
            variance = 2 * (noise.sd**2 + noise.step**2 / 12) + noise.wander_sqrt_h**2 * hours
            off = each.values[name] - old.values[name] - noise.drift_h * hours
            own -= 0.5 * (off**2 / variance + log(2 * pi * variance))
        if each.channel is not None and old.channel is not None and each.channel != old.channel:
            own += log(channel_factor)
        logs[each.id] = own
    logs = dict(sorted(logs.items()))
    logs[NONE] = -sum(log(noise.span) for noise in wanted.values())
    return ranked(logs, sure)
