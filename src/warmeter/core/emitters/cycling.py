"""How often a source cycles below its least power (C9), and a thermostatic valve in a steady room (C10)."""

from dataclasses import dataclass

from warmeter.core.errors import OutOfRange
from warmeter.core.units import S_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceCycle:
    """On and off time [s], duty (ratio), starts an hour now and at the worst load."""

    on_s: float
    off_s: float
    duty: float
    starts_1_h: float
    worst_starts_1_h: float


def source_cycle(*, least_w: float, load_w: float, water_j_k: float, hysteresis_k: float) -> SourceCycle | None:
    """Return how a source cycles that cannot go as low as the load; None where it need not.

    Raises
    ------
    OutOfRange
        If load, water or hysteresis is not above zero.

    References
    ----------
    Energy balance of the water in circulation; docs/methods C9.
    """
    for name, value, unit in (
        ("load", load_w, "W"),
        ("heat capacity of the water", water_j_k, "J/K"),
        ("hysteresis", hysteresis_k, "K"),
    ):
        if not value > 0:
            raise OutOfRange(name, value, 0.0, float("inf"), unit)
    if load_w >= least_w:
        return None
    on, off = water_j_k * hysteresis_k / (least_w - load_w), water_j_k * hysteresis_k / load_w
    return SourceCycle(
        on_s=on,
        off_s=off,
        duty=on / (on + off),
        starts_1_h=S_PER_H / (on + off),
        worst_starts_1_h=S_PER_H * least_w / (4 * water_j_k * hysteresis_k),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ValveState:
    """Where a valve settles: room [°C], opening (ratio), heat [W], and whether it stands fully open."""

    room_c: float
    opening: float
    heat_w: float
    is_saturated: bool


def valve_in_steady_room(
    *, closes_c: float, band_k: float, full_heat_w: float, loss_w_k: float, outdoor_c: float
) -> ValveState:
    """Return where a proportional valve holds a room; a droop of 0.5 to 2 K is right, not a fault.

    Raises
    ------
    OutOfRange
        If the band is not above 0 K.

    References
    ----------
    EN 215's band, output linear in opening; docs/methods C10.
    """
    if not band_k > 0:
        raise OutOfRange("valve band", band_k, 0.0, 5.0, "K")
    slope = full_heat_w / band_k
    room = (slope * closes_c + loss_w_k * outdoor_c) / (slope + loss_w_k)
    opening = (closes_c - room) / band_k
    if opening > 1:
        return ValveState(room_c=outdoor_c + full_heat_w / loss_w_k, opening=1.0, heat_w=full_heat_w, is_saturated=True)
    if opening < 0:
        return ValveState(room_c=outdoor_c, opening=0.0, heat_w=0.0, is_saturated=False)
    return ValveState(room_c=room, opening=opening, heat_w=opening * full_heat_w, is_saturated=False)
