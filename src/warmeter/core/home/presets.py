"""What the age and make of a building say of its rooms: envelope, first levels, a first day.

U-values and air change are the middle of docs/methods A1's working presets; a survey or a log overrides them.
"""

from dataclasses import dataclass
from math import sqrt

from warmeter.core.home.document import Built, ChangePoint, HeaterKind, Level, Room
from warmeter.core.thermal.survey import Element, RoomRc, room_from_survey


@dataclass(frozen=True, slots=True, kw_only=True)
class BuiltPreset:
    """Middle U-values [W/(m2 K)] and air change at 50 Pa [1/h] of a building age."""

    label: str
    wall: float
    roof: float
    floor: float
    window: float
    n50_1_h: float


BUILT: dict[Built, BuiltPreset] = {
    "before_1920": BuiltPreset(
        label="before 1920, solid masonry", wall=1.8, roof=1.9, floor=0.95, window=5.3, n50_1_h=11
    ),
    "1920_1949": BuiltPreset(
        label="1920 to 1949, empty cavity", wall=1.5, roof=1.6, floor=0.85, window=4.75, n50_1_h=10
    ),
    "1950_1977": BuiltPreset(label="1950 to 1977", wall=1.3, roof=1.0, floor=0.85, window=3.0, n50_1_h=8),
    "1978_1994": BuiltPreset(label="1978 to 1994", wall=0.65, roof=0.4, floor=0.57, window=2.8, n50_1_h=6.5),
    "1995_2006": BuiltPreset(label="1995 to 2006", wall=0.4, roof=0.25, floor=0.35, window=1.7, n50_1_h=4.5),
    "2007_2015": BuiltPreset(label="2007 to 2015", wall=0.25, roof=0.18, floor=0.23, window=1.3, n50_1_h=2.8),
    "2016_on": BuiltPreset(label="2016 and later", wall=0.18, roof=0.12, floor=0.16, window=1.0, n50_1_h=1.8),
    "very_low_energy": BuiltPreset(label="very low energy", wall=0.12, roof=0.1, floor=0.12, window=0.7, n50_1_h=0.4),
}
MASS_LABEL = {
    "very_light": "very light (tent, caravan)",
    "light": "light (timber, plasterboard)",
    "medium": "medium (mixed)",
    "heavy": "heavy (brick, concrete floors)",
    "very_heavy": "very heavy (thick masonry all round)",
}
CONVECTIVE: dict[HeaterKind, float] = {"electric_panel": 0.7, "radiator": 0.65, "warm_floor": 0.45, "fan_unit": 1.0}
# First guesses of how late a heater gives its heat [s]; a log overrides them.
LAG_S: dict[HeaterKind, float] = {"electric_panel": 300.0, "radiator": 900.0, "warm_floor": 5400.0, "fan_unit": 120.0}
HEATER_LABEL: dict[HeaterKind, str] = {
    "electric_panel": "electric panel heater",
    "radiator": "radiator",
    "warm_floor": "warm floor",
    "fan_unit": "fan unit",
}
WINDOW_SHARE = 0.2  # of each outside wall
SHELTER = 0.05  # e times 2 of docs/methods A4: n_inf = n50 x 0.05 for moderate shelter
LEAST_AIR_CHANGE_1_H = 0.5


def air_change_1_h(built: Built) -> float:
    """Return the air change of a building age [1/h]: leaks, or the least that people need."""
    return max(LEAST_AIR_CHANGE_1_H, SHELTER * BUILT[built].n50_1_h)


def envelope(room: Room) -> tuple[list[Element], list[Element]]:
    """Return (windows, opaque elements) of a room taken as square, a fifth of outside walls glass."""
    preset = BUILT[room.built]
    wall = sqrt(room.floor_area_m2) * room.height_m * max(room.outside_walls, 0)
    windows = [Element(name="windows", area_m2=WINDOW_SHARE * wall, u_w_m2k=preset.window)]
    opaque = [Element(name="outside walls", area_m2=(1 - WINDOW_SHARE) * wall, u_w_m2k=preset.wall)]
    if room.has_roof:
        opaque.append(Element(name="roof", area_m2=room.floor_area_m2, u_w_m2k=preset.roof))
    if room.has_ground_floor:
        opaque.append(Element(name="ground floor", area_m2=room.floor_area_m2, u_w_m2k=0.5 * preset.floor))
    # A room inside the home still loses a little through what surrounds it.
    opaque.append(Element(name="inner surfaces", area_m2=0.1 * room.floor_area_m2, u_w_m2k=0.2))
    return windows, opaque


def surveyed_room(room: Room, heater: HeaterKind | None = None) -> RoomRc:
    """Return a room's stores and conductances by its survey; right within about 30 %."""
    windows, opaque = envelope(room)
    plain = room_from_survey(
        floor_area_m2=room.floor_area_m2,
        volume_m3=room.floor_area_m2 * room.height_m,
        air_change_1_h=air_change_1_h(room.built),
        windows=windows,
        opaque=opaque,
        mass_class=room.mass_class,
    )
    if heater is None:
        return plain
    return RoomRc(
        air_out_w_k=plain.air_out_w_k,
        air_fabric_w_k=plain.air_fabric_w_k,
        fabric_out_w_k=plain.fabric_out_w_k,
        # Furniture and surfaces answer with the air, so the prompt store is about twice the air's own.
        air_j_k=2.0 * plain.air_j_k,
        fabric_j_k=plain.fabric_j_k,
        emitter_lag_s=LAG_S[heater],
        convective=CONVECTIVE[heater],
    )


FIRST_LEVELS = (
    Level(id="in-use", name="In use", heating_c=20.0),
    Level(id="asleep", name="Asleep", heating_c=17.0),
    Level(id="out", name="Out", heating_c=17.0),
    Level(id="idle", name="Idle", heating_c=14.0),
)
FIRST_DAY = (
    ChangePoint(start_min=0, level_id="asleep"),
    ChangePoint(start_min=420, level_id="in-use"),
    ChangePoint(start_min=1350, level_id="asleep"),
)
