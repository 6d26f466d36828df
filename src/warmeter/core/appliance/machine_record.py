"""What a machine's log says: its power, cycles, phases and states."""

from dataclasses import dataclass, field
from datetime import date

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.home.machines import Appliance, Asking
from warmeter.core.signature.anomalies import PowerShift, moved_plug
from warmeter.core.signature.cycles import Activity, Cycle, CycleFeatures, cycle_features
from warmeter.core.signature.machine_states import State, machine_states
from warmeter.core.signature.phases import Phase, phases_of
from warmeter.core.signature.recommending import SettingProposal
from warmeter.core.signature.tuner import Expected, Verdict, asked_of
from warmeter.core.units import J_PER_KWH, MS_PER_DAY


@dataclass(frozen=True, slots=True, kw_only=True)
class Counted:
    """Starts, run time [s] and energy, rest included [kWh], since some instant."""

    starts: int
    run_s: float
    energy_kwh: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineRecord:
    """What a machine's log says.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over even steps, NaN where not heard [W].
    start_ms : int
        Of the first step [ms UTC].
    step_s : float
        Length of a step [s].
    day : (step,) int array
        Local day of each step, from 0.
    first_date : date
        Local date of day 0.
    found : Activity
        Its cycles, as a person corrected them.
    proposals, verdicts, parts : dict
        Settings proposed and judged and phases found so far, kept for the next request of the same log.
    """

    appliance: Appliance
    power_w: Floats
    start_ms: int
    step_s: float
    day: Ints
    first_date: date
    found: Activity
    proposals: dict[object, SettingProposal] = field(default_factory=dict, compare=False, repr=False)
    verdicts: dict[object, Verdict] = field(default_factory=dict, compare=False, repr=False)
    parts: dict[object, tuple[Phase, ...]] = field(default_factory=dict, compare=False, repr=False)

    @property
    def days(self) -> float:
        """How many days it spans."""
        return self.power_w.size * self.step_s * 1000 / MS_PER_DAY

    def at_ms(self, step: float) -> int:
        """Return the instant of a step [ms UTC]."""
        return self.start_ms + round(step * self.step_s * 1000)

    def step_at(self, at_ms: float) -> int:
        """Return the step that begins nearest to an instant."""
        return round((at_ms - self.start_ms) / (self.step_s * 1000))

    def features(self, cycle: Cycle) -> CycleFeatures:
        """Return what a cycle used and how."""
        return cycle_features(self.power_w[cycle.start : cycle.end], self.step_s)

    def phases(self, cycle: Cycle) -> tuple[Phase, ...]:
        """Return a cycle's phases."""
        key = cycle.start, cycle.end
        if key not in self.parts:
            self.parts[key] = phases_of(self.power_w, self.step_s, *key)
        return self.parts[key]

    @property
    def typical(self) -> Cycle | None:
        """The whole cycle of middle energy: its profile is the machine's own."""
        whole = sorted(self.found.whole, key=lambda c: float(np.nansum(self.power_w[c.start : c.end])))
        return whole[len(whole) // 2] if whole else None

    def counted(self, since_ms: int) -> Counted:
        """Return run time, starts and energy from an instant on."""
        first = min(max(self.step_at(since_ms), 0), self.power_w.size)
        cycles = [c for c in self.found.cycles if c.end > first]
        return Counted(
            starts=sum(c.start >= first for c in cycles),
            run_s=sum(c.end - max(c.start, first) for c in cycles) * self.step_s,
            energy_kwh=float(np.nansum(self.power_w[first:])) * self.step_s / J_PER_KWH,
        )

    def moved(self) -> PowerShift | None:
        """Return from which cycle on the plug seems to sit on another machine."""
        return moved_plug(self.power_w, self.found.cycles)

    def states(self) -> tuple[State, ...]:
        """Return the states of the machine at work, with the hours in each."""
        return machine_states(self.power_w, self.step_s, self.found.cycles)

    def profile_kwh(self) -> Floats:
        """Return the typical cycle's energy by minute, shape (minute,) [kWh]; empty without a cycle."""
        typical = self.typical
        return np.zeros(0) if typical is None else self.by_minute_kwh(typical)

    def by_minute_kwh(self, cycle: Cycle) -> Floats:
        """Return a cycle's energy by minute, shape (minute,) [kWh]."""
        power = np.nan_to_num(self.power_w[cycle.start : cycle.end])
        minute = (np.arange(power.size) * self.step_s // 60).astype(np.int64)
        return np.bincount(minute, weights=power * self.step_s / J_PER_KWH).astype(np.float64)

    def asked(self, tells: Asking) -> Expected:
        """Return what there was to tell."""
        return asked_of(tells, self.found, self.day, self.power_w, self.step_s)
