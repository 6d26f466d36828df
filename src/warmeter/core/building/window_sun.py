"""The sun that stands on a room's windows under a clear sky."""

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.room_envelope import wall_of
from warmeter.core.floor_plan.walls import bearing_deg
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.weather.sun import clear_sky_on_wall_w_m2, sun_position


def windows_w_m2(home: Home, room: Room, at_ms: Ints) -> Floats | None:
    """Return the mean clear-sky irradiance over a room's windows, by their areas, shape as ``at_ms`` [W/m2].

    None for a room whose drawing has no window in an outside wall.
    """
    areas: dict[float, float] = {}
    for opening in home.openings_of(room.id):
        wall, _ = wall_of(home, opening)
        if opening.kind == "window" and wall is not None and not wall.beyond:
            bearing = bearing_deg(opening.side, home.design.north_deg)
            areas[bearing] = areas.get(bearing, 0.0) + opening.area_m2
    if not areas:
        return None
    elevation, azimuth = sun_position(
        at_ms, latitude_deg=home.place.latitude_deg, longitude_deg=home.place.longitude_deg
    )
    total = np.zeros(at_ms.size)
    for bearing, area in areas.items():
        total += area * clear_sky_on_wall_w_m2(elevation, azimuth, bearing)
    return total / sum(areas.values())
