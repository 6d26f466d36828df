"""What changed setpoints cost a room over a year: one store, day by day of the year's outdoor temperatures."""

from dataclasses import replace

import numpy as np

from warmeter.core.matters.evidence import ClimateYear, HeatedRoom, WeekGap
from warmeter.core.units import S_PER_MIN, WEEKS_A_YEAR
from warmeter.core.warmup.setback import SetbackCase, SetbackPrices, setback_cost

HOURS_A_YEAR = 8760.0
LEAST_EXCESS_K = 0.05  # a room that stands so near to its free temperature is not heated


def gap_cost_year(room: HeatedRoom, climate: ClimateYear, gap: WeekGap, low_c: float) -> float:
    """Return what a room's heat costs in the gaps of a kind over a year, set back to a temperature [money a year].

    Notes
    -----
    docs/methods E4 with the outdoor temperature raised by gains over loss, summed over the bins of the year's days. A
    day on which gains alone hold the room, or on which its heater falls short, counts as costing the same at any
    setting.
    """
    loss, total = room.loss_w_k.value, 0.0
    for outdoor, share, over in zip(climate.outdoor_c, climate.share, room.heat_over_draw, strict=True):
        free_c = float(outdoor) + room.gain_w / loss
        excess = gap.held_c - free_c
        if not LEAST_EXCESS_K < excess < room.full_heat_w / loss:
            continue
        case = SetbackCase(
            loss_w_k=loss,
            capacity_j_k=room.store_j_k.value,
            full_heat_w=room.full_heat_w,
            setpoint_c=gap.held_c,
            setback_c=low_c,
            outdoor_c=free_c,
            period_s=gap.minutes * S_PER_MIN,
        )
        prices = SetbackPrices(
            cop_hold=float(over), cop_reheat=float(over), price_base=gap.price_held, price_reheat=gap.price_reheat
        )
        cost = setback_cost(case, prices)
        total += float(share) * (cost.setback if low_c < gap.held_c else cost.hold)
    return total * gap.times_a_week * WEEKS_A_YEAR


def lower_saves(room: HeatedRoom, climate: ClimateYear, by_k: float) -> float:
    """Return what setting each gap of a room lower by so much saves, never under its protection limit [money a year]."""
    saved = 0.0
    for gap in room.gaps:
        low = max(gap.low_c - by_k, room.lowest_guard_c)
        if low < gap.low_c:
            saved += gap_cost_year(room, climate, gap, gap.low_c) - gap_cost_year(room, climate, gap, low)
    return saved


def kelvin_costs(room: HeatedRoom, climate: ClimateYear) -> float:
    """Return what one kelvin more in a room costs over a year, on all days on which it is heated [money a year]."""
    free_c = climate.outdoor_c + room.gain_w / room.loss_w_k.value
    heated = climate.share * (free_c < room.mean_c) / room.heat_over_draw
    return float(room.loss_w_k.value * HOURS_A_YEAR / 1000 * room.price * np.sum(heated))


def with_loss(room: HeatedRoom, loss_w_k: float) -> HeatedRoom:
    """Return a room with another loss [W/K]."""
    return replace(room, loss_w_k=replace(room.loss_w_k, value=loss_w_k))


def with_store(room: HeatedRoom, store_j_k: float) -> HeatedRoom:
    """Return a room with another thermal mass [J/K]."""
    return replace(room, store_j_k=replace(room.store_j_k, value=store_j_k))
