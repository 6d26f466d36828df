"""Which sender is one's own, and which follows after a battery change: brute force, touches, and made-up captures."""

import unittest
from math import erf, sqrt

from warmeter.core.errors import OutOfRange
from warmeter.core.radio.match import DisplayReading, MatchNoise, Message, radio_match
from warmeter.core.radio.odds import NONE, ranked
from warmeter.core.radio.seen import (
    SeenReading,
    SeenTouch,
    are_too_close,
    fell_silent,
    sender_of,
    successor_of,
    taken_by_channel,
    taken_by_id,
)
from warmeter.core.radio.transmissions import Transmission, read_capture
from warmeter.core.timegrid import LocalClock
from warmeter.simulators.radio_capture import radio_scene

MIN_MS = 60_000


def sent(sender: str, at_min: float, temperature: float, channel: str = "1", model: str = "M") -> Transmission:
    """Return one message."""
    return Transmission(
        at_ms=round(at_min * MIN_MS),
        sender=sender,
        model=model,
        channel=channel,
        values={"temperature": temperature},
        strength=None,
    )


class Match(unittest.TestCase):
    def test_two_senders_and_none_by_hand(self) -> None:
        messages = [
            Message(t_s=0, id="a", channel=None, values={"T": 20.0}),
            Message(t_s=0, id="b", channel=None, values={"T": 20.3}),
        ]
        found = radio_match(
            messages,
            [DisplayReading(t_s=30, quantity="T", value=20.1, step=0.1, lag_s=60)],
            {"T": MatchNoise(sd=0.2, slip=0.02, none_span=10.0)},
            0.9,
        )

        def shows(x: float) -> float:
            return 0.5 * (erf((20.15 - x) / 0.2 / sqrt(2)) - erf((20.05 - x) / 0.2 / sqrt(2)))

        likely = {"a": 0.98 * shows(20.0) + 0.0002, "b": 0.98 * shows(20.3) + 0.0002, NONE: 0.01}
        for odds in found.posterior:
            self.assertAlmostEqual(odds.p, likely[odds.id] / sum(likely.values()), places=9)
        self.assertIsNone(found.best)

    def test_numbers_out_of_range_are_refused(self) -> None:
        reading = DisplayReading(t_s=0, quantity="T", value=1, step=0.1, lag_s=1)
        for noise in (MatchNoise(sd=0), MatchNoise(slip=0), MatchNoise(slip=1), MatchNoise(none_span=0)):
            with self.assertRaises(OutOfRange):
                radio_match([], [reading], {"T": noise}, 0.9)
        with self.assertRaises(OutOfRange):
            ranked({NONE: 0.0}, 0.0)


class OwnSensor(unittest.TestCase):
    def test_equal_rooms_are_not_told_apart_until_one_is_touched(self) -> None:
        messages = [sent(s, m, 21.0) for m in range(60) for s in ("a", "b")]
        messages += [sent(s, m, 24.0 if s == "b" and m < 66 else 21.0) for m in range(60, 75) for s in ("a", "b")]
        reading = SeenReading(at_ms=30 * MIN_MS, value=21.0)
        self.assertIsNone(sender_of(messages, [reading]).best)
        touch = SeenTouch(at_ms=59 * MIN_MS + 30_000, moved_k=1.5)
        self.assertEqual(sender_of(messages, [reading], [touch]).best, "b")

    def test_readings_minutes_apart_are_told(self) -> None:
        near = [SeenReading(at_ms=k * 10 * MIN_MS, value=20.0) for k in range(2)]
        self.assertTrue(are_too_close(near))
        self.assertFalse(are_too_close([near[0], SeenReading(at_ms=180 * MIN_MS, value=20.0)]))

    def test_an_id_takes_its_own_and_a_channel_takes_the_neighbours_too(self) -> None:
        messages = [
            sent("a", 0, 20),
            sent("b", 1, 20),
            sent("c", 2, 20, "2"),
            sent("d", 3, 20, "1", "X"),
            sent("a", 4, 20),
        ]
        self.assertEqual((taken_by_id(messages, "a").messages, taken_by_id(messages, "a").senders), (2, 1))
        self.assertEqual((taken_by_channel(messages, "a").messages, taken_by_channel(messages, "a").senders), (3, 2))

    def test_who_fell_silent(self) -> None:
        messages = sorted(
            [sent("a", m, 20) for m in range(60)] + [sent("b", m, 20) for m in range(20)], key=lambda t: t.at_ms
        )
        self.assertTrue(fell_silent(messages, "b"))
        self.assertFalse(fell_silent(messages, "a"))
        self.assertIsNone(successor_of(messages, "zz"))

    def test_made_up_captures_never_name_anothers_while_ones_own_is_heard(self) -> None:
        right = 0
        for seed, neighbours in enumerate((3, 8, 15, 25), 7100):
            scene = radio_scene(seed, neighbours, hours=8, changes_battery=True)
            messages = read_capture(scene.lines, LocalClock("UTC")).transmissions
            readings = [SeenReading(at_ms=at, value=value, channel=scene.channel) for at, value in scene.readings]
            found = sender_of(messages, readings)
            self.assertIn(found.best, (scene.own, None))
            right += found.best == scene.own
            self.assertIn(successor_of(messages, scene.own).best, (scene.successor, None))  # type: ignore[union-attr]
        self.assertGreaterEqual(right, 3)
