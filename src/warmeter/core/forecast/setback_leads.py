"""How long a fitted room warms up after a night's setback, by outdoor temperature."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from warmeter.core.building.heating import full_heat_w
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.thermal.room_fit import RoomFit
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.warmup.lead import Lead, lead_from_floor

OUTDOORS_C = (-6.0, -3.0, 0.0, 3.0, 6.0, 9.0)
SETBACKS_K = (2.0, 3.0, 4.0)
FALL_H = 8.0
TABLE_BAND_K = 0.1  # a narrow band, so that the table does not show where in its cycle a thermostat stood


@dataclass(frozen=True, slots=True, kw_only=True)
class SetbackLeads:
    """The leads after a setback to a floor [°C], one for each of ``OUTDOORS_C``."""

    floor_c: float
    leads: tuple[Lead, ...]


def setback_leads(fit: RoomFit, heater: Heater, home: Home, aim_c: float) -> tuple[SetbackLeads, ...]:
    """Return lead times to the aim after eight hours at three setbacks; worked out once for the same fit, watts and aim."""
    heat_w = full_heat_w(home, heater.room_id) if fit.watts_known else fit.full_heat_w
    return _setback_leads(fit.rooms, fit.gains_w, heat_w, aim_c)


@lru_cache(maxsize=200)
def _setback_leads(
    rooms: tuple[RoomRc, ...], gains_w: tuple[float, ...], heat_w: float, aim_c: float
) -> tuple[SetbackLeads, ...]:
    step = compile_rooms(rooms, heat_w, 60.0)
    control = OnOff(full_heat_w=heat_w, band_k=TABLE_BAND_K, min_on_steps=1, min_off_steps=1)

    def lead(floor_c: float, outdoor_c: float) -> Lead:
        return lead_from_floor(
            step,
            control,
            floor_c=floor_c,
            target_c=aim_c,
            outdoor_c=outdoor_c,
            gain_w=np.array(gains_w),
            hours_of_fall=FALL_H,
        )

    return tuple(
        SetbackLeads(floor_c=floor_c, leads=tuple(lead(floor_c, outdoor_c) for outdoor_c in OUTDOORS_C))
        for floor_c in (aim_c - setback_k for setback_k in SETBACKS_K)
    )
