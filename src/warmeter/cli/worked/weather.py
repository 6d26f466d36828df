"""Worked examples of sun and sky (G)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.arrays import Floats
from warmeter.core.shading.window_gain import INCIDENCE, diffuse_share, overhang_shaded, split_level, window_gain_w
from warmeter.core.timegrid import parse_utc
from warmeter.core.weather.sun import clear_sky_w_m2, plane_irradiance, sun_position


def g1(i: Case) -> Case:
    """Sun position."""
    at = np.array([parse_utc(i["utc"])])
    elevation, azimuth = sun_position(at, latitude_deg=i["lat_deg"], longitude_deg=i["lon_deg_east"])
    return {"elevation_deg": float(elevation[0]), "azimuth_deg": float(azimuth[0])}


def g2(i: Case) -> Case:
    """Irradiance on a plane."""

    def one(key: str) -> Floats:
        return np.array([i[key]], dtype=np.float64)

    p = plane_irradiance(
        elevation_deg=one("sun_elevation_deg"),
        azimuth_deg=one("sun_azimuth_deg"),
        tilt_deg=i["tilt_deg"],
        surface_azimuth_deg=i["surface_azimuth_deg"],
        direct_w_m2=one("dni_W_m2"),
        diffuse_w_m2=one("dhi_W_m2"),
        albedo=i["albedo"],
    )
    found = {
        "cos_incidence": p.cos_incidence,
        "beam_W_m2": p.beam_w_m2,
        "diffuse_W_m2": p.diffuse_w_m2,
        "ground_W_m2": p.ground_w_m2,
        "total_W_m2": p.total_w_m2,
        "ghi_W_m2": p.horizontal_w_m2,
    }
    return {key: float(value[0]) for key, value in found.items()}


def g5(i: Case) -> Case:
    """Clear sky."""
    return {"ghi_W_m2": float(clear_sky_w_m2(np.array(i["sun_elevation_deg"], float)))}


def g3(i: Case) -> Case:
    """The sun's heat through a window."""
    gain = window_gain_w(
        np.array([i["irradiance_W_m2"]], dtype=np.float64),
        g_value=i["g"],
        area_m2=i["area_m2"],
        frame_share=i["frame_fraction"],
        lets=i["shade_factor"],
    )
    return {"gain_W": float(gain[0]) * i["incidence_factor"] / INCIDENCE}


def g4(i: Case) -> Case:
    """The share of a window that an overhang shades."""
    share, profile = overhang_shaded(
        elevation_deg=np.array([i["sun_elevation_deg"]], dtype=np.float64),
        azimuth_deg=np.array([i["sun_azimuth_deg"]], dtype=np.float64),
        wall_bearing_deg=i["wall_azimuth_deg"],
        depth_m=i["overhang_depth_m"],
        gap_m=i["gap_above_window_m"],
        height_m=i["window_height_m"],
    )
    known = None if np.isnan(profile[0]) else float(profile[0])
    return {"profile_deg": known, "shaded_fraction": float(share[0])}


def g6(i: Case) -> Case:
    """Beam and diffuse of the irradiance on a level plane."""
    level, elevation = (np.array([i[key]], dtype=np.float64) for key in ("ghi_W_m2", "sun_elevation_deg"))
    clearness, share = diffuse_share(level, elevation, i["day_of_year"])
    beam, diffuse = split_level(level, elevation, i["day_of_year"])
    return {
        "kt": float(clearness[0]),
        "diffuse_fraction": float(share[0]),
        "dhi_W_m2": float(diffuse[0]),
        "dni_W_m2": float(beam[0]),
    }


METHODS: dict[str, Callable[[Case], Case]] = {
    "G1.sun_position": g1,
    "G2.plane_irradiance": g2,
    "G5.clear_sky": g5,
    "G3.window_gain": g3,
    "G4.overhang": g4,
    "G6.diffuse_split": g6,
}
