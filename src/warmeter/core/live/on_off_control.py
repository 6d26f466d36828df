"""A heater that knows only on and off, switched by the room's temperature within a band, never too often (J1, J3)."""

from dataclasses import dataclass

from warmeter.core.units import MS_PER_MIN

LEAST_ON_MS = LEAST_OFF_MS = 5 * MS_PER_MIN


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchedState:
    """Whether a heater was last switched on, and when [ms]; None where it never was."""

    is_on: bool
    since_ms: int


def switched(setpoint_c: float, band_k: float, room_c: float | None, before: SwitchedState | None, now_ms: int) -> bool:
    """Return whether a heater is on from now on.

    Parameters
    ----------
    setpoint_c, band_k : float
        What is asked [°C], and the width of the band around it [K].
    room_c : float or None
        The room's temperature, None where it is not known: then the heater is off, and its own limit must hold.
    before : SwitchedState or None
        How it was switched last.
    now_ms : int
        Now [ms].

    References
    ----------
    docs/methods J1, J3, J8.
    """
    if room_c is None:
        return False
    was_on = before is not None and before.is_on
    wanted = was_on
    if room_c <= setpoint_c - band_k / 2:
        wanted = True
    elif room_c >= setpoint_c + band_k / 2:
        wanted = False
    if before is None or wanted == was_on:
        return wanted
    least = LEAST_ON_MS if was_on else LEAST_OFF_MS
    return wanted if now_ms - before.since_ms >= least else was_on
