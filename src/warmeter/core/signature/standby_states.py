"""Off at the plug, at rest, at work: what standing costs a year and what cutting already saves (Q12)."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats
from warmeter.core.errors import within
from warmeter.core.units import S_PER_H

HOURS_A_YEAR = 8760.0
KWH_A_YEAR_PER_W = HOURS_A_YEAR / 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class StateTime:
    """Hours in a state, its mean power [W] (None at no hours) and its energy [kWh]."""

    hours: float
    mean_w: float | None
    kwh: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StandbyStates:
    """A machine's time by state; years are the known hours stretched to 8760, None where nothing is known."""

    known_h: float
    unknown_h: float
    off: StateTime
    rest: StateTime
    work: StateTime

    def _a_year(self, kwh: float) -> float | None:
        return kwh * HOURS_A_YEAR / self.known_h if self.known_h > 0 else None

    @property
    def rest_kwh_year(self) -> float | None:
        """Energy at rest over a year [kWh]."""
        return self._a_year(self.rest.kwh)

    @property
    def saved_kwh(self) -> float | None:
        """What the hours off at the plug have saved against rest [kWh]; None where it never rests."""
        if self.rest.mean_w is None:
            return None
        if self.off.mean_w is None:
            return 0.0
        return (self.rest.mean_w - self.off.mean_w) * self.off.hours / 1000

    @property
    def saved_kwh_year(self) -> float | None:
        """The same over a year [kWh]."""
        return None if self.saved_kwh is None else self._a_year(self.saved_kwh)

    @property
    def never_cut_kwh_year(self) -> float | None:
        """What rest would take over a year if the plug were never cut [kWh]."""
        rest, off, saved = self.rest_kwh_year, self._a_year(self.off.kwh), self.saved_kwh_year
        return None if rest is None or off is None or saved is None else rest + off + saved


def standby_states(
    at_s: Floats,
    power_w: Floats,
    switched: Floats,
    *,
    floor_w: float,
    work_w: float,
    longest_hold_s: float,
    end_s: float,
) -> StandbyStates:
    """Return a machine's time by state.

    Parameters
    ----------
    at_s : (sample,) float array
        Instants of samples, rising; of two at one instant the later in the list holds [s].
    power_w : (sample,) float array
        Power from there on, NaN where not known [W].
    switched : (sample,) float array
        1 where the plug says on, 0 where it says off, NaN where it says nothing.
    floor_w : float
        Below it a plug that says off, or an exact nought, is off, 0 to 100 [W].
    work_w : float
        From it on the machine works, above the floor [W].
    longest_hold_s : float
        A sample holds no longer, above 0 [s].
    end_s : float
        End of what is looked at; it begins at 0 [s].

    Raises
    ------
    OutOfRange
        If a number is not within its range.

    Notes
    -----
    docs/methods Q12. A plug that is said to be off but draws the floor or more is at rest.
    """
    within("floor", floor_w, 0.0, 100.0, "W")
    within("power at work", work_w, floor_w, 1e5, "W")
    within("longest hold", longest_hold_s, 1e-3, 1e9, "s")
    is_last = np.append(at_s[1:] != at_s[:-1], True) if at_s.size else np.zeros(0, dtype=bool)
    at, power, plug = at_s[is_last], power_w[is_last], switched[is_last]
    until = np.minimum(np.minimum(np.append(at[1:], end_s), end_s), at + longest_hold_s)
    hours = np.maximum(0.0, until - np.maximum(at, 0.0)) / S_PER_H
    known = ~np.isnan(power)
    is_off = known & (power < floor_w) & ((plug == 0) | (power == 0))
    is_work = known & ~is_off & (power >= work_w)
    known_h = float(hours[known].sum())

    def time_in(chosen: Flags) -> StateTime:
        held = float(hours[chosen].sum())
        kwh = float((hours[chosen] * power[chosen]).sum()) / 1000
        return StateTime(hours=held, mean_w=1000 * kwh / held if held > 0 else None, kwh=kwh)

    return StandbyStates(
        known_h=known_h,
        unknown_h=end_s / S_PER_H - known_h,
        off=time_in(is_off),
        rest=time_in(known & ~is_off & ~is_work),
        work=time_in(is_work),
    )
