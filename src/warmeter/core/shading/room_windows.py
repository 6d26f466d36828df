"""A room's windows under the sun of a log or of a clear sky."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.room_envelope import wall_of
from warmeter.core.floor_plan.walls import bearing_deg
from warmeter.core.home.document import Home
from warmeter.core.home.presets import BUILT
from warmeter.core.home.rooms import BlindPlace, Opening, Room
from warmeter.core.shading.window_gain import WindowPlane, split_level
from warmeter.core.units import MS_PER_DAY
from warmeter.core.weather.sun import CLEAR_DIFFUSE_SHARE, clear_sky_w_m2, plane_irradiance, sun_position

# Share of the sun that a blind wholly down lets through: usual, and its ends (G3).
BLIND_LETS: dict[BlindPlace, tuple[float, float, float]] = {
    "none": (1.0, 1.0, 1.0),
    "inside": (0.7, 0.6, 0.8),
    "between": (0.35, 0.3, 0.4),
    "outside": (0.17, 0.1, 0.25),
}
G_DOUBT = 0.1  # of a g-value that only the building's age tells (ratio)
ON_IT_W_M2 = 50.0  # a beam of more stands on a window


def blind_lets(opening: Opening) -> tuple[float, float, float]:
    """Return the share of the sun that a window's blind lets through when down, with its ends (ratios)."""
    return BLIND_LETS[opening.blind] if opening.blind_lets is None else (opening.blind_lets,) * 3


def window_plane(home: Home, opening: Opening, lets: float | None = None) -> WindowPlane | None:
    """Return a window as the sun meets it; None for a door, and where its wall is no outside wall.

    ``lets`` is what its blind lets through; as surveyed if None.
    """
    if opening.kind != "window":
        return None
    wall, _ = wall_of(home, opening)
    if wall is None or wall.beyond:
        return None
    g_value = BUILT[home.room(opening.room_id).built].g_value if opening.g_value is None else opening.g_value
    return WindowPlane(
        bearing_deg=bearing_deg(opening.side, home.design.north_deg),
        area_m2=opening.area_m2,
        height_m=opening.height_m,
        g_value=g_value,
        frame_share=opening.frame_share,
        lets=opening.shade,
        overhang_m=opening.overhang_m,
        overhang_gap_m=opening.overhang_gap_m,
        blind_lets=1.0 if opening.blind == "none" else blind_lets(opening)[0] if lets is None else lets,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SkyOverTime:
    """The sun's place [deg], the beam across it and the diffuse on the level [W/m2] at instants; one shape."""

    elevation_deg: Floats
    azimuth_deg: Floats
    beam_w_m2: Floats
    diffuse_w_m2: Floats


def sky_at(home: Home, at_ms: Ints, level_w_m2: Floats | None = None) -> SkyOverTime:
    """Return the sky at instants: of a clear day, or as measured on the level [W/m2] (NaN where not heard)."""
    elevation, azimuth = sun_position(
        at_ms, latitude_deg=home.place.latitude_deg, longitude_deg=home.place.longitude_deg
    )
    if level_w_m2 is not None:
        day = (at_ms // MS_PER_DAY % 365.25) + 1  # 1970 began a year; a day off is nothing here
        beam, diffuse = split_level(level_w_m2, elevation, day.astype(np.float64))
        return SkyOverTime(elevation_deg=elevation, azimuth_deg=azimuth, beam_w_m2=beam, diffuse_w_m2=diffuse)
    level, sine = clear_sky_w_m2(elevation), np.sin(np.radians(elevation))
    beam = np.where(sine > 1e-6, (1 - CLEAR_DIFFUSE_SHARE) * level / np.where(sine > 1e-6, sine, 1.0), 0.0)
    return SkyOverTime(
        elevation_deg=elevation, azimuth_deg=azimuth, beam_w_m2=beam, diffuse_w_m2=CLEAR_DIFFUSE_SHARE * level
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class WindowGains:
    """A window's gain with its blind up and wholly down [W], and where the beam stands on it; shapes as the sky's."""

    opening: Opening
    up_w: Floats
    down_w: Floats
    is_sunlit: Floats


def window_gains(home: Home, opening: Opening, sky: SkyOverTime, lets: float | None = None) -> WindowGains | None:
    """Return a window's gains under a sky; None where it is no window in an outside wall."""
    plane = window_plane(home, opening, lets)
    if plane is None:
        return None
    sun = plane_irradiance(
        elevation_deg=sky.elevation_deg,
        azimuth_deg=sky.azimuth_deg,
        tilt_deg=90.0,
        surface_azimuth_deg=plane.bearing_deg,
        direct_w_m2=sky.beam_w_m2,
        diffuse_w_m2=sky.diffuse_w_m2,
    )
    return WindowGains(
        opening=opening,
        up_w=plane.gain_w(sun, sky.elevation_deg, sky.azimuth_deg, 0.0),
        down_w=plane.gain_w(sun, sky.elevation_deg, sky.azimuth_deg, 1.0),
        is_sunlit=(sun.beam_w_m2 > ON_IT_W_M2).astype(np.float64),
    )


def room_gains(home: Home, room: Room, sky: SkyOverTime, lets: float | None = None) -> list[WindowGains]:
    """Return the gains of each of a room's windows in outside walls."""
    found = (window_gains(home, opening, sky, lets) for opening in home.openings_of(room.id))
    return [gains for gains in found if gains is not None]


def gain_ends(opening: Opening) -> tuple[float, float]:
    """Return by which factors a window's gain with its blind down may differ from what is worked out.

    The doubts of its glass and of its blind are taken as independent.
    """
    usual, low, high = blind_lets(opening)
    glass = 0.0 if opening.g_value is not None else G_DOUBT
    below, above = (usual - low) / usual if usual else 0.0, (high - usual) / usual if usual else 0.0
    return max(0.0, 1 - (glass**2 + below**2) ** 0.5), 1 + (glass**2 + above**2) ** 0.5
