"""Sun position (G1), irradiance on a plane (G2) and clear sky (G5)."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import within
from warmeter.core.units import MS_PER_DAY

_J2000_MS = 946_728_000_000  # 2000-01-01 12:00 UTC


def sun_position(at_ms: Ints, *, latitude_deg: float, longitude_deg: float) -> tuple[Floats, Floats]:
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


def sun_height_deg(at_ms: Ints, *, latitude_deg: float, longitude_deg: float) -> Floats:
    """Return the elevation alone, as ``sun_position`` does but in half the time [deg]."""
    return np.degrees(np.arcsin(_sky(at_ms, latitude_deg, longitude_deg)[0]))


def _sky(at_ms: Ints, latitude_deg: float, longitude_deg: float) -> tuple[Floats, Floats, Floats, float]:
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


def clear_sky_w_m2(elevation_deg: Floats) -> Floats:
    """Return horizontal irradiance under a clear sky [W/m2]; 0 below the horizon.

    References
    ----------
    Haurwitz 1945; docs/methods G5.
    """
    sine = np.sin(np.radians(elevation_deg))
    safe = np.where(sine > 1e-6, sine, 1.0)
    return np.where(sine > 1e-6, 1098.0 * safe * np.exp(-0.059 / safe), 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaneIrradiance:
    """Irradiance on a plane by part [W/m2] and the cosine of incidence; shapes as the sun's."""

    cos_incidence: Floats
    beam_w_m2: Floats
    diffuse_w_m2: Floats
    ground_w_m2: Floats
    horizontal_w_m2: Floats

    @property
    def total_w_m2(self) -> Floats:
        """Sum of the parts [W/m2]."""
        return self.beam_w_m2 + self.diffuse_w_m2 + self.ground_w_m2


CLEAR_DIFFUSE_SHARE = 0.2  # of the horizontal irradiance under a clear sky
GROUND_ALBEDO = 0.2


def plane_irradiance(
    *,
    elevation_deg: Floats,
    azimuth_deg: Floats,
    tilt_deg: float,
    surface_azimuth_deg: float,
    direct_w_m2: Floats,
    diffuse_w_m2: Floats,
    albedo: float = GROUND_ALBEDO,
) -> PlaneIrradiance:
    """Return irradiance on a tilted plane under an isotropic sky, shapes as given.

    Parameters
    ----------
    elevation_deg, azimuth_deg : float arrays
        The sun's, azimuth from north clockwise [deg].
    tilt_deg, surface_azimuth_deg : float
        The plane's, from level and from north clockwise [deg].
    direct_w_m2, diffuse_w_m2 : float arrays
        On a plane across the beam, and from the whole sky on a level one [W/m2].

    References
    ----------
    Liu and Jordan 1960; docs/methods G2.
    """
    h, beta = np.radians(elevation_deg), np.radians(tilt_deg)
    away = np.radians(azimuth_deg - surface_azimuth_deg)
    cos_incidence = np.maximum(0.0, np.sin(h) * np.cos(beta) + np.cos(h) * np.sin(beta) * np.cos(away))
    direct = np.where(elevation_deg > 0, direct_w_m2, 0.0)
    horizontal = direct * np.sin(h) + diffuse_w_m2
    return PlaneIrradiance(
        cos_incidence=cos_incidence,
        beam_w_m2=direct * cos_incidence,
        diffuse_w_m2=diffuse_w_m2 * (1 + np.cos(beta)) / 2,
        ground_w_m2=albedo * horizontal * (1 - np.cos(beta)) / 2,
        horizontal_w_m2=horizontal,
    )


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
    return plane_irradiance(
        elevation_deg=elevation_deg,
        azimuth_deg=azimuth_deg,
        tilt_deg=90.0,
        surface_azimuth_deg=bearing_deg,
        direct_w_m2=direct,
        diffuse_w_m2=CLEAR_DIFFUSE_SHARE * horizontal,
    ).total_w_m2
