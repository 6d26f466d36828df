"""The air of a home's ducts by what was measured: resistances from the vents' shares, then air for any notches."""

from collections.abc import Mapping

from warmeter.core.ducts.duct_shares import Branch, DuctLimits, DuctShares, FanCurve, duct_shares
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.units import S_PER_H

# A fan against shut vents makes about so much of the pressure that it makes in use; its curve is taken as a parabola.
STILL_RATIO = 1.6


def vent_flows_m3_h(system: DuctSystem) -> dict[str, float]:
    """Return each vent's air with notches as they are: measured, else its part of the rest by free area [m³/h]."""
    measured = {vent.id: vent.flow_m3_h for vent in system.vents if vent.flow_m3_h is not None}
    open_area = {
        vent.id: vent.area_cm2 / _factor(system, vent.notch) ** 0.5 for vent in system.vents if vent.id not in measured
    }
    rest, area = max(0.0, system.flow_m3_h - sum(measured.values())), sum(open_area.values())
    if open_area and rest <= 0.0:
        # More was measured than the fan is said to move: the unmeasured ones get what their area would.
        known = {vent.id: vent.area_cm2 for vent in system.vents if vent.id in measured}
        rest = sum(measured.values()) * area / sum(known.values())
    return {
        vent.id: measured[vent.id] if vent.id in measured else rest * open_area[vent.id] / area for vent in system.vents
    }


def _factor(system: DuctSystem, notch: int) -> float:
    """Return what a notch multiplies the resistance by; beyond the last one that has a factor, that one's."""
    return system.notch_factors[min(notch, len(system.notch_factors) - 1)]


def duct_air(system: DuctSystem, notches: Mapping[str, int] | None = None) -> DuctShares:
    """Return the air of each vent for some notches (None: as they are), with what is off of the limits.

    Notes
    -----
    docs/methods Q7. Trunk, filter and coil lose ``trunk_share`` of the measured pressure; the rest is lost in each vent
    at its present air, which gives its resistance. The fan's curve is a parabola from 1.6 times the measured pressure.
    """
    flows = vent_flows_m3_h(system)
    total = sum(flows.values()) / S_PER_H
    factors = system.notch_factors
    at_vents = (1 - system.trunk_share) * system.static_pa
    branches = [
        Branch(
            id=vent.id,
            resistance=at_vents / (max(flows[vent.id], 0.1) / S_PER_H) ** 2 / _factor(system, vent.notch),
            notch=min(vent.notch if notches is None else notches.get(vent.id, vent.notch), len(factors) - 1),
        )
        for vent in system.vents
    ]
    fan = FanCurve(
        still_pa=STILL_RATIO * system.static_pa, c=(STILL_RATIO - 1) * system.static_pa / max(total, 1e-6) ** 2
    )
    trunk = system.trunk_share * system.static_pa / max(total, 1e-6) ** 2
    limits = DuctLimits(static_most_pa=system.static_most_pa, flow_least_m3_h=system.flow_least_m3_h)
    return duct_shares(fan, trunk, branches, factors, limits)


def room_flows_m3_h(system: DuctSystem, notches: Mapping[str, int] | None = None) -> dict[str, float]:
    """Return the air of each room that has vents [m³/h]."""
    found, flows = dict.fromkeys(system.room_ids, 0.0), duct_air(system, notches).flows_m3_h
    for vent in system.vents:
        found[vent.room_id] += flows[vent.id]
    return found


def duct_output_w(system: DuctSystem, room_id: str) -> float:
    """Return what a room's vents give of all stages together, by their share of the air [W]."""
    if room_id not in system.room_ids:
        return 0.0
    flows = room_flows_m3_h(system)
    total = sum(flows.values())
    return sum(stage.heat_w for stage in system.stages) * flows[room_id] / total if total > 0 else 0.0


def share_shut(system: DuctSystem, notches: Mapping[str, int] | None = None) -> float:
    """Return which share of all vent area is shut (ratio)."""
    at = {vent.id: vent.notch if notches is None else notches.get(vent.id, vent.notch) for vent in system.vents}
    area = sum(vent.area_cm2 for vent in system.vents)
    return sum(vent.area_cm2 * at[vent.id] / system.full_notch for vent in system.vents) / area if area else 0.0
