"""A dishwasher, a fridge, a freezer and a kettle."""

import numpy as np

from warmeter.core.units import S_PER_DAY, S_PER_H
from warmeter.simulators.machines.power_trace import PowerTrace
from warmeter.simulators.machines.scenario import Scenario, times_of_day


def dishwasher(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a dishwasher's days: two heats, then a drying pause near zero that ends in a last drain."""
    idle, pump, drain = rng.uniform(0.8, 3.0), rng.uniform(45, 90), rng.uniform(18, 35)
    heater = rng.uniform(1700, 2200) * (1 - 0.12 * age)
    story = Scenario.at_rest(rng, days, rng.choice([rng.uniform(0.2, 0.6), idle]))
    dries_with_fan, free_from = rng.random() < 0.4, 0.0
    for at in times_of_day(rng, days, 1.0, (8, 22), 7200):
        programme = str(rng.choice(["eco 50", "intensive 65", "quick 45"]))
        tape = PowerTrace(rng)
        tape.phase("prewash")
        tape.hold(rng.uniform(240, 540), pump, 0.05)
        tape.hold(rng.uniform(40, 80), drain, 0.05)
        hot_s = {"eco 50": 700, "intensive 65": 1150, "quick 45": 620}[programme] * rng.uniform(0.9, 1.1)
        if fault != "no heat":
            tape.phase("heat")
            tape.hold(hot_s * 2000 / heater, heater + pump, 0.008)
        tape.phase("wash")
        tape.hold(
            {"eco 50": 3600, "intensive 65": 2400, "quick 45": 480}[programme] * rng.uniform(0.9, 1.1), pump, 0.05
        )
        tape.hold(rng.uniform(40, 80), drain, 0.05)
        if fault != "no heat":
            tape.phase("heat")
            tape.hold(0.8 * hot_s * 2000 / heater, heater + pump, 0.008)
        tape.phase("rinse")
        tape.hold(rng.uniform(200, 420), pump, 0.05)
        tape.hold(rng.uniform(40, 80), drain, 0.05)
        tape.phase("dry")
        pause_s = {"eco 50": 1500, "intensive 65": 900, "quick 45": 420}[programme] * rng.uniform(0.8, 1.2)
        tape.hold(pause_s, rng.uniform(7, 15) if dries_with_fan else idle, 0.03)
        tape.hold(rng.uniform(20, 45), drain, 0.05)
        after = PowerTrace(rng)
        after.hold(rng.uniform(30, 400), idle)
        start = max(at, free_from)
        if story.play(start, programme, tape, after):
            free_from = start + tape.seconds + rng.uniform(5400, 9000)
    return story


def fridge(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a fridge's days: a compressor around the clock, a lamp when the door is opened."""
    compressor, rest, lamp = rng.uniform(55, 120), rng.uniform(0.4, 2.0), rng.uniform(2, 12)
    on_s, off_s = rng.uniform(700, 1500) * (1 + 0.35 * age), rng.uniform(1300, 2600)
    story = Scenario.at_rest(rng, days, rest)
    at, ajar = rng.uniform(120, off_s), (rng.uniform(0.3, 0.7) * days * S_PER_DAY if fault == "door ajar" else np.inf)
    while at < story.seconds:
        warmth = 1 + 0.2 * np.sin(2 * np.pi * (at / S_PER_DAY - 0.4))
        tape = PowerTrace(rng)
        tape.phase("cool")
        tape.hold(2, compressor * rng.uniform(3, 6), 0.1)
        stretch = 3.0 if ajar < at < ajar + 14_400 else 1.0
        n = on_s * warmth * stretch * rng.uniform(0.85, 1.15)
        tape.ramp(n, 1.12 * compressor, 0.97 * compressor, 0.01)
        story.play(at, "cool", tape)
        at += tape.seconds + off_s / warmth * rng.uniform(0.85, 1.15)
    for opened in times_of_day(rng, days, 14, (6.5, 23), 60):
        first = round(opened)
        story.power_w[first : first + int(rng.integers(5, 45))] += lamp
    return story


def freezer(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a freezer's days: compressor runs, one of some ends in a defrost by heater and a drip pause."""
    compressor, heater, rest = rng.uniform(60, 130), rng.uniform(180, 420), rng.uniform(0.3, 3.0)
    on_s, off_s = rng.uniform(900, 2000) * (1 + 0.3 * age), rng.uniform(1500, 3000)
    story = Scenario.at_rest(rng, days, rest)
    at, next_defrost, every = rng.uniform(120, off_s), rng.uniform(6, 12) * S_PER_H, rng.uniform(10, 20) * S_PER_H
    has_defrost = rng.random() < 0.6 and fault != "defrost fails"
    while at < story.seconds:
        tape = PowerTrace(rng)
        tape.phase("cool")
        tape.hold(2, compressor * rng.uniform(3, 6), 0.1)
        tape.ramp(on_s * rng.uniform(0.85, 1.15), 1.1 * compressor, 0.98 * compressor, 0.01)
        programme, pause_s = "cool", off_s * rng.uniform(0.85, 1.15)
        if has_defrost and at > next_defrost:
            tape.phase("defrost")
            tape.hold(rng.uniform(700, 1300), heater, 0.01)
            programme, pause_s, next_defrost = "cool and defrost", rng.uniform(700, 900), at + every
        story.play(at, programme, tape)
        at += tape.seconds + pause_s
    return story


def kettle(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a kettle's days: a few minutes at full power, sometimes twice in a row."""
    heater, rest = rng.uniform(1700, 2950), rng.choice([0.0, rng.uniform(0.2, 1.0)])
    slower = (1 + 0.2 * age) * (1.3 if fault == "scaled" else 1.0)
    story, free_from = Scenario.at_rest(rng, days, rest), 0.0
    for at in times_of_day(rng, days, 6, (6, 22), 120):
        for _ in range(2 if rng.random() < 0.1 else 1):
            litres = rng.uniform(0.4, 1.6)
            tape = PowerTrace(rng)
            tape.phase("heat")
            tape.hold(litres * 4186 * rng.uniform(70, 85) * slower / heater, heater, 0.006)
            start = max(at, free_from)
            if story.play(start, "boil", tape):
                free_from = start + tape.seconds + rng.uniform(150, 500)
    return story
