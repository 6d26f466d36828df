"""Sun position (G1), irradiance on a plane (G2), window gain (G3) and clear sky (G5)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import OutOfRange, within
from warmeter.core.units import MS_PER_DAY

Floats = NDArray[np.float64]
_J2000_MS = 946_728_000_000  # 2000-01-01 12:00 UTC


def sun_position(at_ms: NDArray[np.int64], *, latitude_deg: float, longitude_deg: float) -> tuple[Floats, Floats]:
    """Return (elevation, azimuth from north clockwise) [deg], shapes as ``at_ms``.

    Parameters
    ----------
    at_ms : int array
        Instants [ms UTC]; good to about 0.05° for 1950 to 2050.
    latitude_deg, longitude_deg : float
        North and east positive.

    References
    ----------
    Astronomical Almanac low-precision formula; Michalsky 1988; docs/methods G1. No refraction.
    """
    sine, declination, hour_angle, phi = _sky(at_ms, latitude_deg, longitude_deg)
    azimuth = np.arctan2(
        -np.cos(declination) * np.sin(hour_angle),
        np.sin(declination) * np.cos(phi) - np.cos(declination) * np.sin(phi) * np.cos(hour_angle),
    )
    return np.degrees(np.arcsin(sine)), np.degrees(azimuth) % 360


def sun_height_deg(at_ms: NDArray[np.int64], *, latitude_deg: float, longitude_deg: float) -> Floats:
    """Return the elevation alone, as ``sun_position`` does but in half the time [deg]."""
    return np.degrees(np.arcsin(_sky(at_ms, latitude_deg, longitude_deg)[0]))


def _sky(at_ms: NDArray[np.int64], latitude_deg: float, longitude_deg: float) -> tuple[Floats, Floats, Floats, float]:
    """Return the sine of the elevation, declination, hour angle and latitude [rad]."""
    within("latitude", latitude_deg, -90, 90, "°")
    within("longitude", longitude_deg, -180, 180, "°")
    n = (at_ms - _J2000_MS) / MS_PER_DAY
    mean_longitude = 280.460 + 0.9856474 * n
    g = np.radians(357.528 + 0.9856003 * n)
    ecliptic = np.radians(mean_longitude + 1.915 * np.sin(g) + 0.020 * np.sin(2 * g))
    obliquity = np.radians(23.439 - 4e-7 * n)
    right_ascension = np.arctan2(np.cos(obliquity) * np.sin(ecliptic), np.cos(ecliptic))
    declination = np.arcsin(np.sin(obliquity) * np.sin(ecliptic))
    hour_angle = np.radians(280.46062 + 360.98564737 * n + longitude_deg) - right_ascension
    phi = np.radians(latitude_deg)
    sine = np.sin(phi) * np.sin(declination) + np.cos(phi) * np.cos(declination) * np.cos(hour_angle)
    return sine, declination, hour_angle, float(phi)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaneIrradiance:
    """Irradiance on a plane by part [W/m2] and the cosine of incidence."""

    cos_incidence: float
    beam_w_m2: float
    diffuse_w_m2: float
    ground_w_m2: float
    horizontal_w_m2: float

    @property
    def total_w_m2(self) -> float:
        """Sum of the parts [W/m2]."""
        return self.beam_w_m2 + self.diffuse_w_m2 + self.ground_w_m2


def plane_irradiance(
    *,
    elevation_deg: float,
    azimuth_deg: float,
    tilt_deg: float,
    surface_azimuth_deg: float,
    direct_w_m2: float,
    diffuse_w_m2: float,
    albedo: float = 0.2,
) -> PlaneIrradiance:
    """Return irradiance on a tilted plane under an isotropic sky.

    References
    ----------
    Liu and Jordan 1960; docs/methods G2.
    """
    h, beta = np.radians(elevation_deg), np.radians(tilt_deg)
    away = np.radians(azimuth_deg - surface_azimuth_deg)
    cos_incidence = max(0.0, float(np.sin(h) * np.cos(beta) + np.cos(h) * np.sin(beta) * np.cos(away)))
    direct = direct_w_m2 if elevation_deg > 0 else 0.0
    horizontal = direct * float(np.sin(h)) + diffuse_w_m2
    return PlaneIrradiance(
        cos_incidence=cos_incidence,
        beam_w_m2=direct * cos_incidence,
        diffuse_w_m2=diffuse_w_m2 * (1 + float(np.cos(beta))) / 2,
        ground_w_m2=albedo * horizontal * (1 - float(np.cos(beta))) / 2,
        horizontal_w_m2=horizontal,
    )


def window_gain_w(
    *,
    g_value: float,
    area_m2: float,
    frame_fraction: float,
    shade_factor: float,
    irradiance_w_m2: float,
    incidence_factor: float = 0.9,
) -> float:
    """Return the sun's heat through a window [W] (docs/methods G3, idea of ISO 52016-1).

    Raises
    ------
    OutOfRange
        If the area is negative or a ratio is not between 0 and 1.
    """
    if area_m2 < 0:
        raise OutOfRange("window area", area_m2, 0.0, 1000.0, "m2")
    for name, ratio in (("g-value", g_value), ("frame fraction", frame_fraction), ("shading", shade_factor)):
        within(name, ratio, 0.0, 1.0)
    return incidence_factor * g_value * area_m2 * (1 - frame_fraction) * shade_factor * irradiance_w_m2


def clear_sky_w_m2(elevation_deg: Floats) -> Floats:
    """Return horizontal irradiance under a clear sky [W/m2]; 0 below the horizon.

    References
    ----------
    Haurwitz 1945; docs/methods G5.
    """
    sine = np.sin(np.radians(elevation_deg))
    safe = np.where(sine > 1e-6, sine, 1.0)
    return np.where(sine > 1e-6, 1098.0 * safe * np.exp(-0.059 / safe), 0.0)


CLEAR_DIFFUSE_SHARE = 0.2  # of the horizontal irradiance under a clear sky
GROUND_ALBEDO = 0.2


def clear_sky_on_wall_w_m2(elevation_deg: Floats, azimuth_deg: Floats, bearing_deg: float) -> Floats:
    """Return irradiance on a vertical plane under a clear sky, shapes as given [W/m2].

    Parameters
    ----------
    elevation_deg, azimuth_deg : float arrays
        The sun's, azimuth from north clockwise [deg].
    bearing_deg : float
        Where the plane faces, from north clockwise [deg].

    Notes
    -----
    G5 for the horizontal plane, a fifth of it diffuse; G2 for the vertical one.
    """
    horizontal = clear_sky_w_m2(elevation_deg)
    sine = np.sin(np.radians(elevation_deg))
    direct = np.where(sine > 1e-6, (1 - CLEAR_DIFFUSE_SHARE) * horizontal / np.where(sine > 1e-6, sine, 1.0), 0.0)
    away = np.cos(np.radians(elevation_deg)) * np.cos(np.radians(azimuth_deg - bearing_deg))
    around = 0.5 * (CLEAR_DIFFUSE_SHARE + GROUND_ALBEDO) * horizontal
    return np.asarray(direct * np.maximum(away, 0.0) + around, dtype=np.float64)


def overhang_shade(
    *,
    elevation_deg: float,
    azimuth_deg: float,
    wall_azimuth_deg: float,
    height_m: float,
    depth_m: float,
    gap_m: float = 0.0,
) -> tuple[float | None, float]:
    """Return (profile angle [°] or None, share of a window's beam that an endless overhang shades).

    A sun below the horizon or behind the wall has no profile angle and shades all.

    References
    ----------
    Geometry; docs/methods G4.
    """
    away = (azimuth_deg - wall_azimuth_deg + 180) % 360 - 180
    if elevation_deg <= 0 or abs(away) >= 90:
        return None, 1.0
    tangent = float(np.tan(np.radians(elevation_deg)) / np.cos(np.radians(away)))
    profile = float(np.degrees(np.arctan(tangent)))
    return profile, float(np.clip((depth_m * tangent - gap_m) / height_m, 0.0, 1.0))
