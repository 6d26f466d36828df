"""Worked examples of sun and sky (G)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.timegrid import parse_utc
from warmeter.core.weather.sun import clear_sky_w_m2, overhang_shade, plane_irradiance, sun_position, window_gain_w


def g1(i: Case) -> Case:
    """Sun position."""
    at = np.array([parse_utc(i["utc"])])
    elevation, azimuth = sun_position(at, latitude_deg=i["lat_deg"], longitude_deg=i["lon_deg_east"])
    return {"elevation_deg": float(elevation[0]), "azimuth_deg": float(azimuth[0])}


def g2(i: Case) -> Case:
    """Irradiance on a plane."""
    p = plane_irradiance(
        elevation_deg=i["sun_elevation_deg"],
        azimuth_deg=i["sun_azimuth_deg"],
        tilt_deg=i["tilt_deg"],
        surface_azimuth_deg=i["surface_azimuth_deg"],
        direct_w_m2=i["dni_W_m2"],
        diffuse_w_m2=i["dhi_W_m2"],
        albedo=i["albedo"],
    )
    return {
        "cos_incidence": p.cos_incidence,
        "beam_W_m2": p.beam_w_m2,
        "diffuse_W_m2": p.diffuse_w_m2,
        "ground_W_m2": p.ground_w_m2,
        "total_W_m2": p.total_w_m2,
        "ghi_W_m2": p.horizontal_w_m2,
    }


def g3(i: Case) -> Case:
    """Window gain."""
    gain = window_gain_w(
        g_value=i["g"],
        area_m2=i["area_m2"],
        frame_fraction=i["frame_fraction"],
        shade_factor=i["shade_factor"],
        incidence_factor=i["incidence_factor"],
        irradiance_w_m2=i["irradiance_W_m2"],
    )
    return {"gain_W": gain}


def g5(i: Case) -> Case:
    """Clear sky."""
    return {"ghi_W_m2": float(clear_sky_w_m2(np.array(i["sun_elevation_deg"], float)))}


def g4(i: Case) -> Case:
    """Overhang."""
    profile, shaded = overhang_shade(
        elevation_deg=i["sun_elevation_deg"],
        azimuth_deg=i["sun_azimuth_deg"],
        wall_azimuth_deg=i["wall_azimuth_deg"],
        height_m=i["window_height_m"],
        depth_m=i["overhang_depth_m"],
        gap_m=i["gap_above_window_m"],
    )
    return {"profile_deg": profile, "shaded_fraction": shaded}


METHODS: dict[str, Callable[[Case], Case]] = {
    "G1.sun_position": g1,
    "G2.plane_irradiance": g2,
    "G3.window_gain": g3,
    "G4.overhang": g4,
    "G5.clear_sky": g5,
}
