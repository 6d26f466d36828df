"""Worked examples of savings (K)."""

from collections.abc import Callable
from decimal import Decimal

from warmeter.cli.worked import Case
from warmeter.core.saving.simple import simple_saving


def k1(i: Case) -> Case:
    """Simple saving."""
    s = simple_saving(
        power_w=i["watts"],
        hours_per_day=i["hours_per_day"],
        days_per_year=i["days_per_year"],
        price_per_kwh=Decimal(str(i["price_per_kWh"])),
        cost=Decimal(str(i["cost"])),
    )
    return {
        "kWh_year": float(s.kwh_per_year),
        "saving_year": float(s.money_per_year),
        "payback_years": None if s.payback_years is None else float(s.payback_years),
    }


METHODS: dict[str, Callable[[Case], Case]] = {"K1.simple_saving": k1}
