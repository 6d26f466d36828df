"""Heated rooms and climates for tests of what matters."""

from datetime import date

import numpy as np

from warmeter.core.matters.evidence import ClimateYear, HeatedRoom, HomeEvidence, WeekGap
from warmeter.core.thermal.room_fit import Estimate

NIGHT = WeekGap(times_a_week=7, minutes=480, held_c=20.0, low_c=17.0, price_held=0.30, price_reheat=0.30)


def steady_year(outdoor_c: float = 4.0) -> ClimateYear:
    """Return a year whose days are all alike."""
    return ClimateYear(outdoor_c=np.array([outdoor_c]), share=np.array([1.0]), logged_days=365)


def known(value: float) -> Estimate:
    """Return a number without doubt."""
    return Estimate(value=value, low=value, high=value)


def heated_room(**changed: object) -> HeatedRoom:
    """Return a room of 100 W/K and 20 MJ/K without gains, on 2 kW of direct heat at 0.30 a kWh."""
    values: dict[str, object] = {
        "room_id": "study",
        "name": "Study",
        "zone_id": "z-study",
        "loss_w_k": known(100.0),
        "store_j_k": known(20e6),
        "gain_w": 0.0,
        "full_heat_w": 4000.0,
        "is_fitted": True,
        "mean_c": 20.0,
        "lowest_guard_c": 10.0,
        "gaps": (NIGHT,),
        "heat_over_draw": np.array([1.0]),
        "price": 0.30,
        "currency": "GBP",
        "night_price": 0.30,
        "morning_price": 0.30,
    }
    return HeatedRoom(**(values | changed))  # type: ignore[arg-type]


def evidence_of(home: object, **parts: object) -> HomeEvidence:
    """Return evidence with some parts."""
    return HomeEvidence(**({"home": home, "today": date(2026, 1, 20)} | parts))  # type: ignore[arg-type]
