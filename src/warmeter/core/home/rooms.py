"""Rooms of a home: drawn or described, their openings, and things that stand in them."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import Rect, Side
from warmeter.core.home.part import Document, Id, Name, SetpointC, Spot, Text, Unit
from warmeter.core.thermal.survey import MassClass

Built = Literal[
    "before_1920", "1920_1949", "1950_1977", "1978_1994", "1995_2006", "2007_2015", "2016_on", "very_low_energy"
]
RoomUse = Literal["living", "sleeping", "kitchen", "bath", "hall", "office", "workshop", "store"]
Condition = Literal["heated", "unheated", "neighbour", "outdoors"]
OpeningKind = Literal["window", "door"]
BlindPlace = Literal["none", "inside", "between", "outside"]
ThingKind = Literal["furniture", "curtain", "lamp", "water_pipe", "pump", "stairs", "heat_maker"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Storey(Document):
    """A floor of the home; ``level`` orders them from below, 0 the ground floor."""

    id: Id
    name: Name
    level: Annotated[int, Ge(-9), Le(99)]
    height_m: Annotated[float, Ge(1), Le(20)] = 2.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Described(Document):
    """A room in words, used until it is drawn: outside walls are counted, roof and ground ticked.

    ``width_m`` and ``depth_m`` are its sides, where they were measured.
    """

    floor_area_m2: Annotated[float, Gt(0), Le(2000)]
    outside_walls: Annotated[int, Ge(0), Le(4)] = 2
    has_roof: bool = False
    has_ground_floor: bool = False
    width_m: Annotated[float, Gt(0), Le(100)] | None = None
    depth_m: Annotated[float, Gt(0), Le(100)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Overrule(Document):
    """A figure typed over what was worked out, kept apart so that it can be handed back.

    ``figure`` is its key: ``area_m2``, ``wall_up_m2``, ``roof_m2``, ``u_wall``, ``touch_<room>`` and so on.
    """

    figure: Annotated[str, Len(1, 40)]
    value: Annotated[float, Ge(-60), Le(100_000)]
    reason: Text = ""
    on: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Room(Document):
    """A room: drawn as rectangles on a storey, or described in words.

    ``height_m`` is its inside height; ``design_c`` what it should have on the coldest day, ``idle_s`` how long after its sensors' off it is empty [s]
    (by use if None). Only what
    is heated has a zone. What is outdoors (a garden, a terrace) bounds no room: walls towards it are outside walls.
    """

    id: Id
    name: Name
    height_m: Annotated[float, Ge(1), Le(20)]
    built: Built
    mass_class: MassClass
    use: RoomUse = "living"
    condition: Condition = "heated"
    storey_id: Id | None = None
    rects: Annotated[tuple[Rect, ...], Len(0, 12)] = ()
    described: Described | None = None
    design_c: SetpointC | None = None
    idle_s: Annotated[int, Ge(0), Le(86_400), Unit("s")] | None = None
    overrules: tuple[Overrule, ...] = ()

    def __post_init__(self) -> None:
        if not self.rects and self.described is None:
            raise HomeError(f"the room {self.name!r} is neither drawn nor described")
        if self.rects and self.storey_id is None:
            raise HomeError(f"the room {self.name!r} is drawn, but on no storey")
        keys = [o.figure for o in self.overrules]
        if len(set(keys)) != len(keys):
            raise HomeError(f"a figure of {self.name!r} is entered by hand twice")

    @property
    def is_drawn(self) -> bool:
        """Whether it stands on the plan."""
        return bool(self.rects)

    def overruled(self, figure: str) -> float | None:
        """Return what was typed over a figure, if anything."""
        return next((o.value for o in self.overrules if o.figure == figure), None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening(Document):
    """A window or door in a room's wall.

    ``along_m`` is the distance of its middle from the left or upper end of the room's drawing, along the
    wall that faces ``side``. ``g_value``, ``frame_share`` and ``shade`` are ratios; ``overhang_m`` its depth.
    ``blind`` is where its blind hangs, ``blind_lets`` the share of the sun that comes through it when it is wholly down
    (as usual there if None), ``blind_motor_id`` what moves it (a hand if None).
    """

    id: Id
    room_id: Id
    kind: OpeningKind
    side: Side
    along_m: Annotated[float, Ge(-100), Le(100)]
    width_m: Annotated[float, Gt(0), Le(30)]
    height_m: Annotated[float, Gt(0), Le(20)]
    sill_m: Annotated[float, Ge(0), Le(20)] = 0.9
    u_w_m2k: Annotated[float, Ge(0.02), Le(10)] | None = None
    g_value: Annotated[float, Ge(0), Le(1)] | None = None
    frame_share: Annotated[float, Ge(0), Le(0.9)] = 0.25
    shade: Annotated[float, Ge(0), Le(1)] = 1.0
    overhang_m: Annotated[float, Ge(0), Le(20)] = 0.0
    overhang_gap_m: Annotated[float, Ge(0), Le(20)] = 0.0
    blind: BlindPlace = "none"
    blind_lets: Annotated[float, Ge(0), Le(1)] | None = None
    blind_motor_id: Id | None = None

    @property
    def area_m2(self) -> float:
        """Area with its frame [m2]."""
        return self.width_m * self.height_m


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing(Document):
    """What stands or runs in a room and matters: furniture, curtains, lamps, pipes that could freeze."""

    id: Id
    room_id: Id
    name: Name
    kind: ThingKind
    at: Spot
    width_m: Annotated[float, Gt(0), Le(30)] = 1.0
    depth_m: Annotated[float, Gt(0), Le(30)] = 0.5
