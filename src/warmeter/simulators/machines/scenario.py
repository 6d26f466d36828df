"""What a stand-in machine did over some days: its power by second and the truth about its cycles."""

from dataclasses import dataclass, field

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.units import J_PER_KWH, S_PER_DAY, S_PER_H
from warmeter.simulators.machines.power_trace import PowerTrace


@dataclass(frozen=True, slots=True, kw_only=True)
class TruePhase:
    """A phase of a cycle, in seconds of the log [start, end)."""

    name: str
    start_s: int
    end_s: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TrueCycle:
    """A cycle as it was, in seconds of the log [start, end), with its true energy."""

    programme: str
    start_s: int
    end_s: int
    energy_kwh: float
    phases: tuple[TruePhase, ...]


@dataclass(slots=True)
class Scenario:
    """Seconds of a machine's life that are written cycle by cycle over its rest."""

    rng: np.random.Generator
    power_w: Floats
    cycles: list[TrueCycle] = field(default_factory=list)

    @classmethod
    def at_rest(cls, rng: np.random.Generator, days: float, standby_w: float) -> "Scenario":
        """Begin with nothing but rest."""
        power = np.full(round(days * S_PER_DAY), standby_w) + rng.normal(0, 0.015 * standby_w, round(days * S_PER_DAY))
        return cls(rng, np.maximum(power, 0.0))

    @property
    def seconds(self) -> int:
        """Length of the log [s]."""
        return self.power_w.size

    def play(self, at_s: float, programme: str, tape: PowerTrace, after: PowerTrace | None = None) -> bool:
        """Write a cycle at a time, and what follows it without being part of it; return whether it fits."""
        start, power = round(at_s), tape.power_w()
        end = start + power.size
        tail = after.power_w() if after else np.zeros(0)
        if start < 60 or end + tail.size + 60 > self.seconds:
            return False
        self.power_w[start:end] = power
        self.power_w[end : end + tail.size] = np.maximum(self.power_w[end : end + tail.size], tail)
        edges = [*(at for _, at in tape.phases), power.size]
        self.cycles.append(
            TrueCycle(
                programme=programme,
                start_s=start,
                end_s=end,
                energy_kwh=float(power.sum()) / J_PER_KWH,
                phases=tuple(
                    TruePhase(name=name, start_s=start + edges[k], end_s=start + edges[k + 1])
                    for k, (name, _) in enumerate(tape.phases)
                ),
            )
        )
        return True


def times_of_day(
    rng: np.random.Generator, days: float, per_day: float, hours: tuple[float, float], apart_s: float
) -> list[float]:
    """Return start times [s] within some hours of the day, at least ``apart_s`` from each other."""
    found: list[float] = []
    for day in range(int(days)):
        for hour in np.sort(rng.uniform(*hours, rng.poisson(per_day))):
            at = (day * 24 + float(hour)) * S_PER_H
            if not found or at - found[-1] >= apart_s:
                found.append(at)
    return found
