"""A small drawn home whose figures can be worked out on paper."""

from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Design, Home, Place
from warmeter.core.home.part import Spot
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Opening, Room, Storey
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import CountedSensor, GuardLimits, Level, Sensing, Zone

EAST_M2 = 3.0 * 2.5


def room(key: str, x: float, width: float, **more: object) -> Room:
    """Return a room 3 m deep, with U-values that fit on paper: walls 0.5, windows 2, roof 0.25, floor 0.3."""
    values: dict[str, object] = {
        "id": key,
        "name": key.capitalize(),
        "height_m": 2.5,
        "built": "1978_1994",
        "mass_class": "medium",
        "storey_id": "ground",
        "rects": (Rect(x_m=x, y_m=0.0, width_m=width, depth_m=3.0),),
        "design_c": 20.0,
    }
    return Room(**(values | more))  # type: ignore[arg-type]


def drawn_home(**more: object) -> Home:
    """Return two rooms side by side on one floor: the den, 4 × 3 m with a window north, at the plan's lower edge, and the study, 5 × 3 m."""
    level = Level(id="in-use", name="In use", heating_c=20.0)
    rooms = (room("den", 0.0, 4.0), room("study", 4.0, 5.0, design_c=18.0))
    values: dict[str, object] = {
        "id": "drawn",
        "name": "Drawn House",
        "place": Place(latitude_deg=52.0, longitude_deg=0.0),
        "time_zone": "Europe/London",
        "country": "GB",
        "currency": "GBP",
        "guard": GuardLimits(low_c=10.0, high_c=30.0),
        "design": Design(outdoor_c=-5.0, annual_mean_c=10.0, bridge_w_m2k=0.1, north_deg=180.0),
        "storeys": (Storey(id="ground", name="Ground floor", level=0),),
        "rooms": rooms,
        "openings": (
            Opening(id="win", room_id="den", kind="window", side="down", along_m=2.0, width_m=1.5, height_m=1.2),
        ),
        "sources": (Source(id="boiler", name="Boiler", kind="boiler", flow_c=60.0, spread_k=10.0),),
        "heaters": tuple(
            Heater(
                id=f"rad-{r.id}",
                room_id=r.id,
                name=f"{r.name} radiator",
                kind="radiator",
                source_id="boiler",
                rated_heat_w=2500.0,
                at=Spot(x_m=2.0, y_m=0.15, z_m=0.2),
            )
            for r in rooms
        ),
        "devices": (
            Device(
                id="air-den", name="Den sensor", kind="air_sensor", room_id="den", at=Spot(x_m=3.9, y_m=1.2, z_m=1.4)
            ),
            Device(
                id="air-study",
                name="Study sensor",
                kind="air_sensor",
                room_id="study",
                at=Spot(x_m=0.1, y_m=2.0, z_m=1.4),
            ),
        ),
        "levels": (level,),
        "zones": tuple(
            Zone(
                id=f"z-{r.id}",
                name=r.name,
                room_ids=(r.id,),
                timetables=every_day(f"z-{r.id}-t", ChangePoint(start_min=0, level_id="in-use")),
                sensing=(Sensing(rule="one", sensors=(CountedSensor(device_id=f"air-{r.id}"),)),),
            )
            for r in rooms
        ),
    }
    return Home(**(values | more))  # type: ignore[arg-type]
