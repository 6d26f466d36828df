"""``warmeter radio-agree``: made-up captures with their truth, and how often the sender is named right, wrong or not."""

import argparse
from collections import Counter

from warmeter.core.radio.odds import NONE, Ranking
from warmeter.core.radio.seen import SeenReading, sender_of, successor_of
from warmeter.core.radio.transmissions import read_capture
from warmeter.core.timegrid import LocalClock
from warmeter.simulators.radio_capture import radio_scene

NEIGHBOURS = (3, 8, 15, 25, 40, 60)
HOURS = 12.0


def run(options: argparse.Namespace) -> int:
    """Print the counts; 1 if another's sensor was ever named while one's own was heard."""
    counts: dict[str, Counter[str]] = {}

    def count(words: str, found: Ranking | None, truth: str) -> None:
        best = None if found is None else found.best
        said = "right" if best == truth else "not sure" if best is None else "none of them" if best == NONE else "WRONG"
        counts.setdefault(words, Counter())[said] += 1

    for seed in range(options.seed, options.seed + options.count):
        scene = radio_scene(seed, NEIGHBOURS[seed % len(NEIGHBOURS)], hours=HOURS, changes_battery=True)
        sent = read_capture(scene.lines, LocalClock("UTC")).transmissions
        for words, channel in (("two readings and the channel", scene.channel), ("two readings alone", None)):
            readings = [SeenReading(at_ms=at, value=value, channel=channel) for at, value in scene.readings]
            count(words, sender_of(sent, readings), scene.own)
            without = [each for each in sent if each.sender not in (scene.own, scene.successor)]
            count(f"{words}, one's own not heard", sender_of(without, readings), NONE)
        count("after a battery change", successor_of(sent, scene.own), scene.successor)
    for words, found in counts.items():
        print(f"{words}: " + ", ".join(f"{number} {said}" for said, number in found.most_common()))
    return int(any(found["WRONG"] for words, found in counts.items() if "not heard" not in words))
