"""Worked examples of savings (K)."""

from collections.abc import Callable
from decimal import Decimal

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.saving.degree_days import autocorrelation, degree_day_fit
from warmeter.core.saving.present_value import present_value
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


def k2(i: Case) -> Case:
    """Net present value."""
    money = {name: Decimal(str(i[name])) for name in ("cost", "saving_year1", "discount_rate", "price_growth")}
    found = present_value(**money, years=i["years"])
    payback = found.payback_years
    return {"npv": float(found.net), "discounted_payback_years": None if payback is None else float(payback)}


def k3(i: Case) -> Case:
    """Degree day regression."""
    fit = degree_day_fit(*(np.array(i[name], dtype=float) for name in ("days", "hdd", "energy_kWh")))
    return {
        "base_per_day": fit.base_per_day,
        "slope_per_hdd": fit.slope_per_degree_day,
        "r2": fit.r2,
        "cv_rmse_pct": fit.cv_rmse_pct,
        "nmbe_pct": fit.nmbe_pct,
    }


def k7(i: Case) -> Case:
    """Autocorrelation."""
    found = autocorrelation(np.array(i["residuals"], dtype=float))
    return {"rho1": found.rho1, "n_effective": found.effective}


METHODS: dict[str, Callable[[Case], Case]] = {
    "K1.simple_saving": k1,
    "K2.npv": k2,
    "K3.degree_day_regression": k3,
    "K7.autocorrelation": k7,
}
