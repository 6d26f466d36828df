"""Where things stand in a room: distances to heaters and walls, and the sun through its windows."""

from dataclasses import dataclass
from functools import lru_cache
from math import hypot

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.room_envelope import home_plan, wall_of
from warmeter.core.floor_plan.shape import Side, bounds, contains
from warmeter.core.floor_plan.walls import bearing_deg
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Opening, Room, Thing
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_MIN
from warmeter.core.weather.sun import sun_position

Box = tuple[float, float, float, float]
SUN_STEP_MIN = 10
LOWEST_SUN_DEG = 3.0
REFERENCE_YEAR_MS = 1_735_689_600_000  # 2025-01-01, a common year
WALL_NEAR_M = 0.15
# The 21st of each month, days into the year.
DAYS = (20, 51, 79, 110, 140, 171, 201, 232, 263, 293, 324, 354)
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def on_plan(room: Room, spot: Spot) -> tuple[float, float]:
    """Return a spot of a drawn room in plan coordinates [m]."""
    box = bounds(room.rects)
    return box.x_m + spot.x_m, box.y_m + spot.y_m


def is_inside(room: Room, spot: Spot) -> bool:
    """Return whether a spot lies in its drawn room, edges included."""
    return contains(room.rects, *on_plan(room, spot))


def nearest_side(room: Room, spot: Spot) -> Side:
    """Return the side of the room's drawing that a spot is nearest to."""
    box = bounds(room.rects)
    gaps: dict[Side, float] = {
        "up": spot.y_m,
        "down": box.depth_m - spot.y_m,
        "left": spot.x_m,
        "right": box.width_m - spot.x_m,
    }
    return min(gaps, key=lambda side: gaps[side])


def heater_box(room: Room, heater: Heater) -> Box | None:
    """Return the plan's box of a heater along its nearest wall [m]; None if it is not placed."""
    if heater.at is None or not room.is_drawn:
        return None
    x, y = on_plan(room, heater.at)
    along, across = heater.length_m / 2, 0.06
    if nearest_side(room, heater.at) in ("up", "down"):
        return x - along, y - across, x + along, y + across
    return x - across, y - along, x + across, y + along


def thing_box(room: Room, thing: Thing) -> Box:
    """Return the plan's box of a thing [m]."""
    x, y = on_plan(room, thing.at)
    return x - thing.width_m / 2, y - thing.depth_m / 2, x + thing.width_m / 2, y + thing.depth_m / 2


def box_distance_m(a: Box, b: Box) -> float:
    """Return the distance between two boxes, 0 where they meet [m]."""
    across = max(0.0, a[0] - b[2], b[0] - a[2])
    down = max(0.0, a[1] - b[3], b[1] - a[3])
    return hypot(across, down)


def outside_wall_at(home: Home, room: Room, spot: Spot) -> Side | None:
    """Return the side of the outside wall that a spot hangs on, None if on none."""
    x, y = on_plan(room, spot)
    for wall in home_plan(home)[room.id].walls:
        if wall.beyond:
            continue
        across, along = (y, x) if wall.side in ("up", "down") else (x, y)
        line = wall.stretch
        if abs(across - line.at_m) <= WALL_NEAR_M and line.start_m - 1e-6 <= along <= line.end_m + 1e-6:
            return wall.side
    return None


@lru_cache(maxsize=16)
def _suns(latitude_deg: float, longitude_deg: float) -> tuple[Ints, Floats, Floats]:
    """Return (instants [ms], elevation, azimuth [°]) of the 21st of every month, every ten minutes."""
    steps = MIN_PER_DAY // SUN_STEP_MIN
    at = np.concatenate(
        [
            REFERENCE_YEAR_MS + day * MS_PER_DAY + np.arange(steps, dtype=np.int64) * SUN_STEP_MIN * MS_PER_MIN
            for day in DAYS
        ]
    )
    elevation, azimuth = sun_position(at, latitude_deg=latitude_deg, longitude_deg=longitude_deg)
    return at, elevation, azimuth


@lru_cache(maxsize=16)
def _wall_minute(latitude_deg: float, longitude_deg: float, zone: str) -> Ints:
    """Return the minute of the home's day at each instant of ``_suns``."""
    return LocalClock(zone).local_minutes(_suns(latitude_deg, longitude_deg)[0])[1]


@lru_cache(maxsize=64)
def _facing(latitude_deg: float, longitude_deg: float, bearing: float) -> tuple[Ints, Floats, Floats]:
    """Return (places among the instants of ``_suns``, tan of the angle off the wall's normal, rise a metre of depth) while the
    sun stands before a wall of a bearing."""
    _, elevation, azimuth = _suns(latitude_deg, longitude_deg)
    away = np.radians(azimuth - bearing)
    place = np.flatnonzero((elevation > LOWEST_SUN_DEG) & (np.cos(away) > 1e-3))
    cosine = np.cos(away[place])
    return place, np.tan(away[place]), np.tan(np.radians(elevation[place])) / cosine


@dataclass(frozen=True, slots=True)
class Sunlit:
    """When the sun reaches a spot through a window: months and the span of hours by the home's clock."""

    opening_id: str
    months: tuple[int, ...]
    from_min: int
    to_min: int

    @property
    def sentence(self) -> str:
        """Months and hours in words."""
        names = [MONTHS[m] for m in self.months]
        named = names[0] if len(names) == 1 else f"{len(names)} months from {names[0]}"
        if len(names) > 1 and list(self.months) == list(range(self.months[0], self.months[-1] + 1)):
            named = f"{names[0]} to {names[-1]}"
        return f"{self.from_min // 60:02d}:{self.from_min % 60:02d} to {self.to_min // 60:02d}:{self.to_min % 60:02d}, {named}"


def sun_on_spot(home: Home, room: Room, spot: Spot) -> list[Sunlit]:
    """Return when the sun can reach a spot through each window of its room, the sky clear.

    A straight ray from the spot to the sun has to pass the window's opening below its overhang; other
    buildings and trees are not known. Directions by G1, tried every ten minutes of the 21st of each month.
    """
    return [lit for o in home.openings_of(room.id) if o.kind == "window" and (lit := _through(home, room, spot, o))]


def _through(home: Home, room: Room, spot: Spot, window: Opening) -> Sunlit | None:
    wall, _ = wall_of(home, window)
    if wall is None or wall.beyond:
        return None
    bearing = bearing_deg(window.side, home.design.north_deg)
    place, sideways, slope = _facing(home.place.latitude_deg, home.place.longitude_deg, bearing)
    box = bounds(room.rects)
    x, y = on_plan(room, spot)
    level = window.side in ("up", "down")
    depth = abs((y if level else x) - wall.stretch.at_m)
    # Looking out through the wall, a sun to the right shifts the ray along +x for the upper side, along +y for
    # the right one, and the other way round for the other two.
    sign = 1.0 if window.side in ("up", "right") else -1.0
    along = (x if level else y) + sign * depth * sideways
    height = spot.z_m + depth * slope
    middle = window.along_m + (box.x_m if level else box.y_m)
    top = window.sill_m + window.height_m
    hit = (np.abs(along - middle) <= window.width_m / 2) & (height >= window.sill_m) & (height <= top)
    if window.overhang_m:
        hit &= height <= top + window.overhang_gap_m - window.overhang_m * slope
    if not hit.any():
        return None
    minutes = _wall_minute(home.place.latitude_deg, home.place.longitude_deg, home.time_zone)[place[hit]]
    months = sorted({int(k) // (MIN_PER_DAY // SUN_STEP_MIN) for k in place[hit]})
    return Sunlit(window.id, tuple(months), int(minutes.min()), int(minutes.max()) + SUN_STEP_MIN)
