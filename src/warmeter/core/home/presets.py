"""What the age, make and use of a building say of its rooms, until a survey or a log overrules it.

U-values, g-values and air change are docs/methods A1's working presets as (low, usual, high).
"""

from dataclasses import dataclass

from warmeter.core.home.machines import Asking, MachineKind
from warmeter.core.home.plant import HeaterKind
from warmeter.core.home.rooms import Built, RoomUse
from warmeter.core.home.rules import Loudness, RuleKind
from warmeter.core.home.timetables import ChangePoint, DayKind
from warmeter.core.home.zones import Level
from warmeter.core.sensing.calibration import CountRule
from warmeter.core.thermal.survey import MassClass


@dataclass(frozen=True, slots=True)
class Span:
    """A usual value with the ends of what is common."""

    low: float
    usual: float
    high: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BuiltPreset:
    """U-values [W/(m2 K)], g-value (ratio) and air change at 50 Pa [1/h] of a building age."""

    label: str
    wall: Span
    roof: Span
    floor: Span
    window: Span
    door: Span
    n50_1_h: Span
    g_value: float


def _preset(
    label: str,
    wall: tuple[float, float],
    roof: tuple[float, float],
    floor: tuple[float, float],
    window: tuple[float, float],
    door: tuple[float, float],
    n50: tuple[float, float],
    g_value: float,
) -> BuiltPreset:
    spans = [Span(low, round((low + high) / 2, 3), high) for low, high in (wall, roof, floor, window, door, n50)]
    return BuiltPreset(
        label=label,
        wall=spans[0],
        roof=spans[1],
        floor=spans[2],
        window=spans[3],
        door=spans[4],
        n50_1_h=spans[5],
        g_value=g_value,
    )


BUILT: dict[Built, BuiltPreset] = {
    "before_1920": _preset(
        "before 1920, solid masonry", (1.5, 2.1), (1.5, 2.3), (0.7, 1.2), (4.8, 5.8), (3.0, 4.0), (8, 15), 0.85
    ),
    "1920_1949": _preset(
        "1920 to 1949, empty cavity", (1.3, 1.7), (1.0, 2.3), (0.7, 1.0), (4.5, 5.0), (2.8, 3.8), (8, 12), 0.85
    ),
    "1950_1977": _preset("1950 to 1977", (1.0, 1.6), (0.6, 1.5), (0.7, 1.0), (2.8, 3.2), (2.5, 3.5), (6, 10), 0.75),
    "1978_1994": _preset("1978 to 1994", (0.5, 0.8), (0.3, 0.5), (0.45, 0.7), (2.6, 3.0), (2.0, 3.0), (5, 8), 0.75),
    "1995_2006": _preset("1995 to 2006", (0.3, 0.5), (0.2, 0.3), (0.25, 0.45), (1.4, 2.0), (1.5, 2.5), (3, 6), 0.6),
    "2007_2015": _preset("2007 to 2015", (0.2, 0.3), (0.15, 0.2), (0.18, 0.28), (1.1, 1.5), (1.2, 2.0), (1.5, 4), 0.6),
    "2016_on": _preset("2016 and later", (0.13, 0.22), (0.1, 0.15), (0.12, 0.2), (0.8, 1.2), (0.8, 1.4), (0.6, 3), 0.5),
    "very_low_energy": _preset(
        "very low energy", (0.1, 0.15), (0.08, 0.12), (0.1, 0.15), (0.6, 0.8), (0.6, 1.0), (0.2, 0.6), 0.5
    ),
}
INNER_WALL = Span(1.5, 1.75, 2.0)
INNER_FLOOR = Span(0.8, 1.4, 2.0)
MASS_LABEL: dict[MassClass, str] = {
    "very_light": "very light (tent, caravan)",
    "light": "light (timber, plasterboard)",
    "medium": "medium (mixed)",
    "heavy": "heavy (brick, concrete floors)",
    "very_heavy": "very heavy (thick masonry all round)",
}
CONVECTIVE: dict[HeaterKind, float] = {
    "electric_panel": 0.7,
    "radiator": 0.65,
    "warm_floor": 0.45,
    "fan_unit": 1.0,
    "split_unit": 1.0,
}
# First guesses of how late a heater gives its heat [s]; a log overrides them.
LAG_S: dict[HeaterKind, float] = {
    "electric_panel": 300.0,
    "radiator": 900.0,
    "warm_floor": 5400.0,
    "fan_unit": 120.0,
    "split_unit": 120.0,
}
HEATER_LABEL: dict[HeaterKind, str] = {
    "electric_panel": "electric panel heater",
    "radiator": "radiator",
    "warm_floor": "underfloor heating",
    "fan_unit": "fan unit",
    "split_unit": "split unit",
}


@dataclass(frozen=True, slots=True)
class UsePreset:
    """What a room's use asks for: temperature on the coldest day [°C] and least air change [1/h].

    ``empty_after_s`` is how long after the last motion it is empty [s]; None where people keep still for hours, so that
    motion never says that nobody is there (docs/methods N3).
    """

    label: str
    design_c: float
    least_air_1_h: float
    empty_after_s: int | None = None


USE: dict[RoomUse, UsePreset] = {
    "living": UsePreset("living", 20.0, 0.5, 1800),
    "sleeping": UsePreset("sleeping", 20.0, 0.5),
    "kitchen": UsePreset("kitchen", 20.0, 0.5, 600),
    "bath": UsePreset("bath", 24.0, 0.5, 300),
    "hall": UsePreset("hall", 16.0, 0.3, 300),
    "office": UsePreset("office", 20.0, 1.0),
    "workshop": UsePreset("workshop", 15.0, 0.5, 1800),
    "store": UsePreset("store", 10.0, 0.3, 300),
}
CONDITION_LABEL = {
    "heated": "heated",
    "unheated": "not heated",
    "outdoors": "outdoors",
    "neighbour": "neighbouring property",
}
NEIGHBOUR_C = 18.0
WINDOW_SHARE = 0.2  # of each outside wall of a room that is described, not drawn
# e of docs/methods A4 by shelter: no, one, more façades.
SHIELD: dict[str, tuple[float, float, float]] = {
    "none": (0.0, 0.03, 0.05),
    "some": (0.0, 0.02, 0.03),
    "heavy": (0.0, 0.01, 0.02),
}
# b of an unheated room by how many of its sides face outdoors (docs/methods A3).
UNHEATED_SHARE = (0.3, 0.4, 0.5, 0.8, 0.8)

FIRST_LEVELS = (
    Level(id="in-use", name="In use", heating_c=20.0),
    Level(id="asleep", name="Asleep", heating_c=17.0, is_saving=True),
    Level(id="out", name="Out", heating_c=17.0, is_saving=True),
    Level(id="idle", name="Idle", heating_c=14.0, is_saving=True),
)
FIRST_DAY = (ChangePoint(start_min=420, level_id="in-use"), ChangePoint(start_min=1350, level_id="asleep"))
FIRST_KINDS = (
    DayKind(id="workday", name="Workday", weekdays=(0, 1, 2, 3, 4)),
    DayKind(id="day-off", name="Day off", weekdays=(5, 6)),
)

TELLS_LABEL: dict[Asking, str] = {
    "finished": "has finished",
    "started": "has started",
    "idle": "is idle",
    "left_on": "was left on",
    "ran_today": "has run today",
}
MACHINE_LABEL: dict[MachineKind, str] = {
    "washer": "washing machine",
    "condenser_dryer": "condenser dryer",
    "heat_pump_dryer": "heat-pump dryer",
    "dishwasher": "dishwasher",
    "fridge": "refrigerator",
    "freezer": "freezer",
    "kettle": "kettle",
    "tub": "hot tub",
    "dehumidifier": "dehumidifier",
    "water_heater": "water heater",
    "pump": "pump",
    "computer": "computer, always on",
    "other": "other",
}
RULE_LABEL: dict[RuleKind, str] = {"safety": "safety", "window_lock": "window lock", "rule": "rule"}
LOUDNESS_LABEL: dict[Loudness, str] = {"quiet": "quietly", "aloud": "aloud", "alarm": "as an alarm"}
COUNT_RULE_LABEL: dict[CountRule, str] = {
    "one": "one",
    "mean": "mean of",
    "weighted": "weighted mean of",
    "occupied": "those in used rooms of",
    "coldest": "coldest of",
    "warmest": "warmest of",
}
