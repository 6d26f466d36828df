"""The sun's heat through a window, with its overhang and its blind (G2 to G4, G6)."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.weather.sun import PlaneIrradiance

INCIDENCE = 0.9  # glass lets less through at a slant than its g-value says
SOLAR_CONSTANT_W_M2 = 1361.1
LOWEST_SUN_DEG = 5.0  # below it a beam worked out from the level plane is no beam
# Erbs: diffuse share by clearness, straight up to the first, held from the second on.
_CLOUDY, _CLEAR, _CLEAR_SHARE = 0.22, 0.8, 0.165
_ERBS = (0.9511, -0.1604, 4.388, -16.638, 12.336)


def window_gain_w(
    irradiance_w_m2: Floats, *, g_value: float, area_m2: float, frame_share: float, lets: Floats | float = 1.0
) -> Floats:
    """Return the sun's heat through a window, shape as given [W].

    Parameters
    ----------
    irradiance_w_m2 : float array
        On the window's plane, not below 0 [W/m2].
    g_value, frame_share : float
        Of the glass, and the frame's share of the area (ratios).
    area_m2 : float
        With its frame [m2].
    lets : float array or float
        Share that shade and blind let through, 0 to 1.

    References
    ----------
    docs/methods G3.
    """
    return INCIDENCE * g_value * area_m2 * (1 - frame_share) * lets * irradiance_w_m2


def overhang_shaded(
    *,
    elevation_deg: Floats,
    azimuth_deg: Floats,
    wall_bearing_deg: float,
    depth_m: float,
    gap_m: float,
    height_m: float,
) -> tuple[Floats, Floats]:
    """Return (share of the window that an overhang shades, profile angle [deg]), shapes as given.

    The sun behind the wall or below the horizon shades all, and has no profile angle (NaN). The overhang is taken to
    be wide; only the beam is shaded.

    References
    ----------
    docs/methods G4.
    """
    away = np.radians((azimuth_deg - wall_bearing_deg + 180) % 360 - 180)
    before = (np.abs(away) < np.pi / 2) & (elevation_deg > 0)
    with np.errstate(all="ignore"):
        slope = np.tan(np.radians(elevation_deg)) / np.cos(away)
    share = np.clip((depth_m * np.where(before, slope, 0.0) - gap_m) / height_m, 0.0, 1.0)
    return np.where(before, share, 1.0), np.where(before, np.degrees(np.arctan(slope)), np.nan)


def diffuse_share(level_w_m2: Floats, elevation_deg: Floats, day_of_year: Floats | float) -> tuple[Floats, Floats]:
    """Return (clearness, diffuse share) of the irradiance on a level plane, shapes as given (ratios).

    References
    ----------
    Erbs 1982; docs/methods G6.
    """
    sine = np.sin(np.radians(elevation_deg))
    beyond = SOLAR_CONSTANT_W_M2 * (1 + 0.033 * np.cos(2 * np.pi * np.asarray(day_of_year) / 365))
    with np.errstate(all="ignore"):
        clearness = np.where(sine > 0, np.minimum(1.0, level_w_m2 / (beyond * sine)), 0.0)
    between = sum(factor * clearness**power for power, factor in enumerate(_ERBS))
    share = np.where(clearness <= _CLOUDY, 1 - 0.09 * clearness, np.where(clearness <= _CLEAR, between, _CLEAR_SHARE))
    return clearness, share


def split_level(level_w_m2: Floats, elevation_deg: Floats, day_of_year: Floats | float) -> tuple[Floats, Floats]:
    """Return (beam across the sun, diffuse on a level plane) of the irradiance on a level plane [W/m2].

    Of a sun lower than 5° all is taken as diffuse.

    References
    ----------
    docs/methods G6.
    """
    _, share = diffuse_share(level_w_m2, elevation_deg, day_of_year)
    is_low = elevation_deg < LOWEST_SUN_DEG
    diffuse = np.where(is_low, level_w_m2, share * level_w_m2)
    sine = np.sin(np.radians(elevation_deg))
    return np.where(is_low, 0.0, (level_w_m2 - diffuse) / np.where(is_low, 1.0, sine)), diffuse


@dataclass(frozen=True, slots=True, kw_only=True)
class WindowPlane:
    """A window as the sun meets it: where it faces [deg], its glass and frame, and what hangs over it.

    ``lets`` is the share that what always stands before it lets through, ``blind_lets`` that of its blind when it is
    wholly down; 1 without a blind.
    """

    bearing_deg: float
    area_m2: float
    height_m: float
    g_value: float
    frame_share: float
    lets: float
    overhang_m: float
    overhang_gap_m: float
    blind_lets: float

    def gain_w(self, sun: PlaneIrradiance, elevation_deg: Floats, azimuth_deg: Floats, down: Floats | float) -> Floats:
        """Return the sun's heat through it with its blind so far ``down`` (0 to 1), shapes as the sun's [W]."""
        shaded = np.zeros(elevation_deg.shape)
        if self.overhang_m:
            shaded, _ = overhang_shaded(
                elevation_deg=elevation_deg,
                azimuth_deg=azimuth_deg,
                wall_bearing_deg=self.bearing_deg,
                depth_m=self.overhang_m,
                gap_m=self.overhang_gap_m,
                height_m=self.height_m,
            )
        arriving = sun.beam_w_m2 * (1 - shaded) + sun.diffuse_w_m2 + sun.ground_w_m2
        return window_gain_w(
            arriving,
            g_value=self.g_value,
            area_m2=self.area_m2,
            frame_share=self.frame_share,
            lets=self.lets * (1 - np.asarray(down) * (1 - self.blind_lets)),
        )
