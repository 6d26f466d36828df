"""Figures of the sun through windows with their working: a day's heat through one, with its blind up and down."""

from datetime import date

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import HomeError
from warmeter.core.figure import Figure, Input
from warmeter.core.home.document import Home
from warmeter.core.shading.room_windows import blind_lets, gain_ends, sky_at, window_gains, window_plane
from warmeter.core.shading.window_gain import INCIDENCE
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, MS_PER_S

SUN_STEP_S = 600
# Where the sun stands is known so well only within these years (G1).
FIRST_YEAR, LAST_YEAR = 1950, 2050


def is_day_of_sun(on: date) -> bool:
    """Whether the sun's place is known on a date."""
    return FIRST_YEAR <= on.year <= LAST_YEAR


def day_grid(home: Home, on: date) -> Ints:
    """Return the middles of a local day's steps of ten minutes [ms UTC]."""
    day = LocalClock(home.time_zone).day(on)
    step = SUN_STEP_S * MS_PER_S
    return np.arange(day.start_ms + step // 2, day.end_ms, step, dtype=np.int64)


def energy_kwh(watts: Floats) -> float:
    """Return the energy of a power by steps of ten minutes [kWh]."""
    return float(watts.sum()) * SUN_STEP_S / J_PER_KWH


def sun_figure(home: Home, key: str) -> Figure:
    """Return the figure of a key, ``<up or down>.<date>.<window>``: the heat of a clear day through a window.

    Raises
    ------
    HomeError
        If there is no such figure.
    """
    way, _, rest = key.partition(".")
    day, _, opening_id = rest.partition(".")
    if way not in ("up", "down"):
        raise HomeError("there is no such figure of the sun")
    opening = home.opening(opening_id)
    plane = window_plane(home, opening)
    try:
        on = date.fromisoformat(day)
    except ValueError as error:
        raise HomeError(f"{day!r} is no date") from error
    if not is_day_of_sun(on):
        raise HomeError(f"the sun is worked out for the years {FIRST_YEAR} to {LAST_YEAR}")
    at = day_grid(home, on)
    gains = window_gains(home, opening, sky_at(home, at))
    if plane is None or gains is None:
        raise HomeError("this is no window in an outside wall")
    watts = gains.up_w if way == "up" else gains.down_w
    most = int(watts.argmax())
    down = 0.0 if way == "up" else 1.0
    lets = plane.lets * (1 - down * (1 - plane.blind_lets))
    factor = INCIDENCE * plane.g_value * plane.area_m2 * (1 - plane.frame_share) * lets
    arriving = float(watts[most]) / factor if factor else 0.0
    low, high = gain_ends(opening)
    energy = energy_kwh(watts)
    return Figure(
        key=key,
        title=f"The sun through the window, its blind {'up' if way == 'up' else 'wholly down'}, on a clear {on:%-d %B}",
        unit="kWh",
        value=energy,
        low=energy * low if way == "down" else None,
        high=energy * high if way == "down" else None,
        decimals=1,
        formula="Q = Σ Φ Δt,  Φ = 0.9 · g · A · (1 − f) · F · I",
        substituted=f"at its most {INCIDENCE:g} · {plane.g_value:.2f} · {plane.area_m2:.2f} · {1 - plane.frame_share:.2f} · "
        f"{lets:.2f} · {arriving:.0f} = {float(watts[most]):.0f} W",
        method="G3 window gain; G2 the sun on its plane; G4 its overhang; G5 a clear sky",
        inputs=(
            Input(
                symbol="g",
                name="of the glass",
                value=plane.g_value,
                unit="",
                decimals=2,
                origin="assumed" if opening.g_value is None else "surveyed",
            ),
            Input(
                symbol="A", name="area with its frame", value=plane.area_m2, unit="m²", decimals=2, origin="surveyed"
            ),
            Input(
                symbol="f", name="share of the frame", value=plane.frame_share, unit="", decimals=2, origin="surveyed"
            ),
            Input(
                symbol="F",
                name="that shade and blind let through",
                value=lets,
                unit="",
                decimals=2,
                origin="assumed" if opening.blind_lets is None and blind_lets(opening)[0] < 1 else "surveyed",
            ),
            Input(
                symbol="I", name="sun on it at its most", value=arriving, unit="W/m²", decimals=0, origin="worked out"
            ),
        ),
        note="Neighbours' houses and trees are not known: what always stands before it belongs into its shade.",
    )
