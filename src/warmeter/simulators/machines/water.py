"""A tub, an immersion heater, a sump pump and a dehumidifier."""

import numpy as np

from warmeter.core.units import S_PER_DAY, S_PER_H
from warmeter.simulators.machines.power_trace import PowerTrace
from warmeter.simulators.machines.scenario import Scenario, times_of_day


def tub(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a hot tub's days: filtering twice a day, heating within it and on demand."""
    rest, pump, heater = rng.uniform(5, 14), rng.uniform(110, 320), rng.uniform(1450, 2900)
    story, free_from = Scenario.at_rest(rng, days, rest), 0.0
    calls = times_of_day(rng, days, 2.5, (0, 24), 3600)
    filters = [
        day * S_PER_DAY + h * S_PER_H for day in range(int(days)) for h in (rng.uniform(6, 7), rng.uniform(18, 19))
    ]
    for at in sorted([*calls, *filters]):
        start = max(at, free_from)
        tape = PowerTrace(rng)
        heat_s = rng.uniform(1200, 3000) * (1 + 0.4 * age) * (1.5 if fault == "open cover" else 1.0)
        if at in filters:
            tape.phase("circulate")
            tape.hold(rng.uniform(900, 2400), pump, 0.02)
            tape.phase("heat")
            tape.hold(heat_s, pump + heater, 0.008)
            tape.phase("circulate")
            tape.hold(rng.uniform(2400, 5400), pump, 0.02)
        else:
            tape.phase("heat")
            tape.hold(heat_s, pump + heater, 0.008)
            tape.phase("circulate")
            tape.hold(rng.uniform(120, 300), pump, 0.02)
        if story.play(start, "filter" if at in filters else "heat", tape):
            free_from = start + tape.seconds + rng.uniform(1500, 4000)
    return story


def immersion_heater(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return an immersion heater's days: a long heating on a timer, short ones that make up for losses."""
    heater, rest = rng.uniform(1800, 3000) * (1 - 0.08 * age), rng.choice([0.0, rng.uniform(0.3, 1.2)])
    story, free_from = Scenario.at_rest(rng, days, rest), 0.0
    for day in range(int(days)):
        for hour, long in ((rng.uniform(4, 6), True), *((h, False) for h in np.sort(rng.uniform(8, 23, 4)))):
            tape = PowerTrace(rng)
            tape.phase("heat")
            tape.hold(rng.uniform(3000, 6000) if long else rng.uniform(200, 700), heater, 0.006)
            if fault == "thermostat sticks" and long:
                tape.hold(3600, heater, 0.006)
            start = max(day * S_PER_DAY + hour * S_PER_H, free_from)
            if story.play(start, "fill the store" if long else "top up", tape):
                free_from = start + tape.seconds + rng.uniform(1800, 4000)
    return story


def sump_pump(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a sump pump's days: half a minute now and then, again and again while it rains."""
    pump, run_s = rng.uniform(280, 800), rng.uniform(12, 55) * (1 + 0.3 * age)
    rest = rng.choice([0.0, rng.uniform(0.3, 2.0)])
    story, at = Scenario.at_rest(rng, days, rest), rng.uniform(600, 20_000)
    rain = times_of_day(rng, days, 0.4, (0, 24), 20_000)
    while at < story.seconds:
        tape = PowerTrace(rng)
        tape.phase("pump")
        tape.hold(1, 2.5 * pump, 0.1)
        tape.hold(run_s * rng.uniform(0.9, 1.1) * (3 if fault == "clogged" else 1), pump, 0.03)
        story.play(at, "pump", tape)
        wet = any(r < at < r + 14_400 for r in rain)
        at += tape.seconds + (rng.uniform(150, 500) if wet else rng.uniform(5_000, 30_000))
    return story


def dehumidifier(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a dehumidifier's days: compressor and fan, defrost pauses with the fan alone, fan after-run."""
    fan, compressor, rest = rng.uniform(30, 60), rng.uniform(150, 330), rng.uniform(0.5, 2.5)
    story, at = Scenario.at_rest(rng, days, rest), rng.uniform(600, 9000)
    has_defrost = rng.random() < 0.5
    while at < story.seconds:
        tape = PowerTrace(rng)
        left = rng.uniform(1200, 6000) * (1 + 0.3 * age) * (2.0 if fault == "iced" else 1.0)
        while left > 0:
            tape.phase("dry")
            n = min(left, rng.uniform(1800, 2700)) if has_defrost else left
            tape.ramp(n, fan + 0.85 * compressor, fan + compressor, 0.012)
            left -= n
            tape.phase("fan")
            tape.hold(rng.uniform(300, 480) if left > 0 else rng.uniform(120, 240), fan, 0.03)
        story.play(at, "dry", tape)
        at += tape.seconds + rng.uniform(2400, 9000)
    return story
