"""Holding against setback for a single store: energy (E3) and cost (E4)."""

from dataclasses import dataclass
from math import exp, log

from warmeter.core.errors import OutOfRange
from warmeter.core.units import J_PER_KWH


@dataclass(frozen=True, slots=True, kw_only=True)
class SetbackCase:
    """A room over one period of setback; W/K, J/K, W, °C and s."""

    loss_w_k: float
    capacity_j_k: float
    full_heat_w: float
    setpoint_c: float
    setback_c: float
    outdoor_c: float
    period_s: float

    def __post_init__(self) -> None:
        if not self.full_heat_w / self.loss_w_k > self.setpoint_c - self.outdoor_c > 0:
            raise OutOfRange(
                "setpoint above outdoors", self.setpoint_c - self.outdoor_c, 0.0, self.full_heat_w / self.loss_w_k, "K"
            )


@dataclass(frozen=True, slots=True, kw_only=True)
class SetbackEnergy:
    """Times [s], lowest temperature [°C] and energies [kWh] of holding and of setting back."""

    cool_s: float
    hold_s: float
    reheat_s: float
    lowest_c: float
    hold_kwh: float
    setback_kwh: float
    naive_bound_kwh: float

    @property
    def saving_kwh(self) -> float:
        """Energy saved [kWh]."""
        return self.hold_kwh - self.setback_kwh

    @property
    def saving_fraction(self) -> float:
        """Share of the holding energy of the period itself."""
        return self.saving_kwh / self.hold_kwh


def setback_energy(case: SetbackCase) -> SetbackEnergy:
    """Return what a setback saves (docs/methods E3)."""
    tau = case.capacity_j_k / case.loss_w_k
    x0, xs = case.setpoint_c - case.outdoor_c, case.setback_c - case.outdoor_c
    steady = case.full_heat_w / case.loss_w_k
    cool = tau * log(x0 / xs) if xs > 0 else float("inf")
    reheat = tau * log((steady - xs) / (steady - x0))
    if cool + reheat <= case.period_s:
        lowest, hold = case.setback_c, case.period_s - cool - reheat
    else:
        decay = exp(-case.period_s / tau)
        u = steady * decay / (steady - x0 + x0 * decay)
        cool, hold, lowest = -tau * log(u), 0.0, case.outdoor_c + x0 * u
        reheat = case.period_s - cool
    return SetbackEnergy(
        cool_s=cool,
        hold_s=hold,
        reheat_s=reheat,
        lowest_c=lowest,
        hold_kwh=case.loss_w_k * x0 * case.period_s / J_PER_KWH,
        setback_kwh=(case.loss_w_k * xs * hold + case.full_heat_w * reheat) / J_PER_KWH,
        naive_bound_kwh=case.loss_w_k * (case.setpoint_c - case.setback_c) * case.period_s / J_PER_KWH,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SetbackPrices:
    """COP and price [currency/kWh] while holding and while reheating."""

    cop_hold: float
    cop_reheat: float
    price_base: float
    price_reheat: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SetbackCost:
    """Costs of holding and setting back, and the COP at reheat at which they are equal."""

    hold: float
    setback: float
    breakeven_cop_reheat: float | None

    @property
    def setback_pays(self) -> bool:
        """Whether setting back is cheaper."""
        return self.setback < self.hold


def setback_cost(case: SetbackCase, prices: SetbackPrices) -> SetbackCost:
    """Return what holding and setting back cost (docs/methods E4)."""
    energy = setback_energy(case)
    x0_kw = case.loss_w_k * (case.setpoint_c - case.outdoor_c) / J_PER_KWH
    xs_kw = case.loss_w_k * (case.setback_c - case.outdoor_c) / J_PER_KWH
    hold = (
        x0_kw
        * ((case.period_s - energy.reheat_s) * prices.price_base + energy.reheat_s * prices.price_reheat)
        / prices.cop_hold
    )
    kept = xs_kw * energy.hold_s * prices.price_base / prices.cop_hold
    reheat_kwh = case.full_heat_w * energy.reheat_s / J_PER_KWH
    left = hold - kept
    return SetbackCost(
        hold=hold,
        setback=kept + reheat_kwh * prices.price_reheat / prices.cop_reheat,
        breakeven_cop_reheat=reheat_kwh * prices.price_reheat / left if left > 0 else None,
    )
