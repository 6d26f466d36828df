"""A cycle put together second by second: stretches of power under named phases."""

from dataclasses import dataclass, field

import numpy as np

from warmeter.core.arrays import Floats


@dataclass(slots=True)
class PowerTrace:
    """Power of one cycle, a value a second [W], and where its phases begin [s]."""

    rng: np.random.Generator
    parts: list[Floats] = field(default_factory=list)
    phases: list[tuple[str, int]] = field(default_factory=list)
    seconds: int = 0

    def phase(self, name: str) -> None:
        """Begin a phase here."""
        self.phases.append((name, self.seconds))

    def _add(self, power: Floats) -> None:
        self.parts.append(np.maximum(power, 0.0))
        self.seconds += power.size

    def hold(self, seconds: float, watts: float, spread: float = 0.01) -> None:
        """Stay at a power, with a relative spread from second to second."""
        n = max(1, round(seconds))
        self._add(watts * (1 + self.rng.normal(0, spread, n)))

    def ramp(self, seconds: float, first_w: float, last_w: float, spread: float = 0.02) -> None:
        """Go from one power to another in a straight line."""
        n = max(1, round(seconds))
        self._add(np.linspace(first_w, last_w, n) * (1 + self.rng.normal(0, spread, n)))

    def turns(self, seconds: float, watts: float, on_s: float, off_s: float, rest_w: float) -> None:
        """Turn a drum to and fro: on, rest, on, rest; a motor's start draws half as much again."""
        until = self.seconds + seconds
        while self.seconds < until:
            self.hold(2, 1.5 * watts, 0.1)
            self.hold(on_s * self.rng.uniform(0.85, 1.15), watts * self.rng.uniform(0.85, 1.15), 0.08)
            self.hold(off_s * self.rng.uniform(0.85, 1.15), rest_w)

    def thermostat(self, seconds: float, high_w: float, low_w: float, on_s: float, off_s: float) -> None:
        """Switch a heater off and on over a power that stays; it ends with the heater on."""
        until = self.seconds + seconds
        while self.seconds < until:
            self.hold(off_s * self.rng.uniform(0.8, 1.2), low_w, 0.03)
            self.hold(on_s * self.rng.uniform(0.8, 1.2), high_w, 0.006)

    def power_w(self) -> Floats:
        """Return the power by second [W]."""
        return np.concatenate(self.parts)
