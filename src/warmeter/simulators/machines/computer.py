"""A computer that is always on: it works more or less and never rests."""

import numpy as np
from scipy.signal import lfilter

from warmeter.core.units import S_PER_DAY
from warmeter.simulators.machines.scenario import Scenario


def computer(rng: np.random.Generator, days: float, age: float, fault: str) -> Scenario:
    """Return a computer's days: a wandering load, bursts of all lengths, a copy every night. No cycles."""
    idle = rng.uniform(28, 75) * (1.3 if fault == "never idle" else 1.0)
    story = Scenario.at_rest(rng, days, idle)
    wander = lfilter([1.0], [1.0, -0.999], rng.normal(0, 1, story.seconds))
    story.power_w += 0.03 * idle * wander / max(1e-9, float(wander.std())) + 0.02 * age * idle
    for _ in range(rng.poisson(30 * days)):
        at, n = int(rng.integers(0, story.seconds)), int(rng.exponential(400)) + 5
        story.power_w[at : at + n] += idle * rng.uniform(0.1, 0.9)
    for day in range(int(days)):
        at = day * S_PER_DAY + 7200
        story.power_w[at : at + int(rng.integers(2400, 4800))] += 0.35 * idle
    story.power_w *= 1 + rng.normal(0, 0.02, story.seconds)
    return story
