"""A room's humidity within a band as a store of dry air: a dehumidifier fills it, the damp empties it."""

import numpy as np

from warmeter.core.day_plan.problem import HeatStore
from warmeter.core.home.day_plans import HumidityBand
from warmeter.core.units import MIN_PER_H, W_PER_KW

ALL_PCT = 100.0
# Where it begins too damp, so much less is asked than full power can have reached [%].
SLACK_PCT = 0.5


def dry_air(band: HumidityBand, slots: int, step_min: int) -> HeatStore:
    """Return a band over slots: its level is what relative humidity lacks to 100 % [%], its capacity 1 a per cent.

    Notes
    -----
    docs/methods I9: humidity rises evenly without the dehumidifier and falls evenly with it. It ends no damper than it
    began; where it begins outside of its band, it is held to it from when full power can have reached it.
    """
    power_kw, hours = band.power_w / W_PER_KW, step_min / MIN_PER_H
    begin, low, high = ALL_PCT - band.begin_pct, ALL_PCT - band.high_pct, ALL_PCT - band.low_pct
    reached = begin + band.fall_pct_h * hours * np.arange(1, slots + 1)
    lower = (
        np.minimum(np.full(slots, low), np.maximum(begin, reached) - SLACK_PCT) if begin < low else np.full(slots, low)
    )
    lower[-1] = max(float(lower[-1]), min(begin, high))
    sunk = begin - band.rise_pct_h * hours * np.arange(1, slots + 1)
    upper = np.maximum(np.full(slots, high), sunk)
    return HeatStore(
        key=band.id,
        name=band.name,
        kwh_per_k=1.0,
        loss_kw_k=0.0,
        surroundings_c=np.zeros(slots),
        power_kw=power_kw,
        efficiency=(band.fall_pct_h + band.rise_pct_h) / power_kw,
        start_c=begin,
        low_c=lower,
        high_c=upper,
        drawn_kwh=np.full(slots, band.rise_pct_h * hours),
        holds="dry air",
    )
