"""Water that goes into the air from a pool (L6), and out of it on a cold coil (L8)."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.errors import within
from warmeter.core.sensing.humidity import saturation_pa
from warmeter.core.units import S_PER_H

SEA_PA = 101_325.0
DRY_AIR_J_KGK, ZERO_K = 287.05, 273.15
PA_PER_KPA, G_PER_KG, W_PER_KW = 1000.0, 1000.0, 1000.0


def _saturated_pa(celsius: float) -> float:
    return float(saturation_pa(np.array(celsius)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Evaporation:
    """What a surface of water gives off: vapour pressures [kPa], heat of it [kJ/kg], water [kg/h], heat lost [W]."""

    water_kpa: float
    air_kpa: float
    latent_kj_kg: float
    water_kg_h: float
    loss_w: float


def evaporation(
    *, area_m2: float, water_c: float, air_c: float, humidity_pct: float, air_m_s: float, activity: float
) -> Evaporation:
    """Return what an uncovered surface gives off; ``activity`` is 0.5 quiet, 1 used, 1.5 a bubbling tub.

    Raises
    ------
    OutOfRange
        If area or humidity have no meaning.

    Notes
    -----
    docs/methods L6: w = A (p_w − p_a)(0.089 + 0.0782 v)/Y · F, never negative. Recalled from handbooks of building
    services; a cover cuts it by nine tenths.
    """
    within("area", area_m2, 0.0, 10_000.0, "m²")
    within("humidity", humidity_pct, 0.0, 100.0, "%")
    water_kpa = _saturated_pa(water_c) / PA_PER_KPA
    air_kpa = humidity_pct / 100 * _saturated_pa(air_c) / PA_PER_KPA
    latent = 2501.0 - 2.361 * water_c
    kg_s = max(0.0, area_m2 * (water_kpa - air_kpa) * (0.089 + 0.0782 * air_m_s) / latent * activity)
    return Evaporation(
        water_kpa=water_kpa,
        air_kpa=air_kpa,
        latent_kj_kg=latent,
        water_kg_h=S_PER_H * kg_s,
        loss_w=W_PER_KW * kg_s * latent,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Condensate:
    """Water in the air before and after a coil [g/kg], and what drips off it [kg/h]."""

    room_g_kg: float
    out_g_kg: float
    water_kg_h: float


def condensate(
    *, room_c: float, room_pct: float, out_c: float, out_pct: float, flow_m3_h: float, pressure_pa: float = SEA_PA
) -> Condensate:
    """Return what drips off a cold coil that air leaves at a temperature and humidity.

    Raises
    ------
    OutOfRange
        If a humidity or the flow have no meaning.

    Notes
    -----
    docs/methods L8: w = 622 p/(p_atm − p), the dry air by its density in the room.
    """
    within("humidity", room_pct, 0.0, 100.0, "%")
    within("humidity after the coil", out_pct, 0.0, 100.0, "%")
    within("flow of air", flow_m3_h, 0.0, 1e6, "m³/h")
    vapour = room_pct / 100 * _saturated_pa(room_c)
    room, out = _g_kg(vapour, pressure_pa), _g_kg(out_pct / 100 * _saturated_pa(out_c), pressure_pa)
    density = (pressure_pa - vapour) / (DRY_AIR_J_KGK * (room_c + ZERO_K))
    return Condensate(room_g_kg=room, out_g_kg=out, water_kg_h=flow_m3_h * density * max(0.0, room - out) / G_PER_KG)


def _g_kg(vapour_pa: float, pressure_pa: float) -> float:
    return 622.0 * vapour_pa / (pressure_pa - vapour_pa)
