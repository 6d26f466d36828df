"""Which branch gets which air: a fan, a trunk, branches with dampers (Q7)."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

from warmeter.core.errors import OutOfRange
from warmeter.core.units import S_PER_H

SLACK = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class FanCurve:
    """What a fan makes of pressure at a flow: p = still − b Q − c Q² [Pa, Q in m³/s]."""

    still_pa: float
    b: float = 0.0
    c: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Branch:
    """A branch: resistance when open [Pa/(m³/s)²], its damper's notch, the least air that it is to have [m³/h]."""

    id: str
    resistance: float
    notch: int = 0
    least_m3_h: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctLimits:
    """Limits that are looked at; None is not [Pa, m³/h]."""

    static_most_pa: float | None = None
    flow_least_m3_h: float | None = None
    curve_most_m3_h: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctShares:
    """All air [m³/h], pressure at the fan and before the branches [Pa], each branch's air, and what is off.

    ``shares`` are None where all is shut. ``flags``: ``all_shut``, ``static_high``, ``flow_low``, ``off_curve``,
    ``branch_low:<id>``.
    """

    flow_m3_h: float
    static_fan_pa: float
    static_branch_pa: float
    flows_m3_h: dict[str, float]
    shares: dict[str, float | None]
    flags: tuple[str, ...]


def duct_shares(
    fan: FanCurve,
    trunk_resistance: float,
    branches: Sequence[Branch],
    notch_factors: Sequence[float | None],
    limits: DuctLimits,
) -> DuctShares:
    """Return the air of each branch.

    Parameters
    ----------
    notch_factors : sequence of float or None
        What each notch multiplies a branch's resistance by, 1 or more; None is shut.

    Raises
    ------
    OutOfRange
        If a resistance, a factor or the fan's curve has no meaning, or a notch has no factor.

    Notes
    -----
    docs/methods Q7: Q = 2 p₀ / (b + √(b² + 4 (c + R) p₀)), R = r_t + 1/G², G = Σ 1/√(r k).
    """
    _check(fan, trunk_resistance, branches, notch_factors)
    pull: dict[str, float] = {}
    for branch in branches:
        factor = notch_factors[branch.notch]
        pull[branch.id] = 0.0 if factor is None else 1 / sqrt(branch.resistance * factor)
    total = sum(pull.values())
    if total <= 0:
        flags = ("all_shut",)
        nothing = dict.fromkeys(pull, 0.0)
        return DuctShares(
            flow_m3_h=0.0,
            static_fan_pa=fan.still_pa,
            static_branch_pa=fan.still_pa,
            flows_m3_h=nothing,
            shares=dict.fromkeys(pull),
            flags=flags + _flags(limits, branches, fan.still_pa, 0.0, nothing),
        )
    resistance = trunk_resistance + 1 / total**2
    flow = 2 * fan.still_pa / (fan.b + sqrt(fan.b**2 + 4 * (fan.c + resistance) * fan.still_pa))
    static = fan.still_pa - fan.b * flow - fan.c * flow**2
    flows = {key: S_PER_H * flow * own / total for key, own in pull.items()}
    return DuctShares(
        flow_m3_h=S_PER_H * flow,
        static_fan_pa=static,
        static_branch_pa=flow**2 / total**2,
        flows_m3_h=flows,
        shares={key: own / total for key, own in pull.items()},
        flags=_flags(limits, branches, static, S_PER_H * flow, flows),
    )


def _check(
    fan: FanCurve, trunk_resistance: float, branches: Sequence[Branch], notch_factors: Sequence[float | None]
) -> None:
    inf = float("inf")
    if not fan.still_pa > 0 or fan.b < 0 or fan.c < 0:
        raise OutOfRange("curve of the fan", min(fan.still_pa, fan.b, fan.c), 0.0, inf, "Pa")
    if not trunk_resistance >= 0:
        raise OutOfRange("resistance of the trunk", trunk_resistance, 0.0, inf)
    for factor in notch_factors:
        if factor is not None and not 1 <= factor < inf:
            raise OutOfRange("factor of a notch", factor, 1.0, inf)
    for branch in branches:
        if not 0 < branch.resistance < inf:
            raise OutOfRange(f"resistance of {branch.id}", branch.resistance, 0.0, inf)
        if not 0 <= branch.notch < len(notch_factors):
            raise OutOfRange(f"notch of {branch.id}", branch.notch, 0, len(notch_factors) - 1)


def _flags(
    limits: DuctLimits, branches: Sequence[Branch], static_pa: float, flow_m3_h: float, flows: dict[str, float]
) -> tuple[str, ...]:
    found = []
    if limits.static_most_pa is not None and static_pa > limits.static_most_pa + SLACK:
        found.append("static_high")
    if limits.flow_least_m3_h is not None and flow_m3_h < limits.flow_least_m3_h - SLACK:
        found.append("flow_low")
    if limits.curve_most_m3_h is not None and flow_m3_h > limits.curve_most_m3_h + SLACK:
        found.append("off_curve")
    low = [b.id for b in branches if b.least_m3_h is not None and flows[b.id] < b.least_m3_h - SLACK]
    return (*found, *(f"branch_low:{key}" for key in low))
