"""A washing machine and two dryers."""

import numpy as np

from warmeter.simulators.machines.power_trace import PowerTrace
from warmeter.simulators.machines.scenario import Scenario, times_of_day


def _creases(rng: np.random.Generator, minutes: float, every_s: float, watts: float, seconds: float) -> PowerTrace:
    """Return the short turns that keep a load from creasing once it is done."""
    tape = PowerTrace(rng)
    while tape.seconds < minutes * 60:
        tape.hold(every_s * rng.uniform(0.9, 1.1), 0.0)
        tape.hold(seconds, watts, 0.1)
    return tape


def _wash(rng: np.random.Generator, kind: dict[str, float], programme: str, age: float, fault: str) -> PowerTrace:
    idle, motor, heater = kind["idle"], kind["motor"], kind["heater"] * (1 - 0.12 * age)
    tape = PowerTrace(rng)
    tape.phase("fill")
    tape.hold(rng.uniform(90, 180), kind["valve"], 0.05)
    warm = {"cotton 60": 42.0, "cotton 40": 25.0, "wool": 9.0, "quick 30": 6.0}[programme]
    if fault != "no heat":
        tape.phase("heat")
        joules = warm * kind["litres"] * 4186 * rng.uniform(0.9, 1.1)
        tape.hold(joules / heater, heater + 0.3 * motor, 0.008)
    tape.phase("wash")
    minutes = {"cotton 60": 50.0, "cotton 40": 38.0, "wool": 14.0, "quick 30": 9.0}[programme]
    tape.turns(minutes * 60 * rng.uniform(0.9, 1.1), motor, kind["turn"], kind["rest"], idle)
    if programme == "wool":
        tape.phase("soak")
        tape.hold(rng.uniform(180, 300), idle)
    tape.phase("rinse")
    for _ in range(2 if programme in ("wool", "quick 30") else 3):
        tape.hold(rng.uniform(60, 100), kind["pump"], 0.05)
        tape.ramp(rng.uniform(60, 90), motor, 1.8 * motor)
        tape.hold(rng.uniform(50, 90), kind["valve"], 0.05)
        tape.turns(rng.uniform(150, 300), motor, kind["turn"], kind["rest"], idle)
    tape.phase("spin")
    for _ in range(4 if fault == "unbalanced" else 1):
        tape.ramp(rng.uniform(60, 100), kind["pump"] + motor, kind["spin"])
        tape.hold(rng.uniform(120, 400), kind["spin"], 0.05)
    tape.ramp(40, kind["spin"], kind["pump"])
    return tape


def washer(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a washing machine's days: three programmes of four, ticks against creases after them."""
    kind = {
        "idle": rng.uniform(1.5, 4.5),
        "motor": rng.uniform(90, 200),
        "heater": rng.uniform(1750, 2300),
        "litres": rng.uniform(9, 14),
        "valve": rng.uniform(7, 14),
        "pump": rng.uniform(22, 40),
        "spin": rng.uniform(320, 560),
        "turn": rng.uniform(10, 45),
        "rest": rng.uniform(4, 25),
    }
    standby = rng.choice([rng.uniform(0.3, 0.9), kind["idle"]])
    story = Scenario.at_rest(rng, days, standby)
    has_ticks, lit_s = rng.random() < 0.5, rng.uniform(60, 600)
    programmes = rng.choice(["cotton 60", "cotton 40", "quick 30", "wool"], 3, replace=False)
    free_from = 0.0
    for at in times_of_day(rng, days, 1.1, (7, 19), 900):
        programme = str(rng.choice(programmes))
        tape = _wash(rng, kind, programme, age, fault)
        after = _creases(rng, 45, 420, 0.5 * kind["motor"], 5) if has_ticks else PowerTrace(rng)
        if not has_ticks:
            after.hold(lit_s, kind["idle"])
        start = max(at, free_from)
        if story.play(start, programme, tape, after):
            free_from = start + tape.seconds + after.seconds + rng.uniform(600, 5000)
    return story


def condenser_dryer(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a condenser dryer's days: a heater over a turning drum, cooling down, turns against creases."""
    drum, heater = rng.uniform(180, 280), rng.uniform(1700, 2400) * (1 - 0.1 * age)
    story = Scenario.at_rest(rng, days, rng.uniform(0.3, 1.5))
    has_ticks, free_from = rng.random() < 0.6, 0.0
    slower = (1 + 0.25 * age) * (1.5 if fault == "clogged" else 1.0)
    for at in times_of_day(rng, days, 0.9, (8, 21), 1800):
        programme = str(rng.choice(["cupboard dry", "iron dry", "timed 20"]))
        tape = PowerTrace(rng)
        tape.phase("dry")
        full_s = {"cupboard dry": 3900, "iron dry": 2700, "timed 20": 1000}[programme] * rng.uniform(0.85, 1.15)
        tape.hold(full_s * 0.6, drum + heater, 0.01)
        tape.thermostat(full_s * 0.4 * slower, drum + heater, drum, 150, rng.uniform(40, 90))
        tape.phase("cool")
        tape.hold(rng.uniform(420, 660), drum, 0.03)
        after = PowerTrace(rng)
        after.hold(60, 2.0)
        if has_ticks:
            after = _creases(rng, rng.uniform(20, 50), rng.uniform(200, 400), drum, rng.uniform(6, 12))
        start = max(at, free_from)
        if story.play(start, programme, tape, after):
            free_from = start + tape.seconds + after.seconds + rng.uniform(600, 4000)
    return story


def heat_pump_dryer(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a heat-pump dryer's days: a compressor that warms to its power, reversals, a long cool-down."""
    drum, compressor = rng.uniform(110, 180), rng.uniform(380, 650)
    story = Scenario.at_rest(rng, days, rng.uniform(0.4, 2.5))
    has_ticks, free_from = rng.random() < 0.6, 0.0
    slower = (1 + 0.3 * age) * (1.6 if fault == "clogged" else 1.0)
    for at in times_of_day(rng, days, 0.8, (8, 19), 3600):
        programme = str(rng.choice(["cupboard dry", "iron dry", "delicate"]))
        tape = PowerTrace(rng)
        tape.phase("dry")
        minutes = {"cupboard dry": 120, "iron dry": 85, "delicate": 60}[programme] * rng.uniform(0.85, 1.15) * slower
        tape.ramp(480, drum + 0.6 * compressor, drum + compressor)
        until, every = tape.seconds + minutes * 60, rng.uniform(240, 500)
        while tape.seconds < until:
            tape.hold(every * rng.uniform(0.9, 1.1), drum + compressor * rng.uniform(0.96, 1.04), 0.01)
            tape.hold(rng.uniform(4, 8), compressor * 0.9, 0.02)
        tape.phase("cool")
        tape.hold(rng.uniform(300, 540), drum, 0.04)
        after = PowerTrace(rng)
        after.hold(30, 2.0)
        if has_ticks:
            after = _creases(rng, rng.uniform(20, 50), rng.uniform(200, 400), drum, rng.uniform(6, 12))
        start = max(at, free_from)
        if story.play(start, programme, tape, after):
            free_from = start + tape.seconds + after.seconds + rng.uniform(600, 4000)
    return story
