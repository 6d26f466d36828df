"""How warm a room must stay so that no mould grows at its coldest outside surface (D8)."""

from dataclasses import dataclass

from warmeter.core.building.room_envelope import envelope_of
from warmeter.core.claims.arbiter import Guard
from warmeter.core.errors import OutOfRange
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.sensing.humidity import RSI_MOULD_M2K_W, check_mould, u_at_mould_resistance

# Corners and furniture on an outer wall lie below the plain element by 0.05 to 0.15.
CORNER_FACTOR = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class DampLimit:
    """The least temperature of a room against mould, with what it was worked out from.

    Parameters
    ----------
    low_c : float
        Least air temperature [°C].
    element : str
        The outside element that decides.
    u_w_m2k, factor : float
        Its U-value and the temperature factor f_Rsi taken (ratio).
    surface_c : float
        Least temperature of its surface [°C].
    indoor_c, rh, outdoor_c : float
        Means of air, relative humidity (ratio) and outdoors that were heard [°C].
    """

    room: Room
    low_c: float
    element: str
    u_w_m2k: float
    factor: float
    surface_c: float
    indoor_c: float
    rh: float
    outdoor_c: float


def damp_limit(home: Home, room: Room, *, indoor_c: float, rh: float, outdoor_c: float) -> DampLimit | None:
    """Return the least temperature of a room that keeps its coldest opaque outside surface under 80 % humidity.

    The vapour stays as heard while the room cools; None where no outside element is known or outdoors is warmer.

    Parameters
    ----------
    indoor_c, outdoor_c : float
        Means over a month or what there is of it [°C].
    rh : float
        Mean relative humidity (ratio).

    References
    ----------
    docs/methods D8.
    """
    outside = [p for p in envelope_of(home, room).parts if p.element.to == "outside" and not p.is_glass]
    if not outside or not outdoor_c < indoor_c or not 0 < rh <= 1:
        return None
    worst = max(outside, key=lambda part: part.element.u_w_m2k)
    u_surface = u_at_mould_resistance(worst.element.u_w_m2k)
    factor = 1 - u_surface * RSI_MOULD_M2K_W - CORNER_FACTOR
    if factor <= 0.05:
        return None
    try:
        found = check_mould(indoor_c=indoor_c, outdoor_c=outdoor_c, rh=rh, factor=factor)
    except OutOfRange:
        return None
    return DampLimit(
        room=room,
        low_c=outdoor_c + (found.least_surface_c - outdoor_c) / factor,
        element=worst.element.name,
        u_w_m2k=worst.element.u_w_m2k,
        factor=factor,
        surface_c=found.least_surface_c,
        indoor_c=indoor_c,
        rh=rh,
        outdoor_c=outdoor_c,
    )


def damp_guard(limit: DampLimit) -> Guard:
    """Return a limit against mould as the arbiter takes it."""
    return Guard(low=limit.low_c, reason=f"mould, worked out from the humidity of {limit.room.name}", id="mould")
