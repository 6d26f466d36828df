"""A room's envelope from drawing or description, presets and what was typed over either."""

from collections import deque
from dataclasses import dataclass
from math import sqrt

from warmeter.core.figure import Origin
from warmeter.core.floor_plan.shape import SIDES, bounds
from warmeter.core.floor_plan.walls import DrawnRoom, RoomDrawing, Wall, bearing_deg, compass, plan_of
from warmeter.core.home.document import Home
from warmeter.core.home.presets import (
    BUILT,
    INNER_FLOOR,
    INNER_WALL,
    NEIGHBOUR_C,
    SHIELD,
    UNHEATED_SHARE,
    USE,
    WINDOW_SHARE,
    Span,
)
from warmeter.core.home.rooms import Opening, Room, Storey
from warmeter.core.thermal.envelope import effective_air_change_1_h, infiltration_1_h
from warmeter.core.thermal.survey import Element

TYPED_DOUBT = 0.1  # a typed U-value is right within a tenth
AIR_DOUBT = 0.4


@dataclass(frozen=True, slots=True, kw_only=True)
class DerivedFigure:
    """A figure that the drawing gives; ``typed`` overrules ``worked_out`` where it is not None."""

    key: str
    label: str
    unit: str
    worked_out: float
    typed: float | None
    decimals: int = 1

    @property
    def value(self) -> float:
        """What counts."""
        return self.worked_out if self.typed is None else self.typed


@dataclass(frozen=True, slots=True, kw_only=True)
class EnvelopePart:
    """One element of a room with its doubt.

    ``element`` is as the design load takes it; ``low`` and ``high`` the ends of its U-value [W/(m2 K)];
    ``group`` the U-value that it shares with others; ``beyond_id`` the room behind it, empty for outdoors.
    """

    element: Element
    low: float
    high: float
    group: str
    origin: Origin
    beyond_id: str = ""
    is_glass: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomEnvelope:
    """All that loses heat in a room: area [m2], volume [m3], parts, air change [1/h] with its doubt."""

    floor_area_m2: float
    volume_m3: float
    parts: tuple[EnvelopePart, ...]
    air_change: Span
    air_origin: Origin
    figures: tuple[DerivedFigure, ...]


class _Sheet:
    """The figures of one room as they are worked out, each with what was typed over it."""

    def __init__(self, room: Room) -> None:
        self._room = room
        self.figures: list[DerivedFigure] = []

    def __call__(self, key: str, label: str, unit: str, value: float, decimals: int = 1) -> float:
        """Enter a figure and return what counts."""
        typed = self._room.overruled(key)
        one = DerivedFigure(key=key, label=label, unit=unit, worked_out=value, typed=typed, decimals=decimals)
        self.figures.append(one)
        return one.value


_PLANS: deque[tuple[tuple[Room, ...], tuple[Storey, ...], dict[str, RoomDrawing]]] = deque(maxlen=8)


def home_plan(home: Home) -> dict[str, RoomDrawing]:
    """Return what the drawing says of each drawn room.

    Homes do not change, so the last few answers are kept by the identity of their rooms and storeys.
    """
    for rooms, storeys, known in tuple(_PLANS):
        if rooms is home.rooms and storeys is home.storeys:
            return known
    found = _home_plan(home)
    _PLANS.appendleft((home.rooms, home.storeys, found))
    return found


def _home_plan(home: Home) -> dict[str, RoomDrawing]:
    rank = {s.id: k for k, s in enumerate(sorted(home.storeys, key=lambda s: (s.level, s.id)))}
    inside: list[DrawnRoom] = []
    outdoors: list[DrawnRoom] = []
    for room in home.rooms:
        if room.is_drawn and room.storey_id is not None:
            drawn = DrawnRoom(room.id, rank[room.storey_id], room.rects)
            (outdoors if room.condition == "outdoors" else inside).append(drawn)
    found = plan_of(tuple(inside))
    for place in outdoors:
        found |= plan_of((place,))
    return found


def wall_of(home: Home, opening: Opening) -> tuple[Wall | None, bool]:
    """Return the wall that an opening lies in, and whether it fits between that wall's ends."""
    room, drawing = home.room(opening.room_id), home_plan(home).get(opening.room_id)
    if drawing is None:
        return None, False
    box = bounds(room.rects)
    middle = opening.along_m + (box.x_m if opening.side in ("up", "down") else box.y_m)
    half = opening.width_m / 2
    found = [
        w
        for w in drawing.walls
        if w.side == opening.side and w.stretch.start_m - 1e-6 <= middle <= w.stretch.end_m + 1e-6
    ]
    if not found:
        return None, False
    outermost = max if opening.side in ("right", "down") else min
    wall = outermost(found, key=lambda w: w.stretch.at_m)
    fits = middle - half >= wall.stretch.start_m - 1e-6 and middle + half <= wall.stretch.end_m + 1e-6
    return wall, fits


def design_c(room: Room) -> float:
    """Return what a room should have on the coldest day: typed, else by its use [°C]."""
    if room.design_c is not None:
        return room.design_c
    return NEIGHBOUR_C if room.condition == "neighbour" else USE[room.use].design_c


def floor_area_m2(home: Home, room: Room) -> float:
    """Return a room's floor area: typed, drawn or described [m2]."""
    typed = room.overruled("area_m2")
    if typed is not None and typed > 0:
        return typed
    if room.is_drawn:
        return home_plan(home)[room.id].area_m2
    return room.described.floor_area_m2 if room.described is not None else 0.0


def envelope_of(home: Home, room: Room) -> RoomEnvelope:
    """Return a room's envelope."""
    derived = _Sheet(room)
    drawing = home_plan(home).get(room.id) if room.is_drawn else None
    drawn_area = drawing.area_m2 if drawing else room.described.floor_area_m2 if room.described else 0.0
    area = derived("area_m2", "floor area", "m²", drawn_area)
    parts: list[EnvelopePart] = []
    if drawing is not None:
        facades = drawing.facades
        parts += _drawn_walls(home, room, drawing, derived)
        parts += _drawn_floors(home, room, drawing, derived)
    else:
        facades = room.described.outside_walls if room.described else 0
        parts += _described(home, room, area, derived)
    air, air_origin = _air(home, room, facades, derived)
    return RoomEnvelope(
        floor_area_m2=area,
        volume_m3=area * room.height_m,
        parts=tuple(p for p in parts if p.element.area_m2 > 0),
        air_change=air,
        air_origin=air_origin,
        figures=tuple(derived.figures),
    )


def _u(room: Room, group: str, span: Span, derived: "_Sheet", label: str) -> tuple[Span, Origin]:
    """Return a U-value with its ends: typed within a tenth, else the preset's."""
    if room.overruled(f"u_{group}") is None:
        derived(f"u_{group}", label, "W/(m² K)", span.usual, 2)
        return span, "assumed"
    value = derived(f"u_{group}", label, "W/(m² K)", span.usual, 2)
    return Span(value * (1 - TYPED_DOUBT), value, value * (1 + TYPED_DOUBT)), "typed"


def _part(  # one call a kind of element: the arguments are the element
    name: str, area: float, u: Span, group: str, origin: Origin, **rest: object
) -> EnvelopePart:
    to = rest.pop("to", "outside")
    factor, beyond_c = rest.pop("factor", 1.0), rest.pop("beyond_c", None)
    element = Element(name=name, area_m2=area, u_w_m2k=u.usual, to=to, factor=factor, beyond_c=beyond_c)  # type: ignore[arg-type]
    return EnvelopePart(element=element, low=u.low, high=u.high, group=group, origin=origin, **rest)  # type: ignore[arg-type]


def _drawn_walls(home: Home, room: Room, drawing: RoomDrawing, derived: "_Sheet") -> list[EnvelopePart]:
    preset = BUILT[room.built]
    wall_u, wall_origin = _u(room, "wall", preset.wall, derived, "U of outside walls")
    window_u, window_origin = _u(room, "window", preset.window, derived, "U of windows")
    parts, cut = [], dict.fromkeys(SIDES, 0.0)
    for opening in home.openings_of(room.id):
        wall, _ = wall_of(home, opening)
        if wall is None or wall.beyond:
            continue
        cut[opening.side] += opening.area_m2
        facing = compass(bearing_deg(opening.side, home.design.north_deg))
        usual, origin = (window_u, window_origin) if opening.kind == "window" else (preset.door, "assumed")
        if opening.u_w_m2k is not None:
            own = opening.u_w_m2k
            usual, origin = Span(own * (1 - TYPED_DOUBT), own, own * (1 + TYPED_DOUBT)), "typed"
        parts.append(_part(f"{opening.kind} {facing}", opening.area_m2, usual, opening.kind, origin, is_glass=True))
    for side in SIDES:
        length = drawing.outside_m(side)
        if length <= 0 and room.overruled(f"wall_{side}_m2") is None:
            continue
        facing = compass(bearing_deg(side, home.design.north_deg))
        gross = derived(f"wall_{side}_m2", f"outside wall {facing}, with openings", "m²", length * room.height_m)
        parts.append(_part(f"outside wall {facing}", max(0.0, gross - cut[side]), wall_u, "wall", wall_origin))
    inner = None
    for key, length in drawing.shared_m().items():
        other = home.room(key)
        if inner is None:
            inner = _u(room, "inner", INNER_WALL, derived, "U of inner walls")
        gross = derived(f"touch_{key}", f"wall to {other.name}", "m²", length * min(room.height_m, other.height_m))
        parts.append(_to_room(home, f"wall to {other.name}", gross, inner[0], "inner", inner[1], other))
    return parts


def _to_room(home: Home, name: str, area: float, u: Span, group: str, origin: Origin, other: Room) -> EnvelopePart:
    if other.condition == "unheated":
        typed = other.overruled("b_factor")
        facades = home_plan(home)[other.id].facades if other.is_drawn else 2
        share = UNHEATED_SHARE[facades] if typed is None else typed
        return _part(name, area, u, group, origin, to="unheated", factor=share, beyond_id=other.id)
    return _part(name, area, u, group, origin, to="adjacent", beyond_c=design_c(other), beyond_id=other.id)


def _drawn_floors(home: Home, room: Room, drawing: RoomDrawing, derived: "_Sheet") -> list[EnvelopePart]:
    preset, parts = BUILT[room.built], []
    for word, shared in (("above", drawing.above), ("below", drawing.below)):
        for key, area in shared:
            other = home.room(key)
            label = f"{'ceiling' if word == 'above' else 'floor'} to {other.name}"
            size = derived(f"{word}_{key}", label, "m²", area)
            parts.append(_to_room(home, label, size, INNER_FLOOR, "between", "assumed", other))
    if drawing.open_above_m2 or room.overruled("roof_m2") is not None:
        u, origin = _u(room, "roof", preset.roof, derived, "U of the roof")
        parts.append(_part("roof", derived("roof_m2", "roof", "m²", drawing.open_above_m2), u, "roof", origin))
    under = drawing.open_below_m2
    if under or room.overruled("ground_m2") is not None:
        u, origin = _u(room, "floor", preset.floor, derived, "U of the floor")
        if drawing.is_lowest:
            size = derived("ground_m2", "floor on the ground", "m²", under)
            parts.append(
                _part("floor on the ground", size, u, "floor", origin, to="ground", factor=home.design.ground_factor)
            )
        else:
            parts.append(
                _part(
                    "floor over open air", derived("ground_m2", "floor over open air", "m²", under), u, "floor", origin
                )
            )
    return parts


def _described(home: Home, room: Room, area: float, derived: "_Sheet") -> list[EnvelopePart]:
    """Return the parts of a room in words: taken as square, a fifth of its outside walls glass."""
    told, preset = room.described, BUILT[room.built]
    if told is None:
        return []
    wall_u, wall_origin = _u(room, "wall", preset.wall, derived, "U of outside walls")
    window_u, window_origin = _u(room, "window", preset.window, derived, "U of windows")
    gross = derived("walls_m2", "outside walls, with openings", "m²", sqrt(area) * room.height_m * told.outside_walls)
    parts = [
        _part("outside walls", (1 - WINDOW_SHARE) * gross, wall_u, "wall", wall_origin),
        _part("windows, a fifth assumed", WINDOW_SHARE * gross, window_u, "window", window_origin, is_glass=True),
    ]
    if told.has_roof or room.overruled("roof_m2") is not None:
        u, origin = _u(room, "roof", preset.roof, derived, "U of the roof")
        parts.append(_part("roof", derived("roof_m2", "roof", "m²", area), u, "roof", origin))
    if told.has_ground_floor or room.overruled("ground_m2") is not None:
        u, origin = _u(room, "floor", preset.floor, derived, "U of the floor")
        size = derived("ground_m2", "floor on the ground", "m²", area)
        parts.append(
            _part("floor on the ground", size, u, "floor", origin, to="ground", factor=home.design.ground_factor)
        )
    return parts


def _air(home: Home, room: Room, facades: int, derived: "_Sheet") -> tuple[Span, Origin]:
    """Return the air change that costs heat: leaks by pressure test and shelter, or the least by use."""
    n50, least = BUILT[room.built].n50_1_h, USE[room.use].least_air_1_h
    shield = SHIELD[home.design.shelter][min(facades, 2)]

    def change(at_50: float) -> float:
        return effective_air_change_1_h(infiltration_1_h(n50_1_h=at_50, shield=shield), least_1_h=least)

    value = derived("air_1_h", "air change", "1/h", change(n50.usual), 2)
    if room.overruled("air_1_h") is not None:
        return Span(value * (1 - 2 * TYPED_DOUBT), value, value * (1 + 2 * TYPED_DOUBT)), "typed"
    low, high = value * (1 - AIR_DOUBT), max(value * (1 + AIR_DOUBT), change(n50.high))
    return Span(low, value, high), "assumed"


def shared_w_k(home: Home, room: Room) -> dict[str, float]:
    """Return the conductance of the walls, floors and doors that a room shares with each other heated room [W/K]."""
    heated = {r.id for r in home.rooms if r.condition == "heated"}
    found: dict[str, float] = {}
    for part in envelope_of(home, room).parts:
        if part.element.to == "adjacent" and part.beyond_id in heated and part.beyond_id != room.id:
            found[part.beyond_id] = found.get(part.beyond_id, 0.0) + part.element.area_m2 * part.element.u_w_m2k
    return found
