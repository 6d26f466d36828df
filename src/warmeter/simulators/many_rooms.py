"""A made-up house of sixty rooms on five floors, for speed and for hard input: names in many scripts."""

from warmeter.core.floor_plan.shape import Rect, Side
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home, Place
from warmeter.core.home.part import Spot
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Opening, Room, Storey
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import CountedSensor, Level, Sensing, Zone

STOREYS, ACROSS, DOWN = 5, 4, 3
WIDTH_M, DEPTH_M, HEIGHT_M = 4.0, 3.5, 2.6
NAMES = (
    "Salón",
    "Küche",
    "部屋",
    "Кухня",
    "غرفة",
    "<b>Den</b>",
    "Σοφίτα",
    "छत",
    "Bad & Brause",
    "Łazienka",
    "객실",
    "Åre",
)


def many_rooms(storeys: int = STOREYS) -> Home:
    """Return the house: per storey twelve rooms in a grid, each with a window if outside, a radiator, a sensor."""
    places = [(s, k, f"{s}-{k}") for s in range(storeys) for k in range(ACROSS * DOWN)]
    return Home(
        id="many-rooms",
        name="Sixty rooms",
        place=Place(latitude_deg=48.0, longitude_deg=11.0),
        time_zone="Europe/Berlin",
        country="DE",
        currency="EUR",
        storeys=tuple(Storey(id=f"s-{s}", name=f"Storey {s}", level=s, height_m=HEIGHT_M) for s in range(storeys)),
        rooms=tuple(_room(*place) for place in places),
        openings=tuple(_window(k, key) for _, k, key in places if k // ACROSS != 1),
        sources=(Source(id="b", name="Boiler", kind="boiler", flow_c=60.0, spread_k=10.0),),
        heaters=tuple(_radiator(k, key) for _, k, key in places),
        devices=tuple(_sensor(k, key) for _, k, key in places),
        levels=(Level(id="l", name="In use", heating_c=20.0),),
        zones=tuple(_zone(key) for _, _, key in places),
    )


def _room(storey: int, k: int, key: str) -> Room:
    x, y = k % ACROSS * WIDTH_M, k // ACROSS * DEPTH_M
    return Room(
        id=f"r-{key}",
        name=f"{NAMES[k]} {storey}",
        height_m=HEIGHT_M,
        built="1978_1994",
        mass_class="heavy",
        storey_id=f"s-{storey}",
        rects=(Rect(x_m=x, y_m=y, width_m=WIDTH_M, depth_m=DEPTH_M),),
    )


def _window(k: int, key: str) -> Opening:
    side: Side = "up" if k // ACROSS == 0 else "down"
    return Opening(
        id=f"o-{key}", room_id=f"r-{key}", kind="window", side=side, along_m=WIDTH_M / 2, width_m=1.4, height_m=1.3
    )


def _radiator(k: int, key: str) -> Heater:
    return Heater(
        id=f"h-{key}",
        room_id=f"r-{key}",
        name=f"Radiator {key}",
        kind="radiator",
        source_id="b",
        rated_heat_w=2500.0,
        at=Spot(x_m=WIDTH_M / 2, y_m=0.2 if k // ACROSS != 2 else DEPTH_M - 0.2, z_m=0.2),
    )


def _sensor(k: int, key: str) -> Device:
    return Device(
        id=f"d-{key}",
        name=f"Sensor {key}",
        kind="air_sensor",
        room_id=f"r-{key}",
        at=Spot(x_m=0.1 if k % ACROSS else WIDTH_M - 0.1, y_m=1.8, z_m=1.4),
        quantities=("room_temperature",),
    )


def _zone(key: str) -> Zone:
    return Zone(
        id=f"z-{key}",
        name=f"Zone {key}",
        room_ids=(f"r-{key}",),
        timetables=every_day(f"z-{key}-t", ChangePoint(start_min=0, level_id="l")),
        sensing=(Sensing(rule="one", sensors=(CountedSensor(device_id=f"d-{key}"),)),),
    )
