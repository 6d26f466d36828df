"""Warm floors: heat by surface temperature (C5) and the limits of the surface (C6)."""

from dataclasses import dataclass
from typing import Literal

from warmeter.core.errors import OutOfRange

FloorZone = Literal["occupied", "edge", "bath"]
LIMIT_C: dict[str, float] = {"occupied": 29.0, "edge": 35.0, "bath": 33.0}
_A, _N = 8.92, 1.1


def flux_w_m2(surface_c: float, room_c: float) -> float:
    """Return the heat of a warm floor by its mean surface [W/m2]; a cooler floor gives none.

    References
    ----------
    EN 1264-2; docs/methods C5.

    Examples
    --------
    >>> round(flux_w_m2(29, 20))
    100
    """
    return float(_A * max(0.0, surface_c - room_c) ** _N)


def surface_c(flux: float, room_c: float) -> float:
    """Return the surface temperature that gives a heat [W/m2] (inverse of ``flux_w_m2``) [°C]."""
    return float(room_c + (max(0.0, flux) / _A) ** (1 / _N))


@dataclass(frozen=True, slots=True, kw_only=True)
class FloorCheck:
    """A load laid on a floor: heat [W/m2], surface and its limit [°C], and what is left over [W]."""

    flux_w_m2: float
    surface_c: float
    limit_c: float
    most_w_m2: float
    is_within: bool
    shortfall_w: float


def check_floor(
    load_w: float, *, area_m2: float, room_c: float, zone: FloorZone = "occupied", limit_c: float | None = None
) -> FloorCheck:
    """Return whether a floor can carry a load within its surface limit.

    ``limit_c`` overrules the zone's: timber covers often 27 °C by their maker, lower for reduced feeling.

    Raises
    ------
    OutOfRange
        If the floor has no area.

    References
    ----------
    EN 1264-2, ISO 7730; docs/methods C6.
    """
    if not area_m2 > 0:
        raise OutOfRange("area of the underfloor heating", area_m2, 0.0, 2000.0, "m2")
    limit = LIMIT_C[zone] if limit_c is None else limit_c
    flux = load_w / area_m2
    surface, most = surface_c(flux, room_c), flux_w_m2(limit, room_c)
    return FloorCheck(
        flux_w_m2=flux,
        surface_c=surface,
        limit_c=limit,
        most_w_m2=most,
        is_within=surface <= limit + 1e-9,
        shortfall_w=max(0.0, load_w - most * area_m2),
    )
