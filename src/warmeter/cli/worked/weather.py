"""Worked examples of sun and sky (G)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.arrays import Floats
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


METHODS: dict[str, Callable[[Case], Case]] = {"G1.sun_position": g1, "G2.plane_irradiance": g2, "G5.clear_sky": g5}
