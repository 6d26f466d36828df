"""On/off control of a single store: cycle lengths (C11) and minimum times (C12)."""

from dataclasses import dataclass

from warmeter.core.thermal.single_rc import SingleRc


@dataclass(frozen=True, slots=True, kw_only=True)
class Cycle:
    """A steady on/off cycle; durations in s."""

    on_s: float
    off_s: float

    @property
    def duty(self) -> float:
        """Share of time on."""
        return self.on_s / (self.on_s + self.off_s)

    @property
    def cycles_per_h(self) -> float:
        """Starts an hour."""
        return 3600 / (self.on_s + self.off_s)


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstCycle:
    """The first on and off stretch from switching on, with what the minimum times did."""

    on_s: float
    peak_c: float
    off_s: float
    trough_c: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TwoStep:
    """A thermostat: on at or below ``on_c``, off at or above ``off_c`` [°C], heater in W."""

    room: SingleRc
    power_w: float
    outdoor_c: float
    on_c: float
    off_c: float

    def _on_s(self) -> float | None:
        return self.room.time_to_s(
            start_c=self.on_c, target_c=self.off_c, power_w=self.power_w, outdoor_c=self.outdoor_c
        )

    def _off_s(self, start_c: float) -> float | None:
        return self.room.time_to_s(start_c=start_c, target_c=self.on_c, power_w=0.0, outdoor_c=self.outdoor_c)

    def cycle(self) -> Cycle | None:
        """Return the steady cycle, or None where the heater never reaches the upper end or
        the room never falls to the lower (docs/methods C11)."""
        on_s, off_s = self._on_s(), self._off_s(self.off_c)
        return None if on_s is None or off_s is None else Cycle(on_s=on_s, off_s=off_s)

    def first_cycle(self, *, min_on_s: float, min_off_s: float) -> FirstCycle | None:
        """Return the first cycle under minimum times, or None as in ``cycle`` (docs/methods C12)."""
        on_s = self._on_s()
        if on_s is None:
            return None
        on_s = max(on_s, min_on_s)
        peak = self.room.temperature_c(start_c=self.on_c, power_w=self.power_w, outdoor_c=self.outdoor_c, after_s=on_s)
        off_s = self._off_s(peak)
        if off_s is None:
            return None
        off_s = max(off_s, min_off_s)
        trough = self.room.temperature_c(start_c=peak, power_w=0.0, outdoor_c=self.outdoor_c, after_s=off_s)
        return FirstCycle(on_s=on_s, peak_c=peak, off_s=off_s, trough_c=trough)
