"""Whose messages are whose: readings typed off a display, and touches, against all that was heard (Q6)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import erf, log, sqrt

from warmeter.core.errors import OutOfRange
from warmeter.core.radio.odds import NONE, Ranking, ranked

_LEAST = 1e-300
TOUCH_WITHIN_S = 900.0
STRANGER_MOVES = 0.03  # share of quarters of an hour in which a sensor that nobody touched moves as much


@dataclass(frozen=True, slots=True, kw_only=True)
class Message:
    """What was heard once: when [s], from whom, on which channel, and its values by quantity."""

    t_s: float
    id: str
    channel: str | None
    values: Mapping[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class DisplayReading:
    """A number read off a sensor's display.

    Parameters
    ----------
    t_s : float
        When [s].
    quantity : str
        Of what.
    value, step : float
        The number, and the last place of the display, above 0.
    lag_s : float
        How old the last message before it may be, at least 0 [s].
    channel : str or None
        The channel that is set on it, None where it is not known.
    """

    t_s: float
    quantity: str
    value: float
    step: float
    lag_s: float
    channel: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Touch:
    """A sensor that was warmed by a hand, or laid on a cold sill, at an instant [s]: by how much it moved at least, signed."""

    t_s: float
    quantity: str
    moved: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchNoise:
    """How readings of a quantity err: spread between display and message, share of slips, span of a stranger's values."""

    sd: float = 0.2
    slip: float = 0.01
    none_span: float = 30.0


def radio_match(
    messages: Sequence[Message],
    readings: Sequence[DisplayReading],
    noise: Mapping[str, MatchNoise],
    sure: float,
    touches: Sequence[Touch] = (),
) -> Ranking:
    """Return how likely each sender, or none of them, is the one whose display was read.

    Parameters
    ----------
    messages : sequence of Message
        All that was heard.
    readings : sequence of DisplayReading
        What was typed, each of them independent of the others: hours apart.
    noise : mapping of str to MatchNoise
        By quantity; ``sd`` above 0, ``slip`` between 0 and 1, ``none_span`` above 0, in the unit of the values.
    sure : float
        From which probability the first is named.
    touches : sequence of Touch
        When it was warmed or cooled.

    Raises
    ------
    OutOfRange
        If a number is outside its range.

    Notes
    -----
    docs/methods Q6. A sender that was not heard near a reading or a touch is neither likelier nor less likely for it.
    """
    _check(noise, readings)
    senders = sorted({message.id for message in messages})
    logs, used = dict.fromkeys([*senders, NONE], 0.0), dict.fromkeys([*senders, NONE], 0)
    for reading in readings:
        of = noise[reading.quantity]
        stranger = reading.step / of.none_span
        shown = {sender: _shown(reading, heard, of) for sender, heard in _near(messages, reading).items()}
        _weigh(logs, used, {s: (1 - of.slip) * p + of.slip * stranger for s, p in shown.items()}, stranger)
    for touch in touches:
        slip = noise[touch.quantity].slip
        moved = {
            sender: 1 - slip if _moved(touch, heard) else slip * STRANGER_MOVES
            for sender, heard in _around(messages, touch).items()
        }
        _weigh(logs, used, moved, STRANGER_MOVES)
    return ranked(logs, sure, used)


def _weigh(logs: dict[str, float], used: dict[str, int], likelihood: Mapping[str, float], stranger: float) -> None:
    """Add one reading's or touch's likelihoods; who was not heard near it is as a stranger."""
    for sender in logs:
        logs[sender] += log(max(likelihood.get(sender, stranger), _LEAST))
        used[sender] += sender in likelihood


def _near(messages: Sequence[Message], reading: DisplayReading) -> dict[str, list[Message]]:
    """Return the messages with the reading's quantity that came within its lag, by sender."""
    found: dict[str, list[Message]] = {}
    for message in messages:
        if reading.quantity in message.values and reading.t_s - reading.lag_s <= message.t_s <= reading.t_s:
            found.setdefault(message.id, []).append(message)
    return found


def _shown(reading: DisplayReading, heard: Sequence[Message], noise: MatchNoise) -> float:
    """Return how likely the display shows its number given what was heard of a sender on its channel."""
    fit = [m for m in heard if reading.channel is None or m.channel == reading.channel]
    if not fit:
        return 0.0
    return sum(_shows(reading, message.values[reading.quantity], noise.sd) for message in fit) / len(fit)


def _shows(reading: DisplayReading, sent: float, sd: float) -> float:
    """Return how likely a display shows a number when a value was sent."""
    high, low = (reading.value + reading.step / 2 - sent) / sd, (reading.value - reading.step / 2 - sent) / sd
    return 0.5 * (erf(high / sqrt(2)) - erf(low / sqrt(2)))


def _around(messages: Sequence[Message], touch: Touch) -> dict[str, tuple[list[float], list[float]]]:
    """Return what each sender sent within a quarter of an hour before and after a touch, where it was heard in both."""
    found: dict[str, tuple[list[float], list[float]]] = {}
    for message in messages:
        if touch.quantity in message.values and abs(message.t_s - touch.t_s) <= TOUCH_WITHIN_S:
            both = found.setdefault(message.id, ([], []))
            both[message.t_s > touch.t_s].append(message.values[touch.quantity])
    return {sender: both for sender, both in found.items() if both[0] and both[1]}


def _moved(touch: Touch, heard: tuple[list[float], list[float]]) -> bool:
    """Return whether a sender moved at least as far as the touch says, and in its direction."""
    before, after = heard[0][-1], heard[1]
    return max(after) - before >= touch.moved if touch.moved > 0 else min(after) - before <= touch.moved


def _check(noise: Mapping[str, MatchNoise], readings: Sequence[DisplayReading]) -> None:
    """Raise ``OutOfRange`` if a number is outside its range."""
    for each in noise.values():
        if each.sd <= 0:
            raise OutOfRange("spread", each.sd, 0.0, 1e6)
        if not 0 < each.slip < 1:
            raise OutOfRange("share of slips", each.slip, 0.0, 1.0)
        if each.none_span <= 0:
            raise OutOfRange("span", each.none_span, 0.0, 1e6)
    for reading in readings:
        if reading.step <= 0:
            raise OutOfRange("step of the display", reading.step, 0.0, 1e6)
        if reading.lag_s < 0:
            raise OutOfRange("lag", reading.lag_s, 0.0, 1e9, "s")
