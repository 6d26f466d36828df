"""Labelled logs: a stand-in machine behind a metering plug, at any step, with its true cycles."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.signal import lfilter

from warmeter.core.arrays import Flags, Floats
from warmeter.core.errors import ReadingError
from warmeter.core.units import J_PER_KWH
from warmeter.simulators.machines.computer import computer
from warmeter.simulators.machines.kitchen import dishwasher, freezer, fridge, kettle
from warmeter.simulators.machines.laundry import condenser_dryer, heat_pump_dryer, washer
from warmeter.simulators.machines.scenario import Scenario, TrueCycle
from warmeter.simulators.machines.water import dehumidifier, immersion_heater, sump_pump, tub

RuleRun = Callable[[np.random.Generator, float, float, str], Scenario]


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineKind:
    """A kind of machine: its life, the faults it can have, and whether it has cycles at all."""

    key: str
    label: str
    life: RuleRun
    days: int
    faults: tuple[str, ...]
    has_cycles: bool = True


KINDS: dict[str, MachineKind] = {
    k.key: k
    for k in (
        MachineKind(key="washer", label="washing machine", life=washer, days=10, faults=("unbalanced", "no heat")),
        MachineKind(key="condenser_dryer", label="condenser dryer", life=condenser_dryer, days=10, faults=("clogged",)),
        MachineKind(key="heat_pump_dryer", label="heat-pump dryer", life=heat_pump_dryer, days=10, faults=("clogged",)),
        MachineKind(key="dishwasher", label="dishwasher", life=dishwasher, days=12, faults=("no heat",)),
        MachineKind(key="fridge", label="refrigerator", life=fridge, days=5, faults=("door ajar",)),
        MachineKind(key="freezer", label="freezer", life=freezer, days=5, faults=("defrost fails",)),
        MachineKind(key="kettle", label="kettle", life=kettle, days=7, faults=("scaled",)),
        MachineKind(key="tub", label="hot tub", life=tub, days=7, faults=("open cover",)),
        MachineKind(key="dehumidifier", label="dehumidifier", life=dehumidifier, days=5, faults=("iced",)),
        MachineKind(
            key="immersion_heater",
            label="immersion heater",
            life=immersion_heater,
            days=7,
            faults=("thermostat sticks",),
        ),
        MachineKind(key="sump_pump", label="sump pump", life=sump_pump, days=7, faults=("clogged",)),
        MachineKind(
            key="computer", label="computer, always on", life=computer, days=7, faults=("never idle",), has_cycles=False
        ),
    )
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelledLog:
    """What the plug wrote down and what was true.

    Parameters
    ----------
    kind, fault : str
        Of the machine; ``fault`` is empty for a sound one.
    step_s : int
        Of the log [s].
    power_w : (step,) float array
        Mean power over each step as the plug resolves it, NaN while it was not heard [W].
    cycles : tuple of TrueCycle
        In order; those that touch a time not heard are in ``cut``.
    cut : tuple of TrueCycle
        Cycles of which a part was not heard.
    """

    kind: str
    fault: str
    step_s: int
    power_w: Floats
    cycles: tuple[TrueCycle, ...]
    cut: tuple[TrueCycle, ...]


def labelled_log(
    kind: str, seed: int, step_s: int, *, days: float | None = None, fault: str | None = None
) -> LabelledLog:
    """Return a machine's labelled log from a seed.

    The same seed gives the same life at every step, so that 1, 10 and 60 s can be compared. One in five
    machines has a fault unless it is named; most plugs drop out once, for 5 to 40 minutes.

    Raises
    ------
    ReadingError
        If there is no such kind.
    """
    if kind not in KINDS:
        raise ReadingError(f"there is no stand-in machine {kind!r}; there are {', '.join(KINDS)}")
    known = KINDS[kind]
    rng = np.random.default_rng([seed, list(KINDS).index(kind)])
    age = float(rng.uniform(0, 1))
    drawn = str(rng.choice(known.faults)) if rng.random() < 0.2 else ""
    story = known.life(rng, days or known.days, age, drawn if fault is None else fault)
    true_w = _mains(rng, story)
    heard = _heard(rng, story.seconds)
    dead_w, resolution_w = float(rng.choice([0.0, 0.2, 0.5])), float(rng.choice([0.1, 0.1, 0.01]))
    steps = story.seconds // step_s
    mean = true_w[: steps * step_s].reshape(steps, step_s).mean(axis=1)
    written = np.round(np.where(mean < dead_w, 0.0, mean) / resolution_w) * resolution_w
    is_heard = heard[: steps * step_s].reshape(steps, step_s).all(axis=1)
    cut = tuple(c for c in story.cycles if not heard[c.start_s - 30 : c.end_s + 30].all())
    return LabelledLog(
        kind=kind,
        fault=drawn if fault is None else fault,
        step_s=step_s,
        power_w=np.where(is_heard, np.round(written, 3), np.nan),
        cycles=tuple(c for c in story.cycles if c not in cut),
        cut=cut,
    )


def _mains(rng: np.random.Generator, story: Scenario) -> Floats:
    """Return the power as the mains' voltage lets it wander by a percent or so; the truth wanders with it."""
    slow = lfilter([1.0], [1.0, -0.9995], rng.normal(0, 1, story.seconds))
    factor = 1 + 0.01 * slow / max(1e-9, float(slow.std()))
    power = story.power_w * factor
    story.cycles[:] = [_with_energy(c, power) for c in story.cycles]
    return power


def _with_energy(cycle: TrueCycle, power_w: Floats) -> TrueCycle:
    return replace(cycle, energy_kwh=float(power_w[cycle.start_s : cycle.end_s].sum()) / J_PER_KWH)


def _heard(rng: np.random.Generator, seconds: int) -> Flags:
    heard = np.ones(seconds, dtype=bool)
    if rng.random() < 0.7:
        at = int(rng.integers(0, seconds))
        heard[at : at + int(rng.uniform(300, 2400))] = False
    return heard
