"""The picture of a storey's ducts: vents with their air, dampers by their notches, a trunk thicker where more air goes."""

from dataclasses import dataclass

from warmeter.core.building.geometry import on_plan
from warmeter.core.floor_plan.shape import bounds
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.home.part import Spot
from warmeter.web import format as show
from warmeter.web.ducts.view import air_text
from warmeter.web.floor_plan.draw import FloorPlanPicture, draw_storey

WIDTH, HEIGHT, LOW_HEIGHT = 600, 340, 250
THICKEST_PX, THINNEST_PX, DEGREES_A_NOTCH = 6.0, 1.2, 4
BELOW_PX = 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class VentMark:
    """A vent on the picture [px]: its branch's thickness, its damper's turn [°], and its words."""

    id: str
    title: str
    x: float
    y: float
    trunk_y: float
    damper_y: float
    width: float
    turn: int
    notch: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomAirLabel:
    """A room's name, air and temperature [px]."""

    name: str
    share: str
    warmth: str
    x: float
    y: float
    leads: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctPicture:
    """A storey's ducts over its rooms."""

    name: str
    plan: FloorPlanPicture
    vents: tuple[VentMark, ...]
    trunk: str
    rooms: tuple[RoomAirLabel, ...]


def duct_pictures(
    home: Home, system: DuctSystem, flows: dict[str, float], room_c: dict[str, float]
) -> list[DuctPicture]:
    """Return the picture of each storey that has vents."""
    pictures = []
    for storey in sorted(home.storeys, key=lambda each: -each.level):
        rooms = {r.id: r for r in home.rooms if r.storey_id == storey.id and r.rects}
        if any(vent.room_id in rooms for vent in system.vents):
            pictures.append(_picture(home, system, storey.id, storey.name, flows, room_c))
    return pictures


def _picture(
    home: Home, system: DuctSystem, storey_id: str, name: str, flows: dict[str, float], room_c: dict[str, float]
) -> DuctPicture:
    heated = {room.id for room in home.rooms if room.condition == "heated"}
    plan = draw_storey(
        home,
        storey_id,
        width=WIDTH,
        height=HEIGHT if len(home.storeys) < 2 else LOW_HEIGHT,
        kinds=frozenset(),
        room_ids=heated,
        picture_id=f"ducts-{storey_id}",
    )
    rooms = {r.id: r for r in home.rooms if r.storey_id == storey_id and r.id in heated and r.rects}
    total = sum(flows.values()) or 1.0

    def px(x_m: float, y_m: float) -> tuple[float, float]:
        return round((x_m - plan.left_m) * plan.scale, 1), round((y_m - plan.top_m) * plan.scale, 1)

    placed = []
    beside: dict[str, int] = {}
    for vent in system.vents:
        room = rooms.get(vent.room_id)
        if room is None:
            continue
        box = bounds(room.rects)
        count = sum(v.room_id == room.id for v in system.vents)
        seat = beside[room.id] = beside.get(room.id, 0) + 1
        spot = vent.at or Spot(x_m=box.width_m * seat / (count + 1), y_m=box.depth_m * 0.62)
        placed.append((vent, *px(*on_plan(room, spot))))
    rows = sorted(y for _, _, y in placed)
    # The trunk runs where the branches to it are shortest together, clear of the vents themselves.
    trunk_y = round(rows[len(rows) // 2] + BELOW_PX, 1) if rows else 0.0
    if rows and rows[-1] - rows[0] > 4 * BELOW_PX:
        trunk_y = round((rows[0] + rows[-1]) / 2, 1)
    marks = tuple(
        VentMark(
            id=vent.id,
            title=vent.name,
            x=x,
            y=y,
            trunk_y=trunk_y,
            damper_y=round((y + trunk_y) / 2 + 2, 1),
            width=round(max(THINNEST_PX, THICKEST_PX * flows[vent.id] / total * 2), 1),
            turn=DEGREES_A_NOTCH * vent.notch,
            notch=f"{vent.notch}" if vent.notch else "",
            label=air_text(home, flows[vent.id]),
        )
        for vent, x, y in placed
    )
    xs = [mark.x for mark in marks]
    return DuctPicture(
        name=name,
        plan=plan,
        vents=marks,
        trunk=f"M{min(xs)} {trunk_y}H{max(xs)}" if xs else "",
        rooms=tuple(
            _label(home, system, key, px(bounds(room.rects).x_m, bounds(room.rects).y_m), flows, room_c)
            for key, room in rooms.items()
        ),
    )


def _label(
    home: Home,
    system: DuctSystem,
    room_id: str,
    corner: tuple[float, float],
    flows: dict[str, float],
    room_c: dict[str, float],
) -> RoomAirLabel:
    own = [flows[vent.id] for vent in system.vents if vent.room_id == room_id]
    at = f"{show.temperature(room_c[room_id], home)} {show.temperature_unit(home)}" if room_id in room_c else ""
    share = f"{100 * sum(own) / (sum(flows.values()) or 1.0):.0f} %" if own else "no vent"
    return RoomAirLabel(
        name=home.room(room_id).name,
        share=share,
        warmth=at,
        x=corner[0] + 8,
        y=corner[1] + 17,
        leads=room_id == system.thermostat_room_id,
    )
